"""Strokes against closed forms and against themselves in a mirror."""

import itertools
import unittest

import numpy as np

from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import AddBody, MirrorBody, Stroke
from hulmo.core.history import History
from hulmo.core.project import Project
from tests.bodies import project_with

RADIUS, HEIGHT = 7.0, 6.0


def samples(kind: str) -> tuple[tuple[float, ...], ...]:
    """A straight line along X: points above the sheet, on it, or rays onto it, straight or slanted."""
    rest = {
        "above": (8.0, 0.0), "on": (0.0, 0.0), "rays": (50.0, 0.0, 0.0, -1.0, 0.0), "slanted": (50.0, 30.0, 0.0, -1.0, -0.6),
    }[kind]  # fmt: skip
    return tuple((float(x), *rest) for x in np.linspace(-25, 25, 11))


class RidgeTest(unittest.TestCase):
    """An even stroke over even ground is an even ridge: its own definition, no source."""

    def test_even_along_it_in_each_way_and_direction(self) -> None:
        for kind, way, direction in itertools.product(
            ("above", "on", "rays", "slanted"), ("one_coat", "stacking", "until_reset"), ("own", "up", "start")
        ):
            with self.subTest(kind=kind, way=way, direction=direction):
                history = History(Project())
                history.do(AddBody("sheet", {"size": 80.0, "depth": 40.0, "edge": 0.5}, "Body"))
                values = {
                    "radius": RADIUS,
                    "height": HEIGHT,
                    "strength": 100.0,
                    "build_up": way,
                    "direction": direction,
                }
                history.do(Stroke("Body", "raise", samples(kind), values))
                at = history.project.bodies[0].vertices["position"].astype(float)
                crest = [at[np.abs(at[:, 0] - x) < 0.3, 1].max() for x in np.arange(-15, 15.1, 0.5)]
                self.assertLess(max(crest) / min(crest), 1.02)
                if way != "stacking":
                    self.assertAlmostEqual(max(crest), HEIGHT, delta=0.02 * HEIGHT)
                if way == "one_coat" and direction != "own":
                    # one coat of the smooth falloff: 1 - 3 t^2 + 2 t^3 of the distance to the line, t = d / radius
                    middle = at[np.abs(at[:, 0]) < 15]
                    t = np.minimum(np.abs(middle[:, 2]) / RADIUS, 1.0)
                    wanted = HEIGHT * (1 - t * t * (3 - 2 * t))
                    self.assertLess(float(np.abs(middle[:, 1] - wanted).max()), 0.02 * HEIGHT)


class MirrorTest(unittest.TestCase):
    """What a mirrored copy does is what the stroke itself does to a mirrored mesh, vertex by vertex."""

    def test_each_shaping_brush(self) -> None:
        lines = {
            "points": ((4.0, 0.5, 2.0), (3.0, 0.0, 3.6)),
            "rays": ((20.0, 2.0, 6.0, -1.0, 0.0, -0.2), (20.0, 1.0, 7.0, -1.0, 0.0, -0.2)),
        }
        brushes = [brush for brush in BRUSHES.values() if brush.shapes and not brush.remeshes]
        self.assertGreater(len(brushes), 10)
        for brush, (kind, line), axis in itertools.product(brushes, lines.items(), ("x", "z")):
            with self.subTest(brush=brush.name, line=kind, axis=axis):
                column = {"x": 0, "z": 2}[axis]
                flip = np.ones(3)
                flip[column] = -1
                values = {"radius": 1.5, "strength": 80.0}
                history, mirrored = self.rough(), self.rough()
                mirrored.do(MirrorBody("Body", axis))
                first = history.project.bodies[0].vertices["position"].astype(float)
                history.do(Stroke("Body", brush.name, line, {**values, "mirror": axis}))
                mirrored.do(Stroke("Body", brush.name, line, values))
                both = history.project.bodies[0].vertices["position"].astype(float)
                alone = mirrored.project.bodies[0].vertices["position"].astype(float) * flip
                far = first[:, column] < 0
                self.assertGreater(np.abs(both - first)[far].max(), 0.003)
                self.assertLess(np.abs(both - alone)[far].max(), 1e-4)

    def rough(self) -> History:
        """A rough ball of which no part is the image of another, about the origin."""
        history = project_with("icosphere", radius=5.0, edge=0.3)
        vertices = history.project.bodies[0].vertices
        at = vertices["position"]
        bumps = np.random.default_rng(3).normal(0, 0.02, len(at)).astype(np.float32)
        bumps[np.abs(at).max(axis=1) > 4.6] = 0.0  # the box around it stays about the origin
        at *= 1 + bumps[:, None]
        history.project.bodies[0].replaced()
        return history


if __name__ == "__main__":
    unittest.main()
