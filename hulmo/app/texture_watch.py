"""Keeping an eye on the image files that grounds were made from."""

import pathlib
from collections.abc import Callable

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from hulmo.core.project import Project

SETTLED = 400
"""Milliseconds without a further change after which a file counts as written."""


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
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._touched)
        self._sets: dict[str, str] = {}
        self._waiting: set[str] = set()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(SETTLED)
        self._later.timeout.connect(self._tell)

    def follow(self, project: Project, allowed: Callable[[str], bool]) -> None:
        """Watch the files that a project's textures came from, as far as the user allows it."""
        self._sets = {
            file: name for name, files in project.sources.items() if all(map(allowed, files.values()))
            for file in files.values()
        }  # fmt: skip
        now = set(self._watcher.files())
        gone = now - set(self._sets)
        if gone:
            self._watcher.removePaths(list(gone))
        new = [file for file in set(self._sets) - now if pathlib.Path(file).is_file()]
        if new:
            self._watcher.addPaths(new)

    def _touched(self, file: str) -> None:
        self._waiting.add(file)
        self._later.start()

    def _tell(self) -> None:
        files, self._waiting = self._waiting, set()
        for file in files:
            # programs that write a new file and rename it leave nothing to watch until it is named again
            if pathlib.Path(file).is_file() and file not in self._watcher.files():
                self._watcher.addPath(file)
        for name in sorted({self._sets[file] for file in files if file in self._sets and pathlib.Path(file).is_file()}):
            self.changed.emit(name)
