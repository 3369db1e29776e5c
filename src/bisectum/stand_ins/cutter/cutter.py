"""The stand-in cutter: it takes a file, and what comes of it is a sheet that is cut, with the way its blade went."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress
from bisectum.stand_ins.cutter.blade import dragged, led
from bisectum.stand_ins.cutter.freed import Freed, freed_by
from bisectum.stand_ins.cutter.machine import Machine
from bisectum.stand_ins.cutter.motion import seconds_of
from bisectum.stand_ins.cutter.order import in_order, joined
from bisectum.stand_ins.cutter.reading import ToolLine, tool_lines

MoveKind = Literal["travel", "cut", "score", "draw"]
_KINDS: dict[str, MoveKind] = {"blade": "cut", "scoring": "score", "pen": "draw"}


@dataclass(frozen=True, slots=True, eq=False)
class Move:
    """points : (N, 2), mm: where the tip goes; start, end: s."""

    kind: MoveKind
    points: NDArray[np.float64]
    start: float
    end: float

    @property
    def length(self) -> float:
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


@dataclass(frozen=True, slots=True, eq=False)
class CutSheet:
    """moves: in their order; freed: what comes free; seconds: how long it takes; cut_mm, travel_mm: with the blade down and
    up."""

    moves: tuple[Move, ...]
    freed: tuple[Freed, ...]
    seconds: float
    cut_mm: float
    travel_mm: float

    @property
    def pieces(self) -> tuple[Freed, ...]:
        return tuple(one for one in self.freed if one.kind == "piece")


def cut(data: bytes, machine: Machine, height: float | None = None, progress: Progress = SILENT) -> CutSheet:
    """Cut all that a file holds out of one sheet. height: as for tool_lines. Raises: InputError; Cancelled."""
    return cut_lines(tool_lines(data, height), machine, progress)


def cut_lines(lines: Sequence[ToolLine], machine: Machine, progress: Progress = SILENT) -> CutSheet:
    """Raises: Cancelled."""
    moves: list[Move] = []
    at, now, facing = np.zeros(2), 0.0, np.array([1.0, 0.0])
    order = in_order(joined(lines))
    for number, line in enumerate(order):
        progress.raise_if_cancelled()
        progress.report(0.8 * number / len(order))
        if line.tool == "blade":
            middle = led(line.points, line.closed, machine.offset, machine.overcut, facing)
            tip = dragged(middle, line.points[0], machine.offset)
        else:
            middle = tip = line.points
        way = np.stack([at, middle[0]])
        taken = float(seconds_of(way, machine.travel, machine.acceleration)[-1])
        moves.append(Move("travel", np.stack([moves[-1].points[-1] if moves else at, tip[0]]), now, now + taken))
        now += taken + machine.lift_s
        taken = float(seconds_of(middle, machine.speed, machine.acceleration)[-1])
        moves.append(Move(_KINDS[line.tool], tip, now, now + taken))
        now += taken + machine.lift_s
        at = middle[-1]
        ahead = middle[-1] - tip[-1]
        if line.tool == "blade" and np.hypot(*ahead) > 0:
            facing = ahead / np.hypot(*ahead)
    filled: dict[int, list[NDArray[np.float64]]] = {}
    for line in lines:
        if line.fill >= 0:
            filled.setdefault(line.fill, []).append(line.points)
    freed = freed_by([move.points for move in moves if move.kind == "cut"], list(filled.values()))
    return CutSheet(tuple(moves), tuple(freed), now, sum(move.length for move in moves if move.kind != "travel"),
                    sum(move.length for move in moves if move.kind == "travel"))
