"""Waters against closed forms, and what they keep to."""

import math
import pathlib
import tempfile
import unittest

import numpy as np

from hulmo.core.commands import (
    AddBody,
    AddWater,
    ChangeObject,
    PlaceBody,
    RemoveBody,
    RemoveObject,
    SetDown,
    SetRules,
    Stroke,
)
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.measures import MEASURES, Asked
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.flood import flood
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.project import Project
from hulmo.core.setting import complete
from hulmo.core.water.surface import poured, water_surface


def land(height, size: float = 20.0, edge: float = 0.1) -> Body:
    count = round(size / edge)
    line = np.linspace(-size / 2, size / 2, count + 1)
    x, z = np.meshgrid(line, line)
    position = np.stack((x.ravel(), height(x, z).ravel(), z.ravel()), axis=1).astype(np.float32)
    at = (np.arange(count)[:, None] * (count + 1) + np.arange(count)).reshape(-1)
    one = np.stack((at, at + count + 1, at + 1), axis=1)
    two = np.stack((at + 1, at + count + 1, at + count + 2), axis=1)
    vertices = VertexTable(len(position))
    vertices.set_column("position", position)
    return Body(
        "Land", vertices, CornerTable.from_triangles(np.concatenate((one, two)).astype(np.int32), len(position)), 1
    )


def with_water(body: Body, kind: str, at: tuple[float, float, float], level: float | None) -> History:
    history = History(Project())
    history.project.bodies = (body,)
    history.do(AddWater(kind, at, body.name if kind == "pond" else "", level))
    return history


def surface(history: History):
    project = history.project
    return water_surface(project.bodies, project.objects, project.objects[-1])


class PondTest(unittest.TestCase):
    """Volumes and areas of cone and spherical cap (Euclid's and Archimedes'; any table of formulas)."""

    def test_a_conical_hollow(self) -> None:
        body = land(lambda x, z: np.minimum(np.hypot(x, z) - 5.0, 0.0))
        found = surface(with_water(body, "pond", (0.5, -4.0, 0.2), -1.0))
        self.assertAlmostEqual(found.area / (math.pi * 16), 1.0, delta=0.002)
        self.assertAlmostEqual(found.volume / (math.pi * 16 * 4 / 3), 1.0, delta=0.005)
        self.assertAlmostEqual(found.shore_length / (8 * math.pi), 1.0, delta=0.002)
        self.assertAlmostEqual(found.deepest, 4.0, delta=0.01)
        self.assertFalse(found.runs_out)

    def test_a_spherical_hollow(self) -> None:
        body = land(lambda x, z: -np.sqrt(np.maximum(25.0 - x * x - z * z, 0.0)))
        found = surface(with_water(body, "pond", (0.5, -4.0, 0.2), -1.0))
        self.assertAlmostEqual(found.area / (math.pi * 24), 1.0, delta=0.005)
        self.assertAlmostEqual(found.volume / (math.pi * 16 * (15 - 4) / 3), 1.0, delta=0.006)

    def test_depth_and_shore_at_the_vertices(self) -> None:
        body = land(lambda x, z: np.minimum(np.hypot(x, z) - 5.0, 0.0))
        found = surface(with_water(body, "pond", (0.5, -4.0, 0.2), -1.0))
        away = np.hypot(found.position[:, 0], found.position[:, 2])
        wet = found.shore >= 0
        np.testing.assert_allclose(found.depth[wet], np.maximum(4.0 - away[wet], 0), atol=0.03)
        np.testing.assert_allclose(found.shore, 4.0 - away, atol=0.03)
        self.assertLess(found.shore.min(), 0)  # the margin
        np.testing.assert_allclose(found.position[:, 1], -1.0, atol=1e-5)

    def test_two_hollows_spill_over_the_saddle_between_them(self) -> None:
        def height(x, z):
            return np.minimum(np.minimum(np.hypot(x + 3, z) - 3.0, 1.2 * np.hypot(x - 3, z) - 4.5), 0.0)

        body = land(height)
        pool = poured(body, np.array([-3.0, -3.0, 0.0]))
        line = np.linspace(-3, 3, 4001)
        saddle = float(height(line, 0 * line).max())  # the least of all ways between them leads along x
        self.assertAlmostEqual(pool.spill.height, saddle, delta=0.06)
        self.assertLess(abs(pool.spill.at[0] - line[np.argmax(height(line, 0 * line))]), 0.15)
        both = poured(body, np.array([-3.0, -3.0, 0.0]), saddle + 0.2)
        self.assertFalse(both.runs_out)
        places = body.vertices["position"][both.covered.rows]
        self.assertLess(places[:, 0].min(), -3)
        self.assertGreater(places[:, 0].max(), 3)

    def test_it_says_where_it_runs_out(self) -> None:
        body = land(lambda x, z: np.minimum(np.hypot(x, z) - 5.0, 0.0))
        history = with_water(body, "pond", (0.0, -5.0, 0.0), 3.0)
        found = surface(history)
        self.assertTrue(found.runs_out)
        self.assertAlmostEqual(found.level, 0.0, delta=0.01)
        self.assertAlmostEqual(found.spill.height, 0.0, delta=1e-6)
        with self.assertRaisesRegex(InvalidInput, "no water stays"):
            with_water(land(lambda x, z: x), "pond", (0.0, 0.0, 0.0), None)

    def test_a_crater_of_a_closed_island_holds_to_its_rim(self) -> None:
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.15}, "Rock"))
        body = history.project.bodies[0]
        stroke = Stroke("Rock", "raise", ((0.0, 5.0, 0.0),), {"radius": 2.5, "strength": 100.0}, invert=True)
        history.do(stroke), history.do(stroke)
        top = body.nearest(np.array([0.0, 5.0, 0.0]))
        history.do(AddWater("pond", tuple(float(v) for v in top.position), "Rock"))
        found = surface(history)
        self.assertLess(np.hypot(found.position[:, 0], found.position[:, 2]).max(), 3.0)
        level = found.level
        history.do(ChangeObject("Pond", values={"level": level + 2.0}))
        self.assertTrue(surface(history).runs_out)  # over the rim, where no border says so
        self.assertLess(surface(history).level, level + 0.5)


class LevelWaterTest(unittest.TestCase):
    def test_an_island_takes_its_disc_out_of_the_sea(self) -> None:
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.2}, "Island"))
        history.do(AddWater("level_water", level=3.0, values={"size": 30.0}))
        found = surface(history)
        self.assertAlmostEqual((900.0 - found.area) / (math.pi * 16), 1.0, delta=0.01)
        self.assertAlmostEqual(found.shore_length / (8 * math.pi), 1.0, delta=0.01)

    def test_around_a_moon(self) -> None:
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.3}, "Moon"))
        history.do(SetDown("Moon", "centre"))
        history.do(PlaceBody("Moon", scale=(1.0, 0.8, 1.0)))
        sea = history.project.bodies[0].down.sea
        history.do(AddWater("level_water", body="Moon", level=4.5 - sea))
        found = surface(history)
        np.testing.assert_allclose(np.linalg.norm(found.position, axis=1), 4.5, atol=1e-4)
        # an ellipsoid of half axes 5, 4, 5: r = 4.5 where sin^2(latitude) = (1/4.5^2 - 1/25) / (1/16 - 1/25)
        high = math.sqrt((1 / 4.5**2 - 1 / 25) / (1 / 16 - 1 / 25))
        self.assertAlmostEqual(found.area / (2 * 2 * math.pi * 4.5**2 * (1 - high)), 1.0, delta=0.02)

    def test_what_lies_under_the_surface_is_no_water_and_stones_stick_out(self) -> None:
        body = land(lambda x, z: -2.0 + 0 * x, 10.0, 0.5)
        history = with_water(body, "level_water", (0.0, 0.0, 0.0), 0.0)
        history.do(ChangeObject("Level water", values={"size": 10.0}))
        plain = surface(history).area
        history.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.1}, "Stone"))
        self.assertAlmostEqual(plain - surface(history).area, math.pi, delta=0.05)
        self.assertAlmostEqual(surface(history).deepest, 2.0, delta=1e-4)


class MeasureTest(unittest.TestCase):
    def test_depth_and_distance_on_a_slope(self) -> None:
        body = land(lambda x, z: 0.5 * x, 20.0, 0.25)
        with_water(body, "level_water", (0.0, 0.0, 0.0), 1.0)
        rows = np.arange(body.vertices.count, dtype=np.int32)
        depth = MEASURES["under_water"].of(Asked(body, rows, complete(MEASURES["under_water"].settings, {}, "test")))
        np.testing.assert_allclose(depth, 1.0 - body.vertices["position"][:, 1], atol=1e-5)
        away = MEASURES["waterline"].of(Asked(body, rows, complete(MEASURES["waterline"].settings, {}, "test")))
        wanted = (body.vertices["position"][:, 0] - 2.0) * math.hypot(1.0, 0.5)
        inner = np.abs(body.vertices["position"][:, 2]) < 5
        np.testing.assert_allclose(away[inner], wanted[inner], atol=0.05)

    def test_rules_follow_waters_and_undo_gives_all_back(self) -> None:
        body = land(lambda x, z: 0.5 * x, 20.0, 0.5)
        history = with_water(body, "level_water", (0.0, 0.0, 0.0), 1.0)
        ground = history.project.ground_names[3]
        history.do(SetRules("Land", (Rule(ground, (Condition("under_water", {}, 0.0),)),)))
        high = body.vertices["position"][:, 1]
        np.testing.assert_array_equal(body.vertices[WEIGHT][:, 3] > 0.5, high <= 1.0)
        before = body.vertices[WEIGHT].copy()
        history.do(ChangeObject("Level water", values={"level": -1.0}))
        np.testing.assert_array_equal(body.vertices[WEIGHT][:, 3] > 0.5, high <= -1.0)
        history.do(RemoveObject("Level water"))
        self.assertEqual(body.vertices[WEIGHT][:, 3].max(), 0.0)
        history.undo(), history.undo()
        np.testing.assert_array_equal(body.vertices[WEIGHT], before)

    def test_a_hollow_beside_the_pond_is_dry(self) -> None:
        body = land(lambda x, z: np.minimum(np.minimum(np.hypot(x + 5, z), np.hypot(x - 5, z)) - 3.0, 0.0))
        with_water(body, "pond", (-5.0, -3.0, 0.0), -1.0)
        rows = np.arange(body.vertices.count, dtype=np.int32)
        depth = MEASURES["under_water"].of(Asked(body, rows, complete(MEASURES["under_water"].settings, {}, "test")))
        wet = body.vertices["position"][depth > 0]
        self.assertGreater(len(wet), 100)
        self.assertLess(wet[:, 0].max(), 0.0)


class KeepingTest(unittest.TestCase):
    def test_files_and_bodies_that_go(self) -> None:
        body = land(lambda x, z: np.minimum(np.hypot(x, z) - 5.0, 0.0), 20.0, 0.5)
        history = with_water(body, "pond", (0.0, -5.0, 0.0), -1.0)
        with tempfile.TemporaryDirectory() as folder:
            file = pathlib.Path(folder) / "a.hulmo"
            save_project(history.project, file)
            opened = open_project(file)
        self.assertEqual(opened.objects, history.project.objects)
        self.assertEqual(opened.bodies[0].waters, body.waters)
        history.do(RemoveBody("Land"))
        with self.assertRaisesRegex(InvalidInput, "gone"):
            surface(history)
        history.undo()
        self.assertGreater(surface(history).area, 0)

    def test_nonsense_is_refused(self) -> None:
        history = History(Project())
        history.do(AddBody("sheet", {"size": 10.0, "depth": 10.0, "edge": 1.0}, "Land"))
        for command, words in (
            (AddWater("river"), "kind is"),
            (AddWater("pond"), "no body"),
            (AddWater("pond", (0.0, 0.0, 0.0), "Land"), "no water stays"),
            (AddWater("level_water", (math.nan, 0.0, 0.0)), "place"),
            (AddWater("level_water", level=math.inf), "level"),
            (AddWater("level_water", values={"size": 0.0}), "size"),
            (AddWater("level_water", values={"depth": 1.0}), "no setting"),
        ):
            with self.subTest(command=command), self.assertRaisesRegex(InvalidInput, words):
                history.do(command)
        self.assertEqual(history.project.objects, ())

    def test_the_flood_covers_what_lies_below_and_hangs_together(self) -> None:
        rng = np.random.default_rng(3)
        phase = rng.uniform(0, 6, 6)
        body = land(
            lambda x, z: sum(np.sin(0.7 * (i + 1) * x + phase[i]) * np.cos(0.5 * (i + 1) * z) for i in range(3)),
            12.0,
            0.2,
        )
        height = body.heights(body.vertices["position"])
        seed, level = int(np.argmin(height)), float(np.quantile(height, 0.3))
        found = flood(body, seed, level)
        from scipy.sparse import coo_array
        from scipy.sparse.csgraph import connected_components

        corners = body.corners.triangles
        tail, tip = corners.reshape(-1), np.roll(corners, -1, axis=1).reshape(-1)
        low = (height[tail] <= level) & (height[tip] <= level)
        graph = coo_array((np.ones(low.sum()), (tail[low], tip[low])), (height.size, height.size))
        _, label = connected_components(graph, directed=False)
        border = [spill for spill in found.spills if spill.border]
        wanted = np.flatnonzero((label == label[seed]) & (height <= level))
        if border:  # it ended there
            self.assertTrue(set(found.rows.tolist()) <= set(wanted.tolist()))
        else:
            np.testing.assert_array_equal(np.sort(found.rows), wanted)


if __name__ == "__main__":
    unittest.main()
