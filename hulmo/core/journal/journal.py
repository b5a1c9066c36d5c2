"""Writing the journal of one session."""

import contextlib
import json
import os
import pathlib
import queue
import secrets
import shutil
import threading
import time
from collections.abc import Callable

from hulmo.core.commands import Command
from hulmo.core.io.content_mark import content_mark
from hulmo.core.io.project_file import save_project
from hulmo.core.journal.leftover import Leftover
from hulmo.core.journal.log import BASE, LOCK, LOG, VERSION, LogFile, line_of
from hulmo.core.lock_file import hold, leave_to_parent, let_go, moved
from hulmo.core.project import Project
from hulmo.core.recipe import command_to_json

SNAPSHOTS = 2
"""Snapshots that are kept beside the base, the newest ones."""

MANY = 60
"""Steps after which a snapshot makes a recovery quicker."""

LONGEST = 300.0
"""Seconds after which a snapshot that is still not written is given up."""


def _ignore(_: str) -> None:
    pass


class Journal:
    """Writes every finished step into a folder of its own, which it holds a lock on.

    The folder appears with its first line in it, and nothing in it is deleted that was not first replaced. A step is with the
    system before `note` returns, so that it outlives the process; flushing it to disk is left to a thread. Snapshots are
    written by a copy of the process (fork), which has the project as it was at that moment, while this one goes on.

    Parameters
    ----------
    folder : Path
        Of the journals of all sessions.
    tell : callable(str), optional
        Told, once, when work can no longer be kept safe, and when it is again.
    """

    def __init__(self, folder: pathlib.Path, tell: Callable[[str], None] = _ignore) -> None:
        self._folder, self._tell = folder, tell
        self._place: pathlib.Path | None = None
        self._log: LogFile | None = None
        self._broken = False
        self._numbers = 0
        self._since = 0
        self._asked = False
        self._kept: list[str] = []
        self._child: tuple[int, str, float] | None = None
        self._flushes: queue.SimpleQueue[int | None] = queue.SimpleQueue()
        self._flusher: threading.Thread | None = None
        self._workers: list[threading.Thread] = []

    @property
    def place(self) -> pathlib.Path | None:
        """Folder of this session's journal; None while there is none."""
        return self._place

    @property
    def due(self) -> bool:
        """Whether a snapshot would be good: a step read a file that may be gone some day, or steps are many."""
        return self._place is not None and self._child is None and (self._asked or self._since >= MANY)

    @property
    def writing(self) -> bool:
        """Whether a snapshot is being written."""
        return self._child is not None

    def restart(self, base: pathlib.Path | None, path: pathlib.Path | None) -> None:
        """Begin anew on a project file, or on an empty project; `path` is where the project is saved to."""
        old, old_log = self._place, self._log
        self._place = self._log = None
        self._numbers = self._since = 0
        self._asked, self._kept = False, []
        self._give_up_child()
        name = secrets.token_hex(6)
        making, place = self._folder / f".new-{name}", self._folder / name
        head = {
            "hulmo-journal": VERSION,
            "base": None if base is None else str(base.absolute()),
            "mark": "" if base is None else content_mark(base),
            "path": None if path is None else str(path.absolute()),
        }
        try:
            making.mkdir(parents=True)
            if base is not None:
                self._link(base, making / BASE)
            with (making / LOG).open("wb") as file:
                file.write(line_of(json.dumps(head).encode()))
            hold(making / LOCK)
            making.rename(place)
            moved(making / LOCK, place / LOCK)
            self._log, self._place = LogFile(place / LOG), place
            self._mend()
            self._flush_soon()
        except OSError as error:
            shutil.rmtree(making, ignore_errors=True)
            self._break(error)
        if old is not None:
            self._remove(old, old_log)

    def take_over(self, leftover: Leftover) -> bool:
        """Go on in the journal that was recovered, so that there is no moment without one; False when it cannot be."""
        old, old_log = self._place, self._log
        try:
            if not hold(leftover.folder / LOCK):
                return False
            self._log = LogFile(leftover.folder / LOG, leftover.size)
        except OSError as error:
            self._break(error)
            return False
        self._place, self._since, self._asked = leftover.folder, leftover.steps, False
        self._kept = [file for file in leftover.snapshots if file != BASE]
        self._numbers = max(
            (int(file.stem) for file in leftover.folder.glob("*.hulmo") if file.stem.isdigit()), default=0
        )
        if old is not None:
            self._remove(old, old_log)
        return True

    def note(self, what: Command | str) -> None:
        """Add a command, "undo" or "redo"; a `History` recorder."""
        self._since += 1
        self._asked = self._asked or (not isinstance(what, str) and what.reads_files)
        self._add(json.dumps(what).encode() if isinstance(what, str) else command_to_json(what))

    def saved(self, path: pathlib.Path) -> None:
        """Note that the project, as it is now, lies in a file: it becomes a snapshot without being written again."""
        self._add(json.dumps({"path": str(path.absolute()), "mark": content_mark(path)}).encode())
        if self._place is None:
            return
        name = self._next()
        try:
            os.link(path.resolve(), self._place / name)
        except OSError:
            self._asked = True  # on another disk: it has to be written there as well
            return
        self._snapped(name)

    def want_snapshot(self) -> None:
        """Say that a snapshot would be good."""
        self._asked = True

    def snapshot(self, project: Project) -> None:
        """Begin to write the project as it is now; `poll` tells when it is done."""
        if self._place is None or self._child is not None:
            return
        name = self._next()
        target = self._place / name
        try:
            child = os.fork()
        except OSError:
            return
        if child == 0:
            status = 1
            try:
                leave_to_parent()
                os.nice(10)
                save_project(project, target, checks=False)
                status = 0
            finally:
                os._exit(status)
        self._child = (child, name, time.monotonic())
        # what comes from now on is not in it: its line must stand before theirs, and is passed over until the file is there
        self._asked, self._since = False, 0
        self._add(json.dumps({"snapshot": name}).encode())

    def poll(self) -> bool:
        """Look after a snapshot that is being written; whether one still is."""
        if self._child is None:
            return False
        child, name, began = self._child
        with contextlib.suppress(ChildProcessError):
            done, status = os.waitpid(child, os.WNOHANG)
            if done == 0:
                if time.monotonic() - began > LONGEST:
                    self._give_up_child()
                return self._child is not None
            self._child = None
            if status == 0:
                self._keep(name)
            return False
        self._child = None
        return False

    def wait(self) -> None:
        """Wait until no snapshot is being written and all is flushed."""
        while self.poll():
            time.sleep(0.01)

    def close(self) -> None:
        """End it: nothing needs to be recovered."""
        self._give_up_child()
        if self._place is not None:
            self._remove(self._place, self._log)
        self._place = self._log = None
        for worker in self._workers:
            worker.join()
        if self._flusher is not None:
            self._flushes.put(None)
            self._flusher.join()
            self._flusher = None

    def _add(self, text: bytes) -> None:
        if self._log is None:
            return
        try:
            self._log.add(text)
        except OSError as error:
            self._break(error)
            return
        self._mend()
        self._flush_soon()

    def _flush_soon(self) -> None:
        if self._log is None:
            return
        if self._flusher is None:
            self._flusher = threading.Thread(target=self._flush, name="journal", daemon=True)
            self._flusher.start()
        if self._flushes.empty():
            self._flushes.put(self._log.handle)

    def _flush(self) -> None:
        while (handle := self._flushes.get()) is not None:
            with contextlib.suppress(OSError):
                os.fdatasync(handle)

    def _next(self) -> str:
        self._numbers += 1
        return f"{self._numbers}.hulmo"

    def _snapped(self, name: str) -> None:
        self._asked, self._since = False, 0
        self._add(json.dumps({"snapshot": name}).encode())
        self._keep(name)

    def _keep(self, name: str) -> None:
        self._kept.append(name)
        while len(self._kept) > SNAPSHOTS and self._place is not None:
            self._aside((self._place / self._kept.pop(0)).unlink)

    def _link(self, base: pathlib.Path, target: pathlib.Path) -> None:
        # saving puts another file in its place, and the link keeps this one; on another disk the file itself has to do
        with contextlib.suppress(OSError):
            os.link(base.resolve(), target)

    def _give_up_child(self) -> None:
        if self._child is not None:
            with contextlib.suppress(OSError):
                os.kill(self._child[0], 9)
                os.waitpid(self._child[0], 0)
            self._child = None

    def _remove(self, place: pathlib.Path, log: LogFile | None) -> None:
        if log is not None:
            log.close()
        gone = place.with_name(f".gone-{place.name}")
        try:
            place.rename(gone)
        except OSError:
            gone = place
        let_go(place / LOCK)
        self._aside(lambda: shutil.rmtree(gone, ignore_errors=True))

    def _aside(self, work: Callable[[], None]) -> None:
        # taking large files off a disk can take long, and nothing waits for it
        def run() -> None:
            with contextlib.suppress(OSError):
                work()

        self._workers = [worker for worker in self._workers if worker.is_alive()]
        worker = threading.Thread(target=run, name="journal, clearing up", daemon=True)
        self._workers.append(worker)
        worker.start()

    def _break(self, error: OSError) -> None:
        if not self._broken:
            self._broken = True
            self._tell(
                f"Steps can't be kept safe against a crash now ({error.strerror or error}: {self._folder}). Free some space, "
                "and save your work often until then."
            )

    def _mend(self) -> None:
        if self._broken:
            self._broken = False
            self._tell("Steps are kept safe against a crash again.")
