"""The heading: project and file, how to look at the scene, undo and redo."""

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QMenu, QToolButton, QWidget

from hulmo.app.icons import icon
from hulmo.app.label import Label, plain_tip
from hulmo.app.recent_files import recent_files
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.render.looks import LOOKS

MOST_STEPS = 24
"""Steps that the list of the history shows around the present one."""

COMPACT, SMALL = 1240, 1010
"""Pixels; a narrower heading leaves out the words of the file buttons, and then those of the other icons."""

NAME = 130
"""Pixels of the name."""

NARROWEST = 720
"""Pixels to which it can be drawn together."""

MORE = "Looks that measure the shape and the paint on it, and that show what is delivered"


class Heading(QWidget):
    """Top of the window.

    Signals
    -------
    look_chosen : str
    asked : str
        "new", "open", "save", "save_as", "frame" or "night".
    inside_turned : bool
        Section plane and lamp are wanted, or not.
    figure_turned : bool
        The scale figure is to be placed, or to go.
    recent_chosen : str
        Path of a file opened before.
    """

    look_chosen = pyqtSignal(str)
    asked = pyqtSignal(str)
    recent_chosen = pyqtSignal(str)
    inside_turned = pyqtSignal(bool)
    figure_turned = pyqtSignal(bool)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("heading")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(46)
        self.setMinimumWidth(NARROWEST)
        self._session = session
        self._name = Label()
        self._name.setObjectName("title")
        self._name.setFixedWidth(NAME)  # so that the buttons keep their places whatever it says
        self._state = Label()
        self._state.setObjectName("quiet")
        self.buttons: dict[str, QToolButton] = {}
        self.looks: dict[str, QToolButton] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 10, 0)
        row.setSpacing(3)
        row.addWidget(self._name)
        row.addSpacing(6)
        row.addWidget(self._state)
        row.addSpacing(10)
        for name, label, text, key in (
            ("new", "New", "Start an empty project", "Ctrl+N"),
            ("open", "Open", "Open a project", "Ctrl+O"),
            ("save", "Save", "Save the project", "Ctrl+S"),
            ("save_as", "Save as", "Save under another name", "Ctrl+Shift+S"),
        ):
            row.addWidget(self._button(name, label, text, key))
        recent = QMenu(self)
        recent.aboutToShow.connect(lambda: self._fill_recent(recent))
        self.buttons["open"].setMenu(recent)
        self.buttons["open"].setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        row.addStretch(1)
        group = QButtonGroup(self)
        for look in LOOKS.values():
            if look.in_menu:
                continue
            button = QToolButton()
            button.setText(look.label)
            button.setCheckable(True)
            button.setChecked(look.name == "lit")
            button.setAccessibleName(f"Look {look.label}")
            button.setToolTip(f"{look.help} ({look.key})")
            button.clicked.connect(lambda _, name=look.name: self.look_chosen.emit(name))
            group.addButton(button)
            self.looks[look.name] = button
            row.addWidget(button)
        self.measures = self._more_button()
        group.addButton(self.measures)
        row.addWidget(self.measures)
        row.addWidget(self._inside_button())
        row.addWidget(self._figure_button())
        row.addStretch(1)
        row.addWidget(self._button("frame", "Frame", "Show all of it", "Home"))
        rule = QFrame()
        rule.setFixedSize(1, 22)
        rule.setObjectName("rule")
        row.addWidget(self._button("undo", "Undo", "Take the last step back", "Ctrl+Z"))
        row.addWidget(self._button("redo", "Redo", "Do the step again", "Ctrl+Shift+Z"))
        row.addWidget(rule)
        row.addWidget(self._button("night", "Night", "Day or night theme", "F9"))
        steps = QMenu(self)
        steps.aboutToShow.connect(lambda: self._fill_steps(steps))
        self.buttons["undo"].setMenu(steps)
        self.buttons["undo"].setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        self.buttons["undo"].clicked.connect(session.undo)
        self.buttons["redo"].clicked.connect(session.redo)
        self.set_theme(theme)
        session.saved_changed.connect(self.refresh)
        session.job_changed.connect(self.refresh)
        session.tool_changed.connect(self.refresh)
        session.bore.changed.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Draw together where the window is narrow."""
        super().resizeEvent(event)
        compact = self.width() < COMPACT
        small = self.width() < SMALL
        if (compact, small) != (self.property("compact"), self.property("small")):
            self.setProperty("compact", compact)
            self.setProperty("small", small)
            for name, button in self.buttons.items():
                bare = compact if name in ("new", "open", "save", "save_as") else small
                words = Qt.ToolButtonStyle.ToolButtonIconOnly if bare else Qt.ToolButtonStyle.ToolButtonTextBesideIcon
                button.setToolButtonStyle(words)
            for widget in (self, *self.buttons.values(), *self.looks.values()):
                style = widget.style()
                assert style is not None
                style.polish(widget)
            self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw icons in other colours."""
        for name, button in self.buttons.items():
            button.setIcon(icon("sun" if name == "night" and theme.name == "night" else name, theme))
        self.buttons["night"].setText("Day" if theme.name == "night" else "Night")

    def refresh(self) -> None:
        """Show name, saved state, and what can be undone."""
        session = self._session
        text = session.project.name if session.path is None else session.path.stem
        self._name.setText(self._name.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, NAME))
        state = "unsaved" if session.unsaved else ("saved" if session.path else "")
        self._state.setToolTip(state)
        self._state.setFixedWidth(12 if self.property("compact") else 52)
        self._state.setText(("•" if session.unsaved else "") if self.property("compact") else state)
        for name, label, verb in (
            ("undo", session.undo_label, "Take back"),
            ("redo", session.redo_label, "Do again"),
        ):
            # the list of steps hangs on Undo, so that button stays on while anything can be jumped to
            there = bool(label) or (name == "undo" and bool(session.history.redo_label))
            self.buttons[name].setEnabled(there and not session.busy)
            key = "Ctrl+Z" if name == "undo" else "Ctrl+Shift+Z"
            self.buttons[name].setToolTip(plain_tip(f"{verb}: {label or 'nothing'} ({key})"))
        self.figure.setChecked(session.project.figure is not None or session.once == "figure")
        for name in ("new", "open", "save", "save_as"):
            self.buttons[name].setEnabled(not session.busy)

    def show_look(self, name: str) -> None:
        """Mark the look that is shown."""
        look = LOOKS[name]
        (self.measures if look.in_menu else self.looks[name]).setChecked(True)
        self.measures.setText(look.label.split(" ")[0] if look.in_menu else "More")
        self.measures.setToolTip(look.label if look.in_menu else MORE)

    def _inside_button(self) -> QToolButton:
        self.inside = QToolButton()
        self.inside.setText("Inside")
        self.inside.setCheckable(True)
        self.inside.setAccessibleName("See inside")
        self.inside.setToolTip("Section plane and lamp at the eye, to see inside bodies (9)")
        self.inside.toggled.connect(self.inside_turned)
        return self.inside

    def _figure_button(self) -> QToolButton:
        self.figure = QToolButton()
        self.figure.setText("Figure")
        self.figure.setCheckable(True)
        self.figure.setAccessibleName("Scale figure")
        self.figure.setToolTip(
            "Stand a person of 1.8 m on the ground, to judge size by; press again to take it away (C)"
        )
        self.figure.clicked.connect(self.figure_turned)
        return self.figure

    def _more_button(self) -> QToolButton:
        button = QToolButton()
        button.setText("More")
        button.setCheckable(True)
        button.setAccessibleName("More looks")
        button.setToolTip(MORE)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        menu.setToolTipsVisible(True)
        for title, chosen in (
            ("Shape", [look for look in LOOKS.values() if look.measure and not look.weighted]),
            ("Grounds", [look for look in LOOKS.values() if look.measure and look.weighted and not look.by_uv]),
            ("Texture coordinates", [look for look in LOOKS.values() if look.by_uv]),
            ("What is delivered", [look for look in LOOKS.values() if look.plain_figures]),
        ):
            menu.addSection(title)
            for look in chosen:
                action = menu.addAction(f"{look.label}\t{look.key}")
                assert action is not None
                action.setToolTip(look.help)
                action.triggered.connect(lambda _, name=look.name: self.look_chosen.emit(name))
        button.setMenu(menu)
        return button

    def _button(self, name: str, label: str, text: str, key: str) -> QToolButton:
        button = QToolButton()
        button.setText(label)
        button.setIconSize(QSize(18, 18))
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        button.setAccessibleName(label)
        button.setToolTip(f"{text} ({key})")
        if name not in ("undo", "redo"):
            button.clicked.connect(lambda: self.asked.emit(name))
        self.buttons[name] = button
        return button

    def _fill_steps(self, menu: QMenu) -> None:
        menu.clear()
        labels, done = self._session.history.labels
        first = max(0, min(done - MOST_STEPS // 2, len(labels) - MOST_STEPS))
        for count in range(first, min(len(labels), first + MOST_STEPS) + 1):
            action = menu.addAction(labels[count - 1] if count else "As it was at first")
            assert action is not None
            action.setCheckable(True)
            action.setChecked(count == done)
            action.triggered.connect(lambda _, count=count: self._session.jump(count))

    def _fill_recent(self, menu: QMenu) -> None:
        menu.clear()
        files = recent_files()
        for path in files:
            action = menu.addAction(f"{path.stem}   {path.parent}")
            assert action is not None
            action.triggered.connect(lambda _, path=path: self.recent_chosen.emit(str(path)))
        if not files:
            action = menu.addAction("Nothing opened before")
            assert action is not None
            action.setEnabled(False)
