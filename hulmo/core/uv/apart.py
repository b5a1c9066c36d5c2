"""Charts made in a process of their own: the library that makes them knows neither progress nor stopping, and holds on to
Python while it works."""

import pathlib
import subprocess
import sys
import tempfile
import time
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.progress import Progress
from hulmo.core.uv.along_seams import along_seams
from hulmo.core.uv.flatten import KEEP
from hulmo.core.uv.opened import made_discs
from hulmo.core.uv.pack import packed
from hulmo.core.uv.unwrap import unwrapped

AT_ONCE = 3000
"""Triangles up to which it is done at once."""

LOOK = 0.1
"""Seconds after which it is asked again whether somebody wants it stopped."""

REFUSED = 3
"""What that process ends with where it says in words why it can't be done."""

ROOT = pathlib.Path(__file__).resolve().parents[3]

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
    given = {"position": position, "triangles": triangles, "numbers": np.array([size, margin, bent], np.float64)}
    return _done("unwrap", given, progress, "unwrapping")


def packed_apart(uv: Uv, chart: NDArray[np.int32], size: int, margin: int, turns: bool, progress: Progress) -> Uv:
    """`packed`, with progress; raises as `unwrapped_apart`."""
    if uv.shape[0] <= AT_ONCE:
        return packed(uv, chart, size, margin, turns)
    given = {"uv": uv, "chart": chart, "numbers": np.array([size, margin, turns], np.float64)}
    return _done("pack", given, progress, "packing")


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
        given = {
            "place": place,
            "opposite": opposite,
            "seam": seam,
            "numbers": np.array([KEEP.index(keep)], np.float64),
        }
        made = _done("seams", given, progress, "unwrapping")
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


def _done(what: str, given: dict[str, Any], progress: Progress, word: str) -> Uv:
    with tempfile.TemporaryDirectory(prefix="hulmo-uv-") as folder:
        path = pathlib.Path(folder)
        np.savez(path / "given.npz", **given)
        words = [sys.executable, "-m", "hulmo.core.uv.apart", what, folder]
        process = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, cwd=ROOT)
        begun = time.monotonic()
        try:
            while process.poll() is None:
                passed = time.monotonic() - begun
                progress.step(0.1 + 0.8 * passed / (passed + 30.0), f"{word}, for {passed:.0f} s")
                time.sleep(LOOK)
        finally:
            if process.poll() is None:
                process.kill()
            _, said = process.communicate()
        if process.returncode:
            reason = said.decode("utf-8", "replace").strip().splitlines()[-1:] or ["it ended in the middle"]
            if process.returncode == REFUSED:
                raise InvalidInput(f"{word}: {said.decode('utf-8', 'replace').strip()}")
            raise InvalidInput(f"{word} failed ({reason[0]}); let Mesh care look through the body first")
        return np.asarray(np.load(path / "made.npy"), np.float64)


def main() -> None:
    """In that process."""
    what, folder = sys.argv[1], pathlib.Path(sys.argv[2])
    given = np.load(folder / "given.npz")
    numbers = given["numbers"].tolist()
    if what == "seams":
        try:
            made = _along(given["place"], given["opposite"], given["seam"], KEEP[int(numbers[0])])
        except InvalidInput as error:
            print(error, file=sys.stderr)
            sys.exit(REFUSED)
    elif what == "unwrap":
        made = unwrapped(given["position"], given["triangles"], int(numbers[0]), int(numbers[1]), numbers[2])
    else:
        made = packed(given["uv"], given["chart"], int(numbers[0]), int(numbers[1]), bool(numbers[2]))
    np.save(folder / "made.npy", made)


if __name__ == "__main__":
    main()
