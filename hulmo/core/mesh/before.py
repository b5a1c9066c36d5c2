"""The surface as it was when a stroke began, while the stroke changes it; costs what is about to change."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.moment import NOW, earlier
from hulmo.core.mesh.normals import update_normals
from hulmo.core.mesh.patch import SCRATCH
from hulmo.core.mesh.region import Region
from hulmo.core.mesh.spatial_index import Earlier, SurfacePoint

Rows = NDArray[np.int32]
Points = NDArray[np.float32]
Vector = NDArray[np.float64]

PLACE, FACING = f"{SCRATCH}place", f"{SCRATCH}facing"
"""Vertex columns (width 3) that hold positions and normals of a stroke that remeshes, so that new vertices have them too."""


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
        count = body.vertices.count
        self._noted: list[Rows] = []
        if grows:
            body.vertices.set_column(PLACE, body.vertices["position"].copy())
            body.vertices.add_column(FACING, 3)
        else:
            self._place = np.empty((count, 3), np.float32)
            self._facing = np.empty((count, 3), np.float32)
            self._moved = np.zeros(count, np.bool_)
        body.index.before = lambda: self.earlier

    @property
    def earlier(self) -> Earlier:
        """Positions, and the rows for which they stand."""
        return (self._body.vertices[PLACE], NOW) if self._grows else (self._place, self._moved)

    @property
    def normal(self) -> Points:
        """(N, 3) normals, true at every row that was noted."""
        return self._body.vertices[FACING] if self._grows else self._facing

    def note(self, around: Rows, triangles: Rows) -> None:
        """Call with rows whose position or normal is about to change, and before their normals are asked for; and with
        triangles that are about to move, or that came."""
        self._noted.append(triangles)
        if self._grows:  # rows came and slid meanwhile
            corners = self._body.corners
            place, facing = self._body.vertices[PLACE], self._body.vertices[FACING]
            update_normals(place, corners.vertex, corners.opposite, corners.first_corner, around, facing)
            return
        new = around[~np.take(self._moved, around)]
        if new.size:
            self._moved[new] = True
            self._place[new] = np.take(self._body.vertices["position"], new, axis=0)
            self._facing[new] = np.take(self._body.vertices["normal"], new, axis=0)

    def end(self) -> None:
        """Have the index hold the surface as it is now alone."""
        body = self._body
        if body.has_index:
            body.index.before = None
            if self._noted:
                body.index.refit(body.corners.vertex, body.vertices["position"], distinct(np.concatenate(self._noted)))
        self._noted = []

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
