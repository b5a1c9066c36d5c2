"""The card of the look that is shown: its light, its intervals, its limits."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.theme import Theme
from hulmo.core.setting import Value
from hulmo.render.looks import LOOKS


class LookCard(Card):
    """Settings of looks that have any.

    Signals
    -------
    changed : str, str, object
        Look, setting, value.
    """

    changed = pyqtSignal(str, str, object)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(self._changed)
        self.body.addWidget(self.stack)
        self.show_look("lit")

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.stack.set_theme(theme)

    def show_look(self, name: str) -> None:
        """Show the settings of a look."""
        look = LOOKS[name]
        self.setVisible(bool(look.settings))
        if look.settings:
            self.set_title(f"{look.label} look")
            self.stack.show_settings(name, look.settings)

    def _changed(self, setting: str, value: Value) -> None:
        self.changed.emit(self.stack.shown, setting, value)
