"""Keeping an eye on the image files that relief layers were laid from."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from hulmo.app.file_watch import FileWatch
from hulmo.core.grey_image import image_file
from hulmo.core.mesh.body import Body
from hulmo.core.project import Project
from hulmo.core.relief import RELIEFS


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
        self.watch = FileWatch(self)
        self.watch.written.connect(self._tell)
        self._bodies: tuple[Body, ...] = ()
        self._allowed: Callable[[str], bool] = bool

    def follow(self, project: Project, allowed: Callable[[str], bool]) -> None:
        """Watch the files of a project's layers, as far as the user allows it."""
        self._bodies, self._allowed = project.bodies, allowed
        self.watch.watch(file for _, _, file in self._layers())

    def _layers(self) -> list[tuple[int, str, str]]:
        found = [
            (body.ident, layer.name, image_of(layer.laid.settings, layer.laid.relief))
            for body in self._bodies
            for layer in body.layers
            if layer.laid is not None and not layer.locked
        ]
        return [entry for entry in found if entry[2] and self._allowed(entry[2])]

    def _tell(self, files: list[str]) -> None:
        for ident, layer, file in self._layers():
            if file in files:
                self.changed.emit(ident, layer)
