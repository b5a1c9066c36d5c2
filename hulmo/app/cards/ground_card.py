"""The card of the palette: grounds as swatches, the one in hand with its settings, and how grounds blend."""

import functools
import pathlib
from collections.abc import Callable
from functools import partial

import msgspec
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QPixmap
from PyQt6.QtWidgets import (
    QColorDialog,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QMenu,
    QPushButton,
    QToolButton,
    QWidget,
)

from hulmo.app.cards.card import Card
from hulmo.app.cards.ground_settings import BLEND, GROUND, TILE, TOGETHER, from_settings, to_settings
from hulmo.app.cards.swatch import Swatch, thumbnail
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.files import ask_folder
from hulmo.app.icons import icon
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import (
    AddGround,
    ChangeGround,
    Command,
    CopyWeights,
    DuplicateGround,
    MergeGrounds,
    MoveGround,
    RemoveGround,
    SetBlend,
    SwapGrounds,
)
from hulmo.core.edit import Change
from hulmo.core.errors import HulmoError
from hulmo.core.ground.ground import MOST_GROUNDS, Ground
from hulmo.core.ground.library import shipped
from hulmo.core.ground.share import write_ground
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Value

COLUMNS = 4


class GroundCard(Card):
    """The palette.

    Signals
    -------
    folder_asked, image_asked
        The user wants to make a ground from images on disk.
    """

    folder_asked = pyqtSignal()
    image_asked = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Grounds", "The framed one is in hand.", parent)
        self._session = session
        self._theme = theme
        self.swatches: list[Swatch] = []
        self._grid = QGridLayout()
        self._grid.setSpacing(5)
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the ground in hand")
        self.name.setToolTip("Name of the ground in hand")
        self.name.editingFinished.connect(self._renamed)
        self.tint = QToolButton()
        self.tint.setText("Tint")
        self.tint.setAccessibleName("Tint of the ground in hand")
        self.tint.setToolTip("A colour that multiplies the texture")
        self.tint.clicked.connect(self._ask_tint)
        self.lock = QToolButton()
        self.lock.setFixedSize(26, 24)
        self.lock.setStyleSheet("padding: 0;")
        self.lock.setAccessibleName("Lock the ground in hand")
        self.lock.clicked.connect(self._lock)
        self.tile = SettingsPanel(TILE, theme)
        self.tile.changed.connect(self._valued)
        self.blend = SettingsPanel(BLEND, theme)
        self.blend.changed.connect(self._blended)
        self.together = SettingsPanel(TOGETHER, theme)
        self.together.changed.connect(self._blended)
        self.more = QToolButton()
        self.more.setCheckable(True)
        self.more.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.more.setToolTip("Turn, colour, normals, mapping, break-up, plain values of the ground in hand")
        self.more.toggled.connect(self._fold_more)
        self.further = SettingsPanel(GROUND, theme)
        self.further.changed.connect(self._valued)
        self.add = QPushButton("Add")
        self.add.setToolTip("Add a ground: shipped, a plain colour, or from images on disk")
        self._menu = QMenu(self)
        self._menu.setStyleSheet("QMenu { icon-size: 28px; }")
        self.add.setMenu(self._menu)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("Remove the ground in hand; what else lies there takes its place")
        self.remove.clicked.connect(self._remove)
        self.order = QPushButton("More")
        self.order.setToolTip("Duplicate, move, swap, merge, replace, share the ground in hand; copy weights")
        self._orders = QMenu(self)
        self.order.setMenu(self._orders)
        self._orders.aboutToShow.connect(self._fill_orders)
        names = QHBoxLayout()
        names.addWidget(self.name, 1)
        names.addWidget(self.lock)
        names.addWidget(self.tint)
        buttons = QHBoxLayout()
        for button in (self.add, self.remove, self.order):
            button.setStyleSheet("padding: 4px 6px;")
            buttons.addWidget(button)
        self.body.addLayout(self._grid)
        self.body.addLayout(buttons)
        self.body.addLayout(names)
        self.body.addWidget(self.tile)
        self.body.addWidget(self.more)
        self.body.addWidget(self.further)
        self.body.addWidget(self.blend)
        self.body.addWidget(self.together)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.replaced.connect(self.rebuild)
        session.changed.connect(self._changed)
        self._fold_more(False)
        self.rebuild()

    @classmethod
    def seen(cls, session: Session) -> bool:
        """Whether it is shown with what is in hand."""
        return session.stage.name == "ground" and session.tool.kind != "vertices"

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        for panel in (self.tile, self.blend, self.further, self.together):
            panel.set_theme(theme)
        for swatch in self.swatches:
            swatch.set_theme(theme)
        self.refresh()

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
        tool = self._session.tool.kind
        self.setVisible(self.seen(self._session))
        project, column = self._session.project, self._session.ground
        for i, swatch in enumerate(self.swatches):
            swatch.set_checked(i == column)
            swatch.set_locked(project.grounds[i].locked)
        ground = project.grounds[column]
        if not self.name.hasFocus():
            self.name.setText(ground.name)
        self.tile.set_values({"tile": ground.tile})
        if self.more.isChecked():
            self.further.set_values(to_settings(ground))
            for part in ("albedo", "normal", "roughness", "height"):
                self.further.fields[f"plain_{part}"].setEnabled(bool(ground.texture))
        self.tint.setStyleSheet(f"border: 1px solid {self._theme.line}; border-bottom: 4px solid {ground.tint};")
        self.lock.setIcon(icon("lock" if ground.locked else "lock_off", self._theme))
        self.lock.setToolTip(
            "Let brushes change it again" if ground.locked else "Lock it: brushes leave its weight alone"
        )
        blend = project.blend
        self.blend.set_values({"mode": blend.mode, "depth": 100 * blend.depth})
        self.together.set_values({"together": float(blend.together), "keep_together": blend.keep_together})
        self.blend.fields["depth"].setEnabled(blend.mode == "height")
        # with rules in hand the card of the rules has the room
        rules = tool == "rules"
        for widget in (self.tile, self.more, self.blend, self.name, self.tint, self.lock):
            widget.setVisible(not rules)
        for panel in (self.further, self.together):
            panel.setVisible(self.more.isChecked() and not rules)
        self.remove.setEnabled(len(project.grounds) > 1)
        self.add.setEnabled(len(project.grounds) < MOST_GROUNDS)

    def _changed(self, change: Change) -> None:
        if change.fields & {"grounds", "textures"}:
            self.rebuild()
        elif "blend" in change.fields:
            self.refresh()

    def _here(self) -> str:
        return self._session.project.grounds[self._session.ground].name

    def _fold_more(self, on: bool) -> None:
        self.more.setText("Fewer settings" if on else "More settings")
        self.more.setAccessibleName(f"{self.more.text()} of the ground in hand")
        self.more.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        self.refresh()

    def _renamed(self) -> None:
        text = self.name.text().strip()
        if text and text != self._here():
            self._session.do(ChangeGround(self._here(), name=text))
        self.name.setText(self._here())

    def _valued(self, name: str, value: Value) -> None:
        ground = self._session.project.grounds[self._session.ground]
        command = ChangeGround(ground.name, values=from_settings(ground, name, value))
        self._session.drags.merged(command, f"ground {ground.name} {name}")

    def _lock(self) -> None:
        ground = self._session.project.grounds[self._session.ground]
        self._session.do(ChangeGround(ground.name, values={"locked": not ground.locked}))

    def _blended(self, name: str, value: Value) -> None:
        blend = msgspec.structs.asdict(self._session.project.blend)
        number = float(value) if isinstance(value, float) else 0.0
        blend[name] = number / 100 if name == "depth" else int(number) if name == "together" else value
        self._session.drags.merged(SetBlend(**blend), f"blend {name}")

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
            action = self._entry(self._menu, entry.label, partial(self._added, entry.name), entry.help)
            action.setIcon(_picture(entry.name))
        self._menu.addSeparator()
        self._entry(self._menu, "Plain colour", lambda: self._added(""))
        self._entry(
            self._menu, "From images…", self.image_asked.emit, "Choose one image of a set; the others are found"
        )
        self._entry(
            self._menu, "From a folder…", self.folder_asked.emit, "Images of a set, or a ground that was shared"
        )

    def _fill_orders(self) -> None:
        self._orders.clear()
        session, here = self._session, self._here()
        grounds, column = session.project.grounds, session.ground
        others = [ground.name for ground in grounds if ground.name != here]
        self._entry(self._orders, "Duplicate", lambda: self._then_last(DuplicateGround(here)))
        for label, place in (("Move to the left", column - 1), ("Move to the right", column + 1)):
            entry = self._entry(self._orders, label, partial(self._move, here, place))
            entry.setEnabled(0 <= place < len(grounds))
        self._sub("Swap everywhere with", others, lambda name: session.do(SwapGrounds(here, name)))
        self._sub("Merge into", others, lambda name: session.do(MergeGrounds(here, name)))
        library = {entry.label: entry.name for entry in shipped().values()}
        library.update({f"own: {name}": name for name in session.project.textures})
        self._sub("Replace texture by", list(library), lambda label: session.do(
            ChangeGround(here, texture=library[label], values={"plain": []})))  # fmt: skip
        self._orders.addSeparator()
        self._entry(self._orders, "Share as a folder…", self._ask_share, "ground.json and its images, to hand on")
        body = session.body
        bodies = [] if body is None else [entry.name for entry in session.project.bodies if entry is not body]
        if body is not None:
            self._sub("Copy weights from body", bodies, lambda name: self._copy(body, name))

    def _sub(self, title: str, names: list[str], act: Callable[[str], object]) -> None:
        menu = self._orders.addMenu(title)
        assert menu is not None
        menu.setEnabled(bool(names))
        for name in names:
            self._entry(menu, name, partial(act, name))

    def _entry(self, menu: QMenu, label: str, act: Callable[[], object], text: str = ""):  # type: ignore[no-untyped-def]
        action = menu.addAction(label)
        assert action is not None
        action.setToolTip(text)
        action.triggered.connect(lambda _=False: act())
        return action

    def _then_last(self, command: Command) -> None:
        if self._session.do(command):
            self._session.choose_ground(len(self._session.project.grounds) - 1)

    def _added(self, texture: str) -> None:
        self._then_last(AddGround(texture))

    def _move(self, name: str, place: int) -> None:
        if self._session.do(MoveGround(name, place)):
            self._session.choose_ground(place)

    def _copy(self, body: Body, source: str) -> None:
        first = round(max(0.05 * float(body.bounds().radius), 0.01), 3)
        dialog = QInputDialog(self.window())
        dialog.setWindowTitle("Copy weights")
        dialog.setInputMode(QInputDialog.InputMode.DoubleInput)
        dialog.setLabelText(f"Copy from {source} to every vertex of {body.name}\nno farther from it than, in metres:")
        dialog.setDoubleDecimals(3)
        dialog.setDoubleRange(0.001, 1e6)
        dialog.setDoubleValue(first)
        dialog.doubleValueSelected.connect(
            lambda reach: self._session.do_long(CopyWeights(body.name, source, round(reach, 3)))
        )
        dialog.finished.connect(dialog.deleteLater)
        dialog.open()

    def _ask_share(self) -> None:
        ask_folder(self.window() or self, pathlib.Path.home(), self.share)

    def share(self, folder: pathlib.Path) -> None:
        """Write the ground in hand into a folder of its own within a folder."""
        project = self._session.project
        ground = project.grounds[self._session.ground]
        place = folder / "".join(letter if letter.isalnum() else "-" for letter in ground.name.lower())
        try:
            write_ground(ground, project.textures, place)
        except HulmoError as error:
            self._session.noticed.emit(str(error))
            return
        self._session.noticed.emit(f"Written: {place.name} with ground.json and its images.")

    def _remove(self) -> None:
        self._session.do(RemoveGround(self._here()))


@functools.cache
def _picture(name: str) -> QIcon:
    return QIcon(QPixmap.fromImage(thumbnail(Ground(name, name, 1.0), {})))
