"""Charts laid flat with little change of angles, or of angles and areas."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.areas import triangle_areas

Places = NDArray[np.float64]
Numbers = NDArray[np.int32]

ROUNDS, GAIN = 12, 0.005
"""Steps of the method that keeps areas too, at most; and the share by which a step must better them to have another."""

HELD = 1e6
"""How much a step off its place counts against a point that is held."""

KEEP = ("angles", "both")


def flattened(
    place: Places, triangles: Numbers, keep: str = "angles", pinned: Numbers | None = None, at: Places | None = None
) -> Places:
    """(N, 2) texture coordinates of one chart: metres where nothing is pinned; v runs down.

    Parameters
    ----------
    place : (N, 3) float64
        Metres.
    triangles : (M, 3) int32
        One part with a border; a disc where `keep` is both.
    keep : str
        angles; or both: angles and areas.
    pinned : (P,) int32, optional
        Points whose coordinates are given, two or more.
    at : (P, 2) float64, optional
        Theirs.

    Notes
    -----
    Angles: Levy, Petitjean, Ray and Maillot, "Least squares conformal maps for automatic texture atlas generation" (SIGGRAPH
    2002). Both, and where the former turns triangles over: Rabinovich, Poranne, Panozzo and Sorkine-Hornung, "Scalable
    locally injective mappings" (ACM TOG 36(2), 2017), symmetric Dirichlet energy, from a barycentric map onto a circle
    (Tutte 1963) if need be. By the library libigl.
    """
    middle = place.mean(axis=0)
    size = max(float(np.linalg.norm(place - middle, axis=1).max()), 1e-12)
    unit = (place - middle) / size
    rim = rim_of(triangles)
    if pinned is not None and at is not None and pinned.size >= 2:
        found = _conformal(unit, triangles, pinned, at * (1.0, -1.0))
        return np.asarray(found * (1.0, -1.0))
    ends = _far_apart(unit, rim)
    found = _conformal(
        unit, triangles, ends, np.array([[0.0, 0.0], [float(np.linalg.norm(unit[ends[1]] - unit[ends[0]])), 0.0]])
    )
    found = _as_large(found, unit, triangles)
    if keep == "both" or (_areas(found, triangles) <= 0).any():
        better = _injective(unit, triangles, found, rim, keep)
        if better is not None:
            found = better
    return np.asarray(found * size * (1.0, -1.0))


def settled(place: Places, triangles: Numbers, begin: Places, held: Numbers, scale: float) -> Places:
    """(N, 2) coordinates of points that find their place anew while others are held; as they were where that fails.

    Parameters
    ----------
    place : (N, 3) float64
        Metres.
    triangles : (M, 3) int32
    begin : (N, 2) float64
        As they lie; v runs down.
    held : (P,) int32
    scale : float
        Metres to a unit that are wanted.

    Notes
    -----
    Symmetric Dirichlet energy as in `flattened`, from where they lie; where triangles are turned over there, or to begin
    with, least squares conformal.
    """
    flat = begin * (scale, -scale)
    found = None
    if (_areas(flat, triangles) > 0).all():
        found = _least_energy(place, triangles, flat, "both", held, flat[held])
    if found is None or (_areas(found, triangles) <= 0).any():
        found = _conformal(place, triangles, held, flat[held])
    found = found / (scale, -scale)
    found[held] = begin[held]
    return np.asarray(found)


def rim_of(triangles: Numbers) -> Numbers:
    """(R,) points on the border, sorted."""
    edges = np.sort(triangles[:, ((1, 2), (2, 0), (0, 1))].reshape(-1, 2), axis=1)
    once, uses = np.unique(edges, axis=0, return_counts=True)
    return np.unique(once[uses == 1]).astype(np.int32)


def _conformal(unit: Places, triangles: Numbers, pinned: Numbers, at: Places) -> Places:
    import igl  # needed for this only

    if pinned.size == unit.shape[0]:
        out = np.zeros((unit.shape[0], 2))
        out[pinned] = at
        return out
    found, _ = igl.lscm(unit, triangles.astype(np.int64), pinned.astype(np.int64), np.ascontiguousarray(at))
    return np.asarray(found, np.float64)


def _far_apart(unit: Places, rim: Numbers) -> Numbers:
    start = unit[rim[0]]
    one = rim[int(np.linalg.norm(unit[rim] - start, axis=1).argmax())]
    other = rim[int(np.linalg.norm(unit[rim] - unit[one], axis=1).argmax())]
    if one == other:
        other = rim[0] if rim[0] != one else rim[-1]
    return np.array([one, other], np.int32)


def _areas(flat: Places, triangles: Numbers) -> Places:
    a, b = flat[triangles[:, 1]] - flat[triangles[:, 0]], flat[triangles[:, 2]] - flat[triangles[:, 0]]
    return np.asarray((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) / 2)


def _as_large(flat: Places, unit: Places, triangles: Numbers) -> Places:
    # so that areas sum to what they are in space
    there = float(triangle_areas(unit[triangles]).sum())
    here = float(np.abs(_areas(flat, triangles)).sum())
    return np.asarray(flat * np.sqrt(there / here)) if here > 0 else flat


def _injective(unit: Places, triangles: Numbers, begin: Places, rim: Numbers, keep: str) -> Places | None:
    if not np.isfinite(begin).all() or (_areas(begin, triangles) <= 0).any():
        import igl  # needed for this only

        loop = igl.boundary_loop(triangles.astype(np.int64))
        if loop.size != rim.size:
            return None  # not a disc
        begin = _as_large(_on_a_circle(unit, triangles, np.asarray(loop, np.int32)), unit, triangles)
        if (_areas(begin, triangles) <= 0).any():
            return None
    found = _least_energy(unit, triangles, begin, keep, np.zeros(0, np.int32), np.zeros((0, 2)))
    return begin if found is None else _as_large(found, unit, triangles)


def _least_energy(
    unit: Places, triangles: Numbers, begin: Places, keep: str, held: Numbers, at: Places
) -> Places | None:
    import igl  # needed for this only

    energy = igl.MappingEnergyType.SYMMETRIC_DIRICHLET if keep == "both" else igl.MappingEnergyType.CONFORMAL
    data = igl.slim_precompute(
        np.asfortranarray(unit), np.asfortranarray(triangles, np.int32), np.asfortranarray(begin), energy,
        np.ascontiguousarray(held, np.int32), np.asfortranarray(at), HELD if held.size else 0.0,
    )  # fmt: skip
    last = np.inf
    for _ in range(ROUNDS):
        found = np.asarray(igl.slim_solve(data, 1), np.float64)[:, :2]
        energies = _energy(unit, found, triangles)
        if last - energies < GAIN * energies:
            break
        last = energies
    if not np.isfinite(found).all():
        return None
    if held.size:
        found[held] = at
    return None if (_areas(found, triangles) <= 0).any() else found


def _energy(unit: Places, flat: Places, triangles: Numbers) -> float:
    # symmetric Dirichlet, by the singular values of the map from space
    corner = unit[triangles]
    a, b = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    length = np.maximum(np.linalg.norm(a, axis=1), 1e-30)
    along = (a * b).sum(axis=1) / length
    high = np.maximum(np.linalg.norm(np.cross(a, b), axis=1) / length, 1e-30)
    u, v = flat[triangles[:, 1]] - flat[triangles[:, 0]], flat[triangles[:, 2]] - flat[triangles[:, 0]]
    first = u / length[:, None]
    second = (v - first * along[:, None]) / high[:, None]
    size = (first**2 + second**2).sum(axis=1)
    flat_area = first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]
    return float((length * high * size * (1 + 1 / np.maximum(flat_area, 1e-12) ** 2)).sum())


def _on_a_circle(unit: Places, triangles: Numbers, loop: Numbers) -> Places:
    import scipy.sparse as sparse  # slow to import, and needed nowhere at the start
    import scipy.sparse.linalg as solvers

    count = unit.shape[0]
    a = np.concatenate((triangles[:, 0], triangles[:, 1], triangles[:, 2]))
    b = np.concatenate((triangles[:, 1], triangles[:, 2], triangles[:, 0]))
    joined = sparse.coo_matrix(
        (np.ones(2 * a.size), (np.concatenate((a, b)), np.concatenate((b, a)))), (count, count)
    ).tocsr()
    joined.data[:] = 1.0
    laplacian = (sparse.diags(np.asarray(joined.sum(axis=1)).reshape(-1)) - joined).tocsr()
    step = np.linalg.norm(unit[np.roll(loop, -1)] - unit[loop], axis=1) + 1e-9
    angle = 2 * np.pi * np.concatenate(([0.0], np.cumsum(step)[:-1])) / step.sum()
    out = np.zeros((count, 2))
    out[loop] = np.stack((np.cos(angle), np.sin(angle)), axis=1)
    inner = np.setdiff1d(np.arange(count), loop)
    if inner.size:
        right = -laplacian[inner][:, loop] @ out[loop]
        out[inner] = solvers.spsolve(laplacian[inner][:, inner].tocsc(), right).reshape(-1, 2)
    return out
