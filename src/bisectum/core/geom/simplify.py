"""Fewer points on a polyline: D. H. Douglas, T. K. Peucker, 1973."""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.span import farthest_from_chord
from bisectum.core.raster.compiled import kernel


@kernel("b1[:](f8[:,:], f8)")
def simplified(points, tolerance):  # type: ignore[no-untyped-def]
    """Which points to keep so that none that goes is further than `tolerance`. points : (N, 2). Returns (N,) bool."""
    n = len(points)
    keep = np.zeros(n, np.bool_)
    keep[0] = True
    keep[n - 1] = True
    stack = np.empty((n + 1, 2), np.int64)
    stack[0, 0], stack[0, 1] = 0, n - 1
    waiting = 1
    while waiting:
        waiting -= 1
        low, high = stack[waiting, 0], stack[waiting, 1]
        if high - low < 2 or farthest_from_chord(points, low, high) <= tolerance:
            continue
        dx, dy = points[high, 0] - points[low, 0], points[high, 1] - points[low, 1]
        ring = dx * dx + dy * dy < 1e-18
        best, split = -1.0, low + 1
        for i in range(low + 1, high):
            ex, ey = points[i, 0] - points[low, 0], points[i, 1] - points[low, 1]
            away = ex * ex + ey * ey if ring else abs(ex * dy - ey * dx)
            if away > best:
                best, split = away, i
        keep[split] = True
        stack[waiting, 0], stack[waiting, 1] = low, split
        stack[waiting + 1, 0], stack[waiting + 1, 1] = split, high
        waiting += 2
    return keep
