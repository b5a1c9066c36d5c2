"""The binary chunk of a glTF document, and the accessors and views into it."""

import struct
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
import pygltflib as gltf
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.io.gltf_packing import COMPRESSION, MOST, NORMAL_BITS, PLAIN, UV_STEP, Packing, rounded
from hulmo.core.low_high import low_high
from hulmo.core.workers import ahead

_KINDS = {
    np.dtype(np.int16): gltf.SHORT,
    np.dtype(np.float32): gltf.FLOAT,
    np.dtype(np.uint16): gltf.UNSIGNED_SHORT,
    np.dtype(np.uint32): gltf.UNSIGNED_INT,
}
ROWS = 1 << 17
"""Rows of a table that are made, or laid side by side, at a time while they are written."""

AHEAD = 32
"""Pieces that are made ahead of what is written: most tables are there already and take no time."""

LONGEST = 2**32 - 1
"""Bytes of a GLB at the most: its length is told in 32 bits."""

_SHAPES = {1: gltf.SCALAR, 2: gltf.VEC2, 3: gltf.VEC3, 4: gltf.VEC4}

FINE = 24
"""Bits of a float's mantissa: what was rounded to a grid before is stored exactly."""


@dataclass(frozen=True)
class LaterTable:
    """A table of which some rows at a time are made while it is written.

    Attributes
    ----------
    count, width : int
    dtype : dtype
    make : callable(slice)
        Some of its rows.
    """

    count: int
    width: int
    dtype: np.dtype[Any]
    make: Callable[[slice], NDArray[Any]]

    @property
    def shape(self) -> tuple[int, int]:
        """As of an array."""
        return self.count, self.width

    @property
    def nbytes(self) -> int:
        """As of an array."""
        return self.count * self.width * self.dtype.itemsize

    def __getitem__(self, rows: slice) -> NDArray[Any]:
        return self.make(rows)

    def whole(self) -> NDArray[Any]:
        """All of it."""
        out = np.empty(self.shape, self.dtype)
        for begin in range(0, self.count, ROWS):
            rows = slice(begin, begin + ROWS)
            out[rows] = self.make(rows)
        return out


Table = NDArray[Any] | LaterTable


class Binary:
    """Collects the binary chunk and the accessors and views into it.

    Tables are held as they are and laid row behind row while they are written, so that none lies in memory twice.

    Parameters
    ----------
    packing : Packing
    """

    def __init__(self, packing: Packing = PLAIN) -> None:
        self.packing = packing
        self._parts: list[bytes | Table] = []
        self.size = 0
        self.unpacked = 0
        """Bytes of all that is compressed, once it is unpacked."""
        self.views: list[gltf.BufferView] = []
        self.accessors: list[gltf.Accessor] = []

    def view(self, data: bytes | Table, target: int | None, stride: int | None = None) -> int:
        """A view of bytes; its number."""
        length = _length(data)
        self.views.append(
            gltf.BufferView(buffer=0, byteOffset=self.size, byteLength=length, byteStride=stride, target=target)
        )
        self._put(data)
        return len(self.views) - 1

    def chunk(self) -> Iterator[bytes | memoryview]:
        """All there is, piece by piece; the next ones are made while those before are used."""
        pieces = [
            (part, slice(begin, begin + ROWS))
            for part in self._parts
            for begin in range(0, 1 if isinstance(part, bytes) else part.shape[0], ROWS)
        ]
        return ahead(_piece, pieces, AHEAD)

    def accessor(self, values: Table, target: int | None, normalized: bool = False, extent: bool = False) -> int:
        """An accessor of a table; its number. `extent` has it say its least and greatest values."""
        if self.packing.compressed and target is not None:
            number = self._compressed(values.whole() if isinstance(values, LaterTable) else values, target)
        else:
            number = self.view(values, target)
        return self._accessor(number, values, normalized, extent)

    def positions(self, values: NDArray[np.float32]) -> int:
        """An accessor of (N, 3) places, metres, rounded to the packing's grid."""
        packing = self.packing
        if packing.quantised:
            whole = np.clip(np.rint(values.astype(np.float64) / packing.grid), -MOST, MOST).astype(np.int16)
            return self._accessor(self._padded(whole), whole, False, True)
        if packing.compressed:
            places = rounded(values, packing.grid)
            return self._accessor(self._as_floats(places), places, False, True)
        return self.accessor(values, gltf.ARRAY_BUFFER, extent=True)

    def normals(self, values: NDArray[np.float32]) -> int:
        """An accessor of (N, 3) unit vectors."""
        if not self.packing.quantised and not self.packing.compressed:
            return self.accessor(values, gltf.ARRAY_BUFFER)
        whole = LaterTable(values.shape[0], 3, np.dtype(np.int16), partial(_whole_normals, values))
        if self.packing.compressed:
            import meshopt

            wide = np.zeros((values.shape[0], 4), np.float32)
            wide[:, :3] = values
            stored = meshopt.encode_filter_oct(wide, 8, NORMAL_BITS)
            del wide
            return self._accessor(self._compressed(stored, gltf.ARRAY_BUFFER, "OCTAHEDRAL"), whole, True, False)
        return self._accessor(self._padded(whole.whole()), whole, True, False)

    def coordinates(self, values: NDArray[np.float32]) -> int:
        """An accessor of (N, 2) texture coordinates."""
        if self.packing.compressed:
            step = max(UV_STEP, 2.0 ** np.ceil(np.log2(max(float(np.abs(values).max(initial=0.0)), 1e-9))) * 2.0**-22)
            places = rounded(values, step)
            return self._accessor(self._as_floats(places), places, False, False)
        return self.accessor(values, gltf.ARRAY_BUFFER)

    def tell(self, document: gltf.GLTF2) -> None:
        """Have a document name all there is by now: accessors, views, the chunk, and what stands for it once unpacked."""
        document.accessors, document.bufferViews = self.accessors, self.views
        document.buffers = [gltf.Buffer(byteLength=self.size)]
        if self.unpacked:
            document.buffers.append(gltf.Buffer(byteLength=self.unpacked, extensions={COMPRESSION: {"fallback": True}}))

    def _accessor(self, view: int, values: Table, normalized: bool, extent: bool) -> int:
        accessor = gltf.Accessor(
            bufferView=view,
            componentType=_KINDS[values.dtype],
            count=values.shape[0],
            type=_SHAPES[1 if len(values.shape) == 1 else values.shape[1]],
            normalized=normalized,
        )
        if extent and not isinstance(values, LaterTable):
            accessor.min, accessor.max = ([float(value) for value in edge] for edge in low_high(values))
        self.accessors.append(accessor)
        return len(self.accessors) - 1

    def _padded(self, whole: NDArray[np.int16]) -> int:
        # rows begin at multiples of four bytes
        wide = np.zeros((whole.shape[0], 4), np.int16)
        wide[:, :3] = whole
        return self.view(wide, gltf.ARRAY_BUFFER, 8)

    def _as_floats(self, values: NDArray[np.float32]) -> int:
        import meshopt

        stored = meshopt.encode_filter_exp(values, FINE, "SharedComponent")
        return self._compressed(stored, gltf.ARRAY_BUFFER, "EXPONENTIAL")

    def _compressed(self, values: NDArray[Any], target: int, filtered: str = "") -> int:
        import meshopt

        rows = np.ascontiguousarray(values if values.ndim == 2 else values[:, None])
        stride, mode = rows.shape[1] * rows.itemsize, "ATTRIBUTES"
        if target == gltf.ELEMENT_ARRAY_BUFFER:
            mode = "TRIANGLES"
            rows = rows.astype(np.uint32, copy=False)
        data = meshopt.encode_gltf_buffer(rows, mode)
        told = {
            "buffer": 0, "byteOffset": self.size, "byteLength": len(data), "byteStride": stride, "mode": mode,
            "count": values.shape[0], **({"filter": filtered} if filtered else {}),
        }  # fmt: skip
        self.views.append(
            gltf.BufferView(
                buffer=1,
                byteOffset=self.unpacked,
                byteLength=stride * values.shape[0],
                byteStride=stride if mode == "ATTRIBUTES" else None,
                target=target,
                extensions={COMPRESSION: told},
            )
        )
        self.unpacked += -(-stride * values.shape[0] // 4) * 4
        self._put(data)
        return len(self.views) - 1

    def _put(self, data: bytes | Table) -> None:
        length = _length(data)
        padding = -length % 4
        self._parts.append(data)
        if padding:
            self._parts.append(b"\0" * padding)
        self.size += length + padding


def _whole_normals(values: NDArray[np.float32], rows: slice) -> NDArray[np.int16]:
    return np.rint(np.clip(values[rows], -1, 1) * 32767).astype(np.int16)


def _length(data: bytes | Table) -> int:
    return len(data) if isinstance(data, bytes) else data.nbytes


def _piece(piece: tuple[bytes | Table, slice]) -> bytes | memoryview:
    part, rows = piece
    if isinstance(part, bytes):
        return part
    return np.ascontiguousarray(part[rows]).reshape(-1).view(np.uint8).data


def glb_chunks(document: gltf.GLTF2, binary: Binary) -> Iterator[bytes | memoryview]:
    """A document and its binary chunk as one file, piece by piece (glTF 2.0, section 4).

    Raises
    ------
    InvalidInput
        It would be longer than a file of this kind can say.
    """
    text = document.gltf_to_json(separators=(",", ":"), indent=None).encode()
    text += b" " * (-len(text) % 4)
    length = 28 + len(text) + binary.size
    if length > LONGEST:
        raise InvalidInput(
            f"export to .glb: it would have {length:,} bytes, a GLB can have {LONGEST:,}; compress it, export to .gltf, "
            "or deliver it in patches"
        )
    yield struct.pack("<4sIIII", b"glTF", 2, length, len(text), 0x4E4F534A)
    yield text
    yield struct.pack("<II", binary.size, 0x004E4942)
    yield from binary.chunk()
