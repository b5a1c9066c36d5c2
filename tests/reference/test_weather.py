"""Weather against closed forms: the slope-area law, drainage by counting, mass, passes over the brims of pits."""

import heapq
import unittest

import numpy as np

from hulmo.core.commands import AddBody, ChangeGuard, LayRelief, SetDown
from hulmo.core.errors import Cancelled, InvalidInput
from hulmo.core.history import History
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.down import Down
from hulmo.core.mesh.measure import measure
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.weather.flow import flow_of
from hulmo.core.weather.graph import Graph, graph_of
from hulmo.core.weather.rain import Climate, rained
from tests.bodies import form_body, project_with, stroke


def whole_area(body: Body) -> np.ndarray:
    """(N,) a third of the area of all triangles at each vertex."""
    t = body.corners.live_triangles()
    p = body.vertices["position"].astype(np.float64)
    area = np.linalg.norm(np.cross(p[t[:, 1]] - p[t[:, 0]], p[t[:, 2]] - p[t[:, 0]]), axis=1) / 6
    return np.bincount(t.reshape(-1), np.repeat(area, 3), p.shape[0])


def flooded(graph: Graph, height: np.ndarray, leaves: np.ndarray) -> np.ndarray:
    """Height of water in every pit: Barnes, Lehman and Mulla, "Priority-flood" (2014), algorithm 1, in plain Python."""
    out = np.full(height.size, np.inf)
    queue = [(height[row], row) for row in np.flatnonzero(leaves)]
    for level, row in queue:
        out[row] = level
    heapq.heapify(queue)
    while queue:
        level, row = heapq.heappop(queue)
        for k in range(graph.first[row], graph.first[row + 1]):
            other = graph.other[k]
            if out[other] == np.inf:
                out[other] = max(level, height[other])
                heapq.heappush(queue, (out[other], other))
    return out


class FlowTest(unittest.TestCase):
    def test_water_in_pits_stands_as_high_as_flooding_says_and_nothing_is_lost(self) -> None:
        rng = np.random.default_rng(2)
        for form in ("sheet", "icosphere"):
            body = form_body(
                form,
                **({"size": 20.0, "depth": 20.0, "edge": 0.5} if form == "sheet" else {"radius": 6.0, "edge": 0.5}),
            )
            height = rng.normal(size=body.vertices.count)
            graph = graph_of(body.corners, body.vertices["position"], body.up(body.vertices["position"]))
            leaves = graph.border.copy() if form == "sheet" else np.zeros(height.size, np.bool_)
            leaves[int(height.argmin())] = True
            flow = flow_of(graph, height, leaves)
            expected = flooded(graph, height, leaves)
            # the way down of every vertex goes over the highest pass that flooding has to rise to, and no higher
            highest = height.copy()
            for row in flow.order:
                if flow.to[row] != row:
                    highest[row] = max(height[row], highest[flow.to[row]], flow.spill[row])
            np.testing.assert_allclose(highest, expected, atol=1e-12)
            gathered = flow.gathered(np.ones(height.size))
            self.assertEqual(gathered[leaves].sum(), height.size)
            self.assertTrue((flow.to[leaves] == np.flatnonzero(leaves)).all())

    def test_a_cone_and_a_valley_drain_as_counting_says(self) -> None:
        body = form_body("sheet", size=20.0, depth=20.0, edge=0.25)
        x, _, z = body.vertices["position"].T.astype(np.float64)
        graph = graph_of(body.corners, body.vertices["position"], np.array([[0.0, 1.0, 0.0]]))
        valley = np.abs(x) + 0.2 * z  # both sides fall to the line x = 0, which falls to the north
        flow = flow_of(graph, valley, graph.border & (z < -9.9))
        drained = flow.gathered(np.full(x.size, 0.25 * 0.25))
        line = (np.abs(x) < 1e-6) & (np.abs(z) < 8)
        # all that lies to the south: 20 m wide, as steepest ways go straight down the sides with the grid
        ratio = drained[line] / (20.0 * (10.0 - z[line]))
        self.assertLess(np.abs(ratio - 1).max(), 0.15)
        cone = -np.hypot(x, z)
        drained = flow_of(graph, cone, graph.border).gathered(np.full(x.size, 0.25 * 0.25))
        ring = np.abs(np.hypot(x, z) - 6.0) < 0.125
        # what crosses a ring is the area within it, however it is shared among the vertices there
        inside = np.pi * 36.0
        flow = flow_of(graph, cone, graph.border)
        crossing = (np.hypot(x, z) < 6.0) & (np.hypot(x[flow.to], z[flow.to]) >= 6.0)
        self.assertAlmostEqual(drained[crossing].sum() / inside, 1.0, delta=0.02)
        self.assertTrue(ring.any())


class LawTest(unittest.TestCase):
    """At steady uplift U = K A^m S: slope falls with the power -m of what drains through (Whipple and Tucker 1999)."""

    def steady(self, body: Body, down: Down, m: float) -> tuple[np.ndarray, np.ndarray]:
        rng = np.random.default_rng(1)
        up = down.up(body.vertices["position"], (0.0, 0.0, 0.0))
        graph = graph_of(body.corners, body.vertices["position"], up)
        area, leaves = whole_area(body), graph.border.copy()
        if not leaves.any():
            leaves[:3] = True
        height = rng.uniform(0, 0.01, area.size)
        climate = Climate(4e6, np.full(area.size, 1e-4), m, grain=0.0, lift=1e-3, steps=60)
        one = np.ones(area.size)
        for _ in range(3):
            found = rained(graph, height, area, one, leaves, one, climate)
            height = found.height
        flow = flow_of(graph, height, leaves)
        drained = flow.gathered(area)
        slope = (height - height[flow.to]) / flow.far
        there = ~leaves & (slope > 0) & (flow.spill <= height) & (drained > 4 * np.median(area))
        return drained[there], slope[there]

    def test_the_slope_area_law_on_a_plain_and_on_a_ball(self) -> None:
        for m in (0.4, 0.5):
            for body, down in (
                (form_body("sheet", size=60.0, depth=60.0, edge=1.0), Down()),
                (form_body("icosphere", radius=15.0, edge=0.7), Down("centre", (0.0, 0.0, 0.0), 15.0)),
            ):
                drained, slope = self.steady(body, down, m)
                self.assertGreater(drained.max() / drained.min(), 50.0)
                fit = np.polyfit(np.log(drained), np.log(slope), 1)
                self.assertAlmostEqual(fit[0] / -m, 1.0, delta=0.02)
                np.testing.assert_allclose(np.exp(fit[1]), 10.0, rtol=0.02)  # U / K


class WeatherTest(unittest.TestCase):
    def hills(self, edge: float = 0.5) -> History:
        history = project_with("sheet", size=40.0, depth=40.0, edge=edge)
        history.do(LayRelief("Body", "noise", {"size": 16.0, "height": 5.0, "octaves": 5, "seed": 2}))
        return history

    def test_what_is_worn_is_laid_down_or_leaves(self) -> None:
        for settings in (
            {"stays": True, "border": False},
            {"stays": False},
            {"stays": True, "grain": 0.0, "slide": 0.0},
        ):
            history = self.hills()
            body = history.project.bodies[0]
            before = body.vertices["position"].copy()
            history.do(LayRelief("Body", "weather", {"years": 3000.0, **settings}, "Rain"))
            rise = (body.vertices["position"] - before)[:, 1].astype(np.float64)
            self.assertEqual(float(np.abs(body.vertices["position"] - before)[:, (0, 2)].max()), 0.0)
            # a level sheet: volume is height times the area seen from above
            t = body.corners.live_triangles()
            p = before.astype(np.float64)[:, (0, 2)]
            e, f = p[t[:, 1]] - p[t[:, 0]], p[t[:, 2]] - p[t[:, 0]]
            area = np.bincount(t.reshape(-1), np.repeat(np.abs(e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0]) / 6, 3), len(p))
            worn, laid = (float(body.vertices[name][:, 0] @ area) for name in ("worn", "laid"))
            self.assertGreater(worn, 50.0)
            self.assertAlmostEqual((laid - worn - float(rise @ area)) / worn, 0.0, delta=1e-3)
            if settings["stays"]:
                self.assertAlmostEqual(laid / worn, 1.0, delta=0.01)
            else:
                self.assertLess(laid, 0.98 * worn)

    def test_rain_makes_valleys_that_rules_can_ask_for_and_undo_gives_all_back(self) -> None:
        history = self.hills()
        body = history.project.bodies[0]
        columns = set(body.vertices.names)
        before = body.vertices["position"].tobytes()
        history.do(LayRelief("Body", "weather", {"years": 3000.0}, "Rain"))
        self.assertEqual(set(body.vertices.names) - columns, {"flow", "laid", "worn", "relief_2"})
        flow, worn = body.vertices["flow"][:, 0], body.vertices["worn"][:, 0]
        self.assertGreater(
            worn[flow > np.quantile(flow, 0.95)].mean(), 1.5 * worn[flow < np.quantile(flow, 0.5)].mean()
        )
        history.undo()
        self.assertEqual((set(body.vertices.names), body.vertices["position"].tobytes()), (columns, before))
        first = self.laid(history, {"years": 500.0})
        self.assertTrue(
            np.array_equal(first, self.laid(history, {"years": 500.0})), "the same weather gives the same bytes"
        )

    def laid(self, history: History, settings: dict[str, object]) -> np.ndarray:
        history.do(LayRelief("Body", "weather", settings, "Rain"))
        out = history.project.bodies[0].vertices["position"].copy()
        history.undo()
        return out

    def test_overhangs_guard_and_hard_ground_keep_their_shape(self) -> None:
        history = project_with("icosphere", radius=6.0, edge=0.4)
        body = history.project.bodies[0]
        before, normal = body.vertices["position"].copy(), body.vertices["normal"].copy()
        history.do(LayRelief("Body", "weather", {"years": 5000.0, "hardness": 30.0, "slide": 0.0}))
        step = np.linalg.norm(body.vertices["position"] - before, axis=1)
        self.assertEqual(float(step[normal[:, 1] < -0.01].max()), 0.0)
        self.assertGreater(float(step[normal[:, 1] > 0.5].max()), 0.05)
        history.undo()
        history.do(ChangeGuard("Body", "all"))
        history.do(LayRelief("Body", "weather", {"years": 5000.0}))
        self.assertEqual(body.vertices["position"].tobytes(), before.tobytes())
        history = self.hills()
        history.do(
            stroke("lay", (8.0, 0, 8.0), ground=history.project.ground_names[1], radius=6.0, core=90.0, strength=100.0)
        )
        hard = history.project.bodies[0].vertices["weight"][:, 1] > 0.99
        soft = history.project.bodies[0].vertices["weight"][:, 1] == 0
        settings = {"hard_by": "ground", "hard_ground": history.project.ground_names[1], "slide": 0.0, "grain": 0.0}
        history.do(LayRelief("Body", "weather", settings))
        worn = history.project.bodies[0].vertices["worn"][:, 0]
        self.assertLess(worn[hard].mean(), 0.2 * worn[soft].mean())

    def test_a_moon_is_worn_all_round_alike(self) -> None:
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 10.0, "edge": 0.4}, "Body"))
        history.do(LayRelief("Body", "noise", {"size": 6.0, "height": 1.2, "octaves": 4}))
        history.do(SetDown("Body", "centre", (0.0, 0.0, 0.0)))
        body = history.project.bodies[0]
        before = body.vertices["position"].copy()
        history.do(LayRelief("Body", "weather", {"years": 2000.0}))
        step = (body.vertices["position"] - before).astype(np.float64)
        out = before / np.linalg.norm(before, axis=1, keepdims=True)
        aside = np.linalg.norm(step - (step * out).sum(axis=1)[:, None] * out, axis=1)
        self.assertLess(aside.max(), 1e-4)
        worn = body.vertices["worn"][:, 0]
        halves = [worn[out @ np.array(axis) > 0.3].mean() for axis in ((0, 1, 0), (0, -1, 0), (1, 0, 0), (0, 0, -1))]
        self.assertLess(max(halves) / min(halves), 2.0)
        self.assertIsNotNone(measure(body).volume)

    def test_nonsense_is_refused_and_work_can_be_stopped(self) -> None:
        history = self.hills()
        state = history.project.bodies[0].vertices["position"].tobytes()
        for settings in (
            {"years": 1e9}, {"years": 0.0}, {"rain": -1.0}, {"steps": 1000}, {"hard_by": "ground"}, {"hardness": np.nan},
            {"hard_by": "ground", "hard_ground": "No such"},
            {"hard_by": "ground", "hard_ground": history.project.ground_names[2]},
        ):  # fmt: skip
            with self.assertRaises(InvalidInput, msg=repr(settings)):
                history.do(LayRelief("Body", "weather", settings))
        stopping = Progress()
        stopping.stop()
        with self.assertRaises(Cancelled):
            history.do(LayRelief("Body", "weather"), stopping)
        for settings in (
            {"years": 1e6, "rain": 20.0, "hardness": 0.0},
            {"at_sea": True, "sea": 1e5},
            {"rain": 0.0},
            {"steps": 60},
        ):
            history.do(LayRelief("Body", "weather", settings))
            history.undo()
        self.assertEqual(history.project.bodies[0].vertices["position"].tobytes(), state)


class WindAndWaveTest(unittest.TestCase):
    def test_sand_lies_in_the_lee_and_a_notch_at_the_waterline(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.2)
        body = history.project.bodies[0]
        before, normal = body.vertices["position"].copy(), body.vertices["normal"].copy()
        history.do(LayRelief("Body", "sand", {"bearing": 90.0, "thickness": 0.5, "ripple": 0.0, "angle": 60.0}))
        step = body.vertices["position"] - before
        self.assertEqual(float(np.abs(step[:, (0, 2)]).max()), 0.0)
        self.assertEqual(float(step[:, 1].min()), 0.0)
        top = normal[:, 1] > 0.7
        # the wind comes from the east: more lies to the west
        self.assertGreater(
            step[top & (normal[:, 0] < -0.2), 1].mean(), 3.0 * step[top & (normal[:, 0] > 0.2), 1].mean()
        )
        self.assertEqual(float(step[normal[:, 1] < 0.45, 1].max()), 0.0)
        history.undo()
        history.do(LayRelief("Body", "waves", {"level": 1.0, "height": 2.0, "depth": 0.6, "irregularity": 0.0}))
        step = body.vertices["position"] - before
        self.assertLess(np.abs(step[:, 1]).max(), 1e-6)
        outward = np.hypot(normal[:, 0], normal[:, 2])
        at = np.abs(before[:, 1] - 1.0) < 0.05
        np.testing.assert_allclose(np.hypot(step[at, 0], step[at, 2]), 0.6 * outward[at], atol=0.06)
        away = (before[:, 1] > 1.81) | (before[:, 1] < -0.21)
        self.assertEqual(float(np.abs(step[away]).max()), 0.0)


if __name__ == "__main__":
    unittest.main()
