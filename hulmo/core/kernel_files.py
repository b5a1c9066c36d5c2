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
def _sources() -> dict[pathlib.Path, bool]:
    # files that machine code is made of, and whether they hold kernels or only what is inlined into them
    out = {}
    for file in sorted(file for room in ROOT.iterdir() if room.name != WINDOW for file in room.rglob("*.py")):
        text = file.read_bytes()
        if any(b"\n@" + mark in text for mark in MARKS):
            out[file] = b"\n@kernel(" in text
    return out


def kernel_modules() -> tuple[str, ...]:
    """Names of all modules that hold kernels."""
    return tuple(
        ".".join(("hulmo", *file.relative_to(ROOT).with_suffix("").parts)) for file, own in _sources().items() if own
    )


def installation() -> str:
    """Begins the name of every folder of this installation: Python's version, and a mark of where it lies."""
    place = hashlib.sha256(str(ROOT).encode()).hexdigest()[:8]
    return f"kernels-{sys.version_info.major}.{sys.version_info.minor}-{place}"


@functools.cache
def cache_folder() -> pathlib.Path:
    """Folder for the machine code of exactly this source: another version beside it, or after it, has its own.

    Numba holds machine code for outdated when its file has been written since, whatever is in it; so this does, too.
    """
    digest = hashlib.sha256(sys.version.encode())
    numba = importlib.util.find_spec("numba")
    assert numba is not None and numba.origin is not None
    for file in (pathlib.Path(numba.origin), *_sources()):  # Numba's own: another version of it writes other code
        state = file.stat()
        digest.update(f"{file.name} {state.st_mtime_ns} {state.st_size}\n".encode())
    base = os.environ.get("XDG_CACHE_HOME") or pathlib.Path.home() / ".cache"
    return pathlib.Path(base) / "hulmo" / f"{installation()}-{digest.hexdigest()[:12]}"
