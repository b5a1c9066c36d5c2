"""What dresses a scene, in glTF: waters, props as instances, lamps and sun, viewpoints as cameras."""

import math
from typing import Any

import numpy as np
import pygltflib as gltf
from numpy.typing import NDArray

from hulmo.core.colour import hex_to_linear
from hulmo.core.errors import InvalidInput
from hulmo.core.io.gltf_binary import Binary
from hulmo.core.io.quaternions import looking, quaternions, unit
from hulmo.core.mesh.strewn import frames
from hulmo.core.objects.lamp import LAMP, LUX, candela, lamp_values
from hulmo.core.objects.scene_object import world_matrix
from hulmo.core.objects.water import is_water, water_settings
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.prop import PropMesh
from hulmo.core.props.tray import mesh_of
from hulmo.core.setting import number
from hulmo.core.water.surface import water_surface

LIGHTS = "KHR_lights_punctual"
INSTANCING = "EXT_mesh_gpu_instancing"

WATER, PROP = "hulmo_water", "hulmo_prop"
"""Keys in the extras of meshes that are no ground: our own importer passes them over."""


class Dress:
    """Collects nodes, meshes, materials and cameras behind those of the bodies.

    Parameters
    ----------
    project : Project
    binary : Binary
    instances : bool
        Whether props are instances of `EXT_mesh_gpu_instancing`, and not a node each.
    meshes, materials : list
        Of the bodies; more are added.
    """

    def __init__(
        self, project: Project, binary: Binary, instances: bool, meshes: list[gltf.Mesh], materials: list[gltf.Material]
    ) -> None:
        self._project, self._binary, self._instances = project, binary, instances
        self.meshes, self.materials = meshes, materials
        self.nodes: list[gltf.Node] = []
        self.cameras: list[gltf.Camera] = []
        self.lights: list[dict[str, Any]] = []
        self.used: set[str] = set()

    def add(self, progress: Progress) -> None:
        """Add all there is."""
        progress.step(0.1, "packing waters")
        for entry in self._project.objects:
            if is_water(entry) and entry.shown:
                self._water(entry, progress)
            elif entry.kind == LAMP.name and entry.shown:
                self._lamp(entry)
        progress.step(0.5, "packing props")
        self._props()
        self._sun()
        self._views()

    def _water(self, entry: Any, progress: Progress) -> None:
        try:
            found = water_surface(self._project.bodies, self._project.objects, entry, progress.part(0.1, 0.4))
        except InvalidInput:
            return  # none stands there
        if not found.triangles.size:
            return
        values = water_settings(entry)
        middle = np.round(found.position.mean(axis=0), 3)
        attributes = gltf.Attributes(
            POSITION=self._vertices((found.position - middle).astype(np.float32), True),
            NORMAL=self._vertices(unit(found.normal)),
        )
        attributes._DEPTH = self._vertices(found.depth)
        attributes._SHORE = self._vertices(found.shore)
        deep = hex_to_linear(str(values["deep"]), entry.name)
        self.materials.append(
            gltf.Material(
                name=entry.name,
                pbrMetallicRoughness=gltf.PbrMetallicRoughness(
                    baseColorFactor=[*deep, 0.8], metallicFactor=0.0, roughnessFactor=0.08
                ),
                alphaMode="BLEND",
                alphaCutoff=None,
                doubleSided=True,
            )
        )
        told = {name: values[name] for name in ("clear", "shallow", "deep", "waves", "length", "foam")}
        mesh = self._mesh(entry.name, attributes, found.triangles, len(self.materials) - 1, {WATER: told})
        self.nodes.append(gltf.Node(name=entry.name, mesh=mesh, translation=middle.tolist()))

    def _props(self) -> None:
        made: dict[int, int] = {}
        material = -1
        for body in self._project.bodies:
            if not body.shown or body.strewn is None:
                continue
            strewn = body.strewn.taken(body.strewn.there)
            pivot, matrix = frames(body, strewn)
            place = body.placed(pivot)
            turn = quaternions(matrix / strewn.size.astype(np.float64)[:, None, None])
            for prop in self._project.props:
                rows = np.flatnonzero(strewn.prop == prop.ident)
                if not rows.size:
                    continue
                if prop.ident not in made:
                    if material < 0:
                        self.materials.append(_PROP_MATERIAL)
                        material = len(self.materials) - 1
                    made[prop.ident] = self._prop_mesh(
                        prop.name, mesh_of(prop, self._project.prop_meshes), material, prop.ident
                    )
                self._instances_of(
                    f"{prop.name} on {body.name}", made[prop.ident], place[rows], turn[rows], strewn.size[rows]
                )

    def _instances_of(
        self, name: str, mesh: int, place: NDArray[np.float64], turn: NDArray[np.float64], size: NDArray[np.float32]
    ) -> None:
        if not self._instances:
            for at, way, scale in zip(place.tolist(), turn.tolist(), size.tolist(), strict=True):
                self.nodes.append(gltf.Node(name=name, mesh=mesh, translation=at, rotation=way, scale=[scale] * 3))
            return
        middle = np.round(place.mean(axis=0), 3)
        factors = np.repeat(size[:, None], 3, axis=1).astype(np.float32)
        attributes = {
            "TRANSLATION": self._binary.accessor((place - middle).astype(np.float32), None),
            "ROTATION": self._binary.accessor(unit(turn.astype(np.float32)), None),
            "SCALE": self._binary.accessor(factors, None),
        }
        self.nodes.append(
            gltf.Node(
                name=name, mesh=mesh, translation=middle.tolist(), extensions={INSTANCING: {"attributes": attributes}}
            )
        )
        self.used.add(INSTANCING)

    def _prop_mesh(self, name: str, mesh: PropMesh, material: int, ident: int) -> int:
        colour = np.full((mesh.position.shape[0], 4), 65535, np.uint16)
        colour[:, :3] = np.rint(np.clip(mesh.colour, 0, 1) * 65535)
        attributes = gltf.Attributes(
            POSITION=self._vertices(mesh.position, True),
            NORMAL=self._vertices(unit(mesh.normal)),
            COLOR_0=self._binary.accessor(colour, gltf.ARRAY_BUFFER, normalized=True),
        )
        return self._mesh(name, attributes, mesh.triangles, material, {PROP: ident})

    def _mesh(
        self,
        name: str,
        attributes: gltf.Attributes,
        triangles: NDArray[np.int32],
        material: int,
        extras: dict[str, Any],
    ) -> int:
        indices = self._binary.accessor(triangles.reshape(-1).astype(np.uint32), gltf.ELEMENT_ARRAY_BUFFER)
        primitive = gltf.Primitive(attributes=attributes, indices=indices, material=material, mode=gltf.TRIANGLES)
        self.meshes.append(gltf.Mesh(name=name, primitives=[primitive], extras=extras))
        return len(self.meshes) - 1

    def _lamp(self, entry: Any) -> None:
        light = candela(entry)
        strength = max(light)
        if not strength > 0:
            return
        self.lights.append(
            {
                "type": "point",
                "name": entry.name,
                "color": [value / strength for value in light],
                "intensity": strength,
                "range": number(lamp_values(entry), "reach"),
            }
        )
        at = world_matrix(self._project.objects, entry)[:3, 3].tolist()
        self._light_node(entry.name, translation=at)

    def _sun(self) -> None:
        light = self._project.light
        sun = light.sun_light()
        strength = max(sun)
        if not strength > 0:
            return
        self.lights.append(
            {
                "type": "directional",
                "name": "Sun",
                "color": [value / strength for value in sun],
                "intensity": strength * LUX,
            }
        )
        self._light_node("Sun", rotation=looking(-np.array(light.toward_sun())))

    def _light_node(self, name: str, **place: Any) -> None:
        self.nodes.append(gltf.Node(name=name, extensions={LIGHTS: {"light": len(self.lights) - 1}}, **place))
        self.used.add(LIGHTS)

    def _views(self) -> None:
        for view in self._project.viewpoints:
            eye, target = np.array(view.eye), np.array(view.target)
            reach = float(np.linalg.norm(target - eye))
            self.cameras.append(
                gltf.Camera(
                    name=view.name,
                    type="perspective",
                    perspective=gltf.Perspective(
                        yfov=math.radians(view.field), znear=max(reach * 1e-3, 1e-3), zfar=max(reach * 100.0, 1000.0)
                    ),
                )
            )
            self.nodes.append(
                gltf.Node(
                    name=view.name,
                    camera=len(self.cameras) - 1,
                    translation=eye.tolist(),
                    rotation=looking(target - eye),
                )
            )

    def _vertices(self, values: NDArray[np.float32], extent: bool = False) -> int:
        return self._binary.accessor(np.ascontiguousarray(values, np.float32), gltf.ARRAY_BUFFER, extent=extent)


_PROP_MATERIAL = gltf.Material(
    name="Props",
    pbrMetallicRoughness=gltf.PbrMetallicRoughness(metallicFactor=0.0, roughnessFactor=0.9),
    doubleSided=True,
    alphaCutoff=None,
)
