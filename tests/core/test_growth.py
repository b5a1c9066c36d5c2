"""The growing mesh: tables stay whole, everything at the vertices comes along, undo gives every byte back."""

import unittest

import numpy as np

from hulmo.core.commands import AddLayer, ChooseParts, LayRelief, LockBorder, PlaceBody, Recast, Stroke, Subdivide
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.measure import measure
from hulmo.core.spill import OnDisk
from tests.bodies import form_body, project_with, regions, snapshot, stroke
from tests.core.test_layers import added_up


def whole_state(body: Body) -> dict[str, bytes]:
    """Bytes of both tables; of what follows from other columns, only where there is a vertex."""
    vertices, corners = body.vertices, body.corners
    arrays = {"vertex": corners.vertex, "opposite": corners.opposite, "first": corners.first_corner}
    arrays |= {"free rows": vertices.free.slots, "free slots": corners.free.slots}
    arrays |= {name: corners.slots[name] for name in corners.slots.names()}
    return snapshot(body) | {name: array.tobytes() for name, array in arrays.items()}


def check_tables(test: unittest.TestCase, body: Body) -> None:
    """What must hold after any sequence of local operations."""
    corners = body.corners
    vertex, opposite = corners.vertex, corners.opposite
    inner = np.flatnonzero(opposite >= 0)
    test.assertTrue((opposite[opposite[inner]] == inner).all())
    base, across = inner - inner % 3, opposite[inner]
    far = across - across % 3
    ahead, behind = vertex[base + (inner + 1) % 3], vertex[base + (inner + 2) % 3]
    np.testing.assert_array_equal(ahead, vertex[far + (across + 2) % 3])
    np.testing.assert_array_equal(behind, vertex[far + (across + 1) % 3])
    for name in corners.slots.names("edge"):  # both triangles at an edge say the same of it
        values = corners.slots[name].reshape(vertex.size, -1)
        np.testing.assert_array_equal(values[inner], values[across])
    rows = np.unique(vertex[vertex >= 0])
    first = corners.first_corner
    np.testing.assert_array_equal(vertex[first[rows]], rows)
    np.testing.assert_array_equal(np.flatnonzero(first >= 0), rows)
    gone = np.setdiff1d(np.arange(body.vertices.count), rows)
    np.testing.assert_array_equal(np.sort(body.vertices.free.slots), gone)
    np.testing.assert_array_equal(np.sort(corners.free.slots), np.flatnonzero(corners.triangles[:, 0] < 0))
    CornerTable.from_triangles(corners.live_triangles(), body.vertices.count)  # refuses what is no manifold
    np.testing.assert_allclose(body.vertices["weight"][rows].sum(axis=1), 1, atol=1e-5)
    if body.layers:
        np.testing.assert_array_equal(body.vertices["position"][rows], added_up(body)[rows])
    fresh = Body("", body.vertices.copy(), corners.copy())
    fresh.replaced()
    np.testing.assert_array_equal(body.vertices["normal"][rows], fresh.vertices["normal"][rows])


def random_stroke(rng: np.random.Generator, body: Body, layers: tuple[str, ...]) -> Stroke:
    live = body.vertices["position"][body.corners.first_corner >= 0]
    points = live[rng.integers(0, live.shape[0], 3)]
    points[1:] = points[0] + (points[1:] - points[0]) * 0.2
    brush = str(rng.choice(("refine", "thin_out", "raise", "smooth", "haul", "stamp", "roughen", "pinch", "slump")))
    settings: dict[str, object] = {"radius": float(rng.uniform(0.5, 2.5))}
    if brush in ("refine", "thin_out"):
        settings["edge"] = float(rng.uniform(0.15, 1.2))
    else:
        settings |= {"grow": str(rng.choice(("finer", "both"))), "edge": float(rng.uniform(0.2, 0.7)), "strength": 60.0}
        settings["mirror"] = str(rng.choice(("none", "x")))
        if brush == "raise":
            settings["build_up"] = str(rng.choice(("one_coat", "stacking", "until_reset")))
    layer = str(rng.choice(layers))
    return Stroke("Body", brush, tuple(tuple(p.tolist()) for p in points), settings, layer=layer)


class GrowthTest(unittest.TestCase):
    def test_any_sequence_keeps_the_tables_whole_and_undo_gives_every_byte_back(self) -> None:
        for seed, (form, values) in enumerate(
            (
                ("icosphere", {"radius": 4.0, "edge": 0.6}),
                ("sheet", {"size": 8.0, "edge": 0.5}),
                ("block", {"edge": 0.6}),
            )
        ):
            rng = np.random.default_rng(seed)
            history = project_with(form, **values)
            body = history.project.bodies[0]
            regions(body)[body.vertices["position"][body.corners.triangles].mean(axis=1)[:, 0] > 0.1] = 1
            lay = history.project.grounds[1].name
            history.do(stroke("lay", (1, 9, 1, 0, -1, 0), ground=lay, radius=3.0))
            history.do(stroke("guard", (-2, 9, -1, 0, -1, 0), radius=1.5, strength=100.0, core=60.0))
            history.do(LayRelief("Body", "noise", {"size": 1.0, "height": 0.2}, "Grain"))
            history.do(AddLayer("Body", "Hill"))
            for domain in ("edge", "face"):
                history.do(ChooseParts("Body", domain, "all"))
                history.do(ChooseParts("Body", domain, "random", share=0.3, seed=seed))
            figures = measure(body)
            guarded = body.vertices["guard"][:, 0] == 1
            kept = body.vertices["position"][guarded].copy()
            self.assertGreater(kept.shape[0], 3)
            body.index  # noqa: B018 - it is kept true from here on
            states = [whole_state(body)]
            for step in range(14):
                history.do(random_stroke(rng, body, ("", "Hill")))
                check_tables(self, body)
                states.append(whole_state(body))
                now = measure(body)
                same = (now.genus, now.border_loops, now.parts) == (figures.genus, figures.border_loops, figures.parts)
                self.assertTrue(same, f"{form}, step {step}")
                np.testing.assert_array_equal(body.vertices["position"][: guarded.size][guarded], kept)
            self.assertGreater(body.vertices.count, figures.vertices)
            self._check_index(body)
            for state in states[-2::-1]:
                self.assertTrue(history.undo())
                self._same(body, state)
            self._check_index(body)
            for state in states[1:]:
                self.assertTrue(history.redo())
                self._same(body, state)
            check_tables(self, body)

    def _same(self, body: Body, state: dict[str, bytes]) -> None:
        # columns that a later stroke had need of stay, empty
        now = whole_state(body)
        self.assertEqual([name for name in state if now[name] != state[name]], [])

    def _check_index(self, body: Body) -> None:
        # a ray meets the same point as with an index built anew
        fresh = Body("", body.vertices.copy(), body.corners.copy())
        rng = np.random.default_rng(9)
        for _ in range(60):
            origin, toward = rng.normal(size=3) * 9, rng.normal(size=3)
            hit, other = body.ray(origin, toward - origin), fresh.ray(origin, toward - origin)
            self.assertEqual(hit is None, other is None)
            if hit is not None and other is not None:
                self.assertAlmostEqual(hit.distance, other.distance, places=5)

    def test_what_is_linear_over_a_flat_sheet_stays_linear(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.5)
        body = history.project.bodies[0]
        start = body.vertices["position"].copy()
        body.vertices.set_column("something of next year", start[:, (0, 2)] * 3 + 1)
        for brush, edge, place in (("refine", 0.1, 1.0), ("thin_out", 0.8, -1.0), ("refine", 0.2, -1.5)):
            history.do(stroke(brush, (place, 0, 0), (place, 0, place), radius=2.0, edge=edge))
        live = body.corners.first_corner >= 0
        at = body.vertices["position"]
        np.testing.assert_array_equal(at[:, 1], 0)
        np.testing.assert_allclose(
            body.vertices["something of next year"][live], at[live][:, (0, 2)] * 3 + 1, atol=2e-5
        )
        triangles = body.corners.triangles[:, 0] >= 0
        flat = at[body.corners.triangles[triangles]]
        assert body.corners.uv is not None
        expected = np.stack((flat[..., 0] / 8 + 0.5, flat[..., 2] / 8 + 0.5), -1)
        np.testing.assert_allclose(body.corners.uv[triangles], expected, atol=1e-5)
        self.assertAlmostEqual(measure(body).area, 64.0, places=3)
        self.assertGreater(measure(body).triangles, 2 * 8 * 8 * 8)

    def test_edges_come_to_the_wanted_length(self) -> None:
        history = project_with(radius=5.0, edge=0.5)
        body = history.project.bodies[0]
        area = measure(body).area
        for brush, edge in (("refine", 0.15), ("thin_out", 0.6)):
            samples = [(0.4 * i, 5.0, 0.0) for i in (-2, -1, 0, 1, 2)] * 2
            history.do(stroke(brush, *samples, radius=2.5, edge=edge))
            at = body.vertices["position"][body.corners.live_triangles()]
            ends = at - np.roll(at, 1, axis=1)
            length = np.linalg.norm(ends, axis=2)
            near = np.linalg.norm((at + np.roll(at, 1, axis=1)) / 2 - (0, 5, 0), axis=2) < 1.8
            low, high = (0.0, 4 / 3 * edge) if brush == "refine" else (0.8 * edge, np.inf)
            within = ((length >= low) & (length <= high * 1.001))[near]
            self.assertGreater(within.mean(), 0.98 if brush == "refine" else 0.9, brush)
            self.assertAlmostEqual(measure(body).area / area, 1, delta=0.004)
            self.assertLess(measure(body).thin_share, 0.002)

    def test_borders_between_regions_stay_where_they_are(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.5)
        body = history.project.bodies[0]
        middle = body.vertices["position"][body.corners.triangles].mean(axis=1)
        regions(body)[middle[:, 0] > 0] = 1
        for brush, edge in (("refine", 0.2), ("thin_out", 1.0)):
            history.do(stroke(brush, (0, 0, -1), (0, 0, 1), radius=2.0, edge=edge))
            live = body.corners.triangles[:, 0] >= 0
            at = body.vertices["position"][body.corners.triangles[live]]
            size = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1) / 2
            right = regions(body)[live] == 1
            self.assertAlmostEqual(float(size[right].sum()), 32.0, places=3)
            self.assertTrue((at[right][..., 0] >= -1e-6).all())

    def test_a_locked_border_gets_no_vertex_and_loses_none(self) -> None:
        for locked in (True, False):
            history = project_with("sheet", size=4.0, depth=4.0, edge=0.5)
            body = history.project.bodies[0]
            history.do(LockBorder("Body", locked))
            edges = body.corners.border_corners().size
            history.do(stroke("refine", (2, 0, 0), radius=1.5, edge=0.1))
            history.do(stroke("thin_out", (-2, 0, 0), radius=1.5, edge=1.0))
            (self.assertEqual if locked else self.assertLess)(edges, body.corners.border_corners().size)

    def test_what_is_hauled_far_gets_vertices_on_the_way(self) -> None:
        history = project_with(radius=5.0, edge=0.6)
        body = history.project.bodies[0]
        way = [(0.0, 5.0 + 0.5 * i, 0.0) for i in range(13)]
        history.do(stroke("haul", *way, radius=2.0, strength=100.0, grow="finer", edge=0.3))
        at = body.vertices["position"][body.corners.live_triangles()]
        high = at[:, :, 1].min(axis=1) > 5.5
        self.assertGreater(int(high.sum()), 300)
        self.assertLess(float(np.linalg.norm(at - np.roll(at, 1, axis=1), axis=2)[high].max()), 0.45)
        self.assertAlmostEqual(body.bounds().high[1], 11.0, delta=0.02)  # what was taken hold of came all the way

    def test_a_brush_smaller_than_a_triangle_finds_vertices_to_work_on(self) -> None:
        history = project_with("block", size=8.0, height=8.0, depth=8.0, edge=8.0)
        body = history.project.bodies[0]
        place = (1.3, 8.0, 0.9)
        history.do(stroke("raise", place, radius=0.4, height=0.2, strength=100.0, grow="finer", edge=0.05))
        self.assertAlmostEqual(body.bounds().high[1], 8.2, delta=0.03)
        check_tables(self, body)
        plain = project_with("block", size=8.0, height=8.0, depth=8.0, edge=8.0)
        self.assertEqual(plain.do(stroke("raise", place, radius=0.4, height=0.2)).deltas, ())

    def test_an_edge_far_too_short_is_refused_before_anything_changes(self) -> None:
        history = project_with(radius=5.0, edge=0.5)
        body = history.project.bodies[0]
        before = whole_state(body)
        with self.assertRaisesRegex(InvalidInput, "edges of 0.001 m under a radius of 3 m would make about .* choose"):
            history.do(stroke("refine", (0, 5, 0), radius=3.0, edge=0.001))
        self._same(body, before)

    def test_far_from_a_body_s_origin_edges_end_where_single_precision_does(self) -> None:
        history = project_with(radius=5.0, edge=1.0)
        body = history.project.bodies[0]
        body.vertices["position"][:, 0] += 2e7  # single precision steps by 2 m here
        body.vertices["position"][:, 1:] *= 40
        body.replaced()
        at = body.vertices["position"][7].astype(float).tolist()
        history.do_if_any(stroke("refine", tuple(at), radius=40.0, edge=0.5))
        self.assertLess(body.vertices.live_count, 5_000)
        check_tables(self, body)

    def test_what_is_drawn_out_very_far_gets_longer_edges(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.5)
        at = (0.0, 9.0, 0.0, 0.0, -1.0, 0.0)
        far = stroke("level", at, radius=2.0, strength=100.0, plane="height", level=90_000.0, grow="finer", edge=0.5)
        history.do(far)
        body = history.project.bodies[0]
        self.assertGreater(body.vertices["position"][:, 1].max(), 10_000)
        self.assertLess(body.vertices.live_count, 50_000)

    def test_a_lasting_coat_is_one_coat_on_new_vertices_too(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.5)
        body = history.project.bodies[0]
        for edge in (0.3, 0.15, 0.15):
            history.do(
                stroke("raise", (0, 0, 0), (0.5, 0, 0), (0, 0, 0), radius=2.0, height=0.4, strength=100.0,
                       build_up="until_reset", direction="up", grow="finer", edge=edge)
            )  # fmt: skip
        self.assertLessEqual(float(body.vertices["position"][:, 1].max()), 0.4001)

    def test_a_replay_after_undo_and_redo_gives_the_same_bytes(self) -> None:
        rng = np.random.default_rng(21)
        live, again = project_with(radius=4.0, edge=0.6), project_with(radius=4.0, edge=0.6)
        for _ in range(8):
            live.do(random_stroke(rng, live.project.bodies[0], ("",)))
            live.undo()
            live.redo()
        for command in live.commands[1:]:
            again.do(command)
        self._same(live.project.bodies[0], whole_state(again.project.bodies[0]))

    def test_undo_from_disk_gives_every_byte_back(self) -> None:
        history = project_with(radius=4.0, edge=0.6)
        history._cap = 300_000
        body = history.project.bodies[0]
        states = [whole_state(body)]
        for command in (
            PlaceBody("Body", (0.5, 0, 0), (0, 20.0, 0)),
            stroke("raise", (0.5, 4, 0), (1.5, 4, 0), radius=1.5, grow="both", edge=0.15),
            Recast("Body", 0.3, "surface", 2),
            stroke("refine", (0.5, 4, 0), radius=1.5, edge=0.1),
            stroke("haul", (0.5, 4, 0), (0.5, 6, 0), radius=1.0, grow="finer", edge=0.1),
            Subdivide("Body"),
        ):
            history.do(command)
            body = history.project.bodies[0]
            states.append(whole_state(body))
        self.assertTrue(any(isinstance(entry.edit, OnDisk) for entry in history._done))
        for state in states[-2::-1]:
            self.assertTrue(history.undo())
            self._same(history.project.bodies[0], state)
        for state in states[1:]:
            self.assertTrue(history.redo())
            self._same(history.project.bodies[0], state)


class FormTest(unittest.TestCase):
    def test_strokes_on_a_single_triangle_and_on_an_open_rim(self) -> None:
        body = form_body("disc")
        self.assertGreater(body.corners.border_corners().size, 0)
        history = project_with("sheet", size=1.0, depth=1.0, edge=1.0)
        only = history.project.bodies[0]
        history.do(stroke("refine", (0.1, 0, 0.2), radius=0.3, edge=0.1))
        check_tables(self, only)
        self.assertAlmostEqual(measure(only).area, 1.0, places=5)
        history.do(stroke("thin_out", (0.1, 0, 0.2), radius=2.0, edge=3.0))
        check_tables(self, only)
        self.assertAlmostEqual(measure(only).area, 1.0, places=5)
