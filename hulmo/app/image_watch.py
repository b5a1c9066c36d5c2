"""Keeping an eye on the image files that relief layers were laid from."""

from collections.abc import Callable

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from hulmo.core.grey_image import image_file
from hulmo.core.mesh.body import Body
from hulmo.core.project import Project
from hulmo.core.relief import RELIEFS
from hulmo.core.there import is_there

SETTLED = 400
"""Milliseconds without a further change after which a file counts as written."""


def image_of(settings: dict[str, object], relief: str) -> str:
    """The image that a relief layer was laid from; empty when it was laid from none."""
    entry = RELIEFS.get(relief)
    if entry is None or not entry.file:
        return ""
    first = next(setting.default for setting in entry.settings if setting.name == entry.file)
    return str(image_file(str(settings.get(entry.file, first))).absolute())


class ImageWatch(QObject):
    """Tells which layers an image file that has changed belongs to.

    Signals
    -------
    changed : int, str
        Number of the body and name of the layer that is to be laid again.
    """

    changed = pyqtSignal(int, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._touched)
        self._waiting: set[str] = set()
        self._bodies: tuple[Body, ...] = ()
        self._allowed: Callable[[str], bool] = bool
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(SETTLED)
        self._later.timeout.connect(self._tell)

    def follow(self, project: Project, allowed: Callable[[str], bool]) -> None:
        """Watch the files of a project's layers, as far as the user allows it."""
        self._bodies, self._allowed = project.bodies, allowed
        wanted = {file for _, _, file in self._layers()}
        now = set(self._watcher.files())
        if now - wanted:
            self._watcher.removePaths(list(now - wanted))
        missing = [file for file in wanted - now if is_there(image_file(file))]
        if missing:
            self._watcher.addPaths(missing)

    def _layers(self) -> list[tuple[int, str, str]]:
        found = [
            (body.ident, layer.name, image_of(layer.laid.settings, layer.laid.relief))
            for body in self._bodies
            for layer in body.layers
            if layer.laid is not None and not layer.locked
        ]
        return [entry for entry in found if entry[2] and self._allowed(entry[2])]

    def _touched(self, file: str) -> None:
        self._waiting.add(file)
        self._later.start()

    def _tell(self) -> None:
        files, self._waiting = self._waiting, set()
        for file in files:
            # programs that write a new file and rename it leave nothing to watch until it is named again
            if is_there(image_file(file)) and file not in self._watcher.files():
                self._watcher.addPath(file)
        for ident, layer, file in self._layers():
            if file in files and is_there(image_file(file)):
                self.changed.emit(ident, layer)
