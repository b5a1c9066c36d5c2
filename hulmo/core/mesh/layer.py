"""Relief layers: named, adjustable shares of a body's shape, each a column of offsets from what lies below it."""

from typing import Any

import msgspec

REST = "rest"
"""Vertex column of the form: positions before relief. There only while a body has layers."""

RELIEF = "relief_"
"""How names of vertex columns begin that hold the offsets of a relief layer."""

FORM = ""
"""Name that stands for the form in commands that take a layer."""

STRONGEST = 2.0

MOST_LAYERS = 32
"""Relief layers of one body."""


class Laid(msgspec.Struct, frozen=True):
    """How a whole layer was laid, so that it can be laid again.

    Attributes
    ----------
    relief : str
        Name in the registry of reliefs.
    settings : dict
    only_on : str
        Ground whose weight was the mask; empty for none.
    tile_as : str
        Ground whose tiling was matched; empty for none.
    """

    relief: str
    settings: dict[str, Any] = {}
    only_on: str = ""
    tile_as: str = ""


class Layer(msgspec.Struct, frozen=True):
    """One relief layer of a body.

    Attributes
    ----------
    ident : int
        A number no other layer of the body has; names the column of its offsets.
    name : str
    strength : float
        -2 to 2; 1 is as laid, 0 flat, negative turned over.
    shown : bool
    locked : bool
        Whether its offsets are kept from brushes and from everything that would write them.
    laid : Laid or None
        How it was laid; None when a brush has worked on it.
    """

    ident: int
    name: str
    strength: float = 1.0
    shown: bool = True
    locked: bool = False
    laid: Laid | None = None

    @property
    def column(self) -> str:
        """Name of the vertex column, (N, 3) metres, that holds its offsets."""
        return f"{RELIEF}{self.ident}"

    @property
    def share(self) -> float:
        """What its offsets are multiplied with: the strength, or 0 while it is hidden."""
        return self.strength if self.shown else 0.0


def shapes(column: str) -> bool:
    """Whether a vertex column is one that positions are added up from."""
    return column == REST or column.startswith(RELIEF)


def derived(column: str, layered: bool) -> bool:
    """Whether a vertex column follows from others: normals, and positions while a body has layers."""
    return column == "normal" or (layered and column == "position")
