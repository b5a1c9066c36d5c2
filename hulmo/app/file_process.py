"""Files written by a process of their own, so that the work can go on meanwhile."""

import os
import pathlib
import shutil
import sys
import tempfile

from PyQt6.QtCore import QObject, QProcess, QProcessEnvironment, pyqtSignal

from hulmo.core.io.project_file import save_project
from hulmo.core.project import Project

ROOT = pathlib.Path(__file__).resolve().parents[2]

MARK = "progress "
"""Begins lines that say how much is done."""

COPY = "<copy>"
"""Stands for the copy among the words of a command."""

PATIENCE = 3000
"""Milliseconds that a stopped process has to clear up after itself."""


class FileProcess(QObject):
    """Runs a command of the command line on a copy of a project.

    Attributes
    ----------
    share : float
        How much is done, 0 to 1.
    said : list of str
        What it has said.

    Signals
    -------
    progressed
        Share is another.
    done : list of str
        Files that were written.
    failed : str
        What went wrong, in words for the user; empty where it was stopped.
    """

    progressed = pyqtSignal()
    done = pyqtSignal(list)
    failed = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.share = 0.0
        self.said: list[str] = []
        self._process: QProcess | None = None
        self._folder: pathlib.Path | None = None
        self._wrote: list[str] = []
        self._errors = ""
        self._stopped = False

    @property
    def running(self) -> bool:
        """Whether files are being written."""
        return self._process is not None

    @staticmethod
    def copied(project: Project) -> pathlib.Path:
        """A copy of a project in a folder of its own; may be called in any thread.

        Raises
        ------
        FileProblem
            There is no room for it.
        """
        folder = pathlib.Path(tempfile.mkdtemp(prefix="hulmo-files-"))
        try:
            save_project(project, folder / "project.hulmo")
        except BaseException:
            shutil.rmtree(folder, ignore_errors=True)
            raise
        return folder / "project.hulmo"

    def start(self, copy: pathlib.Path, words: list[str]) -> None:
        """Run a command with its words, among them `COPY` for the copy, which is taken away in the end."""
        self._folder, self.share, self._wrote, self._errors, self._stopped = copy.parent, 0.0, [], "", False
        self.said = []
        process = self._process = QProcess(self)
        surroundings = QProcessEnvironment.systemEnvironment()
        known = os.environ.get("PYTHONPATH", "")
        surroundings.insert("PYTHONPATH", f"{ROOT}{os.pathsep}{known}" if known else str(ROOT))
        process.setProcessEnvironment(surroundings)
        process.readyReadStandardOutput.connect(self._read)
        process.readyReadStandardError.connect(self._read_errors)
        process.finished.connect(self._ended)
        process.errorOccurred.connect(self._broke)
        process.start(sys.executable, ["-m", "hulmo", *(str(copy) if word == COPY else word for word in words)])

    def stop(self) -> None:
        """End it; nothing half-written stays."""
        process = self._process
        if process is None:
            return
        self._stopped = True
        process.terminate()
        if not process.waitForFinished(PATIENCE):
            process.kill()
            process.waitForFinished(PATIENCE)

    def _read(self) -> None:
        assert self._process is not None
        while self._process.canReadLine():
            line = bytes(self._process.readLine().data()).decode("utf-8", "replace").rstrip("\n")
            if line.startswith(MARK):
                self.share = float(line[len(MARK) :])
                self.progressed.emit()
            elif ": " in line:
                name, _, said = line.partition(": ")
                self._wrote.append(name)
                self.said.append(f"{name}: {said}")

    def _read_errors(self) -> None:
        assert self._process is not None
        self._errors += bytes(self._process.readAllStandardError().data()).decode("utf-8", "replace")

    def _broke(self, error: QProcess.ProcessError) -> None:
        if error == QProcess.ProcessError.FailedToStart:
            self._errors = "hulmo: the process that does it could not be started"
            self._ended(1)

    def _ended(self, code: int, *_: object) -> None:
        process, self._process = self._process, None
        if process is None:
            return
        process.deleteLater()
        if self._folder is not None:
            shutil.rmtree(self._folder, ignore_errors=True)
        if code == 0 and not self._stopped:
            self.share = 1.0
            self.done.emit(self._wrote)
        elif self._stopped:
            self.failed.emit("")
        else:
            said = [line for line in self._errors.splitlines() if line.startswith("hulmo: ")]
            self.failed.emit(said[-1][len("hulmo: ") :] if said else "It could not be done.")
