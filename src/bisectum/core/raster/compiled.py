"""The one way kernels are compiled: explicit signature, kept on disk, without the interpreter's lock.

Signatures are spelled out so that every kernel is compiled once, when Bisectum is installed (`bisectum.worker.kernels`), and
never in a person's first request. A kernel is taken from the disk when it is first called, with those that it calls. They are
written as Numba's, with two differences: all arrays are C-contiguous, and an array argument is read only unless an
exclamation mark follows it: "void(u1[:,:], f8[:]!)" reads the first and writes the second.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from numba import njit, types
from numba.core.compiler_lock import global_compiler_lock
from numba.core.errors import CompilerError

_ARRAY = re.compile(r"(\w+)\[([:,]+)\](!?)")
_NAMES: dict[str, Any] = {
    "void": types.void, "b1": types.boolean, "u1": types.uint8, "i2": types.int16, "i4": types.int32, "i8": types.int64,
    "f4": types.float32, "f8": types.float64, "Tuple": types.Tuple, "UniTuple": types.UniTuple,
}
_OPTIONS: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy", "no_cfunc_wrapper": True}
_Decorator = Callable[[Callable[..., Any]], Any]
_kernels: list[Prepared] = []
_being_compiled: list[Prepared] = []


def kernel(signature: str, inline: bool = False) -> _Decorator:
    """Compile a function with Numba for `signature`, once it is needed.

    inline: as part of each kernel that calls it. What is called for every pixel gains by that: a call of its own hands over
    each array with its shape, and counts that it is used and no longer used.
    """
    return lambda function: Prepared(function, signature, {"forceinline": inline}).dispatcher


def part(signature: str, inline: bool = False) -> _Decorator:
    """Compile a function as `kernel` does, for other kernels only: it has no way in from Python, which would be most of it."""
    return lambda function: Prepared(function, signature, {"forceinline": inline, "no_cpython_wrapper": True}).dispatcher


class Prepared:
    """A function that will be a kernel, and Numba's object for it."""

    def __init__(self, function: Callable[..., Any], signature: str, options: dict[str, Any]) -> None:
        self.function, self.signature = function, signature
        self.dispatcher: Any = njit(**_OPTIONS, **options)(function)
        self.dispatcher.prepared = self
        self._file = self.dispatcher._cache._cache_file._source_stamp  # its time and size, when Bisectum began
        self.is_part = options.get("no_cpython_wrapper", False)
        self._template_of = self.dispatcher.get_call_template
        self.dispatcher.get_call_template = self._call_template
        self.dispatcher._compile_for_args = self._first_call
        if self.is_part:
            self.dispatcher._insert = lambda *_: None  # Numba would call at address 0
        _kernels.append(self)

    def callees(self) -> list[Prepared]:
        """The kernels that this one calls by name."""
        return [callee.prepared for callee in self._named().values() if hasattr(callee, "prepared")]

    def made_from(self) -> frozenset[Any]:
        """What it is made anew for when that changed: its file, its constants, and those of kernels it may have copied."""
        constants = {item for item in self._named().items() if isinstance(item[1], (int, float, tuple))}
        return frozenset({self._file, *constants}).union(*(callee.made_from() for callee in self.callees()))

    def compile(self) -> None:
        """Compile it, or take it from the disk, those that it calls first."""
        with global_compiler_lock:
            if not self.dispatcher.signatures:
                for callee in self.callees():
                    callee.compile()
                self.dispatcher._cache._cache_file._source_stamp = self.made_from()
                _being_compiled.append(self)
                try:
                    self.dispatcher.compile(_parsed(self.signature))
                finally:
                    _being_compiled.pop()
                self.dispatcher.disable_compile()  # other types of argument are converted, or refused

    def _named(self) -> dict[str, Any]:
        known = self.function.__globals__
        return {name: known[name] for name in self.function.__code__.co_names if name in known}

    def _first_call(self, *_: Any, **__: Any) -> Callable[..., Any]:
        if self.is_part:
            raise TypeError(f"{self.function.__qualname__} is part of kernels, and only called by them")
        self.compile()
        self.dispatcher.__dict__.pop("_compile_for_args", None)
        return lambda *arguments, **named: self.dispatcher(*arguments, **named)

    def _call_template(self, *arguments: Any) -> Any:
        self.compile()
        if _being_compiled and self not in _being_compiled[-1].callees():  # its changes would go unnoticed
            raise CompilerError(f"{self.function.__qualname__} must be called by a name of its own, not as part of a module")
        return self._template_of(*arguments)


def prepared() -> tuple[Prepared, ...]:
    """Every kernel imported so far."""
    return tuple(_kernels)


def _parsed(signature: str) -> Any:
    depth = 0
    for place in range(len(signature) - 1, -1, -1):
        depth += {")": 1, "(": -1}.get(signature[place], 0)
        if depth == 0:
            break
    result, arguments = signature[:place], signature[place:]
    return _types(result, False)(*_types(arguments[:-1] + ",)", True))


def _types(text: str, as_arguments: bool) -> Any:
    arrays: dict[str, Any] = {}

    def named(match: re.Match[str]) -> str:
        element, axes, written = match.groups()
        name = f"array{len(arrays)}"
        arrays[name] = types.Array(_NAMES[element], axes.count(":"), "C", readonly=as_arguments and not written)
        return name

    return eval(_ARRAY.sub(named, text), {"__builtins__": {}}, _NAMES | arrays)
