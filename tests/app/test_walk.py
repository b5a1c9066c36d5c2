"""A random walk in the window: whenever it rests, it shows what a picture made afresh shows."""

import random
import unittest

import moderngl
import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from hulmo.app.picture import Picture
from hulmo.app.stages import STAGES
from hulmo.core.commands import AddBody, ChangeBody, LayRelief
from hulmo.render.context import headless_context
from hulmo.render.looks import LOOKS
from tests.app.window import LEFT, MIDDLE, NONE, RIGHT, WindowTest

KINDS = ("brush", "relief", "vertices", "fill", "rules", "bore")
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class WalkTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.do(AddBody("icosphere", {"radius": 6.0, "edge": 0.5}, "Ball"))
        self.session.do(LayRelief("Ball", "noise", {"height": 0.4}))
        self.session.do(AddBody("sheet", {"size": 24.0, "depth": 24.0, "edge": 0.8}, "Ground", (0.0, -5.0, 0.0)))
        self.context: moderngl.Context = headless_context()
        self.canvas.sheet.make_current()

    def fresh(self, size: tuple[int, int]) -> np.ndarray:
        """(H, W, 3) the same project, drawn by somebody who has seen nothing of how it came about."""
        shown = self.canvas.picture
        assert shown is not None
        with self.context:
            picture = Picture(self.context, self.session.project)
            for name in ("paper", "look_values", "inside", "ground", "vertices_of"):
                setattr(picture.renderer, name, getattr(shown.renderer, name))
            picture.resize(size)
            picture.begin(self.canvas.camera, self.canvas.look)
            while not picture.step():
                pass
            target = self.context.simple_framebuffer(size, 4)
            picture.copy(target)
            rows = np.frombuffer(target.read(components=3, alignment=1), np.uint8)
        self.canvas.sheet.make_current()
        return rows.reshape(size[1], size[0], 3)[::-1].astype(int)

    def compare(self, what: str) -> None:
        self.settle()
        got = self.pixels()
        away = np.abs(got - self.fresh((got.shape[1], got.shape[0]))).max(axis=2)
        # the ray of a pixel exactly on an edge of a triangle may fall either way
        self.assertLessEqual(int((away > 2).sum()), 20, what)

    def stroke(self, rng: random.Random) -> None:
        width, height = self.canvas.width(), self.canvas.height()
        x, y = rng.randrange(40, width - 40), rng.randrange(40, height - 40)
        button, keys = rng.choice((LEFT, LEFT, LEFT, RIGHT, MIDDLE)), rng.choice((NONE, NONE, SHIFT, CONTROL))
        self.mouse("move", self.canvas, QPoint(x, y))
        self.mouse("press", self.canvas, QPoint(x, y), button, keys)
        for _ in range(rng.randrange(2, 10)):
            x = min(max(x + rng.randrange(-18, 19), 2), width - 2)
            y = min(max(y + rng.randrange(-18, 19), 2), height - 2)
            self.mouse("move", self.canvas, QPoint(x, y))
            QTest.qWait(rng.choice((1, 5, 30, 200)))
        self.mouse("release", self.canvas, QPoint(x, y), button, keys)

    def test_what_is_shown_is_what_is_there(self) -> None:
        rng = random.Random(17)
        session, window = self.session, self.window
        tools = [tool for stage in STAGES for tool in stage.tools if tool.kind in KINDS]
        steps = {
            lambda: self.stroke(rng): 12,
            lambda: session.choose_tool(rng.choice(tools)): 3,
            lambda: self.key(Qt.Key.Key_Z, CONTROL): 2,
            lambda: self.key(Qt.Key.Key_Z, CONTROL | SHIFT): 1,
            lambda: window.show_look(rng.choice(list(LOOKS))): 2,
            window.heading.inside.toggle: 1,
            lambda: session.choose_body(rng.choice(session.project.bodies).ident): 1,
            lambda: window.resize(rng.randrange(900, 1280), rng.randrange(620, 800)): 1,
            lambda: session.do(ChangeBody(rng.choice(session.project.bodies).name, shown=rng.random() < 0.8)): 1,
        }
        for count in range(60):
            rng.choices(list(steps), list(steps.values()))[0]()
            QTest.qWait(rng.choice((0, 10, 150)))
            if count % 10 == 9:
                self.compare(f"step {count}, {self.canvas.look}, {session.tool.ident}")


if __name__ == "__main__":
    unittest.main()
