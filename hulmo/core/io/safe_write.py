"""Writing a file so that a failure leaves the old one untouched."""

import contextlib
import errno
import os
import pathlib
import tempfile
from collections.abc import Iterator
from typing import BinaryIO

from hulmo.core.errors import FileProblem


@contextlib.contextmanager
def safe_write(path: pathlib.Path) -> Iterator[BinaryIO]:
    """A binary file that takes the place of `path` once it is complete.

    It is written beside the old file, flushed to disk, then renamed over it.

    Raises
    ------
    FileProblem
        Folder missing or not writable, disk full; the old file is as it was.
    """
    path = path.absolute()
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
        with os.fdopen(handle, "w+b") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
        os.chmod(temporary, mode)
        os.replace(temporary, path)
    except OSError as error:
        _forget(temporary)
        raise FileProblem(f"{path}: not written ({_reason(error)}); {_advice(error)}") from error
    except BaseException:
        _forget(temporary)
        raise


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


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
    return "choose a folder you can write to; nothing was lost"
