"""The UV view: charts beside the scene, with what is worked on in both."""

import pathlib

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from hulmo.app.fields.drop_down import DropDown
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.uv_plane import DOMAINS, MEANT, UvPlane
from hulmo.app.uv_sheet import UvSheet
from hulmo.core.commands import ChangeUv, ChooseParts
from hulmo.core.counted import counted
from hulmo.core.edit import Change
from hulmo.core.errors import HulmoError
from hulmo.core.grey_image import LARGEST
from hulmo.core.ground.marked import CHOSEN
from hulmo.core.image_file import opened_image
from hulmo.core.mesh.corner_table import UV

TOOLS = (
    ("choose", "Choose", "Presses and boxes choose"), ("move", "Move", "Drag what is chosen by its grips"),
    ("turn", "Turn", "Turn what is chosen by its grips"), ("scale", "Scale", "Scale what is chosen by its grips"),
)  # fmt: skip

KINDS = (("charts", "Charts"), ("faces", "Faces"), ("edges", "Edges"), ("vertices", "Vertices"))

UNDER = ((1, "Squares"), (2, "Image…"), (0, "Plain"))

MOST_TEXELS = 4096
"""Texels a side of an image that is shown under the charts; larger ones are shown smaller."""


class UvView(QWidget):
    """Shows the texture coordinates of the active body.

    Signals
    -------
    closed
        The user wants the scene alone.
    alone : bool
        The user wants it without the scene, or beside it.
    image_asked
        The user wants to choose an image to lie under the charts.
    """

    closed = pyqtSignal()
    alone = pyqtSignal(bool)
    image_asked = pyqtSignal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.kind, self.column = "charts", UV
        self.sheet = UvSheet()
        self.sheet.pressed.connect(self._choose)
        self.sheet.boxed.connect(self._choose)
        self.sheet.dragged.connect(self._dragged)
        self.tools: dict[str, QToolButton] = {}
        group = QButtonGroup(self)
        first = QHBoxLayout()
        for name, label, text in TOOLS:
            button = QToolButton()
            button.setText(label)
            button.setCheckable(True)
            button.setToolTip(text)
            button.clicked.connect(lambda _, name=name: self._take(name))
            group.addButton(button)
            first.addWidget(button)
            self.tools[name] = button
        self.tools["choose"].setChecked(True)
        first.addStretch(1)
        self.wide = QToolButton()
        self.wide.setText("Alone")
        self.wide.setCheckable(True)
        self.wide.setToolTip("Without the scene, or beside it")
        self.wide.clicked.connect(lambda on: self.alone.emit(on))
        close = self.close_button = QPushButton("Close")
        close.setToolTip("Back to the scene alone")
        close.clicked.connect(self.closed)
        close.setStyleSheet("padding: 3px 6px;")
        first.addWidget(self.wide)
        first.addWidget(close)
        self.kinds, self.under, self.sets = DropDown(), DropDown(), DropDown()
        for box, name, entries in (
            (self.kinds, "What is worked on", [(label, value) for value, label in KINDS]),
            (self.under, "What lies under the charts", [(label, value) for value, label in UNDER]),
            (self.sets, "Set of texture coordinates", []),
        ):
            box.setAccessibleName(name)
            box.setToolTip(name)
            for label, value in entries:
                box.addItem(label, value)
        self.kinds.activated.connect(lambda _: self._work_on(str(self.kinds.currentData())))
        self.under.activated.connect(lambda _: self._put_under())
        self.sets.activated.connect(lambda _: self._show_set())
        frame = self.frame_button = QPushButton("Frame")
        frame.setToolTip("Show all of it")
        frame.setStyleSheet("padding: 3px 6px;")
        frame.clicked.connect(self.sheet.frame)
        second = QHBoxLayout()
        for box in (self.kinds, self.under, self.sets):
            second.addWidget(box)
        second.addStretch(1)
        second.addWidget(frame)
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setAccessibleName("What is shown of texture coordinates")
        column = QVBoxLayout(self)
        column.setContentsMargins(6, 6, 6, 4)
        column.setSpacing(5)
        for row in (first, second):
            row.setSpacing(4)
            column.addLayout(row)
        column.addWidget(self.sheet, 1)
        column.addWidget(self.told)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self.refresh)
        session.changed.connect(self._changed)
        session.replaced.connect(self._replaced)
        session.settings_changed.connect(self.later)
        session.parts.changed.connect(self._parts_changed)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Show what there is by now."""
        super().showEvent(event)
        self.refresh()
        QTimer.singleShot(0, self.sheet.frame)

    def hideEvent(self, event: QHideEvent | None) -> None:
        """Let go of what was drawn."""
        super().hideEvent(event)
        self.sheet.show_plane(None)

    def later(self) -> None:
        """Show anew, soon."""
        if self.isVisible():
            self._soon.start()

    def refresh(self) -> None:
        """Show the active body's texture coordinates and what is chosen of them."""
        if not self.isVisible():
            return
        body = self._session.body
        names = [] if body is None else [name for name in body.corners.slots.names("corner") if name.startswith(UV)]
        entries = [(name[len(UV) :].strip() or "First set", name) for name in names]
        if entries != [(self.sets.itemText(i), self.sets.itemData(i)) for i in range(self.sets.count())]:
            self.sets.clear()
            for label, name in entries:
                self.sets.addItem(label, name)
            if self.column not in names:
                self.column = UV
            self.sets.setCurrentIndex(max(self.sets.findData(self.column), 0))
            self.sets.setVisible(len(entries) > 1)
        plane = None if body is None else UvPlane.of(body, self.column, self.kind, self.sheet.plane)
        had = self.sheet.plane is not None
        self.sheet.show_plane(
            plane, "" if plane is not None else "No texture coordinates yet: lay them, or unwrap the body."
        )
        if plane is None:
            self.told.setText("")
            return
        if not had:
            self.sheet.frame()
        count = int(plane.chart.max(initial=-1)) + 1
        self.told.setText(f"{counted(count, 'chart')}, {counted(plane.slots.size, 'triangle')}{self._amount(plane)}")

    def show_image(self, path: pathlib.Path) -> None:
        """Lay an image under the charts."""
        try:
            with opened_image(path, ("PNG", "TIFF", "JPEG", "BMP", "WEBP", "TGA"), str(path), LARGEST) as image:
                shown = image.convert("RGB")
                shown.thumbnail((MOST_TEXELS, MOST_TEXELS), Image.Resampling.BOX)
                pixels: NDArray[np.uint8] = np.asarray(shown)
        except HulmoError as error:
            self._session.noticed.emit(str(error))
            self.under.setCurrentIndex(0)
            self.sheet.put_under(None, 1)
            return
        self.sheet.put_under(pixels, 2)

    def _amount(self, plane: UvPlane) -> str:
        if not plane.goes.any():
            return "; nothing chosen"
        if self.kind == "charts":
            return f"; {counted(np.unique(plane.chart[plane.goes.all(axis=1)]).size, 'chart')} chosen"
        if self.kind == "faces":
            return f"; {int(plane.goes.all(axis=1).sum()):,} faces chosen"
        return f"; {np.unique(plane.uv[plane.goes], axis=0).shape[0]:,} places go along"

    def _take(self, name: str) -> None:
        self.sheet.tool = name
        self.sheet.update()

    def _work_on(self, kind: str) -> None:
        self.kind = kind
        if self._session.parts.domain != DOMAINS[kind]:
            self._session.parts.set_value("domain", DOMAINS[kind])
        self.refresh()

    def _parts_changed(self) -> None:
        domain = self._session.parts.domain
        if DOMAINS[self.kind] != domain:
            self.kind = next(kind for kind, of in DOMAINS.items() if of == domain and kind != "charts")
            self.kinds.setCurrentIndex(self.kinds.findData(self.kind))
            self.later()

    def _put_under(self) -> None:
        kind = int(self.under.currentData())
        if kind == 2:
            self.image_asked.emit()
        else:
            self.sheet.put_under(None, kind)

    def _show_set(self) -> None:
        self.column = str(self.sets.currentData())
        self.refresh()

    def _changed(self, change: Change) -> None:
        body = self._session.body
        rows = [(ident, column) for ident, column, _ in change.rows]
        slots = [ident for ident, *_ in change.slots]
        if (
            body is None
            or change.fields
            or body.ident in change.bodies
            or body.ident in slots
            or (body.ident, CHOSEN) in rows
        ):
            self.later()

    def _replaced(self) -> None:
        self.column = UV
        self.later()

    def _choose(self, these: tuple[int, ...], way: str) -> None:
        body = self._session.body
        if body is None or self._session.busy:
            return
        domain = DOMAINS[self.kind]
        if not these:
            if way == "set":
                self._session.do(ChooseParts(body.name, domain, "none"))
            return
        by, name = ("chart", self.column[len(UV) :].strip()) if self.kind == "charts" else ("these", "")
        self._session.do(ChooseParts(body.name, domain, by, way, these, name=name))

    def _dragged(self, values: dict[str, object]) -> None:
        body = self._session.body
        if body is not None and not self._session.busy:
            into = self.column[len(UV) :].strip()
            self._session.do(ChangeUv(body.name, faces=MEANT[self.kind], into=into, **values))  # type: ignore[arg-type]
