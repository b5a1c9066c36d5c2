"""How large work is shared out to threads."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

_WANTED = os.environ.get("HULMO_WORKERS", "")

WORKERS = max(1, min(8, int(_WANTED) if _WANTED.isdecimal() else os.cpu_count() or 1))
"""Kernels let go of the GIL, so this many run at once; fewer where HULMO_WORKERS says so."""


def by_pieces(work: Callable[[slice], None], count: int, piece: int) -> None:
    """Do work on rows, so many at a time and side by side; every row must be written by its own piece alone.

    No thread is begun for what is a single piece.
    """
    pieces = [slice(start, start + piece) for start in range(0, count, piece)]
    if len(pieces) < 2:
        for part in pieces:
            work(part)
        return
    with ThreadPoolExecutor(WORKERS) as pool:
        list(pool.map(work, pieces))
