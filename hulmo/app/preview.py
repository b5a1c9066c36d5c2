"""Showing what a command would do before it is kept."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from hulmo.core.commands import Command

if TYPE_CHECKING:
    from hulmo.app.session import Session


class Preview:
    """Prepares commands in the session's job and applies them for now; of many that come quickly only the last is shown."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._wanted: Command | None = None
        self._preparing = False
        self._given_up = False
        self._after: list[Callable[[], None]] = []

    @property
    def pending(self) -> bool:
        """Whether anything is shown, or about to be, that is not kept."""
        return self._preparing or self._session.history.previewed is not None

    def show(self, command: Command) -> None:
        """Show what a command would do."""
        session = self._session
        if session.busy:
            if self._preparing and session.job is not None:
                self._wanted = command
                session.job.cancel()
            return
        history = session.history
        taken_back = history.drop_preview(quiet=True)  # the picture stays until the next one is ready

        def ready(edit: Any) -> None:
            self._preparing = False
            history.tell(taken_back)
            if not self._given_up:
                history.preview(command, edit)
            self._next()

        def ended() -> None:
            self._preparing = False
            history.tell(taken_back)
            self._next()

        self._preparing, self._given_up = True, False
        session.start_job(lambda progress: history.prepare(command, progress), ready, ended)

    def keep(self, command: Command, then: Callable[[], None]) -> None:
        """Keep what is shown when it is this command, else do it."""
        session = self._session
        if not session.busy and session.history.previewed == command:
            session.history.keep_preview()
            then()
        else:
            session.do_long(command, then)

    def drop(self) -> None:
        """Take what is shown back, or give up what is being prepared."""
        self._wanted = None
        if self._preparing and self._session.job is not None:
            self._given_up = True  # it may be done already
            self._session.job.cancel()
        elif not self._session.busy:
            self._session.history.drop_preview()

    def settle(self, then: Callable[[], None]) -> None:
        """Go on once nothing is shown any more that is not kept; what was is said."""
        if self.pending and not self._after:
            self._session.noticed.emit("What was only shown is taken back: Keep lays it.")
        if self._preparing:
            self._after.append(then)
            self.drop()
            return
        self.drop()
        then()

    def _next(self) -> None:
        command, self._wanted = self._wanted, None
        after, self._after = self._after, []
        for then in after:
            then()
        if command is not None:
            self.show(command)
