"""Images of a body, baked to files by a process."""

import pathlib
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject

from hulmo.app import files
from hulmo.app.cards.bake_card import BakeCard
from hulmo.app.file_process import FileProcess
from hulmo.core.counted import counted
from hulmo.core.setting import number

if TYPE_CHECKING:
    from hulmo.app.main_window import MainWindow


class BakeWork(QObject):
    """What the card of baking asks for, done.

    Parameters
    ----------
    window : MainWindow
    """

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self._window = window
        self._card = window.card(BakeCard)
        self.process = FileProcess(self)
        self._card.asked.connect(lambda: files.ask_place(window, "Folder for the images", window.folder(), self.bake))
        self._card.stopped.connect(self.process.stop)
        self.process.progressed.connect(lambda: self._card.show_progress(self.process.share))
        self.process.done.connect(self._done)
        self.process.failed.connect(self._failed)

    def bake(self, folder: pathlib.Path) -> None:
        """Bake what the card says into a folder."""
        session, card = self._window.session, self._card
        body = session.body
        if body is None:
            return
        words = ["-o", str(folder), f"--body={body.name}", "--maps", ",".join(card.maps)]
        if card.fine:
            words += [f"--from={card.fine}", "--reach", repr(number(card.values, "reach"))]
        for name in ("size", "samples", "margin", "rays"):
            words += [f"--{name}", str(round(number(card.values, name)))]
        words += ["--kind", str(card.values["kind"]), "--bits", str(card.values["bits"])]
        if card.values["glb"] and "base_colour" in card.maps:
            words += ["--glb", str(folder / f"{body.name.replace('/', '-')}.baked.glb")]
        project = session.project

        def begin(copy: Any) -> None:
            card.show_progress(0.0)
            self.process.start("bake", copy, words)

        session.preview.settle(lambda: session.start_job(lambda progress: FileProcess.copied(project), begin))

    def _done(self, written: list[str]) -> None:
        self._card.show_progress(None)
        images = [name for name in written if pathlib.Path(name).suffix not in ("", ".glb")]
        last = next((line.partition(": ")[2] for line in self.process.said if "reached" in line), "")
        self._card.tell(f"Wrote {counted(len(images), 'image')}: {last}.")

    def _failed(self, why: str) -> None:
        self._card.show_progress(None)
        self._card.tell(why or "Stopped.")
        if why:
            self._window.notice.say(why)
