"""A drag blade: its tip trails behind the middle that the machine moves, and turns where that leads it.

So that the tip follows a line, the middle goes ahead by the offset along the line's tangent, and swings about the tip at
corners. What the tip then does is worked out from the middle's way alone: it is drawn along behind it (a tractrix; C.
Huygens, 1692). """

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel

SWING_DEG = 10.0  # of a swing, from one place of the middle to the next
STEP_MM = 0.02  # of the middle between two looks at the tip
Points = NDArray[np.float64]


def led(line: Points, closed: bool, offset: float, overcut: float, before: Points) -> Points:
    """The way of the blade's middle so that its tip follows a line : (N, 2), mm. before : (2,), the direction in which the blade
    points when it comes down. Returns (M, 2)."""
    line = _moving(_with_overcut(_moving(line), overcut) if closed else line)
    if len(line) < 2:
        return line
    way = np.diff(line, axis=0)
    way /= np.hypot(*way.T)[:, None]
    parts = [_swing(line[0], before, way[0], offset)]
    for number in range(len(way)):
        parts.append(line[number : number + 2] + way[number] * offset)
        if number + 1 < len(way):
            parts.append(_swing(line[number + 1], way[number], way[number + 1], offset))
    return np.concatenate(parts)


def _moving(line: Points) -> Points:
    """Without places at which nothing moves."""
    return line[np.append(True, (np.abs(np.diff(line, axis=0)) > 1e-9).any(axis=1))]


def _with_overcut(line: Points, overcut: float) -> Points:
    """A closed line followed on beyond its start."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    reach = min(overcut, along[-1] / 2)
    stay = int(np.searchsorted(along, reach))
    if not stay:
        return line
    share = (reach - along[stay - 1]) / (along[stay] - along[stay - 1])
    end = line[stay - 1] + (line[stay] - line[stay - 1]) * share
    return np.concatenate([line, line[1:stay], end[None]])


def _swing(tip: Points, before: Points, after: Points, offset: float) -> Points:
    """Places of the middle on its way about the tip from one direction to another."""
    turn = float(np.arctan2(before[0] * after[1] - before[1] * after[0], before @ after))
    count = int(np.ceil(abs(turn) / np.radians(SWING_DEG)))
    if count < 2:
        return np.empty((0, 2))
    angles = np.arctan2(before[1], before[0]) + turn * np.linspace(0, 1, count + 1)
    return tip + offset * np.stack([np.cos(angles), np.sin(angles)], axis=1)


def dragged(middle: Points, tip: Points, offset: float) -> Points:
    """Where the tip is at each place of the middle's way. middle : (N, 2); tip : (2,), where it comes down. Returns (N, 2)."""
    found = np.empty((len(middle), 2))
    _drag(np.ascontiguousarray(middle), np.ascontiguousarray(tip, np.float64), offset, STEP_MM, found)
    return found


@kernel("void(f8[:,:], f8[:], f8, f8, f8[:,:]!)")
def _drag(middle, tip, offset, step, found):  # type: ignore[no-untyped-def]
    """The tip keeps its distance and moves only towards the middle, never aside."""
    x, y = tip[0], tip[1]
    for k in range(len(middle)):
        if k:
            ax, ay = middle[k - 1, 0], middle[k - 1, 1]
            bx, by = middle[k, 0], middle[k, 1]
            long = ((bx - ax) ** 2 + (by - ay) ** 2) ** 0.5
            count = int(long / step) + 1
            for i in range(1, count + 1):
                cx, cy = ax + (bx - ax) * i / count, ay + (by - ay) * i / count
                dx, dy = cx - x, cy - y
                away = (dx * dx + dy * dy) ** 0.5
                if away > offset:  # pulled; pushed back it would only turn
                    x, y = cx - dx / away * offset, cy - dy / away * offset
        found[k, 0], found[k, 1] = x, y
