"""Vertices joined with neighbours of theirs, each apart from the others."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.connectivity import check_fans
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.topology.fan import fan_at

Mask = NDArray[np.bool_]
Values = NDArray[np.float32]


def joined(corners: CornerTable, joins: NDArray[np.int64]) -> CornerTable:
    """Triangles after vertices have been joined: those that lie at both go.

    Parameters
    ----------
    corners : CornerTable
        Without freed slots.
    joins : (J, 2) int64
        Vertices that go, and those that they are joined with; on a border, the next ones of it. No triangle lies at two of
        those that go.

    Raises
    ------
    InvalidInput
        The surface would be no manifold any more.
    """
    made = corners.copy()
    keep = np.ones(corners.count, np.bool_)
    _, corner, edge = made.slots.blocks()
    ends = np.cumsum([made.slots.width(name) for name in made.slots.names("edge")], dtype=np.int64)
    room = np.empty(int(np.bincount(corners.vertex, minlength=1).max(initial=1)) + 1, np.int64)
    _join(
        corners.vertex, corners.opposite, corners.first_corner, np.ascontiguousarray(joins), made.vertex, made.opposite,
        corner, edge, ends, keep, room,
    )  # fmt: skip
    across, slot = made.opposite, np.where(keep, np.cumsum(keep, dtype=np.int32) - 1, np.int32(-1))
    opposite = np.empty(3 * int(keep.sum()), np.int32)
    _closed(across, slot, opposite)
    table = CornerTable.from_opposites(
        made.triangles[keep].reshape(-1), opposite, corners.first_corner.size, made.slots.taken(keep)
    )
    check_fans(table.vertex, table.opposite, table.first_corner)
    return table


@kernel("void(int32[::1], int32[::1], int32[::1])")
def _closed(across: NDArray[np.int32], slot: NDArray[np.int32], out: NDArray[np.int32]) -> None:
    # opposite corners, in `across` as they were, of the triangles that have a new slot
    for t in range(slot.size):
        for k in range(3):
            if slot[t] < 0:
                continue
            other = across[3 * t + k]
            out[3 * slot[t] + k] = -1 if other < 0 else 3 * slot[other // 3] + other % 3


@kernel(
    "void(int32[::1], int32[::1], int32[::1], int64[:,::1], int32[::1], int32[::1], float32[:,:,::1], float32[:,:,::1], "
    "int64[::1], boolean[::1], int64[::1])"
)
def _join(
    vertex: NDArray[np.int32], opposite: NDArray[np.int32], first: NDArray[np.int32], joins: NDArray[np.int64],
    made: NDArray[np.int32], across: NDArray[np.int32], corner: Values, edge: Values, ends: NDArray[np.int64], keep: Mask,
    room: NDArray[np.int64],
) -> None:  # fmt: skip
    for j in range(joins.shape[0]):
        gone, stays = joins[j, 0], joins[j, 1]
        count = fan_at(opposite, first, gone, room)
        source = np.int64(-1)  # where it is known what the corners at the vertex that stays say
        for i in range(count):
            slot, mine = room[i] // 3, room[i] % 3
            for k in range(3):
                if vertex[3 * slot + k] != stays:
                    continue
                if source < 0:
                    source = 3 * slot + k
                # two edges of a triangle that goes become one, and say what says more
                keep[slot] = False
                one, two = across[3 * slot + mine], across[3 * slot + k]
                if one >= 0:
                    across[one] = two
                if two >= 0:
                    across[two] = one
                start = np.int64(0)
                for column in range(ends.size):
                    here, there = np.float32(0.0), np.float32(0.0)
                    for w in range(start, ends[column]):
                        here, there = max(here, abs(edge[slot, mine, w])), max(there, abs(edge[slot, k, w]))
                    said = mine if here >= there else k
                    for w in range(start, ends[column]):
                        value = edge[slot, said, w]
                        if one >= 0:
                            edge[one // 3, one % 3, w] = value
                        if two >= 0:
                            edge[two // 3, two % 3, w] = value
                    start = ends[column]
        for i in range(count):
            if source >= 0:
                for w in range(corner.shape[2]):
                    corner[room[i] // 3, room[i] % 3, w] = corner[source // 3, source % 3, w]
            made[room[i]] = stays
