"""What is kept against the worst: the journal with its snapshots, and reports of problems that nobody foresaw."""

import pathlib
import traceback
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QStandardPaths, QTimer

from hulmo.core.commands import Command
from hulmo.core.journal import Journal, Leftover, leftovers
from hulmo.core.report import write_report

if TYPE_CHECKING:
    from hulmo.app.session import Session

SNAPSHOT_EVERY = 100
"""Milliseconds between two looks at whether a snapshot of the project is wanted, or done."""


class Safety(QObject):
    """Keeps a session's steps where a crash cannot reach them."""

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._session = session
        folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.AppLocalDataLocation)
        self._journals, self._reports = pathlib.Path(folder) / "journal", pathlib.Path(folder) / "reports"
        self._told: set[str] = set()
        self.journal = Journal(self._journals, session.noticed.emit)
        self._timer = QTimer(self)
        self._timer.setInterval(SNAPSHOT_EVERY)
        self._timer.timeout.connect(self._look)

    def opened(self, base: pathlib.Path | None, leftover: Leftover | None) -> None:
        """Another project is open: from a file, from none, or from what a crash left."""
        if leftover is None or not self.journal.take_over(leftover):
            self.journal.restart(base, self._session.path)
        self._session.history.record(self._note)

    def leftovers(self) -> list[Leftover]:
        """Unsaved work of sessions that ended badly."""
        return leftovers(self._journals)

    def snapshot(self) -> None:
        """Keep the project as it is, as soon as it rests."""
        self.journal.want_snapshot()
        self._timer.start()

    def report(self, error: BaseException) -> str:
        """Keep a report of a problem that nobody foresaw; returns what to say of it, nothing when it was said before."""
        traceback.print_exception(error)
        place = "".join(traceback.format_exception(error)[-2:])
        if place in self._told:
            return ""
        self._told.add(place)
        file = write_report(self._reports, error, self._session.history)
        where = (
            "The details are on the terminal."
            if file is None
            else f"A report, with the steps that led here, is in {file}"
        )
        return f"Something went wrong inside Hulmo. Your work is still here; save it under another name. {where}"

    def close(self) -> None:
        """End of the session; nothing is left to recover."""
        self._timer.stop()
        self.journal.close()

    def _note(self, what: Command | str) -> None:
        self.journal.note(what)
        if self.journal.due:
            self._timer.start()

    def _look(self) -> None:
        session = self._session
        if self.journal.poll():
            return
        if not self.journal.due:
            self._timer.stop()
        elif not (session.busy or session.history.stroking or session.history.previewed is not None):
            self.journal.snapshot(session.project)
