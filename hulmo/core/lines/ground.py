"""A surface that lines lie on: positions of a body, or of what lies below one of its relief layers."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.normals import update_normals
from hulmo.core.mesh.spatial_index import SpatialIndex

Places = NDArray[np.float64]


def same_places(one: NDArray[np.float32], other: NDArray[np.float32]) -> bool:
    """Whether two arrays are views of the same memory."""
    return one.ctypes.data == other.ctypes.data and one.shape == other.shape


@dataclass(frozen=True)
class Ground:
    """One surface.

    Attributes
    ----------
    position, normal : (N, 3) float32
        Metres about the origin of the body; unit normals.
    corners : CornerTable
    known : SpatialIndex or None
        Its index, where there is one already.
    """

    position: NDArray[np.float32]
    normal: NDArray[np.float32]
    corners: CornerTable
    known: SpatialIndex | None = None

    @cached_property
    def index(self) -> SpatialIndex:
        """The index of its triangles, made when it is first asked."""
        return self.known or SpatialIndex(self.corners.vertex, self.position)

    @classmethod
    def of(cls, body: Body, position: NDArray[np.float32] | None = None) -> "Ground":
        """The surface of a body as it is, or with other positions."""
        there = body.vertices["position"]
        if position is None or same_places(position, there):
            return cls(there, body.vertices["normal"], body.corners, body.index)
        corners = body.corners
        normal = np.zeros_like(position)
        rows = np.arange(position.shape[0], dtype=np.int32)
        update_normals(position, corners.vertex, corners.opposite, corners.first_corner, rows, normal)
        return cls(position, normal, corners, body.index.over(corners.vertex, position))

    def nearest(self, points: Places) -> tuple[NDArray[np.int32], Places]:
        """(K,) triangles and (K, 3) shares of their corners of the surface nearest to (K, 3) points."""
        triangle, weight = self.index.nearest_many(
            self.corners.vertex, self.position, np.ascontiguousarray(points, np.float32)
        )
        weight = np.clip(weight.astype(np.float64), 0.0, 1.0)
        return triangle, weight / weight.sum(axis=1, keepdims=True)

    def at(self, triangle: NDArray[np.integer], weight: Places) -> Places:
        """(K, 3) places of shares of triangles."""
        return self.blend(self.position, triangle, weight)

    def blend(self, column: NDArray[np.float32], triangle: NDArray[np.integer], weight: Places) -> Places:
        """(K, width) a vertex column at shares of triangles."""
        rows = self.corners.triangles[triangle]
        return np.asarray(np.einsum("ki,kij->kj", weight, column[rows].astype(np.float64)))
