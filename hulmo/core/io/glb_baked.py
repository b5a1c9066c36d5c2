"""Bodies with baked images as plain glTF materials, which every reader shows."""

import io
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import pygltflib as gltf
from numpy.typing import NDArray
from PIL import Image

import hulmo
from hulmo.core.colour import linear_to_srgb
from hulmo.core.errors import InvalidInput
from hulmo.core.io.delivery import Delivery, deliver
from hulmo.core.io.gltf_binary import Binary, glb_chunks
from hulmo.core.project import Project
from hulmo.core.uv.tangent import tangents

Values = NDArray[np.float32]

SAMPLER = gltf.Sampler(
    magFilter=gltf.LINEAR, minFilter=gltf.LINEAR_MIPMAP_LINEAR, wrapS=gltf.CLAMP_TO_EDGE, wrapT=gltf.CLAMP_TO_EDGE
)


@dataclass(frozen=True)
class BakedMaterial:
    """Images of one body.

    Attributes
    ----------
    base_colour : (H, W, 3) float32
        Linear light.
    normal : (H, W, 3) float32 or None
        In tangent space, 0 to 1.
    roughness, occlusion : (H, W) float32 or None
    """

    base_colour: Values
    normal: Values | None = None
    roughness: Values | None = None
    occlusion: Values | None = None


def baked_document(project: Project, baked: Mapping[str, BakedMaterial]) -> bytes:
    """A binary glTF with the bodies that have images, and nothing else.

    Parameters
    ----------
    baked : mapping
        Images by the names of the bodies; these are shown and have texture coordinates.

    Raises
    ------
    InvalidInput
        None of them is shown.
    """
    bodies = [body for body in deliver(project)[0] if body.name in baked and body.uv is not None]
    if not bodies:
        raise InvalidInput(
            "none of the bodies that were baked is shown, so there is nothing to deliver; show one first"
        )
    binary = Binary()
    meshes, nodes = [], []
    materials: list[gltf.Material] = []
    images: list[gltf.Image] = []
    made: dict[int, int] = {}
    for number, body in enumerate(bodies):
        own = baked[body.name]
        if id(own) not in made:  # bodies in one atlas share their material
            made[id(own)] = len(materials)
            materials.append(_material(binary, images, body.name, own))
        meshes.append(_mesh(binary, body, made[id(own)]))
        nodes.append(
            gltf.Node(name=body.name, mesh=number, translation=list(body.origin) if any(body.origin) else None)
        )
    document = gltf.GLTF2(
        asset=gltf.Asset(version="2.0", generator=f"Hulmo {hulmo.__version__}"),
        scene=0,
        scenes=[gltf.Scene(name=project.name, nodes=list(range(len(nodes))))],
        nodes=nodes,
        meshes=meshes,
        materials=materials,
        samplers=[SAMPLER],
        textures=[gltf.Texture(source=i, sampler=0) for i in range(len(images))],
        images=images,
    )
    binary.tell(document)
    return b"".join(glb_chunks(document, binary))


def _material(binary: Binary, images: list[gltf.Image], name: str, baked: BakedMaterial) -> gltf.Material:
    def picture(values: Values, what: str) -> int:
        buffer = io.BytesIO()
        Image.fromarray(np.rint(255 * np.clip(values, 0, 1).astype(np.float64)).astype(np.uint8)).save(buffer, "PNG")
        images.append(
            gltf.Image(name=f"{name} {what}", mimeType="image/png", bufferView=binary.view(buffer.getvalue(), None))
        )
        return len(images) - 1

    colour = np.asarray(linear_to_srgb(np.clip(baked.base_colour, 0, 1)), np.float32)
    base = picture(colour, "base colour")
    material = gltf.Material(
        name=name,
        pbrMetallicRoughness=gltf.PbrMetallicRoughness(
            baseColorTexture=gltf.TextureInfo(index=base), metallicFactor=0.0, roughnessFactor=1.0
        ),
        alphaCutoff=None,
    )
    if baked.roughness is not None or baked.occlusion is not None:
        shape = baked.base_colour.shape[:2]
        packed = np.ones((*shape, 3), np.float32)  # occlusion, roughness, metal
        packed[..., 2] = 0.0
        if baked.occlusion is not None:
            packed[..., 0] = baked.occlusion
        if baked.roughness is not None:
            packed[..., 1] = baked.roughness
        number = picture(packed, "occlusion, roughness, metal")
        assert material.pbrMetallicRoughness is not None
        material.pbrMetallicRoughness.metallicRoughnessTexture = gltf.TextureInfo(index=number)
        if baked.occlusion is not None:
            material.occlusionTexture = gltf.OcclusionTextureInfo(index=number, strength=1.0)
    if baked.normal is not None:
        material.normalTexture = gltf.NormalMaterialTexture(index=picture(baked.normal, "normal"), scale=1.0)
    return material


def _mesh(binary: Binary, body: Delivery, material: int) -> gltf.Mesh:
    assert body.uv is not None
    attributes = gltf.Attributes(
        POSITION=binary.accessor(body.position, gltf.ARRAY_BUFFER, extent=True),
        NORMAL=binary.accessor(body.normal, gltf.ARRAY_BUFFER),
        TEXCOORD_0=binary.accessor(np.ascontiguousarray(body.uv), gltf.ARRAY_BUFFER),
        TANGENT=binary.accessor(_tangents(body), gltf.ARRAY_BUFFER),
    )
    indices = body.triangles.reshape(-1)
    if body.position.shape[0] < 65535:
        indices = indices.astype(np.uint16)
    primitive = gltf.Primitive(
        attributes=attributes,
        indices=binary.accessor(indices, gltf.ELEMENT_ARRAY_BUFFER),
        material=material,
        mode=gltf.TRIANGLES,
    )
    return gltf.Mesh(name=body.name, primitives=[primitive])


def _tangents(body: Delivery) -> Values:
    # of the vertices, which are split at seams: all corners of one share a tangent, but where charts are mirrored
    assert body.uv is not None
    triangles = body.triangles.astype(np.int32)
    normal = body.normal.astype(np.float64)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    found = tangents(
        body.position[triangles].astype(np.float64), normal[triangles], body.uv[triangles].astype(np.float64), triangles
    )
    out = np.zeros((body.position.shape[0], 4), np.float32)
    out[:, 0], out[:, 3] = 1.0, 1.0
    out[triangles.reshape(-1)] = found.reshape(-1, 4)
    return out
