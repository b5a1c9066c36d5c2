"""The card of the brush in hand."""

from PyQt6.QtWidgets import QPushButton, QToolButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_stack import SettingsStack
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
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(self._changed)
        reset = QToolButton()
        reset.setText("Reset")
        reset.setToolTip("Give this brush its first settings back")
        reset.setAccessibleName("Reset brush")
        reset.clicked.connect(lambda: session.reset_brush(self.stack.shown))
        self.corner.addWidget(reset)
        self.coat = QPushButton("Reset coat")
        self.coat.setToolTip("Let the next stroke give a full coat again")
        self.coat.clicked.connect(self._reset_coat)
        self.body.addWidget(self.stack)
        self.body.addWidget(self.coat)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.stack.set_theme(theme)

    def refresh(self) -> None:
        """Show the brush in hand."""
        tool = self._session.tool
        self.setVisible(tool.kind == "brush")
        if tool.kind != "brush":
            return
        brush = BRUSHES[tool.name]
        self.set_title(brush.label, brush.help)
        values = self._session.brush_values(brush.name)
        self.stack.show_settings(brush.name, brush.all_settings).set_values(values)
        self.coat.setVisible(values.get("build_up") == "until_reset")

    def _changed(self, name: str, value: Value) -> None:
        self._session.set_brush_value(self.stack.shown, name, value)

    def _reset_coat(self) -> None:
        body = self._session.body
        if body is not None:
            self._session.do(ResetCoat(body.name))
