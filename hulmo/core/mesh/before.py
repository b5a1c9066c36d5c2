"""The surface as it was when a stroke began, while the stroke changes it; costs what is about to change."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.moment import NOW, Earlier, earlier
from hulmo.core.mesh.normals import update_normals
from hulmo.core.mesh.patch import SCRATCH
from hulmo.core.mesh.region import Region
from hulmo.core.mesh.spatial_index import SurfacePoint

Rows = NDArray[np.int32]
Points = NDArray[np.float32]
Vector = NDArray[np.float64]

PLACE, FACING = f"{SCRATCH}place", f"{SCRATCH}facing"
"""Vertex columns (width 3) that hold positions and normals of a stroke that remeshes, so that new vertices have them too."""


FEW = 4096
"""Rows that there is room for at first."""


@kernel(
    "int64(int32[::1], int32[::1], float32[:,::1], float32[:,::1], int64, int32[::1], float32[:,::1], float32[:,::1])"
)
def _keep(
    around: Rows, slot: Rows, position: Points, normal: Points, count: int, rows: Rows, place: Points, facing: Points
) -> int:
    for i in range(around.size):
        row = around[i]
        if slot[row] == 0:
            rows[count] = row
            for axis in range(3):
                place[count, axis] = position[row, axis]
                facing[count, axis] = normal[row, axis]
            count += 1
            slot[row] = count
    return count


@kernel("void(float32[:,::1], int32[::1], int32[::1], float32[:,::1])")
def _take(facing: Points, slot: Rows, rows: Rows, out: Points) -> None:
    for i in range(rows.size):
        at = slot[rows[i]] - 1
        for axis in range(3):
            out[i, axis] = facing[at, axis]


class Before:
    """Positions and normals from before a stroke.

    Parameters
    ----------
    body : Body
    grows : bool
        Whether vertices come and go during the stroke.
    """

    def __init__(self, body: Body, grows: bool) -> None:
        self._body, self._grows = body, grows
        self._noted: list[Rows] = []
        if grows:
            body.vertices.set_column(PLACE, body.vertices["position"].copy())
            body.vertices.add_column(FACING, 3)
        else:
            self._slot = body.slots()
            self._count = 0
            self._rows = np.empty(FEW, np.int32)
            self._place, self._facing = np.empty((FEW, 3), np.float32), np.empty((FEW, 3), np.float32)
        body.index.before = lambda: self.earlier if grows else (self._place, self._slot)

    @property
    def earlier(self) -> Earlier:
        """Positions, and the rows for which they stand."""
        if self._grows:
            return self._body.vertices[PLACE], NOW
        return (self._place, self._slot) if self._count else (self._body.vertices["position"], NOW)

    def normals(self, rows: Rows) -> Points:
        """(K, 3) normals of rows that were noted."""
        if self._grows:
            return np.take(self._body.vertices[FACING], rows, axis=0)
        out = np.empty((rows.size, 3), np.float32)
        _take(self._facing, self._slot, rows, out)
        return out

    def note(self, around: Rows, triangles: Rows) -> None:
        """Call with rows whose position or normal is about to change, and before their normals are asked for; and with
        triangles that are about to move, or that came."""
        self._noted.append(triangles)
        if self._grows:  # rows came and slid meanwhile
            corners = self._body.corners
            place, facing = self._body.vertices[PLACE], self._body.vertices[FACING]
            update_normals(place, corners.vertex, corners.opposite, corners.first_corner, around, facing)
            return
        if self._count + around.size > self._rows.size:
            room = max(self._count + around.size, 2 * self._rows.size)
            for name in ("_rows", "_place", "_facing"):
                old = getattr(self, name)
                grown = np.empty((room, *old.shape[1:]), old.dtype)
                grown[: self._count] = old[: self._count]
                setattr(self, name, grown)
        vertices = self._body.vertices
        self._count = int(
            _keep(
                around, self._slot, vertices["position"], vertices["normal"], self._count, self._rows, self._place,
                self._facing,
            )
        )  # fmt: skip

    def end(self) -> None:
        """Have the index hold the surface as it is now alone."""
        body = self._body
        if body.has_index:
            body.index.before = None
            if self._noted:
                body.index.refit(body.corners.vertex, body.vertices["position"], distinct(np.concatenate(self._noted)))
        self._noted = []
        if not self._grows:
            self._slot[self._rows[: self._count]] = 0
            self._count = 0

    def ray(self, origin: Vector, direction: Vector) -> SurfacePoint | None:
        """First point of that surface on a ray, whichever side it shows."""
        body = self._body
        return body.index.ray(body.corners.vertex, body.vertices["position"], origin, direction, before=self.earlier)

    def nearest(self, point: Vector) -> SurfacePoint | None:
        """Nearest point of that surface."""
        body = self._body
        return body.index.nearest(body.corners.vertex, body.vertices["position"], point, before=self.earlier)

    def then(self, point: SurfacePoint) -> SurfacePoint:
        """The same point of the body, where it was."""
        return SurfacePoint(point.triangle, point.weights, self._at(point, True), point.distance)

    def now(self, point: SurfacePoint) -> Vector:
        """(3,) where a point of the body is now, metres."""
        return self._at(point, False)

    def grow_region(self, seed: int, centre: Vector, radius: float) -> Region:
        """Rows that were within `radius` metres of `centre`, connected over the surface with triangle `seed`."""
        return self._body.grow_region(seed, centre, radius, self.earlier)

    def ball_region(self, centre: Vector, radius: float) -> Region:
        """Rows that were within `radius` metres of `centre`."""
        return self._body.ball_region(centre, radius, self.earlier)

    def _at(self, point: SurfacePoint, then: bool) -> Vector:
        rows = self._body.corners.vertex[3 * point.triangle : 3 * point.triangle + 3]
        position = self._body.vertices["position"]
        places = earlier(position, self.earlier, rows) if then else position[rows]
        return np.asarray(point.weights @ places.astype(np.float64))
