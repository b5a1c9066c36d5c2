"""Operations on whole bodies: what they keep, what they refuse, what imports are mended to."""

import pathlib
import tempfile
import unittest

import numpy as np
import trimesh

from hulmo.core.commands import (
    AddBody,
    Bore,
    ChangeBody,
    Combine,
    Cure,
    DuplicateBody,
    EvenOut,
    FillBorders,
    FlipFaces,
    GuardFrom,
    ImportBody,
    JoinBodies,
    LayRelief,
    MirrorBody,
    PlaceBody,
    Recast,
    Reduce,
    SplitBody,
    Subdivide,
    Weld,
)
from hulmo.core.errors import FileProblem, HulmoError, InvalidInput
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.measure import measure
from hulmo.core.project import Project
from hulmo.core.topology.cut_planes import cut_planes
from hulmo.core.topology.mend import mend
from hulmo.core.topology.piece import off_rim, put_back, taken_out
from hulmo.core.topology.split_edges import split_edges
from hulmo.core.topology.turn_edges import turn_edges
from tests.bodies import form_body, project_with, regions, snapshot, stroke


def sound(test: unittest.TestCase, body: Body) -> None:
    """Connectivity as a fresh build has it; weights sum to 1; layers add up; the index answers."""
    vertices, corners = compact(body.vertices, body.corners)
    fresh = CornerTable.from_triangles(corners.triangles, vertices.count)
    np.testing.assert_array_equal(corners.opposite, fresh.opposite)
    weight = vertices["weight"]
    np.testing.assert_allclose(weight.sum(axis=1), 1, atol=1e-4)
    test.assertGreaterEqual(float(weight.min()), 0.0)
    total = vertices["rest" if body.layers else "position"].copy()
    for layer in body.layers:
        if layer.share:
            total = total + np.float32(layer.share) * vertices[layer.column]
    np.testing.assert_allclose(vertices["position"], total, atol=1e-4)
    for name in body.vertices.names:
        test.assertTrue(np.isfinite(body.vertices[name]).all(), name)
    middle = body.bounds().centre
    test.assertIsNotNone(body.nearest(middle))


def _inner_edges(corners: CornerTable) -> np.ndarray:
    """(M, 3) all edges but those of borders."""
    return (corners.opposite >= 0).reshape(-1, 3)


class OperationTest(unittest.TestCase):
    def test_any_sequence_stays_sound_and_undo_restores_every_byte(self) -> None:
        for seed in range(3):
            rng = np.random.default_rng(seed)
            history = project_with("icosphere", radius=4.0, edge=0.6)
            project, body = history.project, history.project.bodies[0]
            history.do(LayRelief("Body", "noise", {"height": 0.3, "size": 2.0}))
            history.do(stroke("lay", (9.0, 0, 0, -1, 0, 0), ground="Shell sand", radius=2.5, strength=90.0))
            history.do(GuardFrom("Body", "height", 2.0, 9.0, 0.5))
            states = [(len(project.bodies), snapshot(body))]
            for step in range(16):
                way = rng.standard_normal(3)
                way *= 8 / np.linalg.norm(way)
                commands = [
                    Reduce("Body", share=0.7), Recast("Body", 0.7, "surface", 2), Subdivide("Body", bool(rng.integers(2))),
                    EvenOut("Body", 3),
                    Weld("Body", 0.05), FlipFaces("Body"), MirrorBody("Body", "xyz"[int(rng.integers(3))]),
                    PlaceBody("Body", (0.1, 0, 0), tuple(rng.uniform(-40, 40, 3)), (1.0, 1.1, 0.9)),
                    Bore("Body", (tuple(way), (0.0, 0.0, 0.0), tuple(-way)), radius=0.7, seed=step, ground="Thrift turf"),
                    stroke("raise", (*way, *(-way)), radius=1.5), stroke("smooth", (*way, *(-way)), radius=2.0),
                    stroke("swell", (*way, *(-way)), radius=1.5, grow="both", edge=0.4), Cure("Body", "thin"),
                ]  # fmt: skip
                command = commands[int(rng.integers(len(commands)))]
                if isinstance(command, Subdivide) and body.corners.live_count > 15_000:
                    continue
                try:
                    history.do(command)
                except InvalidInput:
                    continue
                sound(self, body)
                states.append((len(project.bodies), snapshot(body)))
            self.assertGreater(len(states), 8)
            after = snapshot(body)
            for count, state in reversed(states[:-1]):
                self.assertTrue(history.undo())
                self.assertEqual((len(project.bodies), snapshot(body)), (count, state))
            while history.redo():
                pass
            self.assertEqual(snapshot(body), after)

    def test_a_bore_takes_its_ground_and_leaves_the_rest(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.3)
        body = history.project.bodies[0]
        regions(body)[body.vertices["position"][body.corners.triangles].mean(axis=1)[:, 1] > 1.5] = 3
        history.do(Bore("Body", ((-9.0, 0, 0), (9.0, 0, 0)), radius=1.0, irregularity=0.0, ground="Shell sand"))
        away = np.hypot(*body.vertices["position"][:, 1:].T)
        inside = np.linalg.norm(body.vertices["position"], axis=1) < 4.4
        np.testing.assert_allclose(away[inside], 1.0, atol=0.08)
        np.testing.assert_allclose(body.vertices["weight"][inside, 3], 1.0, atol=0.02)  # rims are remeshed, and blend
        np.testing.assert_allclose(body.vertices["weight"][away > 1.5, 0], 1.0, atol=1e-5)
        triangles = body.corners.live_triangles()
        upper = body.vertices["position"][triangles].mean(axis=1)[:, 1] > 1.5
        region = regions(body)[body.corners.triangles[:, 0] >= 0]
        self.assertEqual((set(region[upper].tolist()), 3 in region[~upper]), ({3}, False))
        history.do(
            stroke("raise", (-3.0, 0, 0, 0, 1, 0), radius=0.5, height=0.1, strength=100.0)
        )  # from inside the passage
        sound(self, body)

    def test_bodies_are_named_hidden_locked_joined_split_and_saved(self) -> None:
        history = project_with("icosphere", radius=2.0, edge=0.5)
        do, project = history.do, history.project
        do(LayRelief("Body", "jitter", {}))
        do(DuplicateBody("Body", "Twin", (6.0, 0, 0)))
        twin = project.bodies[1]
        self.assertEqual(twin.layers, project.bodies[0].layers)
        np.testing.assert_allclose(twin.bounds().centre[0] - project.bodies[0].bounds().centre[0], 6.0, atol=1e-5)
        do(ChangeBody("Twin", name="Rock", shown=False, locked=True))
        with self.assertRaisesRegex(InvalidInput, "is locked; unlock it first"):
            do(stroke("raise", (0.0, 9, 0, 0, -1, 0)).__class__("Rock", "raise", ((6.0, 9, 0, 0, -1, 0),)))
        with tempfile.TemporaryDirectory() as folder:
            file = pathlib.Path(folder) / "a.hulmo"
            save_project(project, file)
            again = open_project(file).bodies[1]
            self.assertEqual((again.name, again.shown, again.locked), ("Rock", False, True))
        shapes = [measure(body) for body in project.bodies]
        do(JoinBodies("Body", "Rock"))
        (body,) = project.bodies
        self.assertEqual(measure(body).parts, 2)
        self.assertAlmostEqual(measure(body).area, shapes[0].area + shapes[1].area, delta=1e-3)
        sound(self, body)
        do(SplitBody("Body"))
        self.assertEqual([entry.name for entry in project.bodies], ["Body", "Body 2"])
        for entry, was in zip(project.bodies, shapes, strict=True):
            self.assertEqual(measure(entry).vertices, was.vertices)
            sound(self, entry)
        do(PlaceBody("Body", (1.0, 2.0, 3.0), (0.0, 90.0, 0.0), (2.0, 1.0, 1.0)))
        volume = measure(project.bodies[0]).volume
        assert volume is not None and shapes[0].volume is not None
        self.assertAlmostEqual(volume, 2 * shapes[0].volume, delta=1e-2)
        before = volume
        do(MirrorBody("Body", "y"))
        volume = measure(project.bodies[0]).volume
        assert volume is not None
        self.assertAlmostEqual(volume, before, delta=1e-3, msg="a mirrored body still faces outward")

    def test_borders_are_filled_and_kept_by_reduction(self) -> None:
        history = project_with("sheet", size=6.0, depth=6.0, edge=0.3)
        body = history.project.bodies[0]
        body.vertices["position"][:, 1] = np.sin(body.vertices["position"][:, 0]).astype(np.float32) * 0.5
        body.replaced()
        before = body.bounds()
        history.do(Reduce("Body", share=0.4))
        self.assertAlmostEqual(body.corners.live_count / 800, 0.4, delta=0.02)
        np.testing.assert_allclose(
            np.stack((body.bounds().low, body.bounds().high)), np.stack((before.low, before.high)), atol=0.02
        )
        assert body.corners.uv is not None
        wanted = body.vertices["position"][body.corners.triangles][..., 0] / 6 + 0.5
        np.testing.assert_allclose(body.corners.uv[..., 0], wanted, atol=0.02)
        history.do(FillBorders("Body"))
        self.assertTrue(measure(body).closed)
        with self.assertRaisesRegex(InvalidInput, "closed already"):
            history.do(FillBorders("Body"))

    def test_what_cannot_be_is_said_before_anything_changes(self) -> None:
        history = project_with("icosphere", radius=3.0, edge=0.5)
        history.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.4}, "Small", (20.0, 0, 0)))
        history.do(AddBody("sheet", {"size": 4.0, "depth": 4.0, "edge": 0.5}, "Sheet"))
        history.do(AddBody("icosphere", {"radius": 9.0, "edge": 0.8}, "Whale"))
        states = [snapshot(body) for body in history.project.bodies]
        for command, words in (
            (Combine("Body", "Small", "cut"), "do not meet"),
            (Combine("Body", "Whale", "cut"), "nothing would be left"),
            (Combine("Body", "Sheet"), "'Sheet' is open"),
            (Combine("Body", "Body"), "with itself"),
            (Combine("Body", "Small", "weld"), "how is 'weld'"),
            (Bore("Body", ((50.0, 0, 0), (60.0, 0, 0))), "do not meet"),
            (Bore("Body", ((5.0, 0, 0),)), "at least two points"),
            (Bore("Body", ((5.0, 0, 0), (float("nan"), 0, 0))), "finite"),
            (Bore("Body", ((5.0, 0, 0), (-5.0, 0, 0)), radius=0.0), "radius is 0"),
            (Bore("Body", ((5.0, 0, 0), (-5.0, 0, 0)), edge=0.002, radius=2.0), "choose a longer edge"),
            (Bore("Sheet", ((0.0, 5, 0), (0.0, -5, 0))), "is open"),
            (Reduce("Body", count=3), "at least 4"),
            (Reduce("Body", share=1.5), "between 0 and 1"),
            (Reduce("Body"), "exactly one"),
            (Weld("Body", 50.0), "longer than the edges"),
            (Weld("Body", 0.0), "between 0 and 1000"),
            (Bore("Body", ((-3.0, 1.0, 0.0), (3.0, 65_536.0, 0.0)), radius=0.3, edge=0.2), "shorter path"),
            (Recast("Body", 0.00005), "edge is 5e-05"),
            (Recast("Body", 0.0005), "choose a longer edge"),
            (SplitBody("Body"), "one connected part"),
            (PlaceBody("Body", scale=(0.0, 1.0, 1.0)), "scale must lie"),
            (ChangeBody("Body", name="Small"), "already is a body"),
            (EvenOut("Body", 0), "between 1 and 200"),
        ):
            with self.subTest(words), self.assertRaisesRegex(InvalidInput, words):
                history.do(command)
            self.assertEqual([snapshot(body) for body in history.project.bodies], states)


class ImportTest(unittest.TestCase):
    def setUp(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self.folder = pathlib.Path(self._folder.name)
        self.addCleanup(self._folder.cleanup)

    def bring(self, name: str) -> tuple[Body, str]:
        history = History(Project())
        edit = history.do(ImportBody(str(self.folder / name)))
        sound(self, history.project.bodies[0])
        return history.project.bodies[0], edit.label

    def test_a_mesh_of_another_library_comes_in_whole(self) -> None:
        torus = trimesh.creation.torus(5.0, 1.5, major_sections=60, minor_sections=30)
        for ending in ("obj", "ply", "stl", "glb"):
            torus.export(self.folder / f"t.{ending}")
            body, label = self.bring(f"t.{ending}")
            figures = measure(body)
            self.assertEqual((figures.genus, figures.closed, figures.vertices), (1, True, 1800), ending)
            assert figures.volume is not None
            self.assertAlmostEqual(figures.volume, torus.volume, delta=1e-3)
            self.assertEqual("made one" in label, ending == "stl")
        history = History(Project())
        history.do(ImportBody(str(self.folder / "t.ply"), scale=0.01, up="z"))
        extent = history.project.bodies[0].bounds()
        np.testing.assert_allclose(extent.high - extent.low, [0.13, 0.03, 0.13], atol=1e-3)

    def test_what_is_damaged_is_mended_or_refused(self) -> None:
        box = trimesh.creation.box()
        v, f = np.array(box.vertices), np.array(box.faces)

        def put(name: str, vertices: np.ndarray, faces: np.ndarray) -> None:
            trimesh.Trimesh(vertices, faces, process=False).export(self.folder / name)

        put("wound.obj", v, np.vstack((f[:1, ::-1], f[1:])))
        put("inside.obj", v, f[:, ::-1])
        put("twice.obj", v, np.vstack((f, f[:2])))
        put("flat.obj", v, np.vstack((f, [[0, 0, 1]])))
        put("three.obj", np.vstack((v, [[0, 0, 3]])), np.vstack((f, [[f[0, 0], f[0, 1], 8]])))
        put("touch.obj", np.random.default_rng(0).random((5, 3)), np.array([[0, 1, 2], [0, 3, 4]]))
        (self.folder / "nan.obj").write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nv nan 0 0\nf 1 2 3\nf 1 2 4\n")
        (self.folder / "many.obj").write_text("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv -1 .5 0\nf 1 2 3 4 5\n")
        (self.folder / "climb.obj").write_text("mtllib ../../../x.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
        for name, closed, triangles, words in (
            ("wound.obj", True, 12, "1 triangles turned over"),
            ("inside.obj", True, 12, "12 triangles turned over: they faced"),
            ("twice.obj", True, 12, "2 triangles left out: they were there twice"),
            ("flat.obj", True, 12, "two corners are the same"), ("three.obj", True, 12, "stand on an edge"),
            ("touch.obj", False, 2, "1 vertices doubled"), ("nan.obj", False, 1, "not finite"), ("many.obj", False, 3, ""),
            ("climb.obj", False, 1, ""),
        ):  # fmt: skip
            with self.subTest(name):
                body, label = self.bring(name)
                self.assertIn(words, label)
                self.assertEqual((measure(body).closed, body.corners.live_count), (closed, triangles))
        for ending in ("glb", "ply", "stl"):
            box.export(self.folder / f"b.{ending}")
            data = (self.folder / f"b.{ending}").read_bytes()
            (self.folder / f"half.{ending}").write_bytes(data[: len(data) // 2])
        (self.folder / "range.obj").write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n")
        (self.folder / "none.obj").write_text("v 0 0 0\n")
        (self.folder / "empty.ply").write_text("")
        for name, words in (
            ("half.glb", "damaged"), ("half.ply", "damaged"), ("half.stl", "damaged|no triangles"), ("range.obj", "damaged"),
            ("none.obj", "no triangles"), ("empty.ply", "damaged"), ("gone.obj", "cannot be read"),
            ("a.txt", "choose one of .obj"),
        ):  # fmt: skip
            with self.subTest(name), self.assertRaisesRegex(FileProblem, f"{name}.*{words}"):
                self.bring(name)
        with self.assertRaises(HulmoError):
            History(Project()).do(ImportBody(str(self.folder / "wound.obj"), scale=0.0))

    def test_a_fin_does_not_turn_a_box_inside_out(self) -> None:
        box = trimesh.creation.box()
        for inward in (False, True):
            v = np.vstack((box.vertices, [[2.0, 2.0, 2.0]]))
            faces = box.faces[:, ::-1] if inward else box.faces
            fin = [[faces[0, 0], faces[0, 1], 8]]
            trimesh.Trimesh(v, np.vstack((fin, faces)), process=False).export(self.folder / "fin.obj")
            body, label = self.bring("fin.obj")
            found = measure(body)
            self.assertEqual((found.closed, found.parts), (True, 1), label)
            assert found.volume is not None
            self.assertAlmostEqual(found.volume, 1.0, places=6)

    def test_a_weld_beyond_the_edges_is_refused_and_one_below_them_does_not_chain(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.5)
        before = snapshot(history.project.bodies[0])
        with self.assertRaisesRegex(HulmoError, "weld.*edge"):
            history.do(Weld("Body", 0.8))
        self.assertEqual(snapshot(history.project.bodies[0]), before)
        history.do(Weld("Body", 0.51))  # every vertex has a neighbour that near
        found = measure(history.project.bodies[0])
        self.assertGreater(found.triangles, 20)
        self.assertGreater(found.area, 0.8 * 64.0)

    def test_recasting_by_volume_leaves_no_crumbs(self) -> None:
        history = project_with("icosphere", radius=4.0, edge=0.4)
        history.do(AddBody("icosphere", {"radius": 0.1, "edge": 0.1}, "Speck", (6.0, 0.0, 0.0)))
        history.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.4}, "Stone", (0.0, 8.0, 0.0)))
        for name in ("Speck", "Stone"):
            history.do(JoinBodies("Body", name))
        history.do(Recast("Body", 0.4, "volume"))
        found = measure(history.project.bodies[0])
        self.assertEqual((found.parts, found.closed), (2, True), "the stone stays, the speck is smaller than the mesh")

    def test_divided_and_turned_edges_join_as_triangles_from_scratch_do(self) -> None:
        # who lies across is worked out from who lay there before: it must be what the triangles alone say
        rng = np.random.default_rng(11)
        for form in ("sheet", "icosphere"):
            body = project_with(form).project.bodies[0]
            vertices, corners = body.vertices, body.corners
            for share in (0.01, 0.2, 0.6, 1.0, 0.05):
                for turn in (False, True):
                    edges = rng.random(3 * corners.count) < share
                    across = corners.opposite[edges]
                    edges[across[across >= 0]] = True
                    if turn:
                        corners, _ = turn_edges(corners, edges.reshape(-1, 3), vertices.count)
                    else:
                        vertices, corners, _ = split_edges(vertices, corners, edges.reshape(-1, 3))
                    again = CornerTable.from_triangles(corners.triangles, vertices.count)
                    np.testing.assert_array_equal(corners.opposite, again.opposite)
                    np.testing.assert_array_equal(corners.first_corner, again.first_corner)
            faces = rng.random(corners.count) < 0.3
            piece = taken_out(vertices, corners, faces)
            made, inner, _ = split_edges(piece.vertices, piece.corners, _inner_edges(piece.corners))
            _, whole, _ = put_back(vertices, corners, piece, made, inner)
            again = CornerTable.from_triangles(whole.triangles, whole.first_corner.size)
            np.testing.assert_array_equal(whole.opposite, again.opposite)
            triangles, rim = piece.corners.triangles, ~off_rim(piece)
            beside = np.unique(triangles[rim[triangles].any(axis=1)])
            at = int(np.setdiff1d(triangles, beside)[0])  # a hole off the rim
            left = ~(triangles == at).any(axis=1)
            holed = CornerTable.from_triangles(piece.corners.triangles[left], piece.vertices.count)
            _, whole, _ = put_back(vertices, corners, piece, piece.vertices, holed)
            again = CornerTable.from_triangles(whole.triangles, whole.first_corner.size)
            np.testing.assert_array_equal(whole.opposite, again.opposite)

    def test_parallel_planes_cut_as_one_after_the_other(self) -> None:
        # far enough apart they are cut at once, with the very same places; closer ones make about as many triangles
        rng = np.random.default_rng(4)
        for form, count in (("sheet", 3), ("icosphere", 2), ("icosphere", 40), ("column", 60)):
            body = project_with(form).project.bodies[0]
            normal = rng.normal(size=3)
            normal /= np.linalg.norm(normal)
            height = body.vertices["position"].astype(float) @ normal
            places = np.linspace(height.min(), height.max(), count + 2)[1:-1].tolist()
            vertices, corners = cut_planes(body.vertices, body.corners, normal, places)
            one, table = body.vertices, body.corners
            for place in places:
                one, table = cut_planes(one, table, normal, [place])
            again = CornerTable.from_triangles(corners.triangles, vertices.count)
            np.testing.assert_array_equal(corners.opposite, again.opposite)
            reach = max(
                float(np.abs(height[body.corners.triangles] - height[np.roll(body.corners.triangles, 1, 1)]).max()), 0
            )
            apart = np.ptp(places) / (count - 1) > reach
            self.assertEqual(apart, count < 4)
            if apart:
                mine, theirs = (np.unique(table_["position"], axis=0) for table_ in (vertices, one))
                np.testing.assert_array_equal(mine, theirs)
            self.assertLess(vertices.count, 1.2 * one.count)
            # nothing is left that reaches over a plane but by what counts as on it
            high = (vertices["position"].astype(float) @ normal)[corners.triangles]
            low, size = high.min(axis=1), np.ptp(high, axis=1)
            over = [(low < p - 0.01 * size - 1e-5) & (high.max(axis=1) > p + 0.01 * size + 1e-5) for p in places]
            self.assertLess(np.mean(np.any(over, axis=0)), 0.002)

    def test_any_heap_of_triangles_becomes_a_manifold(self) -> None:
        for seed in range(40):
            rng = np.random.default_rng(seed)
            if seed % 2:
                triangles = rng.integers(-1, 12, (rng.integers(1, 60), 3))
                position = rng.random((11, 3))
            else:  # a good mesh with some triangles turned, doubled and torn
                body = form_body("icosphere", radius=1.0, edge=0.5)
                triangles = body.corners.live_triangles().astype(np.int64).copy()
                turn = rng.random(len(triangles)) < 0.3
                triangles[turn] = triangles[turn][:, ::-1]
                triangles = np.concatenate((triangles, triangles[rng.integers(0, len(triangles), 9)]))
                position = body.vertices["position"]
            result = mend(position, triangles)
            table = CornerTable.from_triangles(result.triangles, result.source.size)  # raises when it is none
            if seed % 2 == 0:
                self.assertEqual(table.border_corners().size, 0)
                self.assertGreater(
                    trimesh.Trimesh(position[result.source], result.triangles, process=False).volume, 3.0
                )


if __name__ == "__main__":
    unittest.main()
