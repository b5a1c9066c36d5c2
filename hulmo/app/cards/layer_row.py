"""One entry of a list that can be hidden and locked: eye, name, a word about it, lock."""

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from hulmo.app.icons import icon
from hulmo.app.label import Label, plain_tip
from hulmo.app.theme import Theme


class LayerRow(QWidget):
    """Shows a relief layer or a body; without a `shown` it has neither eye nor lock.

    Signals
    -------
    eye_pressed, lock_pressed
    """

    eye_pressed = pyqtSignal()
    lock_pressed = pyqtSignal()

    def __init__(
        self, name: str, detail: str, shown: bool | None, locked: bool, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        title = Label(name)
        line = QHBoxLayout(self)
        line.setContentsMargins(2, 0, 6, 0)
        line.setSpacing(4)
        self._picture = Label("")
        self._picture.hide()
        if shown is None:
            line.addSpacing(27)
            line.addWidget(title, 1)
            return
        eye = self._button("eye" if shown else "eye_off", f"{'Hide' if shown else 'Show'} {name}", theme)
        lock = self._button("lock" if locked else "lock_off", f"{'Unlock' if locked else 'Lock'} {name}", theme)
        eye.clicked.connect(self.eye_pressed)
        lock.clicked.connect(self.lock_pressed)
        self._lock = lock
        self._word = word = Label(detail)
        word.setObjectName("quiet")
        title.setEnabled(shown)
        line.addWidget(eye)
        line.addWidget(self._picture)
        line.addWidget(title, 1)
        line.addWidget(word)
        line.addWidget(lock)

    def show_picture(self, picture: QPixmap) -> None:
        """Show a small picture of it before the name, in place of the word."""
        self._word.hide()
        self._picture.setPixmap(picture)
        self._picture.show()

    def hide_lock(self) -> None:
        """Show no lock: what is listed has none."""
        self._lock.hide()

    def _button(self, name: str, text: str, theme: Theme) -> QToolButton:
        button = QToolButton()
        button.setIcon(icon(name, theme))
        button.setIconSize(QSize(16, 16))
        button.setFixedSize(23, 22)
        button.setStyleSheet("padding: 0;")
        button.setToolTip(plain_tip(text))
        button.setAccessibleName(text)
        return button
