"""Remembering what a stroke overwrites."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.differ import rows_differ
from hulmo.core.sparse_zeros import sparse_zeros

Rows = NDArray[np.int32]


@dataclass(frozen=True)
class Touched:
    """Rows of a column that were just written, ascending; or slots of triangles."""

    column: str
    rows: Rows


@dataclass(frozen=True)
class Written:
    """All that a stroke did to one column.

    Attributes
    ----------
    column : str
    rows : (K,) int32
        Ascending.
    before, after : (K, width) float32
    """

    column: str
    rows: Rows
    before: NDArray[np.float32]
    after: NDArray[np.float32]


class Recorder:
    """Keeps the first value of every row a stroke writes in one column; costs what is written."""

    def __init__(self, body: Body, column: str) -> None:
        self._body = body
        self.column = column
        self._seen = sparse_zeros(body.vertices.count, np.bool_)
        self._rows: list[Rows] = []
        self._before: list[NDArray[np.float32]] = []

    def note(self, rows: Rows) -> None:
        """Call before the rows are written."""
        new = rows[~np.take(self._seen, rows)]
        if new.size:
            self._seen[new] = True
            self._rows.append(new)
            self._before.append(np.take(self._body.vertices[self.column], new, axis=0))

    def result(self) -> Written | None:
        """What was written, or None when nothing changed."""
        if not self._rows:
            return None
        rows = np.concatenate(self._rows)
        order = np.argsort(rows)
        rows = rows[order]
        before = np.concatenate(self._before)[order]
        after = np.take(self._body.vertices[self.column], rows, axis=0)
        changed = rows_differ(before, after)
        if not changed.any():
            return None
        return Written(self.column, rows[changed], before[changed], after[changed])
