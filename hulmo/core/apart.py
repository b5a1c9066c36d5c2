"""Work of libraries that know neither progress nor stopping, and hold on to Python while they work, in a process of its
own."""

import contextlib
import importlib
import os
import pathlib
import shutil
import subprocess
import sys
import tempfile
import time
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.progress import Progress

LOOK = 0.1
"""Seconds after which it is asked again whether somebody wants it stopped."""

REFUSED = 3
"""What that process ends with where it says in words why it can't be done."""

ROOT = pathlib.Path(__file__).resolve().parents[2]

Arrays = dict[str, NDArray[Any]]


class BrokenOff(InvalidInput):
    """The process ended in the middle: the library failed, or the system took it away."""


def done_apart(work: str, given: Arrays, progress: Progress, word: str) -> Arrays:
    """What a function makes of some arrays.

    Parameters
    ----------
    work : str
        "module:function", of a module that is quickly imported. The function gets the arrays by their names and returns a
        dict of arrays; where it raises InvalidInput, that is raised here.
    given : dict of arrays
    progress : Progress
        Told how long it has been going on.
    word : str
        What is being done: "packing".

    Raises
    ------
    Cancelled
        Somebody wants it stopped.
    InvalidInput
        It could not be done; `BrokenOff` where nobody knows why.
    FileProblem
        There is no room for the arrays, or for a process.
    """
    try:
        with tempfile.TemporaryDirectory(prefix="hulmo-apart-") as folder:
            return _done(work, given, progress, word, pathlib.Path(folder))
    except OSError as error:  # no room for the arrays, or none for a process
        raise FileProblem(
            f"{word}: {tempfile.gettempdir()}: {error.strerror or error}; free some space there"
        ) from error


def _done(work: str, given: Arrays, progress: Progress, word: str, folder: pathlib.Path) -> Arrays:
    np.savez(folder / "given.npz", **given)  # type: ignore[arg-type]
    words = [sys.executable, "-m", "hulmo.core.apart", work, str(folder)]
    process = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, cwd=ROOT)
    begun = time.monotonic()
    try:
        while process.poll() is None:
            passed = time.monotonic() - begun
            progress.step(0.1 + 0.8 * passed / (passed + 30.0), f"{word}, for {passed:.0f} s")
            with contextlib.suppress(subprocess.TimeoutExpired):
                process.wait(LOOK)
    finally:
        if process.poll() is None:
            process.kill()
        _, said = process.communicate()
    text = said.decode("utf-8", "replace").strip()
    if process.returncode == REFUSED:
        raise InvalidInput(f"{word}: {text}")
    if process.returncode:
        reason = text.splitlines()[-1:] or ["it ended in the middle"]
        raise BrokenOff(f"{word} failed ({reason[0]}); let Mesh care look through the body first")
    with np.load(folder / "made.npz") as made:
        return {name: made[name] for name in made.files}


def main() -> None:
    """In that process."""
    work, folder, parent = sys.argv[1], pathlib.Path(sys.argv[2]), os.getppid()
    module, _, function = work.partition(":")
    with np.load(folder / "given.npz") as given:
        arrays = {name: given[name] for name in given.files}
    (folder / "given.npz").unlink(missing_ok=True)
    try:
        made = getattr(importlib.import_module(module), function)(**arrays)
    except InvalidInput as error:
        print(error, file=sys.stderr)
        sys.exit(REFUSED)
    if os.getppid() != parent:  # it has been killed: nobody else clears up
        shutil.rmtree(folder, ignore_errors=True)
        return
    np.savez(folder / "made.npz", **made)


if __name__ == "__main__":
    main()
