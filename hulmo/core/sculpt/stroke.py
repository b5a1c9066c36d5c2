"""A stroke: dabs of one brush, from the first sample to the lifted pointer."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from hulmo.core.curve import curve_at, curve_table
from hulmo.core.mesh.before import Before
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.layer import Layer
from hulmo.core.mesh.moment import earlier
from hulmo.core.mesh.patch import Patch
from hulmo.core.mesh.region import Region
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.sculpt.amount import dab_amount
from hulmo.core.sculpt.brush import SHARED, Brush, Dab
from hulmo.core.sculpt.coat import COAT, Coat
from hulmo.core.sculpt.company import Company
from hulmo.core.sculpt.copy_of import Copy, Steps
from hulmo.core.sculpt.falloff import pass_sum
from hulmo.core.sculpt.gestures import gesture_of
from hulmo.core.sculpt.growth import ROUNDS, Growth, drop_scratch
from hulmo.core.sculpt.recorder import Recorder, Touched, Written
from hulmo.core.sculpt.sampler import LIGHTEST, Sample, Sampler
from hulmo.core.sculpt.symmetry import copies
from hulmo.core.sculpt.target import Target, Writes
from hulmo.core.setting import Values, number
from hulmo.core.topology.local_remesh import Remeshed

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]


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
        self.body, self.brush, self.values = body, brush, values
        self._invert, self._ground, self._layer = invert, ground, layer
        self._radius = number(values, "radius")
        self._core = number(values, "core") / 100.0
        self._falloff = str(values["falloff"])
        self._curve = curve_table(values["falloff_curve"])  # type: ignore[arg-type]
        self._pressure = curve_table(values["pressure_curve"])  # type: ignore[arg-type]
        self._strength = number(values, "strength") / 100.0
        self.own = Target(body, brush, layer)
        self.target: Writes = target or self.own
        self._recorders = {column: Recorder(body, column) for column in self.target.columns}
        self._gesture = gesture_of(self)
        still = self._gesture.still
        self.holding = False
        self.company: Company | None = None
        self.meanwhile: list[Touched] = []
        spacing, build_up = 0.0, "stacking"
        grows = brush.grows(values)
        if not still:
            spacing = number(values, "spacing") / 100.0
            build_up = str(values["build_up"])
            if build_up == "stacking" and not brush.approaches:
                # a straight pass adds up to one full coat, whatever the spacing
                self._strength *= min(1.0, spacing / pass_sum(self._falloff, self._core, self._curve))
        flow = not still and bool(values["flow"])
        drop_scratch(body)  # of a stroke that was broken off
        # what moves or remeshes the surface goes along the one that was there at first, so that it is even whatever it does
        self.before = Before(body, grows != "off") if brush.shapes or grows != "off" else None
        self._follows = build_up == "stacking"
        self.copies = [
            Copy(turn, None if still else Sampler(self.find, spacing * self._radius, flow)) for turn in copies(values)
        ]
        on = f" {layer.ident}" if layer is not None and brush.shapes else ""
        self.coat = Coat(body, build_up, grows != "off", f"{brush.name} {ground} {invert}{on}")
        if self.coat.lasting:
            self._recorders[COAT] = Recorder(body, COAT)
        self.growth = None
        if grows != "off":
            self.growth = Growth(body, values, grows != "coarser", grows != "finer", self._came)

    def add(self, sample: Sample, between: Callable[[], None] | None = None) -> list[Touched]:
        """Lay the dabs up to a sample; returns the rows that changed, columns `position` and `normal` included.

        `between` is called after every dab: it may raise, which breaks the stroke off.
        """
        return self._gesture.add(sample, between)

    def settle(self) -> list[Touched]:
        """Let a steadied stroke come to where the pointer is, and the mesh follow the last dab; call it before `finish`."""
        return self._gesture.settle()

    def finish(self) -> list[Written] | tuple[Patch, Patch]:
        """What the stroke did, one entry a column; or, of a stroke that remeshed, the piece of the tables as it was and as
        it is. Empty when it changed nothing."""
        if self.before is not None:
            self.before.end()
        if self.growth is not None:
            drop_scratch(self.body)
            return self.growth.recorder.result() or []
        results = (recorder.result() for recorder in self._recorders.values())
        return [result for result in results if result is not None]

    def dab(self, copy: Copy, triangle: int, place: Vector, centre: Vector, sample: Sample) -> Steps:
        """Lay a dab around a place of the surface that the stroke goes along, seen from one of its triangles; `centre` is
        where that place is now."""
        return self._gesture.dab(copy, triangle, place, centre, sample)

    def drag(self, sample: Sample) -> Steps:
        """Move what was taken hold of, or set down, to where the pointer is."""
        return self._gesture.drag(sample)

    # what gestures are made of

    def seen_by(self, copy: Copy, sample: Sample) -> Sample:
        """A sample of the world as a copy has it: turned about the world's axis, and about the origin of the tables."""
        return sample.turned(copy.turn).about(self.body.origin)

    def find(self, sample: Sample) -> SurfacePoint | None:
        """Where a sample meets the surface, or that of the nearest body where the stroke has company."""
        return self.find_alone(sample) if self.company is None else self.company.find(sample)

    def find_alone(self, sample: Sample) -> SurfacePoint | None:
        """Where a sample meets the surface as it was when the stroke began.

        While every pass adds to the last, a ray goes for what one sees, and counts where that was.
        """
        before = self.before
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
        hit = self.body.own_nearest(place, radius) if self.before is None else self.before.nearest(place)
        return -1 if hit is None or hit.distance > radius else hit.triangle

    def now(self, point: SurfacePoint) -> Vector:
        """(3,) where a point of that surface is now."""
        return point.position if self.before is None else self.before.now(point)

    def normals(self, rows: Rows) -> NDArray[np.float32]:
        """(K, 3) of the surface that the stroke goes along."""
        return np.take(self.body.vertices["normal"], rows, axis=0) if self.before is None else self.before.normals(rows)

    def begin(self, copy: Copy, point: SurfacePoint, sample: Sample) -> None:
        """Note where a copy begins, and how one looks at it."""
        rows = self.body.corners.vertex[3 * point.triangle : 3 * point.triangle + 3]
        worked = point.weights @ self.target.surface[rows].astype(np.float64) if self.brush.shapes else point.position
        normal = self.body.normal_at(point)
        copy.start = (worked, normal)
        copy.view = -normal if sample.direction is None else sample.direction / np.linalg.norm(sample.direction)

    def note_target(self, rows: Rows) -> None:
        """Remember what rows hold of all that the brush writes."""
        for column in self.target.columns:
            self.note(column, rows)

    def remember(self, rows: Rows) -> None:
        """Note how some rows are before the stroke: those that others have in common with this body, so that all start from
        the same normals whenever they come to them."""
        if self.before is not None:
            self.before.note(rows, rows[:0])

    def note(self, column: str, rows: Rows) -> None:
        """Remember what rows of a column hold, before they are written as part of the stroke."""
        if self.growth is not None:
            self.growth.note(rows)
            return
        if column not in self._recorders:
            self._recorders[column] = Recorder(self.body, column)
        self._recorders[column].note(rows)

    def as_dab(
        self, copy: Copy, region: Region, amount: NDArray[np.float32], centre: Vector, pull: Vector, radius: float
    ) -> Dab:
        """What the brush is told."""
        assert copy.start is not None
        return Dab(
            self.body, region.inside, amount, self.values, self._invert, centre, *copy.start, self._ground, pull,
            self.target.surface, copy.view, copy.turn, radius, region.triangles, self.normals, copy.dabs,
        )  # fmt: skip

    def pressed(self, sample: Sample) -> tuple[float, float]:
        """Radius, metres, and strength of a dab under the pressure of a sample."""
        effect = curve_at(self._pressure, sample.pressure)
        radius = self._radius * (max(effect, LIGHTEST) if self.values["pressure_radius"] else 1.0)
        if self.values["tilt_radius"]:
            radius *= 1.0 + sample.lean / 90.0
        return radius, self._strength * (effect if self.values["pressure_strength"] else 1.0)

    def region_at(self, triangle: int, centre: Vector, radius: float) -> Region:
        """The piece of surface within a radius, seen from a triangle."""
        place = self.body if self.before is None else self.before
        if self.values["reach"] == "all":
            return place.ball_region(centre, radius)
        return place.grow_region(triangle, centre, radius)

    def amount_at(self, rows: Rows, centre: Vector, radius: float, strength: float) -> NDArray[np.float32]:
        """(K,) how much each row takes part; what is guarded or locked does not."""
        body = self.body
        position = body.vertices["position"]
        amount = dab_amount(
            position, rows, centre, radius, self._core, self._falloff, strength, self.coat.cover, self._curve,
            self.brush.approaches, None if self.before is None else self.before.earlier,
        )  # fmt: skip
        if self.brush.shapes:  # a locked border moves under no brush, but takes paint
            held = body.held(rows)
            if held is not None:
                amount[held] = 0.0
        if self.brush.column != GUARD:
            free = body.free_share(rows)
            if free is not None:
                amount *= free
        return amount

    def turn_away(self, rows: Rows, amount: NDArray[np.float32], looking: Vector | None) -> None:
        """Leave out what faces away from who looks, where the brush is for the front alone."""
        if looking is not None and self.values["front"]:
            amount[self.normals(rows) @ looking.astype(np.float32) >= 0] = 0.0

    # the growing mesh

    def grown(
        self, place: Vector, centre: Vector, radius: float, region: Region | None = None
    ) -> tuple[list[Touched], Region]:
        """Remesh around a place, `centre` by now; returns what changed and the piece that is there then."""
        assert self.growth is not None
        region = region or self.region_near(place, radius)
        done: list[Remeshed] = []
        for _ in range(ROUNDS):
            if region.inside.size:
                break
            # triangles larger than the brush: halve them until it finds vertices to work on
            coarse = self.growth.open_up(centre, radius)
            if not coarse:
                break
            done.extend(coarse)
            region = self.region_near(place, radius)
        # how far the surface has come since must not keep the brush from its rim
        step = self.growth.renew_risen(region.triangles, centre, radius, self._risen(region))
        if step:
            region = self.region_near(place, radius)
        return self.growth.touched(done + step), region

    def _came(self, triangles: Rows) -> None:
        if self.before is not None:
            self.before.note(triangles[:0], triangles)

    def _risen(self, region: Region) -> float:
        if self.before is None or not region.inside.size:
            return 0.0
        position = self.body.vertices["position"]
        way = np.take(position, region.inside, axis=0) - earlier(position, self.before.earlier, region.inside)
        return float(np.sqrt(np.einsum("ij,ij->i", way, way).max()))

    def region_near(self, centre: Vector, radius: float) -> Region:
        """The piece around a place whose triangle may be gone."""
        hit = self.body.own_nearest(centre) if self.before is None else self.before.nearest(centre)
        return self.region_at(hit.triangle if hit is not None else 0, centre, radius)

    @property
    def means(self) -> bool:
        """Whether what happens hangs on the normals of all bodies under the brush."""
        return self.company is not None and self.values.get("direction") == "mean"
