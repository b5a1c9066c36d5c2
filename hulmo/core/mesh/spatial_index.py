"""Where a ray meets a body, and which point of it is nearest."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh import tree_query, tree_update
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.moment import NOW, Earlier, earlier
from hulmo.core.mesh.morton import morton_order
from hulmo.core.mesh.tree import LEAF_FILL, Tree
from hulmo.core.mesh.tree_build import build_tree
from hulmo.core.mesh.walk_ring import walk_ring
from hulmo.core.workers import WORKERS, by_pieces

DEEPEST = 80
"""Levels of the tree beyond which it is built anew; searches have room for 96."""

SPARSEST, FEW = 6, 100_000
"""Room in leaves, in triangles of the body and beyond, over which the tree is built anew: leaves that were emptied stay."""

FARTHEST = 24
"""Steps from neighbour to neighbour that are gone to find the leaf for a new triangle."""

FEWEST, PIECE = 400, 20_000
"""Points that one thread looks for at a time; which ones they are together with makes no difference to what is found."""

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Vector = NDArray[np.float64]
Places = NDArray[np.float64]


@dataclass(frozen=True)
class SurfacePoint:
    """A point on a body.

    Attributes
    ----------
    triangle : int
    weights : (3,) float64
        Barycentric weights of the triangle's corners, summing to 1.
    position : (3,) float64
        Metres.
    distance : float
        Metres from the ray's origin or from the asked point.
    """

    triangle: int
    weights: Vector
    position: Vector
    distance: float


class SpatialIndex:
    """A box tree over one body's triangles. Built once, then kept true by `refit`, `insert` and `remove`.

    Both sides of a triangle count: a modeler works inside caves. While `before` is set, boxes hold triangles where they are
    and where they were, so that both surfaces can be asked for. Where nothing comes and goes meanwhile, boxes are true of the
    surface as it was without any work; what has moved waits until somebody asks for the surface as it is.
    """

    def __init__(self, vertex: Corners, position: Points, like: "SpatialIndex | None" = None) -> None:
        """Build over all live triangles.

        Parameters
        ----------
        vertex : (3 M,) int32
            Vertex at each corner, -1 in freed triangles.
        position : (N, 3) float32
            Metres.
        like : SpatialIndex, optional
            Over the same triangles, whose structure it takes; see `over`.
        """
        self.before: Callable[[], Earlier] | None = None
        self._waiting: list[Corners] = []
        self._tables = (vertex, position)
        self._out = np.zeros(3, np.float64)
        self._found = np.empty(8192, np.int32)
        if like is None:
            self._build(vertex, position)
            return
        self._tree: Tree = like._tree.copy()
        self._node_stamp: Corners = np.zeros_like(like._node_stamp)
        self._stamp: int = 0
        self.refit_all(vertex, position)

    def _build(self, vertex: Corners, position: Points) -> None:
        live = np.flatnonzero(vertex[::3] >= 0).astype(np.int32)
        self._waiting = []
        self._tree = tree = build_tree(vertex, position, live)
        self._node_stamp = np.zeros(tree.nodes, np.int32)
        self._stamp = 0
        tree_update.fit_all(tree.box, tree.first, tree.nodes, tree.leaf_items, tree.leaf_count, vertex, position)
        if self.before is not None:
            self._fit(vertex, position, np.arange(tree.leaves, dtype=np.int32))

    def over(self, vertex: Corners, position: Points) -> "SpatialIndex":
        """An index of the same triangles with their corners elsewhere, as under a relief.

        Cheaper than one made anew, and as quick to search where neighbours have stayed neighbours.
        """
        return SpatialIndex(vertex, position, self)

    @property
    def nbytes(self) -> int:
        """Bytes held."""
        return self._tree.nbytes + self._node_stamp.nbytes

    @property
    def search(self) -> tuple[Points, Corners, Corners, Corners]:
        """The arrays of the tree that a kernel reads which searches it: box, first child, items and count of leaves."""
        self._catch_up()
        return self._tree.search

    @property
    def bounds(self) -> Points:
        """(2, 3) low and high corner of everything, metres."""
        self._catch_up()
        return np.array(self._tree.box[0]).reshape(2, 3)

    def ray(
        self,
        vertex: Corners,
        position: Points,
        origin: Vector,
        direction: Vector,
        reach: float = np.inf,
        before: Earlier | None = None,
    ) -> SurfacePoint | None:
        """First point of the surface on a ray, whichever side it shows.

        Parameters
        ----------
        origin, direction : (3,) float64
            The direction need not be of unit length.
        reach : float
            Metres beyond which nothing is looked for.
        before : tuple, optional
            Asks for the surface as it was then.
        """
        length = float(np.linalg.norm(direction))
        if not length > 0 or not np.isfinite(length) or not np.all(np.isfinite(origin)):
            return None
        start, slot = before or (position, NOW)
        triangle = tree_query.ray_hit(
            *self._holding(before),
            vertex,
            position,
            start,
            slot,
            np.ascontiguousarray(origin, np.float64),
            np.ascontiguousarray(direction, np.float64) / length,
            reach,
            self._out,
        )
        if triangle < 0:
            return None
        return self._point(vertex, position, triangle, float(self._out[0]), before)

    def rays(
        self, vertex: Corners, position: Points, origin: Places, direction: Places, reach: Vector
    ) -> tuple[Corners, Vector, Places]:
        """First triangle on each of (K, 3) rays of unit length, -1 without one; how far off it is, and the (K, 3) weights of
        its corners there.

        Parameters
        ----------
        origin, direction : (K, 3) float64
        reach : (K,) float64
            Metres beyond which nothing is looked for.
        """
        triangle, out = np.empty(origin.shape[0], np.int32), np.zeros((origin.shape[0], 3))
        tree_query.ray_hits(
            *self.search,
            vertex,
            position,
            np.ascontiguousarray(origin, np.float64),
            np.ascontiguousarray(direction, np.float64),
            np.ascontiguousarray(reach, np.float64),
            triangle,
            out,
        )
        return triangle, out[:, 0].copy(), np.column_stack((1.0 - out[:, 1] - out[:, 2], out[:, 1], out[:, 2]))

    def nearest(
        self, vertex: Corners, position: Points, point: Vector, reach: float = np.inf, before: Earlier | None = None
    ) -> SurfacePoint | None:
        """Nearest point of the surface, or of the surface as it was `before`, within `reach` metres of a point."""
        if not np.all(np.isfinite(point)):
            return None
        start, slot = before or (position, NOW)
        triangle = tree_query.nearest(
            *self._holding(before),
            vertex,
            position,
            start,
            slot,
            np.ascontiguousarray(point, np.float64),
            reach,
            self._out,
        )
        if triangle < 0:
            return None
        return self._point(vertex, position, triangle, float(np.sqrt(self._out[0])), before)

    def nearest_many(self, vertex: Corners, position: Points, points: Points) -> tuple[Corners, Points]:
        """Nearest triangle of each of (K, 3) points, and the (K, 3) weights of its corners at the nearest point."""
        triangle, weight = np.empty(points.shape[0], np.int32), np.empty((points.shape[0], 3), np.float32)
        if not points.shape[0]:
            return triangle, weight
        order = morton_order(points)
        ordered = np.ascontiguousarray(points[order], np.float32)
        search = self.search

        def find(part: slice) -> None:
            where = order[part]
            found, shares = np.empty(where.size, np.int32), np.empty((where.size, 3), np.float32)
            tree_query.nearest_many(*search, vertex, position, ordered[part], found, shares)
            triangle[where], weight[where] = found, shares

        by_pieces(find, points.shape[0], min(PIECE, max(FEWEST, -(-points.shape[0] // WORKERS))))
        return triangle, weight

    def ring(
        self,
        vertex: Corners,
        position: Points,
        centre: Vector,
        across: Vector,
        along: Vector,
        radius: float,
        count: int,
        steps: int,
    ) -> NDArray[np.float64]:
        """(count, 3) surface points `radius` metres from a surface point, found by walking outward over the surface.

        A walk that meets a border ends there.

        Parameters
        ----------
        centre : (3,) float64
            A surface point.
        across, along : (3,) float64
            Unit vectors of the tangent plane there.
        steps : int
            Steps of a walk on level ground.
        """
        rim = np.empty((count, 3))
        walk_ring(
            *self.search,
            vertex,
            position,
            np.ascontiguousarray(centre, np.float64),
            np.ascontiguousarray(across, np.float64),
            np.ascontiguousarray(along, np.float64),
            radius,
            steps,
            rim,
        )
        return rim

    def refit(self, vertex: Corners, position: Points, triangles: Corners) -> None:
        """Tell the index that triangles have moved."""
        self._tables = (vertex, position)
        self._waiting.append(triangles)
        if self.before is None or not self.before()[1].size:
            self._catch_up()

    def refit_all(self, vertex: Corners, position: Points) -> None:
        """Tell the index that any triangle may have moved."""
        tree = self._tree
        self._waiting = []
        tree_update.fit_all(tree.box, tree.first, tree.nodes, tree.leaf_items, tree.leaf_count, vertex, position)

    def within(self, centre: Vector, radius: float) -> Corners:
        """(T,) triangles whose leaf comes within `radius` metres of a point: all that do themselves, and a few more."""
        search = self.search
        while True:
            found = tree_query.within(*search, centre, radius, self._found)
            if found >= 0:
                return self._found[:found].copy()
            self._found = np.empty(4 * self._found.size, np.int32)

    def remove(self, triangles: Corners) -> None:
        """Forget triangles; their slots may then be used for others."""
        tree = self._tree
        held = triangles[tree.holds(triangles)]
        tree_update.take_out(tree.leaf_items, tree.leaf_count, tree.leaf_of, held)

    def drop(self, vertex: Corners, position: Points, triangles: Corners) -> None:
        """Forget triangles, and shrink the boxes they lay in."""
        emptier = self._tree.leaves_of(triangles)
        self.remove(triangles)
        # a leaf that kept the box of what it held would draw in whatever comes, from far around
        self._fit(vertex, position, emptier)

    def insert(self, vertex: Corners, position: Points, triangles: Corners, opposite: Corners | None = None) -> None:
        """Take in triangles that are not held yet; with `opposite`, each beside a neighbour, where it belongs best."""
        if not triangles.size:
            return
        tree = self._tree
        # a leaf that overflows is full already, so every new leaf but one of each has a share of what came
        tree.reserve(tree.leaves + triangles.size + 1, vertex.size // 3)
        used = np.array([tree.nodes, tree.leaves], np.int64)
        deepest = tree_update.put_in(
            tree.box,
            tree.first,
            tree.parent,
            tree.leaf_items,
            tree.leaf_count,
            tree.leaf_node,
            tree.leaf_of,
            vertex,
            position,
            *self._both(position),
            triangles,
            self._beside(triangles, opposite),
            used,
            LEAF_FILL,
        )
        tree.nodes, tree.leaves = int(used[0]), int(used[1])
        if self._node_stamp.size < tree.first.size:
            grown = np.zeros(tree.first.size, np.int32)
            grown[: self._node_stamp.size] = self._node_stamp
            self._node_stamp = grown
        self._fit(vertex, position, tree.leaf_of[triangles])
        if deepest > DEEPEST or tree.leaves * LEAF_FILL > SPARSEST * (vertex.size // 3) + FEW:
            self._build(vertex, position)

    def _beside(self, triangles: Corners, opposite: Corners | None) -> Corners:
        # the leaf of a neighbour that is held, or of a neighbour's neighbour and so on; -1 where there is none
        goals = np.full(triangles.size, -1, np.int32)
        if opposite is None:
            return goals
        leaf_of = self._tree.leaf_of
        across = opposite.reshape(-1, 3)[triangles] // 3  # -1 stays below 0
        for _ in range(FARTHEST):
            open_ones = np.flatnonzero(goals < 0)
            if not open_ones.size:
                break
            there = across[open_ones]
            goals[open_ones] = np.where(there >= 0, leaf_of[np.maximum(there, 0)], -1).max(axis=1)
            leaf_of[triangles[open_ones]] = goals[open_ones]
        leaf_of[triangles] = -1
        return goals

    def renew(self, vertex: Corners, position: Points, triangles: Corners, opposite: Corners) -> None:
        """Tell the index that triangles have come, gone or moved; which of the three it finds out itself."""
        held = self._tree.holds(triangles)
        live = vertex[3 * triangles] >= 0
        self.drop(vertex, position, triangles[held & ~live])
        self.insert(vertex, position, triangles[live & ~held], opposite)
        self.refit(vertex, position, triangles[live & held])

    def _catch_up(self) -> None:
        waiting, self._waiting = self._waiting, []
        if waiting:
            triangles = waiting[0] if len(waiting) == 1 else distinct(np.concatenate(waiting))
            self._fit(*self._tables, self._tree.leaves_of(triangles))

    def _holding(self, before: Earlier | None) -> tuple[Points, Corners, Corners, Corners]:
        # the tree, once it holds the surface that is asked for
        return self.search if before is None else self._tree.search

    def _fit(self, vertex: Corners, position: Points, leaves: Corners) -> None:
        tree = self._tree
        self._stamp += 1
        tree_update.fit_leaves(
            tree.box,
            tree.first,
            tree.parent,
            tree.leaf_items,
            tree.leaf_count,
            tree.leaf_node,
            vertex,
            position,
            *self._both(position),
            leaves,
            self._node_stamp,
            self._stamp,
        )

    def _both(self, position: Points) -> tuple[Points, Corners, int]:
        if self.before is None:
            return position, NOW, tree_update.ANEW
        start, slot = self.before()
        # where nothing comes and goes, a box that never shrinks holds both surfaces at no cost
        return start, slot, tree_update.KEEP if slot.size else tree_update.READ

    def _point(
        self, vertex: Corners, position: Points, triangle: int, distance: float, before: Earlier | None
    ) -> SurfacePoint:
        v, w = float(self._out[1]), float(self._out[2])
        weights = np.array([1.0 - v - w, v, w])
        rows = vertex[3 * triangle : 3 * triangle + 3]
        corners = (position[rows] if before is None else earlier(position, before, rows)).astype(np.float64)
        return SurfacePoint(int(triangle), weights, weights @ corners, distance)
