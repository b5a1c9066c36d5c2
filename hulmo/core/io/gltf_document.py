"""A project as a glTF 2.0 document (Khronos, ISO/IEC 12113:2022)."""

from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
import pygltflib as gltf
from numpy.typing import NDArray

import hulmo
from hulmo.core.colour import hex_to_linear
from hulmo.core.ground.ground import Ground
from hulmo.core.io.blend_table import LOOKUPS, TABLE
from hulmo.core.io.blend_text import blend_glsl, light_glsl
from hulmo.core.io.delivery import Delivery, deliver
from hulmo.core.io.gltf_binary import Binary, LaterTable
from hulmo.core.io.gltf_dress import LIGHTS, Dress
from hulmo.core.io.gltf_levels import LEVELS, with_levels
from hulmo.core.io.gltf_packing import in_order_of_use, packing_of
from hulmo.core.io.ground_record import DeliveredImage, ground_records
from hulmo.core.io.opaque import opaque
from hulmo.core.io.receiver import receiver_shaders
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Values

MADE_UV = "made_uv"
"""Key in the extras of a primitive whose texture coordinates are none of the body's own."""

METRES_PER_UV = "metres_per_uv"
"""Key in the extras of a primitive with texture coordinates of its own: what a unit of them covers."""

VARIANTS = "KHR_materials_variants"
"""Extension that offers each ground alone as another look of the bodies."""

SAMPLER = gltf.Sampler(magFilter=gltf.LINEAR, minFilter=gltf.LINEAR_MIPMAP_LINEAR, wrapS=gltf.REPEAT, wrapT=gltf.REPEAT)


@dataclass(frozen=True)
class Document:
    """A document, and what lies in its binary chunk.

    Attributes
    ----------
    document : GLTF2
    binary : Binary
    images : list of DeliveredImage
        Those of the document, in order; they have no place in it yet.
    """

    document: gltf.GLTF2
    binary: Binary
    images: list[DeliveredImage]


def gltf_document(project: Project, values: Values, progress: Progress) -> Document:
    """All bodies with their ground weights, and the grounds with their images.

    Parameters
    ----------
    project : Project
    values : dict
        Of `gltf_settings`.

    Raises
    ------
    InvalidInput, FileProblem
    """
    progress.step(0.0, "collecting vertices")
    bodies, used = deliver(project)
    first = _first_four(bodies) if values.get("colour") == "weights" else None
    if values.get("colour") == "sets":
        first = list(range(len(used)))
    props = str(values.get("props", "instances"))
    binary = Binary(packing_of(bodies, values))
    metres = binary.packing.grid if binary.packing.quantised else 1.0
    meshes, nodes = [], []
    for i, body in enumerate(bodies):
        progress.step(0.1 + 0.6 * i / len(bodies), f"packing {body.name}")
        meshes.append(_mesh(binary, body, first, len(used), bool(values.get("uv_weights"))))
        place = list(body.origin) if any(body.origin) else None
        nodes.append(
            gltf.Node(name=body.name, mesh=i, translation=place, scale=[metres] * 3 if metres != 1.0 else None)
        )
    coarser = with_levels(project, nodes)
    progress.step(0.75, "packing textures")
    delivered = [project.grounds[column] for column in used]
    pictures, grounds = ground_records(project, delivered)
    images = [gltf.Image(name=picture.name) for picture in pictures]
    materials = [
        gltf.Material(
            name="Blended grounds",
            pbrMetallicRoughness=gltf.PbrMetallicRoughness(metallicFactor=0.0, roughnessFactor=0.9),
            doubleSided=True,
            alphaCutoff=None,
        ),
        *(_material(ground, entry) for ground, entry in zip(delivered, grounds, strict=True)),
    ]
    dress = Dress(project, binary, props == "instances", meshes, materials)
    if props != "none":
        dress.add(progress.part(0.76, 0.84))
    nodes += dress.nodes
    textures = [gltf.Texture(source=i, sampler=0) for i in range(len(images))]
    light = project.light
    extras = {
        "hulmo": {
            "grounds": grounds,
            "blend": {"mode": project.blend.mode, "depth": project.blend.depth, "glsl": blend_glsl()},
            "light": {
                "toward_sun": list(light.toward_sun()),
                "sun": list(light.sun_light()),
                "sky": list(light.sky_light()),
                "exposure": light.exposure,
                **_sky_parts(project),
                "glsl": light_glsl(),
            },
            "shader": receiver_shaders(delivered, grounds, pictures, project.blend, light, metres),
            "lookups": LOOKUPS,
            "table": {row.key: row.meaning for row in TABLE},
            "normals": "mean of the face normals at a vertex, weighted by area",
            "vertex_colour": "mean colour of the grounds"
            if first is None
            else {"weights_of": [delivered[column].name for column in first]},
        }
    }
    document = gltf.GLTF2(
        asset=gltf.Asset(version="2.0", generator=f"Hulmo {hulmo.__version__}"),
        scene=0,
        scenes=[gltf.Scene(name=project.name, nodes=[i for i in range(len(nodes)) if i not in coarser])],
        nodes=nodes,
        meshes=meshes,
        materials=materials,
        cameras=dress.cameras,
        samplers=[SAMPLER] if images else [],
        textures=textures,
        images=images,
        extensionsUsed=[VARIANTS, *([LEVELS] if coarser else []), *sorted(dress.used), *binary.packing.extensions],
        extensionsRequired=binary.packing.extensions,
        extensions={
            VARIANTS: {"variants": [{"name": ground.name} for ground in delivered]},
            **({LIGHTS: {"lights": dress.lights}} if dress.lights else {}),
        },
        extras=extras,
    )
    return Document(document, binary, pictures)


def _sky_parts(project: Project) -> dict[str, list[list[float]]]:
    if project.sky is None:
        return {}
    return {"sky_parts": (project.sky.turned(project.light.sky_turn) * project.light.sky).round(6).tolist()}


def _first_four(bodies: list[Delivery]) -> list[int]:
    # the four grounds that most lies of, among those in use
    total = sum(body.weights().sum(axis=0, dtype=np.float64) for body in bodies)
    return [int(column) for column in np.sort(np.argsort(-np.asarray(total), kind="stable")[:4])]


def _material(ground: Ground, entry: dict[str, Any]) -> gltf.Material:
    # one ground alone, for whoever shows it so; and so that every image is the texture of a material: no clean-up drops it
    def info(part: str) -> Any:
        return gltf.TextureInfo(index=entry[part]) if part in entry else None

    red, green, blue = hex_to_linear(ground.tint, "ground")
    material = gltf.Material(
        name=ground.name,
        pbrMetallicRoughness=gltf.PbrMetallicRoughness(
            baseColorFactor=[red, green, blue, 1.0],
            baseColorTexture=info("albedo"),
            metallicFactor=0.0,
            roughnessFactor=1.0 if "roughness" in entry else ground.roughness,
            metallicRoughnessTexture=info("roughness"),
        ),
        doubleSided=True,
        alphaCutoff=None,
    )
    if "normal" in entry:
        material.normalTexture = gltf.NormalMaterialTexture(index=entry["normal"], scale=ground.normal_strength)
    if "height" in entry:  # of no strength: glTF has no place for heights
        material.occlusionTexture = gltf.OcclusionTextureInfo(index=entry["height"], strength=0.0)
    return material


def _mesh(binary: Binary, body: Delivery, first: list[int] | None, grounds: int, by_uv: bool) -> gltf.Mesh:
    # column by column, so that none lies in memory in two orders for longer than it takes
    if binary.packing.compressed:
        triangles, row = in_order_of_use(body.triangles)
        corners = binary.accessor(_indices(triangles, len(row)), gltf.ELEMENT_ARRAY_BUFFER)
        del triangles
    else:
        row = None
    count = body.position.shape[0] if row is None else len(row)

    def ordered(values: NDArray[np.float32]) -> NDArray[np.float32]:
        return values if row is None else values[row]

    attributes = gltf.Attributes(POSITION=binary.positions(ordered(body.position)))
    attributes.NORMAL = binary.normals(ordered(body.normal))
    # materials with textures may only be named where there are texture coordinates: a body without any gets them from above
    attributes.TEXCOORD_0 = binary.coordinates(ordered(body.position[:, (0, 2)] if body.uv is None else body.uv))
    for group in range(1 if first is None else -(-len(first) // 4)):
        shown = partial(_shown, body, row, None if first is None else first[4 * group : 4 * group + 4])
        table = LaterTable(count, 4, np.dtype(np.uint16), shown)
        setattr(attributes, f"COLOR_{group}", binary.accessor(table, gltf.ARRAY_BUFFER, normalized=True))
    weights = _Weights(body, row)
    for pair in range(-(-grounds // 2) if by_uv else 0):
        table = LaterTable(count, 2, np.dtype(np.uint16), partial(weights.some, 2 * pair, 2))
        setattr(attributes, f"TEXCOORD_{pair + 1}", binary.accessor(table, gltf.ARRAY_BUFFER, normalized=True))
    for group in range(body.groups):
        table = LaterTable(count, 4, np.dtype(np.uint16), partial(weights.some, 4 * group, 4))
        setattr(attributes, f"_GROUND_{group}", binary.accessor(table, gltf.ARRAY_BUFFER, normalized=True))
    if body.tint is not None:
        attributes._TINT = binary.accessor(ordered(body.tint), gltf.ARRAY_BUFFER)
    if row is None:
        corners = binary.accessor(_indices(body.triangles, count), gltf.ELEMENT_ARRAY_BUFFER)
    primitive = gltf.Primitive(
        attributes=attributes,
        indices=corners,
        material=0,
        mode=gltf.TRIANGLES,
        extensions={VARIANTS: {"mappings": [{"material": i + 1, "variants": [i]} for i in range(grounds)]}},
    )
    primitive.extras = (
        {METRES_PER_UV: round(body.metres_per_uv, 9)} if body.uv is not None else {MADE_UV: "x and z, metres"}
    )
    return gltf.Mesh(name=body.name, primitives=[primitive])


def _indices(triangles: NDArray[np.uint32], count: int) -> NDArray[np.unsignedinteger]:
    corners = triangles.reshape(-1)
    return corners.astype(np.uint16) if count < 65535 else corners


def _shown(
    body: Delivery, order: NDArray[np.int32] | None, columns: list[int] | None, rows: slice
) -> NDArray[np.uint16]:
    # what the vertex colour holds at some vertices: the mean of the grounds, or the weights of four of them
    which = rows if order is None else order[rows]
    if columns is None:
        return opaque(body.colour(which))
    weights = body.weights(which)
    shown = np.zeros((weights.shape[0], 4), np.uint16)
    shown[:, : len(columns)] = weights[:, columns]
    return shown


class _Weights:
    """Weights of a body, a few columns after the other: each row is worked out once for neighbouring columns.

    Parameters
    ----------
    body : Delivery
    order : (N,) int32 or None
        Rows of the body in the order that they are written in; None for their own.
    """

    def __init__(self, body: Delivery, order: NDArray[np.int32] | None) -> None:
        self._body, self._order = body, order
        self._made: dict[int, NDArray[np.uint16]] = {}

    def some(self, first: int, count: int, rows: slice) -> NDArray[np.uint16]:
        """(K, count) columns of some rows, from `first` on."""
        made = self._made.pop(rows.start, None)
        if made is None:
            made = self._body.weights(rows if self._order is None else self._order[rows])
        if first + count < made.shape[1]:  # for those that come next
            self._made[rows.start] = made
        return np.ascontiguousarray(made[:, first : first + count])
