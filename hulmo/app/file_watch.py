"""Keeping an eye on files."""

import pathlib
from collections.abc import Iterable

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from hulmo.core.there import is_there

SETTLED = 400
"""Milliseconds without a further change after which a file counts as written."""


class FileWatch(QObject):
    """Tells which of some files have changed on disk, once they have settled.

    Signals
    -------
    written : list of str
        Files that have changed and are there.
    """

    written = pyqtSignal(list)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._touched)
        self._waiting: set[str] = set()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(SETTLED)
        self._later.timeout.connect(self._tell)

    @property
    def files(self) -> list[str]:
        """What is watched."""
        return self._watcher.files()

    def watch(self, files: Iterable[str]) -> None:
        """Watch these files, and no others any more."""
        wanted, now = set(files), set(self._watcher.files())
        if now - wanted:
            self._watcher.removePaths(list(now - wanted))
        missing = [file for file in wanted - now if is_there(pathlib.Path(file))]
        if missing:
            self._watcher.addPaths(missing)

    def _touched(self, file: str) -> None:
        self._waiting.add(file)
        self._later.start()

    def _tell(self) -> None:
        files, self._waiting = sorted(self._waiting), set()
        there = [file for file in files if is_there(pathlib.Path(file))]
        # programs that write a new file and rename it leave nothing to watch until it is named again
        again = [file for file in there if file not in self._watcher.files()]
        if again:
            self._watcher.addPaths(again)
        if there:
            self.written.emit(there)
