"""A project as a stage of Universal Scene Description (OpenUSD): bodies, grounds, dress."""

import json
from dataclasses import dataclass
from typing import Any

import msgspec
import numpy as np

import hulmo
from hulmo.core.colour import hex_to_linear
from hulmo.core.ground.ground import Ground
from hulmo.core.io.axes import UNITS
from hulmo.core.io.delivery import Delivery, deliver
from hulmo.core.io.ground_record import ground_records
from hulmo.core.io.images_beside import named_images
from hulmo.core.io.materialx_graph import BlendGraph
from hulmo.core.io.materialx_tables import Tables, tables_of
from hulmo.core.io.receiver import receiver_shaders
from hulmo.core.io.usd_blend import add_blend
from hulmo.core.io.usd_dress import add_dress
from hulmo.core.io.usd_prims import ROOT, define_material, define_mesh, usd_name
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Values

NOTE = "hulmo"
"""Key in the layer's custom data: JSON with the grounds, their images and the blend."""

GROUNDS, LOOKS = f"{ROOT}/Grounds", f"{ROOT}/Looks"


@dataclass(frozen=True)
class UsdParts:
    """A stage and the files that it names.

    Attributes
    ----------
    stage : Usd.Stage
    images : dict
        Relative file names, and what they hold.
    """

    stage: Any
    images: dict[str, bytes]


def usd_parts(project: Project, values: Values, folder: str, progress: Progress) -> UsdParts:
    """A stage in memory.

    Parameters
    ----------
    values : dict
        up, unit, props, blend.
    folder : str
        Relative folder for images.

    Raises
    ------
    InvalidInput, FileProblem
    """
    from pxr import Gf, Usd, UsdGeom  # slow to import, and needed nowhere else

    progress.step(0.0, "collecting vertices")
    bodies, used = deliver(project)
    grounds = [project.grounds[column] for column in used]
    pictures, records = ground_records(project, grounds)
    stage = Usd.Stage.CreateInMemory()
    scene = UsdGeom.Xform.Define(stage, ROOT)
    stage.SetDefaultPrim(scene.GetPrim())
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z if values["up"] == "z" else UsdGeom.Tokens.y)
    UsdGeom.SetStageMetersPerUnit(stage, 1.0 / UNITS[str(values["unit"])])
    scale = UNITS[str(values["unit"])]
    if values["up"] == "z":
        scene.AddRotateXOp().Set(90.0)
    if scale != 1.0:
        scene.AddScaleOp().Set(Gf.Vec3f(scale, scale, scale))
    images = named_images(pictures, folder)
    names = list(images)
    progress.step(0.4, "packing grounds")
    UsdGeom.Scope.Define(stage, GROUNDS)
    taken: set[str] = set()
    for ground, record in zip(grounds, records, strict=True):
        _ground_material(stage, f"{GROUNDS}/{usd_name(ground.name, taken)}", ground, record, names)
    UsdGeom.Scope.Define(stage, LOOKS)
    blended = define_material(stage, f"{LOOKS}/Blended_grounds", 0.9)  # for whoever knows no blending
    if values["blend"]:
        tables = tables_of(bodies, grounds, project.textures, folder)
        _blend(stage, blended, grounds, records, names, project, tables)
        images |= tables.images
    taken = {"Grounds", "Looks"}
    for done, body in enumerate(bodies):
        progress.step(0.5 + 0.3 * done / len(bodies), f"packing {body.name}")
        _body(stage, f"{ROOT}/{usd_name(body.name, taken)}", body, len(used), blended)
    if values["props"] != "none":
        add_dress(stage, project, taken, progress.part(0.8, 0.9))
    note = {
        "written_by": f"Hulmo {hulmo.__version__}",
        "grounds": [msgspec.to_builtins(ground) for ground in grounds],
        "images": {
            f"{ground.texture}/{part}": names[record[part]]
            for ground, record in zip(grounds, records, strict=True)
            for part in ("albedo", "normal", "roughness", "height")
            if part in record
        },
        "weights": "primvars:ground_0, ground_1, ...: shares of the grounds in this order; they sum to 1",
        "blend": {"mode": project.blend.mode, "depth": project.blend.depth},
        "image_files": names,
        "shader": receiver_shaders(grounds, records, pictures, project.blend, project.light),
    }
    layer = stage.GetRootLayer()
    layer.customLayerData = {NOTE: json.dumps(note, ensure_ascii=False)}
    layer.documentation = f"Written by Hulmo {hulmo.__version__}"
    return UsdParts(stage, images)


def _blend(
    stage: Any, material: Any, grounds: list[Ground], records: list[dict[str, Any]], names: list[str], project: Project,
    tables: Tables,
) -> None:  # fmt: skip
    import MaterialX  # slow to import, and needed nowhere else

    library, document = MaterialX.createDocument(), MaterialX.createDocument()
    MaterialX.loadLibraries(MaterialX.getDefaultDataLibraryFolders(), MaterialX.getDefaultDataSearchPath(), library)
    document.setDataLibrary(library)
    graph = BlendGraph(document.addNodeGraph("Grounds"), flat=True)
    colour, rough = graph.blend(grounds, records, names, project.blend, tables)
    add_blend(stage, material, graph, {"base_color": colour[0], "specular_roughness": rough[0]})


def _body(stage: Any, path: str, body: Delivery, grounds: int, material: Any) -> None:
    from pxr import Gf, Sdf, UsdGeom, UsdShade, Vt

    mesh = define_mesh(stage, path, body.position, body.normal, body.triangles)
    mesh.GetPrim().SetDisplayName(body.name)
    if any(body.origin):
        mesh.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble).Set(Gf.Vec3d(*body.origin))
    primvars = UsdGeom.PrimvarsAPI(mesh)
    vertex, types = UsdGeom.Tokens.vertex, Sdf.ValueTypeNames
    colour = primvars.CreatePrimvar("displayColor", types.Color3fArray, vertex)
    colour.Set(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(body.colour(), np.float32)))
    if body.uv is not None:
        uv = body.uv * np.array([1, -1], np.float32) + np.array([0, 1], np.float32)
        mesh.GetPrim().SetCustomDataByKey("hulmo:metres_per_uv", float(body.metres_per_uv))
        primvars.CreatePrimvar("st", types.TexCoord2fArray, vertex).Set(
            Vt.Vec2fArray.FromNumpy(np.ascontiguousarray(uv, np.float32))
        )
    share = body.weights()[:, :grounds].astype(np.float32) / np.float32(65535)
    for i in range(grounds):
        primvars.CreatePrimvar(f"ground_{i}", types.FloatArray, vertex).Set(
            Vt.FloatArray.FromNumpy(np.ascontiguousarray(share[:, i]))
        )
    if body.tint is not None:
        primvars.CreatePrimvar("tint", types.Color3fArray, vertex).Set(
            Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(body.tint[:, :3], np.float32))
        )
        primvars.CreatePrimvar("tint_cover", types.FloatArray, vertex).Set(
            Vt.FloatArray.FromNumpy(np.ascontiguousarray(body.tint[:, 3], np.float32))
        )
    UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(material)


def _ground_material(stage: Any, path: str, ground: Ground, record: dict[str, Any], images: list[str]) -> None:
    # one ground alone, with its images
    from pxr import Gf, Sdf, UsdShade

    types = Sdf.ValueTypeNames
    material = UsdShade.Material.Define(stage, path)
    material.GetPrim().SetDisplayName(ground.name)
    surface = UsdShade.Shader.Define(stage, f"{path}/Surface")
    surface.CreateIdAttr("UsdPreviewSurface")
    surface.CreateInput("metallic", types.Float).Set(0.0)
    reader = UsdShade.Shader.Define(stage, f"{path}/Coordinates")
    reader.CreateIdAttr("UsdPrimvarReader_float2")
    reader.CreateInput("varname", types.String).Set("st")
    where = reader.CreateOutput("result", types.Float2)

    def texture(part: str, space: str, kind: Any, channel: str) -> Any:
        node = UsdShade.Shader.Define(stage, f"{path}/{part.capitalize()}")
        node.CreateIdAttr("UsdUVTexture")
        node.CreateInput("file", types.Asset).Set(Sdf.AssetPath(f"./{images[record[part]]}"))
        node.CreateInput("st", types.Float2).ConnectToSource(where)
        node.CreateInput("wrapS", types.Token).Set("repeat")
        node.CreateInput("wrapT", types.Token).Set("repeat")
        node.CreateInput("sourceColorSpace", types.Token).Set(space)
        if part == "normal":
            node.CreateInput("scale", types.Float4).Set(Gf.Vec4f(2.0, 2.0, 2.0, 1.0))
            node.CreateInput("bias", types.Float4).Set(Gf.Vec4f(-1.0, -1.0, -1.0, 0.0))
        return node.CreateOutput(channel, kind)

    tint = Gf.Vec3f(*hex_to_linear(ground.tint, "ground"))
    if "albedo" in record:
        out = texture("albedo", "sRGB", types.Float3, "rgb")
        UsdShade.Shader(stage.GetPrimAtPath(f"{path}/Albedo")).CreateInput("scale", types.Float4).Set(
            Gf.Vec4f(tint[0], tint[1], tint[2], 1.0)
        )
        surface.CreateInput("diffuseColor", types.Color3f).ConnectToSource(out)
    else:
        plain = hex_to_linear(record["albedo_value"], "ground")
        surface.CreateInput("diffuseColor", types.Color3f).Set(
            Gf.Vec3f(*(a * b for a, b in zip(plain, tint, strict=True)))
        )
    if "roughness" in record:
        surface.CreateInput("roughness", types.Float).ConnectToSource(texture("roughness", "raw", types.Float, "r"))
    else:
        surface.CreateInput("roughness", types.Float).Set(float(record["roughness_value"]))
    if "normal" in record:
        surface.CreateInput("normal", types.Normal3f).ConnectToSource(texture("normal", "raw", types.Float3, "rgb"))
    if (
        "height" in record
    ):  # of no strength: preview materials have no place for heights, and a package only what is named
        surface.CreateInput("occlusion", types.Float).ConnectToSource(texture("height", "raw", types.Float, "r"))
        still = UsdShade.Shader(stage.GetPrimAtPath(f"{path}/Height"))
        still.CreateInput("scale", types.Float4).Set(Gf.Vec4f(0.0, 0.0, 0.0, 0.0))
        still.CreateInput("bias", types.Float4).Set(Gf.Vec4f(1.0, 1.0, 1.0, 1.0))
    material.CreateSurfaceOutput().ConnectToSource(surface.CreateOutput("surface", types.Token))
