"""Sets of texture coordinates, and the images that they are for."""

from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.corner_table import UV

SIZES = (16, 16_384)


def uv_column(name: str, where: str) -> str:
    """The corner column of a set of texture coordinates.

    Raises
    ------
    InvalidInput
    """
    if len(name) > 60 or any(not sign.isprintable() or sign in "/\\" for sign in name):
        raise InvalidInput(f"{where}: {shown(name)} is no name for a set of UV; use up to 60 letters")
    return f"{UV} {name}" if name else UV


def check_raster(size: int, margin: int, where: str) -> None:
    """Raises InvalidInput where an image cannot be so large, or its margin so wide."""
    if not SIZES[0] <= size <= SIZES[1]:
        raise InvalidInput(f"{where}: size is {size}; it must lie between {SIZES[0]} and {SIZES[1]} texels")
    if not 0 <= margin <= size // 4:
        raise InvalidInput(f"{where}: margin is {margin}; it must lie between 0 and {size // 4} texels")
