"""Texture coordinates against closed forms, papers and other libraries."""

import itertools
import json
import math
import pathlib
import subprocess
import unittest

import numpy as np

from hulmo.core.by_hand.choice import chosen
from hulmo.core.commands import (
    AddBody,
    AddLayer,
    ChangeUv,
    ChooseParts,
    LayRelief,
    LayUv,
    MarkSeams,
    MoveChosen,
    PackUv,
    PlaceBody,
    Recast,
    Reduce,
    RelaxUv,
    RemoveUv,
    StackUv,
    StraightenUv,
    Stroke,
    UnwrapAlongSeams,
    UnwrapUv,
)
from hulmo.core.errors import Cancelled, HulmoError
from hulmo.core.history import History
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.uv.apart import AT_ONCE
from hulmo.core.uv.charts import charts_of
from hulmo.core.uv.figures import UvFigures, figures_of, stretches
from hulmo.core.uv.flatten import flattened
from hulmo.core.uv.laid import opposite_of
from hulmo.core.uv.pack import signed_areas
from hulmo.core.uv.tangent import tangents
from hulmo.core.uv.texels import texels_of, with_margin

NODE = pathlib.Path(__file__).with_name("node")


def built(form: str, **settings: float) -> History:
    history = History(Project())
    history.do(AddBody(form, settings, "Body"))
    return history


def parts(body: Body, column: str = "uv") -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    slots = np.flatnonzero(body.corners.triangles[:, 0] >= 0).astype(np.int32)
    place = body.vertices["position"][body.corners.triangles[slots]].astype(float)
    return place, body.corners.slots[column][slots].astype(float), opposite_of(body, slots)


def figures(body: Body) -> UvFigures:
    return figures_of(*parts(body))


def _half_cylinder() -> tuple[np.ndarray, np.ndarray]:
    triangles, across, along = _grid(25, 13)
    angle = across / 24 * math.pi
    return np.stack((2 * np.cos(angle), along * 0.25, 2 * np.sin(angle)), axis=1), triangles


def _cone() -> tuple[np.ndarray, np.ndarray]:
    triangles, across, along = _grid(49, 11)
    angle, radius = across / 48 * 2 * math.pi, 1.0 + along * 0.1
    return np.stack((radius * np.cos(angle), radius * 1.2, radius * np.sin(angle)), axis=1), triangles


def _grid(wide: int, deep: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    number = np.arange(wide * deep).reshape(deep, wide)
    a, b, c, d = (part.reshape(-1) for part in (number[:-1, :-1], number[:-1, 1:], number[1:, 1:], number[1:, :-1]))
    triangles = np.concatenate((np.stack((a, b, c), 1), np.stack((a, c, d), 1))).astype(np.int32)
    along, across = np.divmod(np.arange(wide * deep), wide)
    return triangles, across.astype(float), along.astype(float)


class ProjectionTest(unittest.TestCase):
    def test_a_sheet_from_above_and_on_its_plane_is_itself(self) -> None:
        history = built("sheet", size=8.0, depth=4.0, edge=0.5)
        body = history.project.bodies[0]
        history.do(LayUv("Body", "above", unit=2.0))
        place, uv, _ = parts(body)
        np.testing.assert_allclose(uv, place[..., (0, 2)] / 2.0, atol=1e-6)
        history.do(PlaceBody("Body", turn=(30.0, 40.0, 50.0)))
        history.do(LayUv("Body", "plane", unit=1.0))
        found = figures(body)
        self.assertAlmostEqual(found.l2, 1.0, places=4)
        self.assertEqual((found.charts, found.mirrored, found.flat), (1, 0, 0))
        self.assertAlmostEqual(found.metres, 1.0, places=4)

    def test_a_cylinder_is_rolled_off_without_stretch(self) -> None:
        """It is developable: isometric, as long as its circumference (closed form)."""
        history = built("column", radius=2.0, height=6.0, edge=0.2)
        body = history.project.bodies[0]
        history.do(LayUv("Body", "cylinder", unit=1.0))
        place, uv, _ = parts(body)
        normal = np.cross(place[:, 1] - place[:, 0], place[:, 2] - place[:, 0])
        wall = np.abs(normal[:, 1]) < 0.2 * np.linalg.norm(normal, axis=1)
        self.assertGreater(int(wall.sum()), 200)
        l2, linf = stretches(place[wall], uv[wall])
        np.testing.assert_allclose(l2, 1.0, atol=0.03)
        np.testing.assert_allclose(linf, 1.0, atol=0.05)
        self.assertTrue((signed_areas(uv)[wall] > 0).all())
        across = float(np.ptp(uv[wall][..., 0]))
        self.assertAlmostEqual(
            across, 2 * math.pi * float(np.hypot(place[wall][..., 0], place[wall][..., 2]).mean()), delta=0.5
        )

    def test_of_a_ball(self) -> None:
        history = built("icosphere", radius=3.0, edge=0.3)
        body = history.project.bodies[0]
        history.do(LayUv("Body", "sphere", unit=1.0))
        place, uv, _ = parts(body)
        self.assertLessEqual(int((signed_areas(uv) < -1e-9).sum()), 2, "but where a pole lies within a triangle")
        lat = np.arcsin(np.clip(place[..., 1] / 3.0, -1, 1))
        np.testing.assert_allclose(uv[..., 1], -lat * 3.0, atol=0.02)
        self.assertLessEqual(int((np.ptp(uv[..., 0], axis=1) > 9.5).sum()), 2, "no other triangle reaches round")
        history.do(LayUv("Body", "six_sides", unit=1.0))
        found = figures(body)
        self.assertEqual((found.mirrored, found.flat), (0, 0))
        # equal angles: the largest stretch of the sphere over its sides is sqrt(2) in a corner (closed form: 1 / cos(35.26))
        self.assertLess(found.linf, 1.6)
        history.do(LayUv("Body", "box", unit=1.0))
        found = figures(body)
        self.assertEqual(found.mirrored, 0)
        self.assertLess(found.linf, math.sqrt(3.0) * 1.25)  # a face turned to a corner of the box: 1 / cos(54.7)

    def test_as_it_lay_before_relief(self) -> None:
        history = built("sheet", size=10.0, depth=10.0, edge=0.5)
        body = history.project.bodies[0]
        history.do(LayUv("Body", "above", unit=1.0))
        before = parts(body)[1]
        history.do(LayRelief("Body", "noise", {"height": 3.0}, "Bumps"))
        history.do(AddLayer("Body", "Hand"))
        history.do(LayUv("Body", "plane", {"plane": "typed", "up": 0.0, "north": -1.0}, unit=1.0))
        history.do(LayUv("Body", "above", unit=1.0, of="form"))
        np.testing.assert_allclose(parts(body)[1], before, atol=1e-6)


class UnwrapTest(unittest.TestCase):
    def test_charts_lie_apart_within_the_square_and_hardly_stretched(self) -> None:
        history = built("icosphere", radius=3.0, edge=0.4)
        history.do(LayRelief("Body", "noise", {"height": 0.6}))
        history.do(UnwrapUv("Body", size=512, margin=4))
        body = history.project.bodies[0]
        found = figures(body)
        self.assertEqual((found.mirrored, found.flat, found.outside), (0, 0, 0))
        self.assertEqual(found.twice, 0.0)
        self.assertGreater(found.used, 0.35)
        self.assertLess(found.l2, 1.35)
        # charts keep their distance: no texel is reached by two of them at half the margin
        place, uv, opposite = parts(body)
        chart = charts_of(uv, opposite)
        seen = np.full((512, 512), -1)
        for number in range(int(chart.max()) + 1):
            at = texels_of(uv[chart == number], (512, 512)).triangle >= 0
            self.assertTrue((seen[at] < 0).all())
            seen[at] = number
        history.do(ChangeUv("Body", scale=(3.0, 2.0), turn=30.0, mirror="u"))
        self.assertGreater(figures(body).mirrored, 0)
        history.do(ChangeUv("Body", mirror="v"))
        history.do(PackUv("Body", size=512, margin=4))
        again = figures(body)
        self.assertEqual((again.mirrored, again.outside, again.charts), (0, 0, found.charts))
        self.assertEqual(again.twice, 0.0)
        place, uv, opposite = parts(body)
        chart = charts_of(uv, opposite)
        area = np.linalg.norm(np.cross(place[:, 1] - place[:, 0], place[:, 2] - place[:, 0]), axis=1) / 2
        density = np.bincount(chart, np.abs(signed_areas(uv))) / np.bincount(chart, area)
        np.testing.assert_allclose(density, np.median(density), rtol=0.02)

    def test_large_bodies_are_unwrapped_apart_and_can_be_stopped(self) -> None:
        history = built("icosphere", radius=3.0, edge=0.15)
        self.assertGreater(history.project.bodies[0].corners.live_count, AT_ONCE)
        steps = []
        history.do(UnwrapUv("Body", size=256), Progress(lambda share, what: steps.append((share, what))))
        self.assertTrue(any("unwrapping" in what for _, what in steps))
        found = figures(history.project.bodies[0])
        self.assertEqual((found.mirrored, found.outside, found.twice), (0, 0, 0.0))
        stopped = Progress(lambda share, what: stopped.stop())
        with self.assertRaises(Cancelled):
            history.do(PackUv("Body", size=256), stopped)
        before = parts(history.project.bodies[0])[1]
        history.do(PackUv("Body", size=256))
        self.assertGreater(float(np.abs(parts(history.project.bodies[0])[1] - before).max()), 0.0)

    def test_developable_surfaces_unroll_along_their_seams(self) -> None:
        """Half-cylinder and slit cone are developable: laid flat without stretch, in metres (closed form)."""
        for name, bend in (("half-cylinder", _half_cylinder), ("cone", _cone)):
            for keep in ("angles", "both"):
                with self.subTest(name, keep=keep):
                    place, triangles = bend()
                    flat = flattened(place, triangles, keep)[triangles]
                    l2, linf = stretches(place[triangles], flat)
                    np.testing.assert_allclose(l2, 1.0, atol=0.004)
                    np.testing.assert_allclose(linf, 1.0, atol=0.008)
                    self.assertTrue((signed_areas(flat) > 0).all())

    def test_a_ball_with_a_seam_around_keeps_its_angles(self) -> None:
        history = built("icosphere", radius=3.0, edge=0.4)
        body = history.project.bodies[0]
        with self.assertRaisesRegex(HulmoError, "closed and no seam"):
            history.do(UnwrapAlongSeams("Body", size=256))
        history.do(ChooseParts("Body", "face", "facing", high=90.0, toward=(0.0, 1.0, 0.0)))
        history.do(ChooseParts("Body", "edge", "rim"))
        history.do(MarkSeams("Body"))
        rim = int(np.count_nonzero(body.corners.slots["seam"])) // 2
        for keep, most in (("angles", 0.06), ("both", 0.25)):
            history.do(UnwrapAlongSeams("Body", keep, size=256))
            found = figures(body)
            self.assertEqual((found.charts, found.mirrored, found.flat, found.outside, found.twice), (2, 0, 0, 0, 0.0))
            # of a conformal map both singular values are one; how far they are apart is the change of angles
            place, uv, _ = parts(body)
            l2, linf = stretches(place, uv)
            least = np.sqrt(np.maximum(2 * l2**2 - linf**2, 0.0))
            self.assertLess(float(np.median(linf / least)) - 1, most)
        areas = figures(body).linf
        history.do(UnwrapAlongSeams("Body", "angles", size=256))
        self.assertLess(areas, figures(body).linf, "what keeps areas too is stretched less at the most")
        # a band is cut open once more by itself; where UV is torn seams can be read back
        history.do(ChooseParts("Body", "face", "facing", high=40.0, toward=(0.0, 1.0, 0.0)))
        history.do(ChooseParts("Body", "edge", "rim"))
        history.do(MarkSeams("Body"))
        history.do(UnwrapAlongSeams("Body", "both", size=256))
        self.assertEqual((figures(body).charts, figures(body).mirrored), (3, 0))
        before = int(np.count_nonzero(body.corners.slots["seam"])) // 2
        self.assertGreater(before, rim)
        history.do(MarkSeams("Body", "all", False))
        self.assertNotIn("seam", body.corners.slots)
        history.do(MarkSeams("Body", "charts"))
        after = int(np.count_nonzero(body.corners.slots["seam"])) // 2
        self.assertGreater(after, before, "with the cut through the band")

    def test_pins_stay_and_reshaped_faces_follow(self) -> None:
        history = built("sheet", size=6.0, depth=6.0, edge=0.5)
        body = history.project.bodies[0]
        history.do(LayUv("Body", "above", unit=6.0))
        place, flat, _ = parts(body)
        corners = body.corners.live_triangles()
        at = [int(corners.reshape(-1)[np.argmin(np.abs(place.reshape(-1, 3) - p).sum(axis=1))])
              for p in ((-3.0, 0, -3.0), (3.0, 0, -3.0), (-3.0, 0, 3.0))]  # fmt: skip
        history.do(ChooseParts("Body", "vertex", "these", these=tuple(at)))
        history.do(ChangeUv("Body", scale=(2.0, 2.0), about=(0.0, 0.0)))
        history.do(UnwrapAlongSeams("Body", pins=True))
        np.testing.assert_allclose(parts(body)[1], flat * 2, atol=1e-5)  # a sheet: conformal already
        # a bump stretches what was laid; relaxed, the rest is where it was, and the most stretched faces are less so
        middle = int(np.argmin(np.abs(body.vertices["position"]).sum(axis=1)))
        history.do(ChooseParts("Body", "vertex", "these", these=(middle,)))
        history.do(MoveChosen("Body", "vertex", move=(0.0, 2.0, 0.0), reach=1.8, falloff="smooth"))
        before, laid = figures(body), parts(body)[1]
        history.do(RelaxUv("Body", "stretched", 1.2))
        after = figures(body)
        self.assertLess(after.l2, before.l2)
        self.assertEqual(after.mirrored, 0)
        place, uv, _ = parts(body)
        far = np.linalg.norm(place.mean(axis=1), axis=1) > 2.8
        np.testing.assert_array_equal(uv[far], laid[far])

    def test_rows_are_straight_and_charts_lie_over_each_other(self) -> None:
        history = built("sheet", size=6.0, depth=6.0, edge=1.0)
        body = history.project.bodies[0]
        history.do(LayUv("Body", "above", unit=6.0))
        history.do(ChangeUv("Body", turn=20.0))
        place, _, _ = parts(body)
        triangles = body.corners.live_triangles()
        row = np.unique(triangles.reshape(-1)[np.abs(place.reshape(-1, 3)[:, 2]) < 1e-6])
        order = row[np.argsort(body.vertices["position"][row, 0])].tolist()
        these = tuple(v for pair in itertools.pairwise(order) for v in pair)
        history.do(ChooseParts("Body", "edge", "these", these=these))
        history.do(StraightenUv("Body", "nearest"))
        place, uv, _ = parts(body)
        on = np.abs(place[..., 2]) < 1e-6
        self.assertLess(float(np.ptp(uv[on][:, 1])), 1e-6)
        share = (place[on][:, 0] - place[on][:, 0].min()) / np.ptp(place[on][:, 0])
        np.testing.assert_allclose(uv[on][:, 0], uv[on][:, 0].min() + share * np.ptp(uv[on][:, 0]), atol=1e-6)
        history = built("block", size=2.0, height=2.0, depth=2.0, edge=1.0)
        body = history.project.bodies[0]
        history.do(LayUv("Body", "six_sides"))
        history.do(PackUv("Body", size=256))
        history.do(ChooseParts("Body", "face", "all"))
        history.do(StackUv("Body"))
        found = figures(body)
        self.assertEqual(found.charts, 6)
        uv = parts(body)[1]
        chart = charts_of(uv, parts(body)[2])
        middle = [(uv[chart == n].min(axis=(0, 1)) + uv[chart == n].max(axis=(0, 1))) / 2 for n in range(6)]
        np.testing.assert_allclose(middle, np.broadcast_to(middle[0], (6, 2)), atol=1e-6)
        for command, words in (
            (MarkSeams("Body", "charts", name="x"), "no UV"), (MarkSeams("Body", "rust"), "by is"),
            (MarkSeams("Body", "all"), "all edges"), (MarkSeams("Body", "all", False), "nothing would change"),
            (MarkSeams("Body", "line", name="x"), "x"), (MarkSeams("Body", angle=math.nan), "angle"),
            (UnwrapAlongSeams("Body", "area"), "keep"), (UnwrapAlongSeams("Body", pins=True), "two chosen vertices"),
            (RelaxUv("Body", limit=1.0), "limit"), (RelaxUv("Body", "some"), "faces"), (StackUv("Body", into="x"), "no UV"),
            (StraightenUv("Body", "up"), "along"), (StraightenUv("Body"), "edge"), (ChangeUv("Body", faces="rows"), "faces"),
        ):  # fmt: skip
            with self.subTest(command=command), self.assertRaisesRegex(HulmoError, words):
                history.do(command)

    def test_changes_are_what_they_say(self) -> None:
        history = built("sheet", size=2.0, depth=2.0, edge=1.0)
        body = history.project.bodies[0]
        before = parts(body)[1]
        history.do(ChangeUv("Body", turn=90.0))
        # a quarter counter-clockwise in the image, v down: right becomes up
        expected = np.stack((before[..., 1], 1.0 - before[..., 0]), axis=2)
        np.testing.assert_allclose(parts(body)[1], expected, atol=1e-6)
        history.undo()
        history.do(ChangeUv("Body", "u", move=(2.0, 0.0), scale=(1.0, 4.0), about=(0.0, 0.0)))
        np.testing.assert_allclose(parts(body)[1], before * (-1.0, 4.0) + (2.0, 0.0), atol=1e-6)
        history.do(RemoveUv("Body"))
        self.assertNotIn("uv", body.corners.slots)
        history.undo()
        history.do(LayUv("Body", "box", into="light"))
        self.assertIn("uv light", body.corners.slots)
        self.assertIn("uv", body.corners.slots)
        self.assertFalse(chosen(body, "face").any())
        for command, words in (
            (LayUv("Body", "tube"), "way"), (LayUv("Body", unit=-1.0), "unit"), (LayUv("Body", faces="chosen"), "chosen"),
            (LayUv("Body", of="core"), "surface or form"), (ChangeUv("Body", scale=(0.0, 1.0)), "scale of 0"),
            (ChangeUv("Body", turn=math.nan), "turn"), (ChangeUv("Body", into="none"), "has no UV 'none'"),
            (PackUv("Body", size=4), "size"), (PackUv("Body", margin=4000), "margin"), (UnwrapUv("Body", bent=0.0), "bent"),
            (LayUv("Body", "plane", {"plane": "typed", "up": 0.0}), "no length"), (LayUv("Body", unit=1e-6), "from 0"),
        ):  # fmt: skip
            with self.subTest(command=command), self.assertRaisesRegex(HulmoError, words):
                history.do(command)

    def test_it_is_carried_by_a_growing_stroke(self) -> None:
        """The sheet's UV is its place from above, and stays so where triangles are divided in its plane."""
        history = built("sheet", size=4.0, depth=4.0, edge=0.5)
        body = history.project.bodies[0]
        history.do(LayUv("Body", "above", unit=4.0))
        count = body.corners.live_count
        history.do(
            Stroke(
                "Body",
                "raise",
                ((0.0, 0.0, 0.0),),
                {"radius": 1.0, "height": 1e-4, "edge": 0.1, "grow": "finer"},
            )
        )
        place, uv, _ = parts(body)
        self.assertGreater(place.shape[0], count + 50)
        np.testing.assert_allclose(uv, place[..., (0, 2)] / 4.0, atol=2e-3)

    def test_it_is_carried_through_reducing_and_recasting(self) -> None:
        """Triangles are laid anew over charts; a triangle over a seam goes with one side. A sheet's stays its place."""
        history = built("sheet", size=8.0, depth=8.0, edge=0.25)
        history.do(LayUv("Body", "above", unit=8.0))
        history.do(Reduce("Body", share=0.3))
        place, uv, _ = parts(history.project.bodies[0])
        np.testing.assert_allclose(uv, place[..., (0, 2)] / 8.0, atol=1e-6)
        self.assertEqual(figures(history.project.bodies[0]).charts, 1)
        history = built("icosphere", radius=3.0, edge=0.2)
        history.do(UnwrapUv("Body", size=256))
        before = figures(history.project.bodies[0])
        for command in (Reduce("Body", share=0.4), Recast("Body", 0.3, "surface")):
            history.do(command)
            after = figures(history.project.bodies[0])
            self.assertEqual((after.mirrored, after.flat), (0, 0))
            self.assertLessEqual(after.charts, before.charts + 3)
            self.assertLess(after.linf, 1.05 * before.linf)
            self.assertAlmostEqual(after.metres, before.metres, delta=0.01 * before.metres)


class TangentTest(unittest.TestCase):
    def test_tangents_are_those_of_the_reference_implementation(self) -> None:
        """MikkTSpace by the package of its reference code; v runs up there."""
        history = built("icosphere", radius=2.0, edge=0.4)
        history.do(LayRelief("Body", "noise", {"height": 0.5}))
        history.do(UnwrapUv("Body", size=256))
        history.do(ChooseParts("Body", "face", "facing", high=60.0, toward=(0.0, 1.0, 0.0)))
        history.do(ChangeUv("Body", "u", faces="chosen"))  # some charts are mirrored
        body = history.project.bodies[0]
        place, uv, _ = parts(body)
        triangles = body.corners.live_triangles()
        normal = body.vertices["normal"][triangles].astype(float)
        normal /= np.linalg.norm(normal, axis=2, keepdims=True)
        told = {
            "position": place.reshape(-1).tolist(), "normal": normal.reshape(-1).tolist(),
            "uv": (uv * (1.0, -1.0) + (0.0, 1.0)).reshape(-1).tolist(),
        }  # fmt: skip
        done = subprocess.run(
            ["node", str(NODE / "tangents.mjs")], input=json.dumps(told), capture_output=True, text=True, check=True
        )
        wanted = np.array(json.loads(done.stdout)).reshape(-1, 3, 4)
        found = tangents(place, normal, uv, triangles)
        np.testing.assert_array_equal(found[..., 3], wanted[..., 3])
        self.assertEqual(set(np.unique(wanted[..., 3])), {-1.0, 1.0})
        cosine = (found[..., :3] * wanted[..., :3]).sum(axis=2)
        self.assertGreater(float(np.percentile(cosine, 1)), 0.9999)


class FigureTest(unittest.TestCase):
    def test_stretch_of_triangles_by_hand(self) -> None:
        """Sander et al. 2001: singular values of the map from the image to the surface. A right triangle of 2 x 3 m laid on a
        unit right triangle has 2 and 3: L2 = sqrt((4 + 9) / 2), Linf = 3; sheared by 1 with sides 1: golden ratio."""
        place = np.array([[[0, 0, 0], [2, 0, 0], [0, 0, 3]], [[0, 0, 0], [1, 0, 0], [1, 0, 1]]], float)
        uv = np.array([[[0, 0], [1, 0], [0, 1]]] * 2, float)
        l2, linf = stretches(place, uv)
        np.testing.assert_allclose(l2, [math.sqrt(6.5), math.sqrt(1.5)])
        np.testing.assert_allclose(linf, [3.0, (1 + math.sqrt(5)) / 2])
        self.assertEqual(float(stretches(place[:1], np.zeros((1, 3, 2)))[0][0]), math.inf)

    def test_every_texel_that_is_reached_has_a_place(self) -> None:
        """Counted by another way: squares cut by triangles with the polygon clipping of Sutherland and Hodgman (1974)."""
        rng = np.random.default_rng(9)
        uv = rng.random((60, 1, 2)) * 0.9 + rng.normal(0, 0.05, (60, 3, 2))
        size = (40, 24)
        found = texels_of(uv, size)
        reach = np.zeros((size[1], size[0]), bool)
        for triangle in uv * np.array(size):
            for row in range(size[1]):
                for column in range(size[0]):
                    if not reach[row, column] and clipped_area(triangle, column, row) > 1e-12:
                        reach[row, column] = True
        np.testing.assert_array_equal(found.triangle >= 0, reach)
        self.assertEqual(found.reached, int(reach.sum()))
        # the place is within the triangle, and where the middle is covered it is the middle
        texel, slot, share = found.places(0, size[1])
        rows, columns = np.nonzero(found.triangle >= 0)
        np.testing.assert_array_equal(texel, rows * size[0] + columns)
        np.testing.assert_array_equal(slot, found.triangle[rows, columns])
        weight = share.astype(float)
        shares = np.column_stack((1 - weight.sum(axis=1), weight))
        self.assertGreater(float(shares.min()), -1e-5)
        place = np.einsum("ki,kij->kj", shares, uv[found.triangle[rows, columns]]) * np.array(size)
        off = np.abs(place - np.column_stack((columns + 0.5, rows + 0.5))).max(axis=1)
        self.assertLess(float(off.max()), 0.72)
        a = uv * np.array(size)
        for row, column, far in zip(rows, columns, off, strict=True):
            way = np.roll(a, -1, axis=1) - a
            to = np.array([column + 0.5, row + 0.5]) - a
            turn = way[..., 0] * to[..., 1] - way[..., 1] * to[..., 0]
            covered = (turn > 1e-9).all(axis=1) | (turn < -1e-9).all(axis=1)
            if covered.any():
                self.assertLess(far, 1e-4)

    def test_margins_take_the_nearest(self) -> None:
        triangle = np.full((9, 9), -1, np.int32)
        triangle[4, 4] = 0
        source = with_margin(triangle >= 0, 2).reshape(9, 9)
        self.assertTrue((source[2:7, 2:7] == 40).all())
        self.assertEqual(int((source >= 0).sum()), 25)


def clipped_area(triangle: np.ndarray, left: int, top: int) -> float:
    """Area of a triangle within a unit square."""
    points = [tuple(point) for point in triangle]
    for axis, limit, side in ((0, left, 1), (0, left + 1, -1), (1, top, 1), (1, top + 1, -1)):
        out = []
        for i, a in enumerate(points):
            b = points[(i + 1) % len(points)]
            da, db = side * (a[axis] - limit), side * (b[axis] - limit)
            if da >= 0:
                out.append(a)
            if da * db < 0:
                t = da / (da - db)
                out.append(tuple(a[k] + t * (b[k] - a[k]) for k in range(2)))
        points = out
        if not points:
            return 0.0
    x, y = np.array(points).T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


if __name__ == "__main__":
    unittest.main()
