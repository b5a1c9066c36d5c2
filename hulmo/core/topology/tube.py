"""A closed tube along a path: what Bore cuts out of a body."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.noise import fbm

Points = NDArray[np.float32]
Triangles = NDArray[np.int32]

FEWEST = 10
"""Vertices around a tube."""


def tube(
    path: NDArray[np.float64],
    radii: NDArray[np.float64],
    edge: float,
    irregularity: float = 0.0,
    seed: int = 0,
    rough: float = 0.0,
    rough_size: float = 1.0,
) -> tuple[Points, Triangles]:
    """A tube with rounded ends along a smooth line through points.

    Parameters
    ----------
    path : (K, 3) float64
        At least two different points, metres.
    radii : (K,) float64
        Radius at each point, metres.
    edge : float
        Wanted length of edges, metres.
    irregularity : float
        0 to 1: how much the radius varies along and around, by noise.
    seed : int
    rough, rough_size : float
        Height and size of bumps on the walls, metres.

    Returns
    -------
    position : (N, 3) float32
        Metres.
    triangles : (M, 3) int32
        Counter-clockwise seen from outside of the tube; closed.
    """
    line, radius = _line(path, radii, edge)
    forward = np.gradient(line, axis=0)
    forward /= np.linalg.norm(forward, axis=1)[:, None]
    across = _frames(forward)
    upward = np.cross(forward, across)
    around = max(FEWEST, round(2 * np.pi * float(radius.max()) / edge))
    # half a ball at each end: rings that close up
    caps = max(2, round(0.5 * np.pi * float(radius.max()) / edge))
    angle = np.arange(1, caps) / caps * np.pi / 2
    starts = [(line[0] - forward[0] * radius[0] * np.cos(a), 0, np.sin(a)) for a in angle]
    ends = [(line[-1] + forward[-1] * radius[-1] * np.cos(a), line.shape[0] - 1, np.sin(a)) for a in angle[::-1]]
    middle = [(point, i, 1.0) for i, point in enumerate(line)]
    rings = [*starts, *middle, *ends]
    turn = np.arange(around) / around * 2 * np.pi
    spokes = np.stack([np.cos(turn)[:, None] * across[i] + np.sin(turn)[:, None] * upward[i] for _, i, _ in rings])
    middles = np.stack([point for point, _, _ in rings])
    widths = np.array([share * radius[i] for _, i, share in rings])
    points = middles[:, None] + spokes * widths[:, None, None]
    tips = np.stack((line[0] - forward[0] * radius[0], line[-1] + forward[-1] * radius[-1]))
    if irregularity > 0:
        flat = points.reshape(-1, 3).astype(np.float32)
        swell = fbm(flat, 3.0 * float(radius.mean()), 4, seed).reshape(points.shape[:2]) * irregularity
        points += spokes * (swell * widths[:, None])[..., None]
    if rough > 0:
        bumps = fbm(points.reshape(-1, 3).astype(np.float32), rough_size, 3, seed + 1).reshape(points.shape[:2])
        ends_in = np.minimum(widths / np.maximum(widths.max(), 1e-12), 1.0)  # none at the tips, where spokes meet
        points += spokes * (bumps * rough * ends_in[:, None])[..., None]
    position = np.concatenate((points.reshape(-1, 3), tips)).astype(np.float32)
    return position, _triangles(len(rings), around)


def _line(
    path: NDArray[np.float64], radii: NDArray[np.float64], edge: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    # points of a smooth line an edge apart, and the radius at each
    from scipy.interpolate import PchipInterpolator, make_interp_spline  # takes long to load, and is seldom needed

    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    apart = np.concatenate(([True], steps > 1e-9))
    path, radii = path[apart], radii[apart]
    along = np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))))
    spline = make_interp_spline(along, path, k=min(3, path.shape[0] - 1))
    at = np.linspace(0.0, along[-1], 40 * path.shape[0])
    fine = spline(at)
    length = np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.diff(fine, axis=0), axis=1))))
    count = max(2, round(length[-1] / edge) + 1)
    even = np.linspace(0.0, length[-1], count)
    wide = PchipInterpolator(along, radii)(np.interp(even, length, at))  # monotone between points: no bulges
    return np.stack([np.interp(even, length, fine[:, axis]) for axis in range(3)], axis=1), wide


def _frames(forward: NDArray[np.float64]) -> NDArray[np.float64]:
    # carried along without twist (parallel transport)
    across = np.empty_like(forward)
    aside = np.array([0.0, 1.0, 0.0]) if abs(forward[0, 1]) < 0.9 else np.array([1.0, 0.0, 0.0])
    for i, way in enumerate(forward):
        aside = aside - way * (aside @ way)
        aside /= np.linalg.norm(aside)
        across[i] = aside
    return across


def _triangles(rings: int, around: int) -> Triangles:
    ring, spoke = np.meshgrid(np.arange(rings - 1), np.arange(around), indexing="ij")
    a = ring * around + spoke
    b = ring * around + (spoke + 1) % around
    c, d = a + around, b + around
    sides = np.concatenate((np.stack((a, b, d), -1).reshape(-1, 3), np.stack((a, d, c), -1).reshape(-1, 3)))
    spokes = np.arange(around)
    after = (spokes + 1) % around
    tip, end = rings * around, rings * around + 1
    last = (rings - 1) * around
    first_cap = np.stack((np.full(around, tip), after, spokes), -1)
    last_cap = np.stack((np.full(around, end), last + spokes, last + after), -1)
    return np.concatenate((sides, first_cap, last_cap)).astype(np.int32)
