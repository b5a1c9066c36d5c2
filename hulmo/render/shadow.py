"""The sun's shadow map."""

from collections.abc import Iterator

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Bounds
from hulmo.render.gpu_body import GpuBody
from hulmo.render.shaders import program, set_uniforms

SIDE = 2048

AT_ONCE = 200_000
"""Triangles between which the caller can answer the hand."""


class ShadowMap:
    """Depth of the scene seen from the sun, with hardware comparison."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._program = program(context, "shadow.vert", "shadow.frag")
        self.texture = context.depth_texture((SIDE, SIDE))
        self.texture.compare_func = "<="
        self.texture.repeat_x = self.texture.repeat_y = False
        self._frame = context.framebuffer(depth_attachment=self.texture)
        self._frame.clear(depth=1.0)
        self.matrix = np.eye(4)
        self.offset = 0.0
        """Metres by which a point is lifted along its normal before it is looked up."""

    def draw(
        self,
        bodies: list[GpuBody],
        bounds: Bounds,
        toward_sun: tuple[float, float, float],
        anchor: NDArray[np.float64],
    ) -> Iterator[None]:
        """Draw all bodies as the sun sees them, piece by piece; `bounds` count from `anchor`."""
        self.matrix = _sun_matrix(bounds, np.array(toward_sun))
        self.offset = 2.5 * 2 * bounds.radius / SIDE
        self._frame.use()  # so that no part that was drawn before bounds what is cleared
        self._frame.clear(depth=1.0)
        for body in bodies:
            for first in range(0, body.pieces.count, AT_ONCE):
                self._frame.use()
                self._context.depth_func = "<"
                self._context.enable_only(moderngl.DEPTH_TEST)
                self._context.polygon_offset = 1.5, 2.0
                matrix = self.matrix.T.astype(np.float32).tobytes()
                set_uniforms(self._program, shadow_matrix=matrix, place=body.place(anchor))
                body.render(self._program, [(first, min(AT_ONCE, body.pieces.count - first))])
                self._context.polygon_offset = 0.0, 0.0
                yield


def _sun_matrix(bounds: Bounds, toward: NDArray[np.float64]) -> NDArray[np.float64]:
    # an orthographic view along the sunlight that just holds the bounding sphere
    aside = np.array([0.0, 1.0, 0.0]) if abs(toward[1]) < 0.95 else np.array([1.0, 0.0, 0.0])
    right = np.cross(aside, toward)
    right /= np.linalg.norm(right)
    up = np.cross(toward, right)
    radius = max(bounds.radius, 1e-3) * 1.01
    matrix = np.eye(4)
    matrix[0, :3], matrix[1, :3], matrix[2, :3] = right / radius, up / radius, -toward / radius
    matrix[:3, 3] = -matrix[:3, :3] @ bounds.centre
    return matrix
