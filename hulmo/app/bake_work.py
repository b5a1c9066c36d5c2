"""Images of a body, baked to files by a process."""

import pathlib
from typing import TYPE_CHECKING

from hulmo.app import files
from hulmo.app.cards.bake_card import RELIEF, BakeCard
from hulmo.app.files_work import FilesWork
from hulmo.core.bake.cage import Lines
from hulmo.core.counted import counted
from hulmo.core.file_name import file_name
from hulmo.core.setting import number

if TYPE_CHECKING:
    from hulmo.app.main_window import MainWindow


class BakeWork(FilesWork):
    """What the card of baking asks for, done.

    Parameters
    ----------
    window : MainWindow
    """

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window, BakeCard)
        window.cards.when_made(BakeCard, lambda card: card.caged.connect(self._show_cage))
        window.cards.when_made(BakeCard, lambda card: card.asked.connect(self._ask))

    @property
    def _card(self) -> BakeCard:
        return self._window.card(BakeCard)

    def _ask(self) -> None:
        window = self._window
        files.ask_place(window, "Folder for the images", window.projects.folder(), self.bake)

    def _show_cage(self, lines: tuple[Lines, Lines] | None) -> None:
        self._window.canvas.over.cage = lines
        self._window.canvas.show_choice()

    def bake(self, folder: pathlib.Path) -> None:
        """Bake what the card says into a folder."""
        card, body = self._card, self._window.session.body
        if body is None:
            return
        words = ["-o", str(folder), "--maps", ",".join(card.maps)]
        if card.values["atlas"]:
            words += [f"--atlas={self._window.session.project.name or 'atlas'}"]
        else:
            words += [f"--body={body.name}"]
        words += ["--reach", repr(number(card.values, "reach"))]
        if card.fine == RELIEF:
            words += ["--relief"]
        elif card.fine:
            words += [f"--from={card.fine}"]
        for name in ("size", "samples", "margin", "rays"):
            words += [f"--{name}", str(round(number(card.values, name)))]
        words += ["--kind", str(card.values["kind"]), "--bits", str(card.values["bits"])]
        if card.values["glb"] and "base_colour" in card.maps:
            name = "atlas" if card.values["atlas"] else file_name(body.name)
            words += ["--glb", str(folder / f"{name}.baked.glb")]
        self.run("bake", words)

    def outcome(self, written: list[str]) -> str:
        """See `FilesWork.outcome`."""
        images = [name for name in written if pathlib.Path(name).suffix not in ("", ".glb")]
        last = next((line.partition(": ")[2] for line in self.process.said if "reached" in line), "")
        return f"Wrote {counted(len(images), 'image')}: {last}."
