"""Baked images against the canvas, closed forms and interpolation by hand; their files by other readers."""

import io
import json
import math
import pathlib
import subprocess
import tempfile
import unittest
from types import SimpleNamespace

import msgspec
import numpy as np
import OpenEXR
import png
import tifffile
import trimesh
from PIL import Image

from hulmo.cli import main
from hulmo.core.bake.bake import bake, together
from hulmo.core.bake.maps import MAPS
from hulmo.core.commands import (
    AddBody,
    AddGround,
    AddLayer,
    ChangeGround,
    ChangeUv,
    Fill,
    FlipFaces,
    JoinBodies,
    LayRelief,
    LayUv,
    PackUv,
    RemoveLayer,
    SetBlend,
    Strew,
    Stroke,
    UnwrapUv,
)
from hulmo.core.errors import Cancelled, HulmoError
from hulmo.core.ground.shade import GroundShade
from hulmo.core.history import History
from hulmo.core.io.map_file import exact_shares, write_map
from hulmo.core.io.project_file import save_project
from hulmo.core.mesh.rays import Rays
from hulmo.core.mesh.strewn import anchors
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.props.tray import tray_of
from hulmo.core.uv.tangent import tangents
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets

READER = pathlib.Path(__file__).parents[1] / "reference" / "node" / "read.mjs"


def built(form: str, **settings: float) -> History:
    history = History(Project())
    history.do(AddBody(form, settings, "Body"))
    return history


class BakeTest(unittest.TestCase):
    def test_base_colour_is_what_the_canvas_shows(self) -> None:
        """From far above, a sheet fills the picture as it fills its image; both in the look without light. OpenGL draws the
        picture, the processor works the image out: whatever grounds can be told has to come out the same."""
        manners: list[dict[str, object]] = [
            {}, {"break_up": False, "turn": 20.0}, {"variation": 0.4, "variation_size": 1.5, "tint": "#c0d0ff"},
            {"brightness": 1.4, "contrast": 0.7, "gamma": 1.3, "saturation": 0.4},
            {"shading": "flat", "normal_strength": 2.0}, {"mapping": "uv"},
            {"mapping": "uv", "turn": -35.0, "break_up": True},
        ]  # fmt: skip
        for manner, blend in zip(manners, ("height", "linear", "height", "linear") * 2, strict=False):
            with self.subTest(manner=manner, blend=blend):
                self.compare(manner, blend)

    def compare(self, manner: dict[str, object], blend: str) -> None:
        history = built("sheet", size=8.0, depth=8.0, edge=0.25)
        history.do(LayUv("Body", "above"))
        history.do(LayUv("Body", "above", into="flat"))
        history.do(SetBlend(blend, 0.4))
        if "mapping" in manner:  # the grounds lie along a set that is turned and repeated
            history.do(ChangeUv("Body", turn=30.0, scale=(2.0, 2.0)))
        for ground in history.project.grounds:
            history.do(ChangeGround(ground.name, values=manner))
        history.do(Stroke("Body", "lay", ((1.0, 0.0, 1.0),), {"radius": 2.5, "strength": 100.0}, "Shell sand"))
        history.do(Stroke("Body", "lay", ((-2.0, 0.0, -1.0),), {"radius": 2.0, "strength": 60.0}, "Thrift turf"))
        history.do(Stroke("Body", "tint", ((0.0, 0.0, -2.0),), {"radius": 1.5, "strength": 80.0, "colour": "#ff8040"}))
        self.beside_the_canvas(history.project)

    def test_images_of_odd_sizes_are_read_as_the_canvas_reads_them(self) -> None:
        rng = np.random.default_rng(6)
        history = built("sheet", size=8.0, depth=8.0, edge=0.25)
        history.do(LayUv("Body", "above", into="flat"))
        for width, height in ((300, 225), (37, 53), (1, 9)):
            made = io.BytesIO()
            coarse = rng.integers(0, 256, (height // 5 + 1, width // 5 + 1, 3)).astype(np.uint8)
            Image.fromarray(coarse).resize((width, height)).save(made, "PNG")
            history.project.textures = {"odd": {"albedo": made.getvalue()}}
            history.do(AddGround("odd", f"Odd {width}", tile=1.5))
            history.do(Fill("Body", f"Odd {width}"))
            self.beside_the_canvas(history.project)

    def test_places_that_are_nowhere_are_shaded_somehow(self) -> None:
        """Normals of no length, as where a fold turns back on itself, and numbers that are none: no look beyond an image."""
        project = built("sheet", size=4.0, depth=4.0, edge=1.0).project
        bad = np.array([0.0, np.nan, np.inf, -np.inf, 1e30, -3e38], np.float32)
        rng = np.random.default_rng(2)
        ways = {name: rng.choice(bad, (400, 3)) for name in ("position", "normal", "dx", "dy")}
        weight = rng.dirichlet(np.ones(len(project.grounds)), 400).astype(np.float32)
        surface = SimpleNamespace(**ways, weight=weight, tint=None, along=rng.choice(bad, (400, 6)))
        for mapping in ("position", "uv"):
            grounds = tuple(msgspec.structs.replace(ground, mapping=mapping) for ground in project.grounds)
            shade = GroundShade(grounds, project.textures, project.blend)
            _, rough, normal = shade.shade(surface)
            self.assertEqual((rough.shape, normal.shape), ((400,), (400, 3)))
            surface.position[:], surface.normal[:], surface.dx[:], surface.dy[:] = 0.5, 0.0, 0.01, 0.01
            surface.along[:] = 0.5
            self.assertTrue(all(np.isfinite(values).all() for values in shade.shade(surface)))

    def beside_the_canvas(self, project: Project) -> None:
        baked = bake(
            project, project.bodies[0], ["base_colour", "roughness", "normal_object"], 256, silent(), column="uv flat"
        )
        context = headless_context()
        try:
            renderer, targets = Renderer(context, project), Targets(context, (256, 256))
            field = math.degrees(2 * math.atan(4.0 / 500.0))
            camera = Camera(np.zeros(3), 500.0, math.pi, math.radians(89.999), field).clipped(renderer.bounds())
            for look, name, curve in (
                ("ground", "base_colour", True), ("roughness", "roughness", False), ("normals", "normal_object", False),
            ):  # fmt: skip
                renderer.picture(targets, camera, look)
                shown = targets.pixels().astype(float)
                values = baked.images[name].astype(float)
                values = values if values.ndim == 3 else np.repeat(values[..., None], 3, axis=2)
                if curve:
                    values = np.where(values <= 0.0031308, 12.92 * values, 1.055 * values ** (1 / 2.4) - 0.055)
                off = np.abs(shown - 255 * values)[4:-4, 4:-4]
                self.assertLess(float(off.max()), 0.6, name)  # half a step is what eight bits round
        finally:
            context.release()
        self.assertEqual((baked.reached, baked.filled, baked.mirrored, baked.twice), (256 * 256, 256 * 256, 0, 0))

    def test_normals_of_a_ball_and_back_from_tangents(self) -> None:
        history = built("icosphere", radius=2.0, edge=0.12)
        project, body = history.project, history.project.bodies[0]
        for ground in project.grounds:
            history.do(ChangeGround(ground.name, values={"plain": ["albedo", "normal", "roughness", "height"]}))
        history.do(UnwrapUv("Body", size=256))
        baked = bake(project, body, ["normal", "normal_object", "position"], 256, silent())
        there = np.linalg.norm(baked.images["position"], axis=2) > 1.0
        place = baked.images["position"][there]
        normal = baked.images["normal_object"][there] * 2.0 - 1.0
        np.testing.assert_allclose(normal, place / np.linalg.norm(place, axis=1, keepdims=True), atol=0.02)
        np.testing.assert_allclose(
            baked.images["normal"][there], np.broadcast_to((0.5, 0.5, 1.0), place.shape), atol=0.02
        )
        # with maps: what a reader makes of tangents, by the rule of MikkTSpace, is the normal in space again
        for ground in project.grounds:
            history.do(ChangeGround(ground.name, values={"plain": []}))
        baked = bake(project, body, ["normal", "normal_object"], 256, silent(), margin=0)
        corners, position, normals = body.corners.triangles, body.vertices["position"], body.vertices["normal"]
        uv = body.corners.slots["uv"].astype(float)
        frame = tangents(position[corners].astype(float), normals[corners].astype(float), uv, corners)
        rng, checked = np.random.default_rng(2), 0
        for slot in rng.integers(0, corners.shape[0], 400).tolist():
            share = rng.dirichlet((3.0, 3.0, 3.0))
            x, y = (share @ uv[slot]) * 256
            column, row = int(x), int(y)
            share_at = np.linalg.solve(
                np.vstack((uv[slot].T * 256, np.ones(3))), np.array([column + 0.5, row + 0.5, 1.0])
            )
            if share_at.min() < 0.02:
                continue
            tangent, up = share_at @ frame[slot, :, :3], share_at @ normals[corners[slot]]
            up = up / np.linalg.norm(up)
            stored = baked.images["normal"][row, column] * 2.0 - 1.0
            found = stored[0] * tangent + stored[1] * frame[slot, 0, 3] * np.cross(up, tangent) + stored[2] * up
            wanted = baked.images["normal_object"][row, column] * 2.0 - 1.0
            np.testing.assert_allclose(found / np.linalg.norm(found), wanted, atol=2e-3)
            checked += 1
        self.assertGreater(checked, 100)

    def test_weights_are_mixed_by_shares_and_sum_exactly(self) -> None:
        history = built("sheet", size=4.0, depth=4.0, edge=0.5)
        history.do(LayUv("Body", "above"))
        history.do(SetBlend("linear"))
        for name in ("Fifth", "Sixth"):
            history.do(AddGround("", name, colour="#808080"))
        project, body = history.project, history.project.bodies[0]
        history.do(Fill("Body", project.ground_names[0]))
        x = (body.vertices["position"][:, 0] + 2.0) / 4.0
        body.vertices["weight"][:, 0], body.vertices["weight"][:, 2] = 0.5 - 0.5 * x, 0.5 * x
        body.vertices["weight"][:, 5] = 0.5
        baked = bake(project, body, ["weights", "slope", "position"], 64, silent(), samples=2)
        wanted = np.broadcast_to((np.arange(64) + 0.5) / 64, (64, 64))
        np.testing.assert_allclose(baked.images["weights_1"][..., 2], wanted * 0.5, atol=1 / 65535 + 2e-6)
        np.testing.assert_allclose(baked.images["position"][..., 0], wanted * 4.0 - 2.0, atol=1e-4)
        self.assertEqual(float(baked.images["slope"].max()), 0.0)
        with tempfile.TemporaryDirectory() as folder:
            for bits, full in ((8, 255), (16, 65535)):
                images = exact_shares([baked.images["weights_1"], baked.images["weights_2"]], bits)
                total = np.zeros((64, 64), int)
                for number, image in enumerate(images):
                    path = pathlib.Path(folder) / f"w{number}.png"
                    write_map(path, image, MAPS["weights"], bits)
                    with path.open("rb") as file:
                        width, height, rows, info = png.Reader(file=file).read()
                        values = np.array([list(row) for row in rows]).reshape(height, width, info["planes"])
                    total += values.sum(axis=2)
                    if number == 0:
                        np.testing.assert_allclose(values[..., 2] / full, wanted * 0.5, atol=1.01 / full)
                    else:
                        np.testing.assert_allclose(values[..., 1] / full, 0.5, atol=1.01 / full)
                self.assertTrue((total == full).all(), "over all images of a body")

    def test_a_bump_baked_onto_a_flat_sheet_has_the_normals_of_its_formula(self) -> None:
        """h = a exp(-r^2 / 2 s^2): in tangent space (-dh/dx, dh/dz, 1), of length 1, since up the image is north (closed
        form); heights are h itself."""
        history = built("sheet", size=8.0, depth=8.0, edge=4.0)
        history.do(LayUv("Body", "above"))
        history.do(AddBody("sheet", {"size": 8.6, "depth": 8.6, "edge": 0.04}, "Fine"))
        project = history.project
        for ground in project.grounds:
            history.do(ChangeGround(ground.name, values={"plain": ["albedo", "normal", "roughness", "height"]}))
        coarse, fine = project.bodies
        x, z = fine.vertices["position"][:, 0], fine.vertices["position"][:, 2]
        fine.vertices["position"][:, 1] = 0.6 * np.exp(-(x**2 + z**2) / 2.0)
        fine.all_moved()
        baked = bake(project, coarse, ["normal", "height", "position"], 96, silent(), fine=fine, reach=1.0)
        self.assertEqual(baked.missed, 0)
        at = (np.arange(96) + 0.5) / 96 * 8.0 - 4.0
        x, z = np.meshgrid(at, at)
        high = 0.6 * np.exp(-(x**2 + z**2) / 2.0)
        np.testing.assert_allclose(baked.images["height"], high, atol=2e-3)
        wanted = np.stack((x * high, -z * high, np.ones_like(x)), axis=2)
        wanted /= np.linalg.norm(wanted, axis=2, keepdims=True)
        np.testing.assert_allclose(baked.images["normal"] * 2.0 - 1.0, wanted, atol=0.01)
        history.do(AddBody("sheet", {"size": 4.0, "depth": 8.0, "edge": 1.0}, "Half", (-2.0, 0.1, 0.0)))
        half = bake(project, coarse, ["height"], 64, silent(), fine=project.bodies[2], reach=0.5)
        self.assertAlmostEqual(half.missed / 64**2, 0.5, delta=0.03)
        with self.assertRaisesRegex(HulmoError, "name the fine body"):
            bake(project, coarse, ["height"], 64, silent())

    def test_occlusion_by_closed_forms(self) -> None:
        """Of the cosine-weighted half sphere: beside a long wall, H high and d off, 1 - (1 - d / sqrt(d^2 + H^2)) / 2;
        in the middle of a long slit of width w and depth h, w / 2 over sqrt(w^2 / 4 + h^2); in half a ball, 1 / 2."""
        history = built("block", size=4.0, height=3.0, depth=400.0, edge=2.0)
        wall = history.project.bodies[0]
        up = np.tile([0.0, 1.0, 0.0], (40, 1))
        for away in (0.5, 2.0, 6.0):
            place = np.column_stack((np.full(40, 2.0 + away), np.zeros(40), np.linspace(-3.0, 3.0, 40)))
            found = Rays(wall).openness(place, up, 1024, 1e4)
            self.assertAlmostEqual(float(found.mean()), 1 - (1 - away / math.hypot(away, 3.0)) / 2, delta=0.01)
        history.do(
            AddBody("block", {"size": 4.0, "height": 3.0, "depth": 400.0, "edge": 2.0}, "Other", (5.0, 0.0, 0.0))
        )
        history.do(JoinBodies("Body", "Other"))
        place = np.column_stack((np.full(40, 2.5), np.zeros(40), np.linspace(-3.0, 3.0, 40)))
        found = Rays(history.project.bodies[0]).openness(place, up, 1024, 1e4)
        self.assertAlmostEqual(float(found.mean()), 0.5 / math.hypot(0.5, 3.0), delta=0.01)
        history = built("icosphere", radius=2.0, edge=0.1)
        history.do(FlipFaces("Body"))
        # from the bottom, all above the rim of the lower half is farther off than sqrt(2) radii
        found = Rays(history.project.bodies[0]).openness(
            np.array([[0.0, -1.99, 0.0]]), up[:1], 4096, 2.0 * math.sqrt(2.0)
        )
        self.assertAlmostEqual(float(found[0]), 0.5, delta=0.02)

    def test_many_rays_meet_what_one_meets(self) -> None:
        """Embree in single precision beside the index that strokes ask, in double: a far body, and sharp edges."""
        history = built("icosphere", radius=40.0, edge=2.0)
        history.do(LayRelief("Body", "noise", {"size": 12.0, "height": 9.0}))
        body = history.project.bodies[0]
        rng = np.random.default_rng(4)
        origin = rng.normal(size=(3000, 3)) * 60.0
        way = rng.normal(size=(3000, 3)) * 12.0 - origin
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        triangle, share, away = Rays(body).first_hits(origin, way, 90.0)
        same = 0
        for i in range(len(origin)):
            hit = body.own_ray(origin[i], way[i])
            if hit is None or hit.distance > 90.0:
                self.assertTrue(triangle[i] < 0 or away[i] > 89.999, i)
                continue
            self.assertGreaterEqual(triangle[i], 0, "it slipped through")
            self.assertAlmostEqual(float(away[i]), hit.distance, delta=1e-3)
            corners = body.vertices["position"][body.corners.triangles[triangle[i]]].astype(float)
            weights = np.array([1.0 - share[i].sum(), *share[i]])
            np.testing.assert_allclose(weights @ corners, origin[i] + away[i] * way[i], atol=1e-3)
            same += triangle[i] == hit.triangle
        self.assertGreater(same, 0.99 * (triangle >= 0).sum())
        self.assertGreater((triangle >= 0).sum(), 1000)

    def test_a_baked_delivery_passes_the_validator_and_shows_the_colours_in_another_reader(self) -> None:
        """glTF 2.0: the standard body's validator; colours of places sampled by trimesh against the canvas's mean colours."""
        history = built("icosphere", radius=2.0, edge=0.3)
        history.do(ChangeGround(history.project.ground_names[0], values={"plain": ["albedo", "normal", "height"]}))
        history.do(Stroke("Body", "tint", ((2.0, 0.0, 0.0),), {"radius": 1.0, "strength": 100.0, "colour": "#ff0000"}))
        history.do(UnwrapUv("Body", size=256))
        history.do(AddBody("sheet", {"size": 3.0, "depth": 3.0, "edge": 1.0}, "Sheet", (9.0, 0.0, 0.0)))
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            save_project(history.project, folder / "p.hulmo")
            wanted = ["--maps", "base_colour,normal,roughness,occlusion", "--size", "256", "--rays", "16"]
            self.assertEqual(
                main(["bake", str(folder / "p.hulmo"), "-o", name, *wanted, "--glb", str(folder / "b.glb")]), 0
            )
            done = subprocess.run(
                ["node", str(READER), str(folder / "b.glb")], capture_output=True, text=True, check=True
            )
            found = json.loads(done.stdout)
            self.assertEqual((found["errors"], found["warnings"]), (0, 0))
            ball = found["meshes"][0]
            self.assertEqual((ball["name"], ball["triangles"]), ("Body", history.project.bodies[0].corners.count))
            self.assertEqual(set(ball["attributes"]), {"POSITION", "NORMAL", "TEXCOORD_0", "TANGENT"})
            self.assertEqual(len(found["images"]), 6)
            mesh = trimesh.load(folder / "b.glb").geometry["Body"]
            colours = mesh.visual.to_color().vertex_colors[:, :3].astype(float)
            red = mesh.vertices[:, 0] > 1.98
            self.assertTrue((colours[red, 0] > 1.5 * colours[red, 1]).all())
            plain = colours[mesh.vertices[:, 0] < 0]
            self.assertLess(float(plain.std(axis=0).max()), 2.0)
            with Image.open(folder / "Body.occlusion.png") as picture:
                self.assertGreater(float(np.asarray(picture)[np.asarray(picture) > 0].mean()), 250.0, "a ball is open")
            self.assertEqual(
                main(["bake", str(folder / "p.hulmo"), "-o", name, "--maps", "slope", "--glb", "x.glb"]), 2
            )

    def test_bodies_that_are_packed_together_share_one_image(self) -> None:
        history = built("icosphere", radius=2.0, edge=0.5)
        history.do(AddBody("column", {"radius": 1.0, "height": 3.0, "edge": 0.5}, "Other", (9.0, 0.0, 0.0)))
        for name in ("Body", "Other"):
            history.do(UnwrapUv(name, size=256))
        history.do(PackUv("Body", size=256, margin=8, others=("*",)))
        project = history.project
        each = [bake(project, body, ["position", "weights"], 256, silent(), margin=4) for body in project.bodies]
        whole = together(each)
        self.assertEqual((whole.twice, whole.reached), (0, each[0].reached + each[1].reached))
        self.assertEqual(whole.reached, whole.filled)
        for part in each:
            np.testing.assert_array_equal(
                whole.images["position"][part.state == 2], part.images["position"][part.state == 2]
            )
        # even over both: texels a square metre are alike
        density = [
            part.reached / np.linalg.norm(np.cross(*(np.diff(body.vertices["position"][body.corners.live_triangles()], axis=1)
                                                     .transpose(1, 0, 2))), axis=1).sum()
            for part, body in zip(each, project.bodies, strict=True)
        ]  # fmt: skip
        self.assertAlmostEqual(density[0] / density[1], 1.0, delta=0.15)
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            save_project(project, folder / "p.hulmo")
            words = ["--maps", "base_colour,normal", "--size", "128", "--atlas", "Both", "--glb", str(folder / "b.glb")]
            self.assertEqual(main(["bake", str(folder / "p.hulmo"), "-o", name, *words]), 0)
            self.assertEqual(
                sorted(file.name for file in folder.glob("*.png")), ["Both.base_colour.png", "Both.normal.png"]
            )
            done = subprocess.run(
                ["node", str(READER), str(folder / "b.glb")], capture_output=True, text=True, check=True
            )
            found = json.loads(done.stdout)
            self.assertEqual((found["errors"], found["warnings"], len(found["images"])), (0, 0, 2))

    def test_relief_is_baked_onto_the_form_without_it(self) -> None:
        """Heights of a layer along straight normals are the layer; the glTF has the flat form."""
        history = built("sheet", size=4.0, depth=4.0, edge=0.1)
        history.do(LayUv("Body", "above"))
        history.do(AddLayer("Body", "Bump"))
        history.do(
            Stroke("Body", "raise", ((0.0, 0.0, 0.0),), {"radius": 1.2, "height": 0.3, "grow": "off"}, layer="Bump")
        )
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            save_project(history.project, folder / "p.hulmo")
            words = ["--maps", "base_colour,height,missed", "--size", "128", "--relief", "--reach", "1.0", "--glb"]
            self.assertEqual(main(["bake", str(folder / "p.hulmo"), "-o", name, *words, str(folder / "b.glb")]), 0)
            with OpenEXR.File(str(folder / "Body.height.exr"), separate_channels=True) as file:
                height = np.asarray(file.channels()["Y"].pixels, float)
            body = history.project.bodies[0]
            place = body.vertices["position"]
            at = np.clip(((place[:, (0, 2)] + 2.0) / 4.0 * 128).astype(int), 0, 127)
            inner = (np.abs(place[:, 0]) < 1.9) & (np.abs(place[:, 2]) < 1.9)
            np.testing.assert_allclose(height[at[inner, 1], at[inner, 0]], place[inner, 1], atol=0.02)
            self.assertGreater(float(height.max()), 0.1)
            with Image.open(folder / "Body.missed.png") as picture:
                self.assertEqual(int(np.asarray(picture).max()), 0)
            flat = trimesh.load(folder / "b.glb").geometry["Body"]
            self.assertLess(float(np.ptp(flat.vertices[:, 1])), 1e-6)
            history.do(RemoveLayer("Body", "Bump"))
            save_project(history.project, folder / "p.hulmo")
            self.assertEqual(main(["bake", str(folder / "p.hulmo"), "-o", name, *words, str(folder / "b.glb")]), 2)

    def test_where_props_stand_and_what_is_sheltered_is_baked(self) -> None:
        history = built("sheet", size=8.0, depth=8.0, edge=0.5)
        history.do(LayUv("Body", "above"))
        history.do(Strew("Body", ((0.0, 0.0, 0.0),), {"radius": 3.0}, {"Boulder 1": 1.0}))
        project, body = history.project, history.project.bodies[0]
        assert body.strewn is not None
        place, _ = anchors(body, body.strewn)
        mesh = tray_of(project.props, project.prop_meshes).meshes[int(body.strewn.prop[0])]
        radius = float(mesh.outline.mean()) * body.strewn.size.astype(float)
        baked = bake(project, body, ["contact", "position", "shelter"], 256, silent())
        away = np.linalg.norm(baked.images["position"][:, :, None] - place[None, None], axis=3)
        wanted = np.clip(2.0 - away / radius, 0.0, 1.0).max(axis=2)  # the formula of the glossary's foot
        np.testing.assert_allclose(baked.images["contact"], wanted, atol=1e-4)
        self.assertGreater(float(wanted.max()), 0.9)
        self.assertLess(float(baked.images["shelter"].max()), 0.01, "a flat sheet is in the open")

    def test_files_hold_what_was_baked(self) -> None:
        rng = np.random.default_rng(4)
        colours, grey = rng.random((20, 30, 3)).astype(np.float32), rng.random((20, 30)).astype(np.float32)
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            write_map(folder / "a.tiff", grey, MAPS["roughness"], 16)
            np.testing.assert_array_equal(
                tifffile.imread(folder / "a.tiff"), np.rint(grey.astype(float) * 65535).astype(np.uint16)
            )
            write_map(folder / "a.exr", colours, MAPS["normal"])
            with OpenEXR.File(str(folder / "a.exr"), separate_channels=True) as file:
                for i, channel in enumerate("RGB"):
                    np.testing.assert_array_equal(file.channels()[channel].pixels, colours[..., i])
            write_map(folder / "a.png", colours, MAPS["normal"])
            np.testing.assert_array_equal(
                np.asarray(Image.open(folder / "a.png")), np.rint(colours.astype(float) * 255).astype(np.uint8)
            )
            write_map(folder / "p.tiff", colours * 100 - 50, MAPS["position"])
            np.testing.assert_array_equal(tifffile.imread(folder / "p.tiff"), colours * 100 - 50)
            for path, what in (("p.png", "position"), ("a.bmp", "normal")):
                with self.assertRaises(HulmoError):
                    write_map(folder / path, colours, MAPS[what])

    def test_what_cannot_be_is_said_and_work_can_be_stopped(self) -> None:
        history = built("icosphere", radius=2.0, edge=0.5)
        project, body = history.project, history.project.bodies[0]
        with self.assertRaisesRegex(HulmoError, "has no UV"):
            bake(project, body, ["slope"], 64, silent())
        history.do(LayUv("Body", "box"))
        for maps, size, words in ((["shine"], 64, "cannot be baked"), ([], 64, "nothing"), (["slope"], 9, "size")):
            with self.assertRaisesRegex(HulmoError, words):
                bake(project, body, maps, size, silent())
        history.do(ChangeUv("Body", move=(7.0, 0.0)))
        with self.assertRaisesRegex(HulmoError, "none of its UV"):
            bake(project, body, ["slope"], 64, silent())
        history.undo()
        stopped = Progress(lambda share, what: stopped.stop())
        with self.assertRaises(Cancelled):
            bake(project, body, ["slope"], 64, stopped)
        self.assertGreater(
            bake(project, body, ["slope"], 64, silent()).twice, 100, "sides of a box lie over each other"
        )
        with tempfile.TemporaryDirectory() as name:
            file = pathlib.Path(name) / "p.hulmo"
            save_project(project, file)
            self.assertEqual(
                main(["bake", str(file), "-o", name, "--size", "64", "--maps", "slope,curvature,weights"]), 0
            )
            self.assertEqual(
                sorted(path.name for path in pathlib.Path(name).iterdir()),
                ["Body.curvature.exr", "Body.slope.png", "Body.weights_1.png", "p.hulmo"],
            )
            self.assertEqual(main(["bake", str(file), "-o", f"{name}/none"]), 2)
            self.assertEqual(main(["bake", str(file), "-o", name, "--kind", "gif"]), 2)


if __name__ == "__main__":
    unittest.main()
