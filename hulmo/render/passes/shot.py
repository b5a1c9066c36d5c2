"""One drawing of a part of a picture."""

from dataclasses import dataclass, field
from functools import cached_property

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.extent import Extent
from hulmo.render.gpu_body import GpuBody
from hulmo.render.part import Part
from hulmo.render.portions import Portions
from hulmo.render.programs import by_uv
from hulmo.render.stage import Stage
from hulmo.render.targets import Targets
from hulmo.render.view import View, from_tables

WHOLE = (0.0, 0.0, 1.0, 1.0)

FEW_PIECES = 64
"""Pieces up to which all are drawn at once."""

FIELDS = 48
"""Fields along each side of a part in which it is known how far off the farthest is that is seen there."""


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
    hasty : bool
        Whether it is to take less time, and may leave fine detail out.
    coarse : bool
        Whether coarser copies of bodies do where their triangles are smaller than pixels.
    """

    stage: Stage
    view: View
    targets: Targets
    part: Part
    window: tuple[float, float, float, float]
    size: tuple[int, int]
    hasty: bool = False
    coarse: bool = False
    _portions: dict[GpuBody, Portions] = field(default_factory=dict, init=False)

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

    def portions(self, body: GpuBody) -> Portions:
        """What the part may show of a body."""
        if body not in self._portions:
            matrix = from_tables(self.matrix, body.place(self.view.anchor))
            frame = self.part.frame(self.targets.size)
            pieces = body.pieces.within(matrix, frame)
            copies = body.coarse() if self.coarse and not self._by_triangle(body) else None
            found = None if copies is None else copies.portions(pieces, matrix, frame, self.targets.size)
            self._portions[body] = found or body.pieces.portions(pieces)
        return self._portions[body]

    def render(self, body: GpuBody, made: moderngl.Program) -> None:
        """Draw what the part may show of a body."""
        body.render(made, self.portions(body).runs())

    def render_unhidden(self, body: GpuBody, made: moderngl.Program) -> None:
        """As `render`, into the depth of the targets: first what lies in front, and then only what that does not hide.

        For drawers that take their time over every triangle, and from whom depth is read back at once.
        """
        portions = self.portions(body)
        if portions.size < FEW_PIECES:
            body.render(made, portions.runs())
            return
        matrix = from_tables(self.matrix, body.place(self.view.anchor))
        depth = portions.depths(matrix)
        order = np.sort(depth)
        margin = portions.size // 8  # on either side of the widest gap between what is in front and what is behind
        place = margin + int(np.diff(order[margin : portions.size - margin]).argmax())
        front = depth <= order[place]
        body.render(made, portions.of(front).runs())
        behind = portions.of(~front)
        hidden = behind.hidden(depth[~front], matrix, self.part.frame(self.targets.size), self._farthest())
        body.render(made, behind.of(~hidden).runs())

    def _by_triangle(self, body: GpuBody) -> bool:
        # whether something is known of every triangle, or drawn of it, that a coarser copy has not
        look = self.view.look
        return bool(
            look.geometry or look.by_face or body.faces.faceted or by_uv(look, body, self.stage.project.grounds)
        )

    def _farthest(self) -> NDArray[np.float64]:
        # greatest depth in fields of the part; 1 where nothing has been drawn somewhere
        part = self.part
        data = self.targets.depth.read(viewport=part.box, components=1, attachment=-1, alignment=1, dtype="f4")
        depth = np.frombuffer(data, np.float32).reshape(part.height, part.width)
        for axis, count in enumerate((part.height, part.width)):
            begin = np.arange(min(FIELDS, count)) * count // min(FIELDS, count)
            depth = np.maximum.reduceat(depth, begin, axis=axis)
        return depth.astype(np.float64)


def packed(matrix: NDArray[np.float64]) -> bytes:
    """A matrix as OpenGL takes it."""
    return np.ascontiguousarray(matrix.T, np.float32).tobytes()
