"""The growing mesh: triangles come and go under the brush, so that edges keep a wanted length."""

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import TRIANGLES
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.patch import SCRATCH, PatchRecorder
from hulmo.core.sculpt.recorder import Touched
from hulmo.core.setting import Choice, Number, Setting, Values, number
from hulmo.core.topology.local_remesh import MANY, LocalRemesh, Remeshed

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]

MOST = 1_000_000
"""Triangles that one dab may come to."""

ROUNDS = 12
"""Remeshings of one dab at the most: each can multiply the triangles by five."""

_GROWS = (("grow", "finer"), ("grow", "both"))

SWITCH = Choice(
    "grow",
    "Growing mesh",
    (
        ("off", "Off", "The triangles stay as they are."),
        ("finer", "Finer only", "Splits edges that are longer than wanted."),
        ("both", "Finer and coarser", "Splits edges that are longer than wanted and joins those that are shorter."),
    ),
    "off",
    "Whether triangles come and go under the brush.",
)

LENGTH: tuple[Setting, ...] = (
    Choice(
        "edge_by",
        "Wanted edge is",
        (
            ("metres", "In metres", "The same on the ground from near and far."),
            ("view", "A share of the view", "The same on the screen: finer when you come nearer."),
        ),
        "metres",
        "What the length of edges under the brush is measured by.",
        only=_GROWS,
    ),
    Number("edge", "Wanted edge", "m", 0.0005, 1000.0, 0.5, "Length that edges under the brush are brought to.",
           comfort=(0.02, 5.0), curve=3.0, only=(("edge_by", "metres"),)),
    Number("edge_share", "Edge, of view", "%", 0.05, 20.0, 1.0,
           "Wanted edge as a share of the height of the view. The window turns it into metres where a stroke begins.",
           comfort=(0.2, 5.0), only=(("edge_by", "view"),)),
)  # fmt: skip

SETTINGS: tuple[Setting, ...] = (SWITCH, *LENGTH)


def check_size(values: Values, radius: float, where: str) -> None:
    """Refuse a wanted edge that is far too short for the radius, before anything is changed.

    Raises
    ------
    InvalidInput
    """
    edge = number(values, "edge")
    count = math.pi * radius**2 / (math.sqrt(3) / 4 * edge**2)
    if count > MOST:
        least = _shortest(radius)
        raise InvalidInput(
            f"{where}: edges of {edge:g} m under a radius of {radius:g} m would make about {count:,.0f} triangles in one "
            f"dab, more than {MOST:,}; choose edges of at least {least:.2g} m or a smaller radius"
        )


def _shortest(radius: float) -> float:
    # the edge with which a flat disc of equilateral triangles has as many of them as one dab may make
    return radius * math.sqrt(math.pi / (math.sqrt(3) / 4 * MOST))


class Growth:
    """Remeshes what a stroke is about to reach, and remembers all that changes.

    Parameters
    ----------
    body : Body
    values : dict
        Settings of the stroke.
    split, collapse : bool
    came : callable, optional
        Told of slots that were remeshed.
    """

    def __init__(
        self, body: Body, values: Values, split: bool, collapse: bool, came: Callable[[Rows], None] | None = None
    ) -> None:
        self._body = body
        self._length = number(values, "edge")
        self._split, self._collapse, self._came = split, collapse, came
        self._remesh = LocalRemesh(body)
        self.recorder = PatchRecorder(body)

    def note(self, rows: Rows) -> None:
        """Call before the stroke writes columns of some rows."""
        self.recorder.note(rows, np.empty(0, np.int32))

    def renew(self, triangles: Rows, centre: Vector, radius: float) -> list[Remeshed]:
        """Bring edges among some triangles near a place to the wanted length; normals and index are up to date after it."""
        return self._rounds(triangles, centre, radius, self._length, self._split, self._collapse)

    def renew_risen(self, triangles: Rows, centre: Vector, radius: float, risen: float) -> list[Remeshed]:
        """The same where the surface has come some metres since the stroke began; to longer edges where it has come so far
        that this would make too many."""
        length = max(self._length, _shortest(radius + risen))
        return self._rounds(triangles, centre, radius + risen, length, self._split, self._collapse)

    def open_up(self, centre: Vector, radius: float) -> list[Remeshed]:
        """Where triangles are larger than the brush, split those around a place until their edges are not."""
        hit = self._body.own_nearest(centre)
        if hit is None or not self._split:
            return []
        rows = distinct(self._body.corners.triangles[hit.triangle])
        reach = float(np.linalg.norm(self._body.vertices["position"][rows] - centre, axis=1).max())
        length = max(self._length, 0.5 * reach)
        return self._rounds(self._body.touched(rows).triangles, centre, 1.01 * reach, length, True, False)

    def touched(self, done: list[Remeshed]) -> list[Touched]:
        """What remeshings wrote: slots of triangles, rows of every column, and rows of normals."""
        if not done:
            return []
        corners, names = self._body.corners, self._body.vertices.names
        rows = distinct(np.concatenate([step.rows for step in done]))
        rows = rows[corners.first_corner[rows] >= 0]
        own = [name for name in names if name != "normal" and not name.startswith(SCRATCH)]
        return [
            Touched(TRIANGLES, distinct(np.concatenate([step.triangles for step in done]))),
            *(Touched(name, rows) for name in own),
            Touched("normal", distinct(np.concatenate([step.around for step in done]))),
        ]

    def _rounds(
        self, triangles: Rows, centre: Vector, radius: float, length: float, split: bool, collapse: bool
    ) -> list[Remeshed]:
        done: list[Remeshed] = []
        remesh = self._remesh
        for _ in range(ROUNDS):
            if not remesh.wanted(triangles, centre, radius, length, split, collapse):
                break
            if MANY * triangles.size > MOST:
                break  # a surface crumpled into a small place has no end of triangles
            changed = remesh.run(triangles, centre, radius, length, split, collapse, recorder=self.recorder)
            if changed is None:
                break
            done.append(changed)
            if self._came is not None:
                self._came(changed.triangles)
            if not changed.more:
                break
            triangles = changed.triangles[self._body.corners.vertex[3 * changed.triangles] >= 0]
        return done


class Held:
    """What a brush that grabs holds, kept in columns of its own so that new vertices between held ones are held too.

    Parameters
    ----------
    body : Body
    number : int
        Which of the symmetric copies.
    """

    def __init__(self, body: Body, number: int) -> None:
        self._body = body
        self._base, self._amount = f"{SCRATCH}base {number}", f"{SCRATCH}amount {number}"
        body.vertices.add_column(self._base, 3)
        body.vertices.add_column(self._amount, 1)

    def take(self, around: Rows, base: NDArray[np.float32], rows: Rows, amount: NDArray[np.float32]) -> None:
        """Begin to hold.

        Parameters
        ----------
        around : (L,) int32
            Rows of all triangles of the piece.
        base : (L, 3) float32
            What the written column holds there.
        rows : (K,) int32
        amount : (K,) float32
            How firmly each is held.
        """
        self._body.vertices[self._base][around] = base
        self._body.vertices[self._amount][rows, 0] = amount

    def now(self, rows: Rows) -> tuple[Rows, NDArray[np.float32], NDArray[np.float32]]:
        """Which of some rows are held now, from what, and how firmly."""
        corners, vertices = self._body.corners, self._body.vertices
        amount = vertices[self._amount][rows, 0]
        held = (corners.first_corner[rows] >= 0) & (amount > 0)
        return rows[held], vertices[self._base][rows[held]], amount[held]


def drop_scratch(body: Body) -> None:
    """Drop the columns that lived as long as the stroke."""
    for name in body.vertices.names:
        if name.startswith(SCRATCH):
            body.vertices.drop_column(name)
