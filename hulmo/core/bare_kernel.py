"""Kernels as plain functions: their machine code called as it is, without Numba, which takes longer to load than all else
that a short command does, or a window before its first picture.

Beside what Numba keeps of a kernel on disk lies its machine code alone, made by LLVM of the instructions that Numba has
written (`keep`). It is called through `ctypes` with what Numba's own wrapper would hand on: the parts of every array (Numba
developer manual, "Notes on Numba's calling convention"). Kernels that make arrays of their own need more than that and are
left to Numba, as is every call whose arguments are not exactly what the signature says, so that errors are Numba's as well.
"""

import contextlib
import ctypes
import functools
import hashlib
import json
import os
import pathlib
import re
import threading
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.kernel_files import cache_folder

SCALARS: dict[str, tuple[Any, type]] = {
    "int64": (ctypes.c_int64, int), "int32": (ctypes.c_int32, int), "float64": (ctypes.c_double, float),
    "float32": (ctypes.c_float, float), "boolean": (ctypes.c_uint8, bool),
}  # fmt: skip
"""Numbers that are handed on or come back: as C and as Python have them."""

NEVER = "NRT_MemInfo_call_dtor"
"""What frees an array that Numba owns. It stands in kernels that make none, too, and is not called by them."""

DONE = (0, -2)
"""What a kernel returns beside its result when all went well."""

_ARRAY = re.compile(
    r"(?P<kind>\w+)\[(?P<axes>[:, ]*:)(?P<dense>:1)?\]|"
    r"Array\((?P<kind2>\w+), (?P<count>\d), '(?P<order>[AC])', readonly=True\)"
)

_LOCK = threading.RLock()


class Unlike(Exception):
    """Arguments are not exactly what the signature says."""


class BareKernel:
    """A kernel that can be called without Numba.

    Parameters
    ----------
    address : int
        Of its machine code.
    signature : str
        As `kernel` has it.
    """

    def __init__(self, address: int, signature: str) -> None:
        returned, takes = _read(signature)
        self._takes = takes
        self._returned = None if returned == "void" else SCALARS[returned]
        kinds: list[Any] = [ctypes.c_void_p, ctypes.c_void_p]
        for take in takes:
            kinds += take.kinds
        self._call = ctypes.CFUNCTYPE(ctypes.c_int32, *kinds)(address)

    def __call__(self, *arguments: Any) -> Any:
        """What the kernel returns; the GIL is let go of meanwhile.

        Raises
        ------
        Unlike
        """
        if len(arguments) != len(self._takes):
            raise Unlike
        flat: list[Any] = []
        for take, argument in zip(self._takes, arguments, strict=True):
            take.add(argument, flat)
        kind, python = self._returned or (ctypes.c_int64, int)
        result, problem = kind(), ctypes.c_void_p()
        if self._call(ctypes.byref(result), ctypes.byref(problem), *flat) not in DONE:
            raise Unlike
        return None if self._returned is None else python(result.value)


class _Scalar:
    def __init__(self, name: str) -> None:
        kind, self._python = SCALARS[name]
        self.kinds = [kind]
        self._fits: tuple[type, ...] = (int, np.integer) if self._python is int else (bool, np.bool_)
        if self._python is float:
            self._fits = (float, np.floating, int, np.integer)

    def add(self, value: Any, flat: list[Any]) -> None:
        if not isinstance(value, self._fits):
            raise Unlike
        flat.append(self._python(value))


class _Table:
    def __init__(self, name: str, axes: int, dense: bool, readonly: bool) -> None:
        self._kind, self._axes = np.dtype("bool" if name == "boolean" else name), axes
        self._dense, self._readonly = dense, readonly
        self.kinds = [ctypes.c_void_p, ctypes.c_void_p, ctypes.c_int64, ctypes.c_int64, ctypes.c_void_p]
        self.kinds += [ctypes.c_int64] * (2 * axes)

    def add(self, value: Any, flat: list[Any]) -> None:
        if type(value) is not np.ndarray or value.dtype != self._kind or value.ndim != self._axes:
            raise Unlike
        flags = value.flags
        if not flags.aligned or (self._dense and not flags.c_contiguous) or not (flags.writeable or self._readonly):
            raise Unlike
        flat += (None, None, value.size, value.itemsize, value.ctypes.data, *value.shape, *value.strides)


@functools.cache
def _read(signature: str) -> tuple[str, list[_Scalar | _Table]]:
    # what a kernel returns and takes; KeyError where something is neither number nor array
    returned, rest = signature.rstrip().removesuffix(")").split("(", 1)
    if returned != "void":
        SCALARS[returned]
    takes: list[_Scalar | _Table] = []
    for word in re.split(r", ?(?![^\[(]*[\])])", rest) if rest else []:
        found = _ARRAY.fullmatch(word.strip())
        if found is None:
            takes.append(_Scalar(word.strip()))
        elif found["kind"]:
            takes.append(_Table(found["kind"], found["axes"].count(",") + 1, found["dense"] is not None, False))
        else:
            takes.append(_Table(found["kind2"], int(found["count"]), found["order"] == "C", True))
    return returned, takes


def keep(function: Callable[..., Any], signature: str, compiled: Any) -> None:
    """Keep the machine code of a kernel that Numba has just compiled, where it can be called without it."""
    try:
        _read(signature)
    except KeyError:
        return
    import llvmlite.binding as llvm

    with _LOCK:
        target = _target()
        module = llvm.parse_assembly(compiled.inspect_llvm(compiled.signatures[0]))
        own = [f for f in module.functions if not f.is_declaration and f.linkage == llvm.Linkage.external]
        names = [f.name for f in own if f.name.startswith("_ZN") and not f.name.startswith("_ZN7cpython")]
        if len(names) != 1:
            return
        for part in (*module.functions, *module.global_variables):
            if not part.is_declaration and part.name != names[0]:
                part.linkage = llvm.Linkage.internal
        passes = llvm.create_new_module_pass_manager()
        passes.add_global_dead_code_eliminate_pass()
        passes.run(module, llvm.create_pass_builder(target, llvm.create_pipeline_tuning_options(0)))
        needed = {f.name for f in module.functions if f.is_declaration and not f.name.startswith("llvm.")} - {NEVER}
        if any(name.startswith(("NRT_", "Py", "numba_")) or not llvm.address_of_symbol(name) for name in needed):
            return
        code = target.emit_object(module)
        told = {"of": _state(function), "name": names[0], "sum": _sum(names[0], code)}
        path = _file(function, signature)
        beside = path.with_suffix(f".{os.getpid()}")
        with contextlib.suppress(OSError):  # it is called by Numba then
            path.parent.mkdir(parents=True, exist_ok=True)
            beside.write_bytes(json.dumps(told).encode() + b"\n" + code)
            beside.replace(path)


def bare(function: Callable[..., Any], signature: str) -> BareKernel | None:
    """A kernel as it is kept; None where it is not, or not of this source and this processor."""
    with contextlib.suppress(OSError, ValueError, KeyError, TypeError):
        import llvmlite.binding as llvm

        head, code = _file(function, signature).read_bytes().split(b"\n", 1)
        told = json.loads(head)
        if told["of"] == _state(function) and told["sum"] == _sum(told["name"], code):
            with _LOCK:
                engine = _engine()
                engine.add_object_file(llvm.ObjectFileRef.from_data(code))
                engine.finalize_object()
                return BareKernel(engine.get_function_address(told["name"]), signature)
    return None


def _sum(name: str, code: bytes) -> str:
    # without a name that is there, a kernel would have no address
    return hashlib.sha256(name.encode() + b"\n" + code).hexdigest()


def _state(function: Callable[..., Any]) -> list[int]:
    # of the file a kernel stands in, by which Numba, too, knows whether machine code is outdated
    state = pathlib.Path(function.__code__.co_filename).stat()
    return [state.st_mtime_ns, state.st_size]


def _file(function: Callable[..., Any], signature: str) -> pathlib.Path:
    import llvmlite.binding as llvm

    with _LOCK:
        _target()
        processor = f"{llvm.get_host_cpu_name()} {llvm.get_host_cpu_features().flatten()} {llvm.get_process_triple()}"
    mark = hashlib.sha256(f"{signature} {processor}".encode()).hexdigest()[:12]
    return cache_folder() / "bare" / f"{function.__module__}.{function.__qualname__}.{mark}.o"


@functools.cache
def _target() -> Any:
    import llvmlite.binding as llvm

    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    return llvm.Target.from_default_triple().create_target_machine(
        cpu=llvm.get_host_cpu_name(), features=llvm.get_host_cpu_features().flatten(), opt=3, reloc="static",
        codemodel="jitdefault", jit=True,
    )  # fmt: skip


@functools.cache
def _engine() -> Any:
    import llvmlite.binding as llvm

    target = _target()
    if not llvm.address_of_symbol(NEVER):
        llvm.add_symbol(NEVER, ctypes.cast(_never, ctypes.c_void_p).value)
    return llvm.create_mcjit_compiler(llvm.parse_assembly(""), target)


@ctypes.CFUNCTYPE(None, ctypes.c_void_p)
def _never(_: int) -> None:
    raise AssertionError("a kernel that makes no arrays has freed one")
