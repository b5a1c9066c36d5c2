"""Making an orientable manifold out of any heap of triangles, with an account of what was done."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.connectivity import build_opposites
from hulmo.core.mesh.graph import close_pairs, hanging_together
from hulmo.core.mesh.used_rows import over_used_rows

Rows = NDArray[np.int64]

MOST_FINS = 8
"""How often fins are looked for: taking one away can leave another."""


@dataclass(frozen=True)
class Mended:
    """A manifold made of a heap of triangles.

    Attributes
    ----------
    source : (N,) int64
        Vertex of the heap that each vertex came from.
    triangles : (M, 3) int32
    faces : (M,) int64
        Triangle of the heap that each triangle came from.
    turned : (M,) bool
        Which triangles were turned over.
    account : list of str
        What was done, in words.
    """

    source: Rows
    triangles: NDArray[np.int32]
    faces: Rows
    turned: NDArray[np.bool_]
    account: list[str] = field(default_factory=list)


def mend(
    position: NDArray[np.floating], triangles: NDArray[np.integer], tolerance: float = 0.0, outward: bool = True
) -> Mended:
    """Weld, clean, orient and untangle.

    Parameters
    ----------
    position : (N, 3) float
        Metres; may hold numbers that are not finite.
    triangles : (M, 3) int
        May name vertices that are not there.
    tolerance : float
        Metres within which vertices are one.
    outward : bool
        Whether closed parts that are inside out are turned.

    Returns
    -------
    Mended
        Triangles whose corners are finite, there, and apart; none twice; one winding in each part, outward where a part is
        closed. Where more than two triangles share an edge, or fans meet in one vertex only, the surface is opened.
    """
    if tolerance <= 0 and _sound(position, triangles, outward):
        used, own = over_used_rows(triangles, position.shape[0])
        count = triangles.shape[0]
        return Mended(used.astype(np.int64), own, np.arange(count), np.zeros(count, np.bool_))
    account: list[str] = []
    count = position.shape[0]
    faces = np.arange(triangles.shape[0])
    tri = triangles.astype(np.int64)

    def drop(keep: NDArray[np.bool_], words: str) -> None:
        nonlocal tri, faces
        gone = int((~keep).sum())
        if gone:
            account.append(f"{gone:,} triangles left out: {words}")
            tri, faces = tri[keep], faces[keep]

    drop(((tri >= 0) & (tri < count)).all(axis=1), "they name vertices that are not there")
    finite = np.isfinite(position).all(axis=1)
    drop(finite[tri].all(axis=1), "their positions are not finite")
    one = _welded(position, finite, tolerance)
    welded = int((one != np.arange(count)).sum())
    if welded and tolerance > 0:
        account.append(f"{welded:,} double vertices welded")
    tri = one[tri]
    drop((tri[:, 0] != tri[:, 1]) & (tri[:, 1] != tri[:, 2]) & (tri[:, 2] != tri[:, 0]), "two corners are the same")
    drop(same_rows(np.sort(tri, axis=1)) == np.arange(tri.shape[0]), "they were there twice")
    for _ in range(MOST_FINS):
        # a fin would make a closed part look open, so that nobody could tell its inside
        fins = _fins(tri)
        if not fins.any():
            break
        drop(~fins, "they stand on an edge that two others share already")
    turned = _oriented(position, tri, outward, account)
    tri = np.where(turned[:, None], tri[:, (0, 2, 1)], tri)
    source, tri = _untangled(tri, account)
    return Mended(source, tri.astype(np.int32), faces, turned, account)


def _fins(tri: Rows) -> NDArray[np.bool_]:
    # triangles that hang on by one edge alone, which others share
    if not tri.size:
        return np.zeros(0, np.bool_)
    edge, _, uses = _edges(tri)
    around = uses[edge].reshape(-1, 3)
    return np.asarray(((around > 2).sum(axis=1) == 1) & ((around == 1).sum(axis=1) == 2))


def same_rows(rows: NDArray[np.integer]) -> Rows:
    """(K,) for each row of (K, 3) whole numbers the first row that is the same."""
    # rows are sorted by a 64-bit mixture of their numbers; should two different ones ever fall together, by themselves
    mixed = rows.astype(np.uint64) * np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], np.uint64)
    key = mixed[:, 0] ^ (mixed[:, 1] << np.uint64(21)) ^ (mixed[:, 1] >> np.uint64(43)) ^ mixed[:, 2]
    _, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    out = first[inverse]
    if (rows[out] != rows).any():
        _, first, inverse = np.unique(rows, axis=0, return_index=True, return_inverse=True)
        out = first[inverse.reshape(-1)]
    return np.asarray(out, np.int64)


def _sound(position: NDArray[np.floating], triangles: NDArray[np.integer], outward: bool) -> bool:
    # most meshes need nothing; telling so costs a tenth of looking for what to mend
    if not triangles.size or triangles.min() < 0 or triangles.max() >= position.shape[0]:
        return False
    a, b, c = triangles.T
    if ((a == b) | (b == c) | (c == a)).any() or not np.isfinite(position).all():
        return False
    try:
        opposite, _ = build_opposites(np.ascontiguousarray(triangles, np.int32).reshape(-1), position.shape[0])
    except InvalidInput:
        return False
    if not outward or (opposite < 0).any():
        return True
    p, q, r = (position[corner].astype(np.float64) for corner in (a, b, c))
    return float(np.einsum("ij,ij->", p, np.cross(q, r))) > 0


def _welded(position: NDArray[np.floating], finite: NDArray[np.bool_], tolerance: float) -> Rows:
    # the vertex that stands for each
    count = position.shape[0]
    if tolerance <= 0:
        return np.arange(count)
    rows = np.flatnonzero(finite)
    pairs = close_pairs(position[rows], tolerance)
    one, other = rows[pairs[:, 0]], rows[pairs[:, 1]]
    one, other = np.concatenate((one, other)), np.concatenate((other, one))
    out = np.arange(count)
    # whoever is lowest among its open neighbours stands for them; then on with the rest, so that nothing is drawn along a
    # chain further than the tolerance
    open_ = np.zeros(count, np.bool_)
    open_[one] = True
    while open_.any():
        live = open_[one] & open_[other]
        one, other = one[live], other[live]
        lowest = np.arange(count)
        np.minimum.at(lowest, one, other)
        stands = open_ & (lowest == np.arange(count))
        to = np.full(count, count)
        near = stands[other]
        np.minimum.at(to, one[near], other[near])
        taken = open_ & ~stands & (to < count)
        out[taken] = to[taken]
        open_ &= ~(stands | taken)
    return out


def _edges(tri: Rows) -> tuple[Rows, NDArray[np.bool_], Rows]:
    # number of the undirected edge across each corner, whether it runs from low to high, and how many use each
    tail, tip = tri[:, (1, 2, 0)].reshape(-1), tri[:, (2, 0, 1)].reshape(-1)
    key = np.minimum(tail, tip) * (tri.max(initial=0) + 1) + np.maximum(tail, tip)
    _, edge, uses = np.unique(key, return_inverse=True, return_counts=True)
    return edge, tail < tip, uses


def _pairs(edge: Rows, uses: Rows) -> tuple[Rows, Rows]:
    # the two corners across every edge that exactly two triangles use
    order = np.argsort(edge, kind="stable")
    order = order[uses[edge[order]] == 2]
    return order[::2], order[1::2]


def _oriented(position: NDArray[np.floating], tri: Rows, outward: bool, account: list[str]) -> NDArray[np.bool_]:
    count = tri.shape[0]
    turned = np.zeros(count, np.bool_)
    if not count:
        return turned
    edge, rising, uses = _edges(tri)
    one, other = _pairs(edge, uses)
    clash = rising[one] == rising[other]
    parts, label = hanging_together(one // 3, other // 3, count)
    if clash.any():
        from scipy.sparse import coo_array  # see `mesh.graph`
        from scipy.sparse.csgraph import breadth_first_order

        apart = coo_array((np.where(clash, 2, 1), (one // 3, other // 3)), (count, count)).tocsr()
        apart = apart.maximum(apart.T).tocsr()
        seen = np.zeros(count, np.bool_)
        for start in np.unique(label, return_index=True)[1].tolist():
            order, before = breadth_first_order(apart, start, directed=False)
            for face in order[1:].tolist():
                turned[face] = turned[before[face]] ^ (apart[face, before[face]] == 2)
            seen[order] = True
    if not outward:
        if turned.any():
            account.append(f"{int(turned.sum()):,} triangles turned over: their winding clashed with their neighbours'")
        return turned
    a, b, c = (position[tri[:, i]].astype(np.float64) for i in range(3))
    volume = np.einsum("ij,ij->i", a, np.cross(b, c)) * np.where(turned, -1, 1)
    closed = np.bincount(label[np.arange(edge.size) // 3], uses[edge] != 2, parts) == 0
    inside_out = closed & (np.bincount(label, volume, parts) < 0)
    turned ^= inside_out[label]
    if turned.any():
        why = "their winding clashed with their neighbours'" if clash.any() else "they faced inward"
        account.append(f"{int(turned.sum()):,} triangles turned over: {why}")
    return turned


def _untangled(tri: Rows, account: list[str]) -> tuple[Rows, Rows]:
    # every corner is a vertex of its own until an edge that two triangles share joins it with the one across
    if not tri.size:
        return np.empty(0, np.int64), tri
    edge, rising, uses = _edges(tri)
    one, other = _pairs(edge, uses)
    good = rising[one] != rising[other]
    one, other = one[good], other[good]
    after, before = lambda c: c - c % 3 + (c + 1) % 3, lambda c: c - c % 3 + (c + 2) % 3
    joined = np.concatenate((after(one), before(one))), np.concatenate((before(other), after(other)))
    groups, label = hanging_together(*joined, tri.size)
    source = np.zeros(groups, np.int64)
    source[label] = tri.reshape(-1)
    crowded = int((uses > 2).sum())
    if crowded:
        account.append(f"{crowded:,} edges opened: more than two triangles shared them")
    split = groups - np.unique(tri).size
    if split and not crowded:
        account.append(f"{split:,} vertices doubled where the surface only touched itself")
    return source, label.reshape(-1, 3)
