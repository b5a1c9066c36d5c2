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
