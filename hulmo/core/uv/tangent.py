"""Tangents of the corners of triangles, by their texture coordinates."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Figures = NDArray[np.float64]

MIX = np.random.default_rng(7).integers(-(2**63), 2**63 - 1, 7, np.int64) | 1
"""Odd numbers by which what is known of a corner is mixed into one; overflow is meant."""


def tangents(place: Figures, normal: Figures, uv: Figures, vertex: NDArray[np.int32]) -> Figures:
    """(M, 3, 4) unit tangents, and 1 or -1: the way up in the image is that times normal x tangent.

    Parameters
    ----------
    place, normal : (M, 3, 3) float64
        Of the corners; normals of length 1.
    uv : (M, 3, 2) float64
        To the right, and down.
    vertex : (M, 3) int32
        Corners of one vertex that have one normal and one place in the image share a tangent.

    Notes
    -----
    Mikkelsen, "Simulation of wrinkled surfaces revisited" (2008): tangents of triangles, laid into the plane of the corner's
    normal, are summed by the angle there, apart for those that are mirrored.
    """
    edge1, edge2 = place[:, 1] - place[:, 0], place[:, 2] - place[:, 0]
    s, t = uv[..., 0], -uv[..., 1]
    s1, s2, t1, t2 = s[:, 1] - s[:, 0], s[:, 2] - s[:, 0], t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
    turn = s1 * t2 - s2 * t1
    way = (t2[:, None] * edge1 - t1[:, None] * edge2) * np.where(turn < 0, -1.0, 1.0)[:, None]
    sign = np.where(turn < 0, -1.0, 1.0)
    flat = turn == 0
    count = place.shape[0]
    total = np.zeros((3 * count, 3))
    key = np.empty((3 * count, 4))
    key[:, 0], key[:, 1] = vertex.reshape(-1), np.repeat(sign, 3)
    key[:, 2:] = uv.reshape(-1, 2)
    # corners are alike where their normals are, too; bits of them stand for them
    marks = np.ascontiguousarray(np.concatenate((key, normal.reshape(-1, 3)), axis=1)).view(np.int64)
    marks[:, 2:4] = np.ascontiguousarray(key[:, 2:] + 0.0).view(np.int64)  # 0 and -0 are one
    group = np.empty(3 * count, np.int64)
    mixed = (marks * MIX).sum(axis=1)  # alike where all is the same, and hardly ever else
    _alike(np.argsort(mixed, kind="stable"), mixed, marks, group)
    for corner in range(3):
        n = normal[:, corner]
        ahead = place[:, (corner + 1) % 3] - place[:, corner]
        behind = place[:, (corner + 2) % 3] - place[:, corner]
        ahead, behind = _in_plane(ahead, n), _in_plane(behind, n)
        angle = np.arccos(np.clip((ahead * behind).sum(axis=1), -1.0, 1.0))
        at = group[corner::3]
        part = _in_plane(way, n) * np.where(flat, 0.0, angle)[:, None]
        for axis in range(3):
            total[:, axis] += np.bincount(at, part[:, axis], 3 * count)
    out = total[group].reshape(count, 3, 3)
    size = np.linalg.norm(out, axis=2, keepdims=True)
    usual = _in_plane(np.where(np.abs(normal[..., 1:2]) < 0.9, [0.0, 1.0, 0.0], [1.0, 0.0, 0.0]), normal)
    out = np.where(size > 1e-12, out / np.maximum(size, 1e-30), usual)
    return np.concatenate((out, np.repeat(sign, 3).reshape(count, 3, 1)), axis=2)


@kernel("void(int64[::1], int64[::1], int64[:,::1], int64[::1])")
def _alike(
    order: NDArray[np.int64], mixed: NDArray[np.int64], marks: NDArray[np.int64], group: NDArray[np.int64]
) -> None:
    # the first corner of which all is the same, in an order in which such ones follow each other
    begin = 0
    for i in range(order.size):
        at = order[i]
        if mixed[at] != mixed[order[begin]]:
            begin = i
        group[at] = at
        for j in range(begin, i):
            other, same = order[j], True
            for k in range(marks.shape[1]):
                same = same and marks[other, k] == marks[at, k]
            if same:
                group[at] = group[other]
                break


def _in_plane(way: Figures, normal: Figures) -> Figures:
    flat = way - normal * (way * normal).sum(axis=-1, keepdims=True)
    return np.asarray(flat / np.maximum(np.linalg.norm(flat, axis=-1, keepdims=True), 1e-30))
