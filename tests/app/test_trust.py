"""What a window does with files of other people, with two windows on one file, and with what nobody foresaw."""

import pathlib
import subprocess
import sys
import unittest

import numpy as np
from PIL import Image
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel, QWidget

from hulmo.core.commands import AddGround, ChangeBody, ChangeGround, LayRelief, SetName
from hulmo.core.io.project_file import open_project, save_project
from tests.app.window import HOME, WindowTest
from tests.bodies import project_with

NASTY = "<b>Rock</b><img src=x>"


class ForeignFileTest(WindowTest):
    def foreign(self) -> pathlib.Path:
        """A project that names images of its own machine."""
        for name in ("bumps.png", "grass.png"):
            Image.fromarray(np.arange(256, dtype=np.uint8).reshape(16, 16)).save(HOME / name)
        history = project_with("sheet")
        history.do(LayRelief("Body", "image", {"image": str(HOME / "bumps.png"), "tile": 2.0, "height": 1.0}))
        history.do(AddGround(str(HOME / "grass.png"), name="Grass"))
        save_project(history.project, HOME / "foreign.hulmo")
        return HOME / "foreign.hulmo"

    def watched(self) -> list[str]:
        outside = self.session.outside
        return outside.images.watch.files + outside.textures.watch.files

    def test_files_it_names_are_left_alone_until_the_user_agrees(self) -> None:
        QSettings().remove("followed")
        self.session = self.window.session
        self.session.outside.followed._files.clear()
        self.session.open(self.foreign())
        self.settle()
        self.assertEqual(self.watched(), [])
        self.assertTrue(self.window.notice.isVisible())
        self.assertRegex(self.window.notice.text.text(), "2 image files outside it: .*bumps.png and others")
        before = self.position.copy()
        Image.fromarray(np.full((16, 16), 200, np.uint8)).save(HOME / "bumps.png")
        QTest.qWait(900)
        np.testing.assert_array_equal(self.position, before)
        self.click(self.window.notice._answers[0])
        self.assertEqual(len(self.watched()), 2)
        Image.fromarray(np.full((16, 16), 100, np.uint8)).save(HOME / "bumps.png")
        self.wait(lambda: not np.array_equal(self.position, before), 20)
        # agreed once, it is not asked again; nor for what is named here
        self.session.open(HOME / "foreign.hulmo")
        self.settle()
        self.assertFalse(self.window.notice.isVisible())

    def test_names_are_shown_as_they_stand(self) -> None:
        self.build("sheet")
        name = self.session.project.bodies[0].name
        for command in (
            SetName(NASTY),
            ChangeBody(name, name=NASTY),
            ChangeGround(self.session.project.ground_names[0], name=NASTY),
            LayRelief(NASTY, "noise", layer=NASTY),
        ):
            self.assertTrue(self.session.do(command))
        self.session.noticed.emit(NASTY)
        for button in self.window.route.stage_buttons.values():
            self.click(button)
            for widget in self.window.findChildren(QWidget):
                tip = widget.toolTip()
                self.assertFalse("<img" in tip, tip)
                if isinstance(widget, QLabel) and NASTY in widget.text():
                    self.assertEqual(widget.textFormat(), Qt.TextFormat.PlainText, widget.text())


class TwoWindowsTest(WindowTest):
    def test_a_save_over_the_work_of_another_process_is_asked_for(self) -> None:
        self.build("sheet")
        file = HOME / "both.hulmo"
        self.session.save(file)
        self.settle()
        other = (
            "import pathlib, sys; from hulmo.core.io.project_file import *; p = pathlib.Path(sys.argv[1]); "
            "project = open_project(p); project.name = 'theirs'; save_project(project, p)"
        )
        subprocess.run([sys.executable, "-c", other, str(file)], check=True)
        theirs = file.read_bytes()
        self.session.do(SetName("ours"))
        self.click(self.window.heading.buttons["save"])
        box = self.question()
        self.assertIn("both.hulmo was saved by another program", box.text())
        QTest.mouseClick(next(b for b in box.buttons() if b.text() == "Stay here"), Qt.MouseButton.LeftButton)
        self.settle()
        self.assertEqual(file.read_bytes(), theirs)
        self.assertTrue(self.session.unsaved)
        self.click(self.window.heading.buttons["save"])
        QTest.mouseClick(next(b for b in self.question().buttons() if "both" in b.text()), Qt.MouseButton.LeftButton)
        dialog = self.dialog()
        self.assertNotEqual(dialog.selectedFiles(), [str(file)])
        self.accept(dialog)
        self.assertEqual(file.read_bytes(), theirs)
        assert self.session.path is not None
        self.assertEqual(open_project(self.session.path).name, "ours")
        self.assertFalse(self.session.unsaved)


class UnforeseenTest(WindowTest):
    def test_a_job_that_breaks_ends_and_leaves_a_report(self) -> None:
        self.build("sheet")
        before = self.position.copy()

        def broken(progress: object) -> None:
            raise ZeroDivisionError("nobody thought of it")

        self.session.start_job(broken, lambda result: None)
        self.settle()
        self.assertFalse(self.session.busy)
        text = self.window.notice.text.text()
        self.assertRegex(text, "Something went wrong inside Hulmo. Your work is still here.*A report")
        report = pathlib.Path(text.rsplit(" is in ", 1)[1])
        self.assertIn("nobody thought of it", report.read_text())
        self.assertIn('"do":"add_body"', report.read_text().replace(": ", ":"))
        np.testing.assert_array_equal(self.position, before)
        self.session.undo()
        self.session.redo()
        self.session.save(HOME / "after.hulmo")
        self.settle()
        self.assertEqual(len(open_project(HOME / "after.hulmo").bodies), 1)


if __name__ == "__main__":
    unittest.main()
