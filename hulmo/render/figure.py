"""The scale figure on the graphics card."""

import moderngl
import numpy as np

from hulmo.core.dress.figure import figure_mesh


class Figure:
    """The mesh of the figure, drawn into whatever framebuffer is in use."""

    def __init__(self, context: moderngl.Context) -> None:
        position, normal, triangles = figure_mesh()
        self._context = context
        self._parts = [context.buffer(np.ascontiguousarray(part)) for part in (position, normal, triangles)]
        self._array: moderngl.VertexArray | None = None

    def draw(self, program: moderngl.Program) -> None:
        """Draw with a program whose uniforms are set."""
        if self._array is None:
            position, normal, triangles = self._parts
            content = [(position, "3f4", "in_position"), (normal, "3f4", "in_normal")]
            self._array = self._context.vertex_array(program, content, index_buffer=triangles)
        self._context.enable_only(moderngl.DEPTH_TEST)
        self._array.render(moderngl.TRIANGLES)
