"""What a body looks like in the plane of its texture coordinates: what is drawn of it, and what lies where."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import chosen
from hulmo.core.commands.laid_uv import corners_of
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.torn import torn
from hulmo.core.uv.charts import SAME
from hulmo.core.uv.laid import Laid
from hulmo.core.uv.pack import signed_areas
from hulmo.render.uv_picture import UvShown

Place = tuple[float, float]

DOMAINS = {"charts": "face", "faces": "face", "edges": "edge", "vertices": "vertex"}
"""What is chosen in the view, and which domain of a body that is."""

MEANT = {"charts": "charts", "faces": "chosen", "edges": "edges", "vertices": "vertices"}
"""And how `change_uv` says it."""


@dataclass
class UvPlane:
    """The plane of one set of a body.

    Attributes
    ----------
    body : Body
    column : str
    kind : str
        charts, faces, edges or vertices: what is worked on.
    laid : Laid
    goes : (K, 3) bool
        Corners that a drag takes along.
    """

    body: Body
    column: str
    kind: str
    laid: Laid
    goes: NDArray[np.bool_]

    @classmethod
    def of(cls, body: Body, column: str, kind: str, former: "UvPlane | None" = None) -> "UvPlane | None":
        """That of a set; None where the body has none of the name. Of a former one, the charts are taken over where they
        are the same still."""
        if column not in body.corners.slots:
            return None
        laid = Laid.of(body, column)
        if (
            former is not None
            and (former.body, former.column) == (body, column)
            and np.array_equal(former.slots, laid.slots)
            and np.array_equal(former.uv, laid.uv)
            and np.array_equal(former.laid.opposite, laid.opposite)
        ):
            laid = former.laid
        if kind == "charts":
            whole = np.isin(laid.chart, laid.chart[chosen(body, "face")[laid.slots]])
            return cls(body, column, kind, laid, np.repeat(whole[:, None], 3, axis=1))
        try:
            goes = corners_of(body, MEANT[kind], column, "uv view")[laid.slots]
        except InvalidInput:  # nothing is chosen
            goes = np.zeros((laid.slots.size, 3), np.bool_)
        return cls(body, column, kind, laid, goes)

    @property
    def slots(self) -> NDArray[np.int32]:
        """(K,) live triangles."""
        return self.laid.slots

    @property
    def uv(self) -> NDArray[np.float64]:
        """(K, 3, 2) their coordinates."""
        return self.laid.uv

    @property
    def chart(self) -> NDArray[np.int32]:
        """(K,) their charts."""
        return self.laid.chart

    def shown(self) -> UvShown:
        """What is drawn."""
        body, slots = self.body, self.slots
        opposite = self.laid.opposite
        rims = torn(self.uv, opposite, SAME) | (opposite.reshape(-1, 3) < 0)
        faces = np.asarray(self.goes.all(axis=1)) if self.kind == "charts" else chosen(body, "face")[slots]
        edges = chosen(body, "edge")[slots] if self.kind == "edges" else np.zeros((slots.size, 3), np.bool_)
        points = np.empty((0, 2), np.float32)
        if self.kind == "vertices":
            points = np.unique(self.uv[self.goes], axis=0).astype(np.float32)
        return UvShown(
            self.uv.astype(np.float32), faces if self.kind in ("charts", "faces") else np.zeros(slots.size, np.bool_),
            signed_areas(self.uv) < 0, edges, rims, points, self.goes,
        )  # fmt: skip

    def box(self) -> tuple[Place, Place] | None:
        """Lower and upper corner of what a drag takes along; None where that is nothing."""
        if not self.goes.any():
            return None
        spots = self.uv[self.goes]
        (a, b), (c, d) = spots.min(axis=0).tolist(), spots.max(axis=0).tolist()
        return (a, b), (c, d)

    def under(self, at: Place, reach: float) -> tuple[int, ...]:
        """What lies at a place: numbers as `choose_parts` takes them, empty for nothing.

        Parameters
        ----------
        at : (u, v)
        reach : float
            How far off vertices and edges may lie.
        """
        spot = np.array(at)
        if self.kind in ("charts", "faces"):
            found = np.flatnonzero(self._within(spot))
            return (int(self.slots[found[-1]]),) if found.size else ()
        triangles = self.body.corners.triangles[self.slots]
        if self.kind == "vertices":
            away = np.linalg.norm(self.uv - spot, axis=2)
            best = int(away.argmin())
            return (int(triangles.reshape(-1)[best]),) if away.reshape(-1)[best] <= reach else ()
        a, b = self.uv[:, (1, 2, 0)], self.uv[:, (2, 0, 1)]
        along = b - a
        share = ((spot - a) * along).sum(axis=2) / np.maximum((along * along).sum(axis=2), 1e-30)
        away = np.linalg.norm(spot - (a + along * np.clip(share, 0, 1)[..., None]), axis=2)
        face, corner = np.unravel_index(int(away.argmin()), away.shape)
        if away[face, corner] > reach:
            return ()
        return int(triangles[face, (corner + 1) % 3]), int(triangles[face, (corner + 2) % 3])

    def inside(self, one: Place, other: Place) -> tuple[int, ...]:
        """What lies wholly within a box; charts and faces of which any corner does."""
        low, high = np.minimum(one, other), np.maximum(one, other)
        there = np.asarray(((self.uv >= low) & (self.uv <= high)).all(axis=2))
        triangles = self.body.corners.triangles[self.slots]
        if self.kind == "faces":
            return tuple(self.slots[there.any(axis=1)].tolist())
        if self.kind == "charts":  # one face of each
            charts, first = np.unique(self.chart, return_index=True)
            wanted = np.isin(charts, np.unique(self.chart[there.any(axis=1)]))
            return tuple(self.slots[first[wanted]].tolist())
        if self.kind == "vertices":
            return tuple(np.unique(triangles[there]).tolist())
        face, corner = np.nonzero(there[:, (1, 2, 0)] & there[:, (2, 0, 1)])
        ends = np.stack((triangles[face, (corner + 1) % 3], triangles[face, (corner + 2) % 3]), axis=1)
        return tuple(np.unique(np.sort(ends, axis=1), axis=0).reshape(-1).tolist())

    def _within(self, spot: NDArray[np.float64]) -> NDArray[np.bool_]:
        arm = self.uv - spot
        turn = [arm[:, i, 0] * arm[:, j, 1] - arm[:, i, 1] * arm[:, j, 0] for i, j in ((0, 1), (1, 2), (2, 0))]
        return np.asarray(
            ((turn[0] >= 0) & (turn[1] >= 0) & (turn[2] >= 0)) | ((turn[0] <= 0) & (turn[1] <= 0) & (turn[2] <= 0))
        )
