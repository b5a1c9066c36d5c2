"""The card of the brush in hand."""

import pathlib

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QInputDialog, QLineEdit, QMenu, QPushButton, QToolButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.files import ask_json, ask_save
from hulmo.app.going_over import OVER
from hulmo.app.pen import pen_strokes
from hulmo.app.preset_shelf import PresetShelf
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import ResetCoat
from hulmo.core.errors import HulmoError
from hulmo.core.presets import Preset, preset_of
from hulmo.core.setting import Value


class BrushCard(Card):
    """Settings of the brush in hand, its presets, its reset, and the reset of a lasting coat.

    Signals
    -------
    practised : str
        A stroke of the practice pen is to be played.
    """

    KINDS = ("brush",)

    practised = pyqtSignal(str)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self._session = session
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(self._changed)
        self.further = SettingsStack(theme)
        self.further.changed.connect(self._changed)
        self.over = SettingsStack(theme)
        self.over.changed.connect(lambda _, value: session.brushes.set_over(str(value)))
        self.more = QToolButton()
        self.more.setCheckable(True)
        self.more.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.more.setToolTip("Core, spacing, steadied strokes, pen, symmetry, and what else all brushes share")
        self.more.toggled.connect(self._fold_more)
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill_presets)
        self.presets = QToolButton()
        self.presets.setText("Presets")
        self.presets.setToolTip("Named settings of this brush: use, keep, hand on")
        self.presets.setAccessibleName("Presets")
        self.presets.setMenu(self._menu)
        self.presets.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        reset = QToolButton()
        reset.setText("Reset")
        reset.setToolTip("Give this brush its first settings back")
        reset.setAccessibleName("Reset brush")
        reset.clicked.connect(lambda: session.brushes.reset(self.stack.shown))
        self.corner.addWidget(self.presets)
        self.corner.addWidget(reset)
        self.coat = QPushButton("Reset coat")
        self.coat.setToolTip("Let the next stroke give a full coat again")
        self.coat.clicked.connect(self._reset_coat)
        self.body.addWidget(self.stack)
        self.body.addWidget(self.over)
        self.body.addWidget(self.coat)
        self.body.addWidget(self.more)
        self.body.addWidget(self.further)
        self.practise = QPushButton("Practice pen")
        self.practise.setToolTip(
            "Plays a recorded pen stroke with pressure on the canvas, to try the brush without a tablet"
        )
        pens = QMenu(self)
        for entry in pen_strokes():
            self._entry(pens, entry.label).triggered.connect(lambda _, name=entry.name: self.practised.emit(name))
        self.practise.setMenu(pens)
        self.body.addWidget(self.practise)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if "bodies" in change.fields else None)
        session.replaced.connect(self.refresh)
        self._fold_more(False)
        self.refresh()

    @property
    def shelf(self) -> PresetShelf:
        """Where presets are kept."""
        return self._session.presets

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.stack.set_theme(theme)
        self.over.set_theme(theme)
        self.further.set_theme(theme)

    def refresh(self) -> None:
        """Show the brush in hand."""
        tool = self._session.tool
        self.setVisible(self.seen(self._session))
        if tool.kind != "brush":
            return
        brush = BRUSHES[tool.name]
        self.set_title(brush.label, brush.help)
        values = self._session.brushes.of(brush.name)
        self.stack.show_settings(brush.name, brush.everyday).set_values(values)
        if self.more.isChecked():
            self.further.show_settings(brush.name, brush.further).set_values(values)
        self.over.show_settings("over", (OVER,)).set_values({"over": self._session.brushes.over})
        self.over.setVisible(len(self._session.project.bodies) > 1)
        self.coat.setVisible(values.get("build_up") == "until_reset")

    def keep_preset(self, name: str) -> None:
        """Keep the present settings under a name."""
        brush = self._session.tool.name
        try:
            self.shelf.save(preset_of(name, brush, self._session.brushes.of(brush)))
        except HulmoError as error:
            self._session.noticed.emit(str(error))

    def _fold_more(self, on: bool) -> None:
        self.more.setText("Fewer settings" if on else "More settings")
        self.more.setAccessibleName(f"{self.more.text()} of the brush")
        self.more.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        self.further.setVisible(on)
        self.practise.setVisible(on)
        if on:
            self.refresh()

    def _changed(self, name: str, value: Value) -> None:
        self._session.brushes.set(self.stack.shown, name, value)

    def _reset_coat(self) -> None:
        body = self._session.body
        if body is not None:
            self._session.do(ResetCoat(body.name))

    def _fill_presets(self) -> None:
        self._menu.clear()
        shipped, own = self.shelf.of(self._session.tool.name)
        for group in (shipped, own):
            for preset in group:
                self._entry(self._menu, preset.name).triggered.connect(lambda _, preset=preset: self._use(preset))
            if group:
                self._menu.addSeparator()
        self._entry(self._menu, "Keep these settings as…").triggered.connect(self._ask_name)
        if own:
            forget = self._menu.addMenu("Forget")
            assert forget is not None
            for preset in own:
                self._entry(forget, preset.name).triggered.connect(lambda _, preset=preset: self.shelf.remove(preset))
        self._entry(self._menu, "Take in from a file…").triggered.connect(
            lambda: ask_json(self.window() or self, "Presets to take in", self._take_in)
        )
        hand_on = self._entry(self._menu, "Hand on all own presets…")
        hand_on.setEnabled(bool(self.shelf.own))
        hand_on.triggered.connect(
            lambda: ask_save(
                self.window() or self, "Hand on presets", self.shelf.file.home() / "presets.json", "json",
                self.shelf.hand_on,
            )
        )  # fmt: skip

    def _entry(self, menu: QMenu, text: str) -> QAction:
        action = menu.addAction(text)
        assert action is not None
        return action

    def _use(self, preset: Preset) -> None:
        try:
            self._session.use_preset(preset)
        except HulmoError as error:
            self._session.noticed.emit(str(error))

    def _take_in(self, file: pathlib.Path) -> None:
        count = self.shelf.take_in(file)
        if count:
            self._session.noticed.emit(f"{file.name}: {count} presets taken in.")

    def _ask_name(self) -> None:
        dialog = QInputDialog(self.window())
        dialog.setWindowTitle("Keep settings")
        dialog.setLabelText("Name of the preset:")
        dialog.setTextEchoMode(QLineEdit.EchoMode.Normal)
        dialog.textValueSelected.connect(self.keep_preset)
        dialog.finished.connect(dialog.deleteLater)
        dialog.open()
