"""Edges collapsed by quadric error, by a library."""

import contextlib
import threading

import numpy as np
from numpy.typing import NDArray

from hulmo.core.apart import Arrays, done_apart
from hulmo.core.errors import FileProblem
from hulmo.core.low_high import low_high
from hulmo.core.progress import Progress

ALPHA, ROUNDS, CARE = 1e-9, 300, 3
"""What the library that keeps borders takes for the least error, for a body of length 1; its rounds at the most; and its
aggressiveness."""

AT_ONCE = 100_000
"""Triangles up to which it is done at once: the library holds on to Python while it works."""

ONE_AT_A_TIME = threading.Lock()
"""The libraries keep the mesh that they work on where all threads see it."""

Points = NDArray[np.float32]
Triangles = NDArray[np.int32]


def simplified(
    points: Points, faces: Triangles, wanted: int, care: int, progress: Progress
) -> tuple[Points, Triangles]:
    """Position and triangles after collapsing edges down to about so many triangles; what comes may pinch.

    Parameters
    ----------
    points, faces : (N, 3) float32, (M, 3) int32
    wanted : int
    care : int
        Aggressiveness of the library: the lower, the more careful.

    Raises
    ------
    Cancelled, InvalidInput
        It was stopped; it could not be done.

    Notes
    -----
    Garland and Heckbert, "Surface simplification using quadric error metrics" (1997), as fast-simplification does it.
    """
    return _done("simplify", points, faces, np.array([wanted, care], np.int64), progress)


def simplified_within(points: Points, faces: Triangles, wanted: int, progress: Progress) -> tuple[Points, Triangles]:
    """As `simplified`, every border kept, by the library pyfqmr."""
    return _done("simplify_within", points, faces, np.array([wanted], np.int64), progress)


def _done(
    what: str, points: Points, faces: Triangles, numbers: NDArray[np.int64], progress: Progress
) -> tuple[Points, Triangles]:
    given: Arrays = {"points": points, "faces": faces, "numbers": numbers}
    if faces.shape[0] > AT_ONCE:
        with contextlib.suppress(FileProblem):  # without room for the arrays it is done here
            made = done_apart(f"{__name__}:{what}", given, progress, "collapsing edges")
            return made["points"], made["faces"]
    made = WAYS[what](points, faces, numbers)
    return made["points"], made["faces"]


def simplify(points: Points, faces: Triangles, numbers: NDArray[np.int64]) -> Arrays:
    """`simplified` by arrays alone, for a process of its own."""
    import fast_simplification

    wanted, care = numbers.tolist()
    with ONE_AT_A_TIME:
        new_points, new_faces = fast_simplification.simplify(points, faces, target_count=wanted, agg=care)[:2]
    return {"points": new_points, "faces": new_faces}


def simplify_within(points: Points, faces: Triangles, numbers: NDArray[np.int64]) -> Arrays:
    """`simplified_within` by arrays alone, for a process of its own."""
    import pyfqmr

    # its thresholds are square units: of a body of length 1, whatever its size is
    low, high = low_high(points)
    size = float((high - low).max())
    with ONE_AT_A_TIME:
        worker = pyfqmr.Simplify()
        worker.setMesh(points.astype(np.float64), faces)
        worker.simplify_mesh(
            target_count=int(numbers[0]), aggressiveness=CARE, preserve_border=True, verbose=False,
            alpha=ALPHA * max(size, 1e-9) ** 2, max_iterations=ROUNDS,
        )  # fmt: skip
        new_points, new_faces, _ = worker.getMesh()
    return {"points": np.asarray(new_points, np.float32), "faces": np.asarray(new_faces, np.int32)}


WAYS = {"simplify": simplify, "simplify_within": simplify_within}
