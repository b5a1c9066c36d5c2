"""Dressing a scene by mouse: a pond, strewn props, one in hand, ground sculpted under it, walking, the hour dragged."""

import math
import pathlib
import tempfile
import unittest

import numpy as np
from PIL import Image
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from hulmo.app.cards.fog_card import FogCard
from hulmo.app.cards.hour_card import HourCard
from hulmo.app.cards.light_card import LightCard
from hulmo.app.cards.object_card import ObjectCard
from hulmo.app.cards.prop_card import PropCard
from hulmo.app.cards.prop_care_card import PropCareCard
from hulmo.app.cards.still_card import StillCard
from hulmo.app.cards.strew_card import StrewCard
from hulmo.app.cards.strew_rule_card import StrewRuleCard
from hulmo.app.cards.tray_card import TrayCard
from hulmo.app.cards.walk_card import WalkCard
from hulmo.app.cards.water_card import WaterCard
from hulmo.app.stages import tool_named
from hulmo.core.commands import AddBody, AddWater, Stroke
from hulmo.core.dress.walking import EYES
from hulmo.core.io.exr import read_exr
from hulmo.core.mesh.strewn import BY_RULE, FIXED, anchors
from tests.app.window import WindowTest

SHIFT = Qt.KeyboardModifier.ShiftModifier


class DressTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.do(AddBody("sheet", {"size": 24.0, "depth": 24.0, "edge": 0.5}, "Ground"))
        self.canvas.frame_all()
        self.settle()

    def take(self, kind: str, name: str) -> None:
        self.session.choose_tool(tool_named(kind, name))
        self.settle()

    def name(self, path: pathlib.Path) -> None:
        """Type the name of a file into the dialog that is open."""
        dialog = self.dialog()
        edit = dialog.findChild(QLineEdit)
        assert edit is not None
        edit.setText(str(path))
        self.accept(dialog)

    def screen(self, at: np.ndarray | tuple[float, float, float]) -> QPoint:
        x, y, _ = self.canvas.camera.to_screen(np.array(at), self.canvas.width(), self.canvas.height())[0]
        return QPoint(round(x), round(y))

    def places(self) -> np.ndarray:
        body = self.session.body
        assert body is not None and body.strewn is not None
        return body.placed(anchors(body, body.strewn)[0])

    def test_a_pond_fills_the_hollow_it_is_pressed_into_and_follows_the_hand(self) -> None:
        for _ in range(3):
            self.session.do(
                Stroke("Ground", "raise", ((0.0, 0.0, 0.0),), {"radius": 6.0, "strength": 100.0}, invert=True)
            )
        self.settle()
        before = self.pixels()
        self.take("water", "pond")
        self.click(self.canvas, self.screen((0.0, -1.0, 0.0)))
        self.wait(lambda: bool(self.session.waters.surfaces))
        self.settle()
        pond = self.session.project.objects[-1]
        self.assertEqual(pond.kind, "pond")
        first = self.session.waters.surfaces[pond.ident]
        self.assertGreater(first.volume, 1.0)
        self.assertGreater(int((np.abs(self.pixels().astype(int) - before).max(axis=2) > 20).sum()), 500)
        told = self.window.card(WaterCard).figures.text()
        self.assertIn("m³", told)
        self.assertIn("Runs out at", told)
        # a drag down lowers it, and all of it is one step
        at = self.screen((0.0, -0.3, 0.0))
        self.drag([(at.x(), at.y()), (at.x(), at.y() + 12), (at.x(), at.y() + 25)])
        self.settle()
        lower = self.session.waters.surfaces[pond.ident]
        self.assertLess(lower.level, first.level - 0.05)
        self.assertLess(lower.area, first.area)
        # the ground raised in the middle of it becomes an island
        self.session.do(Stroke("Ground", "raise", ((0.0, 0.0, 0.0),), {"radius": 1.5, "strength": 100.0}))
        self.wait(lambda: self.session.waters.surfaces[pond.ident] is not lower)
        self.settle()
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.click(self.window.card(WaterCard).brim)
        self.settle()
        self.assertGreater(self.session.waters.surfaces[pond.ident].level, lower.level)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.click(self.window.card(WaterCard).remove)
        self.assertEqual([entry.kind for entry in self.session.project.objects], [])

    def test_a_press_where_no_water_stays_says_so(self) -> None:
        self.take("water", "pond")
        self.click(self.canvas, self.screen((0.0, 0.0, 0.0)))
        self.assertEqual(self.session.project.objects, ())
        self.assertIn("No water stays", self.window.notice.text.text())
        self.take("water", "level_water")
        self.click(self.canvas, self.screen((0.0, 0.0, 0.0)))
        self.assertEqual(self.session.project.objects[-1].kind, "level_water")

    def test_props_are_strewn_taken_in_hand_and_carried_by_the_ground(self) -> None:
        self.take("strew", "strew")
        tray = self.window.card(TrayCard)
        item = next(item for i in range(tray.list.count()) if (item := tray.list.item(i)) and item.text() == "Tussock")
        item.setCheckState(Qt.CheckState.Checked)
        self.assertGreater(next(prop.share for prop in self.session.project.props if prop.name == "Tussock"), 0)
        before = self.pixels()
        a, b = self.screen((-5.0, 0.0, 0.0)), self.screen((5.0, 0.0, 0.0))
        self.drag([(a.x(), a.y()), (b.x(), b.y())])
        self.settle()
        strewn = self.session.props.strewn
        self.assertGreater(strewn.count, 8)
        self.assertIn(f"{strewn.count:,} props", self.window.card(StrewCard).told.text())
        self.assertGreater(int((np.abs(self.pixels().astype(int) - before).max(axis=2) > 20).sum()), 300)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.session.props.strewn.count, 0, "one drag is one step")
        self.key(Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier)
        self.assertFalse(self.session.props.strewn.differs(strewn))
        # one in hand
        self.take("prop", "prop")
        row = int(np.argmin(np.linalg.norm(self.places(), axis=1)))
        at = self.screen(self.places()[row]) - QPoint(0, 3)
        self.click(self.canvas, at)
        self.assertEqual(len(self.session.props.chosen), 1)
        row = self.session.props.chosen[0]
        start = self.places()[row]
        self.assertFalse(self.session.props.strewn.differs(strewn), "choosing moves nothing")
        goal = self.screen((2.0, 0.0, 8.0))
        at = self.screen(start) - QPoint(0, 3)
        self.drag([(at.x(), at.y()), (goal.x(), goal.y())])
        np.testing.assert_allclose(self.places()[row], (2.0, 0.0, 8.0), atol=0.3)
        self.assertEqual(self.session.props.strewn.mark[row], FIXED)
        card = self.window.card(PropCard)
        self.type_into(card.panel.fields["size"].edit, "2")  # type: ignore[union-attr]
        self.assertAlmostEqual(float(self.session.props.strewn.size[row]), 2.0)
        # sculpted under, it goes up with the ground
        self.session.do(
            Stroke("Ground", "raise", (tuple(self.places()[row].tolist()),), {"radius": 3.0, "strength": 100.0})
        )
        self.assertGreater(float(self.places()[row][1]), 0.02)
        self.click(card.remove)
        self.assertEqual(self.session.props.strewn.count, strewn.count - 1)

    def test_rules_strew_by_themselves_and_follow_the_ground(self) -> None:
        self.take("strew rules", "strew_rules")
        card = self.window.card(StrewRuleCard)
        self.click(card.buttons["add"])
        self.settle()
        strewn = self.session.props.strewn
        self.assertGreater(int((strewn.mark == BY_RULE).sum()), 20)
        self.type_into(card.panel.fields["slope_to"].edit, "20")  # type: ignore[union-attr]
        self.settle()
        QTest.qWait(400)
        self.settle()
        self.session.do(Stroke("Ground", "raise", ((0.0, 0.0, 0.0),), {"radius": 3.0, "strength": 100.0}))
        self.session.do(Stroke("Ground", "raise", ((0.0, 0.0, 0.0),), {"radius": 2.0, "strength": 100.0}))
        QTest.qWait(700)
        self.settle()
        body = self.session.body
        assert body is not None
        _, normal = anchors(body, self.session.props.strewn)
        self.assertLess(math.degrees(math.acos(float(normal[:, 1].min()))), 25.0)
        self.click(card.buttons["remove"])
        self.settle()
        self.assertEqual(self.session.props.strewn.count, 0)

    def test_care_finds_and_cures_what_stands_in_water(self) -> None:
        self.take("strew", "strew")
        a, b = self.screen((-6.0, 0.0, 0.0)), self.screen((6.0, 0.0, 0.0))
        self.drag([(a.x(), a.y()), (b.x(), b.y())])
        self.settle()
        self.session.do(AddWater("level_water", level=0.5))
        self.take("prop care", "prop_care")
        card = self.window.card(PropCareCard)
        self.click(card.look)
        self.settle()
        count = self.session.props.strewn.count
        self.assertEqual(card.counts["wet"].text(), f"In water: {count:,}")
        self.click(card.cures["wet"])
        self.settle()
        self.assertEqual(self.session.props.strewn.count, 0)

    def test_stills_are_drawn_to_files_while_the_work_goes_on(self) -> None:
        self.take("still", "still")
        card, folder = self.window.card(StillCard), pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))
        for name, value in (("width", 320.0), ("height", 200.0)):
            self.type_into(card.panel.fields[name].edit, f"{value:g}")  # type: ignore[union-attr]
        box = card.panel.fields["channels"]
        self.click(box, QPoint(9, box.height() // 2))
        distance = self.canvas.camera.distance
        self.click(card.begin)
        self.name(folder / "land.png")
        self.wait(lambda: card.running)
        self.assertFalse(self.session.busy, "the work goes on")
        self.session.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.5}, "Meanwhile"))
        self.wait(lambda: not card.running, 120.0)
        self.assertIn("land.png and 1 more file", card.told.text())
        with Image.open(folder / "land.png") as picture:
            self.assertEqual(picture.size, (320, 200))
            drawn = np.asarray(picture.convert("RGB"), float)
        known = read_exr(folder / "land.exr", "land", 1024)
        self.assertIn("N.Y", known)
        # from where the canvas was seen, and of the project as it was then: without what was built meanwhile
        self.assertAlmostEqual(float(known["Z"][100, 160]), distance, delta=0.6)
        self.assertGreater(float(known["N.Y"][100, 160]), 0.8)
        self.assertGreater(drawn.std(), 5.0)
        # a turn, stopped in the middle: what is complete stays, and nothing half-written
        index = next(i for i in range(card.of.count()) if "turn" in card.of.itemText(i))
        card.of.setCurrentIndex(index)
        card.of.activated.emit(index)
        self.click(card.begin)
        self.name(folder / "round.png")
        self.wait(lambda: (folder / "round-002.png").exists(), 120.0)
        self.click(card.stop)
        self.wait(lambda: not card.running)
        self.assertEqual(card.told.text(), "Stopped.")
        for file in folder.iterdir():
            self.assertRegex(file.name, r"^(land|round-\d+)\.(png|exr)$")
        self.click(card.quick)
        self.name(folder / "quick.png")
        with Image.open(folder / "quick.png") as picture:
            self.assertEqual(picture.size, (640, 480))
            self.assertGreater(np.asarray(picture.convert("RGB"), float).std(), 5.0)

    def test_walking_stands_at_eye_height_and_stays_where_one_stood(self) -> None:
        self.take("walk", "walk")
        self.click(self.canvas, self.screen((0.0, 0.0, 0.0)))
        np.testing.assert_allclose(self.canvas.camera.eye, (0.0, EYES, 0.0), atol=0.1)
        before = self.canvas.camera.eye
        self.canvas.setFocus()
        QTest.keyPress(self.canvas, Qt.Key.Key_W)
        self.wait(lambda: float(np.linalg.norm(self.canvas.camera.eye - before)) > 0.5)
        QTest.keyRelease(self.canvas, Qt.Key.Key_W)
        self.settle()
        self.assertAlmostEqual(float(self.canvas.camera.eye[1]), EYES, places=3)
        bearing = self.canvas.camera.bearing
        middle = self.canvas.rect().center()
        self.drag([(middle.x(), middle.y()), (middle.x() + 80, middle.y())])
        self.assertNotAlmostEqual(self.canvas.camera.bearing, bearing, places=2)
        stood = self.canvas.camera.eye
        self.click(self.window.card(WalkCard).keep)
        self.assertEqual(self.session.project.objects[-1].kind, "viewpoint")
        self.take("light", "sun")
        np.testing.assert_allclose(self.canvas.camera.eye, stood, atol=1e-9)

    def test_the_hour_is_dragged_from_noon_to_night_and_fog_comes_up(self) -> None:
        self.take("light", "sun")
        card = self.window.card(HourCard)
        self.click(card.on)
        noon = self.session.project.light.altitude
        self.settle()
        day = self.pixels()
        ruler = card.panel.fields["hour"].ruler  # type: ignore[union-attr]
        self.mouse("press", ruler, ruler.rect().center())
        for step in range(1, 9):
            self.mouse(
                "move", ruler, QPoint(ruler.rect().center().x() + step * ruler.width() // 17, ruler.rect().center().y())
            )
            QTest.qWait(5)
        self.mouse("release", ruler, QPoint(ruler.rect().right() - 2, ruler.rect().center().y()))
        self.settle()
        self.assertLess(self.session.project.light.altitude, noon - 20)
        self.assertLess(float(self.pixels().mean()), 0.8 * float(day.mean()))
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertAlmostEqual(self.session.project.light.altitude, noon, places=6)
        self.assertIn("Sunrise", card.told.text())
        sight = self.window.card(FogCard).panel.fields["sight"].edit  # type: ignore[union-attr]
        self.window.cards.ensureWidgetVisible(sight)
        self.settle()
        self.type_into(sight, "20 m")
        self.settle()
        self.assertEqual(self.session.project.light.sight, 20.0)
        self.assertGreater(int((np.abs(self.pixels().astype(int) - day).max(axis=2) > 15).sum()), 2000)
        fog, light = self.window.card(FogCard), self.window.card(LightCard)
        self.settle()
        self.window.cards.ensureWidgetVisible(fog.pick)
        self.settle()
        self.click(fog.pick)
        self.mouse("press", self.canvas, QPoint(self.canvas.width() // 2, 90))
        self.mouse("release", self.canvas, QPoint(self.canvas.width() // 2, 90))
        self.settle()
        self.assertRegex(self.session.project.light.fog_colour, "^#[0-9a-f]{6}$")
        self.settle()
        self.window.cards.ensureWidgetVisible(light.mean)
        self.settle()
        self.click(light.mean)
        self.settle()
        self.assertNotEqual(self.session.project.light.exposure, 0.0)
        self.assertGreater(float(self.pixels().mean()), 60.0)

    def test_a_lamp_hangs_where_one_presses(self) -> None:
        self.take("objects", "objects")
        card = self.window.card(ObjectCard)
        self.click(card.lamp)
        self.click(self.canvas, self.screen((1.0, 0.0, 1.0)))
        lamp = self.session.project.objects[-1]
        self.assertEqual(lamp.kind, "lamp")
        np.testing.assert_allclose(lamp.at, (1.0, 1.2, 1.0), atol=0.1)
        self.type_into(card.own["lamp"].fields["lumens"].edit, "90000 lm")  # type: ignore[union-attr]
        self.assertEqual(self.session.project.objects[-1].values["lumens"], 90_000.0)


if __name__ == "__main__":
    unittest.main()
