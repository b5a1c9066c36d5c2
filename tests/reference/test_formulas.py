"""Coats, normals, smoothing and colour against standards, formulas and general-purpose libraries."""

import unittest

import numpy as np
import scipy.sparse as sp
import trimesh

from hulmo.core.colour import linear_to_srgb, srgb_to_linear
from hulmo.core.commands import Fill
from hulmo.core.mesh.body import Body
from hulmo.core.sculpt.brushes import smooth
from tests.bodies import FORM_VALUES, dab_of, form_body, project_with, random_surface, stroke

ABOVE = (0.0, 9.0, 0.0, 0.0, -1.0, 0.0)


class TradeTest(unittest.TestCase):
    def test_two_coats_of_ten_percent_are_twenty(self) -> None:
        # common practice, no source
        history = project_with("sheet", size=10.0, depth=10.0, edge=0.25)
        history.do(Fill("Body", "Bleached ledge"))
        coat = stroke("lay", ABOVE, ground="Shell sand", radius=2.0, strength=10.0, falloff="flat")
        history.do(coat)
        history.do(coat)
        body = history.project.bodies[0]
        inside = np.linalg.norm(body.vertices["position"], axis=1) < 1.9
        np.testing.assert_allclose(body.vertices["weight"][inside, 3], 0.2, atol=1e-6)
        np.testing.assert_allclose(body.vertices["weight"][inside, 0], 0.8, atol=1e-6)

    def test_a_single_coat_never_exceeds_its_height(self) -> None:
        # common practice, no source
        history = project_with("sheet", size=10.0, depth=10.0, edge=0.25)
        circle = [(2 * np.cos(a), 9.0, 2 * np.sin(a), 0.0, -1.0, 0.0) for a in np.arange(0, 20, 0.2)]
        history.do(stroke("raise", *circle, radius=1.5, height=0.7, strength=100.0, direction="up"))
        self.assertLessEqual(float(history.project.bodies[0].vertices["position"][:, 1].max()), 0.7 + 1e-6)


class NormalTest(unittest.TestCase):
    def test_vertex_normals_against_a_mesh_library(self) -> None:
        # trimesh: mean of face normals weighted by face area
        for body in (*(form_body(name) for name in FORM_VALUES), random_surface(3)):
            mesh = trimesh.Trimesh(body.vertices["position"], body.corners.triangles, process=False)
            expected = trimesh.geometry.mean_vertex_normals(
                body.vertices.count, mesh.faces, mesh.face_normals * mesh.area_faces[:, None]
            )
            np.testing.assert_allclose(body.vertices["normal"], expected, atol=2e-5)

    def test_areas_and_volume_against_a_mesh_library(self) -> None:
        from hulmo.core.mesh.measure import measure

        body = form_body("column")
        mesh = trimesh.Trimesh(body.vertices["position"], body.corners.triangles, process=False)
        figures = measure(body)
        self.assertAlmostEqual(figures.area, float(mesh.area), places=3)
        self.assertAlmostEqual(figures.volume or 0, float(mesh.volume), places=3)
        self.assertEqual((figures.closed, figures.genus), (mesh.is_watertight, 1 - mesh.euler_number // 2))


class SmoothTest(unittest.TestCase):
    def test_against_the_sparse_matrix_operator(self) -> None:
        # p + a (D^-1 A - I) p, Taubin 1995, with A the adjacency matrix as a SciPy sparse matrix
        body = form_body("icosphere", radius=4.0, edge=0.4)
        rng = np.random.default_rng(2)
        position = body.vertices["position"]
        position += rng.normal(0, 0.1, position.shape).astype(np.float32)
        triangles = body.corners.triangles
        start, end = triangles.reshape(-1), np.roll(triangles, -1, 1).reshape(-1)
        adjacency = sp.coo_array((np.ones(start.size), (start, end)), (body.vertices.count,) * 2).tocsr()
        adjacency = ((adjacency + adjacency.T) > 0).astype(float)
        mean = sp.diags_array(1 / np.asarray(adjacency.sum(axis=1))) @ adjacency
        rows = np.arange(body.vertices.count, dtype=np.int32)
        amount = rng.uniform(0, 1, rows.size).astype(np.float32)
        expected, before = position.astype(float), position.copy()
        for passes in (1, 2, 3):
            expected = expected + amount[:, None] * (mean @ expected - expected)
            got = smooth.apply(dab_of(body, rows, amount, passes=float(passes), kind="strong"))
            np.testing.assert_allclose(got, expected, atol=1e-5)
            np.testing.assert_array_equal(position, before)


class TaubinTest(unittest.TestCase):
    """Taubin, "A signal processing approach to fair surface design" (SIGGRAPH 1995), section 3."""

    def smoothed(self, body: Body, kind: str, passes: int, strength: float = 1.0) -> np.ndarray:
        rows = np.arange(body.vertices.count, dtype=np.int32)
        amount = np.full(rows.size, strength, np.float32)
        return smooth.apply(dab_of(body, rows, amount, passes=float(passes), kind=kind))

    def test_it_keeps_the_volume_that_plain_smoothing_loses(self) -> None:
        body = form_body("icosphere", radius=4.0, edge=0.4)
        plain, gentle = self.smoothed(body, "strong", 40), self.smoothed(body, "gentle", 40)
        volume = {
            name: trimesh.Trimesh(p, body.corners.triangles, process=False).volume
            for name, p in (("plain", plain), ("gentle", gentle), ("first", body.vertices["position"]))
        }
        self.assertLess(volume["plain"] / volume["first"], 0.8)
        self.assertAlmostEqual(volume["gentle"] / volume["first"], 1.0, delta=0.02)

    def test_its_transfer_function(self) -> None:
        # eigenvectors of the umbrella operator come back scaled by f(k) = ((1 - l k)(1 - m k))^passes
        body = form_body("icosphere", radius=4.0, edge=0.5)
        triangles = body.corners.triangles
        start, end = triangles.reshape(-1), np.roll(triangles, -1, 1).reshape(-1)
        adjacency = sp.coo_array((np.ones(start.size), (start, end)), (body.vertices.count,) * 2).tocsr()
        adjacency = ((adjacency + adjacency.T) > 0).astype(float)
        degree = np.asarray(adjacency.sum(axis=1)).reshape(-1)
        # eigenvectors of the symmetric twin of D^-1 A give those of the umbrella operator
        half = sp.diags_array(1 / np.sqrt(degree))
        values, vectors = np.linalg.eigh((half @ adjacency @ half).toarray())
        forth = 0.6 * 0.5
        back = -forth / (1 - 0.05 * forth)
        for pick in (0, len(values) // 2, len(values) - 10):
            wave = vectors[:, pick] / np.sqrt(degree)
            frequency = 1 - values[pick]
            position = body.vertices["position"]
            position[:] = 0
            position[:, 1] = wave / np.abs(wave).max()
            before = position[:, 1].astype(float)
            got = self.smoothed(body, "gentle", 5, 0.5)[:, 1]
            factor = ((1 - forth * frequency) * (1 - back * frequency)) ** 5
            np.testing.assert_allclose(got, factor * before, atol=2e-5)


class ColourTest(unittest.TestCase):
    def test_srgb_transfer_function(self) -> None:
        # IEC 61966-2-1:1999: 12.92 below 0.0031308, 1.055 x^(1/2.4) - 0.055 above; both pieces meet there
        self.assertAlmostEqual(float(linear_to_srgb(0.0031308)), 0.04045, places=5)
        self.assertAlmostEqual(float(linear_to_srgb(0.002)), 0.02584, places=6)
        self.assertAlmostEqual(float(srgb_to_linear(0.5)), ((0.5 + 0.055) / 1.055) ** 2.4, places=12)
        # mid grey: linear 0.18 is sRGB 118 of 255; sRGB 188 is half the light (values from memory)
        self.assertEqual(round(255 * float(linear_to_srgb(0.18))), 118)
        self.assertEqual(round(255 * float(linear_to_srgb(0.5))), 188)
        steps = np.arange(256) / 255
        np.testing.assert_allclose(linear_to_srgb(srgb_to_linear(steps)), steps, atol=1e-7)


if __name__ == "__main__":
    unittest.main()
