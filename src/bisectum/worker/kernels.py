"""Compiles all kernels, once, when Bisectum is installed: python -m bisectum.worker.kernels"""

from __future__ import annotations

import gc
import multiprocessing
import os
import sys
from typing import Any

import bisectum.core.course  # noqa: F401  with it come all kernels
from bisectum.core.raster.compiled import Prepared, prepared

MOST_WORKERS = 4  # each takes some 250 MB
WAITING, TAKEN, DONE, FAILED = range(4)


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
    for worker in workers:
        worker.join()
    if set(states) != {DONE}:
        sys.exit("Not all kernels could be compiled; what is wrong is told above.")
    print(len(kernels), "kernels compiled")


def _work(kernels: tuple[Prepared, ...], needs: list[list[int]], states: Any, changed: Any) -> None:
    while (place := _taken(needs, states, changed)) is not None:
        outcome = FAILED
        try:
            kernels[place].compile()
            outcome = DONE
        finally:
            with changed:
                states[place] = outcome
                changed.notify_all()


def _taken(needs: list[list[int]], states: Any, changed: Any) -> int | None:
    """A kernel that can be compiled now; None when there is nothing left to do, or something went wrong."""
    with changed:
        while WAITING in states and FAILED not in states:
            for place, state in enumerate(states):
                if state == WAITING and all(states[callee] == DONE for callee in needs[place]):
                    states[place] = TAKEN
                    return place
            changed.wait()
    return None


if __name__ == "__main__":
    main()
