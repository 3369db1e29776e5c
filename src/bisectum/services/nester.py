"""Nesting by spyrrow (J. Gardeyn, T. Wauters and G. Vanden Berghe, An open-source heuristic to reboot 2D nesting research,
2025)."""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence

from bisectum.core.progress import Progress
from bisectum.core.steps.sheets.nest import Strip, Task

SEED = 7
LOOKED_AFTER = 0.05  # seconds between two looks at whether the work is still wanted
WORKERS = 2
COMPRESSING = 0.25  # share of the time


def nest(tasks: Sequence[Task], seconds: int, progress: Progress) -> list[Strip]:
    """See core.steps.sheets.nest.Nester. What is given up goes on for the rest of its time, and is forgotten."""
    found: list[Strip | None] = [None] * len(tasks)
    failed: list[BaseException] = []

    def work(number: int) -> None:
        try:
            found[number] = _strip(tasks[number], seconds)
        except BaseException as error:
            failed.append(error)

    threads = [threading.Thread(target=work, args=(number,), daemon=True) for number in range(len(tasks))]
    began = time.monotonic()
    for thread in threads:
        thread.start()
    while any(thread.is_alive() for thread in threads):
        time.sleep(LOOKED_AFTER)
        progress.raise_if_cancelled()
        progress.report(min(0.99, (time.monotonic() - began) / (seconds + 0.5)))
    if failed:
        raise failed[0]
    return [strip for strip in found if strip is not None]


def _strip(task: Task, seconds: int) -> Strip:
    import spyrrow

    items = [spyrrow.Item(str(number), list(map(tuple, demand.shape.tolist())), demand.count, demand.turns)
             for number, demand in enumerate(task.demands)]
    instance = spyrrow.StripPackingInstance("sheet", task.height, items)
    compression = round(seconds * COMPRESSING)
    config = spyrrow.StripPackingConfig(early_termination=True, total_computation_time=None, num_workers=WORKERS, seed=SEED,
                                        exploration_time=max(1, seconds - compression), compression_time=compression)
    solution = instance.solve(config)
    laid = [(int(item.id), float(item.rotation), item.translation) for item in solution.placed_items]
    return Strip(solution.width, tuple((number, turn, float(x), float(y)) for number, turn, (x, y) in laid))
