"""Reading glTF 2.0 and GLB (Khronos, ISO/IEC 12113:2022): triangles with texture coordinates, colours and ground weights."""

import pathlib
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import shown
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import PARTS, shipped, shipped_file
from hulmo.core.ground.textures import decode, linear_albedo
from hulmo.core.io.gltf_file import GltfFile
from hulmo.core.io.mesh_parts import Part, Read
from hulmo.core.project import free_name

DRESS = frozenset({"hulmo_water", "hulmo_prop"})
"""Keys in the extras of meshes that dress a scene, written by our own exporter: they are no ground."""

DEEPEST = 200
"""Nodes from the root of a scene to a mesh."""

_KINDS: dict[int, Any] = {
    5120: np.int8,
    5121: np.uint8,
    5122: np.int16,
    5123: np.uint16,
    5125: np.uint32,
    5126: np.float32,
}
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}

Numbers = NDArray[Any]


def read_gltf(path: pathlib.Path, apart: bool = False) -> Read:
    """All triangles of the default scene, in the scene's coordinates; each node with a mesh is a part by itself.

    Buffers and images may lie in files of their own, in the same folder or below; nothing else is read.

    Raises
    ------
    FileProblem
        What is wrong, and where in the file.
    """
    return _Reader(path).read()


def read_painted(path: pathlib.Path) -> Read:
    """As `read_gltf`, and what the materials paint at the vertices.

    Raises
    ------
    FileProblem
    """
    return _Reader(path, True).read()


class _Reader(GltfFile):
    def __init__(self, path: pathlib.Path, painted: bool = False) -> None:
        super().__init__(path)
        self.painted = painted
        self.account: list[str] = []

    def read(self) -> Read:
        extras = self.document.get("extras")
        hulmo = extras.get("hulmo") if isinstance(extras, dict) else None
        entries = hulmo.get("grounds") if isinstance(hulmo, dict) else None
        places: list[tuple[str, int]] = []
        grounds: list[Ground] = []
        textures: dict[str, dict[str, bytes]] = {}
        if isinstance(entries, list) and all(isinstance(entry, dict) for entry in entries):
            grounds = self._grounds(entries, textures)
            places = [(str(entry.get("attribute")), int(entry.get("component", 0))) for entry in entries]
        parts: list[Part] = []
        taken: list[str] = []
        for node, index, matrix in self._placed():
            mesh = self.entry("meshes", index)
            if isinstance(mesh.get("extras"), dict) and not DRESS.isdisjoint(mesh["extras"]):
                self.account.append("waters and props passed over")
                continue
            name = free_name(str(node.get("name") or mesh.get("name") or "Part"), taken)
            taken.append(name)
            for number, primitive in enumerate(self.entries(mesh, "primitives")):
                part = self._part(primitive, f"meshes[{index}].primitives[{number}]", places)
                if part is not None:
                    part.name = name
                    parts.append(_moved(part, matrix))
        return Read(parts, grounds, textures, self.account)

    # nodes

    def _placed(self) -> list[tuple[dict[str, Any], int, Numbers]]:
        # meshes of the scene, with their nodes and the matrices that bring them there
        nodes = self.entries(self.document, "nodes")
        scenes = self.entries(self.document, "scenes")
        if scenes:
            roots = self.entries(self.entry("scenes", self.document.get("scene", 0)), "nodes")
        else:
            below = {child for node in nodes for child in self.entries(node, "children") if isinstance(child, int)}
            roots = [i for i in range(len(nodes)) if i not in below]
        if not nodes:
            return [({}, i, np.eye(4)) for i in range(len(self.entries(self.document, "meshes")))]
        found: list[tuple[dict[str, Any], int, Numbers]] = []
        waiting = [(root, np.eye(4), 0) for root in roots]
        seen = 0
        while waiting:
            index, above, depth = waiting.pop(0)
            seen += 1
            if depth > DEEPEST or seen > 100 * (len(nodes) + 1):
                raise self.wrong("its nodes hang together in a circle")
            node = self.entry("nodes", index)
            matrix = above @ self._matrix(node, index)
            if "mesh" in node:
                found.append((node, node["mesh"], matrix))
            waiting += [(child, matrix, depth + 1) for child in self.entries(node, "children")]
        return found

    def _matrix(self, node: dict[str, Any], index: int) -> Numbers:
        if "matrix" in node:
            return self._numbers(node["matrix"], 16, f"nodes[{index}].matrix").reshape(4, 4).T
        out = np.eye(4)
        x, y, z, w = self._numbers(node.get("rotation", (0, 0, 0, 1)), 4, f"nodes[{index}].rotation")
        out[:3, :3] = [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
        out[:3, :3] *= self._numbers(node.get("scale", (1, 1, 1)), 3, f"nodes[{index}].scale")
        out[:3, 3] = self._numbers(node.get("translation", (0, 0, 0)), 3, f"nodes[{index}].translation")
        return out

    def _numbers(self, given: Any, count: int, where: str) -> Numbers:
        try:
            values = np.array(given, np.float64)
        except (ValueError, TypeError, OverflowError) as error:
            raise self.wrong(f"{where} does not hold numbers") from error
        if values.shape != (count,) or not np.isfinite(values).all():
            raise self.wrong(f"{where} must hold {count} finite numbers")
        return values

    # meshes

    def _part(self, primitive: Any, where: str, places: list[tuple[str, int]]) -> Part | None:
        if not isinstance(primitive, dict) or not isinstance(primitive.get("attributes"), dict):
            raise self.wrong(f"{where} has no attributes")
        mode = primitive.get("mode", 4)
        if mode not in (4, 5, 6):
            self.account.append("points or lines passed over")
            return None
        attributes = primitive["attributes"]
        if "POSITION" not in attributes:
            raise self.wrong(f"{where} has no POSITION")
        position = self._accessor(attributes["POSITION"], 3, f"{where}, POSITION").astype(np.float64)
        count = position.shape[0]
        if "indices" in primitive:
            indices = self._accessor(primitive["indices"], 1, f"{where}, indices", whole=True)[:, 0].astype(np.int64)
        else:
            indices = np.arange(count)
        part = Part(position, _triangles(indices, mode))
        named: dict[str, NDArray[np.float32] | None] = {}
        for name, width in (("TEXCOORD_0", 2), ("COLOR_0", 0), ("_TINT", 4), *((place[0], 4) for place in places)):
            if name in named or name not in attributes:
                continue
            values = self._accessor(attributes[name], width, f"{where}, {name}")
            if values.shape[0] != count:
                raise self.wrong(f"{where}: {name} has {values.shape[0]:,} entries for {count:,} vertices")
            named[name] = values.astype(np.float32)
        extras = primitive.get("extras")
        made = isinstance(extras, dict) and "made_uv" in extras  # by our own exporter, for bodies that have none
        uv = None if made else named.get("TEXCOORD_0")
        there = part.triangles.size > 0 and part.triangles.min() >= 0 and part.triangles.max() < count
        if uv is not None and there:
            part.uv = uv[part.triangles]
        colour = named.get("COLOR_0")
        if colour is not None and colour.shape[1] in (3, 4):
            part.colour = np.ones((count, 4), np.float32)
            part.colour[:, : colour.shape[1]] = colour
        part.tint = named.get("_TINT")
        if places and all(named.get(name) is not None and 0 <= at < 4 for name, at in places):
            part.weights = np.column_stack([named[name][:, at] for name, at in places])  # type: ignore[index]
        if self.painted:
            part.paint = self._paint(primitive, count, uv)
            if part.colour is not None and not places:
                part.paint = part.paint * part.colour[:, :3]
        return part

    def _paint(self, primitive: dict[str, Any], count: int, uv: NDArray[np.float32] | None) -> NDArray[np.float32]:
        out = np.ones((count, 3), np.float32)
        if "material" not in primitive:
            return out
        rough = self.entry("materials", primitive["material"]).get("pbrMetallicRoughness", {})
        if not isinstance(rough, dict):
            return out
        out *= self._numbers(rough.get("baseColorFactor", (1, 1, 1, 1)), 4, "baseColorFactor")[:3].astype(np.float32)
        texture = rough.get("baseColorTexture")
        if uv is None or not isinstance(texture, dict) or not count:
            return out
        source = self.entry("textures", texture.get("index")).get("source")
        albedo = decode(self.image(source), "RGB", f"{self.path}: images[{shown(source)}]")
        side = np.array([albedo.shape[1], albedo.shape[0]])
        with np.errstate(invalid="ignore"):
            at = np.nan_to_num(np.mod(uv, 1.0) * side).astype(np.int64) % side
        return np.asarray(out * linear_albedo(albedo[at[:, 1], at[:, 0]]), np.float32)

    def _accessor(self, index: Any, width: int, where: str, whole: bool = False) -> Numbers:
        accessor = self.entry("accessors", index)
        kind, shape, count = accessor.get("componentType"), accessor.get("type"), accessor.get("count")
        if kind not in _KINDS or shape not in _WIDTHS or not isinstance(count, int) or count < 0:
            raise self.wrong(f"{where}: accessor {shown(index)} says no type and count that can be")
        wide = _WIDTHS[shape]
        if width and wide != width:
            raise self.wrong(f"{where}: accessor {index} holds {shape}, not {width} numbers each")
        self.left -= count * wide
        if self.left < 0:
            raise self.wrong("its accessors claim more numbers than can be read")
        dtype = np.dtype(_KINDS[kind]).newbyteorder("<")
        if whole and dtype.kind != "u":
            raise self.wrong(f"{where}: accessor {index} must hold whole numbers without sign")
        if "bufferView" in accessor:
            values = self.view(accessor["bufferView"], accessor.get("byteOffset", 0), count, wide, dtype, where)
        elif "sparse" in accessor and count <= len(self.binary) + 10_000_000:
            values = np.zeros((count, wide), dtype)
        else:
            raise self.wrong(f"{where}: accessor {index} claims {count:,} entries and has no data")
        if "sparse" in accessor:
            values = self._sparse(accessor["sparse"], values, where)
        if not whole and dtype.kind in "iu" and accessor.get("normalized") is True:
            top = float(np.iinfo(_KINDS[kind]).max)
            return np.asarray(np.maximum(values / top, -1.0), np.float32)
        return values

    def _sparse(self, sparse: Any, values: Numbers, where: str) -> Numbers:
        try:
            count, rows, given = int(sparse["count"]), sparse["indices"], sparse["values"]
            kind = np.dtype(_KINDS[rows["componentType"]]).newbyteorder("<")
            at = self.view(rows["bufferView"], rows.get("byteOffset", 0), count, 1, kind, where)[:, 0]
            new = self.view(
                given["bufferView"], given.get("byteOffset", 0), count, values.shape[1], values.dtype, where
            )
        except (KeyError, TypeError, ValueError) as error:
            raise self.wrong(f"{where}: its sparse accessor is damaged") from error
        if at.size and int(at.max()) >= values.shape[0]:
            raise self.wrong(f"{where}: its sparse accessor names an entry that is not there")
        values = values.copy()
        values[at.astype(np.int64)] = new
        return values

    # grounds

    def _grounds(self, entries: list[dict[str, Any]], textures: dict[str, dict[str, bytes]]) -> list[Ground]:
        out: list[Ground] = []
        known = set(Ground.__struct_fields__)
        for number, entry in enumerate(entries):
            values = {key: value for key, value in entry.items() if key in known and key not in PARTS}
            values |= {part: entry[f"plain_{part}"] for part in ("roughness", "height") if f"plain_{part}" in entry}
            values.setdefault("texture", "")
            images = {part: self.image(entry[part]) for part in PARTS if isinstance(entry.get(part), int)}
            if images and not _is_shipped(str(values["texture"]), images):
                name = free_name(str(values["texture"] or values.get("name", "imported")), [*textures, *shipped()])
                values["texture"] = name
                textures[name] = images
            elif not images:
                values["texture"] = ""
            try:
                out.append(msgspec.convert(values, Ground, strict=True))
            except msgspec.ValidationError as error:
                raise self.wrong(f"ground {number + 1} in its extras cannot be used ({error})") from error
        return out


def _triangles(indices: NDArray[np.int64], mode: int) -> NDArray[np.int64]:
    if mode == 4:
        return indices[: indices.size // 3 * 3].reshape(-1, 3)
    if indices.size < 3:
        return np.empty((0, 3), np.int64)
    if mode == 6:
        return np.column_stack((np.full(indices.size - 2, indices[0]), indices[1:-1], indices[2:]))
    out = np.column_stack((indices[:-2], indices[1:-1], indices[2:]))
    out[1::2] = out[1::2][:, (1, 0, 2)]
    return out


def _moved(part: Part, matrix: Numbers) -> Part:
    if not np.array_equal(matrix, np.eye(4)):
        part.position = part.position @ matrix[:3, :3].T + matrix[:3, 3]
        if np.linalg.det(matrix[:3, :3]) < 0:  # mirrored: what was outside would be inside
            part.triangles = np.ascontiguousarray(part.triangles[:, (0, 2, 1)])
            if part.uv is not None:
                part.uv = np.ascontiguousarray(part.uv[:, (0, 2, 1)])
    return part


def _is_shipped(name: str, images: dict[str, bytes]) -> bool:
    if name not in shipped():
        return False
    return all(shipped_file(name, part).read_bytes() == data for part, data in images.items())
