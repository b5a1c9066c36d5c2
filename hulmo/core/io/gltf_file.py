"""The files of a glTF 2.0 document (Khronos, ISO/IEC 12113:2022): its JSON, buffers, views and images."""

import base64
import pathlib
import struct
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem, shown
from hulmo.core.json_text import plain_json

KNOWN = (
    "KHR_mesh_quantization",
    "EXT_meshopt_compression",
    "KHR_materials_variants",
    "KHR_texture_transform",
    "KHR_materials_unlit",
    "EXT_mesh_gpu_instancing",
)
"""Extensions that a file may require: what they say is read, or does not matter to the shape."""

COMPRESSION = "EXT_meshopt_compression"

MOST_NUMBERS = 400_000_000
"""Numbers that all accessors of a file may hold together."""

Numbers = NDArray[Any]


class GltfFile:
    """A document, read from one file or several.

    Parameters
    ----------
    path : Path

    Raises
    ------
    FileProblem
        No glTF that is read; here, and from all methods, for what is damaged.
    """

    def __init__(self, path: pathlib.Path) -> None:
        self.path = path
        data = path.read_bytes()
        self.binary = b""
        if data[:4] == b"glTF":
            data = self._chunks(data)
        document = plain_json(data, f"{path}: its JSON cannot be read")
        if not isinstance(document, dict) or not isinstance(document.get("asset"), dict):
            raise self.wrong("it has no asset, so it is no glTF")
        if not str(document["asset"].get("version", "")).startswith("2."):
            raise self.wrong(f"glTF {shown(document['asset'].get('version'))} is not read; save it as version 2.0")
        strange = [name for name in self.entries(document, "extensionsRequired") if name not in KNOWN]
        if strange:
            raise self.wrong(f"it needs {', '.join(map(str, strange))}, which cannot be read; export it without")
        self.document = document
        self._buffers: dict[int, bytes] = {}
        self._unpacked_views: dict[int, bytes] = {}
        self.left = MOST_NUMBERS
        """Numbers that may still be read."""

    def wrong(self, what: str) -> FileProblem:
        """A problem of this file."""
        return FileProblem(f"{self.path}: {what}")

    def entry(self, name: str, index: Any) -> dict[str, Any]:
        """One of the document's lists, and of it one object."""
        entries = self.entries(self.document, name)
        if not isinstance(index, int) or isinstance(index, bool) or not 0 <= index < len(entries):
            raise self.wrong(f"it names {name}[{shown(index)}], which is not there")
        entry = entries[index]
        if not isinstance(entry, dict):
            raise self.wrong(f"{name}[{index}] is no object")
        return entry

    def entries(self, holder: Any, name: str) -> list[Any]:
        """A list that an object holds; empty where it has none."""
        entries = holder.get(name, []) if isinstance(holder, dict) else []
        if not isinstance(entries, list):
            raise self.wrong(f"{name} is no list")
        return entries

    def view(self, index: Any, offset: Any, count: int, width: int, dtype: np.dtype[Any], where: str) -> Numbers:
        """(count, width) numbers of a buffer view from a place on, unpacked where they are compressed."""
        view = self.entry("bufferViews", index)
        packed = view.get("extensions")
        packed = packed.get(COMPRESSION) if isinstance(packed, dict) else None
        start, length = view.get("byteOffset", 0), view.get("byteLength", 0)
        stride = view.get("byteStride") or width * dtype.itemsize
        numbers = (start, length, offset, stride)
        if not all(isinstance(value, int) and 0 <= value < 2**40 for value in numbers):
            raise self.wrong(f"{where}: bufferView {index} has offsets that cannot be")
        if packed is None:
            data = self._buffer(view.get("buffer"))
        else:
            start, data = 0, self._unpacked(index, packed, length, where)
        needed = offset + (count - 1) * stride + width * dtype.itemsize if count else 0
        if start + length > len(data) or needed > length:
            raise self.wrong(
                f"{where}: bufferView {index} ends before its {count:,} entries do; the file is cut or damaged"
            )
        if not count:
            return np.zeros((0, width), dtype)
        out = np.ndarray((count, width), dtype, data, start + offset, (stride, dtype.itemsize))
        return np.ascontiguousarray(out)

    def image(self, index: Any) -> bytes:
        """The bytes of an image, wherever they are."""
        image = self.entry("images", index)
        uri = image.get("uri")
        if isinstance(uri, str):
            return self._named(uri, f"images[{index}]", "image")
        view = self.entry("bufferViews", image.get("bufferView"))
        start, length = view.get("byteOffset", 0), view.get("byteLength", 0)
        data = self._buffer(view.get("buffer"))
        if not all(isinstance(value, int) and value >= 0 for value in (start, length)) or start + length > len(data):
            raise self.wrong(f"images[{index}] ends before its bytes do")
        return data[start : start + length]

    def _unpacked(self, index: Any, packed: Any, length: int, where: str) -> bytes:
        # of EXT_meshopt_compression; what it stands for is never looked at
        import meshopt

        if index in self._unpacked_views:
            return self._unpacked_views[index]
        damaged = self.wrong(f"{where}: bufferView {index} is compressed, and damaged; export it again, or without")
        if not isinstance(packed, dict):
            raise damaged
        numbers = [packed.get(name, 0) for name in ("byteOffset", "byteLength", "byteStride", "count")]
        if not all(isinstance(value, int) and 0 <= value < 2**32 for value in numbers):
            raise damaged
        start, size, stride, count = numbers
        data = self._buffer(packed.get("buffer"))
        self.left -= count
        if start + size > len(data) or not 0 < stride <= 256 or count * stride > length or self.left < 0:
            raise damaged
        try:
            out: bytes = meshopt.decode_gltf_buffer(
                data[start : start + size],
                count,
                stride,
                packed.get("mode"),
                packed.get("filter"),
            ).tobytes()
        except (ValueError, TypeError, RuntimeError) as error:
            raise damaged from error
        self._unpacked_views[index] = out
        return out

    def _buffer(self, index: Any) -> bytes:
        if index not in self._buffers:
            uri = self.entry("buffers", index).get("uri")
            if uri is not None and not isinstance(uri, str):
                raise self.wrong(f"buffers[{index}].uri is no text")
            self._buffers[index] = self.binary if uri is None else self._named(uri, f"buffers[{index}]", "buffer")
        return self._buffers[index]

    def _named(self, uri: str, where: str, what: str) -> bytes:
        if not uri.startswith("data:"):
            return self._beside(unquote(uri), what)
        try:
            return base64.b64decode(uri.partition(",")[2], validate=True)
        except ValueError as error:
            raise self.wrong(f"{where} is no readable base64 ({error})") from error

    def _beside(self, name: str, what: str) -> bytes:
        file = self.path.parent / name
        if not name or name.startswith("/") or "\\" in name or "\0" in name or {".", ".."} & set(name.split("/")):
            raise self.wrong(f"its {what} {shown(name)} does not lie beside it; put it into the same folder")
        try:
            if file.stat().st_size > 4_000_000_000:
                raise self.wrong(f"its {what} {name} is too large to be read")
            return file.read_bytes()
        except OSError as error:
            raise self.wrong(f"its {what} {name} cannot be read ({error.strerror}); it has to lie beside it") from error

    def _chunks(self, data: bytes) -> bytes:
        if len(data) < 20 or struct.unpack_from("<I", data, 4)[0] != 2:
            raise self.wrong("no GLB of version 2, or cut off")
        at, found = 12, b""
        while at + 8 <= len(data):
            length, kind = struct.unpack_from("<II", data, at)
            chunk = data[at + 8 : at + 8 + length]
            if len(chunk) < length:
                raise self.wrong("it ends in the middle of a chunk; it is cut or damaged")
            if kind == 0x4E4F534A and not found:
                found = chunk
            elif kind == 0x004E4942 and not self.binary:
                self.binary = chunk
            at += 8 + length + (-length) % 4
        return found
