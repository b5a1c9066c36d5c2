"""Commands that one drag gives again and again: one step of the history, whose ground rules wait until the hand rests."""

import time
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QGuiApplication

from hulmo.core.commands import Command

if TYPE_CHECKING:
    from hulmo.app.session import Session

LARGE = 60_000
"""Vertices from which ground rules follow a drag only when it rests."""

MERGE_WITHIN, HELD_WITHIN = 0.7, 3.0
"""Seconds between two values of one drag; more while the mouse button stays down, on machines that draw slowly."""


class DraggedSteps(QObject):
    """Puts a value of a drag in place of the one before."""

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._session = session
        self._merged: tuple[Command | None, float, str] = (None, 0.0, "")

    def merged(self, command: Command, control: str) -> bool:
        """Apply what a control gives; values that come soon after each other are of one drag.

        Parameters
        ----------
        command : Command
        control : str
            Names the control, so that two controls are never taken for one.
        """
        now = time.monotonic()
        last, at, key = self._merged
        held = QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton
        soon = key == control and now - at < (HELD_WITHIN if held else MERGE_WITHIN)
        done = self.after(command, last if soon else None)
        self._merged = (command, now, control)
        return done

    def after(self, command: Command, last: Command | None) -> bool:
        """Apply a command in place of the one that the same drag gave before, however long ago; None for a drag's first."""
        session = self._session
        again = last is not None and session.history.last_command is last
        if not again:
            session.rules.settle()
        session.history.lets_rules_wait = sum(body.vertices.count for body in session.project.bodies) > LARGE
        try:
            return session.apply(session.history.do_instead if again else session.history.do, command)
        finally:
            session.history.lets_rules_wait = False
            session.rules.note()
