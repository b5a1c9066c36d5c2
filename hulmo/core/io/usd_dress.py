"""What dresses a scene, in USD: waters, props as point instances, sun, sky and lamps, viewpoints as cameras."""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.colour import hex_to_linear
from hulmo.core.dress.viewpoint import view_axes
from hulmo.core.errors import InvalidInput
from hulmo.core.io.quaternions import looking, quaternions, unit
from hulmo.core.io.usd_prims import ROOT, define_material, define_mesh, usd_name
from hulmo.core.mesh.strewn import frames
from hulmo.core.objects.lamp import LAMP, LUX, candela
from hulmo.core.objects.scene_object import world_matrix
from hulmo.core.objects.water import is_water, water_settings
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.tray import mesh_of
from hulmo.core.water.surface import water_surface

APERTURE = 24.0
"""Millimetres of a camera's film, up and down."""

Places = NDArray[np.float64]


def add_dress(stage: Any, project: Project, taken: set[str], progress: Progress) -> None:
    """Add to /Scene what there is; names go to those taken."""
    for entry in project.objects:
        if is_water(entry) and entry.shown:
            _water(stage, f"{ROOT}/{usd_name(entry.name, taken)}", project, entry, progress)
        elif entry.kind == LAMP.name and entry.shown:
            _lamp(stage, f"{ROOT}/{usd_name(entry.name, taken)}", project, entry)
    progress.step(0.5, "packing props")
    for body in project.bodies:
        if body.shown and body.strewn is not None:
            _props(stage, f"{ROOT}/{usd_name(f'Props on {body.name}', taken)}", project, body)
    _sun(stage, f"{ROOT}/{usd_name('Sun', taken)}", project)
    for view in project.viewpoints:
        _view(stage, f"{ROOT}/{usd_name(view.name, taken)}", view)


def _water(stage: Any, path: str, project: Project, entry: Any, progress: Progress) -> None:
    from pxr import Gf, Sdf, UsdGeom, UsdShade, Vt

    try:
        found = water_surface(project.bodies, project.objects, entry, progress.part(0.1, 0.4))
    except InvalidInput:
        return  # none stands there
    if not found.triangles.size:
        return
    middle = np.round(found.position.mean(axis=0), 3)
    mesh = define_mesh(stage, path, found.position - middle, unit(found.normal), found.triangles)
    mesh.GetPrim().SetCustomDataByKey("hulmo:role", "water")
    mesh.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble).Set(Gf.Vec3d(*middle.tolist()))
    primvars = UsdGeom.PrimvarsAPI(mesh)
    for name, values in (("depth", found.depth), ("shore", found.shore)):
        flat = np.ascontiguousarray(np.asarray(values, np.float32).reshape(len(found.position), -1)[:, 0])
        primvars.CreatePrimvar(name, Sdf.ValueTypeNames.FloatArray, UsdGeom.Tokens.vertex).Set(
            Vt.FloatArray.FromNumpy(flat)
        )
    deep = hex_to_linear(str(water_settings(entry)["deep"]), entry.name)
    UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(define_material(stage, f"{path}/Water", 0.08, deep, 0.8))


def _props(stage: Any, path: str, project: Project, body: Any) -> None:
    from pxr import Gf, Sdf, UsdGeom, UsdShade, Vt

    strewn = body.strewn.taken(body.strewn.there)
    if not strewn.count:
        return
    pivot, matrix = frames(body, strewn)
    place = body.placed(pivot)
    turn = quaternions(matrix / strewn.size.astype(np.float64)[:, None, None])
    instancer = UsdGeom.PointInstancer.Define(stage, path)
    middle = np.round(place.mean(axis=0), 3)
    instancer.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble).Set(Gf.Vec3d(*middle.tolist()))
    material = define_material(stage, f"{path}/Props_look", 0.9)
    number = np.zeros(strewn.count, np.int32)
    targets: list[str] = []
    for prop in project.props:
        rows = strewn.prop == prop.ident
        if not rows.any():
            continue
        shape = mesh_of(prop, project.prop_meshes)
        at = f"{path}/Prop_{prop.ident}"
        mesh = define_mesh(stage, at, shape.position.astype(np.float64), unit(shape.normal), shape.triangles)
        mesh.GetPrim().SetDisplayName(prop.name)
        UsdGeom.PrimvarsAPI(mesh).CreatePrimvar(
            "displayColor", Sdf.ValueTypeNames.Color3fArray, UsdGeom.Tokens.vertex
        ).Set(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(np.clip(shape.colour, 0, 1), np.float32)))
        UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(material)
        number[rows] = len(targets)
        targets.append(at)
    instancer.CreatePrototypesRel().SetTargets([Sdf.Path(target) for target in targets])
    instancer.CreateProtoIndicesAttr(Vt.IntArray.FromNumpy(number))
    instancer.CreatePositionsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(place - middle, np.float32)))
    ways = [Gf.Quath(float(w), float(x), float(y), float(z)) for x, y, z, w in turn.tolist()]
    instancer.CreateOrientationsAttr(Vt.QuathArray(ways))
    factors = np.repeat(strewn.size[:, None], 3, axis=1).astype(np.float32)
    instancer.CreateScalesAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(factors)))
    instancer.CreateExtentAttr(instancer.ComputeExtentAtTime(0.0, 0.0))


def _lamp(stage: Any, path: str, project: Project, entry: Any) -> None:
    from pxr import Gf, UsdGeom, UsdLux

    light = candela(entry)
    strength = max(light)
    if not strength > 0:
        return
    lamp = UsdLux.SphereLight.Define(stage, path)
    lamp.CreateTreatAsPointAttr(True)
    lamp.CreateRadiusAttr(0.05)
    lamp.CreateIntensityAttr(float(strength))
    lamp.CreateColorAttr(Gf.Vec3f(*(value / strength for value in light)))
    at = world_matrix(project.objects, entry)[:3, 3].tolist()
    lamp.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble).Set(Gf.Vec3d(*at))


def _sun(stage: Any, path: str, project: Project) -> None:
    from pxr import Gf, UsdLux

    light = project.light
    sun = light.sun_light()
    strength = max(sun)
    if not strength > 0:
        return
    lamp = UsdLux.DistantLight.Define(stage, path)
    lamp.CreateIntensityAttr(float(strength * LUX))
    lamp.CreateColorAttr(Gf.Vec3f(*(value / strength for value in sun)))
    lamp.CreateAngleAttr(float(light.sun_width))
    x, y, z, w = looking(-np.array(light.toward_sun()))
    lamp.AddOrientOp().Set(Gf.Quatf(w, x, y, z))


def _view(stage: Any, path: str, view: Any) -> None:
    from pxr import Gf, UsdGeom

    eye, target = np.array(view.eye), np.array(view.target)
    camera = UsdGeom.Camera.Define(stage, path)
    ratio = view.ratio or 1.6
    camera.CreateVerticalApertureAttr(APERTURE)
    camera.CreateHorizontalApertureAttr(APERTURE * ratio)
    camera.CreateFocalLengthAttr(APERTURE / 2 / math.tan(math.radians(view.field) / 2))
    reach = float(np.linalg.norm(target - eye))
    camera.CreateClippingRangeAttr(Gf.Vec2f(max(reach * 1e-3, 1e-3), max(reach * 100.0, 1000.0)))
    camera.CreateFocusDistanceAttr(reach)
    axes = view_axes(target - eye)
    matrix = np.eye(4)
    matrix[:3, :3] = axes.T
    matrix[3, :3] = eye
    camera.AddTransformOp().Set(Gf.Matrix4d(matrix.tolist()))
