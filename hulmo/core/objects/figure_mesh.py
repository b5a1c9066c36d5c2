"""The mesh of the scale figure: a person of 1.8 m."""

import functools

import numpy as np
from numpy.typing import NDArray

HEIGHT = 1.8
"""Metres from the soles to the top of the head."""

_SIDES = 14
_RINGS = 6

# Capsules: one end, the other end, radius at each (metres), how flat from front to back.
_PARTS = (
    ((0.0, 1.66, 0.0), (0.0, 1.70, 0.0), 0.095, 0.10, 1.1),
    ((0.0, 1.48, 0.0), (0.0, 1.58, 0.0), 0.055, 0.05, 1.0),
    ((0.0, 1.36, 0.0), (0.0, 1.12, 0.0), 0.19, 0.145, 0.6),
    ((0.0, 1.10, 0.0), (0.0, 0.94, 0.0), 0.145, 0.175, 0.65),
    ((-0.10, 0.90, 0.0), (-0.115, 0.48, 0.01), 0.088, 0.062, 1.0),
    ((-0.115, 0.48, 0.01), (-0.125, 0.09, -0.01), 0.060, 0.042, 1.0),
    ((-0.125, 0.045, -0.03), (-0.14, 0.04, 0.13), 0.045, 0.038, 1.0),
    ((-0.21, 1.38, 0.0), (-0.27, 1.10, 0.0), 0.055, 0.045, 1.0),
    ((-0.27, 1.10, 0.0), (-0.29, 0.84, 0.05), 0.043, 0.034, 1.0),
    ((-0.292, 0.80, 0.06), (-0.292, 0.73, 0.075), 0.040, 0.030, 0.8),
)


@functools.cache
def figure_mesh() -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.int32]]:
    """Positions and normals, (N, 3) float32, metres from between the soles, +Y up, facing +Z; and (M, 3) triangles."""
    positions, normals, triangles = [], [], []
    count = 0
    for part in _PARTS:
        sides = (1.0, -1.0) if part[0][0] else (1.0,)
        for side in sides:
            position, normal, faces = _capsule(*part, side)
            positions.append(position)
            normals.append(normal)
            triangles.append(faces + count)
            count += position.shape[0]
    position = np.concatenate(positions)
    position[:, 1] -= position[:, 1].min()
    position *= HEIGHT / position[:, 1].max()
    return position.astype(np.float32), np.concatenate(normals).astype(np.float32), np.concatenate(triangles)


def _capsule(
    start: tuple[float, float, float],
    end: tuple[float, float, float],
    first: float,
    last: float,
    flat: float,
    side: float,
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.int32]]:
    a, b = np.array(start) * (side, 1, 1), np.array(end) * (side, 1, 1)
    along = (b - a) / np.linalg.norm(b - a)
    helper = np.array([0.0, 0.0, 1.0]) if abs(along[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
    across = np.cross(along, helper)
    across /= np.linalg.norm(across)
    out = np.cross(along, across)
    rings = []
    for centre, radius, low, high in ((a, first, -np.pi / 2, 0.0), (b, last, 0.0, np.pi / 2)):
        angles = np.linspace(low, high, _RINGS)
        rings += [(centre + along * radius * np.sin(angle), radius * np.cos(angle)) for angle in angles]
    turn = np.linspace(0, 2 * np.pi, _SIDES, endpoint=False)
    circle = np.cos(turn)[:, None] * across + np.sin(turn)[:, None] * out * flat
    position = np.concatenate([centre + circle * max(radius, 1e-4) for centre, radius in rings])
    faces = []
    for ring in range(len(rings) - 1):
        for i in range(_SIDES):
            p, q = ring * _SIDES + i, ring * _SIDES + (i + 1) % _SIDES
            faces += [(p, q, p + _SIDES), (q, q + _SIDES, p + _SIDES)]
    triangles = np.array(faces, np.int32)
    corner = position[triangles]
    face = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    normal = np.zeros_like(position)
    for i in range(3):
        np.add.at(normal, triangles[:, i], face)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    if (normal * (position - (a + b) / 2)).sum() < 0:
        triangles, normal = np.ascontiguousarray(triangles[:, ::-1]), -normal
    return position, normal, triangles
