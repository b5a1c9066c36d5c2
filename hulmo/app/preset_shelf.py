"""The user's brush presets: shipped ones, and those kept in a file of his own."""

import pathlib

from PyQt6.QtCore import QObject, QStandardPaths, pyqtSignal

from hulmo.core.errors import HulmoError
from hulmo.core.presets import STARTER, Preset, read_presets, with_preset, write_presets


class PresetShelf(QObject):
    """Presets by brush. What goes wrong with their file is told and leaves the file alone.

    Signals
    -------
    problem : str
        Something the user should read.
    """

    problem = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.AppConfigLocation)
        self.file = pathlib.Path(folder) / "presets.json"
        self._own: list[Preset] | None = None

    @property
    def own(self) -> list[Preset]:
        """The user's own presets, oldest first."""
        if self._own is None:
            self._own = []
            if self.file.exists():
                try:
                    self._own = read_presets(self.file)
                except HulmoError as error:
                    spare = self.file.with_suffix(".damaged")
                    self.file.replace(spare)
                    self.problem.emit(f"{error}. The file was put aside as {spare.name}.")
        return self._own

    def of(self, brush: str) -> tuple[list[Preset], list[Preset]]:
        """Shipped and own presets of a brush."""
        return [entry for entry in read_presets(STARTER) if entry.brush == brush], [
            entry for entry in self.own if entry.brush == brush
        ]

    def save(self, preset: Preset) -> None:
        """Keep a preset; one of the same name for the same brush is replaced."""
        self._write(with_preset(self.own, preset))

    def remove(self, preset: Preset) -> None:
        """Forget an own preset."""
        self._write([entry for entry in self.own if entry != preset])

    def take_in(self, file: pathlib.Path) -> int:
        """Add the presets of a file; how many there were."""
        try:
            found = read_presets(file)
        except HulmoError as error:
            self.problem.emit(str(error))
            return 0
        presets = self.own
        for preset in found:
            presets = with_preset(presets, preset)
        self._write(presets)
        return len(found)

    def hand_on(self, file: pathlib.Path) -> None:
        """Write all own presets to a file."""
        try:
            write_presets(file, self.own)
        except HulmoError as error:
            self.problem.emit(str(error))

    def _write(self, presets: list[Preset]) -> None:
        try:
            write_presets(self.file, presets)
        except HulmoError as error:
            self.problem.emit(str(error))
            return
        self._own = presets
