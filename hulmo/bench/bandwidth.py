"""The memory bandwidth that floors are computed from."""

import time

import numpy as np

SIZE = 256 * 1024 * 1024


def bandwidth() -> float:
    """Bytes a second, read and written, of copying an array that no cache holds; the best of five."""
    source = np.ones(SIZE // 8)
    target = np.empty_like(source)
    best = np.inf
    for _ in range(5):
        start = time.perf_counter()
        np.copyto(target, source)
        best = min(best, time.perf_counter() - start)
    return 2 * SIZE / best
