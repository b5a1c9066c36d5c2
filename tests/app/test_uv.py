"""Texture coordinates and baking by mouse."""

import pathlib
import tempfile
import unittest
from dataclasses import replace

import numpy as np
from PIL import Image
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QLineEdit

from hulmo.app.cards.bake_card import BakeCard
from hulmo.app.cards.operation_card import OperationCard
from hulmo.app.cards.paint_card import PaintCard
from hulmo.app.cards.uv_card import UvCard
from hulmo.app.stages import tool_named
from hulmo.core.by_hand.choice import chosen
from hulmo.core.commands import AddBody, ChangeUv, LayRelief, UnwrapUv
from tests.app.window import WindowTest


class UvTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.do(AddBody("icosphere", {"radius": 4.0, "edge": 0.5}, "Ball"))
        self.session.do(LayRelief("Ball", "noise", {"height": 0.5}))
        self.canvas.frame_all()
        self.settle()
        self.folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))

    def take(self, kind: str, name: str) -> None:
        self.session.choose_tool(tool_named(kind, name))
        self.settle()

    def test_unwrapped_looked_at_changed_and_baked(self) -> None:
        card, operation = self.window.card(BakeCard), self.window.card(OperationCard)
        self.take("bake", "bake")
        self.assertFalse(card.begin.isEnabled())
        self.assertIn("no texture coordinates", card.figures.text())
        self.window.show_look("uv_squares")
        self.settle()
        without = self.pixels()
        self.take("operation", "unwrap_uv")
        self.click(operation.do)
        self.settle()
        body = self.session.body
        assert body is not None
        self.assertIn("uv", body.corners.slots)
        self.assertGreater(float(np.abs(self.pixels() - without).mean()), 5.0, "squares lie on it now")
        before = body.corners.slots["uv"].copy()
        self.take("operation", "change_uv")
        self.type_into(operation.stack.panels["change_uv"].fields["turn"].edit, "90")
        self.click(operation.do)
        self.settle()
        self.assertGreater(float(np.abs(body.corners.slots["uv"] - before).max()), 0.1)
        self.session.undo()
        self.settle()
        np.testing.assert_array_equal(body.corners.slots["uv"], before)
        self.take("bake", "bake")
        how = self.window.card(UvCard)
        self.window.cards.ensureWidgetVisible(how.look)
        self.settle()
        self.click(how.look)
        self.settle()
        self.assertRegex(how.figures.text(), r"^\d+ charts, \d+% of the image used; a unit is .* Stretch 1\.")
        self.type_into(card.panel.fields["size"].edit, "128")
        box = card.boxes["weights"]
        self.click(box, QPoint(9, box.height() // 2))
        self.assertEqual(card.maps, ["base_colour", "normal", "roughness", "weights"])
        self.window.cards.ensureWidgetVisible(card.begin)
        self.settle()
        self.click(card.begin)
        self.name(self.folder)
        self.wait(lambda: card.running)
        self.assertFalse(self.session.busy, "the work goes on")
        self.wait(lambda: not card.running, 120.0)
        self.assertRegex(card.told.text(), r"Wrote 4 images: [\d,]+ texels reached, [\d,]+ filled, 0 mirrored")
        for name in ("base_colour", "normal", "roughness", "weights_1"):
            with Image.open(self.folder / f"Ball.{name}.png") as picture:
                self.assertEqual(picture.size, (128, 128))
        # stopped: nothing half-written
        self.type_into(card.panel.fields["size"].edit, "4096")
        self.window.cards.ensureWidgetVisible(card.begin)
        self.settle()
        self.click(card.begin)
        place = self.folder / "more"
        place.mkdir()
        self.name(place)
        self.wait(lambda: card.running)
        self.window.cards.ensureWidgetVisible(card.stop)
        self.settle()
        self.click(card.stop)
        self.wait(lambda: not card.running)
        self.assertEqual((card.told.text(), list(place.iterdir())), ("Stopped.", []))

    def test_a_plane_by_the_view_and_the_cage_of_a_finer_body(self) -> None:
        operation, body = self.window.card(OperationCard), self.session.body
        assert body is not None
        self.canvas.hand.look(replace(self.canvas.camera, bearing=0.4, altitude=0.7))
        self.settle()
        self.take("operation", "lay_uv")
        self.click(operation.by_view)
        self.click(operation.do)
        self.settle()
        camera = self.canvas.camera
        uv = body.corners.slots["uv"].reshape(-1, 2).astype(float)
        place = body.placed(body.vertices["position"][body.corners.triangles]).reshape(-1, 3)
        # what is seen: right and down in the picture are right and down in the image, by one scale
        seen = np.stack((place @ camera.right, -(place @ camera.up)), axis=1)
        np.testing.assert_allclose(
            (uv - uv.mean(axis=0)) / np.ptp(uv, axis=0).max(),
            (seen - seen.mean(axis=0)) / np.ptp(seen, axis=0).max(),
            atol=1e-4,
        )
        self.session.do(AddBody("icosphere", {"radius": 2.0, "edge": 0.2}, "Fine"))
        self.session.choose_body(body.ident)
        self.take("bake", "bake")
        card = self.window.card(BakeCard)
        card.source.setCurrentIndex(card.source.findData("Fine"))
        card.refresh()
        without = self.pixels()
        self.window.cards.ensureWidgetVisible(card.cage)
        self.settle()
        self.click(card.cage, QPoint(9, card.cage.height() // 2))
        self.settle()
        self.assertGreater(int((np.abs(self.pixels() - without).max(axis=2) > 20).sum()), 300)
        self.take("operation", "lay_uv")
        self.assertIsNone(self.canvas.over.cage)

    def test_what_is_wrong_with_uv_is_counted_and_cured(self) -> None:
        how = self.window.card(UvCard)
        self.session.do(UnwrapUv("Ball", size=256))
        self.session.do(ChangeUv("Ball", mirror="u", scale=(3.0, 3.0)))
        self.take("operation", "pack_uv")
        self.click(how.look)
        self.settle()
        self.assertIn("mirrored", how.rows["mirrored"][1].text())
        self.assertIn("outside the image", how.rows["outside"][1].text())
        for name in ("mirrored", "outside"):
            self.window.cards.ensureWidgetVisible(how.rows[name][2])
            self.settle()
            self.click(how.rows[name][2])
            self.wait(lambda: not self.session.busy)
            self.settle()
            self.assertEqual(how.rows[name][1].text(), "", "it is measured again")
        self.assertRegex(how.figures.text(), r"^\d+ charts")
        self.session.do(AddBody("icosphere", {"radius": 1.0, "edge": 0.5}, "Other", (9.0, 0.0, 0.0)))
        self.session.do(UnwrapUv("Other", size=256))
        self.session.choose_body(self.session.project.bodies[-1].ident)
        self.settle()
        self.assertEqual(how.figures.text(), "", "figures of one body are not shown for another")

    def test_charts_are_chosen_and_dragged_and_seams_marked_in_the_uv_view(self) -> None:
        view, sheet = self.window.uv_view, self.window.uv_view.sheet
        self.take("operation", "unwrap_along_seams")
        self.key(Qt.Key.Key_E, Qt.KeyboardModifier.ShiftModifier)
        self.wait(view.isVisible)
        self.settle()
        self.assertIn("No texture coordinates yet", sheet.words)
        self.session.do(UnwrapUv("Ball", size=512))
        self.wait(lambda: sheet.plane is not None)
        self.settle()
        body = self.session.body
        assert body is not None and sheet.plane is not None
        charts = int(sheet.plane.chart.max()) + 1
        self.assertTrue(view.told.text().startswith(f"{charts} charts"))
        # a press on a chart chooses it, in both views
        chart = int(np.bincount(sheet.plane.chart).argmax())
        mine = sheet.plane.slots[sheet.plane.chart == chart]
        first = sheet.plane.uv[sheet.plane.chart == chart][0]
        before, scene = self.sheet_pixels(), self.pixels()
        self.click(sheet, sheet.place(tuple(first.mean(axis=0))).toPoint())
        self.settle()
        np.testing.assert_array_equal(np.flatnonzero(chosen(body, "face")), mine)
        self.wait(lambda: "1 chart chosen" in view.told.text())
        self.settle()
        self.assertGreater(float(np.abs(self.sheet_pixels() - before).mean()), 1.0)
        self.assertGreater(float(np.abs(self.pixels() - scene).mean()), 0.3, "it is seen in the scene as well")
        # and its grips drag it, and it alone
        uv = body.corners.slots["uv"].copy()
        self.click(view.tools["move"])
        self.settle()
        scale = sheet.place((1.0, 0.0)).x() - sheet.place((0.0, 0.0)).x()
        end = sheet.grips()[0].end.toPoint()
        self.drag([(end.x(), end.y()), (end.x() + 40, end.y() + 25)], on=sheet)
        self.settle()
        moved = body.corners.slots["uv"] - uv
        np.testing.assert_allclose(moved[mine][..., 0], 40 / scale, atol=1.5 / scale)
        np.testing.assert_allclose(moved[mine][..., 1], 0.0, atol=1e-6)
        others = np.setdiff1d(sheet.plane.slots, mine)
        np.testing.assert_array_equal(moved[others], 0.0)
        self.session.undo()
        # an edge pressed in the sheet becomes a seam, and the scene shows it
        view.kinds.setCurrentIndex(view.kinds.findData("edges"))
        view.kinds.activated.emit(2)
        self.settle()
        self.click(view.tools["choose"])
        self.wait(lambda: sheet.plane is not None and sheet.plane.kind == "edges")
        spot = (first[1] + first[2]) / 2
        self.click(sheet, sheet.place(tuple(spot)).toPoint())
        self.settle()
        edges = chosen(body, "edge")
        self.assertEqual(int(edges.sum()), 2, "one edge, said of both its triangles")
        self.take("operation", "mark_seams")
        self.click(self.window.card(OperationCard).do)
        self.settle()
        np.testing.assert_array_equal(body.corners.slots["seam"][:, :, 0] > 0, edges)
        self.click(view.close_button)
        self.assertFalse(view.isVisible())

    def sheet_pixels(self) -> np.ndarray:
        image = self.window.uv_view.sheet.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
        data = image.constBits()
        assert data is not None
        rows = np.frombuffer(data.asstring(image.sizeInBytes()), np.uint8).reshape(image.height(), -1)
        return rows[:, : 3 * image.width()].astype(float)

    def test_painted_images_go_out_and_what_an_editor_saves_comes_in(self) -> None:
        card = self.window.card(PaintCard)
        self.session.choose_tool(tool_named("painted images", "painted_images"))
        self.settle()
        self.assertFalse(card.write.isEnabled(), "it has no texture coordinates yet")
        self.session.do(UnwrapUv("Ball", size=256))
        self.settle()
        self.type_into(card.panel.fields["size"].edit, "256")
        self.click(card.write)
        self.name(self.folder)
        self.wait(lambda: card.told.text().startswith("Wrote"))
        self.assertIn("Changes are read as they are saved", card.told.text())
        body = self.session.body
        assert body is not None
        self.assertEqual(len(list(self.folder.glob("*.png"))), len(self.session.project.grounds))
        steps, before = len(self.session.history.commands), body.vertices["weight"].copy()
        turf = self.folder / "Ball.ground.Thrift turf.png"
        Image.fromarray(np.full((256, 256), 65535, np.uint16)).save(turf)  # as an image editor would
        self.wait(lambda: len(self.session.history.commands) > steps)
        column = self.session.project.ground_names.index("Thrift turf")
        np.testing.assert_allclose(body.vertices["weight"][:, column], 1.0, atol=1e-4)
        self.assertTrue(card.told.text().startswith("Read"))
        self.session.undo()
        np.testing.assert_array_equal(body.vertices["weight"], before)
        # one image by itself, for the guard, and a note that is none
        what = card.panel.fields["what"].box
        what.setCurrentIndex(what.findData("guard"))
        what.activated.emit(1)
        self.assertEqual(card.values["what"], "guard")
        self.click(card.read)
        self.name(turf)
        self.wait(lambda: "guard" in body.vertices)
        (self.folder / "x.paint.json").write_text("[]")
        self.click(card.read)
        self.name(self.folder / "x.paint.json")
        self.assertIn("no note of painted images", self.window.notice.text.text())

    def name(self, path: pathlib.Path) -> None:
        """Type the name of a folder into the dialog that is open."""
        dialog = self.dialog()
        edit = dialog.findChild(QLineEdit)
        assert edit is not None
        edit.setText(str(path))
        self.accept(dialog)


if __name__ == "__main__":
    unittest.main()
