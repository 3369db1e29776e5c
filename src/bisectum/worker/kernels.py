"""Compiles all kernels, once, when Bisectum is installed: python -m bisectum.worker.kernels"""

from __future__ import annotations

import gc
import multiprocessing.connection
import os
import sys
from collections.abc import Sequence
from typing import Any, Protocol

import bisectum.core.course  # noqa: F401  with it come all kernels
from bisectum.core.raster.compiled import Prepared, prepared

MOST_WORKERS = 4
WAITING, TAKEN, DONE = range(3)


def main() -> None:
    """Share the kernels out to processes; each is compiled when those that it calls are on the disk."""
    gc.disable()
    kernels = prepared()
    places = {kernel: place for place, kernel in enumerate(kernels)}
    needs = [[places[callee] for callee in kernel.callees()] for kernel in kernels]
    context = multiprocessing.get_context("fork")
    states, changed = context.RawArray("b", len(kernels)), context.Condition()
    count = min(os.cpu_count() or 1, MOST_WORKERS)
    workers = [context.Process(target=_work, args=(kernels, needs, states, changed)) for _ in range(count)]
    for worker in workers:
        worker.start()
    if not all_succeed(workers):
        sys.exit("Not all kernels could be compiled; what is wrong is told above.")
    print(len(kernels), "kernels compiled")


class Worker(Protocol):
    """What is asked of a process: its end's code, None while it runs; what becomes ready at its end; a way to end it."""

    @property
    def exitcode(self) -> int | None: ...
    @property
    def sentinel(self) -> int: ...
    def terminate(self) -> None: ...


def all_succeed(workers: Sequence[Worker]) -> bool:
    """Wait for the end of all. When one fails the others are ended, since they might wait for what it had taken."""
    while True:
        # Asked once a round: who dies after being asked is still waited for, and its sentinel is ready at once.
        codes = [worker.exitcode for worker in workers]
        left = [worker for worker, code in zip(workers, codes, strict=True) if code is None]
        if any(codes):
            for worker in left:
                worker.terminate()
            return False
        if not left:
            return True
        multiprocessing.connection.wait([worker.sentinel for worker in left])


def _work(kernels: tuple[Prepared, ...], needs: list[list[int]], states: Any, changed: Any) -> None:
    while (place := _taken(needs, states, changed)) is not None:
        kernels[place].compile()
        with changed:
            states[place] = DONE
            changed.notify_all()


def _taken(needs: list[list[int]], states: Any, changed: Any) -> int | None:
    """A kernel that can be compiled now; None when all are taken."""
    with changed:
        while WAITING in states:
            for place, state in enumerate(states):
                if state == WAITING and all(states[callee] == DONE for callee in needs[place]):
                    states[place] = TAKEN
                    return place
            changed.wait()
    return None


if __name__ == "__main__":
    main()
