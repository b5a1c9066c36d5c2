"""Work in the background while the hand rests; it gives way to whoever wants to work."""

import time
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QCoreApplication, QEventLoop, QObject, QTimer

from hulmo.core.progress import Progress

if TYPE_CHECKING:
    from hulmo.app.session import Session

PATIENCE = 2.0
"""Seconds that whoever wants to work waits at the most for it to give way."""


class RestingWork(QObject):
    """One kind of such work: `due` begins it when nothing has changed for a while.

    Parameters
    ----------
    session : Session
    rest : int
        Milliseconds without a change after which the hand counts as resting.
    """

    def __init__(self, session: "Session", rest: int) -> None:
        super().__init__(session)
        self._session = session
        self.running = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(rest)
        self._timer.timeout.connect(self._begin)

    def wait(self) -> None:
        """Begin after the rest."""
        self._timer.start()

    def forget(self) -> None:
        """Do not begin."""
        self._timer.stop()

    def give_way(self) -> None:
        """Stop what is under way, for somebody who wants to work now."""
        session = self._session
        if not self.running or session.job is None:
            return
        session.job.cancel()
        end = time.monotonic() + PATIENCE
        while session.busy and time.monotonic() < end:
            QCoreApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
            time.sleep(0.001)

    def next_work(self) -> tuple[Callable[[Progress], Any], Callable[[Any], None]] | None:
        """What is to be done in a thread, and what is done with the outcome in the window's; None for nothing."""
        raise NotImplementedError

    def _begin(self) -> None:
        session = self._session
        if session.held or session.busy or session.history.stroking or session.preview.pending:
            self._timer.start()
            return
        found = self.next_work()
        if found is None:
            return
        work, then = found

        def ready(result: Any) -> None:
            self.running = False
            then(result)

        def stopped() -> None:  # once more when the hand rests again
            self.running = False
            self._timer.start()

        session.start_job(work, ready, stopped)
        self.running = session.busy
