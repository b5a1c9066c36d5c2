"""Writing a file so that a failure leaves the old one untouched."""

import contextlib
import errno
import fcntl
import os
import pathlib
import stat
import tempfile
from collections.abc import Callable, Iterator
from typing import BinaryIO

from hulmo.core.errors import FileProblem

PREFIX, SUFFIX = ".hulmo-", ".part"
"""Names of files that are being written; whoever writes one holds a lock on it."""

TRIES = 20


@contextlib.contextmanager
def safe_write(path: pathlib.Path, agreed: Callable[[], None] | None = None) -> Iterator[BinaryIO]:
    """A binary file that takes the place of `path` once it is complete, and `agreed` has returned without raising.

    It is written beside the old file, flushed to disk, then renamed over it. A symbolic link stays, and what it points to is
    replaced; owner, group and permissions stay as far as the system lets them. What a killed process left is cleaned away.

    Raises
    ------
    FileProblem
        Folder missing or not writable, disk full; the old file is as it was.
    """
    temporary = ""
    try:
        target = path.resolve()
        if target.is_dir():
            raise IsADirectoryError(errno.EISDIR, "it is a folder")
        _clean(target.parent)
        handle, temporary = _begin(target.parent)
        with os.fdopen(handle, "w+b") as file:
            yield file
            file.flush()
            _like(target, file.fileno())
            os.fsync(file.fileno())
            if agreed is not None:
                agreed()
            os.replace(temporary, target)
        _flush_folder(target.parent)
    except OSError as error:
        _forget(temporary)
        raise FileProblem(f"{path}: not written ({_reason(error)}); {_advice(error)}") from error
    except BaseException:
        _forget(temporary)
        raise


def _begin(folder: pathlib.Path) -> tuple[int, str]:
    for _ in range(TRIES):
        handle, name = tempfile.mkstemp(prefix=PREFIX, suffix=SUFFIX, dir=folder)
        with contextlib.suppress(OSError):  # some network folders know no locks
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        if os.fstat(handle).st_nlink:
            return handle, name
        os.close(handle)  # somebody cleaned it away before it was locked
    raise OSError(errno.EBUSY, "other programs keep deleting it")


def _clean(folder: pathlib.Path) -> None:
    for file in folder.glob(f"{PREFIX}*{SUFFIX}"):
        with contextlib.suppress(OSError):
            handle = os.open(file, os.O_RDWR | os.O_CLOEXEC)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                file.unlink()
            finally:
                os.close(handle)


def _like(target: pathlib.Path, handle: int) -> None:
    try:
        old = target.stat()
    except OSError:
        os.fchmod(handle, 0o666 & ~_umask())
        return
    for owner, group in ((old.st_uid, old.st_gid), (-1, old.st_gid)):
        try:
            os.fchown(handle, owner, group)
            break
        except OSError:
            continue  # only the system's manager may give files away
    os.fchmod(handle, stat.S_IMODE(old.st_mode))


def _flush_folder(folder: pathlib.Path) -> None:
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _umask() -> int:
    for line in pathlib.Path("/proc/self/status").read_text().splitlines():
        if line.startswith("Umask:"):
            return int(line.split()[1], 8)  # asking the system would change it for all threads meanwhile
    return 0o022


def _forget(temporary: str) -> None:
    if temporary:
        with contextlib.suppress(OSError):
            os.unlink(temporary)


def _reason(error: OSError) -> str:
    return error.strerror or str(error)


def _advice(error: OSError) -> str:
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return "free some space or choose another disk; nothing was lost"
    if error.errno in (errno.ENOENT, errno.ENOTDIR):
        return "the folder does not exist; choose another one"
    if error.errno == errno.ENAMETOOLONG:
        return "choose a shorter name"
    return "choose a folder you can write to; nothing was lost"
