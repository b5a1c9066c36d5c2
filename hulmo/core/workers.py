"""How large work is shared out to threads."""

import collections
import functools
import itertools
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

T = TypeVar("T")
R = TypeVar("R")

_WANTED = os.environ.get("HULMO_WORKERS", "")

WORKERS = max(1, min(8, int(_WANTED) if _WANTED.isdecimal() else os.cpu_count() or 1))
"""Kernels let go of the GIL, so this many run at once; fewer where HULMO_WORKERS says so."""


def side_by_side(
    work: Callable[[T], R], items: Sequence[T], most: int = WORKERS, told: Callable[[int], None] | None = None
) -> list[R]:
    """Do work on each of some items, several of them at once.

    Whoever asks works too, with threads that stay from one call to the next as helpers. Help that has not come by the end
    is done without, so that work may share out work of its own.

    Parameters
    ----------
    work : callable
        Returns what becomes of one item.
    items : sequence
        They are begun in this order; no thread is woken for a single one.
    most : int
        How many at once, at most.
    told : callable(int), optional
        Told after each item that the asking thread has done how many are done; what it raises ends the work.

    Returns
    -------
    list
        What has become of each, in the order of the items.

    Raises
    ------
    BaseException
        What came of the first item that failed; items not begun by then are left.

    Examples
    --------
    >>> side_by_side(lambda number: number * number, [1, 2, 3])
    [1, 4, 9]
    """
    results: list[R | None] = [None] * len(items)
    turn = itertools.count()  # its next is one step for Python, so that no two threads get the same
    failed: list[tuple[int, BaseException]] = []
    done: list[None] = []

    def some(tell: Callable[[int], None] | None = None) -> None:
        while not failed:
            place = next(turn)  # what is taken is done, whatever fails meanwhile
            if place >= len(items):
                return
            try:
                results[place] = work(items[place])
                done.append(None)
                if tell is not None:
                    tell(len(done))
            except BaseException as problem:
                failed.append((place, problem))

    helpers = [_crew().submit(some) for _ in range(min(most, WORKERS, len(items)) - 1)]
    some(told)
    for helper in helpers:
        if not helper.cancel():
            helper.result()
    if failed:  # all before the first that fails have been begun, so that it is always the same one
        raise min(failed, key=lambda entry: entry[0])[1]
    return results  # type: ignore[return-value]


def ahead(work: Callable[[T], R], items: Iterable[T], most: int = WORKERS) -> Iterator[R]:
    """What becomes of each of some items, in their order; the next ones are made while whoever asks uses those before.

    No more than `most` are made ahead. What is not begun by the time that it is asked for is made by whoever asks.
    """
    coming: collections.deque[tuple[T, Future[R]]] = collections.deque()
    rest = iter(items)
    try:
        while True:
            for item in itertools.islice(rest, most - len(coming)):
                coming.append((item, _crew().submit(work, item)))
            if not coming:
                return
            item, future = coming.popleft()
            yield work(item) if future.cancel() else future.result()
    finally:
        for _, future in coming:
            future.cancel()


def by_pieces(work: Callable[[slice], None], count: int, piece: int) -> None:
    """Do work on rows, so many at a time and side by side; every row must be written by its own piece alone."""
    side_by_side(work, [slice(start, start + piece) for start in range(0, count, piece)])


@functools.cache
def _crew() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(WORKERS)


os.register_at_fork(after_in_child=_crew.cache_clear)  # a child has none of its parent's threads
