"""Panels of declared settings, one at a time: what a card shows for the tool in hand."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.theme import Theme
from hulmo.core.setting import Setting, Value, Values


class SettingsStack(QWidget):
    """Keeps a panel for every tool it has shown, so that each remembers its values.

    Signals
    -------
    changed : str, object
        Name and new value of a setting the user changed on the panel that is shown.
    """

    changed = pyqtSignal(str, object)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self.panels: dict[str, SettingsPanel] = {}
        self.shown = ""
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)

    @property
    def values(self) -> Values:
        """Values of the panel that is shown."""
        return self.panels[self.shown].values

    def show_settings(self, name: str, settings: tuple[Setting, ...]) -> SettingsPanel:
        """Show the panel of a tool; made at its first showing."""
        if name not in self.panels:
            panel = SettingsPanel(settings, self._theme)
            panel.changed.connect(self._changed)
            self.panels[name] = panel
            self._column.addWidget(panel)
        for other, panel in self.panels.items():
            panel.setVisible(other == name)
        self.shown = name
        self.setVisible(bool(settings))
        return self.panels[name]

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        for panel in self.panels.values():
            panel.set_theme(theme)

    def _changed(self, name: str, value: Value) -> None:
        self.changed.emit(name, value)
