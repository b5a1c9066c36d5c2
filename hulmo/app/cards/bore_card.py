"""The card of Bore: how the passage is drawn, how wide it is, cut."""

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QWidget

from hulmo.app.bore_path import SETTINGS
from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.main_button import MainButton
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import Bore
from hulmo.core.setting import Value, number


class BoreCard(Card):
    """Settings of a passage and the buttons for its path."""

    KINDS = ("bore",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Bore", "Cuts a passage: an arch, a cave.", parent)
        self._session = session
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._changed)
        self.ground = QCheckBox("Walls take the ground in hand")
        self.ground.setToolTip("Otherwise they take what lies where the passage begins")
        self.count = Label()
        self.count.setObjectName("quiet")
        self.count.setWordWrap(True)
        self.cut = MainButton("Bore")
        self.cut.setToolTip("Cut the passage along the points")
        self.cut.clicked.connect(self.bore)
        self.back = QPushButton("Last point back")
        self.back.setToolTip("Take the last point of the path back (Ctrl+Z)")
        self.back.clicked.connect(lambda: session.bore.drop_last())
        self._row = QWidget()
        row = QHBoxLayout(self._row)
        row.setContentsMargins(0, 0, 0, 0)
        self.show_now = QPushButton("Show")
        self.show_now.setToolTip("See the passage as it would be; nothing is kept")
        self.show_now.clicked.connect(self._show)
        row.addWidget(self.cut)
        row.addWidget(self.show_now)
        row.addWidget(self.back)
        for part in (self.panel, self.ground, self.count, self._row):
            self.body.addWidget(part)
        session.tool_changed.connect(self._tool_changed)
        session.job_changed.connect(self.refresh)
        session.bore.changed.connect(self._moved)
        session.bore.completed.connect(self.bore)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show how far the path is."""
        self.setVisible(self.seen(self._session))
        by_path = self._session.bore.values["how"] == "path"
        count = len(self._session.bore.points)
        self._row.setVisible(by_path)
        pending = self._session.preview.pending
        self.cut.setEnabled(count > 1 and (not self._session.busy or pending))
        self.show_now.setEnabled(count > 1 and not self._session.busy)
        self.back.setEnabled(count > 0)
        text = "Press on the body: the passage goes the way you look."
        if by_path:
            text = (
                f"{count} points. An end outside the body is open, an end inside is blind. Drag a point to move it; with "
                "Ctrl it goes nearer or farther."
            )
        self.count.setText(text)

    def bore(self) -> None:
        """Cut the passage."""
        command = self._command()
        if command is None:
            return
        session = self._session
        if session.preview.pending:
            session.preview.keep(command, session.bore.clear)
            return
        session.bore.clear()
        session.do_long(command)

    def _command(self) -> Bore | None:
        session, body = self._session, self._session.body
        if body is None or len(session.bore.points) < 2:
            return None
        values = session.bore.values
        ground = session.project.grounds[session.ground].name if self.ground.isChecked() else ""
        path = tuple((round(float(x), 4), round(float(y), 4), round(float(z), 4)) for x, y, z in session.bore.points)
        return Bore(
            body.name,
            path,
            number(values, "radius"),
            number(values, "irregularity") / 100,
            None,
            ground,
            int(number(values, "seed")),
            rough=number(values, "rough"),
            rough_size=number(values, "rough_size"),
            radii=tuple(session.bore.radii) if len(set(session.bore.radii)) > 1 else (),
        )

    def _show(self) -> None:
        command = self._command()
        if command is not None:
            self._session.preview.show(command)

    def _moved(self) -> None:
        if isinstance(self._session.history.previewed, Bore):  # it is no longer the passage that is drawn
            self._session.preview.drop()
        self.refresh()

    def _changed(self, name: str, value: Value) -> None:
        self._session.bore.values[name] = value
        self._moved()
        if name == "how":
            self._session.bore.clear()

    def _tool_changed(self) -> None:
        self._session.bore.clear()
        self.refresh()
