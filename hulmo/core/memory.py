"""How much memory there is, asked before it is needed."""

import contextlib
import pathlib
from collections.abc import Iterator
from contextvars import ContextVar

BODY_BYTES = 600
"""Bytes a vertex that building a body needs at its peak: tables, index, and what is held only while they are made."""

FORM_BYTES = 300
"""The same for a base form, which is made whole and need not be looked over."""


_most: ContextVar[int | None] = ContextVar("most", default=None)


@contextlib.contextmanager
def at_most(vertices: int) -> Iterator[None]:
    """Within it, nothing may make a body of more vertices, however much memory there is."""
    before = _most.set(vertices)
    try:
        yield
    finally:
        _most.reset(before)


def available_bytes() -> int | None:
    """Bytes the system can hand out without swapping; None where it does not tell."""
    try:
        text = pathlib.Path("/proc/meminfo").read_text()
    except OSError:
        return None
    for line in text.splitlines():
        if line.startswith("MemAvailable:"):
            return int(line.split()[1]) * 1024
    return None


def shortage(vertices: int, each: int = BODY_BYTES) -> str:
    """What to say when a body of so many vertices, of so many bytes each, does not fit into memory, or is not allowed; empty
    when it is."""
    most = _most.get()
    if most is not None and vertices > most:
        return f"would have about {vertices:,} vertices, more than the {most:,} that were allowed (hulmo run --most)"
    there = available_bytes()
    needed = vertices * each
    if there is None or needed <= there:
        return ""
    return f"needs about {needed / 1e9:.1f} GB of memory, {there / 1e9:.1f} GB are free"
