"""What a stroke writes: a column of its own, or the layer in work of the shape."""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import REST, Layer
from hulmo.core.sculpt.brush import Brush

Rows = NDArray[np.int32]
Points = NDArray[np.float32]


class Writes(Protocol):
    """Puts new values of a brush where they belong."""

    @property
    def columns(self) -> tuple[str, ...]:
        """Vertex columns that are written."""

    @property
    def shapes(self) -> bool:
        """Whether the surface moves."""

    @property
    def surface(self) -> Points:
        """(N, 3) positions that the brush starts from, metres."""

    def put(self, rows: Rows, new: Points, amount: Points) -> None:
        """Write the values a brush gave for rows that it touched by so much (0 to 1)."""


class Target:
    """Puts new values of a brush where they belong.

    Parameters
    ----------
    body : Body
    brush : Brush
    layer : Layer or None
        Layer in work; None for the form.

    Attributes
    ----------
    columns : tuple of str
        The vertex column that is written.
    shapes : bool
        Whether the surface moves.
    """

    def __init__(self, body: Body, brush: Brush, layer: Layer | None) -> None:
        self._body = body
        self.shapes = brush.shapes
        self._share = np.float32(1.0 if layer is None else layer.share)
        self._layered = brush.shapes and bool(body.layers)
        self._layer = layer
        column = brush.column
        if self._layered:
            column = REST if layer is None else layer.column
        elif brush.column not in body.vertices:
            body.vertices.add_column(brush.column, brush.width)
        self._column = column
        self.columns: tuple[str, ...] = (column,)

    @property
    def surface(self) -> Points:
        """(N, 3) positions that a shaping brush starts from, metres."""
        return self._body.surface(self._layer) if self._layered else self._body.vertices["position"]

    def put(self, rows: Rows, new: Points, amount: Points) -> None:
        """Write the values a brush gave for rows; normals and index are left to `Body.moved`."""
        values = self._body.vertices[self._column]
        if not self._layered or self._layer is None:
            values[rows] = new
        else:
            step = new - np.take(self.surface, rows, axis=0)
            values[rows] += step / self._share
        self._composed(rows)

    def kept(self, rows: Rows) -> Points:
        """Values of the column now, to go back to with `restore`."""
        return np.take(self._body.vertices[self._column], rows, axis=0)

    def restore(self, rows: Rows, values: Points) -> None:
        """Write values that `kept` gave."""
        self._body.vertices[self._column][rows] = values
        self._composed(rows)

    def _composed(self, rows: Rows) -> None:
        if self._layered:
            self._body.compose(rows)
