"""The base of the cards that change the light of the scene."""

import msgspec
from PyQt6.QtWidgets import QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import SetLight
from hulmo.core.dress.light import Light
from hulmo.core.setting import Setting, Value


class LightPanelCard(Card):
    """Some settings of the light, changed live with Sun and sky in hand; one drag of a ruler is one step of the history.

    Whoever derives from it calls `follow` at the end of its own making, and fills in `show_light`.

    Parameters
    ----------
    title, text : str
    settings : tuple
        Named after fields of `Light`.
    session : Session
    theme : Theme
    """

    KINDS = ("light",)

    def __init__(
        self,
        title: str,
        text: str,
        settings: tuple[Setting, ...],
        session: Session,
        theme: Theme,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(title, text, parent)
        self._session = session
        self.panel = SettingsPanel(settings, theme)
        self.panel.changed.connect(self._changed)

    def follow(self) -> None:
        """Show the light of the project from now on."""
        session = self._session
        session.tool_changed.connect(self.refresh)
        session.replaced.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if "light" in change.fields else None)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show the project's light."""
        self.setVisible(self.seen(self._session))
        self.show_light(self._session.project.light)

    def show_light(self, light: Light) -> None:
        """Show a light."""
        raise NotImplementedError

    def _changed(self, name: str, value: Value) -> None:
        values = {**msgspec.structs.asdict(self._session.project.light), name: value}
        self._session.drags.merged(SetLight(**values), f"light {name}")
