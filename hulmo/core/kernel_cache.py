"""Keeps the compiled kernels of this installation up to date: `python -m hulmo.core.kernel_cache`."""

import hashlib
import pathlib
import shutil
import sys

import numba

import hulmo
from hulmo.core.errors import FileProblem
from hulmo.core.kernel import KERNEL_MODULES, compile_all

_ALSO = (
    "hulmo.core.kernel",
    "hulmo.core.sculpt.falloff",
    "hulmo.core.mesh.moment",
    "hulmo.core.mesh.ray_triangle",
    "hulmo.core.topology.edge_ops",
    "hulmo.core.topology.local.common",
)


def _fingerprint() -> str:
    root = pathlib.Path(hulmo.__file__).parent.parent
    digest = hashlib.sha256(f"{numba.__version__} {sys.version}".encode())
    for name in (*KERNEL_MODULES, *_ALSO):
        digest.update((root / (name.replace(".", "/") + ".py")).read_bytes())
    return digest.hexdigest()[:16]


def ready() -> bool:
    """Whether all kernels of exactly this source are compiled."""
    return (hulmo.kernel_cache_folder() / f"ready-{_fingerprint()}").exists()


def prepare() -> None:
    """Compile what is not compiled, with a progress line on standard error. Does nothing when all is ready.

    Raises
    ------
    FileProblem
        The cache folder cannot be written.
    """
    if ready():
        return
    folder = hulmo.kernel_cache_folder()
    try:
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(f"{folder}: cannot be written ({error.strerror}); kernels need a cache folder") from error
    compile_all(_show)
    (folder / f"ready-{_fingerprint()}").touch()


def _show(done: int, total: int, name: str) -> None:
    bar = "#" * (24 * done // total)
    live = sys.stderr.isatty()
    text = f"compiling kernels, once: [{bar:<24}] {done}/{total} {name:<16}"
    print(
        f"\r{text}" if live else text.rstrip(), end="" if live and done < total else "\n", file=sys.stderr, flush=True
    )


if __name__ == "__main__":
    prepare()
