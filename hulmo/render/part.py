"""A rectangle of a picture."""

import math
from dataclasses import dataclass

from hulmo.core.mesh.extent import Extent

Size = tuple[int, int]


@dataclass(frozen=True)
class Part:
    """Pixels of a picture, counted from its lower left corner.

    Attributes
    ----------
    x, y, width, height : int
        Empty where width or height is 0.
    """

    x: int
    y: int
    width: int
    height: int

    @classmethod
    def whole(cls, size: Size) -> "Part":
        """All of a picture."""
        return cls(0, 0, *size)

    @classmethod
    def reached(cls, extent: Extent, size: Size) -> "Part":
        """What an extent reaches on a picture; all of it where the extent comes up to the eye."""
        if extent.empty:
            return cls(0, 0, 0, 0)
        left, lower, right, upper, nearest = extent.seen[:5].tolist()
        if nearest <= 1e-9:
            return cls.whole(size)
        width, height = size
        # one pixel more on each side: rasterising rounds to fractions of a pixel
        x, y = math.floor((left + 1) / 2 * width) - 1, math.floor((lower + 1) / 2 * height) - 1
        x_end, y_end = math.ceil((right + 1) / 2 * width) + 1, math.ceil((upper + 1) / 2 * height) + 1
        return cls(x, y, x_end - x, y_end - y).within(size)

    @property
    def area(self) -> int:
        """Pixels."""
        return self.width * self.height

    @property
    def box(self) -> tuple[int, int, int, int]:
        """As OpenGL takes it."""
        return self.x, self.y, self.width, self.height

    def frame(self, size: Size) -> tuple[float, float, float, float]:
        """Left, lower, right and upper edge, -1 to 1 over a picture."""
        width, height = size
        return (
            2 * self.x / width - 1,
            2 * self.y / height - 1,
            2 * (self.x + self.width) / width - 1,
            2 * (self.y + self.height) / height - 1,
        )

    def within(self, size: Size) -> "Part":
        """What of it lies on a picture."""
        x, y = max(self.x, 0), max(self.y, 0)
        width = min(self.x + self.width, size[0]) - x
        height = min(self.y + self.height, size[1]) - y
        return Part(x, y, width, height) if width > 0 and height > 0 else Part(0, 0, 0, 0)

    def crossed(self, other: "Part") -> "Part":
        """What both have in common."""
        x, y = max(self.x, other.x), max(self.y, other.y)
        width = min(self.x + self.width, other.x + other.width) - x
        height = min(self.y + self.height, other.y + other.height) - y
        return Part(x, y, width, height) if width > 0 and height > 0 else Part(0, 0, 0, 0)

    def wider(self, pixels: int, size: Size) -> "Part":
        """With so many pixels more on each side; an empty one stays empty."""
        if not self.area:
            return self
        return Part(self.x - pixels, self.y - pixels, self.width + 2 * pixels, self.height + 2 * pixels).within(size)

    def joined(self, other: "Part") -> "Part":
        """The least rectangle around both."""
        if not self.area or not other.area:
            return self if self.area else other
        x, y = min(self.x, other.x), min(self.y, other.y)
        x_end = max(self.x + self.width, other.x + other.width)
        y_end = max(self.y + self.height, other.y + other.height)
        return Part(x, y, x_end - x, y_end - y)
