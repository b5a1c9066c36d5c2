"""Where ground and rock meet: ground banked up around a foot, and a rock's rim drawn down through the ground."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.by_hand import moved_rows
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import FORM
from hulmo.core.mesh.sounding import BURIED, OVER, soundings
from hulmo.core.mesh.strewn import Strewn, frames
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.prop import WAYS
from hulmo.core.props.tray import tray_of

Places = NDArray[np.float64]


class BankUp(Command, frozen=True, tag="bank_up"):
    """Raise the ground around props or another body by a height, so that the rim of what stands there disappears.

    Attributes
    ----------
    body : str
        The ground.
    around : str
        A body that stands on it; empty: props.
    which : list of int
        Props by their places in the list of the body's props, from 0; empty: all.
    height : float
        Metres by which the ground rises at the foot; below 0 it is dug away.
    falloff : float
        Metres beyond the foot over which that fades.
    layer : str
        Relief layer that is worked on; empty: the form.
    """

    body: str
    around: str = ""
    which: tuple[int, ...] = ()
    height: float = 0.2
    falloff: float = 1.0
    layer: str = FORM

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "bank_up"
        body = project.unlocked_body(self.body, where)
        in_range(where, "height", self.height, -1000.0, 1000.0)
        in_range(where, "falloff", self.falloff, 1e-3, 1e4)
        place = body.vertices["position"].astype(np.float64)
        progress.step(0.1, "measuring how far it is to what stands there")
        if self.around:
            other = project.body_named(self.around, where)
            if other is body:
                raise InvalidInput(f"{where}: the ground cannot be banked up around itself; name another body")
            away = _from_body(body, other, place)
        else:
            away = self._from_props(project, body, place, where)
        rows = np.flatnonzero((away < self.falloff) & (body.corners.first_corner >= 0)).astype(np.int32)
        if not rows.size:
            raise InvalidInput(f"{where}: nothing stands within {self.falloff:g} m of {self.body!r}")
        t = np.clip(1.0 - away[rows] / self.falloff, 0.0, 1.0)
        share = t * t * (3.0 - 2.0 * t)
        step = body.up(place[rows]) * (self.height * share)[:, None]
        return moved_rows(body, rows, step, self.layer, f"Bank up {body.name}", where)

    def _from_props(self, project: Project, body: Body, place: Places, where: str) -> Places:
        # metres from the outlines of props, level; 0 inside
        strewn = body.strewn if body.strewn is not None else Strewn.none()
        chosen = np.array(sorted(set(self.which)), np.int64) if self.which else np.flatnonzero(strewn.there)
        if not chosen.size or chosen[0] < 0 or chosen[-1] >= strewn.count:
            raise InvalidInput(f"{where}: {self.body!r} has {strewn.count:,} props; name some of them")
        tray = tray_of(project.props, project.prop_meshes)
        some = strewn.taken(chosen)
        pivot, matrix = frames(body, some)
        out = np.full(place.shape[0], np.inf)
        for i, ident in enumerate(some.prop.tolist()):
            mesh = tray.meshes[ident]
            size = float(some.size[i])
            reach = mesh.radius * size + self.falloff
            near = np.flatnonzero(np.abs(place - pivot[i]).max(axis=1) < reach + mesh.reach * size)
            if not near.size:
                continue
            local = (place[near] - pivot[i]) @ matrix[i] / (size * size)  # of the prop's own size
            turn = np.arctan2(local[:, 2], local[:, 0]) % (2.0 * np.pi)
            at = turn / (2.0 * np.pi) * WAYS
            low = at.astype(np.int64) % WAYS
            part = at - np.floor(at)
            rim = mesh.outline[low] * (1.0 - part) + mesh.outline[(low + 1) % WAYS] * part
            level = np.maximum(np.hypot(local[:, 0], local[:, 2]) - rim, 0.0) * size
            out[near] = np.minimum(out[near], level)
        return out


class SinkRim(Command, frozen=True, tag="sink_rim"):
    """Draw the lower rim of a body down through the ground, and leave the rest of it as it is.

    Attributes
    ----------
    body : str
        The rock.
    into : str
        The ground.
    height : float
        Metres above the ground up to which the rock is drawn along.
    below : float
        Metres under the ground that its rim comes to lie.
    layer : str
        Relief layer that is worked on; empty: the form.
    """

    body: str
    into: str
    height: float = 0.5
    below: float = 0.2
    layer: str = FORM

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "sink_rim"
        body, ground = project.unlocked_body(self.body, where), project.body_named(self.into, where)
        if body is ground:
            raise InvalidInput(f"{where}: a body cannot sink into itself; name the ground")
        in_range(where, "height", self.height, 1e-3, 1e4)
        in_range(where, "below", self.below, 0.0, 1e4)
        place = body.vertices["position"].astype(np.float64)
        progress.step(0.1, "sounding the ground")
        up = ground.up(ground.own(body.placed(place)))
        state, depth = soundings(ground, ground.own(body.placed(place)), up)
        gap = np.where(state == OVER, depth, np.where(state == BURIED, 0.0, np.inf))
        rows = np.flatnonzero((gap < self.height) & (state == OVER) & (body.corners.first_corner >= 0)).astype(np.int32)
        if not rows.size:
            raise InvalidInput(
                f"{where}: no part of {self.body!r} stands less than {self.height:g} m above {self.into!r}"
            )
        t = np.clip(1.0 - gap[rows] / self.height, 0.0, 1.0)
        share = t * t * (3.0 - 2.0 * t)
        ways = np.broadcast_to(up, place.shape)[rows]
        step = -ways * (share * (gap[rows] + self.below))[:, None]
        return moved_rows(body, rows, step, self.layer, f"Sink the rim of {body.name}", where)


def in_range(where: str, name: str, value: float, low: float, high: float) -> None:
    """Refuse a number outside a range.

    Raises
    ------
    InvalidInput
    """
    if not low <= value <= high:
        raise InvalidInput(f"{where}: {name} is {value:g} m; it must lie between {low:g} and {high:g} m")


def _from_body(body: Body, other: Body, place: Places) -> Places:
    # metres to the surface of another body; 0 within it
    own = other.own(body.placed(place))
    triangle, weight = other.index.nearest_many(
        other.corners.vertex, other.vertices["position"], np.ascontiguousarray(own, np.float32)
    )
    corner = other.vertices["position"][other.corners.triangles[triangle]].astype(np.float64)
    away = np.linalg.norm(np.einsum("ki,kij->kj", weight.astype(np.float64), corner) - own, axis=1)
    near = np.flatnonzero(away < np.inf)
    state, _ = soundings(other, np.ascontiguousarray(own[near]), other.up(own[near]))
    away[near[state == BURIED]] = 0.0
    return np.asarray(away)
