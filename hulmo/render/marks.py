"""Triangles that are marked: drawn over the scene in one colour, with a dot at every corner so that slivers show too."""

import moderngl
import numpy as np
from numpy.typing import NDArray

COLOUR = (1.9, 0.10, 0.28)
"""Linear light, brighter than white paper."""

MOST = 300_000
"""Triangles that are marked at the most."""


class Marks:
    """A copy of the corners of some triangles on the graphics card.

    Parameters
    ----------
    context : moderngl.Context
    corners : (K, 3, 3) float64
        Metres; only the first `MOST` are kept.
    """

    def __init__(self, context: moderngl.Context, corners: NDArray[np.float64]) -> None:
        self._context = context
        self._count = 3 * min(corners.shape[0], MOST)
        self._corners, self._anchor = corners[:MOST], np.zeros(3)
        self._buffer = context.buffer(np.ascontiguousarray(corners[:MOST], np.float32))
        self._array: moderngl.VertexArray | None = None

    def draw(self, program: moderngl.Program, anchor: NDArray[np.float64]) -> None:
        """Draw into the framebuffer in use, in a picture that counts from `anchor`."""
        if not np.array_equal(anchor, self._anchor):
            self._anchor = anchor
            self._buffer.write(np.ascontiguousarray(self._corners - anchor, np.float32))
        if self._array is None:
            self._array = self._context.vertex_array(program, [(self._buffer, "3f4", "in_position")])
        self._context.enable_only(moderngl.DEPTH_TEST | moderngl.PROGRAM_POINT_SIZE)
        self._array.render(moderngl.TRIANGLES, vertices=self._count)
        self._array.render(moderngl.POINTS, vertices=self._count)

    def release(self) -> None:
        """Free the buffer."""
        if self._array is not None:
            self._array.release()
        self._buffer.release()
