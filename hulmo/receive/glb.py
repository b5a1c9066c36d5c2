"""Reading glTF 2.0 (Khronos, ISO/IEC 12113:2022), in one file or several, as far as it takes to draw it."""

import io
import json
import math
import pathlib
import struct
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from hulmo.core.errors import FileProblem

KINDS: dict[int, Any] = {
    5120: np.int8,
    5121: np.uint8,
    5122: np.int16,
    5123: np.uint16,
    5125: np.uint32,
    5126: np.float32,
}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}

MOST_PIXELS = 1 << 26

LARGEST = 4_000_000_000
"""Bytes of a file beside the document, or of a table that was compressed, at the most."""

COMPRESSION = "EXT_meshopt_compression"
READ = {COMPRESSION, "KHR_mesh_quantization"}
"""Extensions that a file may require."""


@dataclass(frozen=True)
class Eye:
    """A camera of a file.

    Attributes
    ----------
    name : str
    place, target : (3,) float64
        Metres; `target` is a metre ahead.
    field : float
        Degrees, up and down.
    """

    name: str
    place: NDArray[np.float64]
    target: NDArray[np.float64]
    field: float


@dataclass(frozen=True)
class Drawn:
    """One mesh where a node puts it.

    Attributes
    ----------
    name : str
    place : (3,) float64
    attributes : dict
        (N, W) float32 by name.
    triangles : (M, 3) uint32
    extras : dict
    material : dict
    metres : float
        What one unit of POSITION is.
    """

    name: str
    place: NDArray[np.float64]
    attributes: dict[str, NDArray[np.float32]]
    triangles: NDArray[np.uint32]
    extras: dict[str, Any]
    material: dict[str, Any]
    metres: float = 1.0

    def corners(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """(3,) lowest and highest corner, metres."""
        place = self.attributes["POSITION"]
        return place.min(axis=0) * self.metres + self.place, place.max(axis=0) * self.metres + self.place


class Glb:
    """What stands in a file.

    Parameters
    ----------
    data : bytes
    where : str
        Begins every message.
    folder : Path, optional
        Where files lie that the document names; none is read without.

    Raises
    ------
    FileProblem
        Damaged; the message says where.
    """

    def __init__(self, data: bytes, where: str, folder: pathlib.Path | None = None, level: int = 0) -> None:
        self._where, self._folder, self.level = where, folder, level
        self._blob, self._beside = b"", dict[str, bytes]()
        text, what = data, "its JSON"
        if data[:4] == b"glTF":
            if len(data) < 20:
                raise FileProblem(f"{where}: ends before its JSON begins")
            version, length, size = struct.unpack("<III", data[4:16])
            if version != 2 or length != len(data):
                raise FileProblem(
                    f"{where}: says it has {length:,} bytes of version {version}; there are {len(data):,}"
                )
            text, what, self._blob = data[20 : 20 + size], f"its JSON, byte 20 to {20 + size},", data[28 + size :]
        try:
            self.document: dict[str, Any] = json.loads(text)
        except (ValueError, RecursionError) as error:
            raise FileProblem(f"{where}: {what} is damaged ({error})") from error
        if not isinstance(self.document, dict) or not isinstance(self.document.get("asset"), dict):
            raise FileProblem(f"{where}: is no glTF")
        strange = set(map(str, self.document.get("extensionsRequired", []))) - READ
        if strange:
            raise FileProblem(f"{where}: needs {', '.join(sorted(strange))}, which this receiver does not know")
        extras = self.document.get("extras", {})
        self.hulmo: dict[str, Any] = extras.get("hulmo", {}) if isinstance(extras, dict) else {}

    @property
    def shaders(self) -> dict[str, Any]:
        """Shaders that stand in the file; empty where there are none."""
        found = self.hulmo.get("shader", {})
        return found if isinstance(found, dict) else {}

    def view(self, index: int) -> bytes:
        """The bytes of a buffer view, unpacked where they are compressed."""
        view = self._entry("bufferViews", index)
        packed = (view.get("extensions") or {}).get(COMPRESSION)
        told = view if packed is None else packed
        blob = self._buffer(int(told["buffer"]))
        start, length = int(told.get("byteOffset", 0)), int(told["byteLength"])
        if start < 0 or length < 0 or start + length > len(blob):
            raise FileProblem(
                f"{self._where}: bufferViews[{index}] reaches to {start + length:,} of {len(blob):,} bytes"
            )
        data = blob[start : start + length]
        return data if packed is None else self._unpacked(data, packed, index)

    def _unpacked(self, data: bytes, packed: dict[str, Any], index: int) -> bytes:
        import meshopt

        count, stride = int(packed["count"]), int(packed["byteStride"])
        if not 0 <= count * stride <= LARGEST:
            raise FileProblem(f"{self._where}: bufferViews[{index}] would unpack to {count * stride:,} bytes")
        try:
            return bytes(
                meshopt.decode_gltf_buffer(data, count, stride, packed["mode"], packed.get("filter")).tobytes()
            )
        except (ValueError, RuntimeError, TypeError) as error:
            raise FileProblem(f"{self._where}: bufferViews[{index}] is compressed, and damaged ({error})") from error

    def _buffer(self, index: int) -> bytes:
        uri = self._entry("buffers", index).get("uri")
        return self._blob if uri is None else self._file(str(uri))

    def _file(self, uri: str) -> bytes:
        # a file beside the document; nothing further away
        name = unquote(uri)
        if name in self._beside:
            return self._beside[name]
        parts = pathlib.PurePosixPath(name).parts
        if self._folder is None or name.startswith("/") or ".." in parts or ":" in name:
            raise FileProblem(f"{self._where}: names the file {name!r}, which does not lie beside it")
        path = self._folder / name
        try:
            if path.stat().st_size > LARGEST:
                raise FileProblem(f"{path}: is larger than {LARGEST:,} bytes")
            self._beside[name] = path.read_bytes()
        except OSError as error:
            raise FileProblem(f"{path}: cannot be read ({error.strerror})") from error
        return self._beside[name]

    def array(self, index: int) -> NDArray[np.float32]:
        """(N, W) values of an accessor, 0 to 1 where they are normalized."""
        entry = self._entry("accessors", index)
        kind, width = KINDS.get(entry.get("componentType", 0)), WIDTHS.get(entry.get("type", ""))
        count = int(entry.get("count", 0))
        if kind is None or width is None or count < 0:
            raise FileProblem(f"{self._where}: accessors[{index}] is of no kind that is known")
        at = int(entry["bufferView"])
        data = self.view(at)[int(entry.get("byteOffset", 0)) :]
        row = width * np.dtype(kind).itemsize
        stride = int(self._entry("bufferViews", at).get("byteStride") or row)
        size = (count - 1) * stride + row if count else 0
        if len(data) < size or stride < row:
            raise FileProblem(f"{self._where}: accessors[{index}] wants {size:,} bytes, and its view has {len(data):,}")
        values = np.ndarray((count, width), kind, data, strides=(stride, np.dtype(kind).itemsize))
        if kind != np.float32 and entry.get("normalized"):
            return np.asarray(values / np.float32(np.iinfo(kind).max), np.float32)
        out = values.astype(np.float32) if kind != np.uint32 else values
        if kind == np.float32 and not np.isfinite(out).all():
            raise FileProblem(f"{self._where}: accessors[{index}] holds numbers that are not finite")
        return np.asarray(out)

    def image(self, texture: int) -> NDArray[np.uint8]:
        """(H, W, 3) a texture's image as it is stored."""
        source = self._entry("images", int(self._entry("textures", texture)["source"]))
        try:
            data = self._file(str(source["uri"])) if "uri" in source else self.view(int(source["bufferView"]))
            with Image.open(io.BytesIO(data)) as picture:
                if picture.size[0] * picture.size[1] > MOST_PIXELS:
                    raise FileProblem(f"{self._where}: image {source.get('name', texture)!r} has too many pixels")
                return np.asarray(picture.convert("RGB"))
        except (OSError, ValueError, SyntaxError) as error:
            raise FileProblem(f"{self._where}: image {source.get('name', texture)!r} is damaged ({error})") from error

    def parts(self) -> list[Drawn]:
        """What there is to draw, but for props and waters."""
        out = []
        for number in self._nodes():
            node = self._entry("nodes", number)
            if "mesh" not in node:
                continue
            mesh = self._entry("meshes", int(node["mesh"]))
            if not {"hulmo_prop", "hulmo_water"}.isdisjoint(mesh.get("extras", {}) or {}):
                continue
            for primitive in mesh.get("primitives", []):
                attributes = {name: self.array(int(at)) for name, at in primitive.get("attributes", {}).items()}
                if "POSITION" not in attributes or "indices" not in primitive:
                    raise FileProblem(f"{self._where}: meshes[{node['mesh']}] has no positions or no triangles")
                flat = self.array(int(primitive["indices"]))
                triangles = np.ascontiguousarray(flat.reshape(-1), np.uint32)
                if triangles.size % 3 or (triangles.size and triangles.max() >= len(attributes["POSITION"])):
                    raise FileProblem(
                        f"{self._where}: meshes[{node['mesh']}] has triangles of vertices that are not there"
                    )
                material = primitive.get("material")
                out.append(
                    Drawn(
                        str(node.get("name", number)), np.array(node.get("translation", (0.0, 0.0, 0.0)), np.float64),
                        attributes, triangles.reshape(-1, 3), primitive.get("extras", {}) or {},
                        {} if material is None else self._entry("materials", int(material)),
                        float((node.get("scale") or (1.0,))[0]),
                    )
                )  # fmt: skip
        if not out:
            raise FileProblem(f"{self._where}: has nothing to draw")
        return out

    def _nodes(self) -> list[int]:
        # those of the scene, or of the level that is asked for in their place
        scenes = self.document.get("scenes", [])
        every = list(range(len(self.document.get("nodes", []))))
        shown = self._entry("scenes", int(self.document.get("scene", 0))).get("nodes", []) if scenes else every
        out = []
        for number in shown:
            ids = self._entry("nodes", int(number)).get("extensions", {}).get("MSFT_lod", {}).get("ids", [])
            out.append(int(ids[min(self.level, len(ids)) - 1]) if self.level and ids else int(number))
        return out

    def eyes(self) -> list[Eye]:
        """Cameras, in the order of the file."""
        out = []
        for node in self.document.get("nodes", []):
            if "camera" not in node:
                continue
            lens = self._entry("cameras", int(node["camera"])).get("perspective", {})
            x, y, z, w = (float(value) for value in node.get("rotation", (0.0, 0.0, 0.0, 1.0)))
            ahead = -np.array([2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)])
            place = np.array(node.get("translation", (0.0, 0.0, 0.0)), np.float64)
            field = math.degrees(float(lens.get("yfov", 0.8)))
            out.append(Eye(str(node.get("name", "")), place, place + ahead, field))
        return out

    def _entry(self, kind: str, index: int) -> dict[str, Any]:
        entries = self.document.get(kind, [])
        if not isinstance(entries, list) or not 0 <= index < len(entries) or not isinstance(entries[index], dict):
            raise FileProblem(f"{self._where}: names {kind}[{index}], which is not there")
        found: dict[str, Any] = entries[index]
        return found
