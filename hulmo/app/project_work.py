"""Projects and files: opened, saved under a name, imported into, exported, and asked about before they are left."""

import pathlib
from collections.abc import Callable
from typing import TYPE_CHECKING

from hulmo.app import files
from hulmo.app.cards.export_card import ExportCard
from hulmo.app.recent_files import recent_files
from hulmo.core.commands import ImportBody
from hulmo.core.file_name import file_name
from hulmo.core.project import free_name

if TYPE_CHECKING:
    from hulmo.app.main_window import MainWindow


class ProjectWork:
    """What is done with the project as a whole.

    Parameters
    ----------
    window : MainWindow
    """

    def __init__(self, window: "MainWindow") -> None:
        self._window, self._session = window, window.session

    def import_mesh(self, path: pathlib.Path, parts: str) -> None:
        """Bring a mesh in, as one body, with regions, or as several."""

        def told() -> None:
            session = self._session
            session.choose_body(session.project.bodies[-1].ident)
            label = session.history.undo_label
            if "(" in label:
                session.noticed.emit(f"{label}.")

        self._session.do_long(ImportBody(str(path), parts=parts), told)

    def folder(self) -> pathlib.Path:
        """Where files are looked for first."""
        if self._session.path is not None:
            return self._session.path.parent
        recent = recent_files()
        return recent[0].parent if recent else pathlib.Path.home()

    def open(self, path: pathlib.Path) -> None:
        """Open a project; what is there goes."""
        self._session.open(path)

    def ask_open(self) -> None:
        """Ask for a project, and open it."""
        files.ask_open(self._window, self.folder(), self.open)

    def save(self, then: Callable[[], None] | None) -> None:
        """Save where it lies, or ask where; `then` comes after it."""
        if self._session.path is None:
            self.save_as(then)
        else:
            self._save_to(self._session.path, then)

    def _save_to(self, path: pathlib.Path, then: Callable[[], None] | None) -> None:
        if path == self._session.path and self._session.changed_elsewhere():
            files.ask_changed(
                self._window, path, lambda: self._session.save(path, then), lambda: self.save_as(then, "mine")
            )
        else:
            self._session.save(path, then)

    def save_as(self, then: Callable[[], None] | None, more: str = "") -> None:
        """Ask where to save; `more` tells a copy's name from the file's."""
        name = self.file_name()
        if more:
            taken = [file.stem for file in self.folder().glob("*.hulmo")]
            name = free_name(f"{name} {more}", taken)
        start = self.folder() / f"{name}.hulmo"
        files.ask_save(self._window, "Save the project", start, "hulmo", lambda path: self._save_to(path, then))

    def file_name(self) -> str:
        """What a file of this project would be called, without its ending."""
        return (
            file_name(self._session.project.name, "project") if self._session.path is None else self._session.path.stem
        )

    def ask_export(self, ending: str) -> None:
        """Ask where to export to."""
        start = self.folder() / f"{self.file_name()}.{ending}"
        files.ask_save(self._window, f"Export as .{ending}", start, ending, self._window.card(ExportCard).write)

    def before_leaving(self, go: Callable[[], None]) -> None:
        """Go on once unsaved work has been saved, or dropped."""
        if not self._session.unsaved:
            go()
            return
        files.ask_unsaved(self._window, self._session.project.name, lambda: self.save(go), go)
