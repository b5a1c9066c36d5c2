"""Numba, made ready for machine code that is on disk already; what it needs to write some is prepared when it has to.

Every start loads kernels, hardly one compiles any, and the rules by which Numba types and lowers Python take as long to
prepare as all else that loading needs. The one place that reaches into Numba: `refresh` of its two contexts, where those
rules are prepared, and the modules that machine code on disk names, of which only rules are made. A test holds both ways.
"""

import contextlib
import importlib
import sys
import types
from collections.abc import Callable, Iterator
from typing import Any, cast


def lean_njit() -> Callable[..., Any]:
    """Numba's `njit`."""
    with _without("yaml"):  # of which it would read a file of settings, if there were one
        from numba import njit
    from numba.core import environment
    from numba.core.registry import cpu_target
    from numba.core.runtime import rtsys

    typing, target = cpu_target.typing_context, cpu_target.target_context

    def whole() -> None:
        # asked for by whatever compiles, before anything else
        for context in (typing, target):
            vars(context).pop("refresh", None)
        vars(environment)["importlib"] = importlib
        _refreshed(target)

    def loaded() -> None:
        # asked for before machine code is looked for on disk: all it needs is Numba's memory of arrays
        rtsys.initialize(target)

    typing.refresh, target.refresh = whole, loaded
    vars(environment)["importlib"] = types.SimpleNamespace(import_module=_module)
    return cast(Callable[..., Any], njit)


def _module(name: str) -> types.ModuleType:
    # whose names machine code would look up if it called Python; what is made of Numba's own rules never does
    if name in sys.modules or not name.startswith("numba."):
        return importlib.import_module(name)
    return types.ModuleType(name)


def _refreshed(target: Any) -> None:
    # Numba looks for SciPy's BLAS when it prepares its rules, which imports all of scipy.linalg. No kernel here calls BLAS:
    # compiling begins a third of a second sooner.
    with _without("scipy.linalg"):
        target.refresh()


@contextlib.contextmanager
def _without(name: str) -> Iterator[None]:
    # a module that Numba can do without is "not there" while it looks
    had = sys.modules.get(name)
    sys.modules[name] = None  # type: ignore[assignment]
    try:
        yield
    finally:
        del sys.modules[name]
        if had is not None:
            sys.modules[name] = had
