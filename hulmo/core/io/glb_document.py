"""A project as a binary glTF 2.0 document (Khronos, ISO/IEC 12113:2022)."""

from collections.abc import Callable
from typing import Any

import numpy as np
import pygltflib as gltf
from numpy.typing import NDArray

import hulmo
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import PARTS
from hulmo.core.ground.textures import encoded_part, extension_of, maps_of
from hulmo.core.io.blend_text import blend_glsl
from hulmo.core.io.delivery import Delivery, deliver
from hulmo.core.mesh.uv_scale import metres_per_uv
from hulmo.core.progress import Progress
from hulmo.core.project import Project

_KINDS = {
    np.dtype(np.float32): gltf.FLOAT,
    np.dtype(np.uint16): gltf.UNSIGNED_SHORT,
    np.dtype(np.uint32): gltf.UNSIGNED_INT,
}
_SHAPES = {1: gltf.SCALAR, 2: gltf.VEC2, 3: gltf.VEC3, 4: gltf.VEC4}


GROUND_VALUES = (
    "tile", "tint", "turn", "brightness", "contrast", "gamma", "saturation", "normal_strength", "shading", "mapping",
    "break_up", "variation", "variation_size",
)  # fmt: skip
"""What of a ground is delivered as it is."""

PLAIN_VALUES: dict[str, Callable[[Ground], Any]] = {
    "albedo": lambda ground: ground.colour,
    "normal": lambda ground: "flat",
    "roughness": lambda ground: ground.roughness,
    "height": lambda ground: ground.height,
}


class _Binary:
    """Collects the binary chunk and the accessors and views into it."""

    def __init__(self) -> None:
        self.parts: list[bytes] = []
        self.size = 0
        self.views: list[gltf.BufferView] = []
        self.accessors: list[gltf.Accessor] = []

    def view(self, data: bytes, target: int | None) -> int:
        self.views.append(gltf.BufferView(buffer=0, byteOffset=self.size, byteLength=len(data), target=target))
        padding = -len(data) % 4
        self.parts.append(data + b"\0" * padding)
        self.size += len(data) + padding
        return len(self.views) - 1

    def accessor(self, values: NDArray[Any], target: int, normalized: bool = False, extent: bool = False) -> int:
        flat = values.ndim == 1
        accessor = gltf.Accessor(
            bufferView=self.view(np.ascontiguousarray(values).tobytes(), target),
            componentType=_KINDS[values.dtype],
            count=values.shape[0],
            type=_SHAPES[1 if flat else values.shape[1]],
            normalized=normalized,
        )
        if extent:
            accessor.min = [float(value) for value in values.min(axis=0)]
            accessor.max = [float(value) for value in values.max(axis=0)]
        self.accessors.append(accessor)
        return len(self.accessors) - 1


def glb_document(project: Project, colour: str, progress: Progress) -> bytes:
    """All bodies with their ground weights, and the grounds with their images.

    Parameters
    ----------
    project : Project
    colour : str
        What COLOR_0 holds: "mean", the blended mean colour of the grounds, or "weights", the first four weights.

    Raises
    ------
    InvalidInput, FileProblem
    """
    progress.step(0.0, "collecting vertices")
    bodies = deliver(project)
    binary = _Binary()
    meshes, nodes = [], []
    for i, body in enumerate(bodies):
        progress.step(0.1 + 0.6 * i / len(bodies), f"packing {body.name}")
        meshes.append(_mesh(binary, body, colour))
        nodes.append(gltf.Node(name=body.name, mesh=i))
    progress.step(0.75, "packing textures")
    images, grounds = _grounds(binary, project)
    extras = {
        "hulmo": {
            "grounds": grounds,
            "blend": {"mode": project.blend.mode, "depth": project.blend.depth, "glsl": blend_glsl()},
            "metres_per_uv": {
                body.name: round(metres_per_uv(body), 6) for body in project.bodies if body.corners.uv is not None
            },
            "vertex_tint": "attribute _TINT, where there is one, holds colour times cover and cover: the blended albedo is "
            "multiplied with 1 - cover + colour times cover",
            "weights": "attribute _GROUND_k holds the weights of grounds 4 k to 4 k + 3",
        }
    }
    document = gltf.GLTF2(
        asset=gltf.Asset(version="2.0", generator=f"Hulmo {hulmo.__version__}"),
        scene=0,
        scenes=[gltf.Scene(name=project.name, nodes=list(range(len(nodes))))],
        nodes=nodes,
        meshes=meshes,
        materials=[
            gltf.Material(
                name="Blended grounds",
                pbrMetallicRoughness=gltf.PbrMetallicRoughness(metallicFactor=0.0, roughnessFactor=0.9),
                doubleSided=True,
                alphaCutoff=None,
            )
        ],
        images=images,
        accessors=binary.accessors,
        bufferViews=binary.views,
        buffers=[gltf.Buffer(byteLength=binary.size)],
        extras=extras,
    )
    document.set_binary_blob(b"".join(binary.parts))
    return b"".join(document.save_to_bytes())


def _mesh(binary: _Binary, body: Delivery, colour: str) -> gltf.Mesh:
    attributes = gltf.Attributes(
        POSITION=binary.accessor(body.position, gltf.ARRAY_BUFFER, extent=True),
        NORMAL=binary.accessor(body.normal, gltf.ARRAY_BUFFER),
    )
    if body.uv is not None:
        attributes.TEXCOORD_0 = binary.accessor(body.uv, gltf.ARRAY_BUFFER)
    if colour == "weights":
        shown = body.weights[:, :4]
    else:
        shown = np.full((body.colour.shape[0], 4), 65535, np.uint16)
        shown[:, :3] = np.rint(body.colour * 65535)
    attributes.COLOR_0 = binary.accessor(shown, gltf.ARRAY_BUFFER, normalized=True)
    for group in range(body.weights.shape[1] // 4):
        part = body.weights[:, 4 * group : 4 * group + 4]
        setattr(attributes, f"_GROUND_{group}", binary.accessor(part, gltf.ARRAY_BUFFER, normalized=True))
    if body.tint is not None:
        attributes._TINT = binary.accessor(body.tint, gltf.ARRAY_BUFFER)
    indices = body.triangles.reshape(-1)
    if body.position.shape[0] < 65535:
        indices = indices.astype(np.uint16)
    primitive = gltf.Primitive(
        attributes=attributes,
        indices=binary.accessor(indices, gltf.ELEMENT_ARRAY_BUFFER),
        material=0,
        mode=gltf.TRIANGLES,
    )
    return gltf.Mesh(name=body.name, primitives=[primitive])


def _grounds(binary: _Binary, project: Project) -> tuple[list[gltf.Image], list[dict[str, Any]]]:
    images: list[gltf.Image] = []
    grounds: list[dict[str, Any]] = []
    seen: dict[tuple[str, str], int] = {}
    for i, ground in enumerate(project.grounds):
        entry: dict[str, Any] = {
            "name": ground.name,
            "attribute": f"_GROUND_{i // 4}",
            "component": i % 4,
            **{key: getattr(ground, key) for key in GROUND_VALUES},
        }
        if ground.break_up:  # what the pieces of a broken-up texture are mixed about
            maps = maps_of(ground, project.textures)
            entry["mean"] = {
                "albedo": [round(value, 5) for value in maps.mean_colour()],
                **{part: round(float(getattr(maps, part).mean()) / 255.0, 5) for part in ("roughness", "height")},
            }
        for part in PARTS:
            if part in ground.plain or not ground.texture:
                entry[f"{part}_value"] = PLAIN_VALUES[part](ground)
                continue
            data = encoded_part(ground.texture, part, project.textures)
            if data is None:
                continue
            key = (ground.texture, part)
            if key not in seen:
                kind = "image/png" if extension_of(data) == "png" else "image/jpeg"
                images.append(
                    gltf.Image(name=f"{ground.texture} {part}", mimeType=kind, bufferView=binary.view(data, None))
                )
                seen[key] = len(images) - 1
            entry[part] = seen[key]
        grounds.append(entry)
    return images, grounds
