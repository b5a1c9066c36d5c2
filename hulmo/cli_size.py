"""Sizes of pictures on the command line."""

from hulmo.core.errors import InvalidInput


def size_of(text: str) -> tuple[int, int]:
    """Width and height from words such as 1280x800.

    Raises
    ------
    InvalidInput
    """
    width, _, height = text.partition("x")
    if not (width.isdigit() and height.isdigit()):
        raise InvalidInput(f"size {text!r} is not of the form 1280x800")
    return int(width), int(height)


def place_of(text: str, name: str) -> tuple[float, float, float]:
    """Three numbers, metres, of an option.

    Raises
    ------
    InvalidInput
    """
    try:
        x, y, z = (float(part) for part in text.split(","))
    except ValueError:
        raise InvalidInput(f"{name} {text!r}: write three numbers as 10,2.5,-4") from None
    return x, y, z
