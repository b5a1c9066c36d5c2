"""The card of the whole-surface relief in hand: settings, live preview, keep or cancel."""

from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.ground_field import GroundField
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.fitted import fitted
from hulmo.app.main_button import MainButton
from hulmo.app.session import Session
from hulmo.app.stages import tool_named
from hulmo.app.theme import Theme
from hulmo.core.commands import LayRelief, RelayRelief
from hulmo.core.mesh.layer import Layer
from hulmo.core.relief import LIMITS, RELIEFS
from hulmo.core.setting import complete

AT_ONCE = 400_000
"""Vertices up to which a relief is shown as soon as it is chosen."""

PATIENCE = 1000
"""Milliseconds after which what nobody asked for is given up."""

PAUSE = 120
"""Milliseconds after the last change of a setting until it is previewed."""


class ReliefCard(Card):
    """Settings of a relief over the whole body. A changed setting is shown at once; Keep lays it in a layer of its own.

    `change` takes up a layer that was laid before, to lay it again with other settings.
    """

    KINDS = ("relief",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self._session = session
        self._layer = ""
        self._scales: dict[str, float] = {}
        self._kept: LayRelief | RelayRelief | None = None
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(self._touched)
        self.limits = SettingsStack(theme)
        self.limits.changed.connect(self._touched)
        self.more = QToolButton()
        self.more.setCheckable(True)
        self.more.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.more.setToolTip("Slope and height between which relief is laid, and the ground it is laid on")
        self.more.toggled.connect(self._fold_limits)
        self.only_on = GroundField("Only on", "Everywhere", "Lays relief only where this ground lies")
        self.tile_as = GroundField("Tile as", "Tile size above", "Tiles the image as large as this ground's textures")
        for grounds in (self.only_on, self.tile_as):
            grounds.box.activated.connect(self._touched)
        self.show_now = QPushButton("Show")
        self.show_now.setToolTip("Preview it with these settings")
        self.show_now.clicked.connect(self._preview)
        self.keep = MainButton("Keep")
        self.keep.setToolTip("Lay it, in a relief layer of its own")
        self.keep.clicked.connect(self._keep)
        self.cancel = QPushButton("Cancel")
        self.cancel.setToolTip("Take the preview back")
        self.cancel.clicked.connect(self._cancel)
        row = QHBoxLayout()
        for button in (self.show_now, self.keep, self.cancel):
            row.addWidget(button)
        for part in (self.stack, self.tile_as, self.more, self.limits, self.only_on):
            self.body.addWidget(part)
        self.body.addLayout(row)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(PAUSE)
        self._later.timeout.connect(self._preview)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._show_at_once)
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(PATIENCE)
        self._patience.timeout.connect(self._give_up)
        session.tool_changed.connect(self._tool_changed)
        session.changed.connect(lambda change: self.refresh() if change.fields else None)
        session.replaced.connect(self.refresh)
        session.job_changed.connect(self._buttons)
        self._fold_limits(False)
        self._tool_changed()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.stack.set_theme(theme)
        self.limits.set_theme(theme)

    def refresh(self) -> None:
        """Show the relief in hand."""
        tool = self._session.tool
        self.setVisible(self.seen(self._session))
        if tool.kind != "relief":
            return
        relief = RELIEFS[tool.name]
        self.set_title(relief.label, f"Of the layer {self._layer}." if self._layer else relief.help)
        panel = self.stack.show_settings(relief.name, relief.settings)
        before, self._scales[relief.name] = self._scales.get(relief.name, 1.0), self._session.brushes.scale
        if before != self._session.brushes.scale:  # lengths that nobody has chosen follow the size of the body
            now = self.stack.values
            panel.set_values(
                {
                    s.name: fitted(s, self._session.brushes.scale)
                    for s in relief.settings
                    if now[s.name] == fitted(s, before)
                }
            )
        self.limits.show_settings(relief.name, LIMITS)
        self.limits.setVisible(self.more.isChecked())
        names = [ground.name for ground in self._session.project.grounds]
        self.only_on.show_grounds(names)
        self.tile_as.show_grounds(names)
        self.tile_as.setVisible(bool(relief.file) and not self._layer)
        self.only_on.setEnabled(not self._layer)
        self._buttons()

    def change(self, layer: Layer) -> None:
        """Take up a laid layer: its settings are shown, and Keep lays it again."""
        if layer.laid is None:
            return
        self._session.choose_tool(tool_named("relief", layer.laid.relief))
        self._soon.stop()  # what the layer shows is there already
        self._layer = layer.name
        relief = RELIEFS[layer.laid.relief]
        values = complete(relief.all_settings, layer.laid.settings, "relief")
        self.refresh()
        self.stack.panels[relief.name].set_values({s.name: values[s.name] for s in relief.settings})
        self.limits.panels[relief.name].set_values({s.name: values[s.name] for s in LIMITS})

    def command(self) -> LayRelief | RelayRelief | None:
        """What the card would do now; None without a body."""
        body = self._session.body
        if body is None or self._session.tool.kind != "relief":
            return None
        relief = RELIEFS[self._session.tool.name]
        given: dict[str, Any] = {**self.stack.values, **self.limits.values}
        settings = {setting.name: given[setting.name] for setting in relief.all_settings}
        changed = {s.name: settings[s.name] for s in relief.all_settings if settings[s.name] != s.default}
        if self._layer:
            return RelayRelief(body.name, self._layer, changed)
        return LayRelief(
            body.name, relief.name, changed, "", self.only_on.value, self.tile_as.value if relief.file else ""
        )  # fmt: skip

    def _tool_changed(self) -> None:
        self._later.stop()
        self._layer, self._kept = "", None
        self.refresh()
        if self.seen(self._session):
            self._soon.start()
        else:
            self._soon.stop()

    def _touched(self, *_: object) -> None:
        self._soon.stop()
        self._patience.stop()
        self._later.start()

    def _show_at_once(self) -> None:
        # where it takes less than a moment
        command, body = self.command(), self._session.body
        if command is None or body is None or self._layer or body.vertices.live_count > AT_ONCE:
            return
        if self._session.preview.pending:
            return
        self._session.preview.show(command, asked=False)
        self._patience.start()

    def _give_up(self) -> None:
        self._session.preview.give_up_unasked()

    def _preview(self) -> None:
        self._soon.stop()
        self._patience.stop()
        command = self.command()
        if command is not None:
            self._session.preview.show(command)
        else:
            self._session.noticed.emit("There is no body to lay relief on yet. Build a base form first.")

    def _keep(self) -> None:
        self._later.stop()
        self._soon.stop()
        self._patience.stop()
        command, body = self.command(), self._session.body
        if command is None or body is None:
            self._session.noticed.emit("There is no body to lay relief on yet. Build a base form first.")
            return
        if command == self._kept:
            return  # pressed twice: it is laid already

        def kept() -> None:
            if not self._layer:  # from now on the card is about the layer that it has laid
                self._layer = body.layers[-1].name
                self.refresh()
            self._kept = self.command()

        self._session.preview.keep(command, kept)

    def _cancel(self) -> None:
        self._later.stop()
        self._soon.stop()
        self._session.preview.drop()

    def _buttons(self) -> None:
        self.cancel.setEnabled(self._session.history.previewed is not None)
        self.keep.setEnabled(not self._session.busy or self._session.preview.pending)

    def _fold_limits(self, on: bool) -> None:
        self.more.setText("Only in places")
        self.more.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        self.limits.setVisible(on)
        self.only_on.setVisible(on)
