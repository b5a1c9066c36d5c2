"""A body's tables on the graphics card."""

from collections.abc import Iterator
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.hand import hand_share
from hulmo.core.ground.marked import CHOSEN
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.weights import HAND, WEIGHT
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.corner_table import TRIANGLES
from hulmo.core.mesh.curvature import curvature
from hulmo.core.mesh.extent import Extent
from hulmo.core.mesh.row_ranges import row_ranges
from hulmo.core.mesh.sides import mean_edge
from hulmo.render.coarse import Coarse
from hulmo.render.face_textures import FaceTextures
from hulmo.render.pieces import Pieces
from hulmo.render.portions import Runs

Rows = NDArray[np.int32]

CURVE = "curve"
"""Stands for the measured curvature, as if it were a column."""

WIDTHS = {"position": 12, "normal": 12, GUARD: 1, TRIANGLES: 12, CURVE: 4, HAND: 1, TINT: 8, CHOSEN: 1}
"""Bytes of a row, or of a triangle, of every buffer but that of the weights."""

MANY_ROWS, WIDE_GAP, GAP = 100_000, 1024, 64
"""Where a table has many rows, ranges this far apart are sent as one: one more call takes longer than the rows between."""

FLAGS = (GUARD, HAND, CHOSEN)
"""Columns that are sent as one byte a row: 0 to 1."""

GRAIN_SAMPLE = 2000
"""Triangles that the mean edge is taken from."""

MANY_TRIANGLES = 150_000
"""Triangles from which on coarser copies are drawn where they do as well."""


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
            WEIGHT: context.buffer(packed_weights(vertices[WEIGHT])),
            GUARD: context.buffer(_flag_bytes(body, GUARD, slice(None))),
        }
        self._pieces = Pieces(body)
        self._slots = body.corners.count
        self._rows = vertices.count
        self._buffers[TRIANGLES] = context.buffer(
            _drawn(body.corners.triangles[self._pieces.order[: self._pieces.count]])
        )
        self.groups = ground_groups(vertices.width(WEIGHT))
        """Vectors of four weights that a vertex has."""
        self.tinted = TINT in vertices
        self._widths = {**WIDTHS, WEIGHT: 8 * self.groups}
        self.faces = FaceTextures(context, body, self._pieces)
        """What is known of faces and corners."""
        self._grain: float | None = None
        self.closed = body.corners.border_corners().size == 0
        """Whether the body has no border, so that from outside only front faces are seen."""
        self._points: moderngl.VertexArray | None = None
        self._arrays: dict[tuple[int, int], moderngl.VertexArray] = {}
        self._coarse: Coarse | None = None
        self._was_coarse = False
        self._moves = 0
        self._heights: tuple[object, tuple[float, float]] | None = None
        self.sent = 0
        """Bytes sent by `update` so far."""

    @property
    def normal(self) -> moderngl.Buffer:
        """Normals, three floats a row."""
        return self._buffers["normal"]

    def array(self, program: moderngl.Program, copy: int = 0) -> moderngl.VertexArray:
        """The buffers bound to a program's inputs, with the corners of the body or of a coarser copy; curvature is measured
        when a program first asks for it."""
        key = program.glo, copy
        for column, name in ((CURVE, "in_curve"), (HAND, "in_hand"), (TINT, "in_tint")):
            if column not in self._buffers and isinstance(program.get(name, None), moderngl.Attribute):
                room = self._buffers[GUARD].size  # one byte a row
                self._buffers[column] = self._context.buffer(reserve=room * WIDTHS[column])
                self.update(column, np.arange(self._body.vertices.count, dtype=np.int32))
        if key not in self._arrays:
            inputs: list[tuple[Any, ...]] = [
                (self._buffers["position"], "3f4", "in_position"),
                (self._buffers["normal"], "3f4", "in_normal"),
                (self._buffers[GUARD], "1f1", "in_guard"),
            ]
            names = [f"in_weight_{letter}" for letter in "abcd"[: self.groups]]
            used = [isinstance(program.get(name, None), moderngl.Attribute) for name in names]
            if any(used):
                inputs.append((
                    self._buffers[WEIGHT], " ".join("4u2" if on else "4x2" for on in used),
                    *(name for name, on in zip(names, used, strict=True) if on),
                ))  # fmt: skip
            for column, kind, name in (
                (CURVE, "1f4", "in_curve"), (HAND, "1f1", "in_hand"), (TINT, "4f2", "in_tint"),
            ):  # fmt: skip
                if column in self._buffers:
                    inputs.append((self._buffers[column], kind, name))
            content = [entry for entry in inputs if isinstance(program.get(entry[2], None), moderngl.Attribute)]
            corners = self._buffers[TRIANGLES]
            if copy and self._coarse is not None:
                corners = self._coarse.buffer(self._context, copy)
            self._arrays[key] = self._context.vertex_array(program, content, index_buffer=corners)
        return self._arrays[key]

    def render(self, program: moderngl.Program, runs: Runs) -> None:
        """Draw runs of triangles, of the body or of a coarser copy."""
        numbered = program.get("first_triangle", None)
        for copy, first, count in runs:
            if isinstance(numbered, moderngl.Uniform):
                numbered.value = first
            self.array(program, copy).render(moderngl.TRIANGLES, vertices=3 * count, first=3 * first)

    def coarse(self) -> Coarse | None:
        """Its coarser copies, made when first asked for; None where it is too small for any, or where triangles have changed
        since and `made_ready` has not been called."""
        if self._coarse is None and not self._was_coarse:
            for _ in self.made_ready():
                pass
        return self._coarse

    def made_ready(self) -> Iterator[None]:
        """Make coarser copies where there are none, some of the work at a time. Whoever changes the body meanwhile must let
        go of it."""
        if self._coarse is None and self._body.corners.live_count >= MANY_TRIANGLES and self.grain > 0:
            made = Coarse(self._body, self._pieces, self.grain)
            yield from made.made()
            self._coarse, self._was_coarse = made, True

    def _forget_coarse(self) -> None:
        if self._coarse is not None:
            self._forget_arrays()
            self._coarse.release()
            self._coarse = None

    @property
    def ident(self) -> int:
        """Number of the body."""
        return self._body.ident

    @property
    def pieces(self) -> Pieces:
        """Its triangles in the order of drawing."""
        return self._pieces

    @property
    def grain(self) -> float:
        """Mean edge length, metres."""
        if self._grain is None:  # as often as something is stroked
            self._grain = mean_edge(self._body, GRAIN_SAMPLE)
        return self._grain

    def reached(self, changes: list[tuple[str, Rows]], extent: Extent) -> None:
        """Add to an extent how far everything reaches, as it is now, that changes of rows or slots are seen in.

        What is not drawn is not seen; call `was` for what stood there before, and before it is sent.
        """
        self._pieces.fit()
        drawn = [(column, rows) for column, rows in changes if column in self._buffers and rows.size]
        slots = [rows for column, rows in drawn if column == TRIANGLES]
        at = [rows for column, rows in drawn if column != TRIANGLES]
        if slots:
            there = np.unique(np.concatenate(slots))
            self._pieces.reached_by_slots(there[there < self._body.corners.count], extent)
        if at:
            rows = np.sort(np.concatenate(at))
            rows = rows[np.concatenate(([True], rows[1:] != rows[:-1]))]
            self._pieces.reached_by_rows(rows[rows < self._body.vertices.count], extent)

    def was(self, column: str, rows: Rows, extent: Extent) -> None:
        """Add to an extent what was last sent of positions, or of the corners of triangles, that are about to be sent."""
        if not rows.size or column not in ("position", TRIANGLES):
            return
        if column == TRIANGLES:
            there = self._pieces.place[rows[rows < self._pieces.count]]
            rows = np.unique(self._read(TRIANGLES, np.sort(there), np.int32)).astype(np.int32)
        extent.add(self._read("position", rows, np.float32))

    def _read(self, column: str, rows: Rows, kind: type) -> NDArray[Any]:
        # what the card holds of some rows
        buffer, width = self._buffers[column], self._widths[column]
        rows = rows[rows < buffer.size // width]
        parts: list[NDArray[Any]] = []
        for begin, end in row_ranges(rows, self._gap).tolist():
            block: NDArray[Any] = np.frombuffer(buffer.read((end - begin) * width, offset=begin * width), kind).reshape(
                -1, 3
            )
            first, last = np.searchsorted(rows, (begin, end))
            parts.append(block[rows[first:last] - begin])  # and not what lies between them
        return np.concatenate(parts) if parts else np.empty((0, 3), kind)

    def points(self, program: moderngl.Program) -> moderngl.VertexArray:
        """All vertices, each once, bound to a program's inputs."""
        if CHOSEN not in self._buffers:
            self._buffers[CHOSEN] = self._context.buffer(reserve=self._buffers[GUARD].size)
            self.update(CHOSEN, np.arange(self._body.vertices.count, dtype=np.int32))
        if self._points is None:
            content = [(self._buffers["position"], "3f4", "in_position"), (self._buffers[CHOSEN], "1f1", "in_chosen")]
            self._points = self._context.vertex_array(program, content)
        self._points.vertices = self._body.vertices.count
        return self._points

    def update(self, column: str, rows: Rows) -> None:
        """Send rows of a column, or slots of triangles; columns that are not drawn are passed over.

        Parameters
        ----------
        column : str
        rows : (K,) int32
            Ascending.
        """
        self._moves += column == "position"
        if self._body.vertices.count > self._rows:
            self._fill_new()
        if column in ("position", TRIANGLES):
            self.faces.moved()
            self._grain = None
        if column == "normal" and CURVE in self._buffers:
            self.update(CURVE, rows)
        if column == TRIANGLES:
            self._forget_coarse()
            self.faces.release()
            if CHOSEN in self._buffers:  # vertices may have come and gone with the triangles
                self.update(CHOSEN, np.arange(self._body.vertices.count, dtype=np.int32))
        if column not in self._buffers:
            return
        if column == WEIGHT and not self._fits():
            return
        if column == TRIANGLES:
            self._pieces.fit()
            count = self._body.corners.count
            gone = np.arange(count, self._slots, dtype=np.int32)  # the table has become shorter
            rows = np.unique(self._pieces.place[np.concatenate((rows, gone))])
            self._slots = count
        buffer, width = self._room(column), self._widths[column]
        for begin, end in row_ranges(rows, self._gap).tolist():
            data = self._data(column, begin, end)
            buffer.write(data, offset=begin * width)
            self.sent += data.nbytes

    def release(self) -> None:
        """Free the buffers."""
        self._forget_arrays()
        self._forget_coarse()
        for buffer in self._buffers.values():
            buffer.release()
        self.faces.release()

    def place(self, anchor: NDArray[np.float64]) -> tuple[float, float, float]:
        """Its origin from a place, metres."""
        x, y, z = (np.array(self._body.origin) - anchor).tolist()
        return x, y, z

    @property
    def height(self) -> float:
        """Of its origin, metres."""
        return self._body.origin[1]

    def down(self) -> dict[str, object]:
        """Which way is down, as shaders are told: about its origin."""
        down, origin = self._body.down, np.array(self._body.origin)
        kind = ("level", "centre", "way").index(down.kind)
        at = np.array(down.at) - origin if kind == 1 else np.array(down.at)
        sea = down.sea + float(origin @ down.at) if kind == 2 else down.sea
        return {"down_kind": kind, "down_at": tuple(at.tolist()), "down_sea": sea}

    def heights(self) -> tuple[float, float]:
        """Least and greatest height of its vertices, metres; looked for when first asked after it moved."""
        key = (self._moves, self._body.down)
        if self._heights is None or self._heights[0] != key:
            live = self._body.corners.first_corner >= 0
            found = self._body.heights(self._body.vertices["position"][live])
            self._heights = (key, (float(found.min()), float(found.max())))
        return self._heights[1]

    @property
    def _gap(self) -> int:
        return WIDE_GAP if self._body.vertices.count > MANY_ROWS else GAP

    def _forget_arrays(self) -> None:
        for array in self._arrays.values():
            array.release()
        self._arrays.clear()
        if self._points is not None:
            self._points.release()
            self._points = None

    def _data(self, column: str, begin: int, end: int) -> NDArray[Any]:
        body = self._body
        if column in FLAGS:
            return _flag_bytes(body, column, slice(begin, end))
        if column == TRIANGLES:
            slots = self._pieces.order[begin:end]
            there = slots < body.corners.count
            out = np.zeros((slots.size, 3), np.int32)
            out[there] = _drawn(body.corners.triangles[slots[there]])
            return out
        if column == CURVE:
            rows = np.arange(begin, end, dtype=np.int32)
            return curvature(body.vertices["position"], body.vertices["normal"], body.corners, rows)[0]
        part = body.vertices[column][begin:end]
        if column == TINT:
            return part.astype(np.float16)
        return packed_weights(part) if column == WEIGHT else part

    def _fill_new(self) -> None:
        # rows that the table has gained, in every buffer: a column the body doesn't have is never told, but drawn
        first, self._rows = self._rows, self._body.vertices.count
        for column in list(self._buffers):
            if column not in (TRIANGLES, CURVE) and (column != WEIGHT or self._fits()):
                self._room(column).write(self._data(column, first, self._rows), offset=first * self._widths[column])
        if CURVE in self._buffers:  # measured when the normals come
            self._room(CURVE)

    def _fits(self) -> bool:
        # False when the palette has changed: a later change makes all of this body anew
        return ground_groups(self._body.vertices.width(WEIGHT)) == self.groups

    def _room(self, column: str) -> moderngl.Buffer:
        # the buffer of a column, made larger when the table has outgrown it
        count = self._pieces.count if column == TRIANGLES else self._body.vertices.count
        old = self._buffers[column]
        if old.size >= count * self._widths[column]:
            return old
        grown = self._context.buffer(reserve=count * 5 // 4 * self._widths[column])
        self._context.copy_buffer(grown, old, old.size)
        self._buffers[column] = grown
        self._forget_arrays()
        old.release()
        return grown


def ground_groups(grounds: int) -> int:
    """Vectors of four weights that are sent for so many grounds: 1, 2 or 4."""
    return 1 if grounds <= 4 else 2 if grounds <= 8 else 4


def _flag_bytes(body: Body, column: str, rows: slice) -> NDArray[np.uint8]:
    if column == CHOSEN:
        out = np.where(body.corners.first_corner[rows] < 0, np.uint8(128), np.uint8(0))  # freed rows are not drawn
        if CHOSEN in body.vertices:
            out[body.vertices[CHOSEN][rows, 0] >= 0.5] = 255
        return out
    if column == HAND:
        return np.round(hand_share(body, rows) * 255).astype(np.uint8)
    if column in body.vertices:
        return np.round(body.vertices[column][rows, 0] * 255).astype(np.uint8)
    return np.zeros(len(range(*rows.indices(body.vertices.count))), np.uint8)


def _drawn(triangles: Rows) -> Rows:
    return np.maximum(triangles, 0)  # freed slots hold -1


def packed_weights(weights: NDArray[np.float32]) -> NDArray[np.uint16]:
    """(K, 4 groups) weights as whole numbers that sum to 65535: what is delivered."""
    whole = quantise(weights)
    out = np.zeros((whole.shape[0], 4 * ground_groups(weights.shape[1])), np.uint16)
    out[:, : whole.shape[1]] = whole
    return out
