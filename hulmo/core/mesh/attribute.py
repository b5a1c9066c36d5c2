"""What is known of an attribute: where it lives, how wide it is, and which values it may hold."""

from dataclasses import dataclass

LARGEST = 3.0e38
"""What a finite float32 stays below."""

FARTHEST = 1.0e8
"""Metres from a body's origin at the most: beyond, areas and products of lengths leave the range of float32."""

ANY, GROUNDS = 0, -1
"""Widths that are no number: any, and as wide as the palette."""


@dataclass(frozen=True)
class Attribute:
    """One entry of the attribute registry.

    Attributes
    ----------
    name : str
        Name of its column; or how names begin, for a family of columns.
    width : int
        Numbers of one row; `ANY`, or `GROUNDS` for one a ground.
    low, high : float
        What they may be, both ends included.
    domain : str
        "vertex", "corner", "face" or "edge": what has a row.
    family : bool
        Whether `name` is how names begin.
    total : str
        "one" where the numbers of a row sum to 1, "most" where to 1 at the most; else empty.
    kept : bool
        Whether files hold it; what is not kept follows from other attributes or lives as long as a stroke.
    """

    name: str
    width: int
    low: float = -LARGEST
    high: float = LARGEST
    domain: str = "vertex"
    family: bool = False
    total: str = ""
    kept: bool = True

    def means(self, column: str) -> bool:
        """Whether a column is this attribute."""
        return column.startswith(self.name) if self.family else column == self.name
