"""The base of the cards whose files are written by a process."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QProgressBar, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.main_button import MainButton
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.setting import Setting, Values, complete


class FilesCard(Card):
    """Settings, the button that begins, how far it has come, and what came of it.

    Whoever derives from it puts the parts into the card by `lay_below`, and fills in `refresh`.

    Signals
    -------
    asked, stopped
        The user wants files; none any more.
    """

    asked = pyqtSignal()
    stopped = pyqtSignal()

    def __init__(
        self, title: str, text: str, settings: tuple[Setting, ...], session: Session, theme: Theme,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(title, text, parent)
        self._session = session
        self.values: Values = complete(settings, {}, title.lower())
        self.panel = SettingsPanel(settings, theme)
        self.panel.changed.connect(self._set)
        self.begin = MainButton()
        self.begin.clicked.connect(self.asked)
        self.bar = QProgressBar()
        self.bar.setAccessibleName("How much is done")
        self.bar.setRange(0, 1000)
        self.bar.hide()
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Stop; files that are complete stay")
        self.stop.clicked.connect(self.stopped)
        self.stop.hide()
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.told.hide()
        for done in (session.tool_changed, session.replaced, session.job_changed):
            done.connect(self.refresh)

    def lay_below(self, *between: QWidget) -> None:
        """Put settings, button, other widgets, progress and outcome below what the card holds already."""
        for part in (self.panel, self.begin, *between, self.bar, self.stop, self.told):
            self.body.addWidget(part)

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    @property
    def running(self) -> bool:
        """Whether files are being written."""
        return self.bar.isVisibleTo(self)

    def refresh(self) -> None:
        """Show what can be done."""
        raise NotImplementedError

    def show_progress(self, share: float | None) -> None:
        """How much is done; None: nothing is under way."""
        self.bar.setVisible(share is not None)
        self.stop.setVisible(share is not None)
        self.bar.setValue(round(1000 * (share or 0.0)))
        if share is not None:
            self.tell("")
        self.refresh()

    def tell(self, text: str) -> None:
        """Say what came of it."""
        self.told.setText(text)
        self.told.setVisible(bool(text))

    def _set(self, name: str, value: object) -> None:
        self.values = {**self.values, name: value}  # type: ignore[dict-item]
        self.refresh()
