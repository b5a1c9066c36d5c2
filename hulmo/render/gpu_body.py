"""A body's tables on the graphics card."""

from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.ground import MOST_GROUNDS
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.corner_table import TRIANGLES
from hulmo.core.mesh.curvature import curvature
from hulmo.core.mesh.row_ranges import row_ranges
from hulmo.core.mesh.sides import mean_edge

Rows = NDArray[np.int32]

CURVE = "curve"
"""Stands for the measured curvature, as if it were a column."""

WIDTHS = {"position": 12, "normal": 12, WEIGHT: MOST_GROUNDS, GUARD: 1, TRIANGLES: 12, CURVE: 4}
"""Bytes of a row, or of a triangle, of every buffer."""


class GpuBody:
    """Vertex and index buffers of one body. `update` sends only the rows and triangles that changed.

    Buffers have one place for every row and every slot of the tables, freed ones included: a freed triangle is drawn as a
    point. They get room for a quarter more when the tables outgrow them.
    """

    def __init__(self, context: moderngl.Context, body: Body) -> None:
        self._context = context
        self._body = body
        vertices = body.vertices
        self._buffers = {
            "position": context.buffer(np.ascontiguousarray(vertices["position"])),
            "normal": context.buffer(np.ascontiguousarray(vertices["normal"])),
            WEIGHT: context.buffer(_packed(vertices[WEIGHT])),
            GUARD: context.buffer(_guard_bytes(body, slice(None))),
            TRIANGLES: context.buffer(_drawn(body.corners.triangles)),
        }
        self.grain = mean_edge(body)
        """Mean edge length since triangles last came or went, metres."""
        self.closed = body.corners.border_corners().size == 0
        """Whether the body has no border, so that from outside only front faces are seen."""
        self._arrays: dict[int, moderngl.VertexArray] = {}
        self.sent = 0
        """Bytes sent by `update` so far."""

    @property
    def normal(self) -> moderngl.Buffer:
        """Normals, three floats a row."""
        return self._buffers["normal"]

    def array(self, program: moderngl.Program) -> moderngl.VertexArray:
        """The buffers bound to a program's inputs; curvature is measured when a program first asks for it."""
        key = program.glo
        if CURVE not in self._buffers and isinstance(program.get("in_curve", None), moderngl.Attribute):
            room = self._buffers[GUARD].size  # one byte a row
            self._buffers[CURVE] = self._context.buffer(reserve=room * WIDTHS[CURVE])
            self.update(CURVE, np.arange(self._body.vertices.count, dtype=np.int32))
        if key not in self._arrays:
            inputs: list[tuple[Any, ...]] = [
                (self._buffers["position"], "3f4", "in_position"),
                (self._buffers["normal"], "3f4", "in_normal"),
                (self._buffers[WEIGHT], "4f1 4f1", "in_weight_a", "in_weight_b"),
                (self._buffers[GUARD], "1f1", "in_guard"),
            ]
            if CURVE in self._buffers:
                inputs.append((self._buffers[CURVE], "1f4", "in_curve"))
            content = [entry for entry in inputs if isinstance(program.get(entry[2], None), moderngl.Attribute)]
            self._arrays[key] = self._context.vertex_array(program, content, index_buffer=self._buffers[TRIANGLES])
        array = self._arrays[key]
        array.vertices = 3 * self._body.corners.count
        return array

    def update(self, column: str, rows: Rows) -> None:
        """Send rows of a column, or slots of triangles; columns that are not drawn are passed over.

        Parameters
        ----------
        column : str
        rows : (K,) int32
            Ascending.
        """
        if column == "normal" and CURVE in self._buffers:
            self.update(CURVE, rows)
        if column == TRIANGLES:
            self.grain = mean_edge(self._body)
        if column not in self._buffers:
            return
        buffer, width = self._room(column), WIDTHS[column]
        for begin, end in row_ranges(rows).tolist():
            data = self._data(column, begin, end)
            buffer.write(data, offset=begin * width)
            self.sent += data.nbytes

    def release(self) -> None:
        """Free the buffers."""
        for array in self._arrays.values():
            array.release()
        for buffer in self._buffers.values():
            buffer.release()

    def _data(self, column: str, begin: int, end: int) -> NDArray[Any]:
        body = self._body
        if column == GUARD:
            return _guard_bytes(body, slice(begin, end))
        if column == TRIANGLES:
            return _drawn(body.corners.triangles[begin:end])
        if column == CURVE:
            rows = np.arange(begin, end, dtype=np.int32)
            return curvature(body.vertices["position"], body.vertices["normal"], body.corners, rows)[0]
        part = body.vertices[column][begin:end]
        return _packed(part) if column == WEIGHT else part

    def _room(self, column: str) -> moderngl.Buffer:
        # the buffer of a column, made larger when the table has outgrown it
        count = self._body.corners.count if column == TRIANGLES else self._body.vertices.count
        old = self._buffers[column]
        if old.size >= count * WIDTHS[column]:
            return old
        grown = self._context.buffer(reserve=count * 5 // 4 * WIDTHS[column])
        self._context.copy_buffer(grown, old, old.size)
        self._buffers[column] = grown
        for array in self._arrays.values():
            array.release()
        self._arrays.clear()
        old.release()
        return grown


def _guard_bytes(body: Body, rows: slice) -> NDArray[np.uint8]:
    if GUARD in body.vertices:
        return np.round(body.vertices[GUARD][rows, 0] * 255).astype(np.uint8)
    return np.zeros(len(range(*rows.indices(body.vertices.count))), np.uint8)


def _drawn(triangles: Rows) -> Rows:
    return np.maximum(triangles, 0)  # freed slots hold -1


def _packed(weights: NDArray[np.float32]) -> NDArray[np.uint8]:
    # bytes are enough for the screen, and a quarter of what floats would send
    whole = quantise(weights, 255)
    out = np.zeros((whole.shape[0], MOST_GROUNDS), np.uint8)
    out[:, : whole.shape[1]] = whole
    return out
