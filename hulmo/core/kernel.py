"""The one way a numeric kernel is declared."""

import contextlib
import functools
import importlib
import threading
from collections.abc import Callable
from typing import Any, TypeVar, cast

from hulmo.core.bare_kernel import BareKernel, Unlike, bare, keep
from hulmo.core.kernel_files import kernel_modules
from hulmo.core.lean_numba import lean_njit

F = TypeVar("F", bound=Callable[..., Any])

_LOCK = threading.Lock()


def load_numba() -> Callable[..., Any]:
    """Numba's `njit`, ready for use. It is loaded when machine code is first asked for: that takes longer than all else
    that a command without kernels does."""
    with _LOCK:
        return _njit()


def numba_loaded() -> bool:
    """Whether it is."""
    return bool(_njit.cache_info().currsize)


@functools.cache
def begin_to_load() -> None:
    """Begin `load_numba` in a thread; kernels are called without it until then, where they can be."""
    threading.Thread(target=load_numba).start()


@functools.cache
def _njit() -> Callable[..., Any]:
    return lean_njit()


class _Kernel:
    """A kernel that is compiled, or loaded from the disk cache, when it is first called. As long as nothing has needed Numba,
    its machine code is called without it, where that can be."""

    def __init__(self, function: Callable[..., Any], signature: str) -> None:
        self._function = function
        self._signature = signature
        self._compiled: Callable[..., Any] | None = None
        self.__doc__ = function.__doc__
        _ALL.append(self)

    def load(self) -> Callable[..., Any]:
        """The machine code."""
        if self._compiled is None:
            compiled = load_numba()(self._signature, cache=True, nogil=True, error_model="numpy")(self._function)
            if compiled.stats.cache_misses:
                keep(self._function, self._signature, compiled)
            self._compiled = compiled
        return self._compiled

    @functools.cached_property
    def _bare(self) -> BareKernel | None:
        return bare(self._function, self._signature)

    def __call__(self, *arguments: Any) -> Any:
        compiled = self._compiled
        if compiled is None and not numba_loaded() and self._bare is not None:
            with contextlib.suppress(Unlike):
                return self._bare(*arguments)
        return (compiled or self.load())(*arguments)


_ALL: list[_Kernel] = []


class _Part:
    """A function that kernels call. Numba is asked for it only where one of them is compiled."""

    def __init__(self, function: Callable[..., Any], inline: bool) -> None:
        self._function = function
        self._inline = inline
        self.__doc__ = function.__doc__

    @functools.cached_property
    def _made(self) -> Any:
        return load_numba()(inline="always" if self._inline else "never")(self._function)

    def __getattr__(self, name: str) -> Any:
        # what Numba asks of functions that it finds in kernels (`_numba_type_`, `targetoptions`, `py_func`)
        if name.startswith("__"):
            raise AttributeError(name)
        return getattr(self._made, name)

    def __call__(self, *arguments: Any) -> Any:
        return self._made(*arguments)


def kernel(signature: str) -> Callable[[F], F]:
    """Compile a function for exactly one signature, keep the machine code on disk, release the GIL.

    Floating-point reordering stays off, so a kernel gives the same bytes on every run. Nothing is loaded before the first
    call; `load_next` loads the rest while the program rests.
    """

    def decorate(function: F) -> F:
        return cast(F, _Kernel(function, signature))

    return decorate


def part_of_kernels(function: F) -> F:
    """Declare a function that kernels call; it has no signature of its own."""
    return cast(F, _Part(function, inline=False))


def written_into_kernels(function: F) -> F:
    """As `part_of_kernels`, put in the place of every call before anything else is done: for what takes functions or grows
    differently with what it is called with."""
    return cast(F, _Part(function, inline=True))


class _Written(_Part):
    """A part of kernels written as instructions of the compiler under Numba."""

    @functools.cached_property
    def _made(self) -> Any:
        load_numba()
        from numba.extending import intrinsic

        return intrinsic(self._function)

    @property
    def _numba_type_(self) -> Any:
        load_numba()
        from numba.core.registry import cpu_target

        made = self._made
        cpu_target.typing_context.refresh()  # it has just come to be known
        cpu_target.target_context.refresh()
        return cpu_target.typing_context.resolve_value_type(made)


def part_in_instructions(function: F) -> F:
    """Declare a part of kernels by what Numba's `intrinsic` asks for: of the types of what it is called with, a signature and
    what writes its instructions. For vectors of numbers, which the compiler does not find by itself."""
    return cast(F, _Written(function, inline=False))


def in_python(function: F) -> F:
    """A function that kernels call, for a few calls that are not worth machine code."""
    return cast(F, cast(_Part, function)._function)


def load_next(rooms: tuple[str, ...] = ("hulmo",)) -> bool:
    """Load one kernel of some rooms that was not called yet; False when all of them are loaded."""
    there = (entry for entry in _ALL if entry._compiled is None and entry._function.__module__.startswith(rooms))
    waiting = next(there, None)
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
