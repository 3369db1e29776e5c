"""A chain drawn through its measured points about a few places, and left as it is elsewhere."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import lengths, line_segments, points_at, split_at
from bisectum.core.geom.corners import SKIP
from bisectum.core.geom.simplify import simplified

CLOSELY = 0.2  # px that a patch strays from the points it goes through


def patched(
    curves: NDArray[np.float64], straight: NDArray[np.bool_], points: NDArray[np.float64], closed: bool,
    places: NDArray[np.float64], reach: float, closely: float = CLOSELY,
) -> tuple[NDArray[np.float64], NDArray[np.bool_]] | None:
    """curves : (S, 4, 2), straight : (S,), points : (N, 2) of one chain, px; places : (K, 2); closely: px that a patch strays
    from the points.

    Returns segments anew: lines through the points within `reach` of a place, what was there elsewhere. None where that is all of
    them, or where the points do not tell the way.
    """
    curves, straight, near = _parted(curves, straight, places, reach)
    if near.all() or not near.any():
        return None
    first = int(np.flatnonzero(~near)[0]) if closed else 0
    order = (first + np.arange(len(curves))) % len(curves)
    parts, lines = [], []
    k = 0
    while k < len(order):
        stop = k + 1
        if not near[order[k]]:
            parts.append(curves[order[k]][None])
            lines.append(straight[order[k]][None])
        else:
            while stop < len(order) and near[order[stop]]:
                stop += 1
            way = _way(curves[order[k], 0], curves[order[stop - 1], 3], points, closed, closely)
            if way is None:
                return None
            parts.append(line_segments(way))
            lines.append(np.ones(len(way) - 1, bool))
        k = stop
    return np.concatenate(parts), np.concatenate(lines)


def _parted(
    curves: NDArray[np.float64], straight: NDArray[np.bool_], places: NDArray[np.float64], reach: float
) -> tuple[NDArray[np.float64], NDArray[np.bool_], NDArray[np.bool_]]:
    """The segments cut where they come within `reach` of a place and where they leave it, and which parts are near one."""
    parts, lines, is_near = [], [], []
    for curve, line, size in zip(curves, straight, lengths(curves), strict=True):
        t = np.linspace(0.0, 1.0, max(9, int(2 * size / reach) + 1))
        along = points_at(curve[None], t)[0]
        within = np.flatnonzero(np.hypot(*(along[:, None] - places).transpose(2, 0, 1)).min(axis=1) <= reach)
        low, high = (0, len(t) - 1) if not len(within) else (max(0, within[0] - 1), min(len(t) - 1, within[-1] + 1))
        rest, begin = curve, 0.0
        for stop, near in ((t[low], False), (t[high], bool(len(within))), (1.0, False)):
            if stop <= begin:
                continue
            piece, rest = split_at(rest, (stop - begin) / (1.0 - begin)) if stop < 1.0 else (rest, rest)
            parts.append(piece)
            lines.append(line)
            is_near.append(near)
            begin = stop
    return np.stack(parts), np.array(lines, bool), np.array(is_near, bool)


def _way(
    start: NDArray[np.float64], end: NDArray[np.float64], points: NDArray[np.float64], closed: bool, closely: float
) -> NDArray[np.float64] | None:
    """From one place near the points to another along them: (M, 2)."""
    one, other = (int(np.hypot(*(points - place).T).argmin()) for place in (start, end))
    if closed and other < one:
        other += len(points)
    if other < one or other - one > 0.7 * len(points):
        return None
    between = points[np.arange(one, other + 1) % len(points)]
    clear = (np.hypot(*(between - start).T) > SKIP) & (np.hypot(*(between - end).T) > SKIP)
    whole = np.ascontiguousarray(np.concatenate([start[None], between[clear], end[None]]))
    return whole[simplified(whole, closely)]
