"""The blend of grounds within a stage of Universal Scene Description: a MaterialX node graph as UsdShade nodes, which
renderers that know MaterialX take before the preview material."""

from typing import Any

from hulmo.core.io.materialx_graph import BlendGraph

KINDS = {
    "float": "Float", "integer": "Int", "color3": "Color3f", "vector2": "Float2", "vector3": "Float3", "string": "String",
    "filename": "Asset", "surfaceshader": "Token",
}  # fmt: skip
"""Value types of a stage by those of MaterialX."""

CONTEXT = "mtlx"

GRAPH = "Grounds"


def add_blend(stage: Any, material: Any, graph: BlendGraph, outputs: dict[str, Any]) -> None:
    """Give a material the blend as its surface for renderers that know MaterialX.

    Parameters
    ----------
    stage : Usd.Stage
    material : UsdShade.Material
    graph : BlendGraph
        Built flat: of standard nodes alone.
    outputs : dict
        Nodes of base colour and roughness, by input of a standard surface.
    """
    from pxr import Sdf, UsdShade

    types, root = Sdf.ValueTypeNames, material.GetPath()
    within = UsdShade.NodeGraph.Define(stage, root.AppendChild(GRAPH))
    made: dict[str, Any] = {}
    for node in graph.nodes:  # in the order they were made: each is fed by earlier ones
        shader = UsdShade.Shader.Define(stage, within.GetPath().AppendChild(node.getName()))
        shader.CreateIdAttr(node.getNodeDef().getName())
        for given in node.getInputs():
            entry = shader.CreateInput(given.getName(), getattr(types, KINDS[given.getType()]))
            source = given.getNodeName()
            if source:
                entry.ConnectToSource(made[source])
            else:
                _set(entry, given.getType(), given.getValueString())
            if given.getColorSpace():
                entry.GetAttr().SetColorSpace(given.getColorSpace())
        made[node.getName()] = shader.CreateOutput("out", getattr(types, KINDS[node.getType()]))
    surface = UsdShade.Shader.Define(stage, root.AppendChild("Blend"))
    surface.CreateIdAttr("ND_standard_surface_surfaceshader")
    for name, node in outputs.items():
        kind = getattr(types, KINDS[node.getType()])
        out = within.CreateOutput(name, kind)
        out.ConnectToSource(made[node.getName()])
        surface.CreateInput(name, kind).ConnectToSource(out)
    material.CreateSurfaceOutput(CONTEXT).ConnectToSource(surface.CreateOutput("out", types.Token))


def _set(entry: Any, kind: str, text: str) -> None:
    from pxr import Gf, Sdf

    numbers = [float(part) for part in text.split(",")] if kind not in ("string", "filename") else []
    if kind == "filename":
        entry.Set(Sdf.AssetPath(f"./{text}"))
    elif kind == "string":
        entry.Set(text)
    elif kind == "integer":
        entry.Set(int(numbers[0]))
    else:
        entry.Set(numbers[0] if len(numbers) == 1 else Gf.Vec2f(*numbers) if len(numbers) == 2 else Gf.Vec3f(*numbers))
