"""Strokes without what lies in an area, or with that only."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import lengths, points_at, split_at
from bisectum.core.model.picture import frozen
from bisectum.core.model.stroke import Stroke

SAMPLES_MM = 0.4  # an area that a stroke runs through on a shorter way may be missed
HALVINGS = 22
SHORTEST_MM = 0.05  # what is left of a stroke is no shorter

Inside = Callable[[NDArray[np.float64]], NDArray[np.bool_]]


def clipped(stroke: Stroke, inside: Inside, keeps: bool) -> list[Stroke]:
    """What is left of a stroke. inside: for places (N, 2), whether they lie in the area; keeps: what does is what is left."""
    runs: list[list[tuple[NDArray[np.float64], bool]]] = [[]]
    for segment, straight, long in zip(stroke.segments, stroke.straight.tolist(), lengths(stroke.segments), strict=True):
        marks = np.linspace(0.0, 1.0, max(2, int(long / SAMPLES_MM) + 2))
        stays = inside(points_at(segment[None], marks)[0]) == keeps
        cuts = [0.0, *(_change(segment, marks[k], marks[k + 1], bool(stays[k]), inside, keeps)
                       for k in np.flatnonzero(stays[1:] != stays[:-1])), 1.0]
        kept = bool(stays[0])
        for low, high in pairwise(cuts):
            if kept and high > low:
                runs[-1].append((_between(segment, low, high), straight))
            elif runs[-1]:
                runs.append([])
            kept = not kept
    return [_part(stroke, run) for run in runs if run and sum(float(lengths(own[None]).sum()) for own, _ in run) > SHORTEST_MM]


def _change(segment: NDArray[np.float64], low: float, high: float, stays: bool, inside: Inside, keeps: bool) -> float:
    """The parameter at which a segment enters or leaves, between two where it is on different sides."""
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        within = bool(inside(points_at(segment[None], np.array([middle]))[0])[0])
        if (within == keeps) == stays:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def _between(segment: NDArray[np.float64], low: float, high: float) -> NDArray[np.float64]:
    part = split_at(segment, high)[0] if high < 1 else segment
    return np.asarray(split_at(part, low / high)[1] if low > 0 else part)


def _part(stroke: Stroke, run: list[tuple[NDArray[np.float64], bool]]) -> Stroke:
    segments = np.array([own for own, _ in run])
    segments[1:, 0] = segments[:-1, 3]
    x, y = points_at(segments[len(run) // 2][None], np.array([0.5]))[0, 0]
    return replace(stroke, segments=frozen(segments), straight=frozen(np.array([straight for _, straight in run])),
                   at=(float(x), float(y)))
