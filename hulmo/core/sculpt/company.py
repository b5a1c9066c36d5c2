"""One stroke over several bodies: a sample counts where it meets the first of them, and each dab is laid on all."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.sculpt.copy_of import Copy, Steps
from hulmo.core.sculpt.grab import take_hold
from hulmo.core.sculpt.recorder import Touched
from hulmo.core.sculpt.sampler import Sample
from hulmo.core.workers import side_by_side

if TYPE_CHECKING:
    from hulmo.core.sculpt.stroke import Stroke

Vector = NDArray[np.float64]


class Company:
    """Strokes of the same brush and settings on several bodies; the first one leads.

    Attributes
    ----------
    strokes : list of Stroke
    """

    def __init__(self, strokes: list[Stroke]) -> None:
        self.strokes = strokes
        self._met: tuple[Stroke, SurfacePoint] | None = None
        for stroke in strokes:
            stroke.company = self

    def find(self, sample: Sample) -> SurfacePoint | None:
        """Where a sample of the leading stroke meets the nearest body, about the origin of the leading one."""
        lead = self.strokes[0]
        best: tuple[Stroke, SurfacePoint] | None = None
        for stroke in self.strokes:
            hit = stroke.find_alone(sample.moved(shift(lead, stroke)))
            if hit is not None and (best is None or hit.distance < best[1].distance):
                best = (stroke, hit)
        if best is None:
            return None
        self._met = best
        stroke, hit = best
        return SurfacePoint(hit.triangle, hit.weights, hit.position + shift(stroke, lead), hit.distance)

    def dab(self, which: int, sample: Sample, at: Sample) -> list[Touched]:
        """Lay a dab of one copy on all bodies, where `find` met the surface last; returns what changed on the leading one.

        Parameters
        ----------
        which : int
            Copy.
        sample, at : Sample
            What the pointer gave, and the one the dab is of.
        """
        assert self._met is not None
        lead = self.strokes[0]
        met, point = self._met
        if lead.copies[which].start is None:
            met.begin(met.copies[which], point, sample.moved(shift(lead, met)))
            self._began(which, met)
        centre, (radius, _) = met.now(point), lead.pressed(at)
        copies = [stroke.copies[which] for stroke in self.strokes]
        for copy in copies:
            copy.total, copy.dabs = np.zeros(4), max(other.dabs for other in copies)
        steps: list[tuple[Stroke, Steps]] = []
        for stroke, copy in zip(self.strokes, copies, strict=True):
            way = shift(met, stroke)
            place = point.position + way
            triangle = point.triangle if stroke is met else stroke.near(place, radius)
            if triangle >= 0:
                steps.append((stroke, stroke.dab(copy, triangle, place, centre + way, at.moved(shift(lead, stroke)))))
        return in_step(lead, steps)

    def take_hold(self, sample: Sample) -> None:
        """Have every copy on every body take hold of the nearest surface under a sample of the world."""
        for which, copy in enumerate(self.strokes[0].copies):
            best: tuple[Stroke, SurfacePoint, Sample] | None = None
            for stroke in self.strokes:
                turned = sample.turned(copy.turn).about(stroke.body.origin)
                hit = turned.on(stroke.body)
                if hit is not None and (best is None or hit.distance < best[1].distance):
                    best = (stroke, hit, turned)
            if best is None:
                continue
            met, hit, turned = best
            held = take_hold(met.body, turned)
            assert held is not None
            met.begin(met.copies[which], hit, turned)
            self._began(which, met)
            for stroke in self.strokes:
                way = shift(met, stroke)
                triangle = held.triangle if stroke is met else stroke.near(held.point + way, np.inf)
                moved = turned.moved(way)
                stroke.copies[which].grab = replace(held, triangle=triangle, point=held.point + way, sample=moved)
                stroke.holding = True

    def beside(self, stroke: Stroke, copy: Copy) -> Vector:
        """(4,) normals under one copy on all bodies but that of one stroke."""
        which = stroke.copies.index(copy)
        totals = (other.copies[which].total for other in self.strokes if other is not stroke)
        return np.asarray(sum(totals, np.zeros(4)))

    def _began(self, which: int, met: Stroke) -> None:
        # a copy began on one body: it did on all
        first = met.copies[which]
        assert first.start is not None
        point, normal = first.start
        for stroke in self.strokes:
            stroke.copies[which].start = (point + shift(met, stroke), normal)
            stroke.copies[which].view = first.view


def shift(one: Stroke, other: Stroke) -> Vector:
    """(3,) what is added to places about the origin of one body to have them about that of another."""
    return np.asarray(np.array(one.body.origin) - np.array(other.body.origin), np.float64)


def in_step(lead: Stroke, steps: list[tuple[Stroke, Steps]]) -> list[Touched]:
    """Do what several strokes have to do, all of them one step after the other.

    Returns
    -------
    list of Touched
        What changed on the body of `lead`; what did on the others is left with them, in `meanwhile`.
    """
    out: list[Touched] = []
    while steps:
        # each works on a body of its own, and kernels let go of the GIL
        results = side_by_side(lambda entry: _next(entry[1]), steps)
        for (stroke, _), done in zip(steps, results, strict=True):
            if done is not None:
                (out if stroke is lead else stroke.meanwhile).extend(done)
        steps = [entry for entry, done in zip(steps, results, strict=True) if done is None]
    return out


def _next(step: Steps) -> list[Touched] | None:
    # one step further; what it came to when it is over
    try:
        next(step)
    except StopIteration as done:
        return list(done.value)
    return None
