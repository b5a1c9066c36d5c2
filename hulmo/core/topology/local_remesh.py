"""Even triangles of a wanted length within a piece of a body; the cost is that of the piece."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.layer import derived
from hulmo.core.mesh.patch import PatchRecorder
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.stitched import STITCHED
from hulmo.core.topology.local.collapse import collapse_short
from hulmo.core.topology.local.common import FACES, FREE_FACES, FREE_ROWS, LOG, OF_EDGE, OF_FACE, ROWS, WORK
from hulmo.core.topology.local.ease import ease
from hulmo.core.topology.local.flip import flip_edges
from hulmo.core.topology.local.prepare import clear, count_off, replay, set_up, touch
from hulmo.core.topology.local.split import split_long

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]

LONG, SHORT = 4.0 / 3.0, 4.0 / 5.0
"""Shares of the wanted length from which edges are split, and under which they are collapsed."""

STEP = 1.4
"""Edges are split the longest first, in rounds whose limits fall by this factor, so that halves are well shaped."""

EASE, EASINGS = 0.5, 2
"""Part of the way to the middle of its neighbours that a vertex slides, and how often."""

MANY, FEW = 4, 512
"""Triangles that one call makes at the most: so many for each of the piece, and some more."""

STEPS = 8
"""Steps of single precision that an edge must at least be long: far from the origin of a body there are no shorter ones."""

EVERYWHERE = 1e20
"""Metres of a reach from which it is none."""

NO_GUARD = np.zeros((0, 1), np.float32)


@dataclass(frozen=True)
class Remeshed:
    """What a remeshing changed.

    Attributes
    ----------
    rows : (K,) int32
        Rows of vertices that are new or moved, ascending.
    triangles : (T,) int32
        Slots of the piece: changed, new and freed ones.
    around : (L,) int32
        Rows of the piece's triangles, ascending: the rows whose normals may have changed.
    more : bool
        Whether it stopped for want of room and should be called again.
    """

    rows: Rows
    triangles: Rows
    around: Rows
    more: bool


class LocalRemesh:
    """Remeshes pieces of one body. Keeps its scratch arrays between calls.

    Vertices on borders, on seams (where faces or corners differ, or something is known of the edge), and guarded ones stay
    where and what they are; edges between them may still be halved, except guarded edges, and border edges while the border
    is locked.

    Notes
    -----
    Split, collapse, flip, tangential easing: Botsch and Kobbelt, "A remeshing approach to multiresolution modeling" (2004).
    Flips look at valence first and then at the Delaunay condition (opposite angles under 180 degrees).
    """

    def __init__(self, body: Body) -> None:
        self._body = body
        self._mark = np.zeros(0, np.uint8)
        self._hold = np.zeros(0, np.uint8)
        self._degree = np.zeros(0, np.int16)

    def wanted(
        self, triangles: Rows, centre: Vector, radius: float, length: float, split: bool, collapse: bool
    ) -> bool:
        """Whether any edge near `centre` is too long or too short; see `run`."""
        corners = self._body.corners
        length = max(length, self._shortest(triangles, centre, radius))
        off = count_off(
            self._body.vertices["position"],
            corners.vertex,
            corners.opposite,
            triangles,
            triangles.size,
            LONG * length if split else np.inf,
            SHORT * length if collapse else 0.0,
            centre,
            radius * radius,
        )
        return off > 0

    def run(
        self,
        triangles: Rows,
        centre: Vector,
        radius: float,
        length: float,
        split: bool,
        collapse: bool,
        throughout: bool = False,
        short: float = SHORT,
        recorder: PatchRecorder | None = None,
    ) -> Remeshed | None:
        """Remesh a piece, and bring normals and index up to date.

        Parameters
        ----------
        triangles : (T,) int32
            The piece; only edges with both triangles in it are touched.
        centre : (3,) float64
        radius : float
            Edges whose middle lies within `radius` metres of `centre` are looked at.
        length : float
            Wanted edge length, metres: edges over 4/3 of it are split, edges under 4/5 collapsed. Longer where single
            precision holds none that short.
        split, collapse : bool
        throughout : bool
            Whether to flip and ease in the whole piece, not only next to what was split or collapsed.
        short : float
            Share of the wanted length under which edges are collapsed.
        recorder : PatchRecorder, optional
            Is told before anything changes.

        Returns
        -------
        Remeshed or None
            None when nothing changed.
        """
        body = self._body
        vertices, corners = body.vertices, body.corners
        length = max(length, self._shortest(triangles, centre, radius))
        most = MANY * triangles.size + FEW  # triangles, and so vertices too, that one call makes
        if recorder is not None:
            recorder.note(*self._reached(triangles))
            recorder.note_free(most)
        vertices.reserve(most)
        corners.reserve(most, most)
        store = corners.storage()
        guard = vertices.storage(GUARD) if GUARD in vertices else NO_GUARD
        self._fit(store.vertex.size // 3, store.first.size)
        work = np.empty(triangles.size + most, np.int32)  # what limits how many triangles are made
        work[: triangles.size] = np.sort(triangles)  # the outcome must not depend on where the piece was entered
        free_rows, free_faces = vertices.free.room(work.size), corners.free.room(work.size)
        state = np.array(
            [
                vertices.count,
                vertices.free.count,
                corners.count,
                corners.free.count,
                triangles.size,
                0,
                corners.slots.holding("face"),
                corners.slots.holding("edge"),
            ],
            np.int64,
        )
        # a split or a collapse for every triangle, and every vertex of the piece, three to a triangle, eased twice
        logged = (1 + 3 * EASINGS) * work.size
        log, share = np.empty((logged, 4), np.int32), np.empty((logged, 3), np.float32)
        set_up(
            store.vertex,
            store.opposite,
            *store.known,
            guard,
            self._hold,
            self._mark,
            work,
            triangles.size,
            state[OF_FACE],
            state[OF_EDGE],
        )
        arrays = (
            vertices.storage("position"), store.vertex, store.opposite, store.first, *store.known, self._hold,
            self._mark, work, free_rows, free_faces, state, log, share,
        )  # fmt: skip
        reach = radius * radius
        more = False
        still = body.border_lock or STITCHED in vertices
        if split:
            limit = float(side_lengths(vertices["position"], corners.triangles[triangles]).max(initial=0.0))
            last = LONG * length
            done = 0
            while limit > last or done > 0:  # at the wanted length until nothing is left to split
                limit = max(limit / STEP, last)
                done = split_long(*arrays, limit, centre, reach, still)
                if done < 0:
                    more = True
                    break
        if collapse:
            collapse_short(*arrays, short * length, LONG * length, centre, reach)
        flipped = 0
        if throughout:
            touch(store.vertex, self._hold, work, state[WORK])
        for _ in range(EASINGS):
            if throughout or state[LOG]:
                flipped += flip_edges(*arrays, self._degree, LONG * length, centre, reach)
                ease(*arrays, EASE, centre, reach)
        clear(self._mark, work, state[WORK])
        if not state[LOG] and not flipped:
            return None
        return self._settled(work[: state[WORK]], log[: state[LOG]], share, state, more)

    def _shortest(self, triangles: Rows, centre: Vector, radius: float) -> float:
        # of a place within reach; without a reach, of the whole piece
        body = self._body
        if radius < EVERYWHERE:
            farthest = float(np.abs(centre).max()) + radius
        else:
            rows = body.corners.triangles[triangles]
            farthest = float(np.abs(body.vertices["position"][rows]).max(initial=0.0))
        return STEPS * float(np.spacing(np.float32(min(farthest, 1e30))))

    def _reached(self, triangles: Rows) -> tuple[Rows, Rows]:
        # rows and triangles that can change: those of the piece, and who lies across its rim
        corners = self._body.corners
        across = corners.opposite.reshape(-1, 3)[triangles].reshape(-1)
        slots = np.concatenate((triangles, across[across >= 0] // 3))
        return corners.triangles[triangles].reshape(-1), slots

    def _settled(
        self, work: Rows, log: Rows, share: NDArray[np.float32], state: NDArray[np.int64], more: bool
    ) -> Remeshed:
        # tells the tables what the kernels did, and lets all other columns follow
        body = self._body
        vertices, corners = body.vertices, body.corners
        vertices.resize(int(state[ROWS]))
        vertices.free.resize(int(state[FREE_ROWS]))
        corners.resize(int(state[FACES]), int(state[ROWS]))
        corners.free.resize(int(state[FREE_FACES]))
        for name in vertices.names:
            if name != "position" and not derived(name, bool(body.layers)):
                replay(vertices.storage(name), log, share, log.shape[0])
        changed = distinct(work)
        live = corners.triangles[changed]
        around = distinct(live[live[:, 0] >= 0])
        moved = distinct(log[:, 0])
        moved = moved[corners.first_corner[moved] >= 0]
        body.retriangulated(moved, changed, around)
        return Remeshed(moved, changed, around, more)

    def _fit(self, faces: int, rows: int) -> None:
        if self._mark.size < faces:
            self._mark = np.zeros(faces, np.uint8)
        if self._hold.size < rows:
            self._hold = np.zeros(rows, np.uint8)
            self._degree = np.zeros(rows, np.int16)
