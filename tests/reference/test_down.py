"""Down toward a centre: slope, height, facing, latitude, level, terraces and slumping against closed forms."""

import pathlib
import tempfile
import unittest

import numpy as np

from hulmo.core.commands import LayRelief, PlaceBody, SetDown, SetRules
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.evaluate import evaluate
from hulmo.core.ground.measures import MEASURES, Asked
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.measure import measure
from hulmo.core.objects.scene_object import turn_matrix, upright
from hulmo.core.setting import Values, complete
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer, scene_bounds
from hulmo.render.targets import Targets
from tests.bodies import project_with, stroke

PLACE = np.array([30.0, -12.0, 7.0])


def asked(body: Body, name: str, **values: object) -> np.ndarray:
    settings: Values = complete(MEASURES[name].settings, values, "test")
    return MEASURES[name].of(Asked(body, np.arange(body.vertices.count, dtype=np.int32), settings))


class MoonTest(unittest.TestCase):
    def moon(self, edge: float = 0.5, radius: float = 10.0) -> History:
        history = project_with("icosphere", radius=radius, edge=edge)
        history.do(PlaceBody("Body", tuple(PLACE)))
        history.do(SetDown("Body", "centre"))
        return history

    def test_rules_set_by_a_command_see_the_down_of_the_body(self) -> None:
        history = self.moon()
        body, names = history.project.bodies[0], history.project.ground_names
        for condition in (Condition("latitude", low=50.0), Condition("slope", low=30.0)):
            history.do(SetRules("Body", (Rule("Shell sand", (condition,)),)))
            np.testing.assert_allclose(body.vertices["ruled"], evaluate(body, names), atol=2e-3)
        # a perfect moon has no slope at all, so nothing of it is steep
        self.assertLess(float(body.vertices["ruled"][:, names.index("Shell sand")].max()), 0.01)

    def outward(self, body: Body) -> tuple[np.ndarray, np.ndarray]:
        """Unit vectors from the centre, and distances."""
        way = body.placed(body.vertices["position"]) - PLACE
        length = np.linalg.norm(way, axis=1)
        return way / length[:, None], length

    def test_slope_height_and_facing_on_an_ellipsoid(self) -> None:
        history = self.moon(0.25)
        axes = np.array([1.0, 1.6, 0.7])
        history.do(PlaceBody("Body", scale=tuple(axes)))
        history.do(SetDown("Body", "centre", sea=9.0))
        body = history.project.bodies[0]
        out, length = self.outward(body)
        np.testing.assert_allclose(body.down.at, PLACE, atol=1e-4)
        normal = out * length[:, None] / axes**2  # gradient of x²/a² + y²/b² + z²/c²
        normal /= np.linalg.norm(normal, axis=1, keepdims=True)
        slope = np.degrees(np.arccos((normal * out).sum(axis=1)))
        self.assertGreater(slope.max(), 40.0)
        np.testing.assert_allclose(asked(body, "slope"), slope, atol=0.6)
        np.testing.assert_allclose(asked(body, "height", level=2.0), length - 11.0, atol=1e-4)
        np.testing.assert_allclose(asked(body, "latitude"), np.degrees(np.arcsin(out[:, 1])), atol=1e-3)
        # what looks up is as far off straight up as it is steep; what faces north leans toward the pole
        np.testing.assert_allclose(asked(body, "facing", altitude=90.0), asked(body, "slope"), atol=1e-2)
        lean = np.array([0.0, 1.0, 0.0]) - out * out[:, 1:2]
        north = lean / np.maximum(np.linalg.norm(lean, axis=1, keepdims=True), 1e-9)
        off_poles = np.abs(out[:, 1]) < 0.99
        expected = np.degrees(np.arccos(np.clip((normal * north).sum(axis=1), -1, 1)))
        np.testing.assert_allclose(asked(body, "facing")[off_poles], expected[off_poles], atol=0.6)

    def test_a_ball_is_level_everywhere_and_in_the_open(self) -> None:
        body = self.moon().project.bodies[0]
        self.assertLess(asked(body, "slope").max(), 1.0)
        np.testing.assert_allclose(asked(body, "height"), 0.0, atol=1e-3)
        self.assertEqual(float(asked(body, "shelter", of="above").max()), 0.0)
        upside = History(project_with("icosphere").project)
        self.assertGreater(float(asked(upside.project.bodies[0], "shelter", of="above").max()), 90.0)

    def test_its_own_down_goes_along_with_it_through_files_and_undo(self) -> None:
        history = self.moon()
        history.do(PlaceBody("Body", (5.0, 1.0, 2.0), (20.0, 30.0, 40.0), (2.0, 2.0, 2.0)))
        down = history.project.bodies[0].down
        np.testing.assert_allclose(down.at, PLACE + np.array([5.0, 1.0, 2.0]), atol=1e-4)
        self.assertAlmostEqual(down.sea, 20.0, places=3)
        with tempfile.TemporaryDirectory() as folder:
            save_project(history.project, pathlib.Path(folder) / "a.hulmo")
            self.assertEqual(open_project(pathlib.Path(folder) / "a.hulmo").bodies[0].down, down)
        history.undo()
        np.testing.assert_allclose(history.project.bodies[0].down.at, PLACE, atol=1e-4)
        history.undo()
        self.assertEqual(history.project.bodies[0].down.kind, "level")

    def test_terraces_go_round_it_and_level_makes_it_round(self) -> None:
        history = self.moon(0.35)
        history.do(PlaceBody("Body", scale=(1.0, 1.4, 1.0)))
        history.do(SetDown("Body", "centre", sea=0.0))
        history.do(LayRelief("Body", "terraces", {"step": 0.5, "sharpness": 95.0, "irregularity": 0.0}))
        body = history.project.bodies[0]
        out, length = self.outward(body)
        rest = body.placed(body.vertices["rest"]) - PLACE
        before = np.linalg.norm(rest, axis=1)
        np.testing.assert_allclose(out, rest / before[:, None], atol=1e-5)  # straight up and down only
        t = before / 0.5 - np.floor(before / 0.5)
        flat = t < 0.94
        np.testing.assert_allclose(length[flat], (np.floor(before / 0.5) + 0.05 * t)[flat] * 0.5, atol=1e-4)
        history.undo()
        at, way = PLACE + np.array([0, 14.0, 0]), (0.0, -1.0, 0.0)
        history.do(
            stroke(
                "level",
                (*at, *way),
                radius=40.0,
                core=95.0,
                strength=100.0,
                plane="height",
                level=12.0,
                build_up="one_coat",
            )
        )
        out, length = self.outward(body)
        self.assertLess(np.abs(length[out[:, 1] > 0.9] - 12.0).max(), 1e-3)

    def test_heaps_slide_to_their_angle_and_nothing_is_lost(self) -> None:
        history = self.moon(0.3)
        body = history.project.bodies[0]
        for at in ((0, 1, 0), (0, -1, 0), (1, 0, 0)):  # on top, below and at the side: down is the same to each
            from_ = PLACE + 20.0 * np.array(at, float)
            history.do(stroke("raise", (*from_, *(-np.array(at, float))), radius=4.0, height=4.0, strength=100.0))
        before, steep = measure(body).volume, body.slopes(slice(None)).max()
        history.do(LayRelief("Body", "slump", {"angle": 30.0, "passes": 2000}))
        after = measure(body).volume
        assert before is not None and after is not None
        self.assertGreater(steep, 45.0)
        self.assertAlmostEqual((after - 4 / 3 * np.pi * 1000) / (before - 4 / 3 * np.pi * 1000), 1.0, delta=0.01)
        corner = body.placed(body.vertices["position"])[body.corners.live_triangles()]
        face = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
        face /= np.linalg.norm(face, axis=1, keepdims=True)
        up = corner.mean(axis=1) - PLACE
        up /= np.linalg.norm(up, axis=1, keepdims=True)
        self.assertLess(np.degrees(np.arccos((face * up).sum(axis=1))).max(), 31.0)
        heights = [
            self.outward(body)[1][(self.outward(body)[0] @ np.array(at)) > 0.9].max()
            for at in ((0, 1, 0), (0, -1, 0), (1, 0, 0))
        ]
        self.assertLess(max(heights) - min(heights), 0.15)

    def test_straight_up_is_away_from_the_centre(self) -> None:
        history = self.moon()
        body = history.project.bodies[0]
        before = body.vertices["position"].copy()
        history.do(
            stroke(
                "raise",
                (PLACE[0] + 20, PLACE[1], PLACE[2], -1.0, 0, 0),
                radius=1.5,
                height=1.0,
                direction="up",
            )
        )
        step = body.vertices["position"] - before
        moved = np.linalg.norm(step, axis=1) > 1e-4
        self.assertGreater(int(moved.sum()), 10)
        np.testing.assert_allclose(
            step[moved] / np.linalg.norm(step[moved], axis=1, keepdims=True), [[1, 0, 0]] * moved.sum(), atol=2e-3
        )

    def test_rules_follow_what_is_down(self) -> None:
        history = self.moon()
        history.undo()
        rules = (
            Rule("Shell sand", (Condition("slope", high=40.0),)),
            Rule("Thrift turf", (Condition("latitude", low=60.0, low_soft=0.0),)),
        )
        history.do(SetRules("Body", rules))
        history.do(SetDown("Body", "centre"))
        body = history.project.bodies[0]
        expected = evaluate(body, history.project.ground_names)
        np.testing.assert_array_equal(body.vertices["ruled"], expected)
        out, _ = self.outward(body)
        cap = np.degrees(np.arcsin(out[:, 1])) > 60.0
        turf = history.project.ground_names.index("Thrift turf")
        np.testing.assert_array_equal(body.vertices["weight"][:, turf] == 1.0, cap)
        # a cap of 30 degrees: (1 - sin 60) / 2 of the sphere
        self.assertAlmostEqual(float(cap.mean()), (1 - np.sin(np.radians(60))) / 2, delta=0.01)

    def test_contour_lines_go_round_it(self) -> None:
        history = self.moon(0.3)
        history.do(PlaceBody("Body", scale=(1.0, 1.5, 1.0)))
        context = headless_context()
        self.addCleanup(context.release)
        apart = []
        for _ in range(2):
            renderer = Renderer(context, history.project)
            targets = Targets(context, (240, 240))
            camera = Camera.framing(scene_bounds(history.project), 0.3, 0.0)
            renderer.picture(targets, camera, "height")
            pixels = targets.pixels().astype(int)
            x, y, _ = camera.to_screen(PLACE[None], 240, 240)[0].round().astype(int)
            # above and below the middle it is as high; and higher than at the sides
            upper, lower = pixels[y - 62 : y - 30, x], pixels[y + 30 : y + 62, x][::-1]
            apart.append(float(np.abs(upper - lower).mean()))
            history.do(SetDown("Body"))
        self.assertLess(apart[0], 12.0)
        self.assertGreater(apart[1], 40.0)

    def test_nonsense_is_refused_and_figures_stand_upright(self) -> None:
        history = self.moon()
        on = tuple((PLACE + np.array([0, 10.0, 0])).tolist())
        for command in (
            SetDown("Body", "sideways"), SetDown("Body", "centre", (np.nan, 0, 0)), SetDown("Body", "way"),
            SetDown("Body", "way", (0, 0, 0)), SetDown("Body", "centre", sea=-1.0), SetDown("Body", "centre", sea=1e30),
            SetDown("Body", "centre", on), SetDown("Nothing", "centre"), SetDown("Body", "centre", (1e30, 0, 0)),
        ):  # fmt: skip
            with self.assertRaises(InvalidInput, msg=repr(command)):
                history.do(command)
        rng = np.random.default_rng(3)
        for up in [*rng.normal(size=(20, 3)), np.array([0, -1.0, 0]), np.array([1.0, 0, 0])]:
            up = up / np.linalg.norm(up)
            np.testing.assert_allclose(turn_matrix(upright(up)) @ (0, 1, 0), up, atol=1e-9)


if __name__ == "__main__":
    unittest.main()
