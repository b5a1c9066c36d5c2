"""Fog, lamps, waters and props in pictures, against what their formulas say."""

import math
import unittest

import moderngl
import msgspec
import numpy as np

from hulmo.core.commands import (
    AddBody,
    AddObject,
    AddWater,
    ChangeGround,
    ChangeObject,
    SetLight,
    SetRules,
    Strew,
    Stroke,
)
from hulmo.core.dress.light import Light
from hulmo.core.dress.sky import sky_image
from hulmo.core.dress.sky_picture import directions, sky_picture
from hulmo.core.history import History
from hulmo.core.mesh.body import Bounds
from hulmo.core.project import Project
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.light_meter import light_at, mean_exposure
from hulmo.render.part import Part
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets
from hulmo.render.touched import Touched

SIZE = (160, 120)


def linear(pixels: np.ndarray) -> np.ndarray:
    """Light of sRGB pixels before the tone curve (Narkowicz 2015, solved for its input) of `docs/blend-formula.md`."""
    v = np.asarray(pixels, float) / 255
    y = np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)
    a, b, c = 2.43 * y - 2.51, 0.59 * y - 0.03, 0.14 * y
    return (-b - np.sqrt(b * b - 4 * a * c)) / (2 * a)


class DressTest(unittest.TestCase):
    context: moderngl.Context

    @classmethod
    def setUpClass(cls) -> None:
        cls.context = headless_context()

    @classmethod
    def tearDownClass(cls) -> None:
        cls.context.release()

    def land(self) -> History:
        history = History(Project())
        history.do(AddBody("sheet", {"size": 60.0, "depth": 60.0, "edge": 1.0}, "Land"))
        history.do(SetRules("Land", ()))
        return history

    def picture(self, history: History, camera: Camera, shadows: bool = False) -> np.ndarray:
        renderer = Renderer(self.context, history.project)
        renderer.shadows = shadows
        targets = Targets(self.context, SIZE)
        renderer.picture(targets, camera, "lit")
        return targets.pixels()

    def above(self, at: tuple[float, float, float], high: float) -> Camera:
        camera = Camera(np.array(at), high, 0.0, math.radians(89.0), 20.0)
        return camera.clipped(Bounds(np.full(3, -200.0), np.full(3, 200.0)))

    def test_fog_is_the_exponential_of_how_much_lies_between(self) -> None:
        history = self.land()
        camera = self.above((0.0, 0.0, 0.0), 100.0)
        clear = linear(self.picture(history, camera)[60, 80])
        black = {"fog_colour": "#000000"}
        history.do(SetLight(sight=400.0, **black))
        k = 3.912 / 400.0
        even = linear(self.picture(history, camera)[60, 80])
        np.testing.assert_allclose(even / clear, math.exp(-k * 100.0), rtol=0.03)
        # density k exp(-y / 10) from the ground up to 100 m: k * 10 * (1 - exp(-10))
        history.do(SetLight(sight=40.0, fog_fall=10.0, **black))
        low = linear(self.picture(history, camera)[60, 80])
        np.testing.assert_allclose(low / clear, math.exp(-(3.912 / 40.0) * 10.0 * (1 - math.exp(-10.0))), rtol=0.03)

    def test_a_lamp_falls_off_with_the_square_of_the_distance_and_ends_at_its_reach(self) -> None:
        history = self.land()
        history.do(SetLight(sun=0.0, sky=0.0))
        history.do(
            AddObject("lamp", "L", (0.0, 2.0, 0.0), values={"lumens": 40_000.0, "reach": 1000.0, "colour": "#ffffff"})
        )
        camera = self.above((0.0, 0.0, 0.0), 30.0)
        near = linear(self.picture(history, camera)[56:64, 76:84]).mean()
        history.do(ChangeObject("L", at=(0.0, 4.0, 0.0)))
        far = linear(self.picture(history, camera)[56:64, 76:84]).mean()
        self.assertAlmostEqual(near / far, 4.0, delta=0.3)
        history.do(ChangeObject("L", values={"reach": 3.9}))
        self.assertEqual(int(self.picture(history, camera)[56:64, 76:84].max()), 0)

    def test_the_sky_that_is_drawn_is_the_one_that_was_reckoned(self) -> None:
        history = self.land()
        history.do(SetLight(bearing=180.0, altitude=34.0))
        camera = Camera(
            np.array([0.0, 20.0, 0.0]), 1.0, math.pi, 0.0, 40.0
        )  # from the south to the north, from the sun
        camera = camera.clipped(Bounds(np.full(3, -200.0), np.full(3, 200.0)))
        pixels = self.picture(history, camera)
        image = sky_image(34.0, 1.0, 1.0)
        for row in (10, 30):  # of the picture, from above
            elevation = math.atan((1 - 2 * (row + 0.5) / 120) * math.tan(math.radians(20.0)))
            v = 0.5 + 0.5 * math.sqrt(math.degrees(elevation) / 90.0)
            wanted = image[min(int(v * image.shape[0]), image.shape[0] - 1), -1]
            shown = linear(pixels[row, 80])
            np.testing.assert_allclose(shown, wanted, rtol=0.12)

    def test_a_sky_from_a_picture_is_seen_and_lights_the_ground(self) -> None:
        """Seen light is that of the picture in that direction, turned; ground is lit by what falls on it."""
        history = self.land()
        way, _ = directions(64)
        east = np.array([1.0, 0.0, 0.0])
        light = 0.3 + 0.5 * np.maximum(way @ np.array([0.0, 0.6, -0.8]), 0.0)
        picture = np.repeat(light[..., None], 3, axis=2) * np.array([1.0, 0.7, 0.4])
        history.do(SetLight(sun=0.0, sky_turn=90.0))  # its north looks east
        history.project.sky = sky_picture("some", picture.astype(np.float32), "t")
        level = Bounds(np.full(3, -200.0), np.full(3, 200.0))
        for bearing, toward in ((-math.pi / 2, east), (math.pi, np.array([0.0, 0.0, 1.0]))):
            camera = Camera(np.array([0.0, 20.0, 0.0]), 1.0, bearing, 0.0, 40.0).clipped(level)
            ahead = -camera.back
            np.testing.assert_allclose(ahead, toward if bearing < 0 else ahead, atol=1e-6)
            shown = linear(self.picture(history, camera)[20, 80])
            up = math.tan(math.radians(20.0)) * (1 - 2 * 20.5 / 120)
            seen = (ahead + np.array([0.0, up, 0.0])) / math.hypot(1.0, up)
            own = np.array([seen[2], seen[1], -seen[0]])  # turned back by 90 degrees
            wanted = (0.3 + 0.5 * max(float(own @ (0.0, 0.6, -0.8)), 0.0)) * np.array([1.0, 0.7, 0.4])
            np.testing.assert_allclose(shown, wanted, rtol=0.05)
        # twice the light on the ground is twice as bright; level ground has what falls on it
        camera = self.above((0.0, 0.0, 0.0), 40.0)
        falls = history.project.sky.falls(np.array([[0.0, 1.0, 0.0]]))[0]
        one = linear(self.picture(history, camera)[60, 80])
        history.project.sky = sky_picture("one", np.ones((16, 32, 3), np.float32), "t")
        np.testing.assert_allclose(one / linear(self.picture(history, camera)[60, 80]), falls, rtol=0.06)

    def test_a_shadow_is_the_softer_the_farther_off_what_casts_it(self) -> None:
        """The rim of a sheet at height h, sun at 45 degrees and w wide: rays of its lower and upper rim meet the ground
        h (1 / tan(45 - w/2) - 1 / tan(45 + w/2)) apart; from 10 to 90 % of a disc lie 0.687 of its width (closed form)."""
        for high, width in ((3.0, 5.0), (6.0, 5.0), (6.0, 0.0)):
            history = self.land()
            history.do(AddBody("sheet", {"size": 6.0, "depth": 6.0, "edge": 1.0}, "Roof", (0.0, high, 0.0)))
            history.do(SetLight(bearing=90.0, altitude=45.0, sun=3.0, sky=0.3, sun_width=width))
            history.do(ChangeGround(history.project.grounds[0].name, values={"plain": ["albedo", "normal", "height"]}))
            camera = Camera(np.array([-3.0 - high, 0.0, 0.0]), 14.0, np.pi, math.radians(89.9), 20.0)
            camera = camera.clipped(Bounds(np.full(3, -60.0), np.full(3, 60.0)))
            light = linear(self.picture(history, camera, True))[:, :, 1]
            row = light[58:62].mean(axis=0)
            per = 2 * 14.0 * math.tan(math.radians(10.0)) / SIZE[1]  # metres a pixel
            share = (row - row.min()) / (row.max() - row.min())
            lit, dark = share[:20].mean(), share[-20:].mean()  # from the west: beyond the shadow, and within
            self.assertGreater(abs(lit - dark), 0.8)
            share = (share - dark) / (lit - dark)
            fell = [float(np.interp(-level, -share, np.arange(share.size))) for level in (0.9, 0.1)]
            w = math.radians(width / 2)
            wanted = 0.687 * high * (1 / math.tan(math.pi / 4 - w) - 1 / math.tan(math.pi / 4 + w))
            self.assertAlmostEqual((fell[1] - fell[0]) * per, wanted, delta=0.2 * wanted + 0.12)
            self.assertAlmostEqual(0.5 * sum(fell), SIZE[0] / 2, delta=6.0)  # shadow length: h / tan(altitude)

    def test_light_is_metered(self) -> None:
        history = self.land()
        history.do(SetLight(exposure=-2.0))
        renderer = Renderer(self.context, history.project)
        camera = self.above((0.0, 0.0, 0.0), 40.0)
        stops = mean_exposure(renderer, camera, 4 / 3)
        history.do(SetLight(exposure=stops))
        shown = linear(self.picture(history, camera, True))
        mean = math.exp(float(np.log(shown @ np.array([0.2126, 0.7152, 0.0722]) + 1e-4).mean()))
        self.assertAlmostEqual(mean, 0.18, delta=0.01)
        here = np.array(light_at(renderer, camera, SIZE, (80, 60))) * 2**stops
        np.testing.assert_allclose(here, shown[58:63, 78:83].mean(axis=(0, 1)), rtol=0.1)
        # fog of that colour throws that light
        light = Light(sight=50.0)
        wanted = (0.21, 0.3, 0.17)
        fog = msgspec.structs.replace(light, fog_colour=light.fog_colour_for(wanted)).fog_light()
        np.testing.assert_allclose(fog, wanted, rtol=0.02)

    def test_water_hides_what_lies_deep_and_shows_what_lies_shallow(self) -> None:
        history = self.land()
        dry = self.picture(history, self.above((0.0, 0.0, 0.0), 40.0))[60, 80].astype(int)
        history.do(AddWater("level_water", level=0.02, values={"size": 80.0, "waves": 0.0, "foam": 0.0}))
        shallow = self.picture(history, self.above((0.0, 0.0, 0.0), 40.0))[60, 80].astype(int)
        history.do(ChangeObject("Level water", values={"level": 10.0}))
        deep = self.picture(history, self.above((0.0, 0.0, 0.0), 40.0))[60, 80].astype(int)
        self.assertLess(np.abs(shallow - dry).max(), 25)
        self.assertGreater(np.abs(deep - dry).max(), 40)
        self.assertGreater(deep[2], deep[0])
        history.do(ChangeObject("Level water", shown=False))
        np.testing.assert_array_equal(self.picture(history, self.above((0.0, 0.0, 0.0), 40.0))[60, 80], dry)

    def test_props_are_drawn_where_they_stand_and_their_shadow_lies_beside(self) -> None:
        history = self.land()
        camera = self.above((0.0, 0.0, 0.0), 60.0)
        history.do(SetLight(bearing=90.0, altitude=20.0))
        before = self.picture(history, camera, True).astype(int)
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 1.0, "density": 0.4, "size": 3.0}, {"Boulder 1": 1.0}))
        self.assertGreater(history.project.bodies[0].strewn.count, 0)
        after = self.picture(history, camera, True).astype(int)
        changed = np.abs(after - before).max(axis=2) > 12
        rows, columns = np.nonzero(changed)
        self.assertGreater(rows.size, 20)
        self.assertLess(np.hypot(rows - 60, columns - 80).min(), 8)
        # from the east the sun throws the shadow to the west: left in a picture with north up
        darker = (after - before).sum(axis=2) < -60
        self.assertLess(np.nonzero(darker)[1].mean(), columns.mean() + 2)

    def test_a_part_with_props_lamps_and_fog_is_the_whole(self) -> None:
        history = self.land()
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 8.0, "density": 0.5}, {"Shrub": 1.0, "Boulder 2": 1.0}))
        history.do(AddObject("lamp", at=(2.0, 2.0, 0.0)))
        history.do(SetLight(sight=200.0, fog_fall=20.0))
        renderer = Renderer(self.context, history.project, waiting=True)
        kept, whole = Targets(self.context, SIZE), Targets(self.context, SIZE)
        camera = Camera(np.zeros(3), 30.0, 0.7, 0.5).clipped(renderer.bounds())
        view = renderer.view(camera, "lit")
        for _ in renderer.steps(kept, view):
            pass
        parts: list[Touched | None] = []
        history.subscribe(lambda change: parts.append(renderer.follow(change, view, SIZE)))
        history.do(Stroke("Land", "raise", ((0.0, 0.0, 0.0),), {"radius": 2.0, "strength": 100.0}))
        part = Part(0, 0, 0, 0)
        for one in parts:
            assert one is not None
            part = part.joined(one.part)
        before = kept.pixels().astype(int)
        renderer.part(kept, view, part)
        self.assertGreater(np.abs(kept.pixels().astype(int) - before).max(), 1)
        for _ in renderer.steps(whole, view, quick=True):
            pass
        np.testing.assert_array_equal(kept.pixels(), whole.pixels())


if __name__ == "__main__":
    unittest.main()
