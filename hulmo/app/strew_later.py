"""Props that stand by rules, strewn anew in the background when ground or paint have changed and the hand rests."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from hulmo.app.resting_work import RestingWork
from hulmo.core.commands import LayProps
from hulmo.core.edit import Change
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.progress import Progress

if TYPE_CHECKING:
    from hulmo.app.session import Session

REST = 500
"""Milliseconds without a change after which the hand counts as resting."""


class StrewLater(RestingWork):
    """Follows the strew rules of bodies that were shaped or painted; what it does belongs to the step before."""

    def __init__(self, session: "Session") -> None:
        super().__init__(session, REST)
        self._changed: set[int] = set()
        session.changed.connect(self._note)
        session.replaced.connect(self.forget)

    def forget(self) -> None:
        """See `RestingWork.forget`."""
        self._changed.clear()
        super().forget()

    def next_work(self) -> tuple[Callable[[Progress], Any], Callable[[Any], None]] | None:
        """See `RestingWork.next_work`."""
        session = self._session
        body = next((b for b in session.project.bodies if b.ident in self._changed and b.strew_rules), None)
        if body is None or body.locked:
            self._changed.clear()
            return None
        command, ident = LayProps(body.name), body.ident

        def then(edit: Any) -> None:
            self._changed.discard(ident)
            if edit.deltas:
                self.running = True
                session.history.commit_following(command, edit)
                self.running = False
            if self._changed:
                self.wait()

        return lambda progress: session.history.prepare(command, progress), then

    def _note(self, change: Change) -> None:
        # undoing and redoing bring back what stood there then
        if self.running or self._session.redo_label:
            return
        told = {ident for ident, column, _ in change.rows if column in ("position", WEIGHT)} | change.bodies
        self._changed |= {
            body.ident for body in self._session.project.bodies if body.ident in told and body.strew_rules
        }
        if self._changed:
            self.wait()
