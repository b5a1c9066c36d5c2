"""Tests. While they run, every change of a project is looked through for numbers that are not finite."""

import numpy as np

from hulmo.core.edit import Change
from hulmo.core.history import History

_tell = History._tell


def _told(self: History, change: Change) -> None:
    for ident, column, rows in change.rows:
        body = next((body for body in self.project.bodies if body.ident == ident), None)
        if body is not None and column in body.vertices:
            assert np.isfinite(body.vertices[column][rows]).all(), f"{column} holds numbers that are not finite"
    _tell(self, change)


History._tell = _told  # type: ignore[method-assign]
