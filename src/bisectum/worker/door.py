"""The door for files from outside: each is read in a process of its own, with little time and memory, so that a file that swells
or turns in a circle harms and delays nothing else."""

from __future__ import annotations

import multiprocessing
import resource
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from bisectum.core.errors import BisectumError, InputError
from bisectum.worker.messages import Done, Failed

PROCESSOR_S, MEMORY, PATIENCE_S = 20, 2**30, 60.0
PRELOADED = ["bisectum.core.formats.ready.svg", "bisectum.core.formats.ready.dxf", "bisectum.core.items.lettering"]
Result = TypeVar("Result")


def through_the_door(work: Callable[..., Result], *arguments: Any) -> Result:
    """work(*arguments) in a process that has PROCESSOR_S of processor time and MEMORY for its data. work: a module's function.

    Raises: InputError where that is not enough; the BisectumError that `work` raises.
    """
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(PRELOADED)
    ours, theirs = context.Pipe(duplex=False)
    process = context.Process(target=_carry_out, args=(theirs, work, arguments), daemon=True)
    process.start()
    theirs.close()
    try:
        answer = ours.recv() if ours.poll(PATIENCE_S) else None
    except EOFError:
        answer = None
    finally:
        ours.close()
        process.kill()
        process.join()
    if isinstance(answer, Failed):
        raise answer.error()
    if answer is None:
        raise InputError("This file takes too much time or memory to be read. Save it more simply: with fewer nodes, and without "
                         "copies of copies.", code="file_too_heavy")
    result: Result = answer.result
    return result


def _carry_out(connection: Connection, work: Callable[..., Any], arguments: tuple[Any, ...]) -> None:
    resource.setrlimit(resource.RLIMIT_CPU, (PROCESSOR_S, PROCESSOR_S))
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))
    try:
        connection.send(Done(0, work(*arguments)))
    except BisectumError as error:
        connection.send(Failed(0, type(error), error.code, error.message, error.details))
    except MemoryError:
        pass  # the closed pipe says so
