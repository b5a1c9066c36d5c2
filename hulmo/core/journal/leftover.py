"""Finding journals that sessions left behind, and bringing back what they hold."""

import pathlib
import shutil
from dataclasses import dataclass, field

from hulmo.core.commands import Command
from hulmo.core.errors import Cancelled, FileProblem, HulmoError
from hulmo.core.history import History
from hulmo.core.io.content_mark import content_mark
from hulmo.core.io.project_file import open_project
from hulmo.core.journal.log import BASE, LOCK, LOG, header_of, read_log
from hulmo.core.json_text import plain_json
from hulmo.core.lock_file import held_by_another
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.recipe import command_from_json
from hulmo.core.there import is_there


@dataclass(frozen=True)
class Leftover:
    """A journal that a session left behind.

    Attributes
    ----------
    folder : Path
        It, with its snapshots.
    base : Path or None
        The project file that was opened; None for an empty project.
    mark : str
        What that file held, see `content_mark`.
    path : Path or None
        Where the project is saved to; None when saving has to ask for a name.
    steps : int
        Lines that say what was done.
    done : list of int
        Lines of the commands that were done in the end, in order.
    snapshots : dict
        Snapshot file, to the lines of the commands that were done when it was taken.
    saves : list of (path, mark, done)
        Every save, oldest first: the file, what it held, and what was done then.
    texts : list of bytes
        All lines.
    size : int
        Bytes of the log that are sound.
    """

    folder: pathlib.Path
    base: pathlib.Path | None
    mark: str
    path: pathlib.Path | None
    steps: int
    done: list[int]
    snapshots: dict[str, list[int]]
    saves: list[tuple[pathlib.Path, str, list[int]]]
    texts: list[bytes] = field(repr=False)
    size: int

    def discard(self) -> None:
        """Delete it."""
        shutil.rmtree(self.folder, ignore_errors=True)


@dataclass(frozen=True)
class Recovered:
    """What was brought back.

    Attributes
    ----------
    history : History
    lost : int
        Steps at the end that could not be done again.
    problem : str
        Why not.
    """

    history: History
    lost: int = 0
    problem: str = ""


def leftovers(folder: pathlib.Path) -> list[Leftover]:
    """Journals of sessions that are no longer running and hold unsaved work, the oldest first."""
    found = []
    for place in folder.glob("*") if folder.is_dir() else ():
        if place.name.startswith((".gone-", ".new-")):
            if not held_by_another(place / LOCK):
                shutil.rmtree(place, ignore_errors=True)  # of a session that ended while it deleted or made it
            continue
        if not (place / LOG).is_file() or held_by_another(place / LOCK):
            continue
        leftover = _read(place)
        if leftover is None:
            continue  # written by another version, or damaged from its first line: left to whoever can read it
        if leftover.done == (leftover.saves[-1][2] if leftover.saves else []):
            leftover.discard()
        else:
            found.append(leftover)
    return sorted(found, key=lambda leftover: (leftover.folder / LOG).stat().st_mtime_ns)


def recover(leftover: Leftover, progress: Progress | None = None) -> Recovered:
    """Bring back what a journal holds: its newest snapshot that fits, with all later steps done again.

    Raises
    ------
    FileProblem
        The project file is gone or holds something else by now, and there is no snapshot; the journal stays.
    Cancelled
    """
    progress = progress or silent()
    project, done = _stand(leftover, progress)
    history = History(project)
    steps = leftover.done[done:]
    for number, line in enumerate(steps):
        progress.step(number / max(1, len(steps)), f"step {number + 1} of {len(steps)}")
        try:
            command: Command = command_from_json(leftover.texts[line], f"{leftover.folder / LOG}, line {line + 1}")
            history.do(command)
        except Cancelled:
            raise
        except HulmoError as error:
            history.mark_changed()
            return Recovered(history, len(steps) - number, str(error))
    history.mark_changed()
    return Recovered(history)


def _stand(leftover: Leftover, progress: Progress) -> tuple[Project, int]:
    # the newest project to begin with, and how many of the done steps are in it
    there = [(leftover.folder / name, "", done) for name, done in leftover.snapshots.items()] + leftover.saves
    fitting = [(len(done), file, mark) for file, mark, done in there if done == leftover.done[: len(done)]]
    for count, file, mark in sorted(fitting, key=lambda entry: -entry[0]):
        if not is_there(file) or (mark and content_mark(file) != mark):
            continue  # still being written when the session ended; or saved again since
        try:
            return open_project(file, progress.part(0.0, 0.1)), count
        except FileProblem:
            continue
    if leftover.base is None:
        return Project(), 0
    for file in (leftover.folder / BASE, leftover.base):
        if is_there(file) and content_mark(file) == leftover.mark:
            return open_project(file, progress.part(0.0, 0.1)), 0
    raise FileProblem(
        f"{leftover.base} is gone, or holds something else since these steps were done; they no longer fit and stay in "
        f"{leftover.folder / LOG}"
    )


def _read(place: pathlib.Path) -> Leftover | None:
    try:
        texts, size = read_log(place / LOG)
    except OSError:
        return None
    head = header_of(texts)
    if head is None:
        return None
    path = head.get("path")
    done: list[int] = []
    undone: list[int] = []
    snapshots: dict[str, list[int]] = {}
    saves: list[tuple[pathlib.Path, str, list[int]]] = []
    steps = 0
    for number, text in enumerate(texts[1:], 1):
        other = _other(text)
        if "snapshot" in other:
            snapshots[pathlib.PurePath(str(other["snapshot"])).name] = list(done)
        elif "path" in other:
            path = other["path"]
            saves.append((pathlib.Path(str(path)), str(other.get("mark", "")), list(done)))
        else:
            steps += 1
            _step(text, number, done, undone)
    base, mark = head.get("base"), str(head.get("mark", ""))
    return Leftover(place, _place(base), mark, _place(path), steps, done, snapshots, saves, texts, size)


def _step(text: bytes, number: int, done: list[int], undone: list[int]) -> None:
    if text == b'"undo"':
        if done:
            undone.append(done.pop())
    elif text == b'"redo"':
        if undone:
            done.append(undone.pop())
    else:
        done.append(number)
        undone.clear()


def _other(text: bytes) -> dict[str, object]:
    # what a line says that is neither a command nor "undo" nor "redo"
    if not text.startswith((b'{"path"', b'{"snapshot"')):
        return {}
    try:
        entry = plain_json(text, "a line of the journal")
    except FileProblem:
        return {}
    return entry if isinstance(entry, dict) else {}


def _place(text: object) -> pathlib.Path | None:
    return pathlib.Path(text) if isinstance(text, str) else None
