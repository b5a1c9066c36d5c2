"""Deliveries, as the card of them asks: where to, by which profile, and how a delivered file looks beside the scene."""

import pathlib
import tempfile
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QImage

from hulmo.app import files
from hulmo.app.cards.deliver_card import DeliverCard
from hulmo.app.compare_view import CompareDialog, CompareView
from hulmo.app.file_process import COPY, FileProcess
from hulmo.core.deliver.pieces import Piece, pieces_of

if TYPE_CHECKING:
    from hulmo.app.main_window import MainWindow

NAMES = ("The file", "The scene")


class DeliverWork(QObject):
    """What the card of deliveries asks for, done.

    Parameters
    ----------
    window : MainWindow
    """

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self._window = window
        self.process = FileProcess(self)
        self._picture = pathlib.Path()
        self._held: tempfile.TemporaryDirectory[str] | None = None
        self.dialog: CompareDialog | None = None
        self.process.done.connect(self._done)
        self.process.failed.connect(self._failed)
        window.cards.when_made(DeliverCard, self._listen)

    @property
    def _card(self) -> DeliverCard:
        return self._window.card(DeliverCard)

    def _listen(self, card: DeliverCard) -> None:
        window = self._window
        card.asked.connect(
            lambda: files.ask_place(window, "Folder to deliver into", window.projects.folder(), card.deliver)
        )
        card.profile_asked.connect(lambda: files.ask_profile(window, window.projects.folder(), card.add_profile))
        card.receive_asked.connect(
            lambda: files.ask_delivered(window, card.folder or window.projects.folder(), self.receive)
        )
        card.marked.connect(window.canvas.mark)
        card.led.connect(window.canvas.go_to)
        card.levels_asked.connect(self._levels)
        window.canvas.levels.said.connect(card.told.setText)

    def receive(self, path: pathlib.Path) -> None:
        """Draw a delivered file as the scene is seen now, and lay both over each other."""
        session, canvas = self._window.session, self._window.canvas
        if self.process.running:
            self._window.notice.say("Another file is being drawn. Wait until it is shown.")
            return
        project, camera = session.project, canvas.camera
        self._held = tempfile.TemporaryDirectory(prefix="hulmo-receive-")
        self._picture = pathlib.Path(self._held.name) / "both.png"
        words = [
            "receive", str(path), "-o", str(self._picture), "--beside", COPY, f"--size={canvas.width()}x{canvas.height()}",
            *(f"--{name}={','.join(map(repr, place))}" for name, place in (
                ("eye", camera.eye.tolist()), ("target", camera.target.tolist()),
            )),
            f"--field={camera.field!r}",
        ]  # fmt: skip

        def begin(copy: pathlib.Path) -> None:
            self._card.told.setText(f"Drawing {path.name} by what stands in it…")
            self.process.start(copy, words)

        session.preview.settle(lambda: session.start_job(lambda progress: FileProcess.copied(project), begin))

    def _levels(self, shown: bool) -> None:
        session, canvas, card = self._window.session, self._window.canvas, self._card
        project, profile = session.project, card.profile
        if not shown:
            canvas.show_levels(None)
            card.told.setText("")
            return

        def ready(pieces: list[Piece]) -> None:
            if not card.levels.isChecked():
                return
            if max(len(piece.levels) for piece in pieces) > 1:
                canvas.show_levels(pieces)
                return
            card.levels.setChecked(False)
            card.told.setText("No coarser level keeps within its error; take a larger distance, or go by triangles.")

        session.preview.settle(
            lambda: session.start_job(
                lambda progress: pieces_of(project, profile, progress), ready, lambda: card.levels.setChecked(False)
            )
        )

    def _done(self, written: list[str]) -> None:
        both, said = QImage(str(self._picture)), self.process.said[-1] if self.process.said else ""
        self._forget()
        if both.isNull() or not said:
            self._failed("The picture of the file could not be read.")
            return
        self._closed()
        half = both.width() // 2
        told = said.partition(": ")[2].partition("; ")[2]
        self._card.told.setText(f"File beside scene: {told}.")
        view = CompareView(both.copy(0, 0, half, both.height()), both.copy(half, 0, half, both.height()), NAMES)
        self.dialog = CompareDialog(view, "A delivered file beside the scene", f"{told}.", self._window)
        self.dialog.finished.connect(self._closed)
        self.dialog.show()

    def _closed(self) -> None:
        if self.dialog is not None:
            self.dialog.deleteLater()
            self.dialog = None

    def _failed(self, why: str) -> None:
        self._forget()
        self._card.told.setText(why or "Stopped.")
        if why:
            self._window.notice.say(why)

    def _forget(self) -> None:
        if self._held is not None:
            self._held.cleanup()
            self._held = None
