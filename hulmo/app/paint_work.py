"""What is painted, out to images and in again, as the card of it asks."""

import pathlib
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer

from hulmo.app import files
from hulmo.app.cards.paint_card import PaintCard
from hulmo.app.file_watch import FileWatch
from hulmo.core.commands import LayImages
from hulmo.core.counted import counted
from hulmo.core.errors import HulmoError
from hulmo.core.io.paint_note import read_note
from hulmo.core.io.paint_out import NOTE, PaintedOut, paint_out
from hulmo.core.setting import number

if TYPE_CHECKING:
    from hulmo.app.main_window import MainWindow

AGAIN_AFTER = 1000
"""Milliseconds after which what has to wait for other work is tried again."""


class PaintWork:
    """Writes, reads and follows painted images.

    Parameters
    ----------
    window : MainWindow
    """

    def __init__(self, window: "MainWindow") -> None:
        self._window, self._session = window, window.session
        self._watch = FileWatch(window)
        self._watch.written.connect(self._changed)
        self._laid: tuple[LayImages, ...] = ()
        self._waiting: tuple[LayImages, ...] = ()
        self._again = QTimer(window)
        self._again.setSingleShot(True)
        self._again.setInterval(AGAIN_AFTER)
        self._again.timeout.connect(self._try_again)
        self._session.replaced.connect(self._forget)
        window.cards.when_made(PaintCard, self._listen)

    @property
    def _card(self) -> PaintCard:
        return self._window.card(PaintCard)

    def _listen(self, card: PaintCard) -> None:
        window = self._window
        card.write_asked.connect(
            lambda: files.ask_place(window, "Folder for the images", window.projects.folder(), self.write)
        )
        card.read_asked.connect(lambda: files.ask_painted(window, window.projects.folder(), self.read))
        card.followed.connect(self._follow)

    def write(self, folder: pathlib.Path) -> None:
        """Write what the card says into a folder."""
        session, values, body = self._session, dict(self._card.values), self._session.body
        if body is None:
            return
        name, layer = body.name, session.layer if values["what"] == "relief" else ""
        session.start_job(
            lambda progress: paint_out(
                session.project, name, folder, str(values["what"]), progress, str(values["by"]), str(values["into"]),
                round(number(values, "size")), int(str(values["bits"])), layer, number(values, "low"), number(values, "high"),
            ),
            lambda out: self._wrote(out, folder),
        )  # fmt: skip

    def read(self, path: pathlib.Path) -> None:
        """Lay the images of a note, or one image as the card says."""
        body, values = self._session.body, self._card.values
        if body is None:
            return
        if path.name.endswith(NOTE):
            try:
                command = LayImages.noted(read_note(path), path.parent)
            except HulmoError as error:
                self._session.noticed.emit(str(error))
                return
        else:
            what = str(values["what"])
            grounds = (self._session.project.ground_names[self._session.ground],) if what == "grounds" else ()
            command = LayImages(
                body.name, what, (str(path),), grounds, str(values["by"]),
                str(values["into"]), layer=self._session.layer if what == "relief" else "",
                low=number(values, "low"), high=number(values, "high"), between=bool(values["between"]),
            )  # fmt: skip
        self._lay(command)

    def _lay(self, command: LayImages) -> None:
        if self._session.busy or self._session.history.stroking:
            self._waiting = (*(other for other in self._waiting if other != command), command)
            self._again.start()
            return
        self._keep(command)
        told = f"Read {counted(len(command.files), 'image')}."
        self._session.do_long(command, lambda: self._card.say(told + self._following()))

    def _try_again(self) -> None:
        waiting, self._waiting = self._waiting, ()
        for command in waiting:
            self._lay(command)

    def _wrote(self, out: PaintedOut, folder: pathlib.Path) -> None:
        self._keep(LayImages.noted(read_note(out.note), folder))
        words = [f"Wrote {counted(len(out.files), 'image')} and {out.note.name}."]
        if out.crowded:
            many = counted(out.crowded, "vertex", "vertices")
            words.append(f"{many} share a texel with others: a larger image parts them.")
        if out.beyond:
            words.append(f"{counted(out.beyond, 'vertex', 'vertices')} lie beyond black or white.")
        self._card.say(" ".join(words) + self._following())

    def _following(self) -> str:
        return " Changes are read as they are saved." if self._card.values["watch"] else ""

    def _keep(self, command: LayImages) -> None:
        same = (command.body, command.what, command.layer)
        self._laid = (*(known for known in self._laid if (known.body, known.what, known.layer) != same), command)
        self._follow()

    def _follow(self) -> None:
        wanted = self._laid if self._card.values["watch"] else ()
        self._watch.watch(file for command in wanted for file in command.files)

    def _forget(self) -> None:
        self._laid = ()
        self._follow()

    def _changed(self, written: list[str]) -> None:
        names = {body.name for body in self._session.project.bodies}
        for command in self._laid:
            if command.body in names and any(file in written for file in command.files):
                self._lay(command)
