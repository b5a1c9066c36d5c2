"""Finding any tool, look or command by typing a word of what it does."""

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from hulmo.app.icons import icon
from hulmo.app.theme import Theme

MOST = 9
"""Rows that are shown."""

WIDTH, ROW = 430, 26
"""Pixels."""


@dataclass(frozen=True)
class Found:
    """Something that can be found.

    Attributes
    ----------
    ident : str
        A name no other one has.
    label, where, help, icon : str
    act : callable
        Does it, or takes it in hand.
    """

    ident: str
    label: str
    where: str
    help: str
    icon: str
    act: Callable[[], object]


def ranked(entries: list[Found], text: str, recent: list[str]) -> list[Found]:
    """Entries that have all words of a text, the likeliest first; with no text, those used last.

    A word counts most where the label begins with it, less where a word of the label does, least within the help. What was
    used last comes first among equals.
    """
    words = text.lower().split()
    if not words:
        by_ident = {entry.ident: entry for entry in entries}
        return [by_ident[ident] for ident in recent if ident in by_ident]
    scored = []
    for place, entry in enumerate(entries):
        label, rest = entry.label.lower(), f"{entry.help} {entry.where} {entry.ident}".lower()
        score = 1000 if label == " ".join(words) else 0
        for word in words:
            if label.startswith(word):
                score += 100
            elif any(part.startswith(word) for part in label.replace("/", " ").split()):
                score += 60
            elif word in label:
                score += 30
            elif any(part.startswith(word) for part in rest.split()):
                score += 10
            elif word in rest:
                score += 3
            else:
                break
        else:
            late = recent.index(entry.ident) if entry.ident in recent else len(recent) + 1
            scored.append((-score, late, place, entry))
    return [entry for *_, entry in sorted(scored, key=lambda row: row[:3])]


class Finder(QFrame):
    """A field over the window with a list under it; Return takes the first, Escape puts it away.

    Parameters
    ----------
    entries : list of Found
    theme : Theme
    parent : QWidget
        The window.
    """

    def __init__(self, entries: list[Found], theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("finder")
        self._entries, self._theme = entries, theme
        self.recent: list[str] = []
        self.field = QLineEdit()
        self.field.setPlaceholderText("Find a tool, a look or a command")
        self.field.setAccessibleName("Find")
        self.field.setToolTip("Type a word of what you want to do")
        self.field.textChanged.connect(self._show)
        self.field.installEventFilter(self)
        self.list = QListWidget()
        self.list.setAccessibleName("Found")
        self.list.setToolTip("Return or a press takes the one that is marked")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(self._take)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 10, 10, 10)
        column.setSpacing(6)
        column.addWidget(self.field)
        column.addWidget(self.list)
        self.hide()

    def set_theme(self, theme: Theme) -> None:
        """Draw icons in other colours."""
        self._theme = theme

    def note(self, ident: str) -> None:
        """Something was used."""
        self.recent = [ident, *(other for other in self.recent if other != ident)][:MOST]

    def open(self) -> None:
        """Show it, with what was used last."""
        top = self.parentWidget()
        assert top is not None
        self.field.clear()
        self._show("")
        self.move((top.width() - self.width()) // 2, 70)
        self.show()
        self.raise_()
        self.field.setFocus()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Keys of the field that go to the list; it goes away when the field loses the keyboard."""
        if event is not None and event.type() == QEvent.Type.FocusOut:
            self.hide()
        if event is None or event.type() != QEvent.Type.KeyPress or not isinstance(event, QKeyEvent):
            return False
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if step is not None:
            self.list.setCurrentRow(max(0, min(self.list.currentRow() + step, self.list.count() - 1)))
            return True
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take(self.list.currentItem())
            return True
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
            return True
        return False

    def _show(self, text: str) -> None:
        self.list.clear()
        found = ranked(self._entries, text, self.recent)[:MOST]
        for entry in found:
            item = QListWidgetItem(f"{entry.label}     {entry.where}")
            if entry.icon:
                item.setIcon(icon(entry.icon, self._theme))
            item.setSizeHint(QSize(0, ROW))
            item.setToolTip(entry.help)
            item.setData(Qt.ItemDataRole.UserRole, entry.ident)
            self.list.addItem(item)
        if not found:
            none = QListWidgetItem("Nothing used yet" if not text.strip() else "Nothing does that by this name")
            none.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(none)
        self.list.setCurrentRow(0)
        self.list.setFixedHeight(ROW * self.list.count() + 6)
        self.setFixedWidth(WIDTH)
        self.adjustSize()

    def _take(self, item: QListWidgetItem | None) -> None:
        ident = None if item is None else item.data(Qt.ItemDataRole.UserRole)
        entry = next((entry for entry in self._entries if entry.ident == ident), None)
        if entry is None:
            return
        self.hide()
        self.note(entry.ident)
        entry.act()
