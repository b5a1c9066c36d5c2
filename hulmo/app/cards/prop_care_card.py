"""The card that finds props at fault and puts them right."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QToolButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.number_field import NumberField
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import CureProps
from hulmo.core.mesh.strewn import Strewn
from hulmo.core.progress import Progress
from hulmo.core.props.around import corners_around
from hulmo.core.props.faults import KINDS, STEEPEST, faults_of
from hulmo.core.props.tray import tray_of
from hulmo.core.setting import Number

LIMIT = Number(
    "steepest", "Lean at the most", "°", 0.0, 90.0, STEEPEST, "How far a prop may lean away from straight up."
)

CURES = {
    "floats": ("Sink", "Sink each until its rim meets the ground"),
    "buried": ("Raise", "Set each on its foot"),
    "leans": ("Raise up", "Stand each straight up"),
    "overlaps": ("Thin out", "Take away what stands in another"),
    "wet": ("Take away", "Take away what stands in water"),
}


class PropCareCard(Card):
    """Counts what floats, is buried, leans, overlaps or stands in water.

    Signals
    -------
    marked : object
        (K, 3, 3) corners of triangles that show where; None for none.
    """

    KINDS = ("prop care",)

    marked = pyqtSignal(object)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Prop care", "What floats, is buried, leans, overlaps or stands in water.", parent)
        self._session = session
        self._found: dict[str, NDArray[np.bool_]] = {}
        self._of: Strewn | None = None
        self.look = QPushButton("Look")
        self.look.setToolTip("Look through all props of the active body")
        self.look.clicked.connect(self._look)
        self.limit = NumberField(LIMIT, theme)
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.told.setAccessibleName("What is wrong with props")
        self.body.addWidget(self.limit)
        self.body.addWidget(self.look)
        self.body.addWidget(self.told)
        grid = QGridLayout()
        grid.setSpacing(5)
        self.counts: dict[str, Label] = {}
        self.cures: dict[str, QPushButton] = {}
        self.shows: dict[str, QToolButton] = {}
        for row, (name, label) in enumerate(KINDS.items()):
            self.counts[name] = Label(label)
            self.shows[name] = QToolButton()
            self.shows[name].setText("Show")
            self.shows[name].setToolTip(f"Mark what is {label.lower()} in the scene")
            self.shows[name].setAccessibleName(f"Show {label.lower()}")
            self.shows[name].clicked.connect(lambda _, name=name: self._show(name))
            self.cures[name] = QPushButton(CURES[name][0])
            self.cures[name].setToolTip(CURES[name][1])
            self.cures[name].setAccessibleName(f"{CURES[name][0]}: {label.lower()}")
            self.cures[name].clicked.connect(lambda _, name=name: self._cure(name))
            for column, part in enumerate((self.counts[name], self.shows[name], self.cures[name])):
                grid.addWidget(part, row, column)
        grid.setColumnStretch(0, 1)
        self.body.addLayout(grid)
        session.tool_changed.connect(self._begin)
        session.replaced.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if "body strewn" in change.fields else None)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.limit.set_theme(theme)

    def refresh(self) -> None:
        """Show what was found, where that still holds."""
        self.setVisible(self.seen(self._session))
        strewn = self._session.props.strewn
        known = self._of is strewn
        count = int(strewn.there.sum())
        if not count:
            self.told.setText("No props stand on this body.")
        elif not known:
            self.told.setText(f"{count:,} props. Press Look.")
        else:
            wrong = sum(int(mask.sum()) for mask in self._found.values())
            self.told.setText(f"{count:,} props, {wrong:,} faults." if wrong else f"{count:,} props, nothing found.")
        for name, label in KINDS.items():
            found = int(self._found[name].sum()) if known and name in self._found else 0
            self.counts[name].setText(f"{label}: {found:,}" if known else label)
            self.shows[name].setEnabled(found > 0)
            self.cures[name].setEnabled(found > 0)

    def _begin(self) -> None:
        if self._session.tool.kind != "prop care":
            self.marked.emit(None)
        self.refresh()

    def _look(self) -> None:
        session, body = self._session, self._session.body
        if body is None or body.strewn is None:
            return
        strewn, limit = body.strewn, self.limit.value
        tray = tray_of(session.project.props, session.project.prop_meshes)

        def work(progress: Progress) -> Any:
            return faults_of(body, strewn, tray, limit, progress)[0]

        def then(found: Any) -> None:
            self._found, self._of = found, strewn
            self.refresh()

        session.start_job(work, then)

    def _show(self, name: str) -> None:
        body = self._session.body
        strewn = self._session.props.strewn
        if body is not None and self._of is strewn:
            rows = np.flatnonzero(self._found[name])
            self.marked.emit(corners_around(body, strewn.taken(rows)))

    def _cure(self, name: str) -> None:
        body = self._session.body
        if body is not None:
            self.marked.emit(None)
            self._session.do_long(CureProps(body.name, name, self.limit.value), self._look)
