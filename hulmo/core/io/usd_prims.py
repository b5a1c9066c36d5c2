"""Prims of Universal Scene Description (OpenUSD) that bodies, props and waters are made of."""

import re
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.low_high import low_high

ROOT = "/Scene"
"""What everything lies in."""


def usd_name(name: str, taken: set[str]) -> str:
    """A name as prims may have it, that none of those taken has; it is taken from then on."""
    word = re.sub(r"[^A-Za-z0-9_]", "_", name.strip()) or "Part"
    word = word if not word[0].isdigit() else f"_{word}"
    out, number = word, 2
    while out in taken:
        out, number = f"{word}_{number}", number + 1
    taken.add(out)
    return out


def define_mesh(
    stage: Any,
    path: str,
    place: NDArray[np.floating],
    normal: NDArray[np.float32],
    triangles: NDArray[np.integer],
) -> Any:
    """A mesh of triangles with (N, 3) points and normals, (M, 3) triangles, seen from both sides."""
    from pxr import Gf, UsdGeom, Vt

    mesh = UsdGeom.Mesh.Define(stage, path)
    position = np.ascontiguousarray(place, np.float32)
    mesh.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(position))
    mesh.CreateNormalsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(normal, np.float32)))
    mesh.SetNormalsInterpolation(UsdGeom.Tokens.vertex)
    mesh.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(np.ascontiguousarray(triangles.reshape(-1), np.int32)))
    mesh.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(np.full(triangles.size // 3, 3, np.int32)))
    mesh.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
    mesh.CreateOrientationAttr(UsdGeom.Tokens.rightHanded)
    mesh.CreateDoubleSidedAttr(True)
    low, high = (edge.tolist() for edge in low_high(position))
    mesh.CreateExtentAttr(Vt.Vec3fArray([Gf.Vec3f(*low), Gf.Vec3f(*high)]))
    return mesh


def define_material(
    stage: Any, path: str, roughness: float, colour: tuple[float, ...] | None = None, opacity: float = 1.0
) -> Any:
    """A preview material of one colour, or of the colours at the vertices."""
    from pxr import Gf, Sdf, UsdShade

    types = Sdf.ValueTypeNames
    material = UsdShade.Material.Define(stage, path)
    surface = UsdShade.Shader.Define(stage, f"{path}/Surface")
    surface.CreateIdAttr("UsdPreviewSurface")
    surface.CreateInput("roughness", types.Float).Set(roughness)
    surface.CreateInput("metallic", types.Float).Set(0.0)
    if opacity < 1:
        surface.CreateInput("opacity", types.Float).Set(opacity)
    if colour is not None:
        surface.CreateInput("diffuseColor", types.Color3f).Set(Gf.Vec3f(*colour))
    else:
        reader = UsdShade.Shader.Define(stage, f"{path}/Colour")
        reader.CreateIdAttr("UsdPrimvarReader_float3")
        reader.CreateInput("varname", types.String).Set("displayColor")
        surface.CreateInput("diffuseColor", types.Color3f).ConnectToSource(reader.CreateOutput("result", types.Float3))
    material.CreateSurfaceOutput().ConnectToSource(surface.CreateOutput("surface", types.Token))
    return material
