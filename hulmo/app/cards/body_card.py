"""The card of the project's bodies: which one brushes act on, eye and lock, name, duplicate, remove."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.cards.layer_row import LayerRow
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import ChangeBody, DuplicateBody, LockBorder, RemoveBody
from hulmo.core.counted import counted

ROW = 26
MOST_ROWS = 5


class BodyCard(Card):
    """List of bodies; the chosen one is the active one."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Bodies", "Brushes act on the chosen one.", parent)
        self._session = session
        self._theme = theme
        self.list = QListWidget()
        self.list.setAccessibleName("Bodies")
        self.list.setToolTip("The bodies of the project; brushes work on the chosen one")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._chosen)
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the chosen body")
        self.name.setToolTip("Name of the chosen body")
        self.name.editingFinished.connect(self._renamed)
        self.lock = QCheckBox("Lock border")
        self.lock.setToolTip(
            "No shaping brush moves the outer edge of this open body, so that it still fits its neighbour"
        )
        self.lock.clicked.connect(self._lock)
        self.duplicate = QPushButton("Duplicate")
        self.duplicate.setToolTip("Put a copy of the chosen body beside it")
        self.duplicate.clicked.connect(self._duplicate)
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("Remove the chosen body; undo brings it back")
        self.remove.clicked.connect(self._remove)
        row = QHBoxLayout()
        row.addWidget(self.duplicate)
        row.addWidget(self.remove)
        for part in (self.list, self.name, self.lock):
            self.body.addWidget(part)
        self.body.addLayout(row)
        session.replaced.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if change.fields or change.bodies else None)
        session.settings_changed.connect(self._mark)
        session.tool_changed.connect(self.refresh)
        self.refresh()

    @classmethod
    def seen(cls, session: Session) -> bool:
        """Whether it is shown with what is in hand."""
        return session.stage.name == "block" and bool(session.project.bodies)

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Show what bodies there are."""
        bodies = self._session.project.bodies
        self.setVisible(self.seen(self._session))
        self.list.blockSignals(True)
        self.list.clear()
        for body in bodies:
            item = QListWidgetItem()
            item.setSizeHint(QSize(0, ROW))
            item.setData(Qt.ItemDataRole.UserRole, body.ident)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, body.name)
            row = LayerRow(
                body.name, counted(body.corners.live_count, "triangle"), body.shown, body.locked, self._theme
            )
            row.eye_pressed.connect(lambda body=body: self._session.do(ChangeBody(body.name, shown=not body.shown)))
            row.lock_pressed.connect(lambda body=body: self._session.do(ChangeBody(body.name, locked=not body.locked)))
            self.list.addItem(item)
            self.list.setItemWidget(item, row)
        self.list.setFixedHeight(ROW * max(1, min(MOST_ROWS, len(bodies))) + 4)
        self.list.blockSignals(False)
        self._mark()

    def _mark(self) -> None:
        active = self._session.body
        self.lock.setVisible(active is not None and active.corners.border_corners().size > 0)
        self.lock.setChecked(active is not None and active.border_lock)
        if active is not None and not self.name.hasFocus():
            self.name.setText(active.name)
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None and active is not None and item.data(Qt.ItemDataRole.UserRole) == active.ident:
                self.list.blockSignals(True)
                self.list.setCurrentRow(row)
                self.list.blockSignals(False)

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._session.choose_body(int(item.data(Qt.ItemDataRole.UserRole)))

    def _renamed(self) -> None:
        body, text = self._session.body, self.name.text().strip()
        if body is not None and text and text != body.name:
            self._session.do(ChangeBody(body.name, name=text))
        if body is not None:
            self.name.setText(body.name)

    def _duplicate(self) -> None:
        body = self._session.body
        if body is not None:
            bounds = body.bounds()
            aside = 1.1 * float(bounds.high[0] - bounds.low[0])
            if self._session.do(DuplicateBody(body.name, move=(aside, 0.0, 0.0))):
                self._session.choose_body(self._session.project.bodies[-1].ident)

    def _lock(self, on: bool) -> None:
        if self._session.body is not None:
            self._session.do(LockBorder(self._session.body.name, on))

    def _remove(self) -> None:
        if self._session.body is not None:
            self._session.do(RemoveBody(self._session.body.name))
