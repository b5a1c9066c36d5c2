"""Charts made in a process of their own."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.apart import Arrays, done_apart
from hulmo.core.errors import InvalidInput
from hulmo.core.progress import Progress
from hulmo.core.uv.along_seams import along_seams
from hulmo.core.uv.flatten import KEEP
from hulmo.core.uv.opened import made_discs
from hulmo.core.uv.pack import packed
from hulmo.core.uv.unwrap import unwrapped

AT_ONCE = 3000
"""Triangles up to which it is done at once."""

HERE = "hulmo.core.uv.apart"

Uv = NDArray[np.float64]


def unwrapped_apart(
    position: NDArray[np.float32], triangles: NDArray[np.int32], size: int, margin: int, bent: float, progress: Progress
) -> Uv:
    """`unwrapped`, with progress.

    Raises
    ------
    Cancelled
        Somebody wants it stopped.
    InvalidInput
        It could not be done.
    """
    if triangles.shape[0] <= AT_ONCE:
        return unwrapped(position, triangles, size, margin, bent)
    given: Arrays = {
        "position": position,
        "triangles": triangles,
        "numbers": np.array([size, margin, bent], np.float64),
    }
    return done_apart(f"{HERE}:_unwrap", given, progress, "unwrapping")["uv"]


def packed_apart(uv: Uv, chart: NDArray[np.int32], size: int, margin: int, turns: bool, progress: Progress) -> Uv:
    """`packed`, with progress; raises as `unwrapped_apart`."""
    if uv.shape[0] <= AT_ONCE:
        return packed(uv, chart, size, margin, turns)
    given: Arrays = {"uv": uv, "chart": chart, "numbers": np.array([size, margin, turns], np.float64)}
    return done_apart(f"{HERE}:_pack", given, progress, "packing")["uv"]


def laid_along_seams_apart(
    place: Uv, opposite: NDArray[np.int32], seam: NDArray[np.bool_], keep: str, progress: Progress
) -> tuple[Uv, NDArray[np.int32]]:
    """`along_seams`, with the cuts that charts with holes need, and with progress; raises as `unwrapped_apart`.

    Parameters
    ----------
    place : (K, 3, 3) float64
    opposite : (3 K,) int32
    seam : (K, 3) bool
    keep : str
    """
    if place.shape[0] <= AT_ONCE:
        made = _along(place, opposite, seam, keep)
    else:
        given: Arrays = {
            "place": place,
            "opposite": opposite,
            "seam": seam,
            "numbers": np.array([KEEP.index(keep)], np.float64),
        }
        made = done_apart(f"{HERE}:_seams", given, progress, "unwrapping")["uv"]
    return made[..., :2], made[:, 0, 2].astype(np.int32)


def _along(place: Uv, opposite: NDArray[np.int32], seam: NDArray[np.bool_], keep: str) -> Uv:
    # (K, 3, 3): coordinates, and the number of the chart
    seam, closed = made_discs(opposite, seam)
    if closed:
        raise InvalidInput(
            f"{closed} {'part of it is' if closed == 1 else 'parts of it are'} closed and no seam cuts it open; "
            "mark seams all around a part, or choose Unwrap, which makes its own"
        )
    uv, chart = along_seams(place, opposite, seam, keep)
    return np.concatenate((uv, np.repeat(chart[:, None, None], 3, axis=1).astype(np.float64)), axis=2)


def _unwrap(position: NDArray[np.float32], triangles: NDArray[np.int32], numbers: Uv) -> Arrays:
    size, margin, bent = numbers.tolist()
    return {"uv": unwrapped(position, triangles, int(size), int(margin), bent)}


def _pack(uv: Uv, chart: NDArray[np.int32], numbers: Uv) -> Arrays:
    size, margin, turns = numbers.tolist()
    return {"uv": packed(uv, chart, int(size), int(margin), bool(turns))}


def _seams(place: Uv, opposite: NDArray[np.int32], seam: NDArray[np.bool_], numbers: Uv) -> Arrays:
    return {"uv": _along(place, opposite, seam, KEEP[int(numbers[0])])}
