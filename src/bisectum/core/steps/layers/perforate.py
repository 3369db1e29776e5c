"""Folds as cuts with gaps between them, for machines that cannot score."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import points_at, split_at
from bisectum.core.model.picture import frozen
from bisectum.core.model.stroke import Stroke, Strokes

STEPS = 64  # places on a segment by which length along it is told


def perforated(strokes: Strokes, cut_mm: float, gap_mm: float) -> Strokes:
    """The strokes, those that are folded as cuts of about `cut_mm` with gaps of about `gap_mm`, a gap at both ends."""
    result: list[Stroke] = []
    for stroke in strokes:
        result += _cuts(stroke, cut_mm, gap_mm) if stroke.role == "score" else [stroke]
    return tuple(result)


def _cuts(stroke: Stroke, cut_mm: float, gap_mm: float) -> list[Stroke]:
    t = np.linspace(0, 1, STEPS + 1)
    points = points_at(stroke.segments, t)
    steps = np.hypot(*np.diff(points, axis=1).transpose(2, 0, 1))
    along = np.concatenate([np.zeros((len(steps), 1)), np.cumsum(steps, axis=1)], axis=1)
    begins = np.append(0.0, np.cumsum(along[:, -1]))
    total = float(begins[-1])
    count = max(1, round((total - gap_mm) / (cut_mm + gap_mm)))
    if total <= gap_mm:
        return []
    factor = total / (count * (cut_mm + gap_mm) + gap_mm)
    found = []
    for k in range(count):
        low = factor * (gap_mm + k * (cut_mm + gap_mm))
        found.append(_between(stroke, low, low + factor * cut_mm, begins, along, t))
    return found


def _between(
    stroke: Stroke, low: float, high: float, begins: NDArray[np.float64], along: NDArray[np.float64], t: NDArray[np.float64]
) -> Stroke:
    """The part of a stroke between two lengths along it."""
    first, last = (min(int(np.searchsorted(begins, place, side="right")) - 1, len(along) - 1) for place in (low, high))
    parts = []
    for k in range(first, last + 1):
        start = float(np.interp(low - begins[k], along[k], t)) if k == first else 0.0
        stop = float(np.interp(high - begins[k], along[k], t)) if k == last else 1.0
        if stop - start < 1e-9:
            continue
        part = split_at(stroke.segments[k], stop)[0] if stop < 1 else stroke.segments[k]
        parts.append((split_at(part, start / stop)[1] if start > 0 else part, bool(stroke.straight[k])))
    segments = np.array([own for own, _ in parts])
    segments[1:, 0] = segments[:-1, 3]
    middle = points_at(segments[len(segments) // 2][None], np.array([0.5]))[0, 0]
    return replace(stroke, segments=frozen(segments), straight=frozen(np.array([flat for _, flat in parts])), role="cut",
                   at=(float(middle[0]), float(middle[1])))
