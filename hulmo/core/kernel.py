"""The one way a numeric kernel is declared."""

import importlib
import sys
from collections.abc import Callable
from typing import Any, TypeVar, cast

from numba import njit
from numba.core.registry import cpu_target

from hulmo.core.kernel_files import kernel_modules

F = TypeVar("F", bound=Callable[..., Any])


def _load_numba() -> None:
    # Numba looks for SciPy's BLAS when it prepares its first kernel, which imports all of scipy.linalg. No kernel here
    # calls BLAS, so the look-up is answered with "not there", once, and start-up is a third of a second shorter.
    had = sys.modules.get("scipy.linalg")
    sys.modules["scipy.linalg"] = None  # type: ignore[assignment]
    try:
        cpu_target.typing_context.refresh()
        cpu_target.target_context.refresh()
    finally:
        del sys.modules["scipy.linalg"]
        if had is not None:
            sys.modules["scipy.linalg"] = had


_load_numba()


class _Kernel:
    """A kernel that is compiled, or loaded from the disk cache, when it is first called."""

    def __init__(self, function: Callable[..., Any], signature: str) -> None:
        self._function = function
        self._signature = signature
        self._compiled: Callable[..., Any] | None = None
        self.__doc__ = function.__doc__
        _ALL.append(self)

    @property
    def py_func(self) -> Callable[..., Any]:
        """The plain Python function, for tests."""
        return self._function

    def load(self) -> Callable[..., Any]:
        """The machine code."""
        if self._compiled is None:
            compiled = njit(self._signature, cache=True, nogil=True, error_model="numpy")(self._function)
            self._compiled = compiled
        return self._compiled

    def __call__(self, *arguments: Any) -> Any:
        compiled = self._compiled
        return (compiled or self.load())(*arguments)


_ALL: list[_Kernel] = []


def kernel(signature: str) -> Callable[[F], F]:
    """Compile a function for exactly one signature, keep the machine code on disk, release the GIL.

    Floating-point reordering stays off, so a kernel gives the same bytes on every run. Nothing is loaded before the first
    call; `load_next` loads the rest while the program rests.
    """

    def decorate(function: F) -> F:
        return cast(F, _Kernel(function, signature))

    return decorate


def load_next() -> bool:
    """Load one kernel that was not called yet; False when all are loaded."""
    waiting = next((entry for entry in _ALL if entry._compiled is None), None)
    if waiting is not None:
        waiting.load()
    return waiting is not None


def compile_all(report: Callable[[int, int, str], None]) -> None:
    """Compile every kernel, or load it from the cache.

    Parameters
    ----------
    report : callable(done, total, name)
        Called before each module and once at the end.
    """
    names = kernel_modules()
    total = len(names)
    for done, name in enumerate(names):
        report(done, total, name.rsplit(".", 1)[-1])
        importlib.import_module(name)
        while load_next():
            pass
    report(total, total, "")
