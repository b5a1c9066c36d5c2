"""Taking hold of the surface and pulling it along."""

import numpy as np

from hulmo.core.mesh.distinct import distinct
from hulmo.core.sculpt.copy_of import Copy
from hulmo.core.sculpt.gestures.dragging import Dragging
from hulmo.core.sculpt.growth import Held
from hulmo.core.sculpt.recorder import Touched
from hulmo.core.sculpt.sampler import Sample
from hulmo.core.topology.local_remesh import Remeshed


class Grabbing(Dragging):
    """Pulls what lay under the brush at first."""

    def begun(self, held: list[Copy], sample: Sample) -> list[Touched]:
        """Nothing moves yet: the mesh grows where it was taken hold of, and what will move is noted."""
        size = self.stroke.pressed(sample)
        touched = [part for copy in held for part in self.grown_under(copy, size[0])]
        for copy in held:
            self.reach_out(copy, *size)
        self._hold(held)
        return touched

    def _hold(self, held: list[Copy]) -> None:
        regions = [copy.region for copy in held if copy.region is not None]
        if self.stroke.growth is None or not regions:
            return
        # the piece of one copy may be remeshed where another one reaches
        around = distinct(np.concatenate([region.around for region in regions]))
        for which, copy in enumerate(held):
            if copy.region is not None:
                copy.held = Held(self.stroke.body, which)
                copy.held.take(around, self.stroke.own.kept(around), copy.region.inside, copy.amount)

    def moved(self, held: list[Copy]) -> list[Touched]:
        """What is held gets new vertices where it was pulled apart."""
        growth, body = self.stroke.growth, self.stroke.body
        if growth is None:
            return []
        done: list[Remeshed] = []
        for copy in held:
            if copy.region is not None:
                live = copy.region.inside[body.corners.first_corner[copy.region.inside] >= 0]
                done.extend(growth.renew(body.touched(live).triangles, np.zeros(3), np.inf))
        if not done:
            return []
        changed = [step.rows for step in done]
        for copy in held:
            if copy.region is not None and copy.held is not None:
                rows, copy.kept, copy.amount = copy.held.now(distinct(np.concatenate([copy.region.inside, *changed])))
                copy.region = body.touched(rows)
        return growth.touched(done)
