"""A stroke: dabs of one brush, from the first sample to the lifted pointer."""

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hulmo.core.curve import curve_at, curve_table
from hulmo.core.mesh.before import Before
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.layer import Layer
from hulmo.core.mesh.moment import earlier
from hulmo.core.mesh.patch import Patch
from hulmo.core.mesh.region import Region
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.sculpt.amount import dab_amount
from hulmo.core.sculpt.brush import SHARED, Brush, Dab
from hulmo.core.sculpt.coat import COAT, Coat
from hulmo.core.sculpt.company import Company, in_step
from hulmo.core.sculpt.copy_of import Copy, Steps
from hulmo.core.sculpt.direction import normal_total
from hulmo.core.sculpt.falloff import pass_sum
from hulmo.core.sculpt.grab import take_hold
from hulmo.core.sculpt.growth import ROUNDS, Growth, Held, drop_scratch
from hulmo.core.sculpt.recorder import Recorder, Touched, Written
from hulmo.core.sculpt.sampler import Sample, Sampler
from hulmo.core.sculpt.symmetry import copies
from hulmo.core.sculpt.target import Target, Writes
from hulmo.core.setting import Values, number
from hulmo.core.topology.local_remesh import Remeshed

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]

LIGHTEST = 0.05
"""Share of the radius that no pressure goes below."""

SETTLED = 0.02
"""Share of its lag that a steadied stroke may leave when the pointer lifts."""


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
    target : Writes, optional
        What is written, where that is neither the shape nor a column of the brush alone.
    """

    def __init__(
        self,
        body: Body,
        brush: Brush,
        values: Values,
        invert: bool = False,
        ground: int = -1,
        layer: Layer | None = None,
        target: Writes | None = None,
    ) -> None:
        values = {setting.name: setting.default for setting in SHARED} | values
        self.body, self._brush, self._values = body, brush, values
        self._invert, self._ground, self._layer = invert, ground, layer
        self._radius = number(values, "radius")
        self._core = number(values, "core") / 100.0
        self._falloff = str(values["falloff"])
        self._curve = curve_table(values["falloff_curve"])  # type: ignore[arg-type]
        self._pressure = curve_table(values["pressure_curve"])  # type: ignore[arg-type]
        self._strength = number(values, "strength") / 100.0
        self._own = Target(body, brush, layer)
        self._target: Writes = target or self._own
        self._recorders = {column: Recorder(body, column) for column in self._target.columns}
        self._still = brush.grabs or brush.places
        self.holding = False
        self.company: Company | None = None
        self.meanwhile: list[Touched] = []
        self._steady = 0.0
        self._last: tuple[Sample, Sample] | None = None
        spacing, build_up = 0.0, "stacking"
        grows = brush.grows(values)
        if not self._still:
            spacing = number(values, "spacing") / 100.0
            self._steady = number(values, "steady") / 100.0
            build_up = str(values["build_up"])
            if build_up == "stacking" and not brush.approaches:
                # a straight pass adds up to one full coat, whatever the spacing
                self._strength *= min(1.0, spacing / pass_sum(self._falloff, self._core, self._curve))
        flow = not self._still and bool(values["flow"])
        drop_scratch(body)  # of a stroke that was broken off
        # what moves or remeshes the surface goes along the one that was there at first, so that it is even whatever it does
        self._before = Before(body, grows != "off") if brush.shapes or grows != "off" else None
        self._follows = build_up == "stacking"
        self.copies = [
            Copy(turn, None if self._still else Sampler(self._find, spacing * self._radius, flow))
            for turn in copies(values)
        ]
        on = f" {layer.ident}" if layer is not None and brush.shapes else ""
        self._coat = Coat(body, build_up, grows != "off", f"{brush.name} {ground} {invert}{on}")
        if self._coat.lasting:
            self._recorders[COAT] = Recorder(body, COAT)
        self._growth = None
        if grows != "off":
            self._growth = Growth(body, values, grows != "coarser", grows != "finer", self._came)

    def add(self, sample: Sample, between: Callable[[], None] | None = None) -> list[Touched]:
        """Lay the dabs up to a sample; returns the rows that changed, columns `position` and `normal` included.

        `between` is called after every dab: it may raise, which breaks the stroke off.
        """
        if self._still:
            if self.company is not None and not self.holding:
                self.company.take_hold(sample)
            strokes = [self] if self.company is None else self.company.strokes
            return in_step(self, [(stroke, stroke.drag(sample)) for stroke in strokes])
        if self._steady and self._last is not None:
            sample, wanted = self._last[1].toward(sample, 1.0 - self._steady), sample
            self._last = (wanted, sample)
        else:
            self._last = (sample, sample)
        return self._lay(sample, between)

    def settle(self) -> list[Touched]:
        """Let a steadied stroke come to where the pointer is, and the mesh follow the last dab; call it before `finish`."""
        touched: list[Touched] = []
        if self._steady and self._last is not None:
            for _ in range(math.ceil(math.log(SETTLED) / math.log(self._steady))):
                touched.extend(self.add(self._last[0]))
        for copy in self.copies:
            if copy.last is not None:
                place, centre, radius = copy.last
                copy.last = None
                touched.extend(self._grown(place, centre, radius)[0])
        return touched

    def finish(self) -> list[Written] | tuple[Patch, Patch]:
        """What the stroke did, one entry a column; or, of a stroke that remeshed, the piece of the tables as it was and as
        it is. Empty when it changed nothing."""
        if self._before is not None:
            self._before.end()
        if self._growth is not None:
            drop_scratch(self.body)
            return self._growth.recorder.result() or []
        results = (recorder.result() for recorder in self._recorders.values())
        return [result for result in results if result is not None]

    def _lay(self, sample: Sample, between: Callable[[], None] | None) -> list[Touched]:
        touched: list[Touched] = []
        for which, copy in enumerate(self.copies):
            assert copy.sampler is not None
            turned = self._seen_by(copy, sample)
            for point, at in copy.sampler.advance(turned):
                if self.company is not None:
                    touched.extend(self.company.dab(which, turned, at))
                else:
                    if copy.start is None:
                        self.begin(copy, point, turned)
                    dab = self.dab(copy, point.triangle, point.position, self.now(point), at)
                    touched.extend(in_step(self, [(self, dab)]))
                if between is not None:
                    between()
        return touched

    def _seen_by(self, copy: Copy, sample: Sample) -> Sample:
        # symmetric copies are turned about the world's axis; tables count from the body's origin
        return sample.turned(copy.turn).about(self.body.origin)

    def _find(self, sample: Sample) -> SurfacePoint | None:
        return self.find_alone(sample) if self.company is None else self.company.find(sample)

    def find_alone(self, sample: Sample) -> SurfacePoint | None:
        """Where a sample meets the surface as it was when the stroke began.

        While every pass adds to the last, a ray goes for what one sees, and counts where that was.
        """
        before = self._before
        if before is None:
            return sample.on(self.body)
        if sample.direction is None:
            return before.nearest(sample.origin)
        if not self._follows:
            return before.ray(sample.origin, sample.direction)
        hit = sample.on(self.body)
        return None if hit is None else before.then(hit)

    def near(self, place: Vector, radius: float) -> int:
        """A triangle of the surface that the stroke goes along, within a radius of a place; -1 where there is none."""
        hit = self.body.own_nearest(place, radius) if self._before is None else self._before.nearest(place)
        return -1 if hit is None or hit.distance > radius else hit.triangle

    def now(self, point: SurfacePoint) -> Vector:
        """(3,) where a point of that surface is now."""
        return point.position if self._before is None else self._before.now(point)

    def _normals(self, rows: Rows) -> NDArray[np.float32]:
        return (
            np.take(self.body.vertices["normal"], rows, axis=0) if self._before is None else self._before.normals(rows)
        )

    def begin(self, copy: Copy, point: SurfacePoint, sample: Sample) -> None:
        """Note where a copy begins, and how one looks at it."""
        rows = self.body.corners.vertex[3 * point.triangle : 3 * point.triangle + 3]
        worked = point.weights @ self._target.surface[rows].astype(np.float64) if self._brush.shapes else point.position
        normal = self.body.normal_at(point)
        copy.start = (worked, normal)
        copy.view = -normal if sample.direction is None else sample.direction / np.linalg.norm(sample.direction)

    def dab(self, copy: Copy, triangle: int, place: Vector, centre: Vector, sample: Sample) -> Steps:
        """Lay a dab around a place of the surface that the stroke goes along, seen from one of its triangles; `centre` is
        where that place is now."""
        radius, strength = self.pressed(sample)
        region = self._region(triangle, place, radius)
        touched: list[Touched] = []
        if self._growth is not None:
            touched, region = self._grown(place, centre, radius, region)
            copy.last = (place, centre, radius)
        rows = region.inside
        if rows.size == 0 or self._brush.apply is None:
            return touched
        copy.dabs += 1
        if self._coat.lasting:
            self._coat.open(lambda old: self.note(COAT, old))
            self.note(COAT, rows)
        amount = self._amount(rows, place, radius, strength)
        if self._before is not None:
            self._before.note(region.around, region.triangles)
        self._turned_away(rows, amount, sample.direction)
        dab = self._as_dab(copy, region, amount, centre, np.zeros(3), radius)
        if self._brush.mask is not None:
            dab = replace(dab, amount=dab.amount * self._brush.mask(dab))
        if self.company is not None and self._means:
            copy.total = normal_total(dab)
            yield
            dab = replace(dab, beside=self.company.beside(self, copy))
        new = self._brush.apply(dab)
        self._note_target(rows)
        self._target.put(rows, new, dab.amount)
        return touched + self._written(region)

    def _note_target(self, rows: Rows) -> None:
        for column in self._target.columns:
            self.note(column, rows)

    def remember(self, rows: Rows) -> None:
        """Note how some rows are before the stroke: those that others have in common with this body, so that all start from
        the same normals whenever they come to them."""
        if self._before is not None:
            self._before.note(rows, rows[:0])

    def note(self, column: str, rows: Rows) -> None:
        """Remember what rows of a column hold, before they are written as part of the stroke."""
        if self._growth is not None:
            self._growth.note(rows)
            return
        if column not in self._recorders:
            self._recorders[column] = Recorder(self.body, column)
        self._recorders[column].note(rows)

    def _as_dab(
        self, copy: Copy, region: Region, amount: NDArray[np.float32], centre: Vector, pull: Vector, radius: float
    ) -> Dab:
        assert copy.start is not None
        return Dab(
            self.body, region.inside, amount, self._values, self._invert, centre, *copy.start, self._ground, pull,
            self._target.surface, copy.view, copy.turn, radius, region.triangles, self._normals, copy.dabs,
        )  # fmt: skip

    def _written(self, region: Region) -> list[Touched]:
        if not self._target.shapes:
            return [Touched(column, region.inside) for column in self._target.columns]
        self.body.moved(region.around, region.triangles)
        return [Touched("position", region.inside), Touched("normal", region.around)]

    def pressed(self, sample: Sample) -> tuple[float, float]:
        """Radius, metres, and strength of a dab under the pressure of a sample."""
        effect = curve_at(self._pressure, sample.pressure)
        radius = self._radius * (max(effect, LIGHTEST) if self._values["pressure_radius"] else 1.0)
        if self._values["tilt_radius"]:
            radius *= 1.0 + sample.lean / 90.0
        return radius, self._strength * (effect if self._values["pressure_strength"] else 1.0)

    def _region(self, triangle: int, centre: Vector, radius: float) -> Region:
        place = self.body if self._before is None else self._before
        if self._values["reach"] == "all":
            return place.ball_region(centre, radius)
        return place.grow_region(triangle, centre, radius)

    def _amount(self, rows: Rows, centre: Vector, radius: float, strength: float) -> NDArray[np.float32]:
        body = self.body
        position = body.vertices["position"]
        amount = dab_amount(
            position, rows, centre, radius, self._core, self._falloff, strength, self._coat.cover, self._curve,
            self._brush.approaches, None if self._before is None else self._before.earlier,
        )  # fmt: skip
        if self._brush.shapes:  # a locked border moves under no brush, but takes paint
            held = body.held(rows)
            if held is not None:
                amount[held] = 0.0
        if self._brush.column != GUARD:
            free = body.free_share(rows)
            if free is not None:
                amount *= free
        return amount

    def _turned_away(self, rows: Rows, amount: NDArray[np.float32], looking: Vector | None) -> None:
        if looking is not None and self._values["front"]:
            amount[self._normals(rows) @ looking.astype(np.float32) >= 0] = 0.0

    # the growing mesh

    def _grown(
        self, place: Vector, centre: Vector, radius: float, region: Region | None = None
    ) -> tuple[list[Touched], Region]:
        """Remesh around a place, `centre` by now; returns what changed and the piece that is there then."""
        assert self._growth is not None
        region = region or self._at(place, radius)
        done: list[Remeshed] = []
        for _ in range(ROUNDS):
            if region.inside.size:
                break
            # triangles larger than the brush: halve them until it finds vertices to work on
            coarse = self._growth.open_up(centre, radius)
            if not coarse:
                break
            done.extend(coarse)
            region = self._at(place, radius)
        # how far the surface has come since must not keep the brush from its rim
        step = self._growth.renew_risen(region.triangles, centre, radius, self._risen(region))
        if step:
            region = self._at(place, radius)
        return self._growth.touched(done + step), region

    def _came(self, triangles: Rows) -> None:
        if self._before is not None:
            self._before.note(triangles[:0], triangles)

    def _risen(self, region: Region) -> float:
        if self._before is None or not region.inside.size:
            return 0.0
        position = self.body.vertices["position"]
        way = np.take(position, region.inside, axis=0) - earlier(position, self._before.earlier, region.inside)
        return float(np.sqrt(np.einsum("ij,ij->i", way, way).max()))

    def _at(self, centre: Vector, radius: float) -> Region:
        # the piece around a place whose triangle may be gone
        hit = self.body.own_nearest(centre) if self._before is None else self._before.nearest(centre)
        return self._region(hit.triangle if hit is not None else 0, centre, radius)

    # brushes that take hold, or are set down and dragged

    @property
    def _means(self) -> bool:
        # whether what happens hangs on the normals of all bodies under the brush
        return self.company is not None and self._values.get("direction") == "mean"

    def drag(self, sample: Sample) -> Steps:
        """Move what was taken hold of, or set down, to where the pointer is."""
        first = all(copy.region is None for copy in self.copies)
        if first and not self.holding:
            self._take_hold(sample)
        held = [copy for copy in self.copies if copy.grab is not None]
        if first and self._brush.grabs:
            touched = [part for copy in held for part in self._grown_under(copy, *self.pressed(sample))]
            for copy in held:
                self._reach_out(copy, *self.pressed(sample))
            self._hold(held)
            return touched
        before = [copy.region.inside for copy in held if copy.region is not None]
        # all copies go back first and then forward, so that where they overlap both count
        for copy in reversed(held):
            if copy.region is not None:
                self._own.restore(copy.region.inside, copy.kept)
        yield
        pulls = [copy.grab.pull(self._seen_by(copy, sample)) if copy.grab else None for copy in held]
        moving = [
            (copy, np.zeros(3) if first else pull) for copy, pull in zip(held, pulls, strict=True) if pull is not None
        ]
        touched = []
        if self._brush.places:  # on the surface as it was: all grow before any is laid
            for copy, pull in moving:
                touched.extend(self._grown_under(copy, *self._set_down(copy, pull)))
            for copy, pull in moving:
                self._reach_out(copy, *self._set_down(copy, pull))
        if self._means:
            for copy in held:
                copy.total = np.zeros(4)
            for copy, pull in moving:
                copy.total = normal_total(self._as_grabbed(copy, pull))
            yield
        for copy, pull in moving:
            self._move(copy, pull)
        after = [copy.region.inside for copy in held if copy.region is not None]
        if not after:
            return touched
        pieces = before + after
        rows = pieces[0] if all(piece is pieces[0] for piece in pieces) else distinct(np.concatenate(pieces))
        touched += [Touched("position", rows), Touched("normal", self.body.rows_moved(rows))]
        return touched + (self._grown_between(held) if self._brush.grabs else [])

    def _take_hold(self, sample: Sample) -> None:
        for copy in self.copies:
            turned = self._seen_by(copy, sample)
            copy.grab = take_hold(self.body, turned)
            if copy.grab is not None:
                hit = turned.on(self.body)
                assert hit is not None
                self.begin(copy, hit, turned)

    def _set_down(self, copy: Copy, pull: Vector) -> tuple[float, float]:
        # radius and strength of what is set down and dragged so far
        assert copy.grab is not None
        radius, strength = self.pressed(copy.grab.sample)
        length = float(np.linalg.norm(pull))
        return (length if length > LIGHTEST * radius else radius), strength

    def _reach_out(self, copy: Copy, radius: float, strength: float) -> None:
        assert copy.grab is not None
        if self._growth is None:
            region = self._region(copy.grab.triangle, copy.grab.point, radius)
        else:
            region = self._at(copy.grab.point, radius)
        copy.region = region
        copy.amount = self._amount(region.inside, copy.grab.point, radius, strength)
        if self._before is not None:
            self._before.note(region.around, region.triangles)
        self._turned_away(region.inside, copy.amount, -copy.grab.facing)
        copy.kept = self._own.kept(region.inside)

    def _move(self, copy: Copy, pull: Vector) -> None:
        assert copy.region is not None and self._brush.apply is not None
        rows = copy.region.inside
        if not rows.size:
            return
        dab = self._as_grabbed(copy, pull)
        if self.company is not None and self._means:
            dab = replace(dab, beside=self.company.beside(self, copy))
        new = self._brush.apply(dab)
        self._note_target(rows)
        self._target.put(rows, new, copy.amount)

    def _as_grabbed(self, copy: Copy, pull: Vector) -> Dab:
        assert copy.grab is not None and copy.region is not None
        radius = self._set_down(copy, pull)[0] if self._brush.places else self.pressed(copy.grab.sample)[0]
        return self._as_dab(copy, copy.region, copy.amount, copy.grab.point, pull, radius)

    def _grown_under(self, copy: Copy, radius: float, _: float) -> list[Touched]:
        if self._growth is None or copy.grab is None:
            return []
        return self._grown(copy.grab.point, copy.grab.point, radius)[0]

    def _hold(self, held: list[Copy]) -> None:
        regions = [copy.region for copy in held if copy.region is not None]
        if self._growth is None or not regions:
            return
        # the piece of one copy may be remeshed where another one reaches
        around = distinct(np.concatenate([region.around for region in regions]))
        for which, copy in enumerate(held):
            if copy.region is not None:
                copy.held = Held(self.body, which)
                copy.held.take(around, self._own.kept(around), copy.region.inside, copy.amount)

    def _grown_between(self, held: list[Copy]) -> list[Touched]:
        # what is held gets new vertices where it was pulled apart
        if self._growth is None:
            return []
        done: list[Remeshed] = []
        for copy in held:
            if copy.region is not None:
                live = copy.region.inside[self.body.corners.first_corner[copy.region.inside] >= 0]
                done.extend(self._growth.renew(self.body.touched(live).triangles, np.zeros(3), np.inf))
        if not done:
            return []
        changed = [step.rows for step in done]
        for copy in held:
            if copy.region is not None and copy.held is not None:
                rows, copy.kept, copy.amount = copy.held.now(distinct(np.concatenate([copy.region.inside, *changed])))
                copy.region = self.body.touched(rows)
        return self._growth.touched(done)
