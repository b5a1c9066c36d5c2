"""Long work in a thread of its own, with progress and a way to stop it."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QThread, pyqtSignal

from hulmo.core.errors import Cancelled, HulmoError
from hulmo.core.progress import Progress


class Job(QThread):
    """Runs one function.

    Attributes
    ----------
    share : float
        How much is done, 0 to 1.
    text : str
        What is being done.

    Signals
    -------
    progressed
        Share or text are others.
    succeeded : object
        What the function returned.
    failed : str
        What went wrong, in words for the user; empty when the user stopped it.
    broke : BaseException
        What nobody foresaw.
    """

    progressed = pyqtSignal()
    _stepped = pyqtSignal(float, str)
    succeeded = pyqtSignal(object)
    failed = pyqtSignal(str)
    broke = pyqtSignal(object)

    def __init__(self, work: Callable[[Progress], Any], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._work = work
        self.share = 0.0
        self.text = "working"
        self._progress = Progress(self._stepped.emit)
        self._stepped.connect(self._step)  # from the thread of the work into that of the window

    def _step(self, share: float, what: str) -> None:
        self.share, self.text = share, what
        self.progressed.emit()

    def cancel(self) -> None:
        """Ask it to end at its next step."""
        self._progress.stop()

    def run(self) -> None:
        """The thread's body."""
        try:
            result = self._work(self._progress)
        except Cancelled:
            self.failed.emit("")
        except HulmoError as error:
            self.failed.emit(str(error))
        except MemoryError:
            self.failed.emit("Not enough memory for this; use fewer vertices. Nothing was changed.")
        except BaseException as error:  # whatever it is, the job has to end, or nothing else can begin
            self.broke.emit(error)
        else:
            self.succeeded.emit(result)
