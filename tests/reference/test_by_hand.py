"""Vertices, edges and faces by hand: counts, Euler's characteristic, prisms, shells and circles against closed forms."""

import math
import pathlib
import random
import tempfile
import unittest

import numpy as np
import trimesh

from hulmo.core.by_hand import soft
from hulmo.core.by_hand.choice import amount, as_domain, chosen
from hulmo.core.commands import (
    AddBody,
    BridgeChosen,
    Cap,
    ChangeGuard,
    ChooseParts,
    CollapseChosen,
    Command,
    CutLevels,
    DeleteChosen,
    EvenChosen,
    ExtendBorder,
    Extrude,
    FillChosen,
    Inset,
    JitterChosen,
    JoinBodies,
    KeepChoice,
    LayRelief,
    LockBorder,
    MoveChosen,
    PlaceBody,
    PlantVertex,
    SetCrease,
    SetFacets,
    SplitChosen,
    StandBody,
    Subdivide,
    Thicken,
    TurnEdges,
)
from hulmo.core.errors import HulmoError, InvalidInput
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.edge_ends import edge_ends
from hulmo.core.mesh.measure import measure
from hulmo.core.sound import check_project
from tests.bodies import project_with, stroke


def counts(body: Body) -> tuple[int, int, int]:
    """Vertices, edges, faces, as a general-purpose library counts them."""
    mesh = trimesh.Trimesh(body.vertices["position"], body.corners.live_triangles(), process=False)
    return len(np.unique(mesh.faces)), len(mesh.edges_unique), len(mesh.faces)


def square(times: int = 0) -> History:
    """A square of 4 m, two triangles split in four so many times."""
    history = project_with("sheet", size=4.0, depth=4.0, edge=4.0)
    for _ in range(times):
        history.do(Subdivide("Body", False))
    return history


def top(history: History) -> ChooseParts:
    """Choose the upper side of a block."""
    return ChooseParts("Body", "face", "facing", high=1.0)


class ChoiceTest(unittest.TestCase):
    def test_rings_of_a_divided_square(self) -> None:
        # common practice, no source: two triangles split four times are 512; rings of a 16 x 16 grid hold 4 (17 - 2 n)
        # squares, of two triangles each
        history = square(4)
        body = history.project.bodies[0]
        self.assertEqual(body.corners.count, 512)
        for step in (1, 2, 3, 8):
            history.do(ChooseParts("Body", "face", "ring", steps=step))
            self.assertEqual(int(chosen(body, "face").sum()), 8 * (17 - 2 * step))

    def test_domains_grow_shrink_and_amounts(self) -> None:
        history = square(3)
        body = history.project.bodies[0]
        do = history.do
        do(ChooseParts("Body", "edge", "border"))
        self.assertEqual(
            (amount(body, "edge", chosen(body, "edge")).count, amount(body, "edge", chosen(body, "edge")).size),
            (32, 16.0),
        )
        do(ChooseParts("Body", "vertex", "as", source="edge"))
        self.assertEqual(int(chosen(body, "vertex").sum()), 32)
        do(ChooseParts("Body", "vertex", "grow"))
        self.assertEqual(int(chosen(body, "vertex").sum()), 32 + 24)
        do(ChooseParts("Body", "vertex", "shrink"))
        # what touches nothing that is not chosen: the border again, and two corners whose only inner neighbours are chosen
        self.assertEqual(int(chosen(body, "vertex").sum()), 34)
        do(ChooseParts("Body", "vertex", "border"))
        do(ChooseParts("Body", "vertex", "invert"))
        self.assertEqual(int(chosen(body, "vertex").sum()), 49)
        do(ChooseParts("Body", "face", "as", source="vertex"))
        self.assertAlmostEqual(amount(body, "face", chosen(body, "face")).size, 9.0)
        do(ChooseParts("Body", "edge", "rim"))
        self.assertEqual(amount(body, "edge", chosen(body, "edge")).size, 12.0)
        do(ChooseParts("Body", "face", "all"))
        do(ChooseParts("Body", "face", "random", share=0.3, seed=4))
        self.assertAlmostEqual(float(chosen(body, "face").mean()), 0.3, delta=0.1)
        middle = body.vertices["position"][:, (0, 2)]
        a, b = (int(np.flatnonzero((np.abs(middle - at) < 1e-6).all(axis=1))[0]) for at in ((0, 0), (0.5, 0)))
        do(ChooseParts("Body", "edge", "loop", these=(a, b)))
        self.assertEqual(amount(body, "edge", chosen(body, "edge")).size, 4.0)
        at = int(body.corners.border_corners()[0])
        ends = tuple(int(rows[0]) for rows in edge_ends(body.corners, np.array([at])))
        do(ChooseParts("Body", "edge", "loop", these=ends))
        self.assertEqual(
            amount(body, "edge", chosen(body, "edge")).size, 16.0, "a border is followed round its corners"
        )

    def test_what_is_chosen_stays_so_when_vertices_come(self) -> None:
        history = square(4)
        history.do(ChooseParts("Body", "face", "facing"))
        history.do(ChooseParts("Body", "face", "none"))
        body = history.project.bodies[0]
        left = np.flatnonzero(body.vertices["position"][body.corners.triangles].mean(axis=1)[:, 0] < 0)
        history.do(ChooseParts("Body", "face", these=tuple(left.tolist())))
        for command in (Subdivide("Body", False), stroke("refine", (-1, 0, 0), (0.5, 0, 0), radius=1.0, edge=0.05)):
            history.do(command)
            self.assertAlmostEqual(amount(body, "face", chosen(body, "face")).size, 8.0, delta=0.15)
        live = body.corners.triangles[:, 0] >= 0
        right = live & (body.vertices["position"][body.corners.triangles][..., 0].min(axis=1) > 0.1)
        self.assertFalse((chosen(body, "face") & right).any())


class EulerTest(unittest.TestCase):
    """Changes of V, E and F that each operation makes by its rule."""

    def changed(self, history: History, command: Command) -> tuple[int, ...]:
        body = history.project.bodies[0]
        before = counts(body)
        history.do(command)
        check_project(history.project)
        return tuple(np.subtract(counts(body), before).tolist())

    def inner_edge(self, body: Body) -> tuple[int, ...]:
        corners = body.corners
        inner = np.flatnonzero((corners.opposite >= 0) & (corners.vertex >= 0))
        for corner in inner[len(inner) // 3 :].tolist():
            base = corner - corner % 3
            a, b = int(corners.vertex[base + (corner + 1) % 3]), int(corners.vertex[base + (corner + 2) % 3])
            if not corners.is_border(a) and not corners.is_border(b):
                return a, b
        raise AssertionError

    def test_each_by_its_rule(self) -> None:
        history = square(3)
        body = history.project.bodies[0]
        edge = self.inner_edge(body)
        history.do(ChooseParts("Body", "edge", these=edge))
        self.assertEqual(self.changed(history, SplitChosen("Body")), (1, 3, 2))
        history.undo()
        self.assertEqual(self.changed(history, CollapseChosen("Body")), (-1, -3, -2))
        history.undo()
        self.assertEqual(self.changed(history, TurnEdges("Body")), (0, 0, 0))
        self.assertEqual(int(chosen(body, "edge").sum()), 2, "the turned edge stays chosen")
        history.undo()
        self.assertEqual(self.changed(history, PlantVertex("Body", 10)), (1, 3, 2))
        history.undo()
        self.assertEqual(self.changed(history, PlantVertex("Body", 10, (0.5, 0.5, 0.0))), (1, 3, 2))
        history.undo()
        inside = int(np.flatnonzero((body.corners.opposite.reshape(-1, 3) >= 0).all(axis=1))[20])
        history.do(ChooseParts("Body", "face", these=(inside,)))
        self.assertEqual(self.changed(history, SplitChosen("Body", "face")), (3, 9, 6))
        history.undo()
        self.assertEqual(self.changed(history, DeleteChosen("Body")), (0, 0, -1))
        history.do(ChooseParts("Body", "edge", "border"))
        self.assertEqual(
            self.changed(history, FillChosen("Body", tidy=False))[2], 1 + 32
        )  # a triangle, and a fan over the outer border
        history.undo()
        history.undo()
        history.undo()
        # a region with a rim of r edges: r vertices, 3 r edges and 2 r faces more
        ring = body.corners.ring(self.inner_edge(body)[0]) // 3
        history.do(ChooseParts("Body", "face", these=tuple(ring.tolist())))
        rim = ring.size
        self.assertEqual(self.changed(history, Extrude("Body", 0.5)), (rim, 3 * rim, 2 * rim))

    def test_extending_a_border(self) -> None:
        # a square of 4 m with 32 border edges, a metre outward with corners drawn to a point: 6 m
        history = square(3)
        body = history.project.bodies[0]
        history.do(ChooseParts("Body", "edge", "border"))
        self.assertEqual(self.changed(history, ExtendBorder("Body", 1.0)), (32, 96, 64))
        found = measure(body)
        self.assertAlmostEqual(found.area, 36.0, places=4)
        self.assertAlmostEqual(amount(body, "edge", chosen(body, "edge")).size, 24.0, places=4)
        history.undo()
        history.do(ChooseParts("Body", "edge", "these", these=self.inner_edge(body)))
        with self.assertRaisesRegex(InvalidInput, "border"):
            history.do(ExtendBorder("Body", 1.0))

    def test_fans_that_touch_in_a_vertex_are_pulled_out_apart(self) -> None:
        history = project_with("block", size=4.0, height=4.0, depth=4.0, edge=1.0)
        body = history.project.bodies[0]
        top = body.vertices["position"][body.corners.triangles].mean(axis=1)
        squares = ((top[:, 0] > 0) == (top[:, 2] > 0)) & (top[:, 1] > 3.99) & (np.abs(top[:, (0, 2)]).max(axis=1) < 1)
        self.assertEqual(int(squares.sum()), 4, "two squares that share a corner")
        history.do(ChooseParts("Body", "face", these=tuple(np.flatnonzero(squares).tolist())))
        history.do(Extrude("Body", 1.0))
        found = measure(body)
        self.assertEqual((found.closed, found.genus, found.parts), (True, 0, 1))
        self.assertAlmostEqual(float(found.volume or 0), 66.0, places=4)

    def test_bridging_two_tubes_makes_one(self) -> None:
        history = History(project_with("column", radius=1.0, height=2.0, edge=0.5).project)
        history.do(AddBody("column", {"radius": 1.0, "height": 2.0, "edge": 0.5}, "Upper", (0.0, 4.0, 0.0)))
        for name, way in (("Body", 1.0), ("Upper", -1.0)):
            history.do(ChooseParts(name, "face", "facing", toward=(0.0, way, 0.0), high=30.0))
            history.do(DeleteChosen(name))
        history.do(JoinBodies("Body", "Upper"))
        body = history.project.bodies[0]
        self.assertEqual(measure(body).parts, 2)
        history.do(ChooseParts("Body", "edge", "border"))
        history.do(BridgeChosen("Body"))
        check_project(history.project)
        found = measure(body)
        self.assertEqual((found.parts, found.genus, found.closed), (1, 0, True))
        mesh = trimesh.Trimesh(body.vertices["position"], body.corners.live_triangles(), process=False)
        self.assertTrue(mesh.is_winding_consistent)
        self.assertGreater(mesh.volume, 0.9 * math.pi * 6.0 * 0.9)


class FormTest(unittest.TestCase):
    def block(self, edge: float = 1.0) -> History:
        history = project_with("block", size=4.0, height=2.0, depth=4.0, edge=edge)
        history.do(top(history))
        return history

    def volume(self, history: History) -> float:
        found = measure(history.project.bodies[0])
        assert found.volume is not None
        return found.volume

    def test_extruded_inset_and_lipped_prisms(self) -> None:
        history = self.block()
        body = history.project.bodies[0]
        history.do(Extrude("Body", 1.5))
        self.assertAlmostEqual(self.volume(history), 4 * 4 * 3.5, places=4)
        self.assertAlmostEqual(measure(body).area, 2 * 16 + 16 * 3.5, places=4)
        self.assertAlmostEqual(amount(body, "face", chosen(body, "face")).size, 16.0, places=4)
        history.undo()
        history.do(Inset("Body", 0.5))
        self.assertAlmostEqual(self.volume(history), 32.0, places=4)
        self.assertAlmostEqual(amount(body, "face", chosen(body, "face")).size, 9.0, places=4)
        history.do(Extrude("Body", 2.0, "axis", (0.0, 2.0, 0.0)))
        self.assertAlmostEqual(self.volume(history), 32.0 + 18.0, places=4)
        history.undo()
        history.undo()
        history.do(Extrude("Body", 1.0, lip=0.5))
        self.assertAlmostEqual(self.volume(history), 32.0 + 25.0, places=4)
        self.assertFalse(body.corners.border_corners().size)

    def test_a_cap_has_a_lip_its_ground_and_flat_walls(self) -> None:
        history = self.block()
        body = history.project.bodies[0]
        ground = history.project.ground_names[2]
        history.do(Cap("Body", 40.0, 0.3, 0.5, ground))
        self.assertAlmostEqual(self.volume(history), 32.0 + 4.6 * 4.6 * 0.5, places=4)
        height = body.vertices["position"][:, 1]
        np.testing.assert_array_equal(body.vertices["weight"][height > 2.2, 2], 1.0)
        np.testing.assert_array_equal(body.vertices["weight"][height < 1.9, 2], 0.0)
        flat = body.corners.slots["flat"][:, 0, 0]
        up = body.vertices["position"][body.corners.triangles][..., 1].min(axis=1) > 2.4
        np.testing.assert_array_equal(flat == 0, up)

    def test_thickened_sphere_shell(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.25)
        body = history.project.bodies[0]
        outer = self.volume(history)
        history.do(Thicken("Body", 1.0))
        check_project(history.project)
        self.assertAlmostEqual(self.volume(history) / outer, 1 - 0.8**3, delta=1e-3)
        self.assertEqual(measure(body).parts, 2)
        history = square(3)
        history.do(Thicken("Body", 0.5))
        found = measure(history.project.bodies[0])
        self.assertEqual((found.closed, found.genus), (True, 0))
        self.assertAlmostEqual(self.volume(history), 8.0, places=4)

    def test_levels_of_a_cone_are_circles(self) -> None:
        history = project_with("icosphere", radius=3.0, edge=0.3)
        body = history.project.bodies[0]
        before = self.volume(history)
        history.do(CutLevels("Body", levels=5))
        check_project(history.project)
        self.assertAlmostEqual(self.volume(history) / before, 1.0, places=5)
        size = sum(2 * math.pi * math.sqrt(9 - height**2) for height in (-2, -1, 0, 1, 2))
        self.assertAlmostEqual(amount(body, "edge", chosen(body, "edge")).size / size, 1.0, delta=0.01)
        at = body.vertices["position"][chosen_vertices(body)][:, 1]
        levels = np.linspace(body.bounds().low[1], body.bounds().high[1], 7)[1:-1]
        self.assertLess(np.abs(at[:, None] - levels).min(axis=1).max(), 1e-4)

    def test_moved_turned_and_scaled_about_what_is_said(self) -> None:
        history = self.block()
        body = history.project.bodies[0]
        rows = as_domain(body, chosen(body, "face"), "face", "vertex")
        before = body.vertices["position"].astype(np.float64)
        history.do(MoveChosen("Body", "face", (1.0, 2.0, 3.0), (0.0, 90.0, 0.0), (0.5, 1.0, 0.5)))
        after = body.vertices["position"].astype(np.float64)
        arm = (before[rows] - (0.0, 2.0, 0.0)) * (0.5, 1.0, 0.5)
        expected = np.stack((arm[:, 2], arm[:, 1], -arm[:, 0]), axis=1) + np.array([1.0, 4.0, 3.0])
        np.testing.assert_allclose(after[rows], expected, atol=1e-5)
        np.testing.assert_array_equal(after[~rows], before[~rows])
        history.undo()
        history.do(MoveChosen("Body", "face", scale=(2.0, 2.0, 2.0), about="place", at=(2.0, 2.0, 2.0)))
        np.testing.assert_allclose(body.vertices["position"][rows], (before[rows] - 2.0) * 2 + 2.0, atol=1e-5)

    def test_soft_reach_falls_off_over_the_surface(self) -> None:
        history = project_with("sheet", size=20.0, depth=20.0, edge=0.5)
        body = history.project.bodies[0]
        middle = int(np.flatnonzero((np.abs(body.vertices["position"]) < 1e-6).all(axis=1))[0])
        history.do(ChooseParts("Body", "vertex", these=(middle,)))
        for name, of in (
            ("linear", lambda t: 1 - t),
            ("smooth", lambda t: (1 - t) ** 2 * (1 + 2 * t)),
            ("dome", lambda t: np.sqrt(1 - t * t)),
        ):
            history.do(MoveChosen("Body", move=(0.0, 1.0, 0.0), reach=5.0, falloff=name, over="space"))
            away = np.hypot(*body.vertices["position"][:, (0, 2)].T.astype(np.float64))
            expected = np.where(away < 5, of(np.clip(away / 5, 0, 1)), 0.0)
            np.testing.assert_allclose(body.vertices["position"][:, 1], expected, atol=1e-5)
            history.undo()
            history.do(MoveChosen("Body", move=(0.0, 1.0, 0.0), reach=5.0, falloff=name))
            np.testing.assert_allclose(body.vertices["position"][:, 1], expected, atol=0.06)
            history.undo()

    def test_even_shapes(self) -> None:
        history = square(4)
        body = history.project.bodies[0]
        history.do(ChooseParts("Body", "vertex", "all"))
        history.do(JitterChosen("Body", amount=0.05, seed=3))
        self.assertGreater(float(np.ptp(body.vertices["position"][:, 1])), 0.05)
        history.do(EvenChosen("Body", into="level"))
        self.assertLess(float(np.ptp(body.vertices["position"][:, 1])), 1e-6)
        history.do(ChooseParts("Body", "vertex", "border"))
        history.do(EvenChosen("Body", into="circle"))
        at = body.vertices["position"][chosen(body, "vertex")].astype(np.float64)
        away = np.linalg.norm(at - at.mean(axis=0), axis=1)
        self.assertLess(np.ptp(away) / away.mean(), 0.02)
        history.do(ChooseParts("Body", "face", "all"))
        before = body.vertices["position"].copy()
        history.do(JitterChosen("Body", "face", 10.0, 5))
        self.assertGreater(float(np.abs(body.vertices["position"] - before).max()), 1e-3)

    def test_creases_stay_sharp_when_divided_smoothly(self) -> None:
        history = self.block(4.0)
        body = history.project.bodies[0]
        history.do(ChooseParts("Body", "edge", "sharp", low=80.0))
        history.do(SetCrease("Body"))
        volume = self.volume(history)
        for _ in range(3):
            history.do(Subdivide("Body", True))
        check_project(history.project)
        # edges and corners stay, so the block does; without creases under two thirds of it is left
        creased = self.volume(history) / volume
        history = self.block(4.0)
        for _ in range(3):
            history.do(Subdivide("Body", True))
        self.assertAlmostEqual(creased, 1.0, places=5)
        self.assertLess(self.volume(history) / volume, 0.67)
        self.assertTrue(body.corners.slots["crease"].any())


def chosen_vertices(body: Body) -> np.ndarray:
    return as_domain(body, chosen(body, "edge"), "edge", "vertex")


class RandomTest(unittest.TestCase):
    """Random sequences: sound after each, back to the same bytes, and the same through a file."""

    def test_any_sequence_is_sound_and_undone(self) -> None:
        for seed in range(4):
            rng = random.Random(seed)
            history = project_with("block", size=4.0, height=3.0, depth=4.0, edge=1.0) if seed % 2 else square(3)
            if seed > 1:
                history.do(LayRelief("Body", "noise", {"height": 0.1}))
            body = history.project.bodies[0]
            states = [self.state(body)]
            tried = 0
            while len(states) < 26 and tried < 400:
                tried += 1
                domain = rng.choice(("vertex", "edge", "face"))
                by = rng.choice(
                    ("all", "border", "ring", "facing", "sharp", "slope", "random", "invert", "grow", "rim")
                )
                command = rng.choice((
                    ChooseParts("Body", domain, by, high=rng.choice((30.0, 90.0)), seed=tried, share=0.3),
                    ChooseParts("Body", domain, these=tuple(rng.sample(range(12), 4)) if domain != "edge" else (0, 1)),
                    MoveChosen("Body", domain, (0.0, rng.uniform(-0.2, 0.2), 0.0), reach=rng.choice((0.0, 1.0))),
                    Extrude("Body", rng.uniform(0.1, 0.4), rng.choice(("mean", "own")), lip=rng.choice((0.0, 0.1))),
                    Inset("Body", 0.1), SplitChosen("Body", domain), CollapseChosen("Body", domain), TurnEdges("Body"),
                    DeleteChosen("Body", domain, rng.random() < 0.5), FillChosen("Body", domain), CutLevels("Body", levels=2),
                    SetFacets("Body"), SetCrease("Body"), PlantVertex("Body", rng.randrange(20)),
                    EvenChosen("Body", domain, "smooth", 0.3),
                ))  # fmt: skip
                if body.corners.live_count > 6000 and not isinstance(command, ChooseParts):
                    continue
                before = self.state(body)
                try:
                    history.do(command)
                except InvalidInput:
                    self.assertEqual(self.state(body), before, repr(command))
                    continue
                try:
                    check_project(history.project)
                except HulmoError as error:
                    self.fail(f"{command!r}: {error}")
                if self.state(body) != before:
                    states.append(self.state(body))
            self.assertGreater(len(states), 20)
            with tempfile.TemporaryDirectory() as folder:
                save_project(history.project, pathlib.Path(folder) / "a.hulmo")
                again = open_project(pathlib.Path(folder) / "a.hulmo").bodies[0]
            self.assertEqual(counts(again), counts(body))
            for state in states[-2::-1]:
                history.undo()
                while self.state(body) != state and history.undo_label:
                    history.undo()  # a choice that was the same already is no step of this list
                self.assertEqual(self.state(body), state)

    def state(self, body: Body) -> tuple[int, ...]:
        columns = [body.vertices[name] for name in body.vertices.names if name != "normal"]
        slots = [body.corners.slots[name] for name in body.corners.slots.names()]
        return tuple(hash(part.tobytes()) for part in (*columns, *slots, body.corners.vertex))


class MoveTest(unittest.TestCase):
    def test_opposite_along_the_surface_and_across_a_view(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.8)
        body = history.project.bodies[0]
        before = body.vertices["position"].astype(float)
        right = int(np.argmax(before[:, 0] + 0.3 * before[:, 1]))
        left = int(np.argmin(np.linalg.norm(before - before[right] * (-1, 1, 1), axis=1)))
        history.do(ChooseParts("Body", "vertex", these=(right,)))
        history.do(MoveChosen("Body", "vertex", (0.5, 0.2, -0.1), mirror="x"))
        step = body.vertices["position"] - before
        if np.linalg.norm(before[left] - before[right] * (-1, 1, 1)) < 0.04:
            np.testing.assert_allclose(step[left], step[right] * (-1, 1, 1), atol=1e-5)
        np.testing.assert_allclose(step[right], (0.5, 0.2, -0.1), atol=1e-5)
        history.undo()
        history.do(MoveChosen("Body", "vertex", (0.0, 1.0, 0.0), reach=2.0, slide=True))
        away = np.linalg.norm(body.vertices["position"].astype(float), axis=1)
        self.assertLess(float(np.abs(away - 5.0).max()), 0.05, "it stays on the sphere")
        self.assertGreater(float(np.linalg.norm(body.vertices["position"][right] - before[right])), 0.6)
        history.undo()
        axes = ((0.0, 0.0, -1.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
        history.do(MoveChosen("Body", "vertex", (1.0, 0.0, 0.0), frame="axes", axes=axes))
        np.testing.assert_allclose(body.vertices["position"][right] - before[right], (0, 0, -1), atol=1e-5)
        with self.assertRaisesRegex(InvalidInput, "square"):
            history.do(MoveChosen("Body", "vertex", frame="axes", axes=((1, 0, 0), (1, 0, 0), (0, 0, 1))))

    def test_a_ball_set_on_a_slope_touches_it(self) -> None:
        # a sphere of radius r on a plane of t degrees, let straight down: its middle lies r / cos t above the plane
        history = project_with("sheet", size=30.0, depth=30.0, edge=1.0)
        history.do(PlaceBody("Body", turn=(0.0, 0.0, 25.0)))
        history.do(AddBody("icosphere", {"radius": 2.0, "edge": 0.15}, "Ball", (3.0, 20.0, 1.0)))
        history.do(StandBody("Ball", "Body"))
        ball = history.project.bodies[1]
        middle = ball.placed(ball.bounds().centre)
        ground = middle[0] * math.tan(math.radians(25.0))
        self.assertAlmostEqual(float(middle[1] - ground), 2.0 / math.cos(math.radians(25.0)), delta=0.02)
        history.do(AddBody("block", {"size": 2.0, "height": 3.0, "depth": 2.0, "edge": 0.5}, "Post", (-4.0, 9.0, 0.0)))
        history.do(StandBody("Post", "Body", 1.0))
        post = history.project.bodies[2]
        flat = post.placed(post.vertices["position"].astype(float))
        foot = flat @ (-math.sin(math.radians(25.0)), math.cos(math.radians(25.0)), 0.0)
        self.assertGreater(int((np.abs(foot - foot.min()) < 0.02).sum()), 20, "it leans so that its foot lies flat")
        self.assertAlmostEqual(float(foot.min()), 0.0, delta=0.02)

    def test_paths_grounds_and_choices_that_are_kept(self) -> None:
        history = square(4)
        body = history.project.bodies[0]
        at = body.vertices["position"][:, (0, 2)]
        ends = [int(np.argmin(np.linalg.norm(at - place, axis=1))) for place in ((-2, -2), (2, -2), (2, 2))]
        history.do(ChooseParts("Body", "edge", "path", these=tuple(ends)))
        self.assertAlmostEqual(amount(body, "edge", chosen(body, "edge")).size, 8.0, places=4)
        history.do(KeepChoice("Body", "edge", "Two sides"))
        history.do(ChooseParts("Body", "edge", "none"))
        history.do(Subdivide("Body"))
        history.do(ChooseParts("Body", "edge", "named", name="Two sides"))
        self.assertAlmostEqual(amount(body, "edge", chosen(body, "edge")).size, 8.0, places=4)
        self.assertEqual(amount(body, "edge", chosen(body, "edge")).count, 64)
        history.do(stroke("set", (0.0, 0.0, 0.0), ground="Shell sand", radius=1.0, share=100.0, core=95))
        history.do(ChooseParts("Body", "face", "ground", name="Shell sand"))
        self.assertTrue(
            2.0 < amount(body, "face", chosen(body, "face")).size < math.pi, "whole faces within the circle"
        )
        with self.assertRaisesRegex(InvalidInput, "no choice"):
            history.do(ChooseParts("Body", "face", "named", name="None such"))


class DragTest(unittest.TestCase):
    def test_a_drag_is_its_last_step_alone(self) -> None:
        def begun() -> History:
            history = project_with("sheet", size=10.0, depth=10.0, edge=0.4)
            history.do(ChooseParts("Body", "vertex", "these", these=(300, 301, 340)))
            return history

        for over in ("surface", "space"):
            drag, alone = begun(), begun()
            steps = [MoveChosen("Body", move=(0.0, up, 0.3), reach=2.0, over=over) for up in (0.5, 2.0, 3.0, 1.0)]
            drag.do(steps[0])
            for step in steps[1:]:
                drag.do_instead(step)
            alone.do(steps[-1])
            one, other = (history.project.bodies[0].vertices["position"] for history in (drag, alone))
            self.assertEqual(one.tobytes(), other.tobytes())
            with self.assertRaises(InvalidInput):
                drag.do_instead(MoveChosen("Body", move=(0.0, float("nan"), 0.0)))
            self.assertEqual(one.tobytes(), other.tobytes(), "what is refused leaves the last step")
            self.assertIs(drag.last_command, steps[-1])
            # another surface has another reach, though the choice and the settings are the same
            for history in (drag, alone):
                history.do(MoveChosen("Body", move=(0.4, 0.0, 0.0)))
            drag.do(steps[0])
            soft._HELD.clear()
            alone.do(steps[0])
            self.assertEqual(one.tobytes(), alone.project.bodies[0].vertices["position"].tobytes())


class RefusedTest(unittest.TestCase):
    def test_what_cannot_be_is_said_and_nothing_changes(self) -> None:
        history = project_with("block", size=4.0, height=2.0, depth=4.0, edge=1.0)
        body = history.project.bodies[0]
        none = [
            Extrude("Body"), Inset("Body"), DeleteChosen("Body"), MoveChosen("Body"), TurnEdges("Body"), SetFacets("Body"),
            CutLevels("Body", at=(0.0, 99.0, 0.0)), CutLevels("Body", toward=(0.0, 0.0, 0.0)), CutLevels("Body", levels=0),
            Thicken("Body", 0.0), Thicken("Body", np.nan), PlantVertex("Body", 10**9),
            PlantVertex("Body", 0, (2.0, -1.0, 0.0)), Cap("Body", 0.0), ChooseParts("Body", "face", these=(10**6,)),
            ChooseParts("Body", "edge", these=(0, 1, 2)), ChooseParts("Body", "edge", these=(0, 0)),
            ChooseParts("Body", "corner"), ChooseParts("Body", "face", these=(10**400,)),
        ]  # fmt: skip
        self.refused(history, none)
        history.do(ChooseParts("Body", "face", "all"))
        self.refused(
            history, [Extrude("Body"), DeleteChosen("Body"), Extrude("Body", 0.0), Extrude("Body", along="sideways")]
        )
        self.refused(
            history,
            [
                MoveChosen("Body", "face", (np.nan, 0, 0)),
                MoveChosen("Body", "face", reach=-1.0),
                FillChosen("Body", "face"),
            ],
        )
        history.do(top(history))
        self.refused(history, [BridgeChosen("Body", "face"), Extrude("Body", along="axis", toward=(0, 0, 0))])
        history.do(ChangeGuard("Body", "all"))
        self.refused(
            history,
            [Extrude("Body"), Inset("Body"), DeleteChosen("Body"), SplitChosen("Body", "face"), CutLevels("Body")],
        )
        before = body.vertices["position"].tobytes()
        history.do(MoveChosen("Body", "face", (0.0, 1.0, 0.0)))
        self.assertEqual(body.vertices["position"].tobytes(), before)
        history = square(3)
        history.do(LockBorder("Body"))
        history.do(ChooseParts("Body", "edge", "border"))
        self.refused(history, [SplitChosen("Body"), CollapseChosen("Body"), FillChosen("Body"), Thicken("Body")])
        history.do(MoveChosen("Body", "edge", (0.0, 1.0, 0.0)))
        self.assertEqual(float(np.abs(history.project.bodies[0].vertices["position"][:, 1]).max()), 0.0)

    def refused(self, history: History, commands: list[Command]) -> None:
        body = history.project.bodies[0]
        before = (body.vertices["position"].tobytes(), body.corners.vertex.tobytes())
        for command in commands:
            with self.assertRaises(InvalidInput, msg=repr(command)):
                history.do(command)
            self.assertEqual((body.vertices["position"].tobytes(), body.corners.vertex.tobytes()), before)


if __name__ == "__main__":
    unittest.main()
