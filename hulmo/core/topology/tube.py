"""A closed tube along a path: what Bore cuts out of a body."""

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import make_interp_spline

from hulmo.core.noise import fbm

Points = NDArray[np.float32]
Triangles = NDArray[np.int32]

FEWEST = 10
"""Vertices around a tube."""


def tube(
    path: NDArray[np.float64], radius: float, edge: float, irregularity: float = 0.0, seed: int = 0
) -> tuple[Points, Triangles]:
    """A tube with rounded ends along a smooth line through points.

    Parameters
    ----------
    path : (K, 3) float64
        At least two different points, metres.
    radius, edge : float
        Metres; `edge` is the wanted length of edges.
    irregularity : float
        0 to 1: how much the radius varies along and around, by noise.
    seed : int

    Returns
    -------
    position : (N, 3) float32
        Metres.
    triangles : (M, 3) int32
        Counter-clockwise seen from outside of the tube; closed.
    """
    line = _line(path, edge)
    forward = np.gradient(line, axis=0)
    forward /= np.linalg.norm(forward, axis=1)[:, None]
    across = _frames(forward)
    upward = np.cross(forward, across)
    around = max(FEWEST, round(2 * np.pi * radius / edge))
    # half a ball at each end: rings that close up
    caps = max(2, round(0.5 * np.pi * radius / edge))
    angle = np.arange(1, caps) / caps * np.pi / 2
    starts = [(line[0] - forward[0] * radius * np.cos(a), 0, np.sin(a)) for a in angle]
    ends = [(line[-1] + forward[-1] * radius * np.cos(a), line.shape[0] - 1, np.sin(a)) for a in angle[::-1]]
    middle = [(point, i, 1.0) for i, point in enumerate(line)]
    rings = [*starts, *middle, *ends]
    turn = np.arange(around) / around * 2 * np.pi
    spokes = np.stack([np.cos(turn)[:, None] * across[i] + np.sin(turn)[:, None] * upward[i] for _, i, _ in rings])
    middles = np.stack([point for point, _, _ in rings])
    widths = np.array([share for _, _, share in rings]) * radius
    points = middles[:, None] + spokes * widths[:, None, None]
    tips = np.stack((line[0] - forward[0] * radius, line[-1] + forward[-1] * radius))
    if irregularity > 0:
        flat = points.reshape(-1, 3).astype(np.float32)
        swell = fbm(flat, 3.0 * radius, 4, seed).reshape(points.shape[:2]) * irregularity
        points += spokes * (swell * widths[:, None])[..., None]
    position = np.concatenate((points.reshape(-1, 3), tips)).astype(np.float32)
    return position, _triangles(len(rings), around)


def _line(path: NDArray[np.float64], edge: float) -> NDArray[np.float64]:
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    path = path[np.concatenate(([True], steps > 1e-9))]
    along = np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))))
    spline = make_interp_spline(along, path, k=min(3, path.shape[0] - 1))
    fine = spline(np.linspace(0.0, along[-1], 40 * path.shape[0]))
    length = np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.diff(fine, axis=0), axis=1))))
    count = max(2, round(length[-1] / edge) + 1)
    even = np.linspace(0.0, length[-1], count)
    return np.stack([np.interp(even, length, fine[:, axis]) for axis in range(3)], axis=1)


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
