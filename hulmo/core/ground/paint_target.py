"""What a paint stroke writes: weights, and the hand paint behind them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.hand import add_up, added_up, ruled_at, settle
from hulmo.core.ground.palette import Palette
from hulmo.core.ground.weights import HAND, WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.sculpt.brush import Brush

Rows = NDArray[np.int32]
Values = NDArray[np.float32]


class PaintTarget:
    """Puts new values of a paint brush where they belong. Brushes give weights, or hand paint where their column is that.

    Parameters
    ----------
    body : Body
        With weights.
    brush : Brush
    palette : Palette
    ground : int
        Column of the ground in hand, or -1.
    """

    def __init__(self, body: Body, brush: Brush, palette: Palette, ground: int) -> None:
        self._body, self._palette, self._ground = body, palette, ground
        self.columns = (WEIGHT, HAND)
        self.shapes = False
        self._by_hand = brush.column == HAND

    @property
    def surface(self) -> Values:
        """(N, 3) positions, metres."""
        return self._body.vertices["position"]

    def put(self, rows: Rows, new: Values, amount: Values) -> None:
        """Write the values a brush gave for rows that it touched by so much."""
        vertices, palette = self._body.vertices, self._palette
        if self._by_hand:
            reached = amount > 0
            rows, new, amount = rows[reached], new[reached], amount[reached]
            vertices[HAND][rows] = new
            if not palette.locked.any():
                add_up(self._body, palette.count, rows)
                return
            new = added_up(new, ruled_at(self._body, palette.count, rows))
            amount = np.zeros_like(amount)
        weight, hand = settle(self._body, rows, amount, new, palette.locked, palette.most, self._ground)
        vertices[WEIGHT][rows] = weight
        vertices[HAND][rows] = hand
