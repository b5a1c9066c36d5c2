"""Figures that ground rules take only once (shelter, distances), taken again in the background when the hand rests."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from hulmo.app.resting_work import RestingWork
from hulmo.core.commands import MeasureRules
from hulmo.core.edit import Change
from hulmo.core.ground.measures import MEASURES
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress

if TYPE_CHECKING:
    from hulmo.app.session import Session

REST = 1500
"""Milliseconds without a change after which the hand counts as resting."""


class MeasuresLater(RestingWork):
    """Measures bodies again that were shaped, one after the other.

    Attributes
    ----------
    on : bool
        Whether it does so; off at first, since it takes seconds on large bodies.
    """

    def __init__(self, session: "Session") -> None:
        super().__init__(session, REST)
        self.on = False
        self._shaped: set[int] = set()
        session.changed.connect(self._note)
        session.replaced.connect(self.forget)

    def turn(self, on: bool) -> None:
        """Have figures follow, or not."""
        self.on = on
        if on and self._session.body is not None and takes_once(self._session.body):
            self._shaped.add(self._session.body.ident)
            self.wait()
        elif not on:
            self.forget()

    def forget(self) -> None:
        """See `RestingWork.forget`."""
        self._shaped.clear()
        super().forget()

    def next_work(self) -> tuple[Callable[[Progress], Any], Callable[[Any], None]] | None:
        """See `RestingWork.next_work`."""
        session = self._session
        body = next((body for body in session.project.bodies if body.ident in self._shaped and takes_once(body)), None)
        if body is None:
            self._shaped.clear()
            return None
        command, ident = MeasureRules(body.name), body.ident

        def then(edit: Any) -> None:
            if edit.deltas:
                self.running = True  # what it measures changes nothing that would have to be measured again
                session.history.commit(command, edit)
                self.running = False
            self._shaped.discard(ident)
            if self._shaped:
                self.wait()

        return lambda progress: session.history.prepare(command, progress), then

    def _note(self, change: Change) -> None:
        # undoing and redoing bring back what was measured then
        if not self.on or self.running or self._session.redo_label:
            return
        moved = {ident for ident, column, _ in change.rows if column == "position"} | change.bodies
        self._shaped |= {
            body.ident for body in self._session.project.bodies if body.ident in moved and takes_once(body)
        }
        if self._shaped:
            self.wait()


def takes_once(body: Body) -> bool:
    """Whether rules of a body ask for figures that are taken only once."""
    return any(MEASURES[condition.measure].kept for rule in body.rules for condition in rule.conditions)
