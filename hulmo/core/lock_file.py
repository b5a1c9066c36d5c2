"""Files that a process holds as long as it lives: the system lets go of them whatever way it ends."""

import contextlib
import fcntl
import os
import pathlib

_HELD: dict[str, int] = {}


def hold(path: pathlib.Path) -> bool:
    """Hold a lock file until `let_go` or the end of the process; False when another process has it.

    Raises
    ------
    OSError
        The file cannot be made.
    """
    handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(handle)
        return False
    _HELD[str(path)] = handle
    return True


def moved(old: pathlib.Path, new: pathlib.Path) -> None:
    """Say that a file that is held has another name now."""
    _HELD[str(new)] = _HELD.pop(str(old))


def let_go(path: pathlib.Path) -> None:
    """Let a lock file go and delete it."""
    handle = _HELD.pop(str(path), None)
    if handle is not None:
        with contextlib.suppress(OSError):
            path.unlink()
        os.close(handle)


def leave_to_parent() -> None:
    """In a copy of the process: leave all locks to the one it is a copy of, so that they end with that one."""
    for handle in _HELD.values():
        os.close(handle)
    _HELD.clear()


def held_by_another(path: pathlib.Path) -> bool:
    """Whether some process, this one included, holds a lock file."""
    if str(path) in _HELD:
        return True
    try:
        handle = os.open(path, os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    finally:
        os.close(handle)
    return False
