"""Pictures through EGL, with no display: what is drawn is what is in the project."""

import io
import unittest
from unittest import mock

import moderngl
import numpy as np
from PIL import Image

from hulmo.core.colour import srgb_to_linear
from hulmo.core.commands import AddGround, ChangeGround, Fill, SetBlend, SetLight
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.ground import layers
from hulmo.core.ground.blend import adjusted, pieces, share_of, varied
from hulmo.core.ground.ground import Blend, Ground
from hulmo.core.ground.key import KEY
from hulmo.core.ground.textures import part_pixels
from hulmo.core.history import History
from hulmo.core.project import Project
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.looks import LOOKS, UNSEEN
from hulmo.render.renderer import Renderer
from hulmo.render.shaders import source
from hulmo.render.still import still
from hulmo.render.targets import Targets
from tests.bodies import project_with, stroke

SIZE = (320, 240)


def pixels(renderer: Renderer, targets: Targets, camera: Camera, look: str = "lit") -> np.ndarray:
    renderer.picture(targets, camera, look)
    return targets.pixels().astype(int)


class PictureTest(unittest.TestCase):
    context: moderngl.Context

    @classmethod
    def setUpClass(cls) -> None:
        cls.context = headless_context()
        cls.targets = Targets(cls.context, SIZE)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.context.release()

    def scene(self, history: History) -> tuple[Renderer, Camera]:
        renderer = Renderer(self.context, history.project)
        history.subscribe(renderer.follow)
        return renderer, Camera.framing(renderer.bounds())

    def test_each_look_shows_something_else(self) -> None:
        history = project_with(radius=5.0, edge=0.3)
        history.do(stroke("raise", (6.0, 0, 0), radius=3.0))
        renderer, camera = self.scene(history)
        pictures = {look: pixels(renderer, self.targets, camera, look) for look in LOOKS}
        for name, picture in pictures.items():
            self.assertGreater(picture[90:150, 120:200].std(), 1.0, f"{name} is empty")
        for a, b in (("lit", "ground"), ("ground", "form"), ("form", "mesh")):
            self.assertGreater(np.abs(pictures[a] - pictures[b]).mean(), 1.0, f"{a} looks like {b}")

    def test_pixels_a_triangle_are_shown_on_the_triangles_they_are_of(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.4)
        renderer, _ = self.scene(history)
        body = history.project.bodies[0]
        above = Camera(np.zeros(3), 14.0, np.pi, np.radians(89.0)).clipped(renderer.bounds())
        unknown = pixels(renderer, self.targets, above, "views")
        middle = body.vertices["position"][body.corners.triangles].mean(axis=1)
        wanted = renderer.look_values["views"]["wanted"]
        values = np.where(middle[:, 0] < 0, -1.0, np.where(middle[:, 2] < 0, 16.0 * wanted, wanted))
        renderer.set_figures(body.ident, values.astype(np.float32))
        shown = pixels(renderer, self.targets, above, "views")
        for place, colour in (
            ((-2.0, 0.0, 2.0), UNSEEN), ((2.0, 0.0, -2.0), LOOKS["views"].ramp[4]), ((2.0, 0.0, 2.0), LOOKS["views"].ramp[2]),
        ):  # fmt: skip
            x, y, _ = above.to_screen(np.array(place), *self.targets.size)[0]
            np.testing.assert_allclose(shown[int(y), int(x)], 255 * np.array(colour), atol=6)
        renderer.set_figures(body.ident, None)
        np.testing.assert_array_equal(pixels(renderer, self.targets, above, "views"), unknown)

    def test_changed_rows_give_the_same_picture_as_a_fresh_copy(self) -> None:
        history = project_with(radius=5.0, edge=0.3)
        renderer, camera = self.scene(history)
        first = pixels(renderer, self.targets, camera)
        history.do(stroke("raise", (6.0, 2, 4), radius=2.0, height=1.0, strength=100.0))
        history.do(stroke("lay", (0.0, 6, 3), ground="Shell sand", radius=3.0, strength=100.0))
        after = pixels(renderer, self.targets, camera)
        fresh = pixels(Renderer(self.context, history.project), self.targets, camera)
        np.testing.assert_array_equal(after, fresh)
        self.assertGreater(np.abs(after - first).mean(), 0.5)
        history.undo()
        history.undo()
        np.testing.assert_array_equal(pixels(renderer, self.targets, camera), first)

    def test_a_stroke_sends_only_what_it_touched(self) -> None:
        history = project_with(radius=5.0, edge=0.1)
        renderer, camera = self.scene(history)
        pixels(renderer, self.targets, camera)
        history.do(stroke("raise", (6.0, 0, 0), radius=0.5))
        rows = history.project.bodies[0].vertices.count
        self.assertLess(renderer.bytes_sent, 0.15 * rows * 24)
        self.assertGreater(renderer.bytes_sent, 0)

    def test_bands_make_the_same_picture(self) -> None:
        history = project_with()
        renderer, camera = self.scene(history)
        whole = pixels(renderer, self.targets, camera)
        for _ in renderer.steps(self.targets, renderer.view(camera, "lit"), bands=7):
            pass
        banded = self.targets.pixels().astype(int)
        np.testing.assert_array_equal(banded, whole)

    def test_ground_look_is_the_albedo_in_srgb(self) -> None:
        history = project_with("sheet", size=2.0, depth=2.0, edge=0.5)
        history.do(ChangeGround("Shell sand", tile=1000.0, tint="#80ff40"))
        history.do(Fill("Body", "Shell sand"))
        renderer, _ = self.scene(history)
        camera = Camera(np.zeros(3), 2.0, 0.0, np.radians(89.0)).clipped(renderer.bounds())
        picture = pixels(renderer, self.targets, camera, "ground")[110:130, 150:170].reshape(-1, 3).mean(axis=0)
        # a tile of 1000 m shows one corner of the texture: its four corner texels meet there
        corner = part_pixels(Ground("x", "shell_sand", 1.0), "albedo", {})[[0, 0, -1, -1], [0, -1, 0, -1]] / 255.0
        linear = np.where(corner <= 0.04045, corner / 12.92, ((corner + 0.055) / 1.055) ** 2.4).mean(axis=0)
        tint = np.array([((0x80 / 255 + 0.055) / 1.055) ** 2.4, 1.0, ((0x40 / 255 + 0.055) / 1.055) ** 2.4])
        expected = 255 * (1.055 * (linear * tint) ** (1 / 2.4) - 0.055)
        np.testing.assert_allclose(picture, expected, atol=2.5)

    def test_sun_casts_a_shadow_where_it_should(self) -> None:
        history = project_with("sheet", size=10.0, depth=10.0, edge=0.25)
        history.do(SetLight(bearing=90.0, altitude=30.0, sun=5.0, sky=0.3))
        history.do(stroke("raise", (0.0, 9, 0, 0, -1, 0), radius=1.5, height=3.0, strength=100.0, direction="up"))
        renderer, _ = self.scene(history)
        renderer.look_values["form"]["light"] = "sun"
        camera = Camera(np.zeros(3), 14.0, 0.0, np.radians(89.0)).clipped(renderer.bounds())
        picture = pixels(renderer, self.targets, camera, "form").mean(axis=2)
        sides = {}
        for name, x in (("sun side", 2.6), ("far side", -2.6)):
            column, row, _ = camera.to_screen(np.array([[x, 0.0, 0.0]]), *SIZE)[0]
            sides[name] = picture[int(row), int(column)]
        self.assertGreater(sides["sun side"], sides["far side"] + 25)

    def test_unreadable_texture_is_told_and_drawn_grey(self) -> None:
        history = project_with()
        ground = history.project.grounds[0]
        history.project.textures = {"torn": {"albedo": b"\xff\xd8\xff nothing"}}
        history.project.grounds = (type(ground)("Torn", "torn", 2.0), *history.project.grounds[1:])
        renderer, camera = self.scene(history)
        pixels(renderer, self.targets, camera)
        self.assertRegex(renderer.problems[0], "ground 'Torn': .*cannot be read")
        with self.assertRaisesRegex(FileProblem, "ground 'Torn': .*cannot be read"):
            still(history.project, SIZE)
        self.assertEqual(still(history.project, SIZE, "form").size, SIZE)

    def test_rough_textures_do_until_the_others_are_made(self) -> None:
        history = project_with(radius=5.0, edge=0.3)
        history.do(Fill("Body", "Shell sand"))
        renderer, camera = self.scene(history)

        def hasty() -> np.ndarray:
            renderer.picture(self.targets, camera, "ground", hasty=True)
            return self.targets.pixels().astype(int)

        rough = hasty()
        steps = renderer.made_textures()
        next(steps)
        self.assertEqual(np.abs(hasty() - rough).max(), 0, "half of them are of no use")
        history.do(ChangeGround("Shell sand", values={"tile": 1.5}))
        self.assertGreater(np.abs(hasty() - rough).max(), 0, "values are told at once")
        history.do(AddGround("peat"))
        self.assertGreater(sum(1 for _ in renderer.made_textures()), 3, "another palette begins anew")
        self.assertEqual(list(steps), [], "and the old one is given up")
        self.assertEqual(list(renderer.made_textures()), [])
        fine, fresh = hasty(), Renderer(self.context, history.project)
        self.assertTrue(0 < np.abs(fine - rough).mean() < 12, np.abs(fine - rough).mean())
        whole = pixels(renderer, self.targets, camera, "ground")
        np.testing.assert_array_equal(whole, pixels(fresh, self.targets, camera, "ground"))

    def test_images_that_are_kept_smaller_are_means_of_all_texels(self) -> None:
        ground = Ground("Basalt", "basalt", 4.0)
        with mock.patch.object(layers, "MOST_TEXELS", 256 * 256):
            (made,) = layers.GroundLayers((ground,), {}).read()
        pixels = srgb_to_linear(part_pixels(ground, "albedo", {}) / 255.0).astype(np.float32)
        self.assertEqual(pixels.shape, (512, 512, 3))
        wanted = 65535 * pixels.reshape(256, 2, 256, 2, 3).mean(axis=(1, 3), dtype=np.float64)
        self.assertLess(np.abs(made[2][:, :, :3] - wanted).max(), 1.0)

    def test_back_faces_are_drawn_as_they_are_and_marked_only_for_who_works_on_them(self) -> None:
        history = project_with("sheet", size=4.0, depth=4.0, edge=0.5)
        history.do(ChangeGround(history.project.grounds[0].name, values={"plain": ["albedo", "normal", "height"]}))
        renderer, _ = self.scene(history)
        pictures = []
        for altitude, marked in ((89.0, False), (-89.0, False), (-89.0, True)):
            renderer.backs = marked
            camera = Camera(np.zeros(3), 6.0, 0.0, np.radians(altitude)).clipped(renderer.bounds())
            pictures.append(pixels(renderer, self.targets, camera, "ground")[90:150, 130:190])
        np.testing.assert_array_equal(pictures[0], pictures[1])
        changed = (np.abs(pictures[2] - pictures[1]).max(axis=2) > 20).mean()
        self.assertTrue(0.02 < changed < 0.4, changed)

    def test_an_empty_project_is_drawn(self) -> None:
        renderer, camera = self.scene(History(Project()))
        self.assertGreater(pixels(renderer, self.targets, camera).mean(), 50)

    def test_stills_refuse_what_cannot_be(self) -> None:
        project = project_with().project
        for given, words in (
            ({"look": "xray"}, "no look 'xray'"),
            ({"view": "roof"}, "no viewpoint 'roof'"),
            ({"size": (4, 4)}, "between 16"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                still(project, **{"size": SIZE, **given})  # type: ignore[arg-type]

    def test_triangles_that_come_and_go_give_the_same_picture_as_a_fresh_copy(self) -> None:
        history = project_with(radius=5.0, edge=0.7)
        sand = history.project.grounds[3].name
        renderer, camera = self.scene(history)
        looks = ("ground", "form", "mesh", "curvature", "stretch")
        first = {look: pixels(renderer, self.targets, camera, look) for look in looks}
        history.do(stroke("lay", (3, 9, 2, -0.3, -1, -0.2), ground=sand, radius=3.0))
        history.do(stroke("guard", (-1, 9, 3, 0.1, -1, -0.3), radius=1.5))
        history.do(stroke("haul", (2, 4, 2), (4, 8, 4), radius=2.5, grow="both", edge=0.25))
        history.do(stroke("thin_out", (0, 0, 5), radius=2.5, edge=1.5))
        sent = renderer.bytes_sent
        self.assertLess(sent, 2_000_000)
        grown = {look: pixels(renderer, self.targets, camera, look) for look in looks}
        fresh = Renderer(self.context, history.project)
        fresh.show(history.project)
        for look in looks:
            self.assertGreater(np.abs(grown[look] - first[look]).mean(), 0.5, look)
            self.assertLess(np.abs(grown[look] - pixels(fresh, self.targets, camera, look)).mean(), 0.02, look)
        for _ in range(4):
            history.undo()
        for look in looks:
            self.assertLess(np.abs(pixels(renderer, self.targets, camera, look) - first[look]).mean(), 0.02, look)

    def test_marks_show_even_slivers(self) -> None:
        history = project_with(radius=5.0, edge=0.7)
        renderer, camera = self.scene(history)
        before = pixels(renderer, self.targets, camera, "form")
        sliver = np.array([[[-2, 0, 5], [2, 0, 5], [2, 1e-6, 5]]], np.float32)
        renderer.mark(sliver)
        marked = pixels(renderer, self.targets, camera, "form")
        self.assertGreater(int((np.abs(marked - before).max(axis=2) > 60).sum()), 30)
        renderer.mark(None)
        np.testing.assert_array_equal(pixels(renderer, self.targets, camera, "form"), before)


class PaintLookTest(unittest.TestCase):
    def test_each_look_for_painting_shows_what_it_says(self) -> None:
        context = headless_context()
        self.addCleanup(context.release)
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.5)
        body = history.project.bodies[0]
        history.do(
            stroke("lay", (2.0, 9, 0, 0, -1, 0), ground="Shell sand", radius=1.4, strength=100.0, falloff="flat")
        )
        history.do(stroke("lay", (-2.0, 9, 0, 0, -1, 0), ground="Thrift turf", radius=1.4, strength=40.0, core=90.0))
        history.do(SetBlend(together=1))
        renderer, targets = Renderer(context, history.project), Targets(context, SIZE)
        renderer.ground = 3
        renderer.hatch = False
        camera = Camera(np.zeros(3), 12.0, 0.0, np.radians(89.0)).clipped(renderer.bounds())

        def at(look: str, *places: tuple[float, float, float]) -> list[list[float]]:
            picture = pixels(renderer, targets, camera, look)
            spots = [camera.to_screen(np.array(place), *SIZE)[0] for place in places]
            return [(picture[int(y), int(x)] / picture[int(y), int(x)].max()).tolist() for x, y, _ in spots]

        sand, turf, bare, rim = (2.0, 0, 0.1), (-2.0, 0, 0.1), (0.0, 0, 3.0), (3.4, 0, 0.0)

        def tone(look: str, share: float) -> list[float]:
            ramp = np.array(LOOKS[look].ramp)
            low = min(int(share * 4), 3)
            colour = srgb_to_linear(ramp[low : low + 2])
            mixed = colour[0] + (colour[1] - colour[0]) * (share * 4 - low)
            encoded = np.where(mixed > 0.0031308, 1.055 * mixed ** (1 / 2.4) - 0.055, 12.92 * mixed)
            return (encoded / encoded.max()).tolist()

        for look, shares in (("weight", (1.0, 0.0, 0.0)), ("hand", (1.0, 0.4, 0.0))):
            for got, share in zip(at(look, sand, turf, bare), shares, strict=True):
                np.testing.assert_allclose(got, tone(look, share), atol=0.06, err_msg=f"{look} {share}")
        found = at("dominant", sand, turf, bare)
        for got, column in zip(found, (3, 0, 0), strict=True):
            np.testing.assert_allclose(got, np.array(KEY[column]) / max(KEY[column]), atol=0.06)
        crowd = at("crowd", sand, turf, bare)
        np.testing.assert_allclose(crowd[0], crowd[2], atol=0.01)
        self.assertGreater(float(np.abs(np.subtract(crowd[1], crowd[2])).max()), 0.1)
        coarse = at("coarse", rim, bare)
        self.assertGreater(float(np.abs(np.subtract(coarse[0], coarse[1])).max()), 0.1)
        self.assertEqual(body.vertices["weight"].shape[1], 4)


class BlendShaderTest(unittest.TestCase):
    def test_the_shader_gives_the_formula_to_a_255th(self) -> None:
        context = headless_context()
        self.addCleanup(context.release)
        text = "#define MOST_GROUNDS 8\n" + source("blend.glsl", {})
        vertex = "void main() { gl_Position = vec4(vec2((gl_VertexID << 1) & 2, gl_VertexID & 2) * 2.0 - 1.0, 0, 1); }"
        fragment = """
            uniform float w[8]; uniform float h[8]; uniform float depth; out vec4 result[2];
            void main() {
                float s[8];
                ground_shares(w, h, depth, s);
                result[0] = vec4(s[0], s[1], s[2], s[3]);
                result[1] = vec4(s[4], s[5], s[6], s[7]);
            }"""
        program = context.program(
            vertex_shader=f"#version 330 core\n{vertex}", fragment_shader=f"#version 330 core\n{text}{fragment}"
        )
        outputs = [context.texture((1, 1), 4, dtype="f4") for _ in range(2)]
        frame = context.framebuffer(outputs)
        rng = np.random.default_rng(6)
        cases = [(np.array([0.5, 0.5, 0, 0, 0, 0, 0, 0]), np.array([1.0, 0.5, 0, 0, 0, 0, 0, 0]), 0.5)]
        cases += [
            (rng.dirichlet(np.ones(8) * 0.4), rng.uniform(0, 1, 8), float(rng.uniform(0.01, 1))) for _ in range(40)
        ]
        cases += [(rng.dirichlet(np.ones(8)), rng.uniform(0, 1, 8), 0.0)]
        for weight, height, depth in cases:
            program["w"].write(weight.astype(np.float32).tobytes())
            program["h"].write(height.astype(np.float32).tobytes())
            program["depth"].value = depth
            frame.use()
            context.vertex_array(program, []).render(moderngl.TRIANGLES, vertices=3)
            got = np.concatenate([np.frombuffer(texture.read(), np.float32) for texture in outputs])
            blend = Blend("height", depth) if depth > 0 else Blend("linear")
            expected = share_of(weight.tolist(), height.tolist(), blend)
            np.testing.assert_allclose(got, expected, atol=1 / 255)
            self.assertAlmostEqual(float(got.sum()), 1.0, places=4)

    def test_the_shader_breaks_up_varies_and_adjusts_as_the_formula_says(self) -> None:
        context = headless_context()
        self.addCleanup(context.release)
        vertex = "void main() { gl_Position = vec4(vec2((gl_VertexID << 1) & 2, gl_VertexID & 2) * 2.0 - 1.0, 0, 1); }"
        fragment = """
            uniform vec3 p; uniform vec3 c; uniform vec4 a; out vec4 result[4];
            void main() {
                vec3 w; vec2 s[3];
                pieces(p.xy, w, s);
                result[0] = vec4(w, varied(p, 3.0, 0.4));
                result[1] = vec4(s[0], s[1]);
                result[2] = vec4(s[2], 0.0, 0.0);
                result[3] = vec4(adjusted(c, a.x, a.y, a.z, a.w), 1.0);
            }"""
        text = f"#version 330 core\n{source('blend.glsl', {})}{fragment}"
        program = context.program(vertex_shader=f"#version 330 core\n{vertex}", fragment_shader=text)
        outputs = [context.texture((1, 1), 4, dtype="f4") for _ in range(4)]
        frame = context.framebuffer(outputs)
        rng = np.random.default_rng(8)
        for _ in range(60):
            p, c = rng.uniform(-30, 30, 3).astype(np.float32), rng.uniform(0, 1, 3)
            a = rng.uniform((0.3, 0.3, 0.5, 0.0), (2.0, 2.0, 2.0, 2.0))
            program["p"].value, program["c"].value, program["a"].value = tuple(p), tuple(c), tuple(a)
            frame.use()
            context.vertex_array(program, []).render(moderngl.TRIANGLES, vertices=3)
            got = np.concatenate([np.frombuffer(texture.read(), np.float32) for texture in outputs])
            weight, shift = pieces(p[None, :2].astype(np.float64))
            np.testing.assert_allclose(got[:3], weight[0], atol=2e-4)
            self.assertAlmostEqual(float(got[3]), float(varied(p[None].astype(np.float64), 3.0, 0.4)[0]), delta=1 / 255)
            np.testing.assert_allclose(got[4:10], shift[0].reshape(-1), atol=1e-5)
            ground = Ground("x", "", 1.0, brightness=a[0], contrast=a[1], gamma=a[2], saturation=a[3])
            np.testing.assert_allclose(got[12:15], adjusted(c[None], ground)[0], atol=1 / 255)

    def test_a_uv_mapped_ground_lies_as_its_coordinates_say(self) -> None:
        context = headless_context()
        self.addCleanup(context.release)
        history = project_with("sheet", size=4.0, depth=4.0, edge=0.5)
        body = history.project.bodies[0]
        self.assertIsNotNone(body.corners.uv)
        made = io.BytesIO()
        halves = np.zeros((64, 64, 3), np.uint8)
        halves[:, :32] = (200, 30, 30)
        halves[:, 32:] = (30, 30, 200)
        Image.fromarray(halves).save(made, "PNG")
        history.project.textures = {"halves": {"albedo": made.getvalue()}}
        history.do(AddGround("halves", "Halves", tile=4.0))
        history.do(ChangeGround("Halves", values={"mapping": "uv"}))
        history.do(Fill("Body", "Halves"))
        renderer, targets = Renderer(context, history.project), Targets(context, SIZE)
        camera = Camera(np.zeros(3), 8.0, 0.0, np.radians(89.0)).clipped(renderer.bounds())
        picture = pixels(renderer, targets, camera, "ground").astype(int)
        uv, position = body.corners.uv.reshape(-1, 2), body.vertices["position"][body.corners.vertex]
        for corner in np.flatnonzero(np.abs(position).max(axis=1) < 1.7)[::37]:
            u = float(uv[corner, 0] % 1.0)
            if min(abs(u - 0.5), u, 1 - u) < 0.1:
                continue
            x, y, _ = camera.to_screen(position[corner].astype(np.float64), *SIZE)[0]
            red, _, blue = picture[int(y), int(x)]
            self.assertEqual(red > blue, u < 0.5, (u, red, blue))


class CameraTest(unittest.TestCase):
    def test_rays_and_pixels_agree(self) -> None:
        camera = Camera(np.array([1.0, 2.0, 3.0]), 9.0, 0.7, 0.4)
        for x, y in ((0.0, 0.0), (320.0, 240.0), (17.0, 200.0)):
            origin, direction = camera.ray(x, y, *SIZE)
            np.testing.assert_allclose(camera.to_screen(origin + 5 * direction, *SIZE)[0, :2], (x, y), atol=1e-6)
            clip = camera.view_projection(SIZE[0] / SIZE[1]) @ np.append(origin + 5 * direction, 1)
            np.testing.assert_allclose(clip[:2] / clip[3], (2 * x / 320 - 1, 1 - 2 * y / 240), atol=1e-9)

    def test_turning_and_zooming_keep_the_pivot_in_place(self) -> None:
        camera, pivot = Camera(np.zeros(3), 10.0, 0.7, 0.4), np.array([1.0, 0.5, -2.0])
        before = camera.to_screen(pivot, *SIZE)[0]
        np.testing.assert_allclose(camera.turned(0.6, -0.2, pivot).to_screen(pivot, *SIZE)[0], before, atol=1e-6)
        np.testing.assert_allclose(camera.closer(0.5, pivot).to_screen(pivot, *SIZE)[0, :2], before[:2], atol=1e-6)


if __name__ == "__main__":
    unittest.main()
