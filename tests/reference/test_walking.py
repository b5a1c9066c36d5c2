"""Walking: heights gained on ramps by trigonometry, and what stops a person."""

import math
import unittest

import numpy as np

from hulmo.app.tools.walk import rays_of
from hulmo.core.commands import AddBody, PlaceBody
from hulmo.core.dress.walking import EYES, stand, walked
from hulmo.core.history import History
from hulmo.core.project import Project


def rays(*bodies: tuple[str, dict, tuple]) -> list:
    history = History(Project())
    for number, (form, values, place) in enumerate(bodies):
        history.do(AddBody(form, values, f"B{number}"))
        move, turn = place
        history.do(PlaceBody(f"B{number}", move=move, turn=turn))
    return rays_of(history.project.bodies)


SHEET = {"size": 40.0, "depth": 40.0, "edge": 1.0}
EAST = np.array([1.0, 0.0, 0.0])


class WalkTest(unittest.TestCase):
    def test_a_ramp_of_thirty_degrees_gains_what_the_sine_says(self) -> None:
        found = rays(("sheet", SHEET, ((0.0, 0.0, 0.0), (0.0, 0.0, 30.0))))
        start = stand(found, np.array([0.0, 0.0, 0.0]))
        up = walked(found, start, EAST, 10.0)
        self.assertAlmostEqual(up.feet[1], 10.0 * math.sin(math.radians(30)), delta=0.1)
        self.assertAlmostEqual(up.feet[0], 10.0 * math.cos(math.radians(30)), delta=0.1)
        down = walked(found, up, -EAST, 10.0)
        np.testing.assert_allclose(down.feet, start.feet, atol=0.2)

    def test_a_slope_too_steep_and_a_cliff_stop_one(self) -> None:
        steep = rays(("sheet", SHEET, ((0.0, 0.0, 0.0), (0.0, 0.0, 60.0))))
        start = stand(steep, np.array([0.0, 0.0, 0.0]))
        self.assertLess(walked(steep, start, EAST, 5.0).feet[1], 0.3)
        plain = rays(("sheet", SHEET, ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))))
        far = walked(plain, stand(plain, np.array([0.0, 0.0, 0.0])), EAST, 100.0)
        self.assertLessEqual(far.feet[0], 20.0)
        self.assertGreater(far.feet[0], 19.0)

    def test_walls_stop_one_and_let_one_slide_along_and_steps_are_climbed(self) -> None:
        wall = ("block", {"size": 1.0, "height": 4.0, "depth": 30.0, "edge": 0.5}, ((5.0, 0.0, 0.0), (0.0, 0.0, 0.0)))
        found = rays(("sheet", SHEET, ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))), wall)
        start = stand(found, np.array([0.0, 0.0, 0.0]))
        stopped = walked(found, start, EAST, 20.0)
        self.assertLess(stopped.feet[0], 4.5 - 0.2)
        self.assertGreater(stopped.feet[0], 3.5)
        beside = walked(found, start, np.array([1.0, 0.0, 1.0]), 12.0)
        self.assertLess(beside.feet[0], 4.5)
        self.assertGreater(beside.feet[2], 5.0)
        step = ("block", {"size": 6.0, "height": 0.6, "depth": 30.0, "edge": 0.5}, ((5.0, -0.3, 0.0), (0.0, 0.0, 0.0)))
        found = rays(("sheet", SHEET, ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))), step)
        over = walked(found, stand(found, np.array([0.0, 0.0, 0.0])), EAST, 5.0)
        self.assertAlmostEqual(over.feet[1], 0.3, delta=0.01)
        self.assertAlmostEqual(over.eye[1], 0.3 + EYES, delta=0.01)

    def test_no_room_for_the_head(self) -> None:
        roof = ("sheet", SHEET, ((0.0, 1.2, 0.0), (0.0, 0.0, 0.0)))
        found = rays(("sheet", SHEET, ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))), roof)
        self.assertIsNone(stand(found, np.array([0.0, 0.0, 0.0])))
        self.assertIsNotNone(stand(found, np.array([0.0, 0.0, 0.0]), 1.0))


if __name__ == "__main__":
    unittest.main()
