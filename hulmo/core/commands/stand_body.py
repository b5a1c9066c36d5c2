"""Bodies set on the ground."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.bodies import placed_edit
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.project import Project

Vector = NDArray[np.float64]

SAMPLE = 20_000
"""Vertices that are let down at the most; of larger bodies an even share of them."""


class StandBody(Command, frozen=True, tag="stand_body"):
    """Let a body down, or lift it, until its lowest places meet the ground of another one.

    Attributes
    ----------
    body, on : str
        The body, and the one whose ground it is set on; straight down is that one's.
    lean : float
        Share, 0 to 1, of how far it is turned first from upright to the mean normal of the ground under it.
    sink : float
        Metres that it is let down further.
    """

    body: str
    on: str
    lean: float = 0.0
    sink: float = 0.0

    @property
    def moves_whole(self) -> bool:
        """See `Command.moves_whole`."""
        return True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "stand_body"
        body, on = project.body_named(self.body, where), project.body_named(self.on, where)
        if body is on:
            raise InvalidInput(f"{where}: a body cannot stand on itself; name another one")
        if not 0 <= self.lean <= 1 or not np.isfinite(self.sink) or abs(self.sink) > 1e6:
            raise InvalidInput(f"{where}: lean must lie between 0 and 1, and sink be some metres")
        position = body.vertices["position"][body.corners.first_corner >= 0]
        places = body.placed(position[:: max(1, position.shape[0] // SAMPLE)].astype(np.float64))
        middle = body.placed(body.bounds().centre)
        up = np.asarray(on.up(np.asarray(on.own(middle))[None])[0], np.float64)
        matrix = np.eye(3)
        if self.lean > 0:
            normal = _ground_under(on, places, up, where)[1].sum(axis=0)
            matrix = _between(up, normal, self.lean)
            places = (places - middle) @ matrix.T + middle
        gap, _ = _ground_under(on, places, up, where)
        move = -(float(gap.min()) + self.sink) * up
        return placed_edit(body, matrix, move, f"Set {body.name} on {on.name}")


def _ground_under(on: Body, places: Vector, up: Vector, where: str) -> tuple[Vector, Vector]:
    # how far over the uppermost ground each place lies that has any under or over it, and the normals there
    along = places @ up
    low, high = low_high(places)
    reach = float(np.linalg.norm(high - low)) + 2 * on.bounds().radius
    reach += float(np.linalg.norm(on.placed(on.bounds().centre) - places.mean(axis=0)))
    order = np.argsort(along)
    gaps, normals = [], []
    for i in order[: max(order.size // 2, min(order.size, 200))].tolist():  # the upper half never meets it first
        hit = on.ray(places[i] + reach * up, -up)
        if hit is not None:
            gaps.append(hit.distance - reach)
            normals.append(on.normal_at(hit))
    if not gaps:
        raise InvalidInput(f"{where}: there is no ground of {on.name!r} under it; move it over the ground first")
    return np.array(gaps), np.array(normals)


def _between(up: Vector, normal: Vector, share: float) -> Vector:
    # (3, 3) the turn by a share of the way from up to a normal (Rodrigues)
    unit = normal / max(float(np.linalg.norm(normal)), 1e-30)
    axis = np.cross(up, unit)
    size = float(np.linalg.norm(axis))
    if size < 1e-9:
        return np.eye(3)
    axis /= size
    angle = share * float(np.arctan2(size, up @ unit))
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * cross @ cross)
