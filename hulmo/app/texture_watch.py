"""Keeping an eye on the image files that grounds were made from."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from hulmo.app.file_watch import FileWatch
from hulmo.core.project import Project


class TextureWatch(QObject):
    """Tells which texture set an image that has changed on disk belongs to.

    Signals
    -------
    changed : str
        Name of the set that is to be read again.
    """

    changed = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.watch = FileWatch(self)
        self.watch.written.connect(self._tell)
        self._sets: dict[str, str] = {}

    def follow(self, project: Project, allowed: Callable[[str], bool]) -> None:
        """Watch the files that a project's textures came from, as far as the user allows it."""
        self._sets = {
            file: name for name, files in project.sources.items() if all(map(allowed, files.values()))
            for file in files.values()
        }  # fmt: skip
        self.watch.watch(self._sets)

    def _tell(self, files: list[str]) -> None:
        for name in sorted({self._sets[file] for file in files if file in self._sets}):
            self.changed.emit(name)
