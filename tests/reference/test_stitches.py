"""Stitched borders: two bodies against the same ground as one welded body, and what must hold of them whatever is done."""

import random
import tempfile
import unittest
from pathlib import Path

import numpy as np
import trimesh

from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import (
    AddBody,
    AddGround,
    AddLayer,
    ChangeGuard,
    JoinBodies,
    LayRelief,
    LockBorder,
    PlaceBody,
    SetRules,
    StitchBorders,
    Stroke,
    Subdivide,
    UnstitchBorders,
    Weld,
)
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.history import History
from hulmo.core.io.exporters import exporter_for
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.seam import Seam, border_of, seam_between
from hulmo.core.mesh.stitched import STITCHED
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.recipe import read_recipe
from hulmo.core.setting import complete
from hulmo.core.sound import check_project

ACROSS = ((-1.2, 5.0, 0.2, 0.0, -1.0, 0.0), (0.0, 5.0, 0.3, 0.0, -1.0, 0.0), (1.6, 5.0, 0.9, 0.0, -1.0, 0.0))


def patches(count: int = 2, edge: float = 0.5) -> History:
    """Sheets of 10 m that touch: two side by side, or four around one corner."""
    history = History(Project())
    places = ((-5.0, -5.0), (5.0, -5.0), (-5.0, 5.0), (5.0, 5.0)) if count == 4 else ((-5.0, 0.0), (5.0, 0.0))
    for name, (x, z) in zip("ABCD", places, strict=False):
        history.do(AddBody("sheet", {"size": 10.0, "depth": 10.0, "edge": edge}, name))
        history.do(PlaceBody(name, (x, 0.0, z)))
    return history


def seam_of(history: History, within: float = 1e-4) -> Seam:
    bodies = history.project.bodies
    return seam_between(bodies, [border_of(body) for body in bodies], within)


def spread(seam: Seam, column: str) -> float:
    """How far the vertices of a place differ at the most."""
    width = seam.bodies[0].vertices.width(column)
    values = np.zeros((seam.row.size, width))
    for which, body in enumerate(seam.bodies):
        at, rows = seam.of(which)
        values[at] = body.vertices[column][rows]
        if column == "position":
            values[at] += body.origin
    high, low = np.full((seam.count, width), -np.inf), np.full((seam.count, width), np.inf)
    np.maximum.at(high, seam.place, values)
    np.minimum.at(low, seam.place, values)
    return float((high - low).max())


def state(history: History) -> dict[tuple[str, str], bytes]:
    return {
        (body.name, name): body.vertices[name].tobytes()
        for body in history.project.bodies
        for name in body.vertices.names
    }


class StitchTest(unittest.TestCase):
    def fits(self, history: History, places: int) -> None:
        check_project(history.project)
        seam = seam_of(history)
        self.assertEqual(seam.count, places)
        for column in ("position", "normal", "weight"):
            self.assertEqual(spread(seam, column), 0.0, column)

    def test_normals_are_those_of_the_welded_mesh(self) -> None:
        # trimesh: vertex normals of one mesh, weighted by area as its merged triangles give them
        for count, places in ((2, 21), (4, 81)):
            history = patches(count)
            for body in history.project.bodies:
                history.do(LayRelief(body.name, "noise", {"height": 0.0, "size": 3.0}))
            for body in history.project.bodies:  # a ground that bends across all of them
                history.do(Stroke(body.name, "raise", ((0.3, 0.0, 0.2),), {"radius": 3.0, "strength": 80.0}))
            history.do(StitchBorders((), 0.5))
            self.fits(history, places)
            bodies = history.project.bodies
            points = np.concatenate([body.placed(body.vertices["position"]) for body in bodies])
            start = np.cumsum([0, *(body.vertices.count for body in bodies)])
            faces = np.concatenate([body.corners.triangles + first for body, first in zip(bodies, start, strict=False)])
            whole = trimesh.Trimesh(points, faces, process=False)
            whole.merge_vertices(digits_vertex=6)
            area = np.zeros((len(whole.vertices), 3))
            for k in range(3):
                np.add.at(area, whole.faces[:, k], whole.area_faces[:, None] * whole.face_normals)
            area /= np.linalg.norm(area, axis=1, keepdims=True)
            for body in bodies:
                _, at = whole.kdtree.query(body.placed(body.vertices["position"]))
                away = np.abs(area[at] - body.vertices["normal"]).max()
                self.assertLess(away, 2e-5)

    def test_strokes_over_two_bodies_are_those_on_one(self) -> None:
        for brush in ("raise", "swell", "level", "stamp", "haul", "lay"):
            history, one = patches(), patches()
            one.do(JoinBodies("A", "B"))
            one.do(Weld("A", 0.001))
            history.do(StitchBorders(("A", "B")))
            start = ((-0.5, 5.0, 0.2, 0.0, -1.0, 0.0), (1.5, 5.0, 0.5, 0.0, -1.0, 0.0))
            ground = history.project.grounds[0].name if BRUSHES[brush].needs_ground else ""
            for done, over in ((history, ("B",)), (one, ())):
                done.do(AddGround("heath", "Second"))
                done.do(Stroke("A", "raise", start, {"radius": 2.0, "strength": 60.0}, over=over))
                ground = "Second" if BRUSHES[brush].needs_ground else ""
                done.do(Stroke("A", brush, ACROSS, {"radius": 1.7}, ground, over=over))
            self.fits(history, 21)
            whole = one.project.bodies[0]
            at = whole.placed(whole.vertices["position"])
            for body in history.project.bodies:
                mine = body.placed(body.vertices["position"])
                away = np.linalg.norm(at[None, :, :] - mine[:, None, :], axis=2)
                self.assertLess(away.min(axis=1).max(), 1e-5, brush)
                weight = whole.vertices["weight"][away.argmin(axis=1)]
                self.assertLess(np.abs(weight - body.vertices["weight"]).max(), 1e-5, brush)

    def test_a_border_follows_its_neighbour(self) -> None:
        history = patches()
        history.do(StitchBorders())
        first = state(history)
        history.do(Stroke("A", "raise", ((-0.2, 0.0, 0.0),), {"radius": 2.0, "strength": 100.0}))
        self.fits(history, 21)
        second = state(history)
        self.assertNotEqual(first["B", "position"], second["B", "position"])
        history.undo()
        self.assertEqual(state(history), first)
        history.redo()
        self.assertEqual(state(history), second)
        # what is locked does not move, and holds its neighbour
        history.undo()
        history.do(LockBorder("B"))
        history.do(Stroke("A", "raise", ((-0.2, 0.0, 0.0),), {"radius": 2.0, "strength": 100.0}))
        self.fits(history, 21)
        self.assertEqual(state(history)["B", "position"], first["B", "position"])

    def test_bodies_with_layers_rules_and_a_guard_fit_as_well(self) -> None:
        history = patches(4)
        history.do(AddGround("thrift_turf", "Turf"))
        history.do(AddLayer("A", "Upper"))
        history.do(LayRelief("B", "noise", {"height": 0.2, "size": 4.0}))
        base = history.project.grounds[0].name
        steep = (Rule(base, ()), Rule("Turf", (Condition("slope", {}, high=12.0),)))
        history.do(SetRules("A", steep))
        history.do(StitchBorders((), 0.5))
        self.fits(history, 81)
        history.do(Stroke("A", "raise", ((-0.3, 0.0, -0.3),), {"radius": 2.0, "strength": 100.0}, layer="Upper"))
        self.fits(history, 81)
        history.do(Stroke("A", "lay", ((-0.3, 0.0, -0.3),), {"radius": 2.0}, "Turf"))
        self.fits(history, 81)
        history.do(ChangeGuard("D", "all"))
        held = history.project.body_named("D", "test").vertices["position"].copy()
        history.do(Stroke("C", "raise", ((-0.3, 0.0, 0.3),), {"radius": 2.0, "strength": 100.0}))
        self.fits(history, 81)
        self.assertTrue(np.array_equal(held, history.project.body_named("D", "test").vertices["position"]))

    def test_what_takes_a_body_away_lets_the_others_be(self) -> None:
        history = patches()
        history.do(StitchBorders())
        before = state(history)
        history.do(PlaceBody("B", (0.0, 3.0, 0.0)))
        check_project(history.project)
        for body in history.project.bodies:
            self.assertNotIn(STITCHED, body.vertices)
        self.assertEqual(state(history)["A", "position"], before["A", "position"])
        history.undo()
        self.assertEqual(state(history), before)
        # divided on both sides, new vertices lie in the same places; on one side, the old ones still do
        history.do(Subdivide("A"))
        self.assertEqual(spread(self.stitched(history), "normal"), 0.0)
        self.assertEqual(self.stitched(history).count, 21)
        history.do(Subdivide("B"))
        history.do(StitchBorders())
        self.fits(history, 41)
        history.do(UnstitchBorders())
        self.assertEqual(self.stitched(history).count, 0)

    def stitched(self, history: History) -> Seam:
        bodies = [body for body in history.project.bodies if STITCHED in body.vertices]
        rows = [np.flatnonzero(body.vertices[STITCHED].any(axis=1)).astype(np.int32) for body in bodies]
        return seam_between(bodies, rows, 1e-4)

    def test_random_work_on_stitched_bodies(self) -> None:
        draw = random.Random(5)
        history = patches(4, 1.0)
        history.do(AddGround("thrift_turf", "Turf"))
        history.do(StitchBorders())
        brushes = list(BRUSHES)
        for step in range(40):
            name = draw.choice(brushes)
            brush = BRUSHES[name]
            lead = draw.choice("ABCD")
            over = tuple(other for other in "ABCD" if other != lead and draw.random() < 0.5)
            place = (draw.uniform(-2, 2), 8.0, draw.uniform(-2, 2), 0.0, -1.0, 0.0)
            further = (place[0] + draw.uniform(-2, 2), 8.0, place[2] + draw.uniform(-2, 2), 0.0, -1.0, 0.0)
            settings = {"radius": draw.uniform(1.0, 3.0), "mirror": draw.choice(("none", "x"))}
            before = state(history)
            history.do_if_any(
                Stroke(lead, name, (place, further), settings, "Turf" if brush.needs_ground else "", over=over)
            )
            check_project(history.project)
            seam = self.stitched(history)
            for column in ("position", "normal", "weight"):
                self.assertEqual(spread(seam, column), 0.0, (step, name, column))
            if state(history) != before and draw.random() < 0.5:
                after = state(history)
                history.undo()
                self.assertEqual(state(history), before, name)
                history.redo()
                self.assertEqual(state(history), after, name)
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "patches.hulmo"
            save_project(history.project, file)
            again = History(open_project(file))
        for body, other in zip(history.project.bodies, again.project.bodies, strict=True):
            vertices, _ = compact(body.vertices, body.corners)  # brushes that thin out leave freed rows
            self.assertEqual(sorted(vertices.names), sorted(other.vertices.names))
            for name in vertices.names:
                np.testing.assert_array_equal(vertices[name], other.vertices[name], name)

    def test_delivered_borders_are_the_same_in_another_reader(self) -> None:
        # trimesh reads the GLB: positions, and every other attribute, of all bodies at each place of a border
        commands = read_recipe(Path(__file__).parents[2] / "docs" / "recipes" / "four-patches.json")
        history = History(Project())
        for command in commands:
            history.do(command)
        self.fits(history, 257)
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "patches.glb"
            exporter = exporter_for(file)
            exporter.write(history.project, file, complete(exporter.settings, {}, "test"), silent())
            scene = trimesh.load(file, force="scene", process=False)
        self.assertEqual(len(scene.geometry), 4)
        found: dict[bytes, list[bytes]] = {}
        moved = 0.0
        for node in scene.graph.nodes_geometry:
            matrix, name = scene.graph[node]
            mesh = scene.geometry[name]
            places = np.round(trimesh.transform_points(mesh.vertices, matrix), 5) + 0.0
            moved = max(moved, float(np.abs(places[:, 1]).max()))
            known = [mesh.vertex_normals, *(mesh.vertex_attributes[key] for key in sorted(mesh.vertex_attributes))]
            rows = np.column_stack([np.asarray(part, np.float32).reshape(len(places), -1) for part in known])
            for place, row in zip(places, rows, strict=True):
                found.setdefault(place.tobytes(), []).append(row.tobytes())
        found = {place: rows for place, rows in found.items() if len(rows) > 1}
        self.assertGreater(moved, 3.0)
        self.assertEqual(len(found), 257)
        self.assertEqual(sorted({len(rows) for rows in found.values()}), [2, 4])
        self.assertEqual([place for place, rows in found.items() if len(set(rows)) > 1], [])

    def test_what_cannot_be_is_said(self) -> None:
        history = patches()
        for command, words in (
            (StitchBorders(("A",)), "two bodies"),
            (StitchBorders(("A", "A")), "two bodies"),
            (StitchBorders(("A", "B"), float("nan")), "within"),
            (StitchBorders(("A", "B"), -1.0), "within"),
            (StitchBorders(("A", "Z")), "no body"),
            (UnstitchBorders(), "no border is stitched"),
        ):
            with self.assertRaises(InvalidInput) as caught:
                history.do(command)
            self.assertIn(words, str(caught.exception))
        history.do(PlaceBody("B", (0.5, 0.0, 0.0)))
        with self.assertRaises(InvalidInput) as caught:
            history.do(StitchBorders())
        self.assertIn("allow more", str(caught.exception))
        # borders that match in part, with other vertex counts, are stitched where they do
        history.undo()
        history.do(AddBody("sheet", {"size": 10.0, "depth": 5.0, "edge": 0.25}, "Small"))
        history.do(PlaceBody("Small", (-5.0, 0.0, 7.5)))
        history.do(StitchBorders())
        self.assertEqual(self.stitched(history).count, 21 + 20)
