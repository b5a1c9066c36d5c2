"""One ground material of a project, and how grounds are blended."""

import math

import msgspec

MOST_GROUNDS = 16
"""Grounds a project can hold."""


class Ground(msgspec.Struct, frozen=True):
    """A ground material.

    Attributes
    ----------
    name : str
        Unique in its project.
    texture : str
        Name of a texture set: one of the shipped library, or one kept in the project. Empty: plain values only.
    tile : float
        Metres that one repeat of the texture covers.
    tint : str
        Colour (#rrggbb) that multiplies the texture, in linear light.
    turn : float
        Degrees that the texture is turned, counter-clockwise as one looks at the surface.
    brightness, contrast, gamma, saturation : float
        1 leaves the colour as it is; see `adjusted` in blend.glsl.
    normal_strength : float
        1 as in the normal map, 0 flat.
    shading : str
        "smooth" or "flat": whether faces are to be seen; drawn here, and a hint for whoever takes delivery.
    mapping : str
        "position": along the three axes, on any shape. "uv": by the body's texture coordinates, where it has any.
    plain : tuple of str
        Parts that take a plain value instead of their image: "albedo", "normal", "roughness", "height".
    colour : str
        Plain albedo, #rrggbb.
    roughness, height : float
        Plain values, 0 to 1.
    break_up : bool
        Whether the texture is laid in pieces, so that no repeat shows.
    variation, variation_size : float
        How strongly (0 to 1) the ground gets lighter and darker over the land, and the metres from one such patch to the
        next.
    locked : bool
        Whether brushes leave its weights alone.
    """

    name: str
    texture: str
    tile: float
    tint: str = "#ffffff"
    turn: float = 0.0
    brightness: float = 1.0
    contrast: float = 1.0
    gamma: float = 1.0
    saturation: float = 1.0
    normal_strength: float = 1.0
    shading: str = "smooth"
    mapping: str = "position"
    plain: tuple[str, ...] = ()
    colour: str = "#808080"
    roughness: float = 0.9
    height: float = 0.5
    break_up: bool = False
    variation: float = 0.0
    variation_size: float = 25.0
    locked: bool = False

    @property
    def turned(self) -> tuple[float, float]:
        """Cosine and sine of its turn."""
        return math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))


class Blend(msgspec.Struct, frozen=True):
    """How grounds meet.

    Attributes
    ----------
    mode : str
        "linear": by weight alone. "height": higher parts of a texture win first.
    depth : float
        Softness of a height blend: near 0 the higher ground wins alone, 1 is softest.
    together : int
        Grounds that the target of the delivery can blend at a vertex.
    keep_together : bool
        Whether brushes let no more than that meet.
    """

    mode: str = "height"
    depth: float = 0.35
    together: int = 4
    keep_together: bool = False


BLEND_MODES = ("linear", "height")

LEAST_DEPTH = 0.01
