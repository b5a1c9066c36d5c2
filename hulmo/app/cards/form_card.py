"""The card of the base form in hand: sizes, how large the mesh gets, build."""

from PyQt6.QtWidgets import QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.files import ask_many
from hulmo.app.label import Label
from hulmo.app.main_button import MainButton
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import AddBody
from hulmo.core.commands.add_body import checked_form
from hulmo.core.counted import counted
from hulmo.core.errors import HulmoError
from hulmo.core.mesh.forms import FORMS

LARGE = 1_000_000
"""Vertices above which a form is not built unasked."""


class FormCard(Card):
    """Settings of a base form and its counts before it is built."""

    KINDS = ("form",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("", "", parent)
        self._session = session
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(lambda *_: self._count())
        self.counts = Label()
        self.counts.setObjectName("number")
        self.counts.setWordWrap(True)
        self.counts.setAccessibleName("Counts")
        self.build = MainButton("Build")
        self.build.setToolTip("Add this form as a new body")
        self.build.clicked.connect(self._build)
        self.body.addWidget(self.stack)
        self.body.addWidget(self.counts)
        self.body.addWidget(self.build)
        session.tool_changed.connect(self.refresh)
        session.job_changed.connect(self._count)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.stack.set_theme(theme)

    def refresh(self) -> None:
        """Show the form in hand."""
        tool = self._session.tool
        self.setVisible(self.seen(self._session))
        if tool.kind != "form":
            return
        form = FORMS[tool.name]
        self.stack.show_settings(form.name, form.settings)
        self.set_title(form.label, form.help)
        self._count()

    def _count(self) -> None:
        if not self.stack.shown:
            return
        try:
            _, _, counts = checked_form(self.stack.shown, dict(self.stack.values), "build")
        except HulmoError as error:
            self.counts.setText(str(error).removeprefix("build, "))
            self.build.setEnabled(False)
            return
        quads = f"{counts.quads:,} quads, " if counts.quads else ""
        self.counts.setText(f"{counts.vertices:,} vertices\n{quads}{counts.triangles:,} triangles")
        self.build.setEnabled(not self._session.busy)

    def _build(self) -> None:
        command = AddBody(self.stack.shown, dict(self.stack.values))
        _, _, counts = checked_form(self.stack.shown, dict(self.stack.values), "build")
        if counts.vertices > LARGE:
            what = f"This makes {counted(counts.vertices, 'vertex', 'vertices')}."
            ask_many(self.window() or self, what, lambda: self._session.do_long(command, self._built))
        else:
            self._session.do_long(command, self._built)

    def _built(self) -> None:
        self._session.choose_body(self._session.project.bodies[-1].ident)
