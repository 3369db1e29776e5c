"""How Numba is made to compile many kernels that call each other, in half its usual time.

By itself Numba compiles every function that a kernel calls into it again, with all that this one calls in turn, and
optimises the whole three times over. Here a large kernel is machine code once, which the others call; the rest, which LLVM
would copy into its callers, is still handed to them to be copied. The price is that a kernel must not be loaded before those
that it calls (`compiled` sees to that): LLVM ends the process over a name it cannot find.

What is overridden here is Numba's own and not promised to stay; `tests/core/test_compiled.py` tells when it changed.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from llvmlite import binding
from numba.core import types, untyped_passes
from numba.core.codegen import JITCodeLibrary
from numba.core.compiler import Compiler, Flags
from numba.core.compiler_machinery import PassManager
from numba.core.targetconfig import ConfigStack

LARGE = 8_000  # characters of LLVM's text for a function, 60 to 80 an instruction

# For what no kernel has: closures, `with`, raising with what is known only then, branches on None or on a literal.
NEEDLESS = (
    untyped_passes.WithLifting, untyped_passes.InlineClosureLikes, untyped_passes.MakeFunctionToJitFunction,
    untyped_passes.InlineInlinables, untyped_passes.RewriteDynamicRaises, untyped_passes.RewriteSemanticConstants,
    untyped_passes.DeadBranchPrune, untyped_passes.FindLiterallyCalls, untyped_passes.LiteralUnroll,
    untyped_passes.LiteralPropagationSubPipelinePass,
)


class KernelCompiler(Compiler):
    """Compiles one kernel, for the one signature it has."""

    def __init__(self, typing: Any, target: Any, library: Any, arguments: Any, result: Any, flags: Any, local: Any) -> None:
        super().__init__(typing, target, library, arguments, result, _Flags(flags), local)
        if not isinstance(typing.resolve_function_type, _Remembered):
            typing.resolve_function_type = _Remembered(typing.resolve_function_type)

    def define_pipelines(self) -> list[Any]:
        identity = self.state.func_id
        identity.unique_id = 0  # a count within the process otherwise, and a caller that is on the disk has to find the name
        self.state.library = _Library(self.state.targetctx.codegen(), identity.func_qualname)
        self.state.library.enable_object_caching()
        passes = PassManager("kernel")
        for step, told in super().define_pipelines()[0].passes:
            if step not in NEEDLESS:
                passes.add_pass(step, told)
        passes.finalize()
        return [passes]

    def compile_extra(self, function: Callable[..., Any]) -> Any:
        compiled, flags = super().compile_extra(function), self.state.flags
        names = compiled.fndesc
        if not flags.forceinline and len(str(compiled.library.get_function(names.llvm_func_name))) > LARGE:
            compiled.library.share_by_name("" if flags.no_cpython_wrapper else names.llvm_cpython_wrapper_name)
        return compiled


class _Library(JITCodeLibrary):
    """The code of one kernel, optimised once as a whole; Numba's takes each function alone first, then the whole twice."""

    def _optimize_functions(self, module: Any) -> None:
        module.data_layout = self._codegen._data_layout

    def _optimize_final_module(self) -> None:
        passes, builder = self._codegen._module_pass_manager()
        passes.run(self._final_module, builder)

    def share_by_name(self, way_in: str) -> None:
        """Give callers nothing to copy, so that they call. Code from the disk tells of a way in from Python by its name here."""
        names = f'define linkonce_odr ptr @"{way_in}"() {{ ret ptr null }}' if way_in else ""
        self._shared_module = binding.parse_assembly(f"{self._codegen._create_empty_module(self.name)}\n{names}")


class _Remembered:
    """Which of an operator's many versions is for which types, found once instead of each time the operator is met."""

    def __init__(self, resolve: Callable[..., Any]) -> None:
        self._resolve = resolve
        self._known: dict[Any, Any] = {}

    def __call__(self, function: Any, arguments: Any, named: Any) -> Any:
        flags = ConfigStack.top_or_none()
        if named or not isinstance(function, types.Function) or not isinstance(flags, _Flags):
            return self._resolve(function, arguments, named)
        key = function, tuple(arguments), flags
        if key not in self._known:
            self._known[key] = self._resolve(function, arguments, named)
        return self._known[key]


class _Flags(Flags):
    """Compared by what was set that concerns what a kernel calls.

    Numba asks at every operator of a kernel, gathers all the options there are each time, and compiles what it brings along,
    as `np.empty`, for each set of them.
    """

    def __hash__(self) -> int:
        return len(self._concerning_callees())

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Flags) and bool(self._concerning_callees() == other._concerning_callees())

    def _concerning_callees(self) -> dict[str, Any]:
        return {name: value for name, value in self._values.items() if name not in ("forceinline", "no_cpython_wrapper")}
