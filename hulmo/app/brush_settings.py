"""Present settings of every brush, whose lengths follow the size of the body until somebody chooses others."""

from PyQt6.QtCore import QObject, pyqtSignal

from hulmo.app.fitted import fitted, length_scale
from hulmo.app.going_over import OVER
from hulmo.core.brushes import BRUSHES
from hulmo.core.mesh.body import Body
from hulmo.core.presets import Preset
from hulmo.core.setting import Value, Values, complete


class BrushSettings(QObject):
    """Settings by brush.

    Signals
    -------
    changed
        A setting is another one, or the lengths follow another body.
    """

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.scale = 1.0
        """What default lengths are multiplied with for the active body."""
        self.over = str(OVER.default)
        """Which bodies strokes go over; see `going_over`."""
        self._values: dict[str, Values] = {
            brush.name: complete(brush.all_settings, {}, brush.name) for brush in BRUSHES.values()
        }

    def of(self, brush: str) -> Values:
        """Present settings of a brush."""
        return self._values[brush]

    def set(self, brush: str, setting: str, value: Value) -> None:
        """Change a setting of a brush."""
        self._values[brush][setting] = value
        self.changed.emit()

    def set_over(self, over: str) -> None:
        """Have strokes go over other bodies."""
        self.over = over
        self.changed.emit()

    def reset(self, brush: str) -> None:
        """Give a brush its defaults back."""
        settings = BRUSHES[brush].all_settings
        self._values[brush] = complete(settings, {s.name: fitted(s, self.scale) for s in settings}, brush)
        self.changed.emit()

    def use(self, preset: Preset) -> None:
        """Give a brush the settings of a preset."""
        self._values[preset.brush] = preset.values()
        self.changed.emit()

    def fit(self, body: Body | None) -> None:
        """Let the lengths that nobody has chosen follow the size of a body."""
        scale, before = length_scale(body), self.scale
        if scale == before:
            return
        self.scale = scale
        for brush in BRUSHES.values():
            values = self._values[brush.name]
            for setting in brush.all_settings:
                old, new = fitted(setting, before), fitted(setting, scale)
                if old != new and values[setting.name] == old:
                    values[setting.name] = new
        self.changed.emit()
