"""A stroke: dabs of one brush, from the first sample to the lifted pointer."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.sculpt.amount import dab_amount
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.falloff import pass_sum
from hulmo.core.sculpt.grab import Grab, take_hold
from hulmo.core.sculpt.sampler import Sample, Sampler
from hulmo.core.setting import Values, number

Rows = NDArray[np.int32]

COAT = "coat"
"""Vertex column (width 1) that remembers a coat over many strokes."""


@dataclass(frozen=True)
class Touched:
    """Rows of a column that were just written, ascending."""

    column: str
    rows: Rows


@dataclass(frozen=True)
class Written:
    """All that a stroke did to one column.

    Attributes
    ----------
    column : str
    rows : (K,) int32
        Ascending.
    before, after : (K, width) float32
    """

    column: str
    rows: Rows
    before: NDArray[np.float32]
    after: NDArray[np.float32]


class _Recorder:
    """Keeps the first value of every row a stroke writes in one column; costs what is written."""

    def __init__(self, body: Body, column: str) -> None:
        self._body = body
        self.column = column
        self._seen = np.zeros(body.vertices.count, np.bool_)
        self._rows: list[Rows] = []
        self._before: list[NDArray[np.float32]] = []

    def note(self, rows: Rows) -> None:
        """Call before the rows are written."""
        new = rows[~np.take(self._seen, rows)]
        if new.size:
            self._seen[new] = True
            self._rows.append(new)
            self._before.append(np.take(self._body.vertices[self.column], new, axis=0))

    def result(self) -> Written | None:
        """What was written, or None when nothing changed."""
        if not self._rows:
            return None
        rows = np.concatenate(self._rows)
        order = np.argsort(rows)
        rows = rows[order]
        before = np.concatenate(self._before)[order]
        after = np.take(self._body.vertices[self.column], rows, axis=0)
        changed = np.any(before != after, axis=1)
        if not changed.any():
            return None
        return Written(self.column, rows[changed], before[changed], after[changed])


class Stroke:
    """A live stroke. Feed it samples with `add`; `finish` tells what it did.

    Parameters
    ----------
    body : Body
    brush : Brush
    values : dict
        All settings of the brush, checked.
    invert : bool
    ground : int
        Column of the ground in hand, for brushes that need one.
    """

    def __init__(self, body: Body, brush: Brush, values: Values, invert: bool = False, ground: int = -1) -> None:
        self._body = body
        self._brush = brush
        self._values = values
        self._invert = invert
        self._ground = ground
        self._radius = number(values, "radius")
        self._core = number(values, "core") / 100.0
        self._falloff = str(values["falloff"])
        self._strength = number(values, "strength") / 100.0
        self._grab: Grab | None = None
        self._recorders = {brush.column: _Recorder(body, brush.column)}
        self._cover: NDArray[np.float32] | None = None
        self._start: tuple[NDArray[np.float64], NDArray[np.float64]] | None = None
        if brush.grabs:
            return
        spacing = number(values, "spacing") / 100.0
        self._sampler = Sampler(body, spacing * self._radius)
        build_up = values["build_up"]
        if build_up == "stacking":
            # a straight pass adds up to one full coat, whatever the spacing
            self._strength *= min(1.0, spacing / pass_sum(self._falloff, self._core))
        elif build_up == "one_coat":
            self._cover = np.zeros(body.vertices.count, np.float32)
        self._lasting = build_up == "until_reset"

    def add(self, sample: Sample) -> list[Touched]:
        """Lay the dabs up to a sample; returns the rows that changed, columns `position` and `normal` included."""
        if self._brush.grabs:
            return self._haul(sample)
        touched: list[Touched] = []
        for point, pressure in self._sampler.advance(sample):
            if self._start is None:
                self._start = (point.position, self._body.normal_at(point))
            touched.extend(self._dab(point.triangle, point.position, pressure))
        return touched

    def finish(self) -> list[Written]:
        """What the stroke did, one entry a column; empty when it changed nothing."""
        results = (recorder.result() for recorder in self._recorders.values())
        return [result for result in results if result is not None]

    def _dab(self, triangle: int, centre: NDArray[np.float64], pressure: float) -> list[Touched]:
        body, column = self._body, self._brush.column
        region = body.grow_region(triangle, centre, self._radius)
        if region.inside.size == 0:
            return []
        if self._lasting:
            if self._cover is None:
                self._cover = self._open_lasting_coat()
            self._recorders[COAT].note(region.inside)
        amount = dab_amount(
            body.vertices["position"],
            region.inside,
            centre,
            self._radius,
            self._core,
            self._falloff,
            self._strength * pressure,
            self._cover,
        )
        self._hold(region.inside, amount)
        assert self._start is not None
        dab = Dab(body, region.inside, amount, self._values, self._invert, centre, *self._start, self._ground)
        new = self._brush.apply(dab)
        self._recorders[column].note(region.inside)
        body.vertices[column][region.inside] = new
        if column != "position":
            return [Touched(column, region.inside)]
        body.moved(region.around, region.triangles)
        return [Touched("position", region.inside), Touched("normal", region.around)]

    def _hold(self, rows: Rows, amount: NDArray[np.float32]) -> None:
        # a locked border moves under no brush, but takes paint
        held = self._body.held(rows) if self._brush.column == "position" else None
        if held is not None:
            amount[held] = 0.0

    def _haul(self, sample: Sample) -> list[Touched]:
        if self._grab is None:
            self._grab = take_hold(self._body, sample, self._radius, self._core, self._falloff, self._strength)
            if self._grab is not None:
                self._hold(self._grab.region.inside, self._grab.amount)
            return []
        pull = self._grab.pull(sample)
        if pull is None:
            return []
        grab, body, column = self._grab, self._body, self._brush.column
        region = grab.region
        body.vertices[column][region.inside] = grab.base
        dab = Dab(
            body, region.inside, grab.amount, self._values, self._invert, grab.point, grab.point, grab.normal, pull=pull
        )  # fmt: skip
        new = self._brush.apply(dab)
        self._recorders[column].note(region.inside)
        body.vertices[column][region.inside] = new
        body.moved(region.around, region.triangles)
        return [Touched(column, region.inside), Touched("normal", region.around)]

    def _open_lasting_coat(self) -> NDArray[np.float32]:
        vertices = self._body.vertices
        if COAT not in vertices:
            vertices.add_column(COAT, 1)
        recorder = _Recorder(self._body, COAT)
        self._recorders[COAT] = recorder
        owner = f"{self._brush.name} {self._ground} {self._invert}"
        if self._body.coat_owner != owner:
            # another brush starts its own coat
            old = np.flatnonzero(vertices[COAT][:, 0]).astype(np.int32)
            recorder.note(old)
            vertices[COAT][old] = 0.0
            self._body.coat_owner = owner
        cover: NDArray[np.float32] = vertices[COAT][:, 0]
        return cover
