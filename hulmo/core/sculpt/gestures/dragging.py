"""What is taken hold of, or set down, and dragged: it goes back to how it was and forward again at every sample."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.spatial_index import Vector
from hulmo.core.sculpt.brush import Dab
from hulmo.core.sculpt.company import in_step
from hulmo.core.sculpt.copy_of import Copy, Steps
from hulmo.core.sculpt.direction import normal_total
from hulmo.core.sculpt.gestures.gesture import Gesture
from hulmo.core.sculpt.grab import take_hold
from hulmo.core.sculpt.recorder import Touched
from hulmo.core.sculpt.sampler import Sample

Moving = list[tuple[Copy, Vector]]
"""Copies, and how far each is dragged."""


class Dragging(Gesture):
    """What the two gestures that drag have in common."""

    still = True

    def add(self, sample: Sample, between: Callable[[], None] | None) -> list[Touched]:
        """See `Stroke.add`."""
        stroke = self.stroke
        if stroke.company is not None and not stroke.holding:
            stroke.company.take_hold(sample)
        strokes = [stroke] if stroke.company is None else stroke.company.strokes
        return in_step(stroke, [(each, each.drag(sample)) for each in strokes])

    def drag(self, sample: Sample) -> Steps:
        """Move what was taken hold of, or set down, to where the pointer is."""
        stroke = self.stroke
        first = all(copy.region is None for copy in stroke.copies)
        if first and not stroke.holding:
            self._take_hold(sample)
        held = [copy for copy in stroke.copies if copy.grab is not None]
        if first:
            begun = self.begun(held, sample)
            if begun is not None:
                return begun
        before = [copy.region.inside for copy in held if copy.region is not None]
        # all copies go back first and then forward, so that where they overlap both count
        for copy in reversed(held):
            if copy.region is not None:
                stroke.own.restore(copy.region.inside, copy.kept)
        yield
        pulls = [copy.grab.pull(stroke.seen_by(copy, sample)) if copy.grab else None for copy in held]
        moving = [
            (copy, np.zeros(3) if first else pull) for copy, pull in zip(held, pulls, strict=True) if pull is not None
        ]
        touched = self.made_ready(moving)
        if stroke.means:
            for copy in held:
                copy.total = np.zeros(4)
            for copy, pull in moving:
                copy.total = normal_total(self._as_dab(copy, pull))
            yield
        for copy, pull in moving:
            self._move(copy, pull)
        after = [copy.region.inside for copy in held if copy.region is not None]
        if not after:
            return touched
        pieces = before + after
        rows = pieces[0] if all(piece is pieces[0] for piece in pieces) else distinct(np.concatenate(pieces))
        touched += [Touched("position", rows), Touched("normal", stroke.body.rows_moved(rows))]
        return touched + self.moved(held)

    def begun(self, held: list[Copy], sample: Sample) -> list[Touched] | None:
        """At the first sample; what changed where that is all that happens then."""
        return None

    def made_ready(self, moving: Moving) -> list[Touched]:
        """Before what is dragged is laid where it comes to."""
        return []

    def moved(self, held: list[Copy]) -> list[Touched]:
        """After that."""
        return []

    def size(self, copy: Copy, pull: Vector) -> tuple[float, float]:
        """Radius, metres, and strength of what is dragged so far."""
        assert copy.grab is not None
        return self.stroke.pressed(copy.grab.sample)

    def reach_out(self, copy: Copy, radius: float, strength: float) -> None:
        """Note which rows a copy takes along, how far, and how they are."""
        assert copy.grab is not None
        stroke = self.stroke
        if stroke.growth is None:
            region = stroke.region_at(copy.grab.triangle, copy.grab.point, radius)
        else:
            region = stroke.region_near(copy.grab.point, radius)
        copy.region = region
        copy.amount = stroke.amount_at(region.inside, copy.grab.point, radius, strength)
        if stroke.before is not None:
            stroke.before.note(region.around, region.triangles)
        stroke.turn_away(region.inside, copy.amount, -copy.grab.facing)
        copy.kept = stroke.own.kept(region.inside)

    def grown_under(self, copy: Copy, radius: float) -> list[Touched]:
        """Remesh where a copy was taken hold of, if the brush grows."""
        if self.stroke.growth is None or copy.grab is None:
            return []
        return self.stroke.grown(copy.grab.point, copy.grab.point, radius)[0]

    def _take_hold(self, sample: Sample) -> None:
        stroke = self.stroke
        for copy in stroke.copies:
            turned = stroke.seen_by(copy, sample)
            copy.grab = take_hold(stroke.body, turned)
            if copy.grab is not None:
                hit = turned.on(stroke.body)
                assert hit is not None
                stroke.begin(copy, hit, turned)

    def _move(self, copy: Copy, pull: Vector) -> None:
        stroke = self.stroke
        assert copy.region is not None and stroke.brush.apply is not None
        rows = copy.region.inside
        if not rows.size:
            return
        dab = self._as_dab(copy, pull)
        if stroke.company is not None and stroke.means:
            dab = replace(dab, beside=stroke.company.beside(stroke, copy))
        new = stroke.brush.apply(dab)
        stroke.note_target(rows)
        stroke.target.put(rows, new, copy.amount)

    def _as_dab(self, copy: Copy, pull: Vector) -> Dab:
        assert copy.grab is not None and copy.region is not None
        return self.stroke.as_dab(copy, copy.region, copy.amount, copy.grab.point, pull, self.size(copy, pull)[0])
