"""Reading a binary glTF 2.0 (Khronos, ISO/IEC 12113:2022) as far as it takes to draw it."""

import io
import json
import math
import struct
from dataclasses import dataclass
from typing import Any

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
    """

    name: str
    place: NDArray[np.float64]
    attributes: dict[str, NDArray[np.float32]]
    triangles: NDArray[np.uint32]
    extras: dict[str, Any]
    material: dict[str, Any]


class Glb:
    """What stands in a file.

    Parameters
    ----------
    data : bytes
    where : str
        Begins every message.

    Raises
    ------
    FileProblem
        Damaged; the message says where.
    """

    def __init__(self, data: bytes, where: str) -> None:
        self._where = where
        if len(data) < 20 or data[:4] != b"glTF":
            raise FileProblem(f"{where}: does not begin as a binary glTF")
        version, length, size = struct.unpack("<III", data[4:16])
        if version != 2 or length != len(data):
            raise FileProblem(f"{where}: says it has {length:,} bytes of version {version}; there are {len(data):,}")
        try:
            self.document: dict[str, Any] = json.loads(data[20 : 20 + size])
        except (ValueError, RecursionError) as error:
            raise FileProblem(f"{where}: its JSON, byte 20 to {20 + size}, is damaged ({error})") from error
        if not isinstance(self.document, dict):
            raise FileProblem(f"{where}: its JSON is no document")
        self._blob = data[28 + size :]
        extras = self.document.get("extras", {})
        self.hulmo: dict[str, Any] = extras.get("hulmo", {}) if isinstance(extras, dict) else {}

    @property
    def shaders(self) -> dict[str, Any]:
        """Shaders that stand in the file; empty where there are none."""
        found = self.hulmo.get("shader", {})
        return found if isinstance(found, dict) else {}

    def view(self, index: int) -> bytes:
        """The bytes of a buffer view."""
        view = self._entry("bufferViews", index)
        start, length = int(view.get("byteOffset", 0)), int(view["byteLength"])
        if start < 0 or length < 0 or start + length > len(self._blob):
            raise FileProblem(
                f"{self._where}: bufferViews[{index}] reaches to {start + length:,} of {len(self._blob):,} bytes"
            )
        return self._blob[start : start + length]

    def array(self, index: int) -> NDArray[np.float32]:
        """(N, W) values of an accessor, 0 to 1 where they are normalized."""
        entry = self._entry("accessors", index)
        kind, width = KINDS.get(entry.get("componentType", 0)), WIDTHS.get(entry.get("type", ""))
        count = int(entry.get("count", 0))
        if kind is None or width is None or count < 0:
            raise FileProblem(f"{self._where}: accessors[{index}] is of no kind that is known")
        data = self.view(int(entry["bufferView"]))[int(entry.get("byteOffset", 0)) :]
        size = count * width * np.dtype(kind).itemsize
        if len(data) < size:
            raise FileProblem(f"{self._where}: accessors[{index}] wants {size:,} bytes, and its view has {len(data):,}")
        values = np.frombuffer(data[:size], kind).reshape(count, width)
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
            with Image.open(io.BytesIO(self.view(int(source["bufferView"])))) as picture:
                if picture.size[0] * picture.size[1] > MOST_PIXELS:
                    raise FileProblem(f"{self._where}: image {source.get('name', texture)!r} has too many pixels")
                return np.asarray(picture.convert("RGB"))
        except (OSError, ValueError, SyntaxError) as error:
            raise FileProblem(f"{self._where}: image {source.get('name', texture)!r} is damaged ({error})") from error

    def parts(self) -> list[Drawn]:
        """What there is to draw, but for props and waters."""
        out = []
        for number, node in enumerate(self.document.get("nodes", [])):
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
                    )
                )  # fmt: skip
        if not out:
            raise FileProblem(f"{self._where}: has nothing to draw")
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
