"""The card of the brush in hand."""

from PyQt6.QtWidgets import QPushButton, QToolButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import ResetCoat
from hulmo.core.setting import Value


class BrushCard(Card):
    """Settings of the brush in hand, its reset, and the reset of a lasting coat."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self._session = session
        self._theme = theme
        self.panels: dict[str, SettingsPanel] = {}
        self._shown = ""
        reset = QToolButton()
        reset.setText("Reset")
        reset.setToolTip("Give this brush its first settings back")
        reset.setAccessibleName("Reset brush")
        reset.clicked.connect(lambda: session.reset_brush(self._shown))
        self.corner.addWidget(reset)
        self.coat = QPushButton("Reset coat")
        self.coat.setToolTip("Let the next stroke give a full coat again")
        self.coat.clicked.connect(self._reset_coat)
        self.body.addWidget(self.coat)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        for panel in self.panels.values():
            panel.set_theme(theme)

    def refresh(self) -> None:
        """Show the brush in hand."""
        tool = self._session.tool
        self.setVisible(tool.kind == "brush")
        if tool.kind != "brush":
            return
        brush = BRUSHES[tool.name]
        if brush.name not in self.panels:
            panel = SettingsPanel(brush.all_settings, self._theme)
            panel.changed.connect(self._changed)
            self.panels[brush.name] = panel
            self.body.insertWidget(self.body.count() - 1, panel)
        for name, panel in self.panels.items():
            panel.setVisible(name == brush.name)
        self._shown = brush.name
        self.set_title(brush.label, brush.help)
        values = self._session.brush_values(brush.name)
        self.panels[brush.name].set_values(values)
        self.coat.setVisible(values["build_up"] == "until_reset")

    def _changed(self, name: str, value: Value) -> None:
        self._session.set_brush_value(self._shown, name, value)

    def _reset_coat(self) -> None:
        body = self._session.body
        if body is not None:
            self._session.do(ResetCoat(body.name))
