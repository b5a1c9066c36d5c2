"""The palette as the brushes see it: how many grounds, which are locked, how many may meet."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.ground import Blend, Ground


@dataclass(frozen=True)
class Palette:
    """Bounds that hold for every paint brush.

    Attributes
    ----------
    names : tuple of str
    locked : (G,) bool
        Grounds whose weight never changes.
    most : int
        Grounds that may meet at a vertex.
    """

    names: tuple[str, ...]
    locked: NDArray[np.bool_]
    most: int

    @classmethod
    def of(cls, grounds: tuple[Ground, ...], blend: Blend) -> "Palette":
        """The palette of a project."""
        return cls(
            tuple(ground.name for ground in grounds),
            np.array([ground.locked for ground in grounds], np.bool_),
            blend.together if blend.keep_together else len(grounds),
        )

    @property
    def count(self) -> int:
        """Grounds in the palette."""
        return len(self.names)
