"""The file of a journal: lines that each carry a checksum, only ever added to.

A line is eight hexadecimal digits (CRC-32 of the text), a space, a JSON text, and a line feed. The first says where the
journal begins, each further one is a command, "undo", "redo", or `{"snapshot": file}`. Reading ends at the first line that is
cut or damaged.
"""

import json
import os
import pathlib
import zlib
from typing import Any

VERSION = 2

LOG, LOCK, BASE = "log", "lock", "base.hulmo"
"""Files in the folder of a journal; further snapshots are `<number>.hulmo`."""


def line_of(text: bytes) -> bytes:
    """A line of the log."""
    return b"%08x %s\n" % (zlib.crc32(text), text)


def read_log(file: pathlib.Path) -> tuple[list[bytes], int]:
    """Texts of all sound lines from the start, and how many bytes they take.

    Raises
    ------
    OSError
    """
    texts: list[bytes] = []
    sound = 0
    for line in file.read_bytes().split(b"\n"):
        text = line[9:]
        if len(line) < 10 or line[8:9] != b" " or line[:8] != b"%08x" % zlib.crc32(text):
            break
        texts.append(text)
        sound += len(line) + 1
    # a last line without its line feed is sound as well, but what follows must begin on a new one
    return texts, min(sound, file.stat().st_size)


def header_of(texts: list[bytes]) -> dict[str, Any] | None:
    """What the first line says; None where it is no journal that can be read."""
    try:
        head = json.loads(texts[0])
    except (IndexError, ValueError, RecursionError):
        return None
    return head if isinstance(head, dict) and head.get("hulmo-journal") == VERSION else None


class LogFile:
    """A log that is written to.

    What cannot be written waits in memory and goes first the next time, so that no line is ever left out of the middle.
    """

    def __init__(self, file: pathlib.Path, size: int | None = None) -> None:
        self._handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_CLOEXEC, 0o600)
        self._size = os.fstat(self._handle).st_size if size is None else size
        os.ftruncate(self._handle, self._size)
        self._waiting = b""

    @property
    def handle(self) -> int:
        """The file's descriptor, for whoever flushes it to disk."""
        return self._handle

    def add(self, text: bytes) -> None:
        """Add a line; it is the system's when this returns, and outlives the process.

        Raises
        ------
        OSError
            It waits in memory.
        """
        self._waiting += line_of(text)
        try:
            done = 0
            while done < len(self._waiting):
                done += os.pwrite(self._handle, self._waiting[done:], self._size + done)
        except OSError:
            os.ftruncate(self._handle, self._size)  # no half line stays
            raise
        self._size += len(self._waiting)
        self._waiting = b""

    def close(self) -> None:
        """Close it."""
        os.close(self._handle)
