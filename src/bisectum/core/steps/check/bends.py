"""What a blade does not like along a line: tips that are too sharp, bends that are too tight, nodes that are too dense."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import lengths, points_at
from bisectum.core.geom.path import Path

Place = tuple[float, float]
SHARP_DEG = 15.0  # a tip that closes at less tears (common practice, no source)
ALONG_MM, MOST_NODES = 10.0, 24  # of outline, and nodes on it: more make the blade stutter (common practice, no source)
BENT_DEG = 45.0  # a bend turns by more than this
SAMPLES = np.linspace(0, 1, 9)


def sharp_tips(rings: Sequence[Path], least: float) -> list[tuple[Place, float]]:
    """Corners of the material that close at less than SHARP_DEG, both sides longer than `least` (mm): where, and degrees."""
    found = []
    for ring in rings:
        ways_in, ways_out = _tangents(ring.segments)
        before, after = np.roll(ways_out, 1, axis=0), ways_in
        turn = np.degrees(np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1)))
        long = lengths(ring.segments)
        sharp = (180 - turn < SHARP_DEG) & (turn > 0) & (long > least) & (np.roll(long, 1) > least)
        found += [(_place(ring.segments[k, 0]), float(180 - turn[k])) for k in np.flatnonzero(sharp).tolist()]
    return found


def dense_nodes(rings: Sequence[Path]) -> list[tuple[Place, float]]:
    """Stretches of ALONG_MM with more than MOST_NODES nodes, the worst of each ring: where, and nodes for each cm."""
    found = []
    for ring in rings:
        long = lengths(ring.segments)
        total = float(long.sum())
        if total < ALONG_MM or len(long) <= MOST_NODES:
            continue
        at = np.concatenate([[0], np.cumsum(np.tile(long, 2))])[:-1]
        count = np.searchsorted(at, at[: len(long)] + ALONG_MM) - np.arange(len(long))
        worst = int(count.argmax())
        if count[worst] > MOST_NODES:
            found.append((_place(ring.segments[worst, 0]), float(count[worst]) * 10 / ALONG_MM))
    return found


def tight_bends(rings: Sequence[Path], radius: float) -> list[tuple[Place, float]]:
    """Curves that turn by more than BENT_DEG about less than a radius (mm): where, and the radius there."""
    found = []
    for ring in rings:
        curved = ring.segments[~ring.straight]
        if not len(curved):
            continue
        points = points_at(curved, SAMPLES)
        step = np.diff(points, axis=1)
        long = np.hypot(step[..., 0], step[..., 1])
        cross = step[:, :-1, 0] * step[:, 1:, 1] - step[:, :-1, 1] * step[:, 1:, 0]
        turn = np.arctan2(cross, (step[:, :-1] * step[:, 1:]).sum(axis=2))
        turned = np.abs(turn).sum(axis=1)
        own = long.sum(axis=1) / np.maximum(turned, 1e-9)  # of an arc as long that turns as much
        for k in np.flatnonzero((own < radius) & (turned > np.radians(BENT_DEG))).tolist():
            found.append((_place(points[k, len(SAMPLES) // 2]), float(own[k])))
    return found


def _tangents(segments: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Directions in which segments begin and end; of one whose handle lies on its node, towards what comes next. (S, 2) each."""
    def way(one: NDArray[np.float64]) -> NDArray[np.float64]:
        steps = one[:, 1:] - one[:, :1]
        first = np.argmax((np.hypot(steps[..., 0], steps[..., 1]) > 1e-9), axis=1)
        return steps[np.arange(len(steps)), first]

    return way(segments), -way(segments[:, ::-1])


def _place(point: NDArray[np.float64]) -> Place:
    x, y = point.tolist()
    return x, y
