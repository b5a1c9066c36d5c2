"""Ground rules that wait while a control is dragged over a large body: laid when the hand rests, or before anything else."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer

from hulmo.core.commands import LayRules
from hulmo.core.errors import HulmoError
from hulmo.core.progress import Progress

if TYPE_CHECKING:
    from hulmo.app.session import Session


class RulesLater(QObject):
    """Lays the rules of `History.waiting_rules`, as part of the step they follow from.

    Whatever would become another step settles them first: otherwise they would be undone with a step they do not belong to.

    Parameters
    ----------
    session : Session
    rest : int
        Milliseconds without a change after which the hand counts as resting.
    """

    def __init__(self, session: "Session", rest: int) -> None:
        super().__init__(session)
        self._session = session
        self._laying = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(rest)
        self._timer.timeout.connect(lambda: self.lay(lambda: None))

    def note(self) -> None:
        """A control was moved: wait for the hand to rest, where rules wait at all."""
        if self._session.history.waiting_rules:
            self._timer.start()

    def lay(self, then: Callable[[], None]) -> None:
        """Lay them in a job and go on; when the job is stopped they go on waiting, and `then` is not done."""
        session, commands = self._session, self._commands()
        if session.busy or session.history.stroking:
            self._timer.start()
            return
        if not commands:
            then()
            return

        def work(progress: Progress) -> list[Any]:
            return [session.history.prepare(command, progress) for command in commands]

        def ready(edits: list[Any]) -> None:
            self._laying = False
            for command, edit in zip(commands, edits, strict=True):
                if edit.deltas:
                    session.history.commit_following(command, edit)
            session.history.waiting_rules.clear()
            then()

        def stopped() -> None:
            self._laying = False

        self._timer.stop()
        self._laying = True
        session.start_job(work, ready, stopped)

    def settle(self) -> None:
        """Lay them at once."""
        history = self._session.history
        if self._laying or not history.waiting_rules:
            return
        self._timer.stop()
        for command in self._commands():
            try:
                edit = history.prepare(command)
            except HulmoError as error:
                self._session.noticed.emit(str(error))
                continue
            if edit.deltas:
                history.commit_following(command, edit)
        history.waiting_rules.clear()

    def _commands(self) -> list[LayRules]:
        waiting = self._session.history.waiting_rules
        return [LayRules(body.name) for body in self._session.project.bodies if body.ident in waiting and body.rules]
