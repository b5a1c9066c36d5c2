"""Vertex table, corner table, connectivity, normals."""

import itertools
import unittest

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from hulmo.core.commands import Stroke
from hulmo.core.errors import InvalidInput
from hulmo.core.low_high import low_high
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.row_ranges import row_ranges
from hulmo.core.mesh.soundness import wrong_triangle
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.sparse_zeros import LARGE, sparse_zeros
from hulmo.core.topology.local_remesh import LocalRemesh
from hulmo.core.topology.subdivide import subdivide
from tests.bodies import FORM_VALUES, form_body, project_with, random_surface, regions


def opposites_by_dictionary(triangles: np.ndarray) -> np.ndarray:
    """Plain twin of the linear-time pairing."""
    seen = {}
    opposite = np.full(triangles.size, -1)
    for corner in range(triangles.size):
        t, k = divmod(corner, 3)
        edge = (int(triangles[t, (k + 1) % 3]), int(triangles[t, (k + 2) % 3]))
        other = seen.get(edge[::-1])
        if other is not None:
            opposite[corner], opposite[other] = other, corner
        seen[edge] = corner
    return opposite


class GraphTest(unittest.TestCase):
    def test_groups_are_those_of_scipy_and_numbered_alike(self) -> None:
        rng = np.random.default_rng(5)
        for count in (1, 2, 30, 400, 20_000):
            for edges in (0, count // 3, count, 3 * count):
                start, end = rng.integers(0, count, (2, edges))
                if edges == count:  # a long chain, in any order
                    start = rng.permutation(count)[:-1]
                    end = start + 1 - count * (start + 1 == count)
                groups, label = hanging_together(start, end, count)
                graph = coo_array((np.ones(start.size), (start, end)), (count, count))
                wanted, known = connected_components(graph, directed=False)
                self.assertEqual(groups, wanted)
                np.testing.assert_array_equal(label, known)


class VertexTableTest(unittest.TestCase):
    def test_every_column_is_blended_and_survives_growth(self) -> None:
        table = VertexTable(2)
        table.set_column("position", np.array([[0, 0, 0], [4, 8, 12]], np.float32))
        table.set_column("something of next year", np.array([[1.0], [3.0]], np.float32))
        rows = table.allocate(1000)
        table.blend(rows[:1], np.array([0]), np.array([1]), np.array([0.25]))
        self.assertEqual(table["position"][2].tolist(), [1, 2, 3])
        self.assertEqual(table["something of next year"][2].tolist(), [1.5])
        self.assertEqual(table["position"][1].tolist(), [4, 8, 12])
        self.assertEqual(table.count, 1002)

    def test_freed_rows_are_used_again(self) -> None:
        table = VertexTable(5)
        table.add_column("position", 3)
        table.free.put(np.array([1, 3], np.int32))
        self.assertEqual(table.live_count, 3)
        self.assertEqual(sorted(table.allocate(3).tolist()), [1, 3, 5])
        self.assertEqual(table.count, 6)


class CornerTableTest(unittest.TestCase):
    def test_opposites_match_the_plain_twin(self) -> None:
        for name in FORM_VALUES:
            with self.subTest(form=name):
                corners = form_body(name).corners
                np.testing.assert_array_equal(corners.opposite, opposites_by_dictionary(corners.triangles))

    def test_ring_walks_whole_fans_in_order(self) -> None:
        corners = random_surface(3).corners
        members: dict[int, set[int]] = {}
        for t, triangle in enumerate(corners.triangles.tolist()):
            for at in triangle:
                members.setdefault(at, set()).add(t)
        for at in range(corners.first_corner.size):
            ring = corners.ring(at)
            self.assertEqual({int(c) // 3 for c in ring}, members[at])
            self.assertTrue(all(corners.vertex[c] == at for c in ring))
            for a, b in itertools.pairwise(ring):
                # the counter-clockwise next triangle starts with the spoke the last one ended with
                spoke = corners.vertex[a - a % 3 + (a + 2) % 3]
                self.assertEqual(corners.vertex[b - b % 3 + (b + 1) % 3], spoke)
        side = 25
        border = {i for i in range(side * side) if i % side in (0, side - 1) or i // side in (0, side - 1)}
        self.assertEqual({at for at in range(side * side) if corners.is_border(at)}, border)

    def test_ring_is_found_from_any_first_corner(self) -> None:
        corners = random_surface(4).corners
        for at in (0, 7, 24, 300):
            whole = corners.ring(at).tolist()
            for corner in whole:
                corners.first_corner[at] = corner
                found = corners.ring(at).tolist()
                start = found.index(whole[0])
                self.assertEqual(found[start:] + found[:start], whole)

    def test_what_is_no_manifold_is_refused(self) -> None:
        for triangles, words in (
            ([[0, 1, 2], [0, 1, 3]], "same direction"),
            ([[0, 1, 2], [1, 0, 3], [1, 0, 4]], "two other triangles"),
            ([[0, 1, 2], [0, 3, 4]], "single vertex"),
            ([[0, 1, 9]], "outside"),
            ([[0, 1, -1]], "outside"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                CornerTable.from_triangles(np.array(triangles, np.int32), 5)

    def test_an_edge_of_four_triangles_is_no_manifold_however_it_pairs_up(self) -> None:
        # round vertex 0, and round vertex 1, all hang together in one fan that comes by the other one twice
        fan = [(0, 1, 2), (1, 0, 3), (0, 2, 4), (0, 4, 1), (0, 1, 5), (2, 1, 4)]
        for order in itertools.permutations(fan):
            with self.assertRaises(InvalidInput):
                CornerTable.from_triangles(np.array(order, np.int32), 6)

    def test_any_contradiction_of_the_tables_is_found(self) -> None:
        for form, values in (
            ("sheet", {"size": 6.0, "depth": 6.0, "edge": 1.0}),
            ("icosphere", {"radius": 30.0, "edge": 0.3}),
        ):
            corners = form_body(form, **values).corners  # the large one is looked through in pieces
            self.assertEqual(wrong_triangle(corners), -1)
            rng = np.random.default_rng(4)
            for turn in range(300 if form == "sheet" else 30):
                table = (corners.vertex, corners.opposite, corners.first_corner)[turn % 3]
                at = int(rng.integers(table.size))
                had = int(table[at])
                table[at] = rng.choice((-1, had + 1, had - 1, int(rng.integers(table.size)), 2**31 - 1, -(2**31)))
                fits = bool((table[at] == had) | (had < 0 and table[at] < 0))
                if turn % 3 == 2 and 0 <= table[at] < corners.vertex.size:
                    fits = bool(corners.vertex[table[at]] == at)  # any corner of a vertex is as good as another
                self.assertEqual(wrong_triangle(corners) < 0, fits, (form, turn, at, had, table[at]))
                table[at] = had

    def test_compact_leaves_freed_slots_out(self) -> None:
        history = project_with("sheet")
        body = history.project.bodies[0]
        history.do(Stroke("Body", "thin_out", ((0, 0, 0),), {"radius": 2.0, "edge": 1.0}))
        self.assertGreater(body.vertices.free.count, 10)
        vertices, corners = compact(body.vertices, body.corners)
        self.assertEqual((vertices.count, corners.count), (body.vertices.live_count, body.corners.live_count))
        old = body.vertices["position"][body.corners.live_triangles()]
        np.testing.assert_array_equal(vertices["position"][corners.triangles], old)

    def test_subdivide_keeps_uv_regions_and_columns(self) -> None:
        body = form_body("sheet")
        regions(body)[:] = np.arange(body.corners.count) % 7
        table, corners = subdivide(body.vertices, body.corners)
        self.assertEqual(corners.count, 4 * body.corners.count)
        np.testing.assert_array_equal(corners.slots["region"][:, 0, 0], np.repeat(regions(body), 4))
        flat = table["position"][corners.triangles]
        expected = np.stack((flat[..., 0] / 8 + 0.5, flat[..., 2] / 6 + 0.5), -1)
        np.testing.assert_allclose(corners.uv, expected, atol=1e-6)


class TouchedTest(unittest.TestCase):
    def test_touched_normals_equal_whole_normals_to_the_bit(self) -> None:
        body = random_surface(8)
        rows = np.array([0, 12, 24, 130, 131, 600], np.int32)
        body.vertices["position"][rows, 1] += 0.5
        around = body.rows_moved(rows)
        touched = body.vertices["normal"].copy()
        body.replaced()
        np.testing.assert_array_equal(touched, body.vertices["normal"])
        expected = {int(v) for t in body.corners.triangles if set(t.tolist()) & set(rows.tolist()) for v in t}
        self.assertEqual(around.tolist(), sorted(expected))

    def test_rows_that_move_again_find_the_mesh_as_it_is_by_then(self) -> None:
        body = random_surface(8, 80)
        body.index  # noqa: B018 - kept up to date from now on
        rows = np.arange(1500, 4500, dtype=np.int32)
        for height in (0.5, -0.5, 0.3):
            body.vertices["position"][rows, 1] += height
            around = body.rows_moved(rows)
            whole = body.copy()
            whole.replaced()
            np.testing.assert_array_equal(body.vertices["normal"], whole.vertices["normal"])
            triangles = body.corners.triangles
            expected = np.unique(triangles[np.isin(triangles, rows).any(axis=1)])
            np.testing.assert_array_equal(around, expected)
            for row in rows[::300]:
                place = body.vertices["position"][row].astype(np.float64)
                found = body.nearest(place, 1e-4)
                assert found is not None
                self.assertLess(found.distance, 1e-5)
            before = body.corners.count
            every = np.arange(before, dtype=np.int32)
            LocalRemesh(body).run(every, np.array([0.0, height, 0.0]), 2.0, 0.06, True, False)
            self.assertGreater(body.corners.count, before + 100)

    def test_ranges_cover_rows_and_little_else(self) -> None:
        rows = np.array([3, 4, 5, 80, 81, 400], np.int32)
        self.assertEqual(row_ranges(rows, 10).tolist(), [[3, 6], [80, 82], [400, 401]])
        self.assertEqual(row_ranges(rows, 75).tolist(), [[3, 82], [400, 401]])
        self.assertEqual(row_ranges(np.empty(0, np.int32)).tolist(), [])

    def test_zeros_of_which_few_are_touched(self) -> None:
        for count, kind in ((7, np.bool_), (LARGE, np.bool_), (LARGE, np.int32)):
            zeros = sparse_zeros(count, kind)
            self.assertEqual((zeros.shape, zeros.dtype), ((count,), np.dtype(kind)))
            zeros[count - 1] = 1
            self.assertEqual(np.flatnonzero(zeros).tolist(), [count - 1])

    def test_how_far_points_reach(self) -> None:
        rng = np.random.default_rng(1)
        for points in (
            rng.normal(size=(1, 3)),
            rng.normal(size=(500, 2)).astype(np.float32),
            rng.integers(-9, 9, (40, 3)),
            rng.normal(size=(250_001, 3)).astype(np.float32),  # so many are looked through in pieces
            np.where(rng.random((250_001, 2)) < 1e-5, np.nan, 1.0).astype(np.float32),
        ):
            low, high = low_high(points)
            self.assertEqual((low.dtype, high.dtype), (points.dtype, points.dtype))
            np.testing.assert_array_equal((low, high), (points.min(axis=0), points.max(axis=0)))


if __name__ == "__main__":
    unittest.main()
