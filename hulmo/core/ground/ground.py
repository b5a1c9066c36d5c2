"""One ground material of a project, and how grounds are blended."""

import msgspec

MOST_GROUNDS = 8
"""Grounds a project can hold."""


class Ground(msgspec.Struct, frozen=True):
    """A ground material.

    Attributes
    ----------
    name : str
        Unique in its project.
    texture : str
        Name of a texture set: one of the shipped library, or one kept in the project.
    tile : float
        Metres that one repeat of the texture covers.
    tint : str
        Colour (#rrggbb) that multiplies the texture, in linear light.
    """

    name: str
    texture: str
    tile: float
    tint: str = "#ffffff"


class Blend(msgspec.Struct, frozen=True):
    """How grounds meet.

    Attributes
    ----------
    mode : str
        "linear": by weight alone. "height": higher parts of a texture win first.
    depth : float
        Softness of a height blend: near 0 the higher ground wins alone, 1 is softest.
    """

    mode: str = "height"
    depth: float = 0.35


BLEND_MODES = ("linear", "height")

LEAST_DEPTH = 0.01


def share_of(weights: list[float], heights: list[float], blend: Blend) -> list[float]:
    """Shares of the grounds at one point: the blend formula in plain Python.

    Parameters
    ----------
    weights, heights : list of float
        Weight of each ground there (sum 1), and its texture height (0 to 1).

    Notes
    -----
    The same formula stands in `assets/shaders/blend.glsl` and in every exported file. With height h and weight w, a
    ground scores s = w (0.1 + 0.9 h); what falls more than `depth` (as a share of the best score) behind is gone.
    """
    if blend.mode == "linear":
        return list(weights)
    scores = [w * (0.1 + 0.9 * h) for w, h in zip(weights, heights, strict=True)]
    floor = max(scores) * (1.0 - max(blend.depth, LEAST_DEPTH))
    kept = [max(score - floor, 0.0) for score in scores]
    total = sum(kept)
    return [value / total for value in kept]
