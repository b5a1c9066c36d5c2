"""What readers of exchange formats give: pieces of mesh as they stand in the file."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.ground import Ground


@dataclass
class Part:
    """One piece of mesh.

    Attributes
    ----------
    position : (N, 3) float64
        Units of the file.
    triangles : (M, 3) int64
        May name vertices that are not there.
    uv : (M, 3, 2) float32 or None
        Origin at the image's upper left, v downward.
    weights : (N, G) float32 or None
        Ground weights, in the order of `Read.grounds`.
    colour : (N, 4) float32 or None
        Vertex colour as it stands there, 0 to 1.
    tint : (N, 4) float32 or None
        See `hulmo.core.ground.brushes.tint`.
    paint : (N, 3) float32 or None
        What the file's own material paints there, linear light; read only where it is asked for.
    name : str
        As the file names it; pieces of one name belong together. Empty: it has none.
    """

    position: NDArray[np.float64]
    triangles: NDArray[np.int64]
    uv: NDArray[np.float32] | None = None
    weights: NDArray[np.float32] | None = None
    colour: NDArray[np.float32] | None = None
    tint: NDArray[np.float32] | None = None
    name: str = ""
    paint: NDArray[np.float32] | None = None


@dataclass
class Read:
    """All of a file.

    Attributes
    ----------
    parts : list of Part
    grounds : list of Ground
        What the weights are of; their textures are names of sets, shipped or in `textures`.
    textures : mapping
        Set name, part, encoded image.
    account : list of str
        What was passed over.
    """

    parts: list[Part]
    grounds: list[Ground] = field(default_factory=list)
    textures: Mapping[str, Mapping[str, bytes]] = field(default_factory=dict)
    account: list[str] = field(default_factory=list)
