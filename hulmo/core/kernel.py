"""The one way a numeric kernel is declared, and the list of modules that hold kernels."""

import importlib
from collections.abc import Callable
from typing import Any, TypeVar

from numba import njit

F = TypeVar("F", bound=Callable[..., Any])

KERNEL_MODULES = (
    "hulmo.core.mesh.one_ring",
    "hulmo.core.mesh.connectivity",
    "hulmo.core.mesh.normals",
    "hulmo.core.mesh.region",
    "hulmo.core.mesh.row_ranges",
    "hulmo.core.mesh.tree_build",
    "hulmo.core.mesh.tree_query",
    "hulmo.core.mesh.tree_update",
    "hulmo.core.sculpt.amount",
    "hulmo.core.sculpt.brushes.smooth",
    "hulmo.core.ground.shift",
    "hulmo.core.ground.quantise",
)


def kernel(signature: str) -> Callable[[F], F]:
    """Compile a function for exactly one signature, keep the machine code on disk, release the GIL.

    Floating-point reordering stays off, so a kernel gives the same bytes on every run.
    """

    def decorate(function: F) -> F:
        compiled: F = njit(signature, cache=True, nogil=True, error_model="numpy")(function)
        return compiled

    return decorate


def compile_all(report: Callable[[int, int, str], None]) -> None:
    """Import every kernel module, which compiles it or loads it from the cache.

    Parameters
    ----------
    report : callable(done, total, name)
        Called before each module and once at the end.
    """
    total = len(KERNEL_MODULES)
    for done, name in enumerate(KERNEL_MODULES):
        report(done, total, name.rsplit(".", 1)[-1])
        importlib.import_module(name)
    report(total, total, "")
