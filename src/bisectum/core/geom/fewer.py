"""Fewer nodes for a path that is there already: each stretch between two corners is fitted anew within a bound."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import LOOKS, Segments, line_segments, points_at
from bisectum.core.geom.fit import fit_curve
from bisectum.core.geom.joint import SMOOTH
from bisectum.core.geom.local_fit import arc_lengths
from bisectum.core.geom.span import farthest_from_chord


def fewer_nodes(
    segments: Segments, straight: NDArray[np.bool_], closed: bool, bounds: NDArray[np.float64]
) -> tuple[Segments, NDArray[np.bool_], float]:
    """A path of joined segments with as few as `bounds` : (S,) allow. segments : (S, 4, 2), straight : (S,).

    Corners stay, and nodes between segments of different bounds. Returns segments, straight, and the greatest distance from
    the old path, nowhere more than the bound there.
    """
    fixed = _fixed(segments, closed, bounds)
    if closed:
        first = int(fixed[0])
        segments, straight, fixed = np.roll(segments, -first, axis=0), np.roll(straight, -first), fixed - first
        bounds = np.roll(bounds, -first)
    stops = np.append(fixed[1:], len(segments)) if closed else fixed[1:]
    parts, flat, worst = [], [], 0.0
    for start, stop in zip(fixed if closed else fixed[:-1], stops, strict=True):
        curves, lines, away = _span(segments[start:stop], straight[start:stop], float(bounds[start]))
        parts.append(curves)
        flat.append(lines)
        worst = max(worst, away)
    return np.concatenate(parts), np.concatenate(flat), worst


def _fixed(segments: Segments, closed: bool, bounds: NDArray[np.float64]) -> NDArray[np.int64]:
    """Numbers of the nodes that stay: corners, changes of the bound, and the ends of an open path. At least one."""
    out, into = segments[:, 3] - segments[:, 2], segments[:, 1] - segments[:, 0]
    before = np.roll(out, 1, axis=0)
    turn = np.abs(np.arctan2(before[:, 0] * into[:, 1] - before[:, 1] * into[:, 0], (before * into).sum(axis=1)))
    stays = (turn > SMOOTH) | (bounds != np.roll(bounds, 1))
    if closed:
        corners = np.flatnonzero(stays)
        return corners if len(corners) else np.array([0])
    corners = np.flatnonzero(stays[1:]) + 1
    return np.concatenate([[0], corners, [len(segments)]])


def _span(segments: Segments, straight: NDArray[np.bool_], bound: float) -> tuple[Segments, NDArray[np.bool_], float]:
    """One stretch between nodes that stay."""
    if len(segments) < 2:
        return segments, straight, 0.0
    inner = points_at(segments, LOOKS[:-1]).reshape(-1, 2)
    points = np.ascontiguousarray(np.concatenate([inner, segments[-1:, 3]]))
    chord = float(farthest_from_chord(points, 0, len(points) - 1))
    if chord <= bound and np.hypot(*(points[-1] - points[0])) > bound:
        return line_segments(points[[0, -1]]), np.ones(1, bool), chord
    n = len(points)
    out, spare, worst = np.empty((n + 1, 4, 2)), np.empty((n + 1, 4, 2)), np.zeros(1)
    start, end = segments[0, 1] - segments[0, 0], segments[-1, 3] - segments[-1, 2]
    count = fit_curve(points, arc_lengths(points), 0, n - 1, start / max(1e-12, np.hypot(*start)),
                      end / max(1e-12, np.hypot(*end)), False, False, bound, np.empty(n + 2), out, spare, worst)
    if count >= len(segments) or worst[0] > bound:
        return segments, straight, 0.0
    return out[:count].copy(), np.zeros(count, bool), float(worst[0])
