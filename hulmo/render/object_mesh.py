"""The mesh of a kind of scene object on the graphics card."""

import moderngl
import numpy as np

from hulmo.core.objects.kind import Mesh


class ObjectMesh:
    """Drawn into whatever framebuffer is in use."""

    def __init__(self, context: moderngl.Context, mesh: Mesh) -> None:
        self._context = context
        self._parts = [context.buffer(np.ascontiguousarray(part)) for part in mesh]
        self._array: moderngl.VertexArray | None = None

    def draw(self, program: moderngl.Program) -> None:
        """Draw with a program whose uniforms are set."""
        if self._array is None:
            position, normal, triangles = self._parts
            content = [(position, "3f4", "in_position"), (normal, "3f4", "in_normal")]
            self._array = self._context.vertex_array(program, content, index_buffer=triangles)
        self._context.enable_only(moderngl.DEPTH_TEST)
        self._array.render(moderngl.TRIANGLES)
