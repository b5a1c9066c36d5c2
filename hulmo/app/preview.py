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
        self._asked = True
        self._kept: tuple[Command, Callable[[], None]] | None = None
        self._after: list[Callable[[], None]] = []

    @property
    def pending(self) -> bool:
        """Whether anything is shown, or about to be, that is not kept."""
        return self._preparing or self._session.history.previewed is not None

    def show(self, command: Command, asked: bool = True) -> None:
        """Show what a command would do; what nobody asked for may be given up, and is taken back without a word."""
        self._asked = asked
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
            kept, self._kept = self._kept, None
            if kept is not None:
                self.keep(*kept)
            self._next()

        def ended() -> None:
            self._preparing = False
            history.tell(taken_back)
            kept, self._kept = self._kept, None
            if kept is not None:
                self.keep(*kept)  # it may say why it cannot be done
            self._next()

        self._preparing, self._given_up, self._kept = True, False, None
        session.start_job(lambda progress: history.prepare(command, progress), ready, ended)

    def keep(self, command: Command, then: Callable[[], None]) -> None:
        """Keep what is shown when it is this command, else do it."""
        session = self._session
        if self._preparing:
            self._wanted, self._kept = None, (command, then)  # once it is there
            return
        if not session.busy and session.history.previewed == command:
            session.history.keep_preview()
            then()
        else:
            session.do_long(command, then)

    def drop(self) -> None:
        """Take what is shown back, or give up what is being prepared."""
        self._wanted, self._kept = None, None
        if self._preparing and self._session.job is not None:
            self._given_up = True  # it may be done already
            self._session.job.cancel()
        elif not self._session.busy:
            self._session.history.drop_preview()

    def give_up_unasked(self) -> None:
        """Give up what is being prepared when nobody asked for it."""
        if self._preparing and not self._asked and self._kept is None:
            self.drop()

    def settle(self, then: Callable[[], None]) -> None:
        """Go on once nothing is shown any more that is not kept; what was is said."""
        if self.pending and self._asked and not self._after:
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
