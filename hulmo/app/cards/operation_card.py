"""The card of an operation on a whole body: settings, what will come of it, do."""

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.drop_down import DropDown
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.fields.text_field import TextField
from hulmo.app.handwork import HANDWORK
from hulmo.app.label import Label
from hulmo.app.main_button import MainButton
from hulmo.app.operations import OPERATIONS, Operation
from hulmo.app.session import Session
from hulmo.app.theme import Theme


class OperationCard(Card):
    """Settings of an operation and its result before anything is done."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self._session = session
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(lambda *_: self._tell())
        self.other = DropDown()
        self.other.setAccessibleName("Other body")
        self.other.setToolTip("The second body")
        self.other.setMinimumWidth(132)
        self._other_row = QWidget()
        row = QHBoxLayout(self._other_row)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(Label("Other body"), 1)
        row.addWidget(self.other)
        self.result = Label()
        self.result.setObjectName("number")
        self.result.setWordWrap(True)
        self.result.setAccessibleName("Result")
        self.do = MainButton()
        self.do.clicked.connect(self._do)
        for part in (self._other_row, self.stack, self.result, self.do):
            self.body.addWidget(part)
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
        """Show the operation in hand."""
        operation = self._operation()
        self.setVisible(operation is not None)
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
        now = self.other.currentText()
        self.other.clear()
        self.other.addItems([body.name for body in self._session.project.bodies if body is not self._session.body])
        self.other.setCurrentIndex(max(0, self.other.findText(now)))
        self._tell()

    def _operation(self) -> Operation | None:
        tool = self._session.tool
        return {"operation": OPERATIONS, "handwork": HANDWORK}.get(tool.kind, {}).get(tool.name)

    def _tell(self) -> None:
        operation, body = self._operation(), self._session.body
        if operation is None:
            return
        text = "There is no body yet." if body is None else operation.result(body, self.stack.values)
        if body is not None and operation.needs_other and not self.other.count():
            text = "There is no second body in the project."
        self.result.setText(text)
        self.result.setVisible(bool(text))
        there = body is not None and (not operation.needs_other or bool(self.other.count()))
        self.do.setEnabled(there and not self._session.busy)

    def _do(self) -> None:
        operation, body = self._operation(), self._session.body
        if operation is not None and body is not None:
            self._session.do_long(operation.command(body, self.stack.values, self.other.currentText()))
