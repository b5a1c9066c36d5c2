"""The card of the look that is shown: its light, its intervals, its limits."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.setting import Value, number
from hulmo.render.looks import LOOKS


class LookCard(Card):
    """Settings of looks that have any.

    Signals
    -------
    changed : str, str, object
        Look, setting, value.
    cure_asked : float
        Edges along borders are to be no longer than so many metres.
    """

    changed = pyqtSignal(str, str, object)
    cure_asked = pyqtSignal(float)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(self._changed)
        self.cure = QPushButton("Refine there")
        self.cure.setToolTip(
            "Split edges along borders of the active body until none is longer than that; the shape stays"
        )
        self.cure.clicked.connect(lambda: self.cure_asked.emit(number(self.stack.values, "limit")))
        self.body.addWidget(self.stack)
        self.body.addWidget(self.cure)
        self.show_look("lit")

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.stack.set_theme(theme)

    def show_look(self, name: str) -> None:
        """Show the settings of a look."""
        look = LOOKS[name]
        self.setVisible(bool(look.settings))
        self.cure.setVisible(name == "coarse")
        if look.settings:
            self.set_title(f"{look.label} look")
            self.stack.show_settings(name, look.settings)

    def _changed(self, setting: str, value: Value) -> None:
        self.changed.emit(self.stack.shown, setting, value)
