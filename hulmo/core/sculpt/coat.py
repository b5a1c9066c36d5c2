"""How a stroke adds up: the memory of how much of a full coat each vertex already has."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.patch import SCRATCH
from hulmo.core.sparse_zeros import sparse_zeros

Rows = NDArray[np.int32]
Cover = NDArray[np.float32]

COAT = "coat"
"""Vertex column (width 1) that remembers a coat over many strokes."""

COVER = f"{SCRATCH}cover"
"""Vertex column (width 1) that remembers the coat of a stroke that remeshes, so that new vertices have it too."""


class Coat:
    """The coat of one stroke.

    Parameters
    ----------
    body : Body
    build_up : str
        "one_coat", "stacking" (there is none) or "until_reset".
    grows : bool
        Whether vertices come and go during the stroke.
    owner : str
        Whose coat it is; with "until_reset" a coat of someone else is cleared.

    Attributes
    ----------
    lasting : bool
        Whether it outlives the stroke, in the column `COAT`.
    """

    def __init__(self, body: Body, build_up: str, grows: bool, owner: str) -> None:
        self._body, self._owner = body, owner
        self.lasting = build_up == "until_reset"
        self._opened = not self.lasting
        self._column = COAT if self.lasting else COVER if build_up == "one_coat" and grows else ""
        self._plain = sparse_zeros(body.vertices.count, np.float32) if build_up == "one_coat" and not grows else None
        if self._column and self._column not in body.vertices:
            body.vertices.add_column(self._column, 1)

    @property
    def cover(self) -> Cover | None:
        """(N,) share of a full coat that each vertex has; written by whoever lays it. None without a coat."""
        if not self._column:
            return self._plain
        column: Cover = self._body.vertices[self._column][:, 0]
        return column

    def open(self, note: Callable[[Rows], None]) -> None:
        """Call before the first dab; `note` is told of rows of a lasting coat before they are cleared."""
        if self._opened:
            return
        self._opened = True
        if self._body.coat_owner != self._owner:
            column = self._body.vertices[COAT]
            old = np.flatnonzero(column[:, 0]).astype(np.int32)
            note(old)
            column[old] = 0.0
            self._body.coat_owner = self._owner
