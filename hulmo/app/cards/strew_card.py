"""The card of the strewing brush."""

from PyQt6.QtWidgets import QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.props.strew import SETTINGS


class StrewCard(Card):
    """How props are strewn, and how many there are."""

    KINDS = ("strew",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Strew", "Drag over the ground; none comes to stand over another.", parent)
        self._session = session
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setAccessibleName("Props on this body")
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(session.props.set)
        self.body.addWidget(self.told)
        self.body.addWidget(self.panel)
        session.tool_changed.connect(self.refresh)
        session.replaced.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.props.changed.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if "body strewn" in change.fields else None)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show the settings."""
        self.setVisible(self.seen(self._session))
        self.panel.set_values(self._session.props.values)
        count = int(self._session.props.strewn.there.sum())
        self.told.setText(f"{count:,} props on this body." if count else "No props on this body yet.")
