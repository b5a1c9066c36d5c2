"""The cards beside the canvas, from top to bottom, each made when it is first needed."""

from collections.abc import Callable
from typing import TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from hulmo.app.cards import CARDS
from hulmo.app.cards.card import Card
from hulmo.app.session import Session
from hulmo.app.spoken import name_buttons
from hulmo.app.theme import Theme

OneCard = TypeVar("OneCard", bound=Card)

WIDTH = 308
"""Pixels."""


class CardColumn(QScrollArea):
    """Makes the cards that are shown with what is in hand, and any other when it is asked for.

    Most cards are not seen when the window opens, and all of them take as long to make as the rest of it. `make_next` makes
    them one by one while nothing else is done, so that none is waited for later.

    Parameters
    ----------
    session : Session
    theme : Theme
    """

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._theme = session, theme
        self._made: dict[type[Card], Card] = {}
        self._wanted: dict[type[Card], list[Callable[[Card], object]]] = {}
        self.setObjectName("cards")
        self.setWidgetResizable(True)
        self.setFixedWidth(WIDTH)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        cards = QWidget()
        self._column = QVBoxLayout(cards)
        self._column.setContentsMargins(9, 9, 9, 9)
        self._column.setSpacing(8)
        self._column.addStretch(1)
        self.setWidget(cards)
        for done in (session.tool_changed, session.settings_changed, session.replaced):
            done.connect(self.make_seen)
        session.changed.connect(lambda change: self.make_seen() if change.fields or change.bodies else None)

    def card(self, kind: type[OneCard]) -> OneCard:
        """The card of a class."""
        if kind not in self._made:
            self._make(kind)
        found = self._made[kind]
        assert isinstance(found, kind)
        return found

    def when_made(self, kind: type[OneCard], then: Callable[[OneCard], object]) -> None:
        """Do something with a card as soon as there is one: at once, or when it is made."""
        if kind in self._made:
            then(self.card(kind))
            return
        self._wanted.setdefault(kind, []).append(lambda _: then(self.card(kind)))

    def make_seen(self) -> None:
        """Make what is shown with what is in hand."""
        for kind in CARDS:
            if kind not in self._made and kind.seen(self._session):
                self._make(kind)

    def make_next(self) -> bool:
        """Make one more; False when all are there."""
        left = next((kind for kind in CARDS if kind not in self._made), None)
        if left is not None:
            self._make(left)
        return left is not None

    def set_theme(self, theme: Theme) -> None:
        """Draw icons and rulers in other colours."""
        self._theme = theme
        for card in self._made.values():
            card.set_theme(theme)

    def _make(self, kind: type[Card]) -> None:
        # with no parent it would be a window of its own for a moment
        card = kind(self._session, self._theme, self.widget())  # type: ignore[arg-type]
        place = sum(other in self._made for other in CARDS[: CARDS.index(kind)])
        self._made[kind] = card
        name_buttons(card)
        self._column.insertWidget(place, card)
        for then in self._wanted.pop(kind, ()):
            then(card)
