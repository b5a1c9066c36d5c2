"""Setting something down and dragging it to its size."""

import numpy as np

from hulmo.core.mesh.spatial_index import Vector
from hulmo.core.sculpt.copy_of import Copy
from hulmo.core.sculpt.gestures.dragging import Dragging, Moving
from hulmo.core.sculpt.recorder import Touched
from hulmo.core.sculpt.sampler import LIGHTEST


class Placing(Dragging):
    """Lays one dab where the pointer went down, as large as it has been dragged since."""

    def made_ready(self, moving: Moving) -> list[Touched]:
        """On the surface as it was: all grow before any is laid."""
        touched = []
        for copy, pull in moving:
            touched.extend(self.grown_under(copy, self.size(copy, pull)[0]))
        for copy, pull in moving:
            self.reach_out(copy, *self.size(copy, pull))
        return touched

    def size(self, copy: Copy, pull: Vector) -> tuple[float, float]:
        """As far as it has been dragged; the brush's own radius before that."""
        radius, strength = super().size(copy, pull)
        length = float(np.linalg.norm(pull))
        return (length if length > LIGHTEST * radius else radius), strength
