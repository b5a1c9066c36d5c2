"""Whether there is room for more props: by their outlines, none over another."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import Strewn, anchors, axes, frames
from hulmo.core.props.prop import WAYS, Prop, PropMesh

Places = NDArray[np.float64]
Rows = NDArray[np.int32]
Mask = NDArray[np.bool_]


class Room:
    """What stands on a body, and where there is still room.

    Parameters
    ----------
    body : Body
    props : tuple of Prop
        The tray.
    meshes : dict of int to PropMesh
        By the number of the prop.
    spacing : float
        Factor by which outlines are widened before they are held against each other; 1 lets them touch.
    """

    def __init__(self, body: Body, props: tuple[Prop, ...], meshes: dict[int, PropMesh], spacing: float = 1.0) -> None:
        self._body, self._spacing = body, spacing
        self._numbers = np.array([prop.ident for prop in props], np.int64)
        self._outline = np.array([meshes[prop.ident].outline for prop in props]).reshape(-1, WAYS)
        self._reach = np.array([meshes[prop.ident].reach for prop in props])
        self.largest = float(max((meshes[prop.ident].reach * prop.largest for prop in props), default=1.0))

    def widest(self, strewn: Strewn) -> float:
        """How far the largest of some props, or of those that may be set, reaches; metres, widened by the spacing."""
        there = float(self._reach.max(initial=0.0)) * float(strewn.size.max(initial=0.0))
        return max(self.largest, there) * max(self._spacing, 1.0)

    def kept(self, there: Strewn, wanted: Strewn, among: bool = True) -> Mask:
        """Which of some props, taken one after the other, overlap neither those that are there nor one taken before.

        Parameters
        ----------
        there, wanted : Strewn
        among : bool
            Whether those that are wanted are held against each other as well.
        """
        out = np.zeros(wanted.count, np.bool_)
        if not wanted.count:
            return out
        known = self._figures(there.taken(there.there))
        asked = self._figures(wanted)
        cell = 2.0 * max(float((known[3]).max(initial=0.0)), float(asked[3].max(initial=0.0)), 1e-6)
        total = known[0].shape[0] + wanted.count
        table = np.full(1 << max(4, int(2 * total).bit_length()), -1, np.int32)
        joined: list[Any] = []
        for one, two in zip(known, asked, strict=True):
            pair: Any = (one, two)
            joined.append(np.ascontiguousarray(np.concatenate(pair)))
        place, axis, across, reach, size, which = joined
        outline = self._outline * self._spacing
        following = np.empty(total, np.int32)
        _choose(
            place, axis, across, reach, size, which, outline, known[0].shape[0], cell, table, following, among, out
        )  # fmt: skip
        return out

    def overlapping(self, strewn: Strewn) -> Mask:
        """Which overlap another one; of a pair, the later one."""
        there = np.flatnonzero(strewn.there)
        out = np.zeros(strewn.count, np.bool_)
        out[there] = ~self.kept(Strewn.none(), strewn.taken(there))
        return out

    def _figures(self, strewn: Strewn) -> tuple[Places, Places, Places, Places, Places, Rows]:
        # places, axes, +X of each, reaches, sizes, rows of the outlines
        place, normal = anchors(self._body, strewn)
        axis = axes(self._body, strewn, place, normal)
        _, matrix = frames(self._body, strewn)
        size = strewn.size.astype(np.float64)
        at = np.searchsorted(self._numbers, strewn.prop) if self._numbers.size else strewn.prop
        at = np.clip(at, 0, max(0, self._numbers.size - 1)).astype(np.int32)
        across = matrix[:, :, 0] / np.maximum(size, 1e-30)[:, None]
        return place, axis, across, self._reach[at] * size * self._spacing, size, at


@part_of_kernels
def _corners(outline, size, across, axis, e1, e2, x, y, out):  # type: ignore[no-untyped-def]
    # corners of an outline, seen along a direction: where neighbouring lines of support meet
    zx = across[1] * axis[2] - across[2] * axis[1]
    zy = across[2] * axis[0] - across[0] * axis[2]
    zz = across[0] * axis[1] - across[1] * axis[0]
    a1 = across[0] * e1[0] + across[1] * e1[1] + across[2] * e1[2]
    a2 = across[0] * e2[0] + across[1] * e2[1] + across[2] * e2[2]
    b1 = zx * e1[0] + zy * e1[1] + zz * e1[2]
    b2 = zx * e2[0] + zy * e2[1] + zz * e2[2]
    count = outline.size
    step = 2.0 * np.pi / count
    for k in range(count):
        h, g = outline[k], outline[(k + 1) % count]
        t = k * step
        # the point whose support is h along t and g along t + step
        u = (g - h * np.cos(step)) / np.sin(step)
        px = size * (h * np.cos(t) - u * np.sin(t))
        pz = size * (h * np.sin(t) + u * np.cos(t))
        out[k, 0] = x + px * a1 + pz * b1
        out[k, 1] = y + px * a2 + pz * b2


@part_of_kernels
def _apart(one, two):  # type: ignore[no-untyped-def]
    # whether a line along an edge of the first lies between two outlines (separating axis theorem)
    count = one.shape[0]
    for k in range(count):
        nx = one[(k + 1) % count, 1] - one[k, 1]
        ny = one[k, 0] - one[(k + 1) % count, 0]
        low1 = np.inf
        high1 = -np.inf
        low2 = np.inf
        high2 = -np.inf
        for i in range(count):
            d = one[i, 0] * nx + one[i, 1] * ny
            low1 = min(low1, d)
            high1 = max(high1, d)
            d = two[i, 0] * nx + two[i, 1] * ny
            low2 = min(low2, d)
            high2 = max(high2, d)
        if high1 < low2 or high2 < low1:
            return True
    return False


@part_of_kernels
def _cell_of(x, y, z, mask):  # type: ignore[no-untyped-def]
    return ((x * 73856093) ^ (y * 19349663) ^ (z * 83492791)) & mask


@kernel(
    "void(float64[:,::1], float64[:,::1], float64[:,::1], float64[::1], float64[::1], int32[::1], float64[:,::1], int64, "
    "float64, int32[::1], int32[::1], boolean, boolean[::1])"
)
def _choose(
    place: Places, axis: Places, across: Places, reach: Places, size: Places, which: Rows, outline: Places, known: int,
    cell: float, table: Rows, following: Rows, among: bool, out: Mask,
) -> None:  # fmt: skip
    mask = table.size - 1
    ways = outline.shape[1]
    one = np.empty((ways, 2))
    two = np.empty((ways, 2))
    e1 = np.empty(3)
    e2 = np.empty(3)
    for i in range(place.shape[0]):
        cx = np.int64(np.floor(place[i, 0] / cell))
        cy = np.int64(np.floor(place[i, 1] / cell))
        cz = np.int64(np.floor(place[i, 2] / cell))
        free = True
        if i >= known:
            for shift in range(27):
                key = _cell_of(cx + shift % 3 - 1, cy + shift // 3 % 3 - 1, cz + shift // 9 - 1, mask)
                j = table[key]
                while j >= 0 and free:
                    dx = place[j, 0] - place[i, 0]
                    dy = place[j, 1] - place[i, 1]
                    dz = place[j, 2] - place[i, 2]
                    if dx * dx + dy * dy + dz * dz < (reach[i] + reach[j]) ** 2:
                        ux = axis[i, 0] + axis[j, 0]
                        uy = axis[i, 1] + axis[j, 1]
                        uz = axis[i, 2] + axis[j, 2]
                        length = np.sqrt(ux * ux + uy * uy + uz * uz)
                        if length < 1e-6:
                            ux, uy, uz, length = axis[i, 0], axis[i, 1], axis[i, 2], 1.0
                        ux /= length
                        uy /= length
                        uz /= length
                        if abs(ux) < 0.8:
                            e1[0], e1[1], e1[2] = 0.0, uz, -uy
                        else:
                            e1[0], e1[1], e1[2] = -uz, 0.0, ux
                        length = np.sqrt(e1[0] ** 2 + e1[1] ** 2 + e1[2] ** 2)
                        e1 /= length
                        e2[0] = uy * e1[2] - uz * e1[1]
                        e2[1] = uz * e1[0] - ux * e1[2]
                        e2[2] = ux * e1[1] - uy * e1[0]
                        _corners(outline[which[i]], size[i], across[i], axis[i], e1, e2, 0.0, 0.0, one)
                        x = dx * e1[0] + dy * e1[1] + dz * e1[2]
                        y = dx * e2[0] + dy * e2[1] + dz * e2[2]
                        _corners(outline[which[j]], size[j], across[j], axis[j], e1, e2, x, y, two)
                        free = _apart(one, two) or _apart(two, one)
                    j = following[j]
                if not free:
                    break
            out[i - known] = free
        if i < known or (free and among):
            key = _cell_of(cx, cy, cz, mask)
            following[i] = table[key]
            table[key] = i
