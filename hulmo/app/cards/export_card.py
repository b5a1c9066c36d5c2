"""The card of an exchange format."""

import pathlib

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.label import Label, plain_tip
from hulmo.app.main_button import MainButton
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.io.exporters import EXPORTERS


class ExportCard(Card):
    """Settings of the format in hand and the button that writes the file.

    Signals
    -------
    asked : str
        The user wants a file with this ending; whoever listens finds a name and calls `write`.
    """

    KINDS = ("export",)

    asked = pyqtSignal(str)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self._session = session
        self.stack = SettingsStack(theme)
        self.button = MainButton("Export…")
        self.button.clicked.connect(lambda: self.asked.emit(self._session.tool.name))
        self.again = QPushButton("Export again")
        self.again.setToolTip("Write over the file that was written last")
        self.again.clicked.connect(self._again)
        self.again.hide()
        self._written: dict[str, pathlib.Path] = {}
        self.result = Label()
        self.result.setObjectName("quiet")
        self.result.setWordWrap(True)
        self.body.addWidget(self.stack)
        self.body.addWidget(self.button)
        self.body.addWidget(self.again)
        self.body.addWidget(self.result)
        session.tool_changed.connect(self.refresh)
        session.replaced.connect(self._replaced)
        session.job_changed.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.stack.set_theme(theme)

    def _replaced(self) -> None:
        self._written.clear()
        self.result.setText("")
        self.refresh()

    def refresh(self) -> None:
        """Show the format in hand."""
        tool = self._session.tool
        self.setVisible(self.seen(self._session))
        if tool.kind != "export":
            return
        exporter = EXPORTERS[tool.name]
        self.stack.show_settings(exporter.ending, exporter.settings)
        self.set_title(exporter.label, exporter.help)
        self.button.setText(f"Export .{exporter.ending}…")
        self.button.setToolTip(f"Write the project as .{exporter.ending}")
        last = self._written.get(exporter.ending)
        self.again.setVisible(last is not None)
        if last is not None:
            self.again.setText(f"Export again to {last.name}")
            self.again.setToolTip(plain_tip(f"Write over {last}"))
            self.again.setEnabled(bool(self._session.project.bodies) and not self._session.busy)
        self.button.setEnabled(bool(self._session.project.bodies) and not self._session.busy)

    def _again(self) -> None:
        self.write(self._written[EXPORTERS[self._session.tool.name].ending])

    def write(self, path: pathlib.Path) -> None:
        """Write the file in a thread."""
        exporter = EXPORTERS[self._session.tool.name]
        values = self.stack.values
        project = self._session.project
        self.result.setText("")

        def done(_: object) -> None:
            self._written[exporter.ending] = path
            self.refresh()
            self.result.setText(f"Wrote {path.name}, {path.stat().st_size / 1e6:,.1f} MB, to {path.parent}")

        self._session.preview.settle(
            lambda: self._session.start_job(lambda progress: exporter.write(project, path, values, progress), done)
        )
