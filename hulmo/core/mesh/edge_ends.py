"""Both ends of edges."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable


def edge_ends(corners: CornerTable, at: NDArray[np.integer]) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """(K,) rows at both ends of the edges across some corners."""
    base = at - at % 3
    return corners.vertex[base + (at + 1) % 3], corners.vertex[base + (at + 2) % 3]
