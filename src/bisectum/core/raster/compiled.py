"""The one way kernels are compiled: explicit signature, kept on disk, without the interpreter's lock.

Signatures are spelled out so that every kernel is compiled once, when Bisectum is installed, and never in a person's
first request. They are written as Numba's, with two differences: all arrays are C-contiguous, and an array argument is
read only unless an exclamation mark follows it: "void(u1[:,:], f8[:]!)" reads the first and writes the second.
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


def kernel(signature: str) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Compile a function with Numba for `signature`."""
    return njit(_parsed(signature), cache=True, nogil=True, error_model="numpy")


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
