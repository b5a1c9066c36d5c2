"""Dabs along the pointer's way."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from hulmo.core.mesh.region import Region
from hulmo.core.mesh.spatial_index import Vector
from hulmo.core.sculpt.coat import COAT
from hulmo.core.sculpt.company import in_step
from hulmo.core.sculpt.copy_of import Copy, Steps
from hulmo.core.sculpt.direction import normal_total
from hulmo.core.sculpt.gestures.gesture import Gesture
from hulmo.core.sculpt.recorder import Touched
from hulmo.core.sculpt.sampler import Sample
from hulmo.core.setting import number

if TYPE_CHECKING:
    from hulmo.core.sculpt.stroke import Stroke

SETTLED = 0.02
"""Share of its lag that a steadied stroke may leave when the pointer lifts."""


class Dabbing(Gesture):
    """Lays dabs, evenly or in time."""

    def __init__(self, stroke: Stroke) -> None:
        super().__init__(stroke)
        self._steady = number(stroke.values, "steady") / 100.0
        self._last: tuple[Sample, Sample] | None = None

    def add(self, sample: Sample, between: Callable[[], None] | None) -> list[Touched]:
        """See `Stroke.add`."""
        if self._steady and self._last is not None:
            sample, wanted = self._last[1].toward(sample, 1.0 - self._steady), sample
            self._last = (wanted, sample)
        else:
            self._last = (sample, sample)
        return self._lay(sample, between)

    def settle(self) -> list[Touched]:
        """Come to where the pointer is, and have the mesh follow the last dab."""
        touched: list[Touched] = []
        if self._steady and self._last is not None:
            for _ in range(math.ceil(math.log(SETTLED) / math.log(self._steady))):
                touched.extend(self.add(self._last[0], None))
        for copy in self.stroke.copies:
            if copy.last is not None:
                place, centre, radius = copy.last
                copy.last = None
                touched.extend(self.stroke.grown(place, centre, radius)[0])
        return touched

    def _lay(self, sample: Sample, between: Callable[[], None] | None) -> list[Touched]:
        touched: list[Touched] = []
        for which, copy in enumerate(self.stroke.copies):
            assert copy.sampler is not None
            turned = self.stroke.seen_by(copy, sample)
            for point, at in copy.sampler.advance(turned):
                if self.stroke.company is not None:
                    touched.extend(self.stroke.company.dab(which, turned, at))
                else:
                    if copy.start is None:
                        self.stroke.begin(copy, point, turned)
                    dab = self.dab(copy, point.triangle, point.position, self.stroke.now(point), at)
                    touched.extend(in_step(self.stroke, [(self.stroke, dab)]))
                if between is not None:
                    between()
        return touched

    def dab(self, copy: Copy, triangle: int, place: Vector, centre: Vector, sample: Sample) -> Steps:
        """Lay a dab around a place of the surface that the stroke goes along, seen from one of its triangles; `centre` is
        where that place is now."""
        radius, strength = self.stroke.pressed(sample)
        region = self.stroke.region_at(triangle, place, radius)
        touched: list[Touched] = []
        if self.stroke.growth is not None:
            touched, region = self.stroke.grown(place, centre, radius, region)
            copy.last = (place, centre, radius)
        rows = region.inside
        if rows.size == 0 or self.stroke.brush.apply is None:
            return touched
        copy.dabs += 1
        if self.stroke.coat.lasting:
            self.stroke.coat.open(lambda old: self.stroke.note(COAT, old))
            self.stroke.note(COAT, rows)
        amount = self.stroke.amount_at(rows, place, radius, strength)
        if self.stroke.before is not None:
            self.stroke.before.note(region.around, region.triangles)
        self.stroke.turn_away(rows, amount, sample.direction)
        dab = self.stroke.as_dab(copy, region, amount, centre, np.zeros(3), radius)
        if self.stroke.brush.mask is not None:
            dab = replace(dab, amount=dab.amount * self.stroke.brush.mask(dab))
        if self.stroke.company is not None and self.stroke.means:
            copy.total = normal_total(dab)
            yield
            dab = replace(dab, beside=self.stroke.company.beside(self.stroke, copy))
        new = self.stroke.brush.apply(dab)
        self.stroke.note_target(rows)
        self.stroke.target.put(rows, new, dab.amount)
        return touched + self._written(region)

    def _written(self, region: Region) -> list[Touched]:
        if not self.stroke.target.shapes:
            return [Touched(column, region.inside) for column in self.stroke.target.columns]
        self.stroke.body.moved(region.around, region.triangles)
        return [Touched("position", region.inside), Touched("normal", region.around)]
