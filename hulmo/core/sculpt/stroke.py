"""A stroke: dabs of one brush, from the first sample to the lifted pointer."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.curve import curve_at, curve_table
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.layer import Layer
from hulmo.core.mesh.region import Region
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.sculpt.amount import dab_amount
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.falloff import pass_sum
from hulmo.core.sculpt.grab import Grab, take_hold
from hulmo.core.sculpt.recorder import Recorder, Written
from hulmo.core.sculpt.sampler import Sample, Sampler
from hulmo.core.sculpt.symmetry import copies
from hulmo.core.sculpt.target import Target
from hulmo.core.setting import Values, number

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]

COAT = "coat"
"""Vertex column (width 1) that remembers a coat over many strokes."""

LIGHTEST = 0.05
"""Share of the radius that no pressure goes below."""

SETTLED = 0.02
"""Share of its lag that a steadied stroke may leave when the pointer lifts."""


@dataclass(frozen=True)
class Touched:
    """Rows of a column that were just written, ascending."""

    column: str
    rows: Rows


@dataclass
class _Copy:
    """One of the symmetric copies of a stroke."""

    turn: NDArray[np.float64]
    sampler: Sampler | None
    start: tuple[Vector, Vector] | None = None
    view: Vector = field(default_factory=lambda: np.zeros(3))
    grab: Grab | None = None
    region: Region | None = None
    amount: NDArray[np.float32] = field(default_factory=lambda: np.empty(0, np.float32))
    kept: NDArray[np.float32] = field(default_factory=lambda: np.empty((0, 3), np.float32))


class Stroke:
    """A live stroke. Feed it samples with `add`, then `settle`; `finish` tells what it did.

    Parameters
    ----------
    body : Body
    brush : Brush
    values : dict
        All settings of the brush, checked.
    invert : bool
    ground : int
        Column of the ground in hand, for brushes that need one.
    layer : Layer or None
        Layer in work, for brushes that shape; None for the form.
    """

    def __init__(
        self,
        body: Body,
        brush: Brush,
        values: Values,
        invert: bool = False,
        ground: int = -1,
        layer: Layer | None = None,
    ) -> None:
        self._body, self._brush, self._values = body, brush, values
        self._invert, self._ground, self._layer = invert, ground, layer
        self._radius = number(values, "radius")
        self._core = number(values, "core") / 100.0
        self._falloff = str(values["falloff"])
        self._curve = curve_table(values["falloff_curve"])  # type: ignore[arg-type]
        self._pressure = curve_table(values["pressure_curve"])  # type: ignore[arg-type]
        self._strength = number(values, "strength") / 100.0
        self._target = Target(body, brush, layer)
        self._recorders = {self._target.column: Recorder(body, self._target.column)}
        self._cover: NDArray[np.float32] | None = None
        self._still = brush.grabs or brush.places
        self._steady = 0.0
        self._last: tuple[Sample, Sample] | None = None
        self._lasting = False
        spacing = 0.0
        if not self._still:
            spacing = number(values, "spacing") / 100.0
            self._steady = number(values, "steady") / 100.0
            self._open_coat(str(values["build_up"]), spacing)
        flow = not self._still and bool(values["flow"])
        self._copies = [
            _Copy(turn, None if self._still else Sampler(body, spacing * self._radius, flow)) for turn in copies(values)
        ]

    def add(self, sample: Sample) -> list[Touched]:
        """Lay the dabs up to a sample; returns the rows that changed, columns `position` and `normal` included."""
        if self._still:
            return self._drag(sample)
        if self._steady and self._last is not None:
            sample, wanted = self._last[1].toward(sample, 1.0 - self._steady), sample
            self._last = (wanted, sample)
        else:
            self._last = (sample, sample)
        return self._lay(sample)

    def settle(self) -> list[Touched]:
        """Let a steadied stroke come to where the pointer is; call it before `finish`."""
        touched: list[Touched] = []
        if self._steady and self._last is not None:
            for _ in range(math.ceil(math.log(SETTLED) / math.log(self._steady))):
                touched.extend(self.add(self._last[0]))
        return touched

    def finish(self) -> list[Written]:
        """What the stroke did, one entry a column; empty when it changed nothing."""
        results = (recorder.result() for recorder in self._recorders.values())
        return [result for result in results if result is not None]

    def _lay(self, sample: Sample) -> list[Touched]:
        touched: list[Touched] = []
        for copy in self._copies:
            assert copy.sampler is not None
            turned = sample.turned(copy.turn)
            for point, at in copy.sampler.advance(turned):
                if copy.start is None:
                    self._begin(copy, point, turned)
                touched.extend(self._dab(copy, point, at))
        return touched

    def _begin(self, copy: _Copy, point: SurfacePoint, sample: Sample) -> None:
        rows = self._body.corners.vertex[3 * point.triangle : 3 * point.triangle + 3]
        worked = point.weights @ self._target.surface[rows].astype(np.float64) if self._brush.shapes else point.position
        normal = self._body.normal_at(point)
        copy.start = (worked, normal)
        copy.view = -normal if sample.direction is None else sample.direction / np.linalg.norm(sample.direction)

    def _dab(self, copy: _Copy, point: SurfacePoint, sample: Sample) -> list[Touched]:
        radius, strength = self._pressed(sample)
        region = self._region(point.triangle, point.position, radius)
        rows = region.inside
        if rows.size == 0:
            return []
        if self._lasting:
            if self._cover is None:
                self._cover = self._open_lasting_coat()
            self._recorders[COAT].note(rows)
        amount = self._amount(rows, point.position, radius, strength, sample.direction)
        assert copy.start is not None
        new = self._brush.apply(self._as_dab(copy, region, amount, point.position, np.zeros(3), radius))
        self._recorders[self._target.column].note(rows)
        self._target.put(rows, new)
        return self._written(region)

    def _as_dab(
        self, copy: _Copy, region: Region, amount: NDArray[np.float32], centre: Vector, pull: Vector, radius: float
    ) -> Dab:
        assert copy.start is not None
        return Dab(
            self._body, region.inside, amount, self._values, self._invert, centre, *copy.start, self._ground, pull,
            self._target.surface, copy.view, copy.turn, radius, region.triangles,
        )  # fmt: skip

    def _written(self, region: Region) -> list[Touched]:
        if not self._target.shapes:
            return [Touched(self._target.column, region.inside)]
        self._body.moved(region.around, region.triangles)
        return [Touched("position", region.inside), Touched("normal", region.around)]

    def _pressed(self, sample: Sample) -> tuple[float, float]:
        effect = curve_at(self._pressure, sample.pressure)
        radius = self._radius * (max(effect, LIGHTEST) if self._values["pressure_radius"] else 1.0)
        if self._values["tilt_radius"]:
            radius *= 1.0 + sample.lean / 90.0
        return radius, self._strength * (effect if self._values["pressure_strength"] else 1.0)

    def _region(self, triangle: int, centre: Vector, radius: float) -> Region:
        if self._values["reach"] == "all":
            return self._body.ball_region(centre, radius)
        return self._body.grow_region(triangle, centre, radius)

    def _amount(
        self, rows: Rows, centre: Vector, radius: float, strength: float, looking: Vector | None
    ) -> NDArray[np.float32]:
        body = self._body
        position = body.vertices["position"]
        amount = dab_amount(
            position, rows, centre, radius, self._core, self._falloff, strength, self._cover, self._curve
        )  # fmt: skip
        if self._brush.shapes:  # a locked border moves under no brush, but takes paint
            held = body.held(rows)
            if held is not None:
                amount[held] = 0.0
        if self._brush.column != GUARD:
            free = body.free_share(rows)
            if free is not None:
                amount *= free
        if looking is not None and self._values["front"]:
            amount[np.take(body.vertices["normal"], rows, axis=0) @ looking.astype(np.float32) >= 0] = 0.0
        return amount

    # brushes that take hold, or are set down and dragged

    def _drag(self, sample: Sample) -> list[Touched]:
        first = all(copy.grab is None for copy in self._copies)
        if first:
            for copy in self._copies:
                turned = sample.turned(copy.turn)
                copy.grab = take_hold(self._body, turned)
                if copy.grab is not None:
                    hit = turned.on(self._body)
                    assert hit is not None
                    self._begin(copy, hit, turned)
            if self._brush.grabs:
                self._hold_all(sample)
                return []
        held = [copy for copy in self._copies if copy.grab is not None]
        before = [copy.region.inside for copy in held if copy.region is not None]
        # all copies go back first and then forward, so that where they overlap both count
        for copy in reversed(held):
            if copy.region is not None:
                self._target.restore(copy.region.inside, copy.kept)
        pulls = [copy.grab.pull(sample.turned(copy.turn)) if copy.grab else None for copy in held]
        for copy, pull in zip(held, pulls, strict=True):
            if pull is not None:
                self._move(copy, np.zeros(3) if first else pull)
        after = [copy.region.inside for copy in held if copy.region is not None]
        if not after:
            return []
        pieces = before + after
        rows = pieces[0] if all(piece is pieces[0] for piece in pieces) else np.unique(np.concatenate(pieces))
        return [Touched("position", rows), Touched("normal", self._body.rows_moved(rows))]

    def _hold_all(self, sample: Sample) -> None:
        for copy in self._copies:
            if copy.grab is not None:
                self._reach_out(copy, *self._pressed(sample))

    def _reach_out(self, copy: _Copy, radius: float, strength: float) -> None:
        assert copy.grab is not None
        region = self._region(copy.grab.triangle, copy.grab.point, radius)
        copy.region = region
        copy.amount = self._amount(region.inside, copy.grab.point, radius, strength, -copy.grab.facing)
        copy.kept = self._target.kept(region.inside)

    def _move(self, copy: _Copy, pull: Vector) -> None:
        assert copy.grab is not None
        radius, strength = self._pressed(copy.grab.sample)
        if self._brush.places:
            length = float(np.linalg.norm(pull))
            radius = length if length > LIGHTEST * radius else radius
            self._reach_out(copy, radius, strength)
        assert copy.region is not None
        rows = copy.region.inside
        new = self._brush.apply(self._as_dab(copy, copy.region, copy.amount, copy.grab.point, pull, radius))
        self._recorders[self._target.column].note(rows)
        self._target.put(rows, new)

    # coats

    def _open_coat(self, build_up: str, spacing: float) -> None:
        if build_up == "stacking":
            # a straight pass adds up to one full coat, whatever the spacing
            self._strength *= min(1.0, spacing / pass_sum(self._falloff, self._core, self._curve))
        elif build_up == "one_coat":
            self._cover = np.zeros(self._body.vertices.count, np.float32)
        self._lasting = build_up == "until_reset"

    def _open_lasting_coat(self) -> NDArray[np.float32]:
        vertices = self._body.vertices
        if COAT not in vertices:
            vertices.add_column(COAT, 1)
        recorder = Recorder(self._body, COAT)
        self._recorders[COAT] = recorder
        layer = f" {self._layer.ident}" if self._layer is not None and self._brush.shapes else ""
        owner = f"{self._brush.name} {self._ground} {self._invert}{layer}"
        if self._body.coat_owner != owner:
            # another brush starts its own coat
            old = np.flatnonzero(vertices[COAT][:, 0]).astype(np.int32)
            recorder.note(old)
            vertices[COAT][old] = 0.0
            self._body.coat_owner = owner
        cover: NDArray[np.float32] = vertices[COAT][:, 0]
        return cover
