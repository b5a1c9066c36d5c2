"""Work of libraries that know neither progress nor stopping, and hold on to Python while they work, in a process of its
own."""

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
        There is no room for the arrays.
    """
    with tempfile.TemporaryDirectory(prefix="hulmo-apart-") as folder:
        try:
            np.savez(pathlib.Path(folder) / "given.npz", **given)  # type: ignore[arg-type]
        except OSError as error:
            raise FileProblem(f"{word}: {folder}: {error.strerror}; free some space there") from error
        words = [sys.executable, "-m", "hulmo.core.apart", work, folder]
        process = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, cwd=ROOT)
        begun = time.monotonic()
        try:
            while process.poll() is None:
                passed = time.monotonic() - begun
                progress.step(0.1 + 0.8 * passed / (passed + 30.0), f"{word}, for {passed:.0f} s")
                try:
                    process.wait(LOOK)
                except subprocess.TimeoutExpired:
                    continue
        finally:
            if process.poll() is None:
                process.kill()
            _, said = process.communicate()
        if process.returncode:
            reason = said.decode("utf-8", "replace").strip().splitlines()[-1:] or ["it ended in the middle"]
            if process.returncode == REFUSED:
                raise InvalidInput(f"{word}: {said.decode('utf-8', 'replace').strip()}")
            raise BrokenOff(f"{word} failed ({reason[0]}); let Mesh care look through the body first")
        with np.load(pathlib.Path(folder) / "made.npz") as made:
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
