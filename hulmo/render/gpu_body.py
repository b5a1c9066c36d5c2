"""A body's tables on the graphics card."""

from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.ground import MOST_GROUNDS
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.curvature import curvature
from hulmo.core.mesh.row_ranges import row_ranges

SAMPLE = 20_000
"""Triangles that the mean edge is taken from."""

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
        self.guard = context.buffer(_guard_bytes(body, slice(None)))
        self.curve: moderngl.Buffer | None = None
        self.grain = _mean_edge(body)
        """Mean edge length when the copy was made, metres."""
        self.closed = body.corners.border_corners().size == 0
        """Whether the body has no border, so that from outside only front faces are seen."""
        self._arrays: dict[int, moderngl.VertexArray] = {}
        self.sent = 0
        """Bytes sent by `update` so far."""

    def array(self, program: moderngl.Program) -> moderngl.VertexArray:
        """The buffers bound to a program's inputs; curvature is measured when a program first asks for it."""
        key = program.glo
        if self.curve is None and isinstance(program.get("in_curve", None), moderngl.Attribute):
            rows = np.arange(self._body.vertices.count, dtype=np.int32)
            self.curve = self._context.buffer(self._curvature(rows))
        if key not in self._arrays:
            inputs: list[tuple[Any, ...]] = [
                (self.position, "3f4", "in_position"),
                (self.normal, "3f4", "in_normal"),
                (self.weight, "4f1 4f1", "in_weight_a", "in_weight_b"),
                (self.guard, "1f1", "in_guard"),
            ]
            if self.curve is not None:
                inputs.append((self.curve, "1f4", "in_curve"))
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
        if column == GUARD:
            for begin, end in row_ranges(rows).tolist():
                self.guard.write(_guard_bytes(self._body, slice(begin, end)), offset=begin)
                self.sent += end - begin
            return
        if column == "normal" and self.curve is not None:
            for begin, end in row_ranges(rows).tolist():
                self.curve.write(self._curvature(np.arange(begin, end, dtype=np.int32)), offset=begin * 4)
                self.sent += (end - begin) * 4
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
        for buffer in (self.position, self.normal, self.weight, self.guard, self.index):
            buffer.release()
        if self.curve is not None:
            self.curve.release()

    def _curvature(self, rows: Rows) -> NDArray[np.float32]:
        vertices = self._body.vertices
        return curvature(vertices["position"], vertices["normal"], self._body.corners, rows)[0]


def _guard_bytes(body: Body, rows: slice) -> NDArray[np.uint8]:
    if GUARD in body.vertices:
        return np.round(body.vertices[GUARD][rows, 0] * 255).astype(np.uint8)
    return np.zeros(len(range(*rows.indices(body.vertices.count))), np.uint8)


def _mean_edge(body: Body) -> float:
    triangles = body.corners.live_triangles()
    triangles = triangles[:: max(1, triangles.shape[0] // SAMPLE)]
    if not triangles.size:
        return 1.0
    position = body.vertices["position"]
    ends = position[triangles[:, (1, 2, 0)]] - position[triangles]
    return max(float(np.linalg.norm(ends, axis=2).mean()), 1e-6)


def _packed(weights: NDArray[np.float32]) -> NDArray[np.uint8]:
    # bytes are enough for the screen, and a quarter of what floats would send
    whole = quantise(weights, 255)
    out = np.zeros((whole.shape[0], MOST_GROUNDS), np.uint8)
    out[:, : whole.shape[1]] = whole
    return out
