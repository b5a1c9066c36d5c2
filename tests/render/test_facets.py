"""Flat faces: drawn and delivered as the same mesh with vertices of its own for every face is."""

import pathlib
import tempfile
import unittest

import numpy as np
import plyfile
import pygltflib
import trimesh

from hulmo.core.commands import ChooseParts, MoveChosen, SetFacets, Subdivide
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import Shape
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.setting import complete
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer, scene_bounds
from hulmo.render.targets import Targets
from tests.bodies import project_with


class FacetTest(unittest.TestCase):
    def setUp(self) -> None:
        self.history = project_with("icosphere", radius=4.0, edge=2.2)
        self.body = self.history.project.bodies[0]
        self.context = headless_context()
        self.addCleanup(self.context.release)

    def picture(self, project: Project, look: str, renderer: Renderer | None = None) -> np.ndarray:
        renderer = renderer or Renderer(self.context, project)
        for (
            values
        ) in renderer.look_values.values():  # hollows are told by curvature, which hangs on who shares vertices
            if "cavity" in values:
                values["cavity"] = 0.0
        targets = Targets(self.context, (300, 240))
        renderer.picture(targets, Camera.framing(scene_bounds(project), 0.7, 0.4), look)
        return targets.pixels().astype(int)

    def apart(self) -> Project:
        """The same project, every face with vertices of its own, so that no normals are shared."""
        place = self.body.vertices["position"][self.body.corners.triangles].reshape(-1, 3)
        body = Body.from_shape("Body", Shape(place, np.arange(len(place), dtype=np.int32).reshape(-1, 3)), 1)
        other = Project()
        other.grounds, other.light, other.bodies = self.history.project.grounds, self.history.project.light, (body,)
        weight = np.zeros((len(place), len(other.grounds)), np.float32)
        weight[:, 0] = 1.0
        body.vertices.set_column("weight", weight)
        return other

    def test_pictures_are_those_of_a_mesh_that_shares_no_vertices(self) -> None:
        project = self.history.project
        renderer = Renderer(self.context, project)
        looks = ("form", "lit", "mesh")
        smooth = {look: self.picture(project, look, renderer) for look in looks}
        for command in (
            SetFacets("Body", True, True), ChooseParts("Body", "vertex", these=(3, 4)),
            MoveChosen("Body", move=(0.3, 0.4, 0.2)), Subdivide("Body", False),
        ):  # fmt: skip
            renderer.follow(command.edit(project, silent()).apply(project))
            for look in looks:
                drawn, wanted = self.picture(project, look, renderer), self.picture(self.apart(), look)
                away = np.abs(drawn - wanted).max(axis=2)
                # back faces of an open body are marked by dots, and at edges the ray of a pixel may fall either way
                self.assertLess(int((away > 2).sum()), 60, (look, command))
                self.assertGreater(int((np.abs(drawn - smooth[look]).max(axis=2) > 8).sum()), 1000, look)

    def normals(self, path: pathlib.Path) -> np.ndarray:
        if path.suffix == ".obj":
            lines = path.read_text().splitlines()
            return np.array([line.split()[1:] for line in lines if line.startswith("vn ")], float)
        if path.suffix == ".ply":
            read = plyfile.PlyData.read(path)["vertex"]
            return np.stack([read[name] for name in ("nx", "ny", "nz")], axis=1)
        file = pygltflib.GLTF2().load(path)
        accessor = file.accessors[file.meshes[0].primitives[0].attributes.NORMAL]
        start = (file.bufferViews[accessor.bufferView].byteOffset or 0) + (accessor.byteOffset or 0)
        return np.frombuffer(file.binary_blob(), np.float32, 3 * accessor.count, start).reshape(-1, 3)

    def test_a_delivery_has_the_normals_of_its_faces(self) -> None:
        up = self.body.vertices["position"][self.body.corners.triangles].mean(axis=1)[:, 1] > 2.0
        self.history.do(SetFacets("Body", True, True))
        self.history.do(ChooseParts("Body", "face", these=tuple(np.flatnonzero(up).tolist())))
        self.history.do(SetFacets("Body", False))
        for ending in ("glb", "obj", "ply"):  # those the library reads; STL has normals of faces alone
            with tempfile.TemporaryDirectory() as folder:
                path = pathlib.Path(folder) / f"a.{ending}"
                exporter = EXPORTERS[ending]
                exporter.write(self.history.project, path, complete(exporter.settings, {}, "test"), silent())
                mesh = trimesh.load(path, force="mesh", process=False)
                normals = self.normals(path)  # the library makes normals of its own
            corner = normals[mesh.faces]
            own = mesh.face_normals
            off = np.degrees(np.arccos(np.clip((corner * own[:, None]).sum(axis=2), -1, 1))).max(axis=1)
            top = mesh.vertices[mesh.faces].mean(axis=1)[:, 1] > 2.0
            self.assertLess(off[~top].max(), 0.1, ending)
            # smooth ones take the mean of the smooth faces at each vertex alone
            faces = trimesh.Trimesh(mesh.vertices, mesh.faces[top], process=False)
            faces.merge_vertices(merge_norm=True, merge_tex=True)
            area = faces.area_faces
            self.assertGreater(off[top].max(), 5.0, ending)
            for vertex in range(len(faces.vertices)):
                near = (faces.faces == vertex).any(axis=1)
                mean = (faces.face_normals[near] * area[near, None]).sum(axis=0)
                mean /= np.linalg.norm(mean)
                at = np.abs(mesh.vertices[mesh.faces[top]] - faces.vertices[vertex]).max(axis=2) < 1e-6
                np.testing.assert_allclose(corner[top][at], np.broadcast_to(mean, (int(at.sum()), 3)), atol=1e-5)


if __name__ == "__main__":
    unittest.main()
