"""The base of what writes files by a process, for a card."""

from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject

from hulmo.app.cards.files_card import FilesCard
from hulmo.app.file_process import COPY, FileProcess

if TYPE_CHECKING:
    from hulmo.app.main_window import MainWindow


class FilesWork(QObject):
    """Runs a command of the command line on a copy of the project, and tells its card.

    Parameters
    ----------
    window : MainWindow
    kind : class of FilesCard
        The card; it is made when it is first needed.
    """

    def __init__(self, window: "MainWindow", kind: type[FilesCard]) -> None:
        super().__init__(window)
        self._window, self._kind = window, kind
        self.process = FileProcess(self)
        window.cards.when_made(kind, lambda card: card.stopped.connect(self.process.stop))
        self.process.progressed.connect(lambda: self._files.show_progress(self.process.share))
        self.process.done.connect(self._done)
        self.process.failed.connect(self._failed)

    @property
    def _files(self) -> FilesCard:
        return self._window.card(self._kind)

    def run(self, command: str, words: list[str]) -> None:
        """Begin; what is only shown is settled first."""
        session, project = self._window.session, self._window.session.project

        def begin(copy: Any) -> None:
            self._files.show_progress(0.0)
            self.process.start(copy, [command, COPY, "--progress", *words])

        session.preview.settle(lambda: session.start_job(lambda progress: FileProcess.copied(project), begin))

    def outcome(self, written: list[str]) -> str:
        """What is said of files that were written."""
        raise NotImplementedError

    def _done(self, written: list[str]) -> None:
        self._files.show_progress(None)
        self._files.tell(self.outcome(written))

    def _failed(self, why: str) -> None:
        self._files.show_progress(None)
        self._files.tell(why or "Stopped.")
        if why:
            self._window.notice.say(why)
