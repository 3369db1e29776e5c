"""The one way kernels are compiled: explicit signature, kept on disk, without the interpreter's lock.

Signatures are spelled out so that every kernel is compiled once, when Bisectum is installed (`compile_all`), and
never in a person's first request. A kernel is taken from the disk when it is first called; those that are only called
by other kernels are part of these and never loaded by themselves, which shortens a start. They are written
as Numba's, with two differences: all arrays are C-contiguous, and an array argument is read only unless an
exclamation mark follows it: "void(u1[:,:], f8[:]!)" reads the first and writes the second.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from numba import njit, types

_ARRAY = re.compile(r"(\w+)\[([:,]+)\](!?)")
_NAMES: dict[str, Any] = {
    "void": types.void, "b1": types.boolean, "u1": types.uint8, "i2": types.int16, "i4": types.int32, "i8": types.int64,
    "f4": types.float32, "f8": types.float64, "Tuple": types.Tuple, "UniTuple": types.UniTuple,
}
_OPTIONS: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy", "no_cfunc_wrapper": True}
_waiting: list[Callable[[], None]] = []


def kernel(signature: str, inline: bool = False) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Compile a function with Numba for `signature`, once it is needed.

    inline: as part of each kernel that calls it. What is called for every pixel gains by that: a call of its own hands over
    each array with its shape, and counts that it is used and no longer used.
    """

    def prepared(function: Callable[..., Any]) -> Callable[..., Any]:
        dispatcher: Any = njit(**_OPTIONS, forceinline=inline)(function)
        template_of = dispatcher.get_call_template

        def compile_now() -> None:
            if not dispatcher.signatures:
                dispatcher.compile(_parsed(signature))
                dispatcher.disable_compile()  # other types of argument are converted, or refused

        def first_call(*_: Any, **__: Any) -> Callable[..., Any]:
            compile_now()
            del dispatcher._compile_for_args
            return lambda *arguments, **named: dispatcher(*arguments, **named)

        def template(*arguments: Any) -> Any:
            compile_now()
            return template_of(*arguments)

        dispatcher._compile_for_args = first_call
        dispatcher.get_call_template = template
        _waiting.append(compile_now)
        return dispatcher

    return prepared


def compile_all(worker: int = 0, workers: int = 1) -> int:
    """Compile every kernel imported so far, or take it from the disk. Returns how many there are.

    worker: 0 .. workers - 1; processes that share the work begin at places of their own, every other one going backwards, and
    take from the disk what the others have done.
    """
    count, forward = len(_waiting), worker % 2 == 0
    begin = (worker if forward else worker + 1) * count // workers
    for step in range(count):
        _waiting[(begin + step if forward else begin - 1 - step) % count]()
    return count


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
