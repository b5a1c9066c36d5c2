"""Outlines and tracks: areas, lengths, cuts and cross-sections against closed forms and another library's triangulation."""

import math
import random
import unittest
import unittest.mock

import numpy as np
import triangle
from scipy.interpolate import CubicSpline
from scipy.spatial import cKDTree

from hulmo.core.commands import (
    AddBody,
    AddLine,
    ChangeLayer,
    ChangeLine,
    ChangeObject,
    ChooseParts,
    Command,
    LayOnFaces,
    LayRelief,
    LinePoint,
    PlaceBody,
    Recast,
    Reduce,
    RemoveBody,
    RemoveObject,
    SetRules,
    Subdivide,
)
from hulmo.core.commands.line_piece import LinePiece
from hulmo.core.errors import HulmoError, InvalidInput
from hulmo.core.follow import laid_anew
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.history import History
from hulmo.core.lines.curve import smooth_curve
from hulmo.core.lines.ground import Ground
from hulmo.core.lines.measure import enclosed, measured
from hulmo.core.lines.nearest_place import NearestPlace
from hulmo.core.lines.trace import trace
from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.thin import shapes_of
from hulmo.core.objects.line import CUT, LINE, column_of, line_of
from hulmo.core.progress import silent
from hulmo.core.sound import check_project
from tests.bodies import project_with, stroke


def ring(radius: float, count: int = 32, x: float = 0.0, z: float = 0.0) -> tuple[LinePoint, ...]:
    """Points of a circle on the ground, counter-clockwise from above."""
    turn = [2 * math.pi * i / count for i in range(count)]
    return tuple(LinePoint((x + radius * math.cos(a), 0.0, z - radius * math.sin(a))) for a in turn)


def way(*places: tuple[float, float]) -> tuple[LinePoint, ...]:
    """Points on the ground."""
    return tuple(LinePoint((x, 0.0, z)) for x, z in places)


def cut_ends(body: Body, number: int) -> tuple[np.ndarray, np.ndarray]:
    """Both ends of every edge that was cut along a line, once."""
    marked = body.corners.slots[CUT][:, :, 0] == number
    slot, corner = np.nonzero(marked & (body.corners.opposite.reshape(-1, 3) < np.arange(marked.size).reshape(-1, 3)))
    triangles = body.corners.triangles
    return triangles[slot, (corner + 1) % 3], triangles[slot, (corner + 2) % 3]


def angles(body: Body) -> np.ndarray:
    return shapes_of(body.vertices["position"], body.corners.live_triangles())[0]


class LineTest(unittest.TestCase):
    def sheet(self, edge: float = 0.5, **more: float) -> History:
        return project_with("sheet", **{"size": 24.0, "depth": 24.0, "edge": edge, **more})

    def laid(self, history: History) -> tuple[Body, object]:
        return history.project.bodies[0], history.project.objects[-1]

    def test_a_circle_encloses_what_pi_says(self) -> None:
        for tolerance in (0.05, 0.005):
            history = self.sheet()
            history.do(AddLine("outline", "Body", ring(5.0), "", {"cut": True, "tolerance": tolerance}))
            body, entry = self.laid(history)
            area = enclosed(body, column_of(entry))
            self.assertLess(abs(area - math.pi * 25), 2 * math.pi * 5 * tolerance)
            a, b = cut_ends(body, entry.ident)
            place = body.vertices["position"].astype(float)
            for points in (place[a], place[b], (place[a] + place[b]) / 2):
                self.assertLess(float(np.abs(np.hypot(points[:, 0], points[:, 2]) - 5.0).max()), tolerance + 1e-3)
            length = float(np.linalg.norm(place[a] - place[b], axis=1).sum())
            self.assertLess(abs(length - 10 * math.pi), 0.02)
            self.assertEqual(float(np.abs(place[:, 1]).max()), 0.0, "the shape stays")
            self.assertGreater(float(angles(body).min()), 10.0)
            # the same whichever way round it was drawn
            other = self.sheet()
            other.do(AddLine("outline", "Body", ring(5.0)[::-1], "", {"cut": True, "tolerance": tolerance}))
            self.assertAlmostEqual(enclosed(*((other.project.bodies[0]), column_of(entry))), area, places=3)

    def test_cuts_hold_against_a_constrained_triangulation_of_another_library(self) -> None:
        # Shewchuk's Triangle, plain constrained Delaunay (switch p) of the same vertices and the same constraints
        rng = random.Random(11)
        for _ in range(4):
            history = self.sheet(1.0)
            points = [
                (r * math.cos(a), -r * math.sin(a))
                for i in range(9)
                for a, r in ((2 * math.pi * i / 9, rng.uniform(3.0, 8.0)),)
            ]
            history.do(AddLine("outline", "Body", way(*points), "", {"cut": True, "tolerance": 0.02, "rows": "0.3"}))
            body, entry = self.laid(history)
            a, b = cut_ends(body, entry.ident)
            rim = np.abs(body.vertices[column_of(entry)][:, 0]) < 1e-6
            segments = np.stack((a, b), axis=1)[rim[a] & rim[b]]
            degree = np.bincount(segments.reshape(-1), minlength=body.vertices.count)
            self.assertEqual(set(np.unique(degree).tolist()), {0, 2}, "one closed line")
            flat = body.vertices["position"][:, (0, 2)].astype(float)
            used = np.unique(segments)
            number = np.full(body.vertices.count, -1)
            number[used] = np.arange(used.size)
            given = {"vertices": flat[used], "segments": number[segments]}
            corners = flat[[0, 24, -25, -1]]
            given["vertices"] = np.concatenate((given["vertices"], corners))
            theirs = triangle.triangulate(given, "p")
            mesh = np.column_stack(
                (theirs["vertices"][:, 0], np.zeros(len(theirs["vertices"])), theirs["vertices"][:, 1])
            )
            worst = float(shapes_of(mesh, theirs["triangles"].astype(np.int32))[0].min())
            self.assertGreater(float(angles(body).min()), worst)
            self.assertGreater(float(angles(body).min()), 8.0)
            x, z = flat[used[np.argsort(np.arctan2(flat[used, 1], flat[used, 0]))]].T
            shoelace = abs(float(x @ np.roll(z, 1) - z @ np.roll(x, 1))) / 2
            self.assertAlmostEqual(enclosed(body, column_of(entry)), shoelace, delta=0.02 * shoelace)

    def test_curves_are_the_splines_of_another_library(self) -> None:
        rng = np.random.default_rng(8)
        for closed in (False, True):
            for count in (3, 4, 9):
                points = rng.normal(size=(count, 3)) * 5
                places, at = smooth_curve(points, np.zeros(count, np.bool_), closed, 0.2)
                whole = np.concatenate((points, points[:1])) if closed else points
                knot = np.concatenate(([0.0], np.cumsum(np.sqrt(np.linalg.norm(np.diff(whole, axis=0), axis=1)))))
                theirs = CubicSpline(knot, whole, bc_type="periodic" if closed else "natural")
                where = np.interp(at, np.arange(len(knot)), knot)
                np.testing.assert_allclose(places, theirs(where), atol=1e-9)

    def test_nearest_places_are_those_of_another_library(self) -> None:
        """SciPy's k-d tree."""
        rng = np.random.default_rng(3)
        for count, points in ((1, 5), (16, 50), (17, 50), (700, 2000), (9000, 3000)):
            places = np.cumsum(rng.normal(size=(count, 3)), axis=0)
            asked = places[rng.integers(0, count, points)] + 4 * rng.normal(size=(points, 3))
            found = NearestPlace(places).of(asked)
            away, _ = cKDTree(places).query(asked)
            np.testing.assert_allclose(np.linalg.norm(asked - places[found], axis=1), away, rtol=1e-12)

    def test_a_track_around_a_cylinder_has_its_developed_length(self) -> None:
        history = project_with("column", radius=4.0, height=12.0, edge=0.15)
        turn = np.linspace(0.3, 2.6, 15)
        points = tuple(LinePoint((4.0 * math.cos(a), 2.0 + 2.5 * a, 4.0 * math.sin(a))) for a in turn)
        history.do(AddLine("track", "Body", points, "", {"width": 0.8, "cut": True, "tolerance": 0.01}))
        body, entry = self.laid(history)
        found = measured(body, entry, trace(Ground.of(body), entry))
        developed = math.hypot(4.0 * 2.3, 2.5 * 2.3)
        self.assertAlmostEqual(found.length, developed, delta=0.005 * developed)
        # a band with round ends: its width times its length, and a circle of its width
        self.assertAlmostEqual(found.area, 0.8 * developed + math.pi * 0.16, delta=0.015 * developed)
        self.assertAlmostEqual(found.slope, math.degrees(math.atan2(2.5, 4.0)), delta=0.8)

    def test_cross_sections_are_those_typed(self) -> None:
        history = self.sheet(0.25)
        history.do(LayRelief("Body", "noise", {"size": 6.0, "height": 0.8}))
        body = history.project.bodies[0]
        before = body.vertices["position"].copy()
        profile = [[0.0, 0.0], [1.0, 1.0]]
        history.do(
            AddLine("track", "Body", way((-9.0, 0.0), (9.0, 0.0)), "Bed", {
                "width": 2.0, "relief": True, "profile": profile, "low": -1.0, "high": 0.0, "shoulder": 1.0,
            })
        )  # fmt: skip
        step = body.vertices["position"] - before
        across = np.abs(before[:, 2].astype(float))
        inside = np.abs(before[:, 0]) < 7.0
        near = inside & (across < 1.5)
        # a straight profile from the middle, where it is 1 m deep, to 2 m off; distances are along the slopes of the noise
        self.assertLess(float(np.abs(step[near, 1] - (across[near] / 2 - 1.0)).max()), 0.15)
        self.assertEqual(float(np.abs(step[across > 2.2]).max()), 0.0)
        self.assertEqual(float(np.abs(step[:, (0, 2)]).max()), 0.0, "it goes straight down")
        self.assertEqual([layer.name for layer in body.layers], ["Noise", "Bed"])
        history.do(ChangeLine("Bed", None, {"level": "along", "profile": [[0.0, 1.0], [1.0, 1.0]], "steepest": 3.0}))
        place = body.vertices["position"].astype(float)
        bed = inside & (across < 0.95)
        for x in np.arange(-6.0, 6.1, 0.5):
            line = bed & (np.abs(before[:, 0] - x) < 1e-3)
            self.assertLess(float(np.ptp(place[line, 1])), 0.02, "level across")
        middle = bed & (across < 1e-3)
        order = np.argsort(place[middle, 0])
        slope = np.abs(np.diff(place[middle, 1][order]) / np.diff(place[middle, 0][order]))
        self.assertLess(math.degrees(math.atan(float(slope.max()))), 3.2)
        history.do(ChangeLine("Bed", None, {"relief": False}))
        np.testing.assert_allclose(body.vertices["position"], before, atol=1e-6)

    def test_ground_lies_inside_by_rule_beneath_hand_paint(self) -> None:
        history = self.sheet(0.5)
        body = history.project.bodies[0]
        history.do(stroke("set", (0.0, 0.0, 0.0), ground="Bleached ledge", radius=1.0, share=100.0, core=90))
        history.do(AddLine("outline", "Body", ring(5.0), "Ring", {"ground": "Shell sand"}))
        sand = history.project.ground_named("Shell sand", "")
        away = np.hypot(body.vertices["position"][:, 0], body.vertices["position"][:, 2])
        weight = body.vertices["weight"][:, sand]
        self.assertTrue((weight[(away > 1.3) & (away < 4.9)] == 1.0).all())
        self.assertTrue((weight[away > 5.1] == 0.0).all())
        self.assertLess(float(weight[away < 0.7].max()), 0.05, "hand paint lies on top")
        history.do(ChangeLine("Ring", None, {"rim": 2.0}))
        weight = body.vertices["weight"][:, sand]
        near = np.abs(away - 5.0) < 0.02
        self.assertTrue(near.any())
        np.testing.assert_allclose(weight[near], 0.5, atol=0.03)
        history.do(ChangeLine("Ring", ring(5.0, x=4.0)))
        moved = np.hypot(body.vertices["position"][:, 0] - 4.0, body.vertices["position"][:, 2])
        self.assertTrue((body.vertices["weight"][moved > 6.2, sand] == 0.0).all())
        history.do(ChangeObject("Ring", name="Round"))
        history.do(RemoveObject("Round"))
        self.assertFalse(body.rules)
        self.assertFalse([name for name in body.vertices.names if name.startswith(LINE)])

    def test_points_ride_with_the_surface(self) -> None:
        history = self.sheet(0.5)
        history.do(LayRelief("Body", "noise", {"size": 5.0, "height": 1.0}, "Hills"))
        history.do(AddLine("track", "Body", way((-6.0, 1.0), (-1.0, -2.0), (4.0, 3.0)), "Path", {"width": 1.0}))
        body = history.project.bodies[0]

        def points() -> np.ndarray:
            return line_of(history.project.objects[-1]).array

        def off() -> float:
            return max(body.own_nearest(place).distance for place in points())

        first = points()
        for command in (
            stroke("raise", (-1.0, 0.0, -2.0), radius=4.0, height=2.0, direction="up"),
            ChangeLayer("Body", "Hills", strength=-0.5),
            stroke("raise", (-1.0, 0.0, -2.0), radius=3.0, height=1.0, grow="both", edge=0.2),
            PlaceBody("Body", (3.0, 1.0, 0.0), (0.0, 30.0, 10.0), (1.2, 1.2, 1.2)),
            Subdivide("Body"),
            Reduce("Body", share=0.4),
            Recast("Body", 0.6),
        ):
            before = points()
            history.do(command)
            self.assertLess(off(), 2e-4, command)
            if isinstance(command, ChangeLayer):  # straight up and down, with what lies under it
                self.assertLess(float(np.abs(points() - before)[:, (0, 2)].max()), 1e-5)
                self.assertGreater(float(np.abs(points() - before)[:, 1].max()), 0.1)
        for _ in range(7):
            history.undo()
        np.testing.assert_array_equal(points(), first)
        history.do(AddBody("block", {}, "Rock"))
        history.do(RemoveBody("Body"))
        self.assertFalse(history.project.objects, "a line goes with its body")
        history.undo()
        np.testing.assert_array_equal(points(), first)

    def test_a_point_moved_again_and_again_leaves_the_mesh_as_good(self) -> None:
        history = self.sheet()
        history.do(LayRelief("Body", "noise", {"height": 0.5, "size": 5.0}))
        carries = {"cut": True, "tolerance": 0.05, "width": 1.2, "rows": "0.15", "relief": True, "level": "along"}
        points = way((-10, 0), (-6, 2), (-2, -2), (2, 2), (6, -2), (10, 0))
        history.do(AddLine("track", "Body", points, "Path", carries))
        body, entry = self.laid(history)
        first, edges = body.corners.live_count, cut_ends(body, entry.ident)[0].size
        for step in range(8):
            entry = history.project.objects[-1]
            places = [LinePoint(place.at, place.corner, place.width) for place in line_of(entry).points]
            x, y, z = places[1].at
            places[1] = LinePoint((x + 0.4 * (-1) ** step, y, z + 0.1))
            body = history.project.bodies[0]
            at = body.vertices["position"][np.concatenate(cut_ends(body, entry.ident))]
            far = {row.tobytes() for row in at[at[:, 0] > 7.5][:, (0, 2)]}
            history.do(ChangeLine("Path", tuple(places)))
            check_project(history.project)
            body = history.project.bodies[0]
            at = body.vertices["position"][np.concatenate(cut_ends(body, entry.ident))]
            still = {row.tobytes() for row in at[at[:, 0] > 7.5][:, (0, 2)]}
            if step:  # where no piece of the curve has moved, the cut stays
                self.assertGreater(len(far & still), 0.9 * len(far))
        self.assertLess(abs(body.corners.live_count - first), 0.2 * first)
        self.assertLess(abs(cut_ends(body, entry.ident)[0].size - edges), 0.3 * edges)
        self.assertLess((angles(body) < 10).sum(), 10)

    def test_what_is_laid_on_a_piece_is_what_is_laid_on_the_whole(self) -> None:
        history = project_with("sheet", size=60.0, depth=60.0, edge=0.5)
        history.do(LayRelief("Body", "noise", {"height": 0.5, "size": 5.0}))
        history.do(stroke("raise", (-9.0, 0, 9.0), (-6.0, 0, 9.0), radius=2.0, grow="both", edge=0.8))
        bend = Condition("bend", {"scale": 1.0}, low=-60.0, high=-2.0)
        track = {"cut": True, "relief": True, "level": "along", "width": 1.2, "rows": "0.2", "ground": "Shell sand"}
        pond = {"cut": True, "relief": True, "level": "flat", "rise": -0.4, "shoulder": 0.8, "ground": "Shell sand"}
        history.do(AddLine("track", "Body", way((-6, -6), (-2, -5), (2, -7), (6, -6)), "Path", track))
        history.do(AddLine("outline", "Body", ring(2.5, 9, -6.0, 7.0), "Pond", pond))
        plain = {"cut": True, "ground": "Shell sand"}
        history.do(AddLine("outline", "Body", ring(10.0, 16, 18.0, 18.0), "Patch", plain))
        history.do(SetRules("Body", (Rule("Thrift turf", (bend,)), *history.project.bodies[0].rules)))
        for name, far in (("Path", 0.5), ("Pond", 0.5), ("Patch", -17.0)):  # one point, and then all of them
            if name == "Patch":  # and no rule that looks around
                history.do(SetRules("Body", history.project.bodies[0].rules[1:]))
            entry = next(entry for entry in history.project.objects if entry.name == name)
            places = [LinePoint(place.at, place.corner, place.width) for place in line_of(entry).points]
            for i in (1,) if far > 0 else range(len(places)):
                x, y, z = places[i].at
                places[i] = LinePoint((x + far, y, z - 0.4))
            command = ChangeLine(name, tuple(places))
            with unittest.mock.patch("hulmo.core.commands.lay_line.line_piece", return_value=None):
                history.do(command)
            whole = history.project.bodies[0].copy()
            history.undo()
            with unittest.mock.patch.object(
                LinePiece, "put_back", autospec=True, side_effect=LinePiece.put_back
            ) as used:
                history.do(command)
            self.assertEqual(used.call_count, 1)
            check_project(history.project)
            body = history.project.bodies[0]
            one, other = (entry.vertices["position"][entry.corners.first_corner >= 0] for entry in (body, whole))
            away, _ = cKDTree(other).query(one)
            self.assertGreater((away < 1e-5).mean(), 0.98)
            self.assertLess(away.max(), 0.4)
            number = column_of(entry)
            inside, borders = [], []
            for each in (body, whole):
                triangles = each.corners.live_triangles()
                triangles = triangles[(each.vertices[number][triangles] > -1e-6).all(axis=(1, 2))]
                inside.append(float(triangle_areas(each.vertices["position"][triangles]).sum()))
                borders.append(each.corners.border_corners().size)
            self.assertAlmostEqual(inside[0] / inside[1], 1.0, delta=0.01)
            self.assertEqual(*borders)
            laid = body.copy()
            laid_anew(laid, history.project.ground_names, silent())  # rules say there what they say of all of it
            np.testing.assert_array_equal(laid.vertices["ruled"], body.vertices["ruled"])
        history.do(AddLine("outline", "Body", ring(0.2, 9, 8.0, 8.0), "Dot", {"cut": True}))  # within a triangle or two
        self.assertGreater(cut_ends(history.project.bodies[0], history.project.objects[-1].ident)[0].size, 8)

    def test_faces_inside_with_one_ground(self) -> None:
        from hulmo.core.io.delivery import deliver

        history = self.sheet(1.0)
        history.do(AddLine("outline", "Body", ring(5.0), "Ring", {"cut": True, "tolerance": 0.02}))
        history.do(ChooseParts("Body", "face", "line", name="Ring"))
        history.do(LayOnFaces("Body", "Shell sand"))
        body = history.project.bodies[0]
        inside = np.hypot(*body.vertices["position"][body.corners.triangles].mean(axis=1)[:, (0, 2)].T) < 5.0
        (delivery,), used = deliver(history.project)
        sand = used.index(history.project.ground_named("Shell sand", ""))
        share = delivery.weights()[delivery.triangles][..., sand].astype(float)
        whole = share.max()
        self.assertTrue((share[inside] == whole).all() and (share[~inside] == 0).all(), "no blend over the rim")
        rim = len(cut_ends(body, history.project.objects[-1].ident)[0])
        self.assertEqual(len(delivery.position), body.vertices.live_count + rim, "only the rim's vertices are doubled")

    def test_what_cannot_be_is_said(self) -> None:
        history = self.sheet(1.0)
        project = history.project
        crossing = way((-3.0, -3.0), (3.0, 3.0), (3.0, -3.0), (-3.0, 3.0))
        for command, words in (
            (AddLine("outline", "Body", crossing), "crosses itself near"),
            (AddLine("track", "Body", way((0.0, 0.0), (30.0, 0.0))), "beyond the border"),
            (AddLine("track", "Body", (LinePoint((0.0, 9.0, 0.0)), LinePoint((3.0, 0.0, 0.0)))), "off the body"),
            (AddLine("outline", "Body", ring(11.5)[:0] + ring(14.0)), "beyond the border"),
            (AddLine("track", "Body", way((0.0, 0.0), (0.0, 0.0005))), "less than a millimetre"),
            (AddLine("track", "Body", way((-9.0, 0.0), (9.0, 0.0)), "", {"width": 900.0}), "wider than the land"),
            (AddLine("track", "Body", way((-9.0, 0.0), (9.0, 0.0)), "", {"width": float("nan")}), "width"),
            (AddLine("track", "Body", (LinePoint((0.0, float("nan"), 0.0)), LinePoint((1.0, 0, 0)))), "finite"),
            (AddLine("outline", "Body", ring(0.1, x=0.3, z=0.2)), "smaller than the triangles"),
            (
                AddLine("track", "Body", way((-9, 0.3), (9, 0.3)), "", {"width": 0.1, "ground": "Shell sand"}),
                "narrower",
            ),
            (AddLine("track", "Body", way((-9, 0), (9, 0)), "", {"rows": "0.1, much"}), "support rows are numbers"),
            (AddLine("track", "Body", way((-9, 0), (9, 0)), "", {"ground": "Moss"}), "Moss"),
            (AddLine("square", "Body", ring(2.0)), "kind"),
            (ChangeLine("Nobody"), "Nobody"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(InvalidInput, words):
                history.do(command)
        self.assertFalse(project.objects)
        check_project(project)

    def test_random_lines_leave_sound_meshes_and_go_back_and_forth(self) -> None:
        rng = np.random.default_rng(6)
        for form in ("sheet", "icosphere", "block"):
            size = {"radius": 6.0} if form == "icosphere" else {"size": 12.0, "depth": 12.0}
            history = project_with(form, edge=0.7, **size)
            body = history.project.bodies[0]
            history.do(LayRelief("Body", "noise", {"size": 4.0, "height": 0.6}))
            done = 0
            for _ in range(7):
                try:
                    history.do(self.something(rng, body, history))
                    done += 1
                except HulmoError as error:
                    self.assertRegex(
                        str(error), "border|crosses|does not part|smaller|narrower|points|off the body|wider"
                    )
                check_project(history.project)
            self.assertGreater(done, 2)
            last = {name: body.vertices[name].tobytes() for name in body.vertices.names}
            objects, count = history.project.objects, history.labels[1]
            history.jump(1)
            history.jump(count)
            self.assertEqual({name: body.vertices[name].tobytes() for name in body.vertices.names}, last)
            self.assertEqual(history.project.objects, objects)

    def something(self, rng: np.random.Generator, body: Body, history: History) -> Command:
        lines = history.project.objects
        if len(lines) > 1 and rng.random() < 0.4:
            name = lines[rng.integers(len(lines))].name
            flip = {"cut": bool(rng.random() < 0.5), "relief": bool(rng.random() < 0.5)}
            return RemoveObject(name) if rng.random() < 0.4 else ChangeLine(name, None, flip)
        middle = body.vertices["position"][int(rng.choice(body.corners.live_triangles()[:, 0]))].astype(float)
        up = body.normal_at(body.own_nearest(middle))
        side = np.cross(up, (0.9, 0.1, 0.3))
        side /= np.linalg.norm(side)
        turn = np.linspace(0, 5.5, int(rng.integers(3, 7)))
        places = middle + 2.0 * (np.cos(turn)[:, None] * side + np.sin(turn)[:, None] * np.cross(up, side))
        settings = {
            "width": 0.8, "ground": "Shell sand", "cut": bool(rng.random() < 0.8), "tolerance": 0.03,
            "rows": str(rng.choice(["", "0.15"])), "relief": bool(rng.random() < 0.6),
            "level": str(rng.choice(["off", "along", "flat"])), "shoulder": 0.8,
        }  # fmt: skip
        kind = str(rng.choice(["outline", "track"]))
        return AddLine(kind, "Body", tuple(LinePoint(tuple(p)) for p in places.tolist()), "", settings)


if __name__ == "__main__":
    unittest.main()
