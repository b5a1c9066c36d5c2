"""Colour arithmetic: the sRGB transfer function and hex notation."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from hulmo.core.errors import InvalidInput


def srgb_to_linear(value: ArrayLike) -> NDArray[np.float64]:
    """Linear light (0 to 1) of sRGB values (0 to 1); IEC 61966-2-1."""
    encoded = np.asarray(value, np.float64)
    return np.where(encoded <= 0.04045, encoded / 12.92, ((np.maximum(encoded, 0) + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(value: ArrayLike) -> NDArray[np.float64]:
    """sRGB values (0 to 1) of linear light (0 to 1); IEC 61966-2-1."""
    linear = np.asarray(value, np.float64)
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * np.maximum(linear, 0) ** (1 / 2.4) - 0.055)


def hex_to_linear(text: str, where: str) -> tuple[float, float, float]:
    """Linear RGB of "#rrggbb".

    Raises
    ------
    InvalidInput
        Anything else.
    """
    if len(text) != 7 or text[0] != "#" or any(digit not in "0123456789abcdefABCDEF" for digit in text[1:]):
        raise InvalidInput(f"{where}: {text!r} is no colour; write it as #rrggbb")
    red, green, blue = srgb_to_linear([int(text[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    return float(red), float(green), float(blue)
