"""Pictures drawn in part are those drawn whole, pixel by pixel; what cannot be seen is not drawn."""

import unittest
from unittest import mock

import moderngl
import numpy as np
from PIL import Image

from hulmo.core.commands import AddBody, Command, LayRelief, PlaceBody, SetRules
from hulmo.core.edit import Change
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.history import History
from hulmo.core.mesh.extent import Extent
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.gpu_body import GpuBody
from hulmo.render.inside import Inside
from hulmo.render.looks import LOOKS
from hulmo.render.part import Part
from hulmo.render.passes import shot
from hulmo.render.passes.shot import FEW_PIECES
from hulmo.render.pieces import Pieces
from hulmo.render.portions import Runs
from hulmo.render.quick_picture import quick_picture
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets
from hulmo.render.touched import Touched
from tests.bodies import project_with, stroke

SIZE = (240, 180)
SLOPES = (Rule("Thrift turf", (Condition("slope", high=30.0, high_soft=10.0),)),)


class PartsTest(unittest.TestCase):
    context: moderngl.Context

    @classmethod
    def setUpClass(cls) -> None:
        cls.context = headless_context()
        cls.kept, cls.whole = Targets(cls.context, SIZE), Targets(cls.context, SIZE)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.context.release()

    def somewhere(self, rng: np.random.Generator) -> tuple[float, float, float]:
        way = rng.normal(size=3)
        x, y, z = (6.0 * way / np.linalg.norm(way)).tolist()
        return x, abs(y), z

    def steps(self, rng: np.random.Generator) -> list[Command | str]:
        out: list[Command | str] = []
        for _ in range(3):
            brush = str(
                rng.choice(("raise", "haul", "smooth", "roughen", "lay", "guard", "refine", "thin_out", "tint"))
            )
            ground = "Shell sand" if brush == "lay" else ""
            grow = {"grow": "both", "edge": 0.25} if brush == "raise" and rng.random() < 0.5 else {}
            at = self.somewhere(rng)
            out.append(
                stroke(brush, at, tuple(np.add(at, 0.4)), ground=ground, radius=float(rng.uniform(0.5, 1.6)), **grow)
            )
        return [*out, "undo", "undo", "redo"]

    def test_parts_are_the_whole_for_every_look(self) -> None:
        rng = np.random.default_rng(5)
        for look in LOOKS:
            history = project_with("icosphere", radius=5.0, edge=0.5)
            history.do(SetRules("Body", SLOPES))
            history.do(LayRelief("Body", "noise", {"height": 0.3}))
            history.do(AddBody("sheet", {"size": 16.0, "depth": 16.0, "edge": 1.0}, "Ground", (0.0, -3.0, 0.0)))
            history.do(stroke("tint", (6.0, 0.0, 0.0), ground="", radius=1.0))
            self.follow(history, look, rng, Inside((0.6, 0.0, 0.8, 1.0), 0.5) if look == "lit" else Inside())

    def test_far_from_zero_and_along_uv(self) -> None:
        rng = np.random.default_rng(6)
        for move in ((0.0, 0.0, 0.0), (6_371_000.0, 40.0, -2_000_000.0)):
            history = project_with("sheet", size=12.0, depth=12.0, edge=0.5)
            history.do(PlaceBody("Body", move))
            for look in ("lit", "mesh", "checker"):
                self.follow(history, look, rng, Inside(), move)

    def test_what_was_followed_without_a_picture_is_drawn_as_by_a_renderer_made_afresh(self) -> None:
        # new triangles reach where none of their piece was, new rows outgrow the buffers, the mean edge grows shorter
        for look in ("form", "stretch", "lit"):
            history = project_with("icosphere", radius=5.0, edge=0.5)
            renderer = Renderer(self.context, history.project, waiting=True)
            camera = Camera.framing(renderer.bounds(), bearing=0.0, altitude=0.6)
            renderer.picture(self.kept, camera, look)
            history.subscribe(lambda change, renderer=renderer: renderer.follow(change))
            for at in ((0.0, 5.0, 0.0), (0.0, 3.0, 4.0), (-3.0, 0.0, 4.0), (3.0, 0.0, 4.0), (0.0, 0.0, 5.0)):
                history.do(stroke("refine", at, radius=3.0, edge=0.15))
            history.do(stroke("raise", (0.0, 3.0, 4.0), radius=4.0, height=3.0))
            renderer.picture(self.kept, camera, look)
            Renderer(self.context, history.project, waiting=True).picture(self.whole, camera, look)
            away = np.abs(self.kept.pixels().astype(int) - self.whole.pixels().astype(int)).max(axis=2)
            self.assertLessEqual(int((away > 2).sum()), 3, look)

    def follow(
        self, history: History, look: str, rng: np.random.Generator, inside: Inside, move: tuple[float, ...] = (0, 0, 0)
    ) -> None:
        renderer = Renderer(self.context, history.project, waiting=True)
        renderer.inside = inside
        camera = Camera.framing(renderer.bounds(), bearing=float(rng.uniform(0, 6)), altitude=0.6)
        view = renderer.view(camera, look)
        for _ in renderer.steps(self.kept, view):
            pass
        first = self.kept.pixels().astype(int)
        parts: list[Touched | None] = []

        def told(change: Change) -> None:
            parts.append(renderer.follow(change, view, SIZE))

        history.subscribe(told)
        drawn = 0
        for step in self.steps(rng):
            parts.clear()
            if isinstance(step, str):
                getattr(history, step)()
            else:
                samples = tuple(tuple(np.add(sample, move).tolist()) for sample in step.samples)  # type: ignore[attr-defined]
                history.do(type(step)(**{**{k: getattr(step, k) for k in step.__struct_fields__}, "samples": samples}))
            part = Part(0, 0, 0, 0)
            if None in parts:  # a first column of its kind: all of the body is another one
                view = renderer.view(camera, look)
                for _ in renderer.steps(self.kept, view):
                    pass
                continue
            drawn += 1
            for one in parts:
                assert one is not None
                part = part.joined(one.part)
            renderer.part(self.kept, view, part)
            for _ in renderer.steps(self.whole, view, quick=True):
                pass
            np.testing.assert_array_equal(
                self.kept.pixels().astype(int), self.whole.pixels().astype(int), f"{look}: {step}"
            )
            self.assertLess(part.area, 0.6 * SIZE[0] * SIZE[1])
        if not LOOKS[look].measure:  # a measure need not have changed
            self.assertGreater(np.abs(self.kept.pixels().astype(int) - first).max(), 3, f"{look}: nothing was seen")
        self.assertGreater(drawn, 2, look)
        history._listeners.remove(told)

    def test_a_smaller_picture_is_stretched_as_pillow_does_it(self) -> None:
        renderer = Renderer(self.context, project_with("icosphere").project)
        camera = Camera.framing(renderer.bounds())
        screen = self.context.simple_framebuffer((480, 360), 4)
        for hasty, most in ((False, 3.0), (True, 12.0)):  # the second is another picture, without fine detail
            renderer.picture(self.whole, camera, "lit")
            wide = Image.fromarray(self.whole.pixels()).resize((480, 360), Image.Resampling.BILINEAR)
            renderer.picture(self.kept, camera, "lit", quick=True, hasty=hasty)
            renderer.copy(self.kept, screen)
            shown = np.frombuffer(screen.read(components=3, alignment=1), np.uint8).reshape(360, 480, 3)[::-1]
            self.assertLess(np.abs(shown.astype(float) - np.asarray(wide, float)).mean(), most)
        self.assertGreater(np.ptp(shown), 50)

    def test_how_far_triangles_reach(self) -> None:
        history = project_with("sheet", size=12.0, depth=12.0, edge=0.5)
        body = history.project.bodies[0]
        pieces = Pieces(body)
        triangles, position = body.corners.triangles, body.vertices["position"].astype(float)
        matrix = Camera.framing(body.bounds()).view_projection(1.3)
        rng = np.random.default_rng(2)
        for size in (*(1,) * 60, 3, 40):  # borders and corners of the sheet among them
            rows = np.unique(rng.choice(body.vertices.count, size)).astype(np.int32)
            there = np.isin(triangles, rows).any(axis=1)
            clip = np.c_[position[triangles[there]].reshape(-1, 3), np.ones(3 * there.sum())] @ matrix.T
            seen = clip[:, :2] / clip[:, 3:]
            extent = Extent(matrix)
            pieces.reached_by_rows(rows, extent)
            np.testing.assert_allclose(
                extent.seen[:5], (*seen.min(axis=0), *seen.max(axis=0), clip[:, 3].min()), rtol=1e-9, atol=1e-12
            )
            other = Extent(matrix)
            pieces.reached_by_slots(np.flatnonzero(there).astype(np.int32), other)
            np.testing.assert_allclose(other.seen, extent.seen, rtol=1e-12, atol=1e-12)

    def test_nothing_of_a_part_stays_behind(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.5)
        history.do(AddBody("sheet", {"size": 16.0, "depth": 16.0, "edge": 1.0}, "Ground", (0.0, -5.0, 0.0)))
        pictures = []
        for before in (False, True):  # the second time after parts have been drawn, and with bands
            renderer = Renderer(self.context, history.project, waiting=True)
            view = renderer.view(Camera.framing(renderer.bounds()), "lit")
            if before:
                renderer.part(self.whole, view, Part(20, 20, 30, 30))
            for _ in renderer.steps(self.kept, view, bands=4 if before else 1):
                pass
            pictures.append(self.kept.pixels().astype(int))
        np.testing.assert_array_equal(*pictures)
        light = pictures[0].sum(axis=2)
        self.assertGreater(np.percentile(light, 90) - np.percentile(light, 20), 30)  # lit here, in shadow there

    def test_a_shadow_that_is_given_up_is_not_seen(self) -> None:
        history = project_with("sheet", size=16.0, depth=16.0, edge=1.0)
        history.do(AddBody("icosphere", {"radius": 4.0, "edge": 0.5}, "Ball", (0.0, 6.0, 0.0)))
        renderer = Renderer(self.context, history.project, waiting=True)
        view = renderer.view(Camera.framing(renderer.bounds()), "lit")
        for _ in renderer.steps(self.kept, view):
            pass
        before = self.kept.pixels().astype(int)
        renderer._shadow_stale = True
        begun = renderer.steps(self.whole, view, bands=4)
        next(begun)  # that of the sheet alone, without what the ball casts on it
        begun.close()
        renderer.part(self.kept, view, Part.whole(SIZE))
        np.testing.assert_array_equal(self.kept.pixels().astype(int), before)

    def test_a_quick_picture_from_elsewhere_leaves_the_shadows_of_the_shown_one(self) -> None:
        history = project_with("sheet", size=40.0, depth=40.0, edge=1.0)
        history.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.2}, "Ball", (0.0, 1.5, 0.0)))
        renderer = Renderer(self.context, history.project)
        near = Camera(np.zeros(3), 7.0, 0.5, 0.5).clipped(renderer.bounds())
        view = renderer.view(near, "lit")
        for _ in renderer.steps(self.kept, view):
            pass
        before = self.kept.pixels().astype(int)
        quick_picture(renderer, Camera(np.array([12.0, 0.0, 9.0]), 3.0, 2.0, 0.4), "lit", (60, 40))
        renderer.part(self.kept, view, Part.whole(SIZE))
        np.testing.assert_array_equal(self.kept.pixels().astype(int), before)

    def test_a_rough_part_is_the_picture_with_fewer_pixels(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.3)
        renderer = Renderer(self.context, history.project, waiting=True)
        for look in ("lit", "form", "height"):  # with sky, on a page, with contact shading and without
            view = renderer.view(Camera.framing(renderer.bounds()), look)
            for _ in renderer.steps(self.kept, view):
                pass
            before = self.kept.pixels().astype(int)
            patch = Targets(self.context, (48, 32))
            low, high = np.full(3, -9.0), np.full(3, 9.0)
            renderer.rough(self.kept, view, Touched(Part(60, 30, 96, 64), low, high), patch)
            after = self.kept.pixels().astype(int)
            away = np.abs(after - before).max(axis=2)
            inside = np.zeros_like(away, bool)
            inside[SIZE[1] - 94 : SIZE[1] - 30, 60:156] = True
            self.assertEqual(away[~inside].max(), 0)
            self.assertGreater(away[inside].max(), 0)
            self.assertLess(away[inside].mean(), 8.0, look)

    def test_only_what_can_be_seen_is_drawn(self) -> None:
        history = project_with("sheet", size=100.0, depth=100.0, edge=0.4)
        renderer = Renderer(self.context, history.project)
        body = history.project.bodies[0]
        renderer.view(Camera.framing(renderer.bounds()), "lit")
        pieces = renderer._stage.bodies[body.ident].pieces
        whole = sum(pieces.portions(pieces.within(np.diag([1e-3, 1e-3, 1e-3, 1.0]), (-1, -1, 1, 1))).count)
        self.assertEqual(whole, body.corners.live_count)
        corners = body.vertices["position"][body.corners.triangles].astype(float)
        rng = np.random.default_rng(3)
        shares = []
        for _ in range(40):
            target = np.array([*rng.uniform(-50, 50, 2), 0.0])[[0, 2, 1]]
            camera = Camera(target, float(rng.uniform(3, 30)), float(rng.uniform(0, 6)), float(rng.uniform(0.1, 1.4)))
            matrix = camera.clipped(renderer.bounds()).view_projection(4 / 3)
            left, lower = rng.uniform(-1, 0.5, 2)
            frame = (left, lower, left + rng.uniform(0.1, 0.5), lower + rng.uniform(0.1, 0.5))
            runs = pieces.portions(pieces.within(matrix, frame)).runs()
            drawn = np.concatenate([pieces.order[a : a + b] for _, a, b in runs]) if runs else np.empty(0, int)
            clip = np.concatenate((corners, np.ones((*corners.shape[:2], 1))), axis=2) @ matrix.T
            x, y, w = clip[..., 0], clip[..., 1], clip[..., 3]
            middle = (
                (w > 0).all(axis=1)
                & ((x > frame[0] * w) & (x < frame[2] * w) & (y > frame[1] * w) & (y < frame[3] * w)).any(axis=1)
            )  # fmt: skip
            self.assertTrue(np.isin(np.flatnonzero(middle), drawn).all())
            shares.append(drawn.size / len(corners))
        self.assertLess(np.mean(shares), 0.25)

    def test_what_something_in_front_hides_is_not_drawn_and_not_missed(self) -> None:
        history = project_with("icosphere", radius=6.0, edge=0.12)
        history.do(LayRelief("Body", "noise", {"size": 2.0, "height": 0.8}))
        history.do(AddBody("sheet", {"size": 14.0, "depth": 14.0, "edge": 0.3}, "Land"))
        renderer = Renderer(self.context, history.project, waiting=True)
        drawn: list[int] = []
        body_render = GpuBody.render

        def counted(body: GpuBody, made: moderngl.Program, runs: Runs) -> None:
            drawn.append(sum(count for *_, count in runs))
            body_render(body, made, runs)

        rng = np.random.default_rng(8)
        total = [0, 0]
        for i in range(10):
            reach = float(rng.uniform(1.0, 8.0) if i % 2 else rng.uniform(12.0, 40.0))
            camera = Camera(
                np.array(self.somewhere(rng)), reach, float(rng.uniform(0, 6)), float(rng.uniform(-1.4, 1.4))
            )
            pictures = []
            for k, few in enumerate((FEW_PIECES, 10**9)):
                with mock.patch.object(shot, "FEW_PIECES", few), mock.patch.object(GpuBody, "render", counted):
                    renderer.picture(self.whole, camera, "lit")
                    drawn.clear()
                    renderer.picture(self.whole, camera, "lit", quick=True)
                total[k] += sum(drawn)
                pictures.append((self.whole.pixels().copy(), self.whole.distances(camera.near, camera.far)))
            np.testing.assert_array_equal(pictures[0][0], pictures[1][0])
            np.testing.assert_array_equal(pictures[0][1], pictures[1][1])
        self.assertLess(total[0], 0.85 * total[1])


if __name__ == "__main__":
    unittest.main()
