"""Texture coordinates in order: rows made straight, charts laid over each other."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.by_hand import chosen_of
from hulmo.core.commands.command import Command
from hulmo.core.commands.laid_uv import faces_of, laid_in, laid_uv
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.uv.charts import boxes_of, welded
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
        laid = laid_in(body, self.into, where)
        points, at = welded(laid.uv, laid.chart)
        corners = at.astype(np.int64)
        face, corner = np.nonzero(edges[laid.slots])
        a, b = corners[face, (corner + 1) % 3], corners[face, (corner + 2) % 3]
        pairs = np.unique(np.sort(np.stack((a, b), axis=1), axis=1), axis=0)
        spot = np.zeros((points.shape[0], 3))
        spot[at.reshape(-1)] = laid.place.reshape(-1, 3)
        rows = _rows(pairs)
        for row in rows:
            points[row] = _straight(points[row], spot[row], self.along)
        if not rows:
            raise InvalidInput(
                f"{where}: the chosen edges make no row: each forks or is closed; choose a row with ends"
            )
        return laid_uv(body, laid.slots, points[at], self.into, "Straighten UV", where)


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
        laid = laid_in(body, self.into, where)
        wanted = np.unique(laid.chart[np.isin(laid.slots, faces_of(body, "chosen", where))])
        if wanted.size < 2:
            raise InvalidInput(
                f"{where}: faces are chosen in one chart only; choose some in each that is to be stacked"
            )
        uv, chart = laid.uv, laid.chart
        first = wanted[int(np.bincount(chart, laid.area)[wanted].argmax())]
        if self.even:
            even = even_density(uv, laid.area, chart)
            here, there = even[chart == first], uv[chart == first]
            grown = np.ptp(there, axis=(0, 1)).max() / max(float(np.ptp(here, axis=(0, 1)).max()), 1e-12)
            uv = np.where((np.isin(chart, wanted) & (chart != first))[:, None, None], even * grown, uv)
        low, high = boxes_of(uv, chart)
        middle = (low + high) / 2
        step = np.zeros_like(middle)
        step[wanted] = middle[first] - middle[wanted]
        return laid_uv(body, laid.slots, uv + step[chart][:, None], self.into, "Stack UV", where)


def _rows(pairs: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    # points of each row of edges in order; what forks or is closed is none
    used, local = np.unique(pairs, return_inverse=True)
    local = local.reshape(-1, 2)
    degree = np.bincount(local.reshape(-1), minlength=used.size)
    parts, part = hanging_together(local[:, 0], local[:, 1], used.size)
    fork, ends = np.zeros(parts, np.bool_), np.bincount(part, degree == 1, parts)
    fork[part[degree > 2]] = True
    near: list[list[int]] = [[] for _ in range(used.size)]
    for a, b in local.tolist():
        near[a].append(b)
        near[b].append(a)
    out = []
    loose = np.flatnonzero((degree == 1) & ~fork[part] & (ends[part] == 2))
    for start in loose[np.unique(part[loose], return_index=True)[1]].tolist():
        at, before, row = start, -1, [start]
        while onward := [node for node in near[at] if node != before]:
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
        laid = laid_in(body, self.into, where)
        wrong = np.bincount(laid.chart, signed_areas(laid.uv)) < 0
        if not wrong.any():
            raise InvalidInput(
                f"{where}: no chart of {body.name!r} lies mirrored; relax or unwrap single faces that do"
            )
        low, high = boxes_of(laid.uv, laid.chart)
        uv, mine = laid.uv.copy(), wrong[laid.chart]
        uv[mine, :, 0] = (low + high)[laid.chart[mine], :1] - uv[mine, :, 0]
        return laid_uv(body, laid.slots, uv, self.into, "Turn UV back", where)
