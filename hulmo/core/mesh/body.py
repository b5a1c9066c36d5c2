"""One sculptable mesh of a project."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.forms.form import Shape
from hulmo.core.mesh.normals import update_normals
from hulmo.core.mesh.one_ring import on_border
from hulmo.core.mesh.region import Region, RegionGrower
from hulmo.core.mesh.spatial_index import SpatialIndex, SurfacePoint
from hulmo.core.mesh.vertex_table import VertexTable

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]


@dataclass(frozen=True)
class Bounds:
    """Axis-aligned extent, metres."""

    low: Vector
    high: Vector

    @property
    def centre(self) -> Vector:
        """(3,) middle of the box."""
        return (self.low + self.high) / 2

    @property
    def radius(self) -> float:
        """Half the diagonal of the box."""
        return float(np.linalg.norm(self.high - self.low) / 2)


class Body:
    """A vertex table, a corner table, and the index and scratch tables that keep work on them local.

    `coat_owner` says whose lasting coat the body carries; `border_lock` keeps shaping brushes off an open body's edge.
    The column `normal` and the spatial index are derived: whoever writes positions calls `moved` with the rows.
    """

    def __init__(self, name: str, vertices: VertexTable, corners: CornerTable, ident: int = 0) -> None:
        self.name = name
        self.ident = ident
        self.vertices = vertices
        self.corners = corners
        self.coat_owner = ""
        self.border_lock = False
        self._index: SpatialIndex | None = None
        self._grower = RegionGrower()
        if "normal" not in vertices:
            vertices.add_column("normal", 3)
            self._all_normals()

    @classmethod
    def from_shape(cls, name: str, shape: Shape, ident: int = 0) -> "Body":
        """A body with positions, normals, and UV where the shape has them."""
        vertices = VertexTable(shape.position.shape[0])
        vertices.set_column("position", shape.position)
        corners = CornerTable.from_triangles(shape.triangles, vertices.count, shape.uv)
        return cls(name, vertices, corners, ident)

    @property
    def index(self) -> SpatialIndex:
        """The spatial index, built at first use."""
        if self._index is None:
            self._index = SpatialIndex(self.corners.vertex, self.vertices["position"])
        return self._index

    @property
    def nbytes(self) -> int:
        """Bytes of tables, index and stamp tables."""
        index = 0 if self._index is None else self._index.nbytes
        return self.vertices.nbytes + self.corners.nbytes + index + self._grower.nbytes

    def bounds(self) -> Bounds:
        """Extent of all vertices."""
        position = self.vertices["position"]
        return Bounds(position.min(axis=0).astype(np.float64), position.max(axis=0).astype(np.float64))

    def ray(self, origin: Vector, direction: Vector) -> SurfacePoint | None:
        """First surface point on a ray, whichever side it shows."""
        return self.index.ray(self.corners.vertex, self.vertices["position"], origin, direction)

    def nearest(self, point: Vector, reach: float = np.inf) -> SurfacePoint | None:
        """Nearest surface point within `reach` metres."""
        return self.index.nearest(self.corners.vertex, self.vertices["position"], point, reach)

    def grow_region(self, seed: int, centre: Vector, radius: float) -> Region:
        """Rows within `radius` metres of `centre`, connected over the surface with triangle `seed`."""
        corners = self.corners
        position = self.vertices["position"]
        return self._grower.grow(position, corners.vertex, corners.opposite, seed, centre, radius)

    def normal_at(self, point: SurfacePoint) -> Vector:
        """(3,) unit normal interpolated at a surface point."""
        rows = self.corners.vertex[3 * point.triangle : 3 * point.triangle + 3]
        normal = point.weights @ self.vertices["normal"][rows].astype(np.float64)
        length = float(np.linalg.norm(normal))
        return normal / length if length > 0 else np.array([0.0, 1.0, 0.0])

    def held(self, rows: Rows) -> NDArray[np.bool_] | None:
        """(K,) which rows must not move because the border is locked; None when nothing is held."""
        if not self.border_lock:
            return None
        return on_border(self.corners.opposite, self.corners.first_corner, rows)

    def moved(self, around: Rows, triangles: Rows) -> None:
        """Bring normals and index up to date.

        Parameters
        ----------
        around : (L,) int32
            All rows of the triangles that have a moved vertex.
        triangles : (T,) int32
            Those triangles.
        """
        corners = self.corners
        position, normal = self.vertices["position"], self.vertices["normal"]
        update_normals(position, corners.vertex, corners.opposite, corners.first_corner, around, normal)
        if self._index is not None:
            self._index.refit(corners.vertex, position, triangles)

    def rows_moved(self, rows: Rows) -> Rows:
        """`moved` for whoever knows only the rows; returns the rows whose normals were written."""
        corners = self.corners
        touched = self._grower.around(corners.vertex, corners.opposite, corners.first_corner, rows)
        self.moved(touched.around, touched.triangles)
        return touched.around

    def replaced(self) -> None:
        """Tell the body that its tables were replaced as a whole."""
        self._index = None
        self._grower = RegionGrower()
        self._all_normals()

    def _all_normals(self) -> None:
        corners = self.corners
        rows = np.arange(self.vertices.count, dtype=np.int32)
        update_normals(
            self.vertices["position"],
            corners.vertex,
            corners.opposite,
            corners.first_corner,
            rows,
            self.vertices["normal"],
        )
