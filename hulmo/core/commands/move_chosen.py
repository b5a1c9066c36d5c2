"""Moving, turning and scaling what is chosen."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import Mask, as_domain
from hulmo.core.by_hand.soft import FALLOFFS, soft_reach
from hulmo.core.commands.by_hand import chosen_of, moved_rows
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.layer import FORM
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.objects.scene_object import turn_matrix
from hulmo.core.progress import Progress
from hulmo.core.project import Project

Triple = tuple[float, float, float]
Axes = tuple[Triple, Triple, Triple]
Vector = NDArray[np.float64]
Rows = NDArray[np.int32]

ABOUT = ("middle", "place", "each")
FRAMES = ("world", "normal", "axes")
MIRRORS = {"none": (1.0, 1.0, 1.0), "x": (-1.0, 1.0, 1.0), "z": (1.0, 1.0, -1.0)}

TWIN = 0.05
"""Share of a usual edge within which a vertex counts as the mirror image of another one."""


class MoveChosen(Command, frozen=True, tag="move_chosen"):
    """Move, turn and scale what is chosen.

    Attributes
    ----------
    body : str
    domain : str
        vertex, edge or face: what of the body's choice is meant.
    move : [x, y, z]
        Metres.
    turn : [x, y, z]
        Degrees about X, then Y, then Z.
    scale : [x, y, z]
        Factors.
    about : str
        middle: of what is chosen. place: the point `at`. each: every part that hangs together about its own middle.
    at : [x, y, z]
        Metres.
    frame : str
        world; normal: Y is the mean normal of what is chosen, X level; axes: those given.
    axes : [[x, y, z], [x, y, z], [x, y, z]]
        Directions of X, Y and Z for the frame axes, each of length 1 and square to the others, as of a view.
    reach : float
        Metres from what is chosen at which nothing goes along any more; 0: only what is chosen moves.
    over : str
        surface or space: how the reach is measured.
    falloff : str
        smooth, dome, sharp or linear.
    layer : str
        Relief layer that is worked on; empty: the form.
    slide : bool
        Whether everything stays on the surface as it was, and only slides along it.
    onto : str
        Body whose nearest surface what is chosen is put on in the end; empty: none.
    mirror : str
        none; x: vertices that lie opposite about the plane x = 0 move likewise, the other way round; z: about z = 0.
    """

    body: str
    domain: str = "vertex"
    move: Triple = (0.0, 0.0, 0.0)
    turn: Triple = (0.0, 0.0, 0.0)
    scale: Triple = (1.0, 1.0, 1.0)
    about: str = "middle"
    at: Triple = (0.0, 0.0, 0.0)
    frame: str = "world"
    reach: float = 0.0
    over: str = "surface"
    falloff: str = "smooth"
    layer: str = FORM
    slide: bool = False
    onto: str = ""
    mirror: str = "none"
    axes: Axes = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "move_chosen"
        body, mask = chosen_of(project, self.body, self.domain, where)
        for name, value, known in (
            ("about", self.about, ABOUT), ("frame", self.frame, FRAMES), ("over", self.over, ("surface", "space")),
            ("falloff", self.falloff, FALLOFFS), ("mirror", self.mirror, tuple(MIRRORS)),
        ):  # fmt: skip
            if value not in known:
                raise InvalidInput(f"{where}: {name} is {shown(value)}; it must be one of {', '.join(known)}")
        numbers = (*self.move, *self.turn, *self.scale, *self.at, self.reach)
        if not np.isfinite(numbers).all() or max(map(abs, numbers)) > 1e7 or self.reach < 0:
            raise InvalidInput(f"{where}: give finite numbers, 10,000,000 at the most; reach is not below 0")
        vertices = as_domain(body, mask, self.domain, "vertex")
        rows, share = soft_reach(body, vertices, self.reach, self.over, self.falloff)
        place = np.take(body.vertices["position"], rows, axis=0).astype(np.float64)
        frame = self._frame(body, vertices, where)
        matrix = frame @ turn_matrix(self.turn) @ np.diag(self.scale) @ frame.T
        middle = self._middles(body, vertices, rows)
        step = (place - middle) @ matrix.T + middle - place + frame @ np.array(self.move)
        step *= share[:, None]
        if self.slide:
            step = _on_surface(body, place + step) - place
        if self.onto:
            other = project.body_named(self.onto, where)
            if other is body:
                raise InvalidInput(f"{where}: onto is the body itself; name another one, or let it slide")
            put = _on_surface(other, other.own(body.placed(place + step)))
            step += share[:, None] * (body.own(other.placed(put)) - place - step)
        if self.mirror != "none":
            rows, step = _mirrored(body, rows, step, np.array(MIRRORS[self.mirror]))
        words = {"move": self.move != (0, 0, 0), "turn": self.turn != (0, 0, 0), "scale": self.scale != (1, 1, 1)}
        label = " and ".join(word for word, there in words.items() if there) or "move"
        return moved_rows(body, rows, step, self.layer, f"{label.capitalize()} {body.name}", where)

    def _frame(self, body: Body, vertices: Mask, where: str) -> Vector:
        if self.frame == "world":
            return np.eye(3)
        if self.frame == "normal":
            return frame_of(body, vertices)
        axes = np.array(self.axes, np.float64).T
        if not np.isfinite(axes).all() or np.abs(axes.T @ axes - np.eye(3)).max() > 1e-3:
            raise InvalidInput(f"{where}: axes must be three directions of length 1, each square to the others")
        return axes

    def _middles(self, body: Body, vertices: Mask, rows: Rows) -> Vector:
        if self.about == "place":
            return np.asarray(body.own(np.array(self.at)))
        if self.about == "middle":
            there = np.flatnonzero(vertices)
            return middle_of(np.take(body.vertices["position"], there, axis=0).astype(np.float64))
        position = body.vertices["position"].astype(np.float64)
        triangles = body.corners.live_triangles()
        whole = vertices[triangles]
        pairs = [triangles[whole[:, i] & whole[:, j]][:, (i, j)] for i, j in ((0, 1), (1, 2), (2, 0))]
        joined = np.concatenate(pairs)
        _, label = hanging_together(joined[:, 0], joined[:, 1], position.shape[0])
        out = np.zeros((rows.size, 3))
        parts = label[rows]
        for part in np.unique(label[vertices]):
            out[parts == part] = middle_of(position[vertices & (label == part)])
        return out


def middle_of(position: Vector) -> Vector:
    """(3,) middle of the box around (K, 3) places."""
    return np.asarray(np.add(*low_high(position)) / 2)


def frame_of(body: Body, vertices: Mask) -> Vector:
    """(3, 3) columns: a level X, the mean normal as Y, and what is square to both."""
    up = body.vertices["normal"][vertices].astype(np.float64).sum(axis=0)
    length = float(np.linalg.norm(up))
    up = up / length if length > 1e-9 else np.array([0.0, 1.0, 0.0])
    side = np.cross(np.array([0.0, 1.0, 0.0]), up)
    side = side / np.linalg.norm(side) if np.linalg.norm(side) > 1e-6 else np.array([1.0, 0.0, 0.0])
    return np.stack((side, up, np.cross(side, up)), axis=1)


def _on_surface(body: Body, places: Vector) -> Vector:
    # the nearest places of a body, about its origin
    triangle, weight = body.index.nearest_many(
        body.corners.vertex, body.vertices["position"], np.ascontiguousarray(places, np.float32)
    )
    corner = body.vertices["position"][body.corners.triangles[triangle]].astype(np.float64)
    return np.asarray(np.einsum("ki,kij->kj", weight.astype(np.float64), corner))


def _mirrored(body: Body, rows: Rows, step: Vector, turn: Vector) -> tuple[Rows, Vector]:
    # rows and steps with those of the vertices opposite; what lies on the plane keeps to it
    place = body.placed(body.vertices["position"][rows].astype(np.float64))
    position, triangles = body.vertices["position"], body.corners.triangles
    image = np.asarray(body.own(place * turn), np.float64)
    triangle, weight = body.index.nearest_many(body.corners.vertex, position, np.ascontiguousarray(image, np.float32))
    twin = triangles[triangle, weight.argmax(axis=1)]
    near = np.linalg.norm(position[twin].astype(np.float64) - image, axis=1) <= TWIN * mean_edge(body)
    own = near & (twin == rows)
    step = step.copy()
    step[own] = (step[own] + step[own] * turn) / 2
    other = near & (twin != rows)
    every = np.concatenate((rows, twin[other]))
    steps = np.concatenate((step, step[other] * turn))
    out, first = np.unique(every, return_index=True)  # what is chosen itself comes first
    return out.astype(np.int32), steps[first]
