"""Keeps the compiled kernels of this installation up to date: `python -m hulmo.core.kernel_cache`."""

import compileall
import shutil
import sys
import time

from hulmo.core.errors import FileProblem
from hulmo.core.kernel import compile_all
from hulmo.core.kernel_files import ROOT, alike, cache_folder, installation

READY = "ready"
"""File that says that everything has been compiled."""

FORGOTTEN = 14 * 24 * 3600.0
"""Seconds after which machine code of another version that nobody has used is dropped."""


def ready() -> bool:
    """Whether all kernels of exactly this source are compiled."""
    return (cache_folder() / READY).exists()


def prepare() -> None:
    """Compile what is not compiled, with a progress line on standard error. Does nothing when all is ready.

    What other processes have compiled, of this version or another, stays as it is while they may be using it.

    Raises
    ------
    FileProblem
        The cache folder cannot be written.
    """
    folder = cache_folder()
    if ready():
        return
    write_bytecode()
    others = [other for other in folder.parent.glob(f"{installation()}*") if other != folder]
    try:
        same = [other for other in others if other.name.startswith(alike())]
        if not folder.exists() and same:  # what is the same in the last version need not be compiled again
            last = max(same, key=lambda other: other.stat().st_mtime)
            shutil.copytree(last, folder, ignore=shutil.ignore_patterns(READY))
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(f"{folder}: cannot be written ({error.strerror}); kernels need a cache folder") from error
    compile_all(_show)
    (folder / READY).touch()
    for other in others:
        if time.time() - other.stat().st_mtime > FORGOTTEN:
            shutil.rmtree(other, ignore_errors=True)


def write_bytecode() -> None:
    """Have Python compile all modules once. It does so by itself, but not where its environment forbids it to write, and
    every start takes a second longer. Where the modules lie in a folder that cannot be written, nothing is done."""
    compileall.compile_dir(ROOT, quiet=2)


def _show(done: int, total: int, name: str) -> None:
    bar = "#" * (24 * done // total)
    live = sys.stderr.isatty()
    if not live and done * 6 // total == (done - 1) * 6 // total:
        return  # in a file, a few lines are enough
    text = f"compiling kernels, once: [{bar:<24}] {done}/{total} {name:<16}"
    print(
        f"\r{text}" if live else text.rstrip(), end="" if live and done < total else "\n", file=sys.stderr, flush=True
    )


if __name__ == "__main__":
    write_bytecode()
    prepare()
