"""Texture coordinates in order: rows made straight, charts laid over each other."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import chosen
from hulmo.core.commands.by_hand import chosen_of
from hulmo.core.commands.command import Command
from hulmo.core.commands.laid_uv import faces_of, known_uv, laid_uv, opposite_of
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.uv.charts import charts_of, welded
from hulmo.core.uv.pack import even_density, signed_areas

Uv = NDArray[np.float64]

ALONG = ("nearest", "across", "down", "ends")


class StraightenUv(Command, frozen=True, tag="straighten_uv"):
    """Lay each row of chosen edges on a straight line in texture coordinates, its points as far apart as on the body.

    Attributes
    ----------
    body : str
    along : str
        across, down; nearest: the nearer of both; ends: from the first point to the last.
    into : str
        Name of the set; empty for the first.
    """

    body: str
    along: str = "nearest"
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "straighten_uv"
        if self.along not in ALONG:
            raise InvalidInput(f"{where}: along is {shown(self.along)}; it must be one of {', '.join(ALONG)}")
        project.unlocked_body(self.body, where)
        body, edges = chosen_of(project, self.body, "edge", where)
        slots = faces_of(body, "all", where)
        known = known_uv(body, self.into, where)[slots].astype(np.float64)
        chart = charts_of(known, opposite_of(body, slots))
        points, at = welded(known, chart)
        corners = at.astype(np.int64)
        face, corner = np.nonzero(edges[slots])
        a, b = corners[face, (corner + 1) % 3], corners[face, (corner + 2) % 3]
        place = body.vertices["position"].astype(np.float64)[body.corners.triangles[slots]]
        pairs = np.unique(np.sort(np.stack((a, b), axis=1), axis=1), axis=0)
        spot = np.zeros((points.shape[0], 3))
        spot[at.reshape(-1)] = place.reshape(-1, 3)
        done = 0
        for row in _rows(pairs, points.shape[0]):
            points[row] = _straight(points[row], spot[row], self.along)
            done += 1
        if not done:
            raise InvalidInput(
                f"{where}: the chosen edges make no row: each forks or is closed; choose a row with ends"
            )
        return laid_uv(body, slots, points[at], self.into, "Straighten UV", where)


class StackUv(Command, frozen=True, tag="stack_uv"):
    """Lay the charts in which faces are chosen over the largest of them, so that they share one piece of the image.

    Attributes
    ----------
    body : str
    even : bool
        Whether all of them get the same number of texels a metre first.
    into : str
        Name of the set; empty for the first.
    """

    body: str
    even: bool = True
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "stack_uv"
        body = project.unlocked_body(self.body, where)
        slots = faces_of(body, "all", where)
        uv = known_uv(body, self.into, where)[slots].astype(np.float64)
        chart = charts_of(uv, opposite_of(body, slots))
        faces_of(body, "chosen", where)
        wanted = np.unique(chart[chosen(body, "face")[slots]])
        if wanted.size < 2:
            raise InvalidInput(
                f"{where}: faces are chosen in one chart only; choose some in each that is to be stacked"
            )
        place = body.vertices["position"][body.corners.triangles[slots]].astype(np.float64)
        area = np.linalg.norm(np.cross(place[:, 1] - place[:, 0], place[:, 2] - place[:, 0]), axis=1) / 2
        first = wanted[int(np.bincount(chart, area)[wanted].argmax())]
        if self.even:
            even = even_density(uv, area, chart)
            here, there = even[chart == first], uv[chart == first]
            grown = np.ptp(there, axis=(0, 1)).max() / max(float(np.ptp(here, axis=(0, 1)).max()), 1e-12)
            uv = np.where(np.isin(chart, wanted)[:, None, None], even * grown, uv)
            uv[chart == first] = there
        low, high = _box(uv[chart == first])
        for number in wanted:
            begin, end = _box(uv[chart == number])
            uv[chart == number] += (low + high - begin - end) / 2
        return laid_uv(body, slots, uv, self.into, "Stack UV", where)


def _box(uv: Uv) -> tuple[Uv, Uv]:
    return uv.min(axis=(0, 1)), uv.max(axis=(0, 1))


def _rows(pairs: NDArray[np.int64], count: int) -> list[NDArray[np.int64]]:
    # points of each row in order; what forks or is closed is none
    used, local = np.unique(pairs, return_inverse=True)
    local = local.reshape(-1, 2)
    degree = np.bincount(local.reshape(-1), minlength=used.size)
    _, part = hanging_together(local[:, 0], local[:, 1], used.size)
    near: list[list[int]] = [[] for _ in range(used.size)]
    for a, b in local.tolist():
        near[a].append(b)
        near[b].append(a)
    out = []
    for number in np.unique(part):
        inside = part == number
        if degree[inside].max() > 2 or (degree[inside] == 1).sum() != 2:
            continue
        at, before = int(np.flatnonzero(inside & (degree == 1))[0]), -1
        row = [at]
        while True:
            onward = [node for node in near[at] if node != before]
            if not onward:
                break
            before, at = at, onward[0]
            row.append(at)
        out.append(used[row])
    return out


def _straight(points: Uv, spot: Uv, along: str) -> Uv:
    step = np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.diff(spot, axis=0), axis=1))))
    share = step / step[-1] if step[-1] > 0 else np.linspace(0.0, 1.0, step.size)
    first, last = points[0].copy(), points[-1].copy()
    reach = np.abs(points - points.mean(axis=0)).max(axis=0)
    if along == "nearest":
        along = "across" if reach[0] >= reach[1] else "down"
    if along != "ends":
        level = 1 if along == "across" else 0
        first[level] = last[level] = points[:, level].mean()
    return np.asarray(first + (last - first) * share[:, None])


class TurnBackUv(Command, frozen=True, tag="turn_back_uv"):
    """Mirror the charts that lie mirrored, each about its own middle.

    Attributes
    ----------
    body : str
    into : str
        Name of the set; empty for the first.
    """

    body: str
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "turn_back_uv"
        body = project.unlocked_body(self.body, where)
        slots = faces_of(body, "all", where)
        uv = known_uv(body, self.into, where)[slots].astype(np.float64)
        chart = charts_of(uv, opposite_of(body, slots))
        total = np.bincount(chart, signed_areas(uv))
        wrong = np.flatnonzero(total < 0)
        if not wrong.size:
            raise InvalidInput(
                f"{where}: no chart of {body.name!r} lies mirrored; relax or unwrap single faces that do"
            )
        for number in wrong:
            mine = chart == number
            low, high = _box(uv[mine])
            uv[mine, :, 0] = low[0] + high[0] - uv[mine, :, 0]
        return laid_uv(body, slots, uv, self.into, "Turn UV back", where)
