"""Base forms against closed formulas and facts of the trade."""

import math
import unittest

import numpy as np

from hulmo.core.commands import AddBody, Subdivide
from hulmo.core.history import History
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import FORMS, Shape
from hulmo.core.mesh.measure import measure
from hulmo.core.project import Project
from hulmo.core.setting import complete
from tests.bodies import FORM_VALUES, form_body

ARC = math.atan(2)  # angle between neighbouring corners of an icosahedron


class FormTest(unittest.TestCase):
    def test_icosphere_counts(self) -> None:
        # V = 10 * 4^n + 2, F = 20 * 4^n for n-fold quadrisection of an icosahedron (Euler's formula; common knowledge)
        for n in range(5):
            body = form_body("icosphere", radius=1.0, edge=ARC / 2**n)
            self.assertEqual((body.vertices.count, body.corners.count), (10 * 4**n + 2, 20 * 4**n))

    def test_counts_shown_before_building_are_what_is_built(self) -> None:
        for name, form in FORMS.items():
            for edge in (0.31, 0.5, 1.7, 40.0):
                values = complete(form.settings, {**FORM_VALUES[name], "edge": edge}, name)
                shape, counts = form.build(values), form.count(values)
                self.assertEqual(
                    (counts.vertices, counts.triangles), (shape.position.shape[0], shape.triangles.shape[0])
                )
                self.assertEqual(counts.vertices, np.unique(shape.triangles).size)

    def test_euler_characteristic(self) -> None:
        # V - E + F: 2 for a sphere, 1 for a disc (Euler)
        for name in FORMS:
            m = measure(form_body(name))
            closed = name not in ("sheet", "disc")
            self.assertEqual(m.vertices - m.edges + m.triangles, 2 if closed else 1, name)
            self.assertEqual((m.genus, m.parts, m.border_loops), (0, 1, 0 if closed else 1), name)

    def test_area_and_volume(self) -> None:
        # closed formulas; curved forms are inscribed, so they come from below
        sphere = measure(form_body("icosphere", radius=3.0, edge=0.1))
        assert sphere.volume is not None
        self.assertAlmostEqual(sphere.area / (4 * math.pi * 9), 1, delta=1e-3)
        self.assertAlmostEqual(sphere.volume / (4 / 3 * math.pi * 27), 1, delta=2e-3)
        self.assertLess(sphere.volume, 4 / 3 * math.pi * 27)
        box_sphere = measure(form_body("box_sphere", radius=3.0, edge=0.1))
        self.assertAlmostEqual((box_sphere.volume or 0) / (4 / 3 * math.pi * 27), 1, delta=2e-3)
        column = measure(form_body("column", radius=2.0, height=5.0, edge=0.1))
        self.assertAlmostEqual((column.volume or 0) / (math.pi * 4 * 5), 1, delta=1e-3)
        self.assertAlmostEqual(column.area / (2 * math.pi * 2 * 5 + 2 * math.pi * 4), 1, delta=1e-3)
        block = measure(form_body("block", size=2.0, height=3.0, depth=4.0, edge=0.25))
        self.assertAlmostEqual(block.volume or 0, 24.0, places=5)
        self.assertAlmostEqual(block.area, 52.0, places=5)
        disc = measure(form_body("disc", radius=2.0, edge=0.05))
        self.assertAlmostEqual(disc.area / (4 * math.pi), 1, delta=1e-3)

    def test_edges_come_out_near_the_wanted_length(self) -> None:
        for name in FORMS:
            values = {**FORM_VALUES[name], "edge": 0.1}
            mean = measure(form_body(name, **values)).edge_mean
            self.assertAlmostEqual(mean, 0.1, delta=0.02, msg=name)  # diagonals of grids count as well

    def test_a_square_split_four_times(self) -> None:
        # a square of two triangles split in four, four times, has 512 faces (common practice, no source)
        history = History(Project())
        history.do(AddBody("sheet", {"size": 1.0, "depth": 1.0, "edge": 1.0}, "Square"))
        body = history.project.bodies[0]
        self.assertEqual(body.corners.count, 2)
        for _ in range(4):
            history.do(Subdivide("Square"))
        self.assertEqual(body.corners.count, 512)
        self.assertAlmostEqual(measure(body).area, 1.0, places=6)

    def test_customary_sheets(self) -> None:
        # a sheet of 32 x 32 quads is the customary 1024-face start (common practice, no source)
        form = FORMS["sheet"]
        counts = form.count(complete(form.settings, {"size": 32.0, "depth": 32.0, "edge": 1.0}, "sheet"))
        self.assertEqual((counts.quads, counts.triangles, counts.vertices), (1024, 2048, 33 * 33))
        # 100 m by 100 m at 1 m a point (common practice, no source)
        body = form_body("sheet", size=100.0, depth=100.0, edge=1.0)
        position = body.vertices["position"]
        self.assertEqual(body.vertices.count, 101 * 101)
        np.testing.assert_allclose(np.unique(position[:, 0]), np.arange(-50, 51))
        np.testing.assert_allclose(np.unique(position[:, 2]), np.arange(-50, 51))

    def test_torus_has_genus_one(self) -> None:
        # V - E + F = 0 for a torus (Euler-Poincaré)
        n, m = 24, 12
        u, v = np.meshgrid(np.arange(n), np.arange(m), indexing="ij")
        a, b = 2 * np.pi * u / n, 2 * np.pi * v / m
        position = np.stack(((3 + np.cos(b)) * np.cos(a), np.sin(b), (3 + np.cos(b)) * np.sin(a)), -1).reshape(-1, 3)
        here, right = u * m + v, (u + 1) % n * m + v
        up, far = u * m + (v + 1) % m, (u + 1) % n * m + (v + 1) % m
        triangles = np.concatenate([np.stack(t, -1).reshape(-1, 3) for t in ((here, up, right), (right, up, far))])
        figures = measure(Body.from_shape("torus", Shape(position.astype(np.float32), triangles.astype(np.int32))))
        self.assertEqual((figures.genus, figures.parts, figures.closed), (1, 1, True))
        self.assertAlmostEqual((figures.volume or 0) / (2 * math.pi**2 * 3), 1, delta=0.07)


if __name__ == "__main__":
    unittest.main()
