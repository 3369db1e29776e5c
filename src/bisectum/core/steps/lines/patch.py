"""A chain drawn through its measured points about a few places, and left as it is elsewhere."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import LOOKS, line_segments, points_at
from bisectum.core.geom.corners import SKIP
from bisectum.core.geom.simplify import simplified

CLOSELY = 0.2  # px that a patch strays from the points


def patched(
    curves: NDArray[np.float64], straight: NDArray[np.bool_], points: NDArray[np.float64], closed: bool,
    places: NDArray[np.float64], reach: float,
) -> tuple[NDArray[np.float64], NDArray[np.bool_]] | None:
    """curves : (S, 4, 2), straight : (S,), points : (N, 2) of one chain, px; places : (K, 2).

    Returns segments anew, those within `reach` of a place being lines through the points; None where that is all of them,
    or where the points do not tell the way.
    """
    along = points_at(curves, LOOKS)
    away = np.hypot(*(along[:, :, None] - places).transpose(3, 0, 1, 2)).min(axis=(1, 2))
    near = away <= reach
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
            way = _way(curves[order[k], 0], curves[order[stop - 1], 3], points, closed)
            if way is None:
                return None
            parts.append(line_segments(way))
            lines.append(np.ones(len(way) - 1, bool))
        k = stop
    return np.concatenate(parts), np.concatenate(lines)


def _way(
    start: NDArray[np.float64], end: NDArray[np.float64], points: NDArray[np.float64], closed: bool
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
    return whole[simplified(whole, CLOSELY)]
