"""In which order lines are cut: what lies inside before what lies around it, and of these always the nearest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.stand_ins.cutter.reading import MEET_MM, ToolLine

Place = NDArray[np.float64]


def joined(lines: Sequence[ToolLine]) -> list[ToolLine]:
    """Open lines of one tool made one where their ends meet."""
    closed, left = [line for line in lines if line.closed], [line for line in lines if not line.closed]
    result = []
    while left:
        own = left.pop()
        going = True
        while going:
            going = False
            for number, other in enumerate(left):
                points = _after(own.points, other.points) if other.tool == own.tool else None
                if points is not None:
                    is_closed = _meets(points[0], points[-1])
                    own, going = replace(own, points=points, closed=is_closed), not is_closed
                    left.pop(number)
                    break
        result.append(own)
    return [*closed, *result]


def _meets(one: Place, other: Place) -> bool:
    return bool(np.hypot(*(one - other)) <= MEET_MM)


def _after(one: Place, other: Place) -> Place | None:
    """One line after the other, turned round where that is needed; None where no ends meet."""
    for first in (one, one[::-1]):
        for second in (other, other[::-1]):
            if _meets(first[-1], second[0]):
                return np.concatenate([first, second[1:]])
    return None


def in_order(lines: Sequence[ToolLine], start: tuple[float, float] = (0.0, 0.0)) -> list[ToolLine]:
    """Folds and pen lines first, while the sheet is whole; then cuts, the innermost first."""
    first = [line for line in lines if line.tool != "blade"]
    cuts = [line for line in lines if line.tool == "blade"]
    depth = _depths(cuts)
    result: list[ToolLine] = []
    at = np.array(start)
    for own in (first, *([line for line, deep in zip(cuts, depth, strict=True) if deep == level]
                         for level in sorted(set(depth), reverse=True))):
        nearest, at = _nearest(own, at)
        result += nearest
    return result


def _depths(cuts: Sequence[ToolLine]) -> list[int]:
    """How many closed lines lie around each."""
    areas = [shapely.Polygon(line.points) if line.closed and len(line.points) > 3 else None for line in cuts]
    around = [number for number, area in enumerate(areas) if area is not None]
    tree = shapely.STRtree([areas[number] for number in around])
    places = shapely.points(np.array([line.points[0] for line in cuts]).reshape(-1, 2))
    line, area = tree.query(places, predicate="within")
    depth = np.zeros(len(cuts), int)
    own = np.array(around, int)[area] != line
    np.add.at(depth, line[own], 1)
    return depth.tolist()


def _nearest(lines: Sequence[ToolLine], at: Place) -> tuple[list[ToolLine], Place]:
    """Always the line whose box, or whose end if it is open, is nearest; a closed one begins at its place nearest to the
    blade."""
    low = np.array([line.points.min(axis=0) if line.closed else line.points[0] for line in lines]).reshape(-1, 2)
    high = np.array([line.points.max(axis=0) if line.closed else line.points[0] for line in lines]).reshape(-1, 2)
    ends = np.array([line.points[-1] for line in lines]).reshape(-1, 2)
    is_open = np.array([not line.closed for line in lines])
    left = np.ones(len(lines), bool)
    result = []
    while left.any():
        away = (np.maximum(np.maximum(low - at, at - high), 0) ** 2).sum(axis=1)
        away = np.where(is_open, np.minimum(away, ((ends - at) ** 2).sum(axis=1)), away)
        best = int(np.where(left, away, np.inf).argmin())
        left[best] = False
        line = lines[best]
        if line.closed:
            ring = line.points[:-1]
            entry = int(((ring - at) ** 2).sum(axis=1).argmin())
            points = np.concatenate([ring[entry:], ring[:entry], ring[entry : entry + 1]])
        else:
            is_first = ((line.points[0] - at) ** 2).sum() <= ((line.points[-1] - at) ** 2).sum()
            points = line.points if is_first else line.points[::-1]
        result.append(replace(line, points=points))
        at = points[-1]
    return result, at
