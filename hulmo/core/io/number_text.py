"""Tables as lines of text, as exchange formats have them."""

from collections.abc import Iterator

import numpy as np
import orjson
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.workers import ahead

ROWS = 100_000
"""Lines that are put into words at a time."""

WIDEST = 20
"""Characters that a whole number has at the most."""


def lines_of(word: str, rows: NDArray[np.floating]) -> Iterator[bytes]:
    """Lines of a word and (N, width) numbers, blanks between them.

    Every number has as few digits as tell it from all others of its precision.

    Examples
    --------
    >>> list(lines_of("v", np.array([[0.1, 2.0]], np.float32)))
    [b'v 0.1 2.0\\n']
    """
    begin = f"{word} ".encode()

    def some(start: int) -> bytes:
        part = np.ascontiguousarray(rows[start : start + ROWS])
        text = orjson.dumps(part, option=orjson.OPT_SERIALIZE_NUMPY)
        return begin + text[2:-2].replace(b"],[", b"\n" + begin).replace(b",", b" ") + b"\n"

    return ahead(some, range(0, len(rows), ROWS))


def face_lines(corners: NDArray[np.integer], between: str) -> Iterator[bytes]:
    """Lines of an f and (M, 3, width) whole numbers from 0, those of a corner with something between them.

    Examples
    --------
    >>> list(face_lines(np.array([[[1, 1], [2, 2], [3, 3]]]), "//"))
    [b'f 1//1 2//2 3//3\\n']
    """
    gap = np.frombuffer(between.encode(), np.uint8).copy()

    def some(start: int) -> bytes:
        part = np.ascontiguousarray(corners[start : start + ROWS], np.int64)
        room = np.empty(part.size * (WIDEST + gap.size + 1) + 2 * len(part), np.uint8)
        return room[: _faces(part, gap, room)].tobytes()

    return ahead(some, range(0, len(corners), ROWS))


@kernel("int64(int64[:,:,::1], uint8[::1], uint8[::1])")
def _faces(corners: NDArray[np.int64], gap: NDArray[np.uint8], out: NDArray[np.uint8]) -> int:
    digits = np.empty(WIDEST, np.uint8)
    at = 0
    for t in range(corners.shape[0]):
        out[at] = 102  # f
        at += 1
        for k in range(3):
            out[at] = 32
            at += 1
            for i in range(corners.shape[2]):
                if i > 0:
                    for c in range(gap.size):
                        out[at] = gap[c]
                        at += 1
                value, count = corners[t, k, i], 0
                while True:
                    digits[count] = 48 + value % 10
                    value //= 10
                    count += 1
                    if value == 0:
                        break
                for c in range(count):
                    out[at] = digits[count - 1 - c]
                    at += 1
        out[at] = 10
        at += 1
    return at
