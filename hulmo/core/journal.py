"""The journal: commands since the last save, on disk, so that a crash loses nothing."""

import json
import os
import pathlib
from dataclasses import dataclass
from typing import TextIO

from hulmo.core.commands import Command
from hulmo.core.errors import FileProblem, HulmoError
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project
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
        The project file it continues; None for a project that came from no file.
    copy : bool
        Whether the project was opened as a copy, so that saving must ask for a name.
    steps : int
        Commands in it.
    """

    file: pathlib.Path
    base: pathlib.Path | None
    copy: bool
    steps: int


class Journal:
    """Writes every finished command to a file beside nothing else: one header line, then one line a step.

    A journal that cannot be written is given up silently: it must never stand in the way of the work.
    """

    def __init__(self, folder: pathlib.Path) -> None:
        self._file = folder / f"{os.getpid()}.journal"
        self._stream: TextIO | None = None
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError:
            return

    def restart(self, base: pathlib.Path | None, copy: bool = False) -> None:
        """Begin anew after opening (as a copy or not) or saving a project."""
        self.close()
        try:
            self._stream = self._file.open("w", encoding="utf-8")
        except OSError:
            self._stream = None
            return
        stamp = base.stat().st_mtime_ns if base is not None and base.exists() else 0
        header = {
            "hulmo-journal": 1,
            "base": None if base is None else str(base.absolute()),
            "stamp": stamp,
            "copy": copy,
        }
        self._write(json.dumps(header))

    def note(self, what: Command | str) -> None:
        """Add a command, "undo" or "redo"; a `History` recorder."""
        self._write(json.dumps(what) if isinstance(what, str) else command_to_json(what).decode())

    def close(self) -> None:
        """End it: nothing needs to be recovered."""
        if self._stream is not None:
            self._stream.close()
            self._stream = None
        self._file.unlink(missing_ok=True)

    def _write(self, line: str) -> None:
        if self._stream is None:
            return
        try:
            self._stream.write(line + "\n")
            self._stream.flush()
        except OSError:
            self._stream = None


def leftovers(folder: pathlib.Path) -> list[Leftover]:
    """Journals of sessions that are no longer running and hold at least one step."""
    found = []
    for file in sorted(folder.glob("*.journal")):
        if _running(file.stem):
            continue
        lines = _lines(file)
        head = _header(lines)
        if head is None or len(lines) < 2:
            file.unlink(missing_ok=True)
            continue
        base = head.get("base")
        found.append(
            Leftover(file, None if base is None else pathlib.Path(str(base)), head.get("copy") is True, len(lines) - 1)
        )
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
