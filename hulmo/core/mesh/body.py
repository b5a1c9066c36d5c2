"""One sculptable mesh of a project."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.low_high import low_high
from hulmo.core.mesh.chosen_parts import FLAT
from hulmo.core.mesh.corner_table import CornerTable, with_uv
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.down import LEVEL
from hulmo.core.mesh.facets import leave_out_flat
from hulmo.core.mesh.forms.form import Shape
from hulmo.core.mesh.layer import REST, Layer
from hulmo.core.mesh.moment import Earlier, earlier
from hulmo.core.mesh.normals import update_normals
from hulmo.core.mesh.one_ring import on_border
from hulmo.core.mesh.region import Region, RegionGrower
from hulmo.core.mesh.spatial_index import SpatialIndex, SurfacePoint
from hulmo.core.mesh.stitched import STITCHED, take_stitched
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.mesh.water_level import WaterLevel
from hulmo.core.sparse_zeros import sparse_zeros
from hulmo.core.workers import by_pieces, side_by_side

if TYPE_CHECKING:
    from hulmo.core.mesh.strewn import Strewn

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]
Points = NDArray[np.float32]
Place = tuple[float, float, float]

SEVERAL = 2_000
"""Rows that have moved from which their normals and their boxes are brought up to date at once."""

PIECE = 65_536
"""Rows of a whole table that are worked on at a time."""

GUARD = "guard"
"""Vertex column (width 1) of the protection mask: 0 free, 1 kept from every change."""


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

    `origin` is where its tables count from, metres, in double precision: zero but for bodies that lie far out, where float32
    would tell places too coarsely apart. `down` says which way is down; `waters` is derived: what stands on it of the waters
    of its project. `coat_owner` says whose lasting coat the body carries; `border_lock` keeps shaping brushes off an open
    body's edge. `shown` and `locked` are its eye and its lock.
    `base` is the column of the ground that lies where neither hand nor rule says otherwise; `rules` are its ground rules.
    `strewn` are the props that stand on it (`mesh/strewn.py`), None where there are none; `strew_rules` say where they
    stand of themselves.
    `figures` are measures of the whole surface, dropped when it moves; `remeshed` counts how often its triangles became
    others.
    The column `normal` and the spatial index are derived: whoever writes positions calls `moved` with the rows.

    `layers` are its relief layers, lowest first. While there are any, `position` is derived too: `rest` plus the offsets
    of every layer times its strength, always added in that order, so that the same columns give the same bytes. Whoever
    writes `rest` or offsets calls `compose`.
    """

    def __init__(self, name: str, vertices: VertexTable, corners: CornerTable, ident: int = 0) -> None:
        self.name = name
        self.ident = ident
        self.vertices = vertices
        self.corners = corners
        self.origin: Place = (0.0, 0.0, 0.0)
        self.down = LEVEL
        self.waters: tuple[WaterLevel, ...] = ()
        self.coat_owner = ""
        self.border_lock = False
        self.shown = True
        self.locked = False
        self.base = 0
        self.rules: tuple[Any, ...] = ()
        self.figures: dict[Any, NDArray[np.float32]] = {}
        self.remeshed = 0
        self.layers: tuple[Layer, ...] = ()
        self.strewn: Strewn | None = None
        self.strew_rules: tuple[Any, ...] = ()
        self._below: tuple[int, Points] | None = None
        self._places = np.zeros(0, np.int32)
        self._slots = np.zeros(0, np.int32)
        self._index: SpatialIndex | None = None
        self._index_stale = False
        self._grower = RegionGrower()
        self._last_moved: Region | None = None
        if "normal" not in vertices:
            vertices.add_column("normal", 3)
            self._all_normals()

    @classmethod
    def from_shape(cls, name: str, shape: Shape, ident: int = 0) -> "Body":
        """A body with positions, normals, and UV where the shape has them."""
        vertices = VertexTable(shape.position.shape[0])
        vertices.set_column("position", shape.position)
        corners = CornerTable.from_triangles(
            shape.triangles, vertices.count, with_uv(shape.triangles.shape[0], shape.uv)
        )
        return cls(name, vertices, corners, ident)

    def copy(self) -> "Body":
        """An independent body with the same tables, slot for slot; its index is built anew when it is needed."""
        return self.alike(self.vertices.copy(), self.corners.copy())

    def view(self) -> "Body":
        """A body of the same tables, in which other columns can be set without this one having them.

        What is written into a column in place is written into this one.
        """
        return self.alike(self.vertices.view(), self.corners)

    def alike(self, vertices: VertexTable, corners: CornerTable) -> "Body":
        """A body of other tables, in all else like this one."""
        other = Body(self.name, vertices, corners, self.ident)
        other.origin, other.down, other.waters = self.origin, self.down, self.waters
        other.coat_owner, other.border_lock = self.coat_owner, self.border_lock
        other.shown, other.locked, other.layers = self.shown, self.locked, self.layers
        other.base, other.rules = self.base, self.rules
        other.strewn, other.strew_rules = self.strewn, self.strew_rules
        return other

    @property
    def index(self) -> SpatialIndex:
        """The spatial index, built at first use and brought up to date when all of the body has moved."""
        if self._index is None:
            self._index = SpatialIndex(self.corners.vertex, self.vertices["position"])
        elif self._index_stale:
            self._index.refit_all(self.corners.vertex, self.vertices["position"])
        self._index_stale = False
        return self._index

    @property
    def has_index(self) -> bool:
        """Whether the spatial index is built."""
        return self._index is not None

    @property
    def known_index(self) -> SpatialIndex | None:
        """The spatial index, where it is built and up to date."""
        return None if self._index_stale else self._index

    @property
    def nbytes(self) -> int:
        """Bytes of tables, index and stamp tables."""
        index = 0 if self._index is None else self._index.nbytes
        index += sum(values.nbytes for values in self.figures.values())
        if self._last_moved is not None:
            index += self._last_moved.nbytes
        return (
            self.vertices.nbytes
            + self.corners.nbytes
            + index
            + self._grower.nbytes
            + self._places.nbytes
            + self._slots.nbytes
        )

    def bounds(self) -> Bounds:
        """Extent of all vertices, about the origin."""
        position = self.vertices["position"]
        if self.vertices.free.count:
            position = position[self.corners.first_corner >= 0]
        low, high = low_high(position)
        return Bounds(low.astype(np.float64), high.astype(np.float64))

    @property
    def far(self) -> bool:
        """Whether it has an origin other than zero."""
        return any(self.origin)

    def own(self, point: Vector) -> Vector:
        """(3,) or (K, 3) places of the world as its tables count them: from its origin."""
        return np.asarray(point, np.float64) - self.origin if self.far else point

    def placed(self, points: Points | Vector) -> Vector:
        """(K, 3) float64 places of the world of (K, 3) places about its origin."""
        return np.asarray(points, np.float64) + self.origin

    def ray(self, origin: Vector, direction: Vector) -> SurfacePoint | None:
        """First surface point on a ray of the world, whichever side it shows."""
        return self._out(self.own_ray(self.own(origin), direction))

    def nearest(self, point: Vector, reach: float = np.inf) -> SurfacePoint | None:
        """Nearest surface point within `reach` metres of a place of the world."""
        return self._out(self.own_nearest(self.own(point), reach))

    def own_ray(self, origin: Vector, direction: Vector) -> SurfacePoint | None:
        """`ray`, about the origin."""
        return self.index.ray(self.corners.vertex, self.vertices["position"], origin, direction)

    def own_nearest(self, point: Vector, reach: float = np.inf) -> SurfacePoint | None:
        """`nearest`, about the origin."""
        return self.index.nearest(self.corners.vertex, self.vertices["position"], point, reach)

    def _out(self, point: SurfacePoint | None) -> SurfacePoint | None:
        if point is None or not self.far:
            return point
        return SurfacePoint(point.triangle, point.weights, point.position + self.origin, point.distance)

    def grow_region(self, seed: int, centre: Vector, radius: float, before: Earlier | None = None) -> Region:
        """Rows within `radius` metres of `centre`, connected over the surface with triangle `seed`; see `moment`."""
        corners = self.corners
        position = self.vertices["position"]
        return self._grower.grow(position, corners.vertex, corners.opposite, seed, centre, radius, before)

    def ball_region(self, centre: Vector, radius: float, before: Earlier | None = None) -> Region:
        """Rows within `radius` metres of `centre`, whether or not the surface between them is; see `moment`."""
        triangles = self.index.within(centre, radius)
        rows = distinct(self.corners.triangles[triangles])
        position = self.vertices["position"]
        away = (np.take(position, rows, axis=0) if before is None else earlier(position, before, rows)) - centre
        rows = rows[np.einsum("ij,ij->i", away, away) < radius * radius]
        return self.touched(rows)

    def normal_at(self, point: SurfacePoint) -> Vector:
        """(3,) unit normal interpolated at a surface point."""
        rows = self.corners.vertex[3 * point.triangle : 3 * point.triangle + 3]
        normal = point.weights @ self.vertices["normal"][rows].astype(np.float64)
        length = float(np.linalg.norm(normal))
        return normal / length if length > 0 else np.array([0.0, 1.0, 0.0])

    def layer_named(self, name: str, where: str) -> Layer:
        """A relief layer by name.

        Raises
        ------
        InvalidInput
            No such layer.
        """
        for layer in self.layers:
            if layer.name == name:
                return layer
        known = ", ".join(repr(layer.name) for layer in self.layers) or "none"
        raise InvalidInput(f"{where}: {self.name!r} has no relief layer {name!r}; it has {known}")

    def surface(self, layer: Layer | None) -> Points:
        """(N, 3) positions of the form and all layers up to and including one; of the form alone for None.

        What lies above rides along on it. The array is kept up to date by `compose`; it is `position` itself when nothing
        above it shows.
        """
        kept = 0 if layer is None else self.layers.index(layer) + 1
        if not any(entry.share for entry in self.layers[kept:]):
            return self.vertices["position"]
        if not any(entry.share for entry in self.layers[:kept]):
            return self.vertices[REST]
        if self._below is None or self._below[0] != kept:
            self._below = (kept, self._added(self.layers[:kept], slice(None)))
        return self._below[1][: self.vertices.count]

    def compose(self, rows: Rows | slice) -> None:
        """Add layers up to positions at some rows, or at all of them for any slice; `moved` does the rest."""
        if not self.layers:
            return
        if isinstance(rows, slice):  # in pieces, so that each stays in the cache
            by_pieces(self._compose, self.vertices.count, PIECE)
        else:
            self._compose(rows)

    def set_layers(self, layers: tuple[Layer, ...], columns: "dict[str, Points | None]") -> None:
        """Have other layers, with some columns of offsets (or the form) set, or dropped where None is given.

        The form becomes a column of its own with the first layer and the position again with the last one gone.
        """
        vertices = self.vertices
        if layers and REST not in vertices:
            vertices.set_column(REST, vertices["position"].copy())
        for name, values in columns.items():
            if values is not None:
                vertices.set_column(name, values.copy())
            elif name in vertices:
                vertices.drop_column(name)
        self.layers, self._below = layers, None
        if layers:
            self.compose(slice(None))
        elif REST in vertices:
            vertices["position"][:] = vertices[REST]
            vertices.drop_column(REST)
        self.all_moved()

    def off_composed(self) -> float:
        """Metres that positions are off at the most from what the layers add up to; 0 without layers."""
        off = 0.0
        for start in range(0, self.vertices.count if self.layers else 0, PIECE):
            rows = slice(start, min(start + PIECE, self.vertices.count))
            away = np.abs(self._added(self.layers, rows) - self.vertices["position"][rows]).max(axis=1)
            if self.vertices.free.count:
                away = away[self.corners.first_corner[rows] >= 0]
            off = max(off, float(away.max(initial=0.0)))
        return off

    def up(self, points: NDArray[np.floating]) -> Vector:
        """Unit vectors straight up at (K, 3) places about the origin: (1, 3) where they are the same everywhere."""
        return self.down.up(points, self.origin)

    def heights(self, points: NDArray[np.floating]) -> Vector:
        """(K,) metres above the sea of (K, 3) places about the origin."""
        return self.down.height(points, self.origin)

    def slopes(self, rows: Rows | slice) -> NDArray[np.floating]:
        """(K,) degrees between surface and horizontal at some rows: 0 level, 90 a wall, up to 180 under an overhang."""
        return self.down.slope(self.vertices["normal"][rows], self.vertices["position"][rows], self.origin)

    def free_share(self, rows: Rows) -> NDArray[np.float32] | None:
        """(K,) share of a change that the guard lets through at some rows; None when nothing is guarded."""
        if GUARD not in self.vertices:
            return None
        return 1.0 - np.take(self.vertices[GUARD][:, 0], rows)

    def held(self, rows: Rows) -> NDArray[np.bool_] | None:
        """(K,) which rows must not move because the border is locked; None when nothing is held."""
        if not self.border_lock:
            return None
        return on_border(self.corners.opposite, self.corners.first_corner, rows)

    def places(self) -> Rows:
        """(N,) scratch for whoever needs to find rows by their place in a list; it holds what the last user left."""
        if self._places.size < self.vertices.count:
            self._places = sparse_zeros(self.vertices.count * 5 // 4, np.int32)
        return self._places

    def slots(self) -> Rows:
        """(N,) zeros for whoever keeps rows in a list of their own; they have to be zeros again in the end."""
        if self._slots.size != self.vertices.count:
            self._slots = np.empty(self.vertices.count, np.int32)
            self._slots.fill(0)  # now, not page by page under the first dabs
        return self._slots

    def moved(self, around: Rows, triangles: Rows) -> None:
        """Bring normals and index up to date.

        Parameters
        ----------
        around : (L,) int32
            All rows of the triangles that have a moved vertex.
        triangles : (T,) int32
            Those triangles.
        """
        self.figures.clear()
        corners = self.corners
        position, index = self.vertices["position"], self._index

        def turn() -> None:
            self._normals(around)

        def fit() -> None:
            if index is not None and not self._index_stale:
                index.refit(corners.vertex, position, triangles)

        side_by_side(lambda work: work(), (turn, fit), 2 if around.size > SEVERAL else 1)  # neither reads the other's

    def rows_moved(self, rows: Rows) -> Rows:
        """`moved` for whoever knows only the rows; returns the rows whose normals were written."""
        touched = self._last_moved  # a drag takes back and moves the same rows time and again
        if touched is None or not np.array_equal(touched.inside, rows):
            touched = self._last_moved = self.touched(rows)
        self.moved(touched.around, touched.triangles)
        return touched.around

    def retriangulated(self, rows: Rows, triangles: Rows, around: Rows) -> None:
        """Bring what is derived up to date after some triangles came, went or changed.

        Parameters
        ----------
        rows : (K,) int32
            Rows of vertices that are new or moved.
        triangles : (T,) int32
            Slots that changed, freed ones among them.
        around : (L,) int32
            All rows of triangles that changed or have a moved vertex.
        """
        self.figures.clear()
        self.remeshed += 1
        self._last_moved = None
        corners = self.corners
        if self._below is not None and self._below[1].shape[0] < self.vertices.count:
            kept, below = self._below
            grown = np.empty((self.vertices.count * 5 // 4, 3), np.float32)
            grown[: below.shape[0]] = below
            self._below = (kept, grown)
        self.compose(rows)
        if self._index is not None:
            self._index.renew(corners.vertex, self.vertices["position"], triangles, corners.opposite)
        self._normals(around)

    def forget(self, triangles: Rows) -> None:
        """Take slots that are about to be cut off out of the index."""
        if self._index is not None:
            self._index.drop(self.corners.vertex, self.vertices["position"], triangles)

    def touched(self, rows: Rows) -> Region:
        """Triangles that use some rows, ascending, and all rows of those triangles."""
        corners = self.corners
        return self._grower.around(corners.vertex, corners.opposite, corners.first_corner, rows)

    def all_moved(self) -> None:
        """`moved` for all rows."""
        self.figures.clear()
        self._all_normals()
        self._index_stale = True  # a dragged slider moves all many times before anyone asks where a ray meets it

    def known_changed(self, column: str) -> bool:
        """Tell the body that a column is another one; whether its normals are, too."""
        self.figures.clear()
        if column not in (FLAT, STITCHED):
            return False
        self._all_normals()
        return True

    def replaced(self, index: SpatialIndex | None = None) -> None:
        """Tell the body that its tables were replaced as a whole; `index`: that of the new ones, where it is known."""
        assert self.corners.first_corner.size == self.vertices.count, "the two tables are not of the same mesh"
        self._index, self._index_stale = index, False
        self._below = None
        self.figures.clear()
        self.remeshed += 1
        self._last_moved = None
        self._grower = RegionGrower()
        self.compose(slice(None))
        if "normal" not in self.vertices:
            self.vertices.add_column("normal", 3)
        self._all_normals()

    def _compose(self, rows: Rows | slice) -> None:
        self.vertices["position"][rows] = self._added(self.layers, rows)
        if self._below is not None:
            kept, below = self._below
            below[rows] = self._added(self.layers[:kept], rows)

    def _added(self, layers: tuple[Layer, ...], rows: Rows | slice) -> Points:
        total: Points = self.vertices[REST][rows].copy()
        for layer in layers:
            if layer.share:
                total += np.float32(layer.share) * self.vertices[layer.column][rows]
        return total

    def _all_normals(self) -> None:
        count = self.vertices.count

        def some(part: slice) -> None:
            self._normals(np.arange(part.start, min(part.stop, count), dtype=np.int32))

        by_pieces(some, count, PIECE)

    def _normals(self, rows: Rows) -> None:
        corners, position, normal = self.corners, self.vertices["position"], self.vertices["normal"]
        update_normals(position, corners.vertex, corners.opposite, corners.first_corner, rows, normal)
        leave_out_flat(position, corners, rows, normal)
        take_stitched(self.vertices, corners, rows, normal)
