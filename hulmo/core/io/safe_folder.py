"""Files that are put into a folder together, once all of them are written."""

import contextlib
import fcntl
import os
import pathlib
import shutil
import tempfile
import time
from collections.abc import Iterator

from hulmo.core.io.safe_write import PREFIX, SUFFIX

HELD = ".held"
"""A file in each such folder that whoever writes there holds a lock on."""

YOUNG = 60.0
"""Seconds for which one without a lock may still be somebody's."""


@contextlib.contextmanager
def folder_inside(folder: pathlib.Path) -> Iterator[pathlib.Path]:
    """A folder to write into, in the folder that the files are for; it goes whatever happens, and so does what a killed
    process left of such.

    Raises
    ------
    OSError
        The folder cannot be written into.
    """
    _clean(folder)
    inside = pathlib.Path(tempfile.mkdtemp(prefix=PREFIX, suffix=SUFFIX, dir=folder))
    handle = os.open(inside / HELD, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    try:
        with contextlib.suppress(OSError):  # some network folders know no locks
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        yield inside
    finally:
        shutil.rmtree(inside, ignore_errors=True)
        os.close(handle)


def _clean(folder: pathlib.Path) -> None:
    for old in folder.glob(f"{PREFIX}*{SUFFIX}"):
        with contextlib.suppress(OSError):
            if not old.is_dir():
                continue
            if not (old / HELD).exists() and time.time() - old.stat().st_mtime < YOUNG:
                continue
            handle = os.open(old / HELD, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                shutil.rmtree(old, ignore_errors=True)
            finally:
                os.close(handle)
