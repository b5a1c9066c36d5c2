"""The card of the palette: grounds as swatches, the one in hand with its settings, and how grounds blend."""

import msgspec
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QColorDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QToolButton,
    QWidget,
)

from hulmo.app.cards.card import Card
from hulmo.app.cards.swatch import Swatch, thumbnail
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import AddGround, ChangeGround, RemoveGround, SetBlend
from hulmo.core.edit import Change
from hulmo.core.ground.ground import LEAST_DEPTH, MOST_GROUNDS, Blend
from hulmo.core.ground.library import shipped
from hulmo.core.setting import Choice, Number, Value

COLUMNS = 4

_TILE = (
    Number(
        "tile", "Tile size", "m", 0.01, 1000.0, 2.5, "Metres that one repeat of the texture covers.",
        comfort=(0.2, 20.0), curve=3.0,
    ),
)  # fmt: skip

_BLEND = (
    Choice(
        "mode",
        "Blend",
        (
            ("height", "By height", "Higher parts of a texture show first where grounds meet."),
            ("linear", "Linear", "Grounds fade evenly into each other."),
        ),
        Blend().mode,
        "How grounds meet, here and in the delivered file.",
    ),
    Number(
        "depth", "Softness", "%", 100 * LEAST_DEPTH, 100.0, 100 * Blend().depth, "How softly grounds meet by height."
    ),
)


class GroundCard(Card):
    """The palette.

    Signals
    -------
    folder_asked
        The user wants to make a ground from images on disk.
    """

    folder_asked = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Grounds", "The framed one is in hand.", parent)
        self._session = session
        self._theme = theme
        self.swatches: list[Swatch] = []
        self._grid = QGridLayout()
        self._grid.setSpacing(5)
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the ground in hand")
        self.name.setToolTip("Name of the ground in hand")
        self.name.editingFinished.connect(self._renamed)
        self.tint = QToolButton()
        self.tint.setText("Tint")
        self.tint.setAccessibleName("Tint of the ground in hand")
        self.tint.setToolTip("A colour that multiplies the texture")
        self.tint.clicked.connect(self._ask_tint)
        self.tile = SettingsPanel(_TILE, theme)
        self.tile.changed.connect(self._tiled)
        self.blend = SettingsPanel(_BLEND, theme)
        self.blend.changed.connect(self._blended)
        self.add = QPushButton("Add")
        self.add.setToolTip("Add a ground from the shipped library or from images on disk")
        self._menu = QMenu(self)
        self.add.setMenu(self._menu)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("Remove the ground in hand; what else lies there takes its place")
        self.remove.clicked.connect(self._remove)
        names = QHBoxLayout()
        names.addWidget(self.name, 1)
        names.addWidget(self.tint)
        buttons = QHBoxLayout()
        buttons.addWidget(self.add)
        buttons.addWidget(self.remove)
        self.body.addLayout(self._grid)
        self.body.addLayout(names)
        self.body.addWidget(self.tile)
        self.body.addWidget(self.blend)
        self.body.addLayout(buttons)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.replaced.connect(self.rebuild)
        session.changed.connect(self._changed)
        self.rebuild()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.tile.set_theme(theme)
        self.blend.set_theme(theme)
        for swatch in self.swatches:
            swatch.set_theme(theme)

    def rebuild(self) -> None:
        """Show another palette."""
        for swatch in self.swatches:
            swatch.deleteLater()
        self.swatches = []
        project = self._session.project
        for column, ground in enumerate(project.grounds):
            swatch = Swatch(ground.name, thumbnail(ground, project.textures), self._theme)
            swatch.chosen.connect(lambda column=column: self._session.choose_ground(column))
            self._grid.addWidget(swatch, column // COLUMNS, column % COLUMNS)
            self.swatches.append(swatch)
        self.refresh()

    def refresh(self) -> None:
        """Show which ground is in hand and what it is like."""
        self.setVisible(self._session.stage.name == "ground")
        project, column = self._session.project, self._session.ground
        for i, swatch in enumerate(self.swatches):
            swatch.set_checked(i == column)
        ground = project.grounds[column]
        if not self.name.hasFocus():
            self.name.setText(ground.name)
        self.tile.set_values({"tile": ground.tile})
        self.tint.setStyleSheet(f"border: 1px solid {self._theme.line}; border-bottom: 4px solid {ground.tint};")
        self.blend.set_values({"mode": project.blend.mode, "depth": 100 * project.blend.depth})
        self.blend.fields["depth"].setEnabled(project.blend.mode == "height")
        self.remove.setEnabled(len(project.grounds) > 1)
        self.add.setEnabled(len(project.grounds) < MOST_GROUNDS)

    def _changed(self, change: Change) -> None:
        if change.fields & {"grounds", "textures"}:
            self.rebuild()
        elif "blend" in change.fields:
            self.refresh()

    def _here(self) -> str:
        return self._session.project.grounds[self._session.ground].name

    def _renamed(self) -> None:
        text = self.name.text().strip()
        if text and text != self._here():
            self._session.do(ChangeGround(self._here(), name=text))
        self.name.setText(self._here())

    def _tiled(self, _: str, value: Value) -> None:
        self._session.do_merged(ChangeGround(self._here(), tile=float(str(value))), f"tile {self._here()}")

    def _blended(self, name: str, value: Value) -> None:
        blend = msgspec.structs.asdict(self._session.project.blend)
        blend[name] = float(str(value)) / 100 if name == "depth" else value
        self._session.do_merged(SetBlend(**blend), f"blend {name}")

    def _ask_tint(self) -> None:
        dialog = QColorDialog(QColor(self._session.project.grounds[self._session.ground].tint), self.window())
        dialog.setWindowTitle("Tint of the ground")
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        here = self._here()
        dialog.colorSelected.connect(lambda colour: self._session.do(ChangeGround(here, tint=colour.name())))
        dialog.open()

    def _fill_menu(self) -> None:
        self._menu.clear()
        for entry in shipped().values():
            action = self._menu.addAction(entry.label)
            assert action is not None
            action.setToolTip(entry.help)
            action.triggered.connect(lambda _, name=entry.name: self._added(name))
        self._menu.addSeparator()
        folder = self._menu.addAction("From images in a folder…")
        assert folder is not None
        folder.triggered.connect(lambda: self.folder_asked.emit())

    def _added(self, texture: str) -> None:
        if self._session.do(AddGround(texture)):
            self._session.choose_ground(len(self._session.project.grounds) - 1)

    def _remove(self) -> None:
        self._session.do(RemoveGround(self._here()))
