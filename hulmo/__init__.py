"""Hulmo: sculpt, paint and deliver free-form ground as triangle meshes."""

import hashlib
import os
import pathlib
import sys

__version__ = "0.1.0"


def kernel_cache_folder() -> pathlib.Path:
    """Folder that holds the compiled numeric kernels of this installation."""
    base = os.environ.get("XDG_CACHE_HOME") or pathlib.Path.home() / ".cache"
    place = hashlib.sha256(str(pathlib.Path(__file__).resolve().parent).encode()).hexdigest()[:8]
    return pathlib.Path(base) / "hulmo" / f"kernels-{sys.version_info.major}.{sys.version_info.minor}-{place}"


# Numba reads this once, when it is first imported, so it has to stand before any kernel module.
os.environ.setdefault("NUMBA_CACHE_DIR", str(kernel_cache_folder()))
