"""The card of the prop tray: what Strew picks from."""

import pathlib

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QListView,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QToolButton,
    QWidget,
)

from hulmo.app.cards.card import Card
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.prop_picture import prop_picture
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import AddProp, ChangeProp, RemoveProp
from hulmo.core.props.prop import SHIPPED, Prop
from hulmo.core.props.tray import mesh_of
from hulmo.core.setting import Number, Value

SIDE = 52
ROWS_SHOWN = 2.5

SETTINGS = (
    Number("share", "Share", "", 0.0, 100.0, 1.0, "How often it is chosen beside the others.", comfort=(0.0, 10.0),
           curve=2.0),
    Number("smallest", "Smallest", "×", 0.01, 100.0, 0.8, "Least size, as a factor.", comfort=(0.1, 3.0), curve=2.0),
    Number("largest", "Largest", "×", 0.01, 100.0, 1.25, "Greatest size, as a factor.", comfort=(0.1, 3.0), curve=2.0),
    Number("foot", "Foot", "m", 0.0, 1000.0, 0.1, "How much of its lower end may stand in the ground.", comfort=(0.0, 1.0),
           curve=2.0),
    Number("upright", "Upright", "%", 0.0, 100.0, 50.0, "0: along the ground's normal; 100: straight up."),
)  # fmt: skip


class TrayCard(Card):
    """Pictures of the props; ticked ones are strewn. Settings of the chosen one below.

    Signals
    -------
    asked
        The user wants a prop from a file.
    """

    KINDS = ("strew",)

    asked = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Prop tray", "Tick what is to be strewn.", parent)
        self._session = session
        self._chosen = 0
        self.list = QListWidget()
        self.list.setAccessibleName("Prop tray")
        self.list.setToolTip("Tick what is to be strewn; press one to see its settings")
        self.list.setViewMode(QListView.ViewMode.IconMode)
        self.list.setMovement(QListView.Movement.Static)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setIconSize(QSize(SIDE, SIDE))
        self.list.setGridSize(QSize(116, SIDE + 30))
        self.list.setWordWrap(False)
        self.list.setUniformItemSizes(True)
        self.list.setFixedHeight(round(ROWS_SHOWN * (SIDE + 30)))
        self.list.itemChanged.connect(self._ticked)
        self.list.currentItemChanged.connect(self._pressed)
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the chosen prop")
        self.name.setToolTip("Name of the chosen prop")
        self.name.editingFinished.connect(self._renamed)
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._set)
        self.add = QToolButton()
        self.add.setText("Add")
        self.add.setToolTip("Put a prop on the tray: from a file, a body of the project, or the shipped ones")
        self.add.setAccessibleName("Add a prop")
        self.add.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu = QMenu(self)
        self.menu.aboutToShow.connect(self._fill)
        self.add.setMenu(self.menu)
        self.corner.addWidget(self.add)
        self.remove = QPushButton("Take off the tray")
        self.remove.setToolTip("Take the chosen prop off the tray, and away wherever it stands; undo brings all back")
        self.remove.clicked.connect(self._remove)
        self.body.addWidget(self.list)
        self.body.addWidget(self.name)
        self.body.addWidget(self.panel)
        row = QHBoxLayout()
        row.addWidget(self.remove)
        self.body.addLayout(row)
        session.tool_changed.connect(self.refresh)
        session.replaced.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if change.fields & {"props", "prop_meshes"} else None)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show the tray."""
        here = self.seen(self._session)
        self.setVisible(here)
        if not here:
            return
        project = self._session.project
        self.list.blockSignals(True)
        self.list.clear()
        for prop in project.props:
            item = QListWidgetItem(QIcon(prop_picture(mesh_of(prop, project.prop_meshes), SIDE)), prop.name)
            item.setSizeHint(self.list.gridSize())
            item.setData(Qt.ItemDataRole.UserRole, prop.ident)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if prop.share > 0 else Qt.CheckState.Unchecked)
            item.setToolTip(f"{prop.name}: {mesh_of(prop, project.prop_meshes).triangles.shape[0]:,} triangles")
            self.list.addItem(item)
            if prop.ident == self._chosen:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        self._show()

    @property
    def prop(self) -> Prop | None:
        """The chosen prop."""
        return next((prop for prop in self._session.project.props if prop.ident == self._chosen), None)

    def _show(self) -> None:
        prop = self.prop
        for part in (self.name, self.panel, self.remove):
            part.setVisible(prop is not None)
        if prop is None:
            return
        if not self.name.hasFocus():
            self.name.setText(prop.name)
        values = {name: getattr(prop, name) for name in ("share", "smallest", "largest", "foot")}
        self.panel.set_values({**values, "upright": 100.0 * prop.upright})

    def _pressed(self, item: QListWidgetItem | None) -> None:
        self._chosen = 0 if item is None else int(item.data(Qt.ItemDataRole.UserRole))
        self._show()

    def _ticked(self, item: QListWidgetItem) -> None:
        ident = int(item.data(Qt.ItemDataRole.UserRole))
        prop = next((prop for prop in self._session.project.props if prop.ident == ident), None)
        on = item.checkState() == Qt.CheckState.Checked
        if prop is not None and on != (prop.share > 0):
            self._session.do(ChangeProp(prop.name, values={"share": 1.0 if on else 0.0}))

    def _set(self, name: str, value: Value) -> None:
        prop = self.prop
        if prop is None or not isinstance(value, float):
            return
        values = {name: value / 100.0 if name == "upright" else value}
        if name == "smallest":
            values["largest"] = max(prop.largest, value)
        elif name == "largest":
            values["smallest"] = min(prop.smallest, value)
        self._session.drags.merged(ChangeProp(prop.name, values=values), f"prop {prop.ident} {name}")

    def _renamed(self) -> None:
        prop, text = self.prop, self.name.text().strip()
        if prop is not None and text and text != prop.name:
            self._session.do(ChangeProp(prop.name, name=text))

    def _remove(self) -> None:
        prop = self.prop
        if prop is not None:
            self._session.do(RemoveProp(prop.name))

    def _fill(self) -> None:
        self.menu.clear()
        self.menu.addAction("From a file…", self.asked.emit)
        for body in self._session.project.bodies:
            self.menu.addAction(f"From body {body.name}", lambda name=body.name: self.put(name))
        used = {prop.mesh for prop in self._session.project.props}
        for name in SHIPPED:
            if name not in used:
                self.menu.addAction(name.replace("_", " ").capitalize(), lambda name=name: self.put(name))

    def put(self, source: str | pathlib.Path) -> None:
        """Put a prop on the tray."""
        self._session.do_long(AddProp(str(source)), self._newest)

    def _newest(self) -> None:
        self._chosen = self._session.project.props[-1].ident
        self.refresh()
