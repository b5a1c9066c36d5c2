"""Chosen faces and edges, and seams, drawn over the scene."""

import moderngl
import numpy as np
from numpy.typing import NDArray

FACE = (0.05, 0.55, 0.62, 0.42)
EDGE = (0.02, 0.30, 0.34, 1.0)
SEAM = (0.62, 0.05, 0.30, 1.0)
"""Linear light and cover."""

MOST = 400_000
"""Faces, and edges, that are drawn at the most."""


class Chosen:
    """A copy of chosen faces and edges on the graphics card.

    Parameters
    ----------
    context : moderngl.Context
    faces : (K, 3, 3) float64
    edges, seams : (L, 2, 3) float64
        Metres.
    """

    def __init__(
        self,
        context: moderngl.Context,
        faces: NDArray[np.float64],
        edges: NDArray[np.float64],
        seams: NDArray[np.float64],
    ) -> None:
        self._context = context
        self._places = (faces[:MOST].reshape(-1, 3), seams[:MOST].reshape(-1, 3), edges[:MOST].reshape(-1, 3))
        self._buffers = [context.buffer(reserve=max(12, 12 * len(part))) for part in self._places]
        self._arrays: list[moderngl.VertexArray] = []
        self._anchor: NDArray[np.float64] | None = None

    def draw(self, program: moderngl.Program, anchor: NDArray[np.float64]) -> None:
        """Draw into the framebuffer in use, in a picture that counts from `anchor`."""
        if self._anchor is None or not np.array_equal(anchor, self._anchor):
            self._anchor = anchor
            for buffer, part in zip(self._buffers, self._places, strict=True):
                if len(part):
                    buffer.write(np.ascontiguousarray(part - anchor, np.float32))
        if not self._arrays:
            self._arrays = [
                self._context.vertex_array(program, [(buffer, "3f4", "in_position")]) for buffer in self._buffers
            ]
        self._context.enable_only(moderngl.DEPTH_TEST | moderngl.BLEND)
        self._context.blend_func = moderngl.SRC_ALPHA, moderngl.ONE_MINUS_SRC_ALPHA
        for array, part, colour, kind in zip(
            self._arrays,
            self._places,
            (FACE, SEAM, EDGE),
            (moderngl.TRIANGLES, moderngl.LINES, moderngl.LINES),
            strict=True,
        ):
            if len(part):
                program["colour"] = colour
                array.render(kind, vertices=len(part))
        self._context.enable_only(moderngl.DEPTH_TEST)

    def release(self) -> None:
        """Free the buffers."""
        for array in self._arrays:
            array.release()
        for buffer in self._buffers:
            buffer.release()
