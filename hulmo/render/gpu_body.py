"""A body's tables on the graphics card."""

from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.ground import MOST_GROUNDS
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.row_ranges import row_ranges

Rows = NDArray[np.int32]


class GpuBody:
    """Vertex and index buffers of one body. `update` sends only the rows that changed."""

    def __init__(self, context: moderngl.Context, body: Body) -> None:
        self._context = context
        self._body = body
        vertices = body.vertices
        self.position = context.buffer(np.ascontiguousarray(vertices["position"]))
        self.normal = context.buffer(np.ascontiguousarray(vertices["normal"]))
        self.weight = context.buffer(_packed(vertices[WEIGHT]))
        self.index = context.buffer(np.ascontiguousarray(body.corners.live_triangles()))
        self.closed = body.corners.border_corners().size == 0
        """Whether the body has no border, so that from outside only front faces are seen."""
        self._arrays: dict[int, moderngl.VertexArray] = {}
        self.sent = 0
        """Bytes sent by `update` so far."""

    def array(self, program: moderngl.Program) -> moderngl.VertexArray:
        """The buffers bound to a program's inputs."""
        key = program.glo
        if key not in self._arrays:
            inputs: list[tuple[Any, ...]] = [
                (self.position, "3f4", "in_position"),
                (self.normal, "3f4", "in_normal"),
                (self.weight, "4f1 4f1", "in_weight_a", "in_weight_b"),
            ]
            content = [entry for entry in inputs if isinstance(program.get(entry[2], None), moderngl.Attribute)]
            self._arrays[key] = self._context.vertex_array(program, content, index_buffer=self.index)
        return self._arrays[key]

    def update(self, column: str, rows: Rows) -> None:
        """Send rows of a column; columns that are not drawn are passed over.

        Parameters
        ----------
        column : str
        rows : (K,) int32
            Ascending.
        """
        if column == WEIGHT:
            target, width = self.weight, MOST_GROUNDS
        elif column in ("position", "normal"):
            target, width = (self.position, 12) if column == "position" else (self.normal, 12)
        else:
            return
        values = self._body.vertices[column]
        for begin, end in row_ranges(rows).tolist():
            part = values[begin:end]
            data = _packed(part) if column == WEIGHT else part
            target.write(data, offset=begin * width)
            self.sent += data.nbytes

    def release(self) -> None:
        """Free the buffers."""
        for array in self._arrays.values():
            array.release()
        for buffer in (self.position, self.normal, self.weight, self.index):
            buffer.release()


def _packed(weights: NDArray[np.float32]) -> NDArray[np.uint8]:
    # bytes are enough for the screen, and a quarter of what floats would send
    whole = quantise(weights, 255)
    out = np.zeros((whole.shape[0], MOST_GROUNDS), np.uint8)
    out[:, : whole.shape[1]] = whole
    return out
