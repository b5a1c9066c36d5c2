"""A baked delivery drawn by an independent path tracer (Mitsuba 3) that knows nothing but the standard glTF material: it
shows what the canvas shows."""

import contextlib
import io
import pathlib
import tempfile
import unittest

import mitsuba
import numpy as np
import plyfile
import trimesh

from hulmo.cli import main
from hulmo.core.io.project_file import open_project, save_project
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets
from tests.reference.test_receive import painted_ball

SIZE = (320, 200)
EYE, TARGET, FIELD = (12.0, 5.0, 6.0), (3.0, 1.0, -2.0), 40.0


class PathTracerTest(unittest.TestCase):
    def test_a_baked_delivery_looks_as_the_canvas_does(self) -> None:
        folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))
        history = painted_ball(2048)
        save_project(history.project, folder / "p.hulmo")
        with contextlib.redirect_stdout(io.StringIO()):
            words = ("--size", "2048", "--maps", "base_colour", "--glb", str(folder / "b.glb"))
            self.assertEqual(main(["bake", str(folder / "p.hulmo"), "-o", str(folder), *words]), 0)
        traced, there = self.traced(folder)
        canvas = self.canvas(folder / "p.hulmo")
        self.assertGreater(int(there.sum()), 10_000)
        square = float(np.square(traced[there] - canvas[there]).mean())
        self.assertGreater(10 * np.log10(255.0**2 / square), 35.0)

    def traced(self, folder: pathlib.Path) -> tuple[np.ndarray, np.ndarray]:
        """sRGB bytes of what the surface reflects, and where there is any."""
        mitsuba.set_variant("scalar_rgb")
        scene = trimesh.load(folder / "b.glb", process=False)
        (name,) = scene.graph.nodes_geometry
        placed, geometry = scene.graph[name]
        mesh = scene.geometry[geometry]
        mesh.visual.material.baseColorTexture.convert("RGB").save(folder / "base.png")
        place = trimesh.transform_points(mesh.vertices, placed)
        vertex = np.zeros(len(place), [(axis, "f4") for axis in ("x", "y", "z", "s", "t")])
        for axis, column in zip("xyzst", np.column_stack((place, mesh.visual.uv * (1, -1) + (0, 1))).T, strict=True):
            vertex[axis] = column
        face = np.zeros(len(mesh.faces), [("vertex_indices", "i4", (3,))])
        face["vertex_indices"] = mesh.faces
        elements = [plyfile.PlyElement.describe(vertex, "vertex"), plyfile.PlyElement.describe(face, "face")]
        plyfile.PlyData(elements, byte_order="<").write(str(folder / "b.ply"))
        made = mitsuba.load_dict({
            "type": "scene",
            "integrator": {"type": "aov", "aovs": "albedo:albedo,depth:depth"},
            "sensor": {
                "type": "perspective", "fov": FIELD, "fov_axis": "y",
                "to_world": mitsuba.ScalarTransform4f().look_at(origin=EYE, target=TARGET, up=(0.0, 1.0, 0.0)),
                "film": {"type": "hdrfilm", "width": SIZE[0], "height": SIZE[1], "rfilter": {"type": "box"}},
                "sampler": {"type": "multijitter", "sample_count": 16},
            },
            "ball": {
                "type": "ply", "filename": str(folder / "b.ply"),
                "bsdf": {"type": "diffuse", "reflectance": {
                    "type": "bitmap", "filename": str(folder / "base.png"), "filter_type": "bilinear", "wrap_mode": "clamp",
                }},
            },
        })  # fmt: skip
        found = np.array(mitsuba.render(made))
        linear, depth = np.clip(found[..., :3].astype(float), 0, 1), found[..., 3]
        shown = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)  # IEC 61966-2-1
        inside = depth > 0
        for axis in (0, 1):  # away from the rim, where a pixel is half of the ball
            inside &= np.roll(inside, 2, axis) & np.roll(inside, -2, axis)
        return shown * 255, inside

    def canvas(self, path: pathlib.Path) -> np.ndarray:
        project = open_project(path)
        context = headless_context()
        try:
            renderer, targets = Renderer(context, project), Targets(context, SIZE)
            renderer.picture(targets, Camera.from_viewpoint(project.viewpoints[0], renderer.bounds()), "ground")
            return targets.pixels()[..., :3].astype(float)
        finally:
            context.release()


if __name__ == "__main__":
    unittest.main()
