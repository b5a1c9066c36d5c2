"""The journal: commands since the last save, on disk, so that a crash loses nothing."""

import contextlib
import json
import os
import pathlib
from dataclasses import dataclass
from typing import TextIO

from hulmo.core.commands import Command
from hulmo.core.errors import FileProblem, HulmoError
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.project import Project
from hulmo.core.recipe import command_from_json, command_to_json


@dataclass(frozen=True)
class Leftover:
    """A journal that a session left behind.

    Attributes
    ----------
    file : Path
        The journal.
    base : Path or None
        The project file its steps are done on; None for an empty project.
    path : Path or None
        Where the project is saved to; None when saving has to ask for a name.
    steps : int
        Commands in it.
    """

    file: pathlib.Path
    base: pathlib.Path | None
    path: pathlib.Path | None
    steps: int

    def discard(self) -> None:
        """Delete it, and the snapshot it stands on."""
        _snapshot_of(self.file).unlink(missing_ok=True)
        self.file.unlink(missing_ok=True)


class Journal:
    """Writes every finished command to a file of its own: one header line, then one line a step.

    Steps are replayed on a base: the project file, or a snapshot beside the journal. An undo or redo of something that
    was done before the base cannot be replayed; `stale` is then set until `snapshot` gives the journal a new base. `due` says
    that one would be good: a step read a file that may be gone by then.

    A journal that cannot be written is given up silently: it must never stand in the way of the work.
    """

    def __init__(self, folder: pathlib.Path) -> None:
        self._file = folder / f"{os.getpid()}.journal"
        self._stream: TextIO | None = None
        self._path: pathlib.Path | None = None
        self._done = 0
        self._undone = 0
        self.stale = self.due = False
        with contextlib.suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)

    def restart(self, base: pathlib.Path | None, path: pathlib.Path | None) -> None:
        """Begin anew on a base; `path` is where the project is saved to."""
        self.close()
        self._open(base, path)

    def snapshot(self, project: Project) -> None:
        """Begin anew on the project as it is now; where it is saved to stays."""
        target = _snapshot_of(self._file)
        try:
            save_project(project, target)
        except HulmoError:
            return
        self._open(target, self._path)

    def note(self, what: Command | str) -> None:
        """Add a command, "undo" or "redo"; a `History` recorder."""
        if what == "undo":
            self._done, self._undone = self._done - 1, self._undone + 1
        elif what == "redo":
            self._done, self._undone = self._done + 1, self._undone - 1
        else:
            self._done, self._undone = self._done + 1, 0
        self.stale = self.stale or min(self._done, self._undone) < 0
        self.due = self.due or (not isinstance(what, str) and what.reads_files)
        if not self.stale:
            self._write(json.dumps(what) if isinstance(what, str) else command_to_json(what).decode())

    def close(self) -> None:
        """End it: nothing needs to be recovered."""
        if self._stream is not None:
            self._stream.close()
            self._stream = None
        _snapshot_of(self._file).unlink(missing_ok=True)
        self._file.unlink(missing_ok=True)

    def _open(self, base: pathlib.Path | None, path: pathlib.Path | None) -> None:
        self._path, self._done, self._undone, self.stale = path, 0, 0, False
        self.due = False
        stamp = base.stat().st_mtime_ns if base is not None and base.exists() else 0
        snapshot = base == _snapshot_of(self._file)
        header = {"hulmo-journal": 1, "base": _text(base), "stamp": stamp, "path": _text(path), "snapshot": snapshot}
        try:
            if self._stream is not None:
                self._stream.close()
            self._stream = self._file.open("w", encoding="utf-8")
        except OSError:
            self._stream = None
        self._write(json.dumps(header))

    def _write(self, line: str) -> None:
        if self._stream is None:
            return
        try:
            self._stream.write(line + "\n")
            self._stream.flush()
        except OSError:
            self._stream = None


def leftovers(folder: pathlib.Path) -> list[Leftover]:
    """Journals of sessions that are no longer running and hold unsaved work: steps, or a snapshot."""
    found = []
    for file in sorted(folder.glob("*.journal")):
        if _running(file.stem):
            continue
        lines = _lines(file)
        head = _header(lines)
        base = None if head is None else _place(head.get("base"))
        path = None if head is None else _place(head.get("path"))
        leftover = Leftover(file, base, path, len(lines) - 1)
        if head is None or (len(lines) < 2 and not head.get("snapshot")):
            leftover.discard()
        else:
            found.append(leftover)
    return found


def recover(leftover: Leftover) -> History:
    """Bring back what a journal holds: its project file, with all steps done again.

    Raises
    ------
    FileProblem
        The project file is gone or was changed since; the journal stays.
    """
    lines = _lines(leftover.file)
    head = _header(lines)
    if head is None:
        raise FileProblem(f"{leftover.file}: this journal cannot be read; delete it")
    project = Project()
    if leftover.base is not None:
        project = open_project(leftover.base)
        if leftover.base.stat().st_mtime_ns != head.get("stamp"):
            raise FileProblem(
                f"{leftover.base} was saved again after these steps; they no longer fit and stay in {leftover.file}"
            )
    history = History(project)
    for number, line in enumerate(lines[1:], 1):
        if line in ('"undo"', '"redo"'):
            history.undo() if line == '"undo"' else history.redo()
            continue
        try:
            history.do(command_from_json(line, f"{leftover.file}, step {number}"))
        except HulmoError:
            if number == len(lines) - 1:
                break  # the last line may have been cut off by the crash
            raise
    history.mark_changed()
    return history


def _lines(file: pathlib.Path) -> list[str]:
    try:
        return [line for line in file.read_text(encoding="utf-8").splitlines() if line.strip()]
    except (OSError, UnicodeDecodeError):
        return []


def _header(lines: list[str]) -> dict[str, object] | None:
    try:
        head = json.loads(lines[0])
    except (IndexError, ValueError):
        return None
    return head if isinstance(head, dict) and head.get("hulmo-journal") == 1 else None


def _running(pid: str) -> bool:
    if not pid.isdigit():
        return False
    try:
        os.kill(int(pid), 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _snapshot_of(file: pathlib.Path) -> pathlib.Path:
    return file.with_suffix(".hulmo")


def _text(path: pathlib.Path | None) -> str | None:
    return None if path is None else str(path.absolute())


def _place(text: object) -> pathlib.Path | None:
    return pathlib.Path(text) if isinstance(text, str) else None
