"""The card of the project's bodies: which one brushes act on, subdivide, remove."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.session import Session
from hulmo.core.commands import LockBorder, RemoveBody, Subdivide

ROW = 26


class BodyCard(Card):
    """List of bodies; the chosen one is the active one."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Bodies", "Brushes act on the chosen one only.", parent)
        self._session = session
        self.list = QListWidget()
        self.list.setAccessibleName("Bodies")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._chosen)
        self.subdivide = QPushButton("Subdivide")
        self.subdivide.setToolTip("Split every triangle of the chosen body in four; the shape stays")
        self.subdivide.clicked.connect(self._subdivide)
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("Remove the chosen body; undo brings it back")
        self.remove.clicked.connect(self._remove)
        self.lock = QCheckBox("Lock border")
        self.lock.setToolTip(
            "No shaping brush moves the outer edge of this open body, so that it still fits its neighbour"
        )
        self.lock.clicked.connect(self._lock)
        row = QHBoxLayout()
        row.addWidget(self.subdivide)
        row.addWidget(self.remove)
        self.body.addWidget(self.list)
        self.body.addWidget(self.lock)
        self.body.addLayout(row)
        session.replaced.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if change.fields or change.bodies else None)
        session.settings_changed.connect(self._mark)
        session.tool_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what bodies there are."""
        bodies = self._session.project.bodies
        self.setVisible(self._session.stage.name == "block" and bool(bodies))
        self.list.blockSignals(True)
        self.list.clear()
        for body in bodies:
            item = QListWidgetItem(f"{body.name}   {body.corners.live_count:,} triangles")
            item.setData(Qt.ItemDataRole.UserRole, body.ident)
            self.list.addItem(item)
        self.list.setFixedHeight(ROW * max(1, min(4, len(bodies))) + 6)
        self.list.blockSignals(False)
        self._mark()

    def _mark(self) -> None:
        active = self._session.body
        self.lock.setVisible(active is not None and active.corners.border_corners().size > 0)
        self.lock.setChecked(active is not None and active.border_lock)
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None and active is not None and item.data(Qt.ItemDataRole.UserRole) == active.ident:
                self.list.blockSignals(True)
                self.list.setCurrentRow(row)
                self.list.blockSignals(False)

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._session.choose_body(int(item.data(Qt.ItemDataRole.UserRole)))

    def _subdivide(self) -> None:
        if self._session.body is not None:
            self._session.do_long(Subdivide(self._session.body.name))

    def _lock(self, on: bool) -> None:
        if self._session.body is not None:
            self._session.do(LockBorder(self._session.body.name, on))

    def _remove(self) -> None:
        if self._session.body is not None:
            self._session.do(RemoveBody(self._session.body.name))
