"""The blend formula in NumPy: what `assets/shaders/blend.glsl` says, for bakes, exports and tests."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.ground import LEAST_DEPTH, Blend, Ground

Figures = NDArray[np.float64]

GREY = 0.18
"""Linear grey around which contrast is changed."""

LUMA = np.array([0.2126, 0.7152, 0.0722])
"""Shares of linear red, green and blue in luminance (ITU-R BT.709)."""

TRIM = 0.02
"""Share of an axis or a piece that is taken off all of them: what has no more than that is not looked up."""

AXIS_SHIFT = np.array([[0.37, 0.13], [0.0, 0.0], [0.71, 0.59]])


def share_of(weights: list[float], heights: list[float], blend: Blend) -> list[float]:
    """Shares of the grounds at one point: the blend formula in plain Python.

    Parameters
    ----------
    weights, heights : list of float
        Weight of each ground there (sum 1), and its texture height (0 to 1).

    Notes
    -----
    With height h and weight w, a ground scores s = w (0.1 + 0.9 h); what falls more than `depth` (as a share of the best
    score) behind is gone.
    """
    if blend.mode == "linear":
        return list(weights)
    scores = [w * (0.1 + 0.9 * h) for w, h in zip(weights, heights, strict=True)]
    floor = max(scores) * (1.0 - max(blend.depth, LEAST_DEPTH))
    kept = [max(score - floor, 0.0) for score in scores]
    total = sum(kept)
    return [value / total for value in kept]


def axis_weights(normal: Figures) -> Figures:
    """(K, 3) share of each axis for (K, 3) unit normals; rows sum to 1, and what would have less than a fiftieth has none."""
    fourth = np.asarray(normal, np.float64) ** 4
    return _trimmed(fourth / fourth.sum(axis=-1, keepdims=True))


def _trimmed(shares: Figures) -> Figures:
    kept = np.maximum(shares - TRIM, 0.0)
    return np.asarray(kept / kept.sum(axis=-1, keepdims=True))


def adjusted(colour: Figures, ground: Ground) -> Figures:
    """(K, 3) linear colour after brightness, contrast about mid grey, gamma and saturation of a ground."""
    out = np.asarray(colour, np.float64) * ground.brightness
    out = np.maximum((out - GREY) * ground.contrast + GREY, 0.0)
    out = out ** (1.0 / ground.gamma)
    grey = (out @ LUMA)[..., None]
    return np.asarray(np.maximum(grey + (out - grey) * ground.saturation, 0.0))


def hashed(x: NDArray[np.int64], y: NDArray[np.int64], z: NDArray[np.int64]) -> NDArray[np.uint32]:
    """(..., 3) pseudo-random whole numbers for whole numbers: pcg3d (Jarzynski and Olano, "Hash functions for GPU
    rendering", 2020)."""
    with np.errstate(over="ignore"):
        v = np.stack([np.asarray(part).astype(np.int64).astype(np.uint32) for part in (x, y, z)], axis=-1)
        v = v * np.uint32(1664525) + np.uint32(1013904223)
        v[..., 0] += v[..., 1] * v[..., 2]
        v[..., 1] += v[..., 2] * v[..., 0]
        v[..., 2] += v[..., 0] * v[..., 1]
        v ^= v >> np.uint32(16)
        v[..., 0] += v[..., 1] * v[..., 2]
        v[..., 1] += v[..., 2] * v[..., 0]
        v[..., 2] += v[..., 0] * v[..., 1]
    return v


def varied(position: Figures, size: float, strength: float) -> Figures:
    """(K,) factor on the colour at (K, 3) positions, metres: value noise in cells of `size`, within 1 +- strength."""
    at = np.asarray(position, np.float64) / size
    cell = np.floor(at).astype(np.int64)
    part = at - cell
    smooth = part * part * (3.0 - 2.0 * part)
    total = np.zeros(at.shape[0])
    for corner in range(8):
        step = np.array([corner & 1, corner >> 1 & 1, corner >> 2 & 1])
        value = hashed(*(cell + step).T)[:, 0].astype(np.float64) / 4294967295.0
        total += value * np.prod(np.where(step == 1, smooth, 1.0 - smooth), axis=1)
    return 1.0 + strength * (2.0 * total - 1.0)


def pieces(place: Figures) -> tuple[Figures, Figures]:
    """Which three pieces a broken-up texture is laid of at (K, 2) texture coordinates.

    Returns
    -------
    weight : (K, 3)
        Of each piece, summing to 1.
    shift : (K, 3, 2)
        What is added to the coordinates for each piece.

    Notes
    -----
    A grid of triangles, one offset at random for each of its corners (Heitz and Neyret, "High-performance by-example noise
    using a histogram-preserving blending operator", 2018), with sides of half a tile.
    """
    skew = np.array([[1.0, -0.57735027], [0.0, 1.15470054]])
    at = 2.0 * np.asarray(place, np.float64) @ skew.T
    cell = np.floor(at).astype(np.int64)
    part = at - cell
    third = 1.0 - part[:, 0] - part[:, 1]
    low = third > 0
    weight = np.where(
        low[:, None],
        np.column_stack((third, part[:, 1], part[:, 0])),
        np.column_stack((-third, 1 - part[:, 1], 1 - part[:, 0])),
    )
    steps = np.where(low[:, None, None], [[[0, 0], [0, 1], [1, 0]]], [[[1, 1], [1, 0], [0, 1]]])
    corner = cell[:, None, :] + steps
    shift = (
        hashed(corner[..., 0], corner[..., 1], np.zeros_like(corner[..., 0]))[..., :2].astype(np.float64) / 4294967296.0
    )
    return _trimmed(weight), shift


def joined(values: Figures, weight: Figures, mean: Figures) -> Figures:
    """(K, C) mixture of (K, 3, C) pieces that keeps their contrast: about the mean (C,), over the root of weights squared,
    within 0 to 1.

    Heitz and Neyret (2018), equation 2.
    """
    away = np.einsum("kp,kpc->kc", weight, values - mean)
    return np.asarray(np.clip(mean + away / np.sqrt((weight**2).sum(axis=1))[:, None], 0.0, 1.0))
