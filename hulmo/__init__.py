"""Hulmo: sculpt, paint and deliver free-form ground as triangle meshes."""

import os

from hulmo.core.kernel_files import cache_folder

__version__ = "0.1.0"

# Numba reads this once, when it is first imported, so it has to stand before any kernel module.
os.environ.setdefault("NUMBA_CACHE_DIR", str(cache_folder()))
