"""Bodies far from zero, as maps and planets have them: everything recomputed in double precision elsewhere."""

import pathlib
import tempfile
import unittest

import numpy as np
import plyfile
import trimesh

from hulmo.core.commands import (
    AddBody,
    Bore,
    Combine,
    CopyWeights,
    DuplicateBody,
    Fill,
    GuardFrom,
    ImportBody,
    JoinBodies,
    LayRelief,
    PlaceBody,
    PlaceFigure,
    SetRules,
)
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.history import History
from hulmo.core.io.exporters import exporter_for
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.measure import measure
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.setting import complete
from hulmo.render.still import still
from tests.bodies import snapshot, stroke

UP = np.array([0.0, 10.0, 0.0])
EARTH = np.array([6_371_000.25, -1234.5, 4_500_000.125])
"""Metres; the first is the mean radius of the Earth (IUGG)."""


def world(body: Body) -> np.ndarray:
    return body.vertices["position"].astype(np.float64) + body.origin


class FarTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)

    def test_imports_are_recentred_before_they_are_rounded(self) -> None:
        ball = trimesh.creation.icosphere(3, 10.0)
        place = ball.vertices + EARTH
        vertex = np.empty(len(place), [(axis, "f8") for axis in "xyz"])
        for i, axis in enumerate("xyz"):
            vertex[axis] = place[:, i]
        face = np.empty(len(ball.faces), [("vertex_indices", "i4", (3,))])
        face["vertex_indices"] = ball.faces
        elements = [plyfile.PlyElement.describe(vertex, "vertex"), plyfile.PlyElement.describe(face, "face")]
        plyfile.PlyData(elements).write(str(self.folder / "a.ply"))
        scene = trimesh.Scene()
        scene.add_geometry(ball, transform=trimesh.transformations.translation_matrix(EARTH))
        scene.export(self.folder / "a.glb")
        for name in ("a.ply", "a.glb"):
            history = History(Project())
            history.do(ImportBody(str(self.folder / name)))
            body = history.project.bodies[0]
            found = world(body)
            order = [np.lexsort(values.round(4).T) for values in (found, place)]
            self.assertLess(float(np.abs(found[order[0]] - place[order[1]]).max()), 1e-3)
            # growing and refining end, and do what they do near zero
            history.do(stroke_on(body, "refine", EARTH + UP, radius=4.0, edge=0.3))
            history.do(stroke_on(body, "raise", EARTH + UP, radius=4.0, height=1.0, grow="both", edge=0.3))
            self.assertAlmostEqual(float(world(body)[:, 1].max() - EARTH[1]), 10.5, delta=0.02)

    def test_the_same_work_far_out_gives_the_same_shape(self) -> None:
        shapes = []
        for place in (np.zeros(3), np.round(EARTH)):
            at = tuple(place.tolist())
            history = History(Project())
            do = history.do
            do(AddBody("sheet", {"size": 20.0, "depth": 20.0, "edge": 0.5}, "Body", at))
            body = history.project.bodies[0]
            do(stroke_on(body, "raise", place, place + at_(4, 0, 2), radius=4.0, height=2.0))
            do(stroke_on(body, "level", place + at_(5, 0, 5), plane="height", level=float(place[1]) + 0.5, radius=3.0))
            do(
                LayRelief(
                    "Body", "noise", {"height": 0.2, "height_low": float(place[1]) + 0.2 if place[1] > -1e5 else 0}
                )
            )
            do(GuardFrom("Body", "height", low=float(place[1]) + 1.2))
            do(SetRules("Body", (Rule("Thrift turf", (Condition("height", {"level": float(place[1])}, high=0.4),)),)))
            do(Fill("Body", "Shell sand", "connected", strength=0.3, point=at))
            do(AddBody("block", {"size": 3.0, "height": 3.0, "depth": 3.0, "edge": 0.5}, "Rock", at))
            do(AddBody("icosphere", {"radius": 1.5, "edge": 0.4}, "Ball", tuple((place + at_(1.0, 3.0, 0.5)).tolist())))
            do(Combine("Rock", "Ball", "cut", keep=True))
            do(Bore("Rock", tuple(tuple((place + p).tolist()) for p in ((-3, 1, 0.3), (3, 1, 0.3))), 0.4, edge=0.2))
            do(DuplicateBody("Rock", "Two", (2.0, 0.0, 1.0)))
            do(PlaceBody("Two", turn=(10.0, 20.0, 30.0), scale=(1.5, 1.0, 1.0)))
            do(JoinBodies("Rock", "Two"))
            do(CopyWeights("Rock", "Body", 2.0))
            do(stroke_on(body, "roughen", place + at_(3, 0, 1), mirror="none", radius=3.0))
            shapes.append({entry.name: entry for entry in history.project.bodies})
            if at[0]:
                save_project(history.project, self.folder / "far.hulmo")
                again = open_project(self.folder / "far.hulmo")
                for one, two in zip(again.bodies, history.project.bodies, strict=True):
                    self.assertEqual((snapshot(one), one.origin), (snapshot(two), two.origin))
                for ending in ("glb", "ply"):
                    exporter = exporter_for(self.folder / f"far.{ending}")
                    exporter.write(
                        history.project, self.folder / f"far.{ending}", complete(exporter.settings, {}, ""), silent()
                    )
                scene = trimesh.load(self.folder / "far.glb", process=False)
                for one in history.project.bodies:
                    matrix, name = scene.graph.get(one.name)
                    points = scene.geometry[name].vertices.astype(np.float64) @ matrix[:3, :3].T + matrix[:3, 3]
                    np.testing.assert_allclose(points, world(one), atol=1e-6)
                data = plyfile.PlyData.read(str(self.folder / "far.ply"))["vertex"]
                every = np.concatenate([world(one) for one in history.project.bodies])
                np.testing.assert_allclose(np.column_stack([data[axis] for axis in "xyz"]), every, atol=1e-6)
        for name, near in shapes[0].items():
            far = shapes[1][name]
            one, two = measure(far), measure(near)
            self.assertAlmostEqual(one.area / two.area, 1.0, delta=0.01)
            np.testing.assert_allclose(np.array(one.low) - np.round(EARTH), two.low, atol=2e-2)
            if (
                name == "Rock"
            ):  # which triangles a boolean makes hangs on the last bit, and bumps of a passage on its place
                self.assertAlmostEqual((one.volume or 0) / (two.volume or 1), 1.0, delta=0.01)
                continue
            np.testing.assert_allclose(world(far) - np.round(EARTH), world(near), atol=1e-3, err_msg=name)
            np.testing.assert_array_equal(far.corners.vertex, near.corners.vertex)
            for column in ("weight", "guard"):
                if column in near.vertices:
                    np.testing.assert_allclose(far.vertices[column], near.vertices[column], atol=2e-3)

    def test_it_is_moved_out_and_back_and_drawn_there(self) -> None:
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.5}, "Body"))
        history.do(PlaceFigure((0.0, 5.0, 0.0)))
        near = np.asarray(still(history.project, (160, 120), "form"), float)
        first = world(history.project.bodies[0])
        move = tuple((EARTH * 3).tolist())
        history.do(PlaceBody("Body", move=move))
        history.do(PlaceFigure(tuple((np.array(move) + at_(0, 5, 0)).tolist())))
        body = history.project.bodies[0]
        self.assertTrue(body.far)
        np.testing.assert_allclose(world(body) - EARTH * 3, first, atol=1e-3)
        for look in ("form", "lit", "height", "mesh"):
            far = np.asarray(still(history.project, (160, 120), look), float)
            if look == "form":
                self.assertLess(float(np.abs(far - near).mean()), 1.5)
        history.do(PlaceBody("Body", move=tuple((-EARTH * 3).tolist())))
        np.testing.assert_allclose(world(body), first, atol=1e-3)
        with self.assertRaisesRegex(InvalidInput, "at the most|from zero"):
            history.do(PlaceBody("Body", move=(1e300, 0.0, 0.0)))


def at_(*place: float) -> np.ndarray:
    return np.array(place, float)


def stroke_on(body: Body, brush: str, *places: np.ndarray, **settings: object) -> object:
    samples = tuple((p[0], p[1] + 30.0, p[2], 0.0, -1.0, 0.0) for p in places)
    made = stroke(brush, *samples, **{"strength": 100.0 if brush != "raise" else 50.0, **settings})
    settings = {key: value for key, value in made.settings.items() if brush != "refine" or key != "strength"}
    return type(made)(body.name, made.brush, made.samples, settings)


if __name__ == "__main__":
    unittest.main()
