"""Which modules hold kernels, and where their machine code is kept. Stands before Numba, which reads the place only once."""

import functools
import hashlib
import importlib.util
import os
import pathlib
import sys

MARKS = b"kernel(", b"part_of_kernels", b"written_into_kernels", b"part_in_instructions"
"""What stands over functions that machine code is made of."""

ROOT = pathlib.Path(__file__).resolve().parent.parent

WINDOW = "app"
"""The room that holds no kernels, a quarter of all files: it only gives commands. Every start looks through all others."""


@functools.cache
def _sources() -> dict[pathlib.Path, tuple[bool, bool]]:
    # files that machine code is made of, and whether they hold kernels, and what is written into them
    out = {}
    for file in sorted(file for room in ROOT.iterdir() if room.name != WINDOW for file in room.rglob("*.py")):
        text = file.read_bytes()
        found = [any(b"\n@" + mark in text for mark in marks) for marks in (MARKS[:1], MARKS[1:])]
        if any(found):
            out[file] = found[0], found[1]
    return out


def kernel_modules() -> tuple[str, ...]:
    """Names of all modules that hold kernels."""
    return tuple(
        ".".join(("hulmo", *file.relative_to(ROOT).with_suffix("").parts))
        for file, (kernels, _) in _sources().items()
        if kernels
    )


def installation() -> str:
    """Begins the name of every folder of this installation: Python's version, and a mark of where it lies."""
    place = hashlib.sha256(str(ROOT).encode()).hexdigest()[:8]
    return f"machine-code-{sys.version_info.major}.{sys.version_info.minor}-{place}"


@functools.cache
def alike() -> str:
    """Begins the name of every folder whose machine code is that of this source wherever the file of a kernel is the same.

    Numba looks at that file alone; so all that is written into kernels from elsewhere, and Numba itself, stand in the name.
    """
    numba = importlib.util.find_spec("numba")
    assert numba is not None and numba.origin is not None
    parts = [file for file, (_, written) in _sources().items() if written]
    return f"{installation()}-{_digest([pathlib.Path(numba.origin), *parts])}"


@functools.cache
def cache_folder() -> pathlib.Path:
    """Folder for the machine code of exactly this source: another version beside it, or after it, has its own.

    Numba holds machine code for outdated when its file has been written since, whatever is in it; so this does, too.
    """
    base = os.environ.get("XDG_CACHE_HOME") or pathlib.Path.home() / ".cache"
    return pathlib.Path(base) / "hulmo" / f"{alike()}-{_digest(list(_sources()))}"


def _digest(files: list[pathlib.Path]) -> str:
    digest = hashlib.sha256(sys.version.encode())
    for file in files:
        state = file.stat()
        digest.update(f"{file.name} {state.st_mtime_ns} {state.st_size}\n".encode())
    return digest.hexdigest()[:12]
