"""One drawing of a part of a picture."""

from dataclasses import dataclass
from functools import cached_property

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.extent import Extent
from hulmo.render.gpu_body import GpuBody
from hulmo.render.part import Part
from hulmo.render.stage import Stage
from hulmo.render.targets import Targets
from hulmo.render.view import View, from_tables

WHOLE = (0.0, 0.0, 1.0, 1.0)


@dataclass(eq=False)
class Shot:
    """What passes need to know.

    Attributes
    ----------
    stage : Stage
    view : View
    targets : Targets
    part : Part
        Pixels of the targets that are drawn.
    window : tuple
        Which share of the view the targets show: left and lower edge, width and height, 0 to 1.
    size : tuple of int
        Pixels that the whole view has.
    """

    stage: Stage
    view: View
    targets: Targets
    part: Part
    window: tuple[float, float, float, float]
    size: tuple[int, int]

    @cached_property
    def matrix(self) -> NDArray[np.float64]:
        """(4, 4) from places about the anchor to the clip space of the targets."""
        x, y, width, height = self.window
        if self.window == WHOLE:
            return self.view.matrix(self.size)
        window: NDArray[np.float64] = np.diag([1 / width, 1 / height, 1.0, 1.0])
        window[0, 3] = (1 - 2 * x - width) / width
        window[1, 3] = (1 - 2 * y - height) / height
        return window @ self.view.matrix(self.size)

    @cached_property
    def seen(self) -> dict[str, object]:
        """Uniforms of whatever is drawn into the scene: from where it is seen, and the section."""
        return {
            "view_projection": packed(self.matrix),
            "sectioned": int(self.view.inside.section is not None),
            "section": self.view.section,
        }

    @cached_property
    def bodies(self) -> list[GpuBody]:
        """Bodies that are to be seen."""
        return self.stage.shown()

    def reached(self, body: GpuBody) -> Part:
        """What of the part a body may cover."""
        if len(self.bodies) == 1:
            return self.part
        extent = Extent(from_tables(self.matrix, body.place(self.view.anchor)))
        low, high = body.pieces.bounds
        extent.add(
            np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
        )
        return Part.reached(extent, self.targets.size).crossed(self.part)

    def render(self, body: GpuBody, made: moderngl.Program) -> None:
        """Draw what the part may show of a body."""
        matrix = from_tables(self.matrix, body.place(self.view.anchor))
        body.render(made, body.pieces.in_view(matrix, self.part.frame(self.targets.size)))


def packed(matrix: NDArray[np.float64]) -> bytes:
    """A matrix as OpenGL takes it."""
    return np.ascontiguousarray(matrix.T, np.float32).tobytes()
