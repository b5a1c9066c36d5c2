"""The sun's shadow map."""

from collections.abc import Iterator, Sequence

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Bounds
from hulmo.render.gpu_body import GpuBody
from hulmo.render.gpu_props import GpuProps
from hulmo.render.portions import Runs
from hulmo.render.shaders import program, set_uniforms
from hulmo.render.view import from_tables

SIDE = 2048

AT_ONCE = 200_000
"""Triangles between which the caller can answer the hand."""


class ShadowMap:
    """Depth of the scene, or of what lies near some place, seen from the sun, with hardware comparison.

    A new one grows behind the one that is looked up, and takes its place when it is whole.
    """

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._program = program(context, "shadow.vert", "shadow.frag")
        self._props = program(context, "prop_shadow.vert", "shadow.frag")
        self._frames = [_depth_frame(context, 1), _depth_frame(context, 1)]  # until something is drawn
        self.matrix = np.eye(4)
        self.offset = 0.0
        """Metres by which a point is lifted along its normal before it is looked up."""
        self.wide, self.deep = 1.0, 1.0
        """Metres that it covers across, and along the light."""
        self.plain = context.sampler(repeat_x=False, repeat_y=False, filter=(moderngl.NEAREST, moderngl.NEAREST))
        """Looks up depths as they are."""

    @property
    def texture(self) -> moderngl.Texture:
        """The whole one, to be looked up."""
        depth = self._frames[0].depth_attachment
        assert isinstance(depth, moderngl.Texture)
        return depth

    def draw(
        self,
        bodies: list[GpuBody],
        bounds: Bounds,
        toward_sun: tuple[float, float, float],
        anchor: NDArray[np.float64],
        props: Sequence[GpuProps] = (),
        near: tuple[NDArray[np.float64], float] | None = None,
    ) -> Iterator[None]:
        """Draw all bodies as the sun sees them, some at a time; `bounds` count from `anchor`, as does the place in `near`.

        That comes with the metres around it that are wanted."""
        matrix = _sun_matrix(bounds, np.array(toward_sun), near)
        packed = matrix.T.astype(np.float32).tobytes()
        if self._frames[1].size != (SIDE, SIDE):
            _release(self._frames[1])
            self._frames[1] = _depth_frame(self._context, SIDE)
        frame = self._frames[1]
        _clear(frame)
        for body in bodies:
            runs: Runs = [(0, 0, body.pieces.count)]
            if near is not None:
                seen = body.pieces.within(from_tables(matrix, body.place(anchor)), (-1.0, -1.0, 1.0, 1.0))
                runs = body.pieces.portions(seen).runs()
            for run in _portions(runs):
                frame.use()
                self._context.depth_func = "<"
                self._context.enable_only(moderngl.DEPTH_TEST)
                self._context.polygon_offset = 1.5, 2.0
                set_uniforms(self._program, shadow_matrix=packed, place=body.place(anchor))
                body.render(self._program, [run])
                self._context.polygon_offset = 0.0, 0.0
                yield
        for some in props:
            for _ in some.each_cast(AT_ONCE):
                frame.use()
                self._context.depth_func = "<"
                self._context.enable_only(moderngl.DEPTH_TEST)
                self._context.polygon_offset = 1.5, 2.0
                set_uniforms(self._props, shadow_matrix=packed, place=some.place(anchor))
                some.draw_cast(self._props)
                self._context.polygon_offset = 0.0, 0.0
                yield
        self._frames.reverse()
        self.matrix, self.deep = matrix, 2.0 / float(np.linalg.norm(matrix[2, :3]))
        self.wide = 2.0 / float(np.linalg.norm(matrix[0, :3]))
        self.offset = 2.5 * self.wide / SIDE


def _depth_frame(context: moderngl.Context, side: int) -> moderngl.Framebuffer:
    depth = context.depth_texture((side, side))
    depth.compare_func = "<="
    depth.repeat_x = depth.repeat_y = False
    frame = context.framebuffer(depth_attachment=depth)
    _clear(frame)
    return frame


def _release(frame: moderngl.Framebuffer) -> None:
    depth = frame.depth_attachment
    frame.release()
    if depth is not None:
        depth.release()


def _clear(frame: moderngl.Framebuffer) -> None:
    frame.clear(depth=1.0, viewport=(0, 0, *frame.size))  # all of it, whatever part was drawn before


def _portions(runs: Runs) -> Iterator[tuple[int, int, int]]:
    for copy, first, count in runs:
        for begin in range(first, first + count, AT_ONCE):
            yield copy, begin, min(AT_ONCE, first + count - begin)


def _sun_matrix(
    bounds: Bounds, toward: NDArray[np.float64], near: tuple[NDArray[np.float64], float] | None
) -> NDArray[np.float64]:
    # an orthographic view along the sunlight that just holds the bounding sphere, or a part of it all along the light
    aside = np.array([0.0, 1.0, 0.0]) if abs(toward[1]) < 0.95 else np.array([1.0, 0.0, 0.0])
    right = np.cross(aside, toward)
    right /= np.linalg.norm(right)
    up = np.cross(toward, right)
    radius = max(bounds.radius, 1e-3) * 1.01
    matrix = np.eye(4)
    matrix[0, :3], matrix[1, :3], matrix[2, :3] = right / radius, up / radius, -toward / radius
    matrix[:3, 3] = -matrix[:3, :3] @ bounds.centre
    if near is not None:
        place, reach = near
        matrix[0, :3], matrix[1, :3] = right / reach, up / reach
        # by whole steps of its raster, so that shadows do not crawl when the place moves
        matrix[:2, 3] = -np.round(matrix[:2, :3] @ place * (SIDE / 2)) / (SIDE / 2)
    return matrix
