"""Props: none over another by a library of its own, densities, anchors that stay, rules, files."""

import math
import pathlib
import tempfile
import unittest

import manifold3d
import msgspec
import numpy as np
import trimesh

from hulmo.core.commands import (
    AddBody,
    AddProp,
    AddWater,
    BankUp,
    ChangeProp,
    ChangeStrewn,
    CureProps,
    DuplicateBody,
    Fill,
    JoinBodies,
    LayAround,
    LayProps,
    LayRelief,
    MirrorBody,
    PlaceBody,
    Recast,
    Reduce,
    RemoveProp,
    SetStrewRules,
    SinkRim,
    Strew,
    Stroke,
    Subdivide,
)
from hulmo.core.errors import HulmoError, InvalidInput
from hulmo.core.ground.rules import Condition
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.strewn import BY_RULE, REMOVED, Strewn, anchors, axes, frames
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.props.faults import faults_of
from hulmo.core.props.prop import SHIPPED, shipped_mesh
from hulmo.core.props.strew_rules import StrewRule
from hulmo.core.props.tray import tray_of


def with_land(noisy: bool = True, edge: float = 0.5, size: float = 40.0) -> History:
    history = History(Project())
    history.do(AddBody("sheet", {"size": size, "depth": size, "edge": edge}, "Land"))
    if noisy:
        history.do(LayRelief("Land", "noise", {}))
    return history


def places(history: History, number: int = 0) -> np.ndarray:
    body = history.project.bodies[number]
    return body.placed(anchors(body, body.strewn)[0])


def hulls(history: History) -> list[manifold3d.Manifold]:
    body = history.project.bodies[0]
    tray = tray_of(history.project.props, {})
    pivot, matrix = frames(body, body.strewn)
    out = []
    for i, ident in enumerate(body.strewn.prop.tolist()):
        points = tray.meshes[ident].position.astype(np.float64) @ matrix[i].T + pivot[i]
        out.append(manifold3d.Manifold.hull_points(points))
    return out


class RoomTest(unittest.TestCase):
    def test_no_two_overlap_by_another_library(self) -> None:
        """Convex hulls by manifold3d: no pair has a volume in common."""
        history = with_land()
        line = tuple((x, 0.0, 0.0) for x in np.linspace(-14, 14, 9).tolist())
        shares = {"Boulder 1": 2.0, "Slab 1": 2.0, "Shrub": 1.0, "Driftwood": 1.0}
        history.do(Strew("Land", line, {"radius": 5.0, "density": 0.35, "spacing": 1.0, "lean": 0.0}, shares))
        solids, strewn = hulls(history), history.project.bodies[0].strewn
        self.assertGreater(strewn.count, 60)
        at = places(history)
        reach = np.array([shipped_mesh(SHIPPED[i - 1]).reach for i in strewn.prop]) * strewn.size
        pairs = 0
        for i in range(strewn.count):
            for j in np.flatnonzero(np.linalg.norm(at[i + 1 :] - at[i], axis=1) < reach[i] + reach[i + 1 :]) + i + 1:
                pairs += 1
                self.assertLess((solids[i] ^ solids[int(j)]).volume(), 1e-6)
        self.assertGreater(pairs, 20)

    def test_density_is_what_was_asked_for_and_goes_no_further(self) -> None:
        history = with_land(noisy=False)
        settings = {"radius": 12.0, "density": 0.2}
        body = history.project.bodies[0]
        counts = []
        for seed in range(1, 4):
            history.do_if_any(Strew("Land", ((0.0, 0.0, 0.0),), {**settings, "seed": seed}, {"Tussock": 1.0}))
            counts.append(body.strewn.count)
        wanted = 0.2 * math.pi * 144
        self.assertAlmostEqual(counts[0], wanted, delta=4 * math.sqrt(wanted))
        self.assertLess(counts[-1], 1.15 * wanted)
        # packed discs cannot cover more than pi / sqrt(12) of a plane (Thue 1890): where no room is left, none is set
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 12.0, "density": 50.0}, {"Boulder 2": 1.0}))
        rocks = body.strewn.taken(body.strewn.prop == 2)
        mesh = shipped_mesh("boulder_2")
        inner = math.pi * float(
            (mesh.outline.min() * rocks.size).astype(np.float64) @ (mesh.outline.min() * rocks.size)
        )
        self.assertLess(inner, math.pi / math.sqrt(12) * math.pi * (12.0 + mesh.radius * 1.25) ** 2)

    def test_thin_erase_reseed(self) -> None:
        history = with_land(noisy=False)
        body = history.project.bodies[0]
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 8.0, "density": 0.5}, {"Tussock": 1.0}))
        before = body.strewn
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 8.0, "density": 0.1, "mode": "thin"}, {"Tussock": 1.0}))
        self.assertAlmostEqual(body.strewn.count, 0.1 * math.pi * 64, delta=4)
        history.undo()
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 3.0, "mode": "erase"}, {"Tussock": 1.0}))
        self.assertGreaterEqual(np.linalg.norm(places(history), axis=1).min(), 3.0)
        history.undo()
        self.assertFalse(body.strewn.differs(before))
        settings = {"radius": 3.0, "mode": "reseed", "density": 0.5, "seed": 9}
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), settings, {"Tussock": 1.0}))
        self.assertTrue(body.strewn.differs(before))


class AnchorTest(unittest.TestCase):
    def test_they_stand_on_a_sphere_and_stay_there_when_it_is_sculpted(self) -> None:
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.25}, "Ball"))
        body = history.project.bodies[0]
        history.do(SetStrewRules("Ball", (StrewRule("All", {"Boulder 3": 1.0}, {
            "density": 0.5, "slope_to": 180.0, "sunk": 0.0, "size": 0.3}),)))  # fmt: skip
        self.assertGreater(body.strewn.count, 60)
        self.assertLess(np.abs(np.linalg.norm(places(history), axis=1) - 5.0).max(), 0.01)
        history.do(ChangeProp("Boulder 3", values={"upright": 0.0}))
        history.do(Stroke("Ball", "swell", ((0.0, 5.0, 0.0), (3.0, 4.0, 0.0)), {"radius": 2.0}))
        at = places(history)
        off = [float(np.linalg.norm(body.nearest(place).position - place)) for place in at]
        self.assertLess(max(off), 1e-3)
        self.assertGreater(np.linalg.norm(at, axis=1).max(), 5.05)

    def test_edits_of_all_kinds_keep_them_on_the_surface_and_undo_gives_the_same_bytes(self) -> None:
        history = with_land()
        body = history.project.bodies[0]
        history.do(
            Strew("Land", ((-8.0, 0.0, 0.0), (8.0, 0.0, 0.0)), {"radius": 4.0}, {"Boulder 1": 1.0, "Shrub": 1.0})
        )
        start, at = body.strewn, places(history)
        edits = (
            Stroke("Land", "raise", ((-5.0, 0.0, 0.0), (5.0, 0.0, 0.0)), {"radius": 3.0}),
            Stroke("Land", "raise", ((0.0, 0.0, 0.0), (3.0, 0.0, 2.0)), {"radius": 3.0, "grow": "both"}),
            Subdivide("Land"),
            Reduce("Land", 4000),
            Recast("Land", 0.7),
            PlaceBody("Land", move=(100.0, 5.0, 0.0), turn=(0.0, 30.0, 0.0)),
            MirrorBody("Land"),
        )
        seen = []
        for command in edits:
            try:
                history.do(command)
            except HulmoError as error:  # some settings have other names
                self.fail(f"{command}: {error}")
            body = history.project.bodies[0]
            self.assertEqual(body.strewn.count, start.count)
            now = places(history)
            for place in now[::7]:
                self.assertLess(np.linalg.norm(body.nearest(place).position - place), 1e-3)
            seen.append(body.strewn)
        for wanted in [*seen[-2::-1], start]:
            history.undo()
            self.assertFalse(history.project.bodies[0].strewn.differs(wanted))
        np.testing.assert_allclose(places(history), at, atol=1e-12)
        for wanted in seen:
            history.redo()
            self.assertFalse(history.project.bodies[0].strewn.differs(wanted))

    def test_copies_joins_and_files(self) -> None:
        history = with_land(size=20.0)
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 6.0}, {"Shrub": 1.0}))
        count = history.project.bodies[0].strewn.count
        history.do(DuplicateBody("Land", "Other", (50.0, 0.0, 0.0)))
        np.testing.assert_allclose(places(history, 1), places(history) + np.array([50.0, 0.0, 0.0]), atol=1e-5)
        history.do(JoinBodies("Land", "Other"))
        self.assertEqual(history.project.bodies[0].strewn.count, 2 * count)
        self.assertGreater(places(history)[:, 0].max(), 44.0)
        history.undo()
        self.assertEqual([body.strewn.count for body in history.project.bodies], [count, count])
        history.do(Stroke("Land", "refine", ((0.0, 0.0, 0.0),), {"radius": 4.0}))
        with tempfile.TemporaryDirectory() as folder:
            ball = trimesh.creation.icosphere(2, 0.4)
            ball.visual.vertex_colors = [10, 200, 30, 255]
            ball.export(pathlib.Path(folder) / "ball.glb")
            history.do(AddProp(str(pathlib.Path(folder) / "ball.glb")))
            history.do(Strew("Land", ((0.0, 0.0, 8.0),), {"radius": 3.0, "density": 1.0}, {"ball": 1.0}))
            file = pathlib.Path(folder) / "a.hulmo"
            save_project(history.project, file)
            opened = open_project(file)
        self.assertEqual(opened.props, history.project.props)
        mesh = opened.prop_meshes["mesh 1"]
        self.assertAlmostEqual(float(mesh.high), 0.8, delta=0.01)  # on its lowest point
        self.assertGreater(mesh.colour[:, 1].min(), 2 * mesh.colour[:, 0].max())
        for body, other in zip(opened.bodies, history.project.bodies, strict=True):
            np.testing.assert_allclose(
                body.placed(anchors(body, body.strewn)[0]), other.placed(anchors(other, other.strewn)[0]), atol=1e-6
            )


class RuleTest(unittest.TestCase):
    def test_rules_keep_to_slope_ground_and_conditions_and_hand_work_stays(self) -> None:
        history = with_land()
        body = history.project.bodies[0]
        rule = StrewRule("Stones", {"Boulder 3": 1.0}, {"density": 0.4}, (Condition("slope", {}, None, 8.0),))
        history.do(SetStrewRules("Land", (rule,)))
        _, normal = anchors(body, body.strewn)
        slope = np.degrees(np.arccos(normal[:, 1]))
        self.assertGreater(body.strewn.count, 30)
        self.assertLess(np.quantile(slope, 0.75), 8.0)
        self.assertLess(slope.max(), 16.0)  # a triangle with one corner beyond the limit
        again = body.strewn
        history.do_if_any(LayProps("Land"))
        self.assertFalse(body.strewn.differs(again))  # the same every time
        gone = anchors(body, body.strewn)[0][4]
        history.do(ChangeStrewn("Land", (4,), remove=True))
        history.do(Strew("Land", ((12.0, 0.0, 12.0),), {"radius": 3.0, "density": 1.0}, {"Shrub": 1.0}))
        shrubs = int((body.strewn.prop == 9).sum())
        history.do(SetStrewRules("Land", (msgspec.structs.replace(rule, settings={"density": 0.5}),)))
        self.assertEqual(int((body.strewn.prop == 9).sum()), shrubs)
        self.assertEqual(int((body.strewn.mark == REMOVED).sum()), 1)
        ruled = body.strewn.taken(body.strewn.mark == BY_RULE)
        self.assertGreater(np.linalg.norm(anchors(body, ruled)[0] - gone, axis=1).min(), 0.3)
        history.do(SetStrewRules("Land", ()))
        self.assertFalse((body.strewn.mark == BY_RULE).any())

    def test_far_away_nothing_moves(self) -> None:
        history = with_land()
        history.do(SetStrewRules("Land", (StrewRule("Stones", {"Boulder 3": 1.0}, {"density": 0.3}),)))
        before = places(history)
        history.do(Stroke("Land", "raise", ((-15.0, 0.0, -15.0),), {"radius": 3.0}))
        history.do_if_any(LayProps("Land"))
        far = np.linalg.norm(before - (-15.0, 0.0, -15.0), axis=1) > 8.0
        now = places(history)
        for place in before[far]:
            self.assertLess(np.linalg.norm(now - place, axis=1).min(), 1e-6)

    def test_nonsense_is_refused(self) -> None:
        history = with_land(noisy=False, edge=2.0)
        for command, words in (
            (Strew("Land", ((0.0, 0.0, 0.0),), {}, {"Oak": 1.0}), "no prop 'Oak'"),
            (Strew("Land", ((0.0, 0.0, 0.0),), {}, {"Shrub": 0.0}), "tick a prop"),
            (Strew("Land", ((0.0, 0.0, 0.0),), {"ground": "Lava"}, {"Shrub": 1.0}), "no ground 'Lava'"),
            (SetStrewRules("Land", (StrewRule("A", {"Oak": 1.0}),)), "no prop 'Oak'"),
            (SetStrewRules("Land", (StrewRule("A", {}), StrewRule("A", {}))), "share a name"),
            (ChangeStrewn("Land", (0,), turn=3.0), "is none of them"),
            (AddProp("nowhere.glb"), "cannot be read"),
            (AddProp("Oak"), "no shipped prop"),
            (ChangeProp("Shrub", values={"smallest": 3.0, "largest": 2.0}), "above its largest"),
            (ChangeProp("Shrub", values={"colour": 3.0}), "has no"),
            (CureProps("Land", "ugly"), "no fault"),
        ):  # fmt: skip
            with (
                self.subTest(command=command),
                self.assertRaisesRegex(HulmoError, words),
            ):
                history.do(command)
        self.assertIsNone(history.project.bodies[0].strewn)

    def test_far_too_many_are_refused(self) -> None:
        history = with_land(noisy=False, edge=4.0, size=2000.0)
        with self.assertRaisesRegex(InvalidInput, "lower its density"):
            history.do(SetStrewRules("Land", (StrewRule("A", {"Tussock": 1.0}, {"density": 10.0}),)))

    def test_a_prop_that_goes_takes_what_stands_along(self) -> None:
        history = with_land(noisy=False)
        body = history.project.bodies[0]
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 6.0}, {"Shrub": 1.0, "Boulder 1": 1.0}))
        before = body.strewn
        history.do(RemoveProp("Shrub"))
        self.assertFalse((body.strewn.prop == 9).any())
        self.assertTrue((body.strewn.prop == 1).any())
        history.undo()
        self.assertFalse(body.strewn.differs(before))


class CareTest(unittest.TestCase):
    def test_each_fault_is_found_and_cured(self) -> None:
        history = with_land(noisy=False)
        body = history.project.bodies[0]
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 9.0, "density": 0.3, "lean": 0.0}, {"Boulder 1": 1.0}))
        tray = tray_of(history.project.props, {})

        def faults(strewn: Strewn) -> dict[str, int]:
            return {name: int(mask.sum()) for name, mask in faults_of(body, strewn, tray, 40.0, silent())[0].items()}

        self.assertEqual(set(faults(body.strewn).values()), {0})
        broken = body.strewn
        sink, lean = broken.sink.copy(), broken.lean.copy()
        sink[0], sink[1], lean[2] = -1.0, 30.0, (1.5, 0.0)
        slot, weight = broken.slot.copy(), broken.weight.copy()
        slot[4], weight[4] = slot[3], weight[3]
        body.strewn = broken.changed(sink=sink, lean=lean, slot=slot, weight=weight)
        self.assertEqual(faults(body.strewn), {"floats": 2, "buried": 1, "leans": 1, "overlaps": 1, "wet": 0})
        history.do(AddWater("level_water", level=-0.5))
        history.do(Stroke("Land", "raise", ((6.0, 0.0, 0.0),), {"radius": 4.0, "strength": 100.0}, invert=True))
        self.assertGreater(faults(body.strewn)["wet"], 0)
        for fault in ("floats", "buried", "leans", "overlaps", "wet"):
            history.do_if_any(CureProps("Land", fault))
            self.assertEqual(faults(body.strewn)[fault], 0)

    def test_axes_go_by_the_ground_or_straight_up(self) -> None:
        history = with_land()
        body = history.project.bodies[0]
        for upright in (0.0, 1.0):
            history.do(ChangeProp("Stalagmite", values={"upright": upright}))
            history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 8.0, "lean": 0.0, "seed": 4}, {"Stalagmite": 1.0}))
            place, normal = anchors(body, body.strewn)
            wanted = normal if not upright else np.broadcast_to((0.0, 1.0, 0.0), normal.shape)
            np.testing.assert_allclose(axes(body, body.strewn, place, normal), wanted, atol=1e-6)
            history.undo()


class MeetingTest(unittest.TestCase):
    def test_ground_is_banked_up_around_props_and_fades_along_the_s_curve(self) -> None:
        history = with_land(noisy=False, edge=0.1, size=12.0)
        body = history.project.bodies[0]
        history.do(Strew("Land", ((0.0, 0.0, 0.0),), {"radius": 0.6, "density": 1.0, "lean": 0.0}, {"Boulder 1": 1.0}))
        self.assertEqual(body.strewn.count, 1)
        history.do(BankUp("Land", which=(0,), height=0.3, falloff=1.0))
        at, size = places(history)[0], float(body.strewn.size[0])
        mesh = shipped_mesh("boulder_1")
        away = np.hypot(*(body.vertices["position"][:, (0, 2)] - at[[0, 2]]).T)
        high = body.vertices["position"][:, 1]
        self.assertAlmostEqual(float(high.max()), 0.3, places=5)
        np.testing.assert_allclose(high[away < mesh.outline.min() * size - 0.05], 0.3, atol=1e-5)
        np.testing.assert_array_equal(high[away > mesh.radius * size + 1.05], 0.0)
        self.assertAlmostEqual(float(at[1]), 0.3, places=4)  # it goes up with the ground

    def test_around_a_ball_and_its_rim_sunk(self) -> None:
        history = with_land(noisy=False, edge=0.1, size=12.0)
        history.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.1}, "Rock", (0.0, 0.6, 0.0)))
        history.do(BankUp("Land", "Rock", (), 0.2, 1.0))
        land = history.project.bodies[0].vertices["position"]
        away = np.hypot(land[:, 0], land[:, 2])
        np.testing.assert_allclose(land[away < 0.7, 1], 0.2, atol=1e-5)  # within the ball, which the ground cuts at 0.8
        t = np.clip(1.0 - np.maximum(np.sqrt(away**2 + 0.36) - 1.0, 0.0), 0.0, 1.0)
        np.testing.assert_allclose(land[:, 1], 0.2 * t * t * (3 - 2 * t), atol=0.01)
        history.undo()
        history.do(PlaceBody("Rock", move=(0.0, 0.5, 0.0)))
        before = history.project.bodies[1].vertices["position"].copy()
        history.do(SinkRim("Rock", "Land", 0.5, 0.2))
        after = history.project.bodies[1].vertices["position"]
        world = history.project.bodies[1].placed(after)[:, 1]
        self.assertLess(float(world.min()), -0.05)
        upper = history.project.bodies[1].placed(before)[:, 1] > 0.51
        np.testing.assert_array_equal(after[upper], before[upper])

    def test_ground_laid_around_a_ball_fades_out_with_its_height(self) -> None:
        history = with_land(noisy=False, edge=0.5, size=12.0)
        project = history.project
        names = project.ground_names
        history.do(Fill("Land", names[1]))
        history.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.1}, "Rock", (0.0, 0.4, 0.0)))
        rock = project.body_named("Rock", "test")
        before = rock.vertices["weight"].copy()
        history.do(LayAround("Rock", "Land", 0.6, 0.0))
        high = rock.placed(rock.vertices["position"])[:, 1].astype(np.float64)  # level ground: metres above it
        t = np.clip(1.0 - np.maximum(high, 0.0) / 0.6, 0.0, 1.0)
        np.testing.assert_allclose(rock.vertices["weight"][:, 1], t * t * (3 - 2 * t), atol=1e-3)
        np.testing.assert_array_equal(rock.vertices["weight"][high > 0.61], before[high > 0.61])
        history.undo()
        history.do(LayAround("Rock", "Land", 0.6, 1.0))
        ragged = rock.vertices["weight"][:, 1]
        self.assertTrue((ragged[high < 0] == 1).all(), "what is buried is all ground")
        self.assertTrue((ragged[high > 1.21] == 0).all(), "twice the height at the most")
        band = ragged[np.abs(high - 0.3) < 0.05]
        self.assertGreater(float(np.ptp(band)), 0.4)

    def test_nothing_near_is_said(self) -> None:
        history = with_land(noisy=False, edge=1.0)
        history.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.5}, "Rock", (0.0, 30.0, 0.0)))
        for command, words in (
            (BankUp("Land"), "0 props"), (BankUp("Land", "Rock"), "nothing stands"),
            (BankUp("Land", "Land"), "around itself"),
            (LayAround("Rock", "Land"), "within 0.5 m"), (LayAround("Rock", "Rock"), "its own ground"),
            (LayAround("Rock", "Land", math.inf), "height"), (LayAround("Rock", "Land", 1.0, 2.0), "ragged"),
            (SinkRim("Rock", "Land"), "no part of"), (SinkRim("Rock", "Rock"), "into itself"),
            (BankUp("Land", "Rock", (), math.nan), "height"),
        ):  # fmt: skip
            with self.subTest(command=command), self.assertRaisesRegex(HulmoError, words):
                history.do(command)


if __name__ == "__main__":
    unittest.main()
