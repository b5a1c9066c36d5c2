"""Sculpting against published formulas, tables and general-purpose libraries."""

import json
import math
import pathlib
import tempfile
import unittest

import numpy as np
from PIL import Image
from scipy.interpolate import PchipInterpolator
from scipy.stats import kstest

from hulmo.cli import main
from hulmo.core.commands import AddBody, LayRelief, Stroke
from hulmo.core.curve import STEPS, curve_table
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.curvature import curvature
from hulmo.core.mesh.measure import measure
from hulmo.core.noise import KINDS, coherent
from hulmo.core.project import Project
from tests.bodies import form_body, project_with, random_surface, stroke


def face_slopes(body: Body) -> np.ndarray:
    """Degrees between each triangle and the horizontal."""
    position = body.vertices["position"].astype(np.float64)
    a, b, c = (position[body.corners.live_triangles()[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    return np.degrees(np.arccos(normal[:, 1] / np.linalg.norm(normal, axis=1)))


def volume_under(body: Body) -> float:
    """Cubic metres between an open sheet with its rim at zero and the zero plane."""
    position = body.vertices["position"].astype(np.float64)
    a, b, c = (position[body.corners.live_triangles()[:, i]] for i in range(3))
    return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6)


class ReposeTest(unittest.TestCase):
    """Angles of repose, value from memory (tables of soil mechanics and of bulk handling): dry sand about 34 degrees,
    angular scree about 37 to 40.
    """

    def test_after_slump_nothing_is_steeper_and_volume_is_kept(self) -> None:
        for angle in (34.0, 38.5):
            history = project_with("sheet", size=16.0, depth=16.0, edge=0.25)
            history.do(stroke("raise", (0.0, 9, 0, 0, -1, 0), radius=4.0, height=6.0, strength=100.0, direction="up"))
            history.do(LayRelief("Body", "noise", {"size": 2.0, "height": 0.4, "height_low": 0.5, "soft": 5.0}))
            body = history.project.bodies[0]
            before = volume_under(body)
            self.assertGreater(float(face_slopes(body).max()), 60)
            history.do(LayRelief("Body", "slump", {"angle": angle, "passes": 2000}))
            self.assertLess(float(face_slopes(body).max()), angle + 1)
            self.assertAlmostEqual(volume_under(body) / before, 1.0, delta=0.01)

    def test_the_brush_settles_a_heap_and_keeps_its_volume(self) -> None:
        history = project_with("sheet", size=16.0, depth=16.0, edge=0.25)
        history.do(stroke("raise", (0.0, 9, 0, 0, -1, 0), radius=3.0, height=3.5, strength=100.0, direction="up"))
        body = history.project.bodies[0]
        before, steep = volume_under(body), float((face_slopes(body) > 36).mean())
        rub = tuple(
            (3 * math.cos(a * 0.7) * (a % 5) / 5, 9.0, 3 * math.sin(a * 0.7) * (a % 5) / 5, 0, -1, 0)
            for a in range(300)
        )
        history.do(Stroke("Body", "slump", rub, {"radius": 6.0, "core": 80.0}))
        self.assertLess(float((face_slopes(body) > 36).mean()), 0.1 * steep)
        self.assertAlmostEqual(volume_under(body) / before, 1.0, delta=0.01)

    def test_closed_bodies_with_overhangs_keep_their_volume(self) -> None:
        for form in ("column", "icosphere", "block"):
            history = project_with(form)
            history.do(LayRelief("Body", "noise", {"size": 2.0, "height": 0.4}))
            body = history.project.bodies[0]
            before = measure(body).volume
            history.do(LayRelief("Body", "slump", {"angle": 40.0}))
            after = measure(body).volume
            assert before is not None and after is not None
            self.assertAlmostEqual(after / before, 1.0, delta=0.01, msg=form)
            self.assertGreater(np.abs(body.vertices["relief_2"]).max(), 0.05)


class CurvatureTest(unittest.TestCase):
    """Meyer, Desbrun, Schroeder and Barr, "Discrete differential-geometry operators for triangulated 2-manifolds" (2003)."""

    def all_of(self, body: Body) -> tuple[np.ndarray, np.ndarray]:
        rows = np.arange(body.vertices.count, dtype=np.int32)
        return curvature(body.vertices["position"], body.vertices["normal"], body.corners, rows)

    def test_a_sphere_has_one_over_its_radius(self) -> None:
        for radius in (0.5, 5.0, 80.0):
            mean, gauss = self.all_of(form_body("icosphere", radius=radius, edge=radius * 0.06))
            np.testing.assert_allclose(mean, 1 / radius, rtol=0.02)
            np.testing.assert_allclose(gauss, 1 / radius**2, rtol=0.06)

    def test_hollows_are_negative_and_a_cylinder_has_half(self) -> None:
        body = form_body("sheet", size=8.0, depth=8.0, edge=0.1)
        position = body.vertices["position"]
        x = position[:, 0].copy()
        inner = (np.abs(x) < 2.5) & (np.abs(position[:, 2]) < 3.5)
        position[:, 1] = -np.sqrt(16 - np.clip(x, -3.5, 3.5) ** 2)  # a gutter of radius 4
        body.replaced()
        mean, gauss = self.all_of(body)
        np.testing.assert_allclose(mean[inner], -1 / 8, rtol=0.03)
        np.testing.assert_allclose(gauss[inner], 0, atol=2e-3)

    def test_gauss_bonnet(self) -> None:
        # the integral of Gaussian curvature over a closed surface is 2 pi times its Euler characteristic
        history = project_with("icosphere", radius=4.0, edge=0.3)
        history.do(LayRelief("Body", "noise", {"size": 2.0, "height": 0.8}))
        body = history.project.bodies[0]
        _, gauss = self.all_of(body)
        self.assertAlmostEqual(float((gauss.astype(np.float64) * mixed_areas(body)).sum()), 4 * math.pi, delta=1e-3)


def mixed_areas(body: Body) -> np.ndarray:
    """Mixed Voronoi areas by Meyer et al., figure 4, one triangle at a time."""
    position = body.vertices["position"].astype(np.float64)
    area = np.zeros(position.shape[0])
    for triangle in body.corners.live_triangles():
        p = position[triangle]
        whole = np.linalg.norm(np.cross(p[1] - p[0], p[2] - p[0])) / 2
        angles = []
        for i in range(3):
            u, v = p[(i + 1) % 3] - p[i], p[(i + 2) % 3] - p[i]
            angles.append(math.acos(u @ v / np.linalg.norm(u) / np.linalg.norm(v)))
        for i in range(3):
            j, k = (i + 1) % 3, (i + 2) % 3
            if max(angles) <= math.pi / 2:
                share = (((p[k] - p[i]) @ (p[k] - p[i])) / math.tan(angles[j])
                         + ((p[j] - p[i]) @ (p[j] - p[i])) / math.tan(angles[k])) / 8  # fmt: skip
            else:
                share = whole / 2 if angles[i] > math.pi / 2 else whole / 4
            area[triangle[i]] += share
    return area


class CurveTest(unittest.TestCase):
    def test_against_the_library_of_the_same_method(self) -> None:
        # SciPy's PchipInterpolator is monotone cubic too, with other end slopes: inside the curves agree
        points = ((0.0, 1.0), (0.2, 0.95), (0.4, 0.5), (0.7, 0.2), (0.85, 0.05), (1.0, 0.0))
        x, y = np.array(points).T
        at = np.linspace(0, 1, STEPS)
        inner = (at >= 0.2) & (at <= 0.85)
        np.testing.assert_allclose(curve_table(points)[inner], PchipInterpolator(x, y)(at)[inner], atol=1e-12)
        self.assertTrue((np.diff(curve_table(points)) <= 1e-12).all(), "a curve through falling points only falls")


class NoiseTest(unittest.TestCase):
    def test_statistics_and_continuity(self) -> None:
        rng = np.random.default_rng(7)
        points = rng.uniform(-200, 200, (60_000, 3)).astype(np.float32)
        for kind, _, _ in KINDS:
            values = coherent(points, kind, 4.0, 5, 11)
            self.assertLessEqual(float(np.abs(values).max()), 1.35, kind)
            self.assertGreater(float(values.std()), 0.12, kind)
            near = coherent(points + np.float32(0.004), kind, 4.0, 5, 11)
            self.assertLess(float(np.abs(near - values).max()), 0.25, kind)
            if kind == "fbm":
                self.assertAlmostEqual(float(values.mean()), 0.0, delta=0.02)
                # two halves of space have the same distribution (Kolmogorov-Smirnov, at 0.1 %)
                left, right = values[points[:, 0] < 0], values[points[:, 0] >= 0]
                self.assertGreater(kstest(left[::20], right[::20]).pvalue, 0.001)
            far = coherent(points, kind, 4.0, 5, 12)
            self.assertLess(abs(float(np.corrcoef(values, far)[0, 1])), 0.2, "another seed is another pattern")
        warped = coherent(points, "fbm", 4.0, 5, 11, warp=0.8)
        self.assertLess(float(np.corrcoef(warped, coherent(points, "fbm", 4.0, 5, 11))[0, 1]), 0.9)

    def test_the_size_of_bumps_is_where_power_lies(self) -> None:
        # one octave along a line: the spectrum peaks near one bump in each length of that size
        line = np.zeros((8192, 3), np.float32)
        line[:, 0] = np.arange(8192) * 0.25
        for size in (4.0, 16.0):
            power = np.abs(np.fft.rfft(coherent(line, "fbm", size, 1, 3))) ** 2
            frequency = np.fft.rfftfreq(8192, 0.25)
            middle = float((power * frequency).sum() / power.sum())
            self.assertTrue(0.4 / size < middle < 1.6 / size, f"{size}: {1 / middle}")


class DisplacementTest(unittest.TestCase):
    """Common practice, no source: black is flat, white is full height; an offset of 0.11 on a one-unit sheet gives relief
    of 0.11 units.
    """

    def test_black_flat_white_full_and_an_offset(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            halves = np.zeros((64, 64), np.uint16)
            halves[:, 32:] = 65535
            for name, value in (("black", 0), ("white", 65535)):
                Image.fromarray(np.full((8, 8), value, np.uint16)).save(f"{folder}/{name}.png")
            Image.fromarray(halves).save(f"{folder}/halves.png")
            for name, height, low, high in (
                ("black", 0.11, 0.0, 0.0), ("white", 0.11, 0.11, 0.11), ("halves", 0.11, 0.0, 0.11),
                ("white", -3.0, -3.0, -3.0),
            ):  # fmt: skip
                history = project_with("sheet", size=1.0, depth=1.0, edge=0.02)
                given = {"image": f"{folder}/{name}.png", "height": height, "mapping": "above_once"}
                history.do(LayRelief("Body", "image", given))
                laid = history.project.bodies[0].vertices["position"][:, 1]
                self.assertAlmostEqual(float(laid.min()), low, places=6)
                self.assertAlmostEqual(float(laid.max()), high, places=6)


class FormFirstTest(unittest.TestCase):
    """Common practice, no source: work the form first, then detail, and smoothing the form keeps the detail."""

    def test_fine_relief_outlives_smoothing_of_the_form(self) -> None:
        over = [[x, 20.0, z, 0, -1, 0] for x in range(-12, 13, 4) for z in range(-12, 13, 4)]
        recipe = [
            {"do": "add_body", "form": "sheet", "name": "Land", "settings": {"size": 32.0, "depth": 32.0, "edge": 1.0}},
            {"do": "subdivide", "body": "Land"}, {"do": "subdivide", "body": "Land"},
            {"do": "stroke", "body": "Land", "brush": "raise", "samples": [[0, 20, 0, 0, -1, 0], [6, 20, 4, 0, -1, 0]],
             "settings": {"radius": 10.0, "height": 5.0, "strength": 100.0, "direction": "up"}},
            {"do": "lay_relief", "body": "Land", "relief": "noise", "layer": "Fine",
             "settings": {"size": 1.5, "height": 0.25, "along": "up"}},
            {"do": "stroke", "body": "Land", "brush": "smooth", "samples": over,
             "settings": {"radius": 6.0, "strength": 100.0}},
        ]  # fmt: skip
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            for count, file in ((5, "before"), (6, "after")):
                (folder / f"{file}.json").write_text(json.dumps(recipe[:count]))
                self.assertEqual(main(["run", str(folder / f"{file}.json"), "-o", str(folder / f"{file}.hulmo")]), 0)
            before, after = (open_project(folder / f"{file}.hulmo").bodies[0].vertices for file in ("before", "after"))
        self.assertGreater(float(np.abs(before["rest"] - after["rest"]).max()), 0.05, "the form was smoothed")

        def fine(table: object) -> float:
            height = table["position"][:, 1].astype(float) - table["rest"][:, 1]  # type: ignore[index]
            return float(np.sqrt(np.mean(height**2)))

        self.assertAlmostEqual(fine(after) / fine(before), 1.0, delta=0.02)

    def test_a_single_coat_never_exceeds_its_height_on_a_layer_either(self) -> None:
        history = History(Project())
        history.do(AddBody("sheet", {"size": 8.0, "depth": 8.0, "edge": 0.1}, "Body"))
        history.do(LayRelief("Body", "jitter", {"height": 0.01}, "Grain"))
        loop = [(2 * math.sin(3 * a), 9.0, 2 * math.sin(2 * a), 0, -1, 0) for a in np.arange(0, 6.3, 0.02)]
        before = history.project.bodies[0].vertices["position"].copy()
        history.do(Stroke("Body", "raise", tuple(loop), {"strength": 100.0, "height": 0.3, "radius": 0.8, "direction": "up"},
                          layer="Grain"))  # fmt: skip
        rise = (history.project.bodies[0].vertices["position"] - before)[:, 1]
        self.assertLessEqual(float(rise.max()), 0.3 + 1e-5)
        self.assertGreater(float(rise.max()), 0.29)


class BorderCurvatureTest(unittest.TestCase):
    def test_borders_and_odd_meshes_give_finite_numbers(self) -> None:
        body = random_surface(3)
        rows = np.arange(body.vertices.count, dtype=np.int32)
        mean, gauss = curvature(body.vertices["position"], body.vertices["normal"], body.corners, rows)
        self.assertTrue(np.isfinite(mean).all() and np.isfinite(gauss).all())
        edge = np.array([body.corners.is_border(row) for row in range(body.vertices.count)])
        np.testing.assert_array_equal(mean[edge], 0)


if __name__ == "__main__":
    unittest.main()
