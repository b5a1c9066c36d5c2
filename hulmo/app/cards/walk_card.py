"""The card of walking."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.app.walk_settings import WALK
from hulmo.core.setting import Value


class WalkCard(Card):
    """Eye height, pace, and whether one flies.

    Signals
    -------
    kept
        The user wants the present view kept as a viewpoint.
    """

    KINDS = ("walk",)

    kept = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Walk", "Press on the ground to stand there. Drag to look around.", parent)
        self._session = session
        self.keys = Label("W, S, A, D or the arrows go, Shift runs; Page up and down when flying.")
        self.keys.setObjectName("quiet")
        self.keys.setWordWrap(True)
        self.panel = SettingsPanel(WALK, theme)
        self.panel.changed.connect(self._set)
        self.keep = QPushButton("Keep view")
        self.keep.setToolTip("Keep what you see now as a viewpoint")
        self.keep.clicked.connect(self.kept)
        for part in (self.keys, self.panel, self.keep):
            self.body.addWidget(part)
        session.tool_changed.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show the settings."""
        self.setVisible(self.seen(self._session))
        self.panel.set_values(self._session.walk)

    def _set(self, name: str, value: Value) -> None:
        self._session.walk = {**self._session.walk, name: value}
