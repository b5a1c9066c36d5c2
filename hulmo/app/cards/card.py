"""A card: a title that folds, one line of help, and what it holds."""

from typing import ClassVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme


class Card(QFrame):
    """A foldable card. Put widgets into `body`.

    Attributes
    ----------
    KINDS : tuple of str
        Kinds of tools with which it is shown; a card that hangs on more than that says so in `seen`.
    """

    KINDS: ClassVar[tuple[str, ...]] = ()

    def __init__(self, title: str, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self._title = Label(title)
        self._title.setObjectName("cardtitle")
        self._text = Label(text)
        self._text.setObjectName("quiet")
        self._text.setWordWrap(True)
        self._text.setVisible(bool(text))
        self._fold = QToolButton()
        self._fold.setArrowType(Qt.ArrowType.DownArrow)
        self._fold.setFixedSize(22, 22)
        self._fold.setStyleSheet("padding: 0;")
        self._fold.clicked.connect(self._toggle)
        self.corner = QHBoxLayout()
        self.corner.setSpacing(0)
        head = QHBoxLayout()
        head.setSpacing(2)
        head.addWidget(self._title, 1)
        head.addLayout(self.corner)
        head.addWidget(self._fold)
        self._inside = QWidget()
        self.body = QVBoxLayout(self._inside)
        self.body.setContentsMargins(0, 2, 0, 0)
        self.body.setSpacing(5)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 12, 8)
        column.setSpacing(2)
        column.addLayout(head)
        column.addWidget(self._text)
        column.addWidget(self._inside)
        self.set_title(title, text)

    def set_title(self, title: str, text: str = "") -> None:
        """Another title and help line."""
        self._title.setText(title)
        self._text.setText(text)
        self._text.setVisible(bool(text) and self._inside.isVisibleTo(self))
        self._fold.setAccessibleName(f"Fold {title}")
        self._fold.setToolTip("Fold this card")

    @classmethod
    def seen(cls, session: Session) -> bool:
        """Whether it is shown with what is in hand."""
        return session.tool.kind in cls.KINDS

    def set_theme(self, theme: Theme) -> None:
        """Draw icons and rulers in other colours."""

    def _toggle(self) -> None:
        open_now = not self._inside.isVisibleTo(self)
        self._inside.setVisible(open_now)
        self._text.setVisible(open_now and bool(self._text.text()))
        self._fold.setArrowType(Qt.ArrowType.DownArrow if open_now else Qt.ArrowType.RightArrow)
