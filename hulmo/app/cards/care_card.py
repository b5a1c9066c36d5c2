"""The card of mesh care: what is at fault in the active body, where the worst of it is, and what helps."""

from typing import Any

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.label import Label
from hulmo.app.main_button import MainButton
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.care import CHECKS
from hulmo.core.care.check import Check, Found
from hulmo.core.commands import Command, Cure, Recast, StitchBorders, Weld
from hulmo.core.edit import Change
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import TRIANGLES
from hulmo.core.mesh.placed_corners import placed_corners
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.progress import Progress
from hulmo.core.setting import Value, number

ROW = 26


class CareCard(Card):
    """One row a check. The chosen one is marked in the scene, led to, and cured.

    Signals
    -------
    marked : (K, 3, 3) float32 or None
        Corners of the triangles to be marked in the scene.
    led : (3, 3) float32
        Corners of a triangle to look at.
    """

    KINDS = ("care",)

    marked = pyqtSignal(object)
    led = pyqtSignal(object)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Mesh care", "Looks the chosen body through. Choose a row to see where.", parent)
        self._session = session
        self._found: dict[str, Found] = {}
        self._limits = {check.name: check.limit.default for check in CHECKS.values()}
        self._body: Body | None = None
        self._shown: Found | None = None
        self.look = MainButton("Look through")
        self.look.setToolTip("Search the chosen body for faults; nothing is changed")
        self.look.clicked.connect(self.search)
        self.state = Label()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        self.table = self._make_table()
        self.limit = SettingsStack(theme)
        self.limit.changed.connect(self._limited)
        self.worst = Label()
        self.worst.setWordWrap(True)
        self.lead = QPushButton("Show the worst")
        self.lead.setToolTip("Look at the worst place from close by")
        self.lead.clicked.connect(self._lead)
        self.cure = QPushButton()
        self.cure.clicked.connect(self._cure)
        row = QHBoxLayout()
        row.addWidget(self.lead)
        row.addWidget(self.cure)
        for part in (self.look, self.state, self.table, self.limit, self.worst):
            self.body.addWidget(part)
        self.body.addLayout(row)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.replaced.connect(self._forget)
        session.changed.connect(self._changed)
        session.job_changed.connect(self._show_chosen)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.limit.set_theme(theme)

    @property
    def chosen(self) -> Check:
        """The check whose row is chosen."""
        return list(CHECKS.values())[max(0, self.table.currentRow())]

    def refresh(self) -> None:
        """Be there while mesh care is in hand, and mark nothing otherwise."""
        here = self.seen(self._session)
        self.setVisible(here)
        if here:
            self._fill()
        else:
            self._mark(None)

    def search(self) -> None:
        """Look through the chosen body in a thread."""
        body, limits = self._session.body, dict(self._limits)
        if body is None:
            return
        others = tuple(other for other in self._session.project.bodies if other is not body)

        def work(progress: Progress) -> dict[str, Found]:
            found: dict[str, Found] = {}
            for done, check in enumerate(CHECKS.values()):
                progress.step(done / len(CHECKS), f"looking for {check.label.lower()}")
                part = progress.part(done / len(CHECKS), (done + 1) / len(CHECKS))
                found[check.name] = check.look(body, others, limits[check.name], part)
            return found

        def then(found: Any) -> None:
            self._found, self._body = found, body
            self._fill()

        self._session.start_job(work, then)

    def _make_table(self) -> QTableWidget:
        table = QTableWidget(len(CHECKS), 2)
        table.setAccessibleName("Faults")
        table.setToolTip("What was found; choose a row to see where")
        table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        table.setShowGrid(False)
        table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        table.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        across, down = table.horizontalHeader(), table.verticalHeader()
        assert across is not None and down is not None
        across.hide()
        across.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        across.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        down.hide()
        down.setDefaultSectionSize(ROW)
        for row, check in enumerate(CHECKS.values()):
            name, count = QTableWidgetItem(check.label), QTableWidgetItem("")
            name.setToolTip(check.help)
            count.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            table.setItem(row, 0, name)
            table.setItem(row, 1, count)
        table.setFixedHeight(ROW * len(CHECKS) + 4)
        table.setCurrentCell(0, 0)
        table.currentCellChanged.connect(lambda *_: self._show_chosen())
        return table

    def _fill(self) -> None:
        if self._body is not None and self._body is not self._session.body:
            self._found, self._body = {}, None
        for row, name in enumerate(CHECKS):
            item = self.table.item(row, 1)
            assert item is not None
            item.setText(f"{self._found[name].count:,}" if name in self._found else "–")
        self._show_chosen()

    def _show_chosen(self) -> None:
        if self._session.tool.kind != "care":
            return
        check, body = self.chosen, self._session.body
        found = self._found.get(check.name)
        there = found is not None and found.count > 0
        self.limit.show_settings(check.name, (check.limit,)).set_values({"limit": self._limits[check.name]})
        self.worst.setText(f"Worst: {found.worst}" if there and found is not None else "")
        self.worst.setVisible(there)
        busy = self._session.busy
        self.look.setEnabled(body is not None and not busy)
        self.lead.setEnabled(there and not busy)
        self.cure.setText(check.cure_label)
        self.cure.setToolTip(check.cure_help)
        self.cure.setEnabled(there and not busy)
        total = sum(entry.count for entry in self._found.values())
        text = "" if self._found else "Not looked through since it last changed."
        self.state.setText("Nothing is at fault." if self._found and not total else text)
        self.state.setVisible(bool(self.state.text()))
        self._mark(found if there else None)

    def _mark(self, found: Found | None) -> None:
        # the card hears of every dab and of every step of a job: marks are sent on only when they are others
        if found is not self._shown:
            self._shown = found
            self.marked.emit(None if found is None else self._corners(found))

    def _corners(self, found: Found) -> np.ndarray | None:
        if self._body is None:
            return None
        return placed_corners(self._body, found.triangles)

    def _limited(self, name: str, value: Value) -> None:
        self._limits[self.limit.shown] = number({name: value}, name)
        if self._found.pop(self.limit.shown, None) is not None:
            self._fill()

    def _lead(self) -> None:
        found = self._found.get(self.chosen.name)
        corners = None if found is None else self._corners(found)
        if corners is not None and len(corners):
            self.led.emit(corners[0])

    def _cure(self) -> None:
        body, check = self._session.body, self.chosen
        if body is not None:
            others = tuple(entry.name for entry in self._session.project.bodies if entry.shown and entry is not body)
            self._session.do_long(_cure_of(body, others, check, self._limits[check.name]), self.search)

    def _changed(self, change: Change) -> None:
        moved = {"position", TRIANGLES}
        if change.bodies or "bodies" in change.fields or any(column in moved for _, column, _ in change.rows):
            self._forget()

    def _forget(self) -> None:
        if self._found or self._body is not None:
            self._mark(None)
            self._found, self._body = {}, None
            self.refresh()


def _cure_of(body: Body, others: tuple[str, ...], check: Check, limit: float) -> Command:
    if check.cure == "weld":
        return Weld(body.name, limit)
    if check.cure == "stitch":
        return StitchBorders((body.name, *others), limit)
    if check.cure == "recast":
        return Recast(body.name, max(round(mean_edge(body), 4), 0.0001), "volume")
    return Cure(body.name, check.name, limit)
