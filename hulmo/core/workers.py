"""How many threads large work is shared out to."""

import os

WORKERS = max(1, min(8, os.cpu_count() or 1))
"""Kernels let go of the GIL, so this many run at once."""
