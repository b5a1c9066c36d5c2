"""The card of an operation on a whole body: settings, what will come of it, do."""

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.cards.relief_card import PAUSE
from hulmo.app.fields.drop_down import DropDown
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.fields.text_field import TextField
from hulmo.app.handwork import HANDWORK
from hulmo.app.label import Label
from hulmo.app.main_button import MainButton
from hulmo.app.operation import Operation
from hulmo.app.operations import OPERATIONS
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import Command
from hulmo.core.counted import counted


class OperationCard(Card):
    """Settings of an operation and its result before anything is done.

    Signals
    -------
    view_asked
        The user wants the settings to follow from how the scene is seen.
    """

    KINDS = ("operation", "handwork")

    view_asked = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self._session = session
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(self._touched)
        self.other = DropDown()
        self.other.setAccessibleName("Other body")
        self.other.setToolTip("The second body")
        self.other.setMinimumWidth(132)
        self._other_row = QWidget()
        row = QHBoxLayout(self._other_row)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(Label("Other body"), 1)
        row.addWidget(self.other)
        self.by_view = QPushButton("By the view")
        self.by_view.setToolTip("A plane that faces you as you look now")
        self.by_view.clicked.connect(self.view_asked)
        self.result = Label()
        self.result.setObjectName("number")
        self.result.setWordWrap(True)
        self.result.setAccessibleName("Result")
        self.do = MainButton()
        self.do.clicked.connect(self._do)
        self.show_now = QPushButton("Show")
        self.show_now.setToolTip("See what would come of it; nothing is kept")
        self.show_now.clicked.connect(self._show)
        self.back = QPushButton("Take back")
        self.back.setToolTip("What is only shown goes again")
        self.back.clicked.connect(self._take_back)
        self.back.hide()
        tries = QHBoxLayout()
        tries.addWidget(self.show_now)
        tries.addWidget(self.back)
        for part in (self._other_row, self.stack, self.by_view, self.result, self.do):
            self.body.addWidget(part)
        self.body.addLayout(tries)
        self._shown: Command | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(PAUSE)
        self._later.timeout.connect(self._show)
        self.other.activated.connect(self._touched)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if change.fields or change.bodies else None)
        session.replaced.connect(self.refresh)
        session.job_changed.connect(self._tell)
        session.changed.connect(lambda change: self._tell() if change.slots or change.rows else None)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.stack.set_theme(theme)

    def refresh(self) -> None:
        """Show the operation in hand; what is only shown of it leaves the card as it is."""
        if self._previewed():
            self._tell()
            return
        self._later.stop()
        self._shown = None
        operation = self._operation()
        self.setVisible(self.seen(self._session))
        if operation is None:
            return
        self.set_title(operation.label, operation.help)
        panel = self.stack.show_settings(operation.name, operation.settings)
        field = panel.fields.get("ground")
        if isinstance(field, TextField):
            field.suggest([ground.name for ground in self._session.project.grounds])
        self.do.setText(operation.label)
        self.do.setToolTip(operation.help)
        self._other_row.setVisible(operation.needs_other)
        self.by_view.setVisible(operation.from_view is not None)
        now = self.other.currentText()
        self.other.clear()
        self.other.addItems([body.name for body in self._session.project.bodies if body is not self._session.body])
        self.other.setCurrentIndex(max(0, self.other.findText(now)))
        self._tell()

    def take_view(self, way: tuple[float, float, float]) -> None:
        """Have the settings follow from the (east, up, north) way toward the eye."""
        operation = self._operation()
        if operation is not None and operation.from_view is not None:
            self.stack.panels[self.stack.shown].set_values(operation.from_view(way))
            self._touched()

    def _operation(self) -> Operation | None:
        tool = self._session.tool
        return {"operation": OPERATIONS, "handwork": HANDWORK}.get(tool.kind, {}).get(tool.name)

    def _previewed(self) -> bool:
        # whether what is shown for now is of this card
        return self._shown is not None and self._session.history.previewed == self._shown

    def _command(self) -> Command | None:
        operation, body = self._operation(), self._session.body
        if operation is None or body is None:
            return None
        return operation.command(body, self.stack.values, self.other.currentText())

    def _touched(self, *_: object) -> None:
        if self._previewed():
            self._later.start()
        self._tell()

    def _show(self) -> None:
        self._shown = self._command()
        if self._shown is not None:
            self._session.preview.show(self._shown)

    def _take_back(self) -> None:
        self._later.stop()
        self._session.preview.drop()

    def _tell(self) -> None:
        operation, body, previewed = self._operation(), self._session.body, self._previewed()
        self.back.setVisible(previewed)
        self.show_now.setVisible(not previewed)
        if operation is None:
            return
        text = "There is no body yet." if body is None else operation.result(body, self.stack.values)
        if body is not None and operation.needs_other and not self.other.count():
            text = "There is no second body in the project."
        if previewed and body is not None:
            text = f"Only shown: {counted(body.corners.live_count, 'triangle')}. {operation.label} keeps it."
        self.result.setText(text)
        self.result.setVisible(bool(text))
        there = body is not None and (not operation.needs_other or bool(self.other.count()))
        busy = self._session.busy and not self._session.preview.pending
        self.do.setEnabled(there and not busy)
        self.show_now.setEnabled(there and not self._session.busy)

    def _do(self) -> None:
        command = self._shown if self._previewed() and not self._later.isActive() else self._command()
        if command is None:
            return
        self._later.stop()
        if self._session.preview.pending:
            self._session.preview.keep(command, lambda: None)
        else:
            self._session.do_long(command)
