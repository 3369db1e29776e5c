"""Smoothing of a polyline that does not shrink what is round.

G. Taubin, "A Signal Processing Approach to Fair Surface Design", 1995: every pass that draws points towards their
neighbours is followed by one that pushes them away a little more, so that long waves keep their height.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel

INWARDS, OUTWARDS = 0.5, -0.53


@kernel("void(f8[:,:]!, b1, b1[:], i8, i8[:], i8)")
def even_out(points, closed, kept, count, corners, passes):  # type: ignore[no-untyped-def]
    """Smooth points : (N, 2) in place between the corners : (count,), whose indices may lie beyond 0..N - 1.

    An open polyline keeps its ends, and every one those points that are `kept` : (N,).
    """
    n = len(points)
    held = kept.copy()
    for k in range(count):
        held[corners[k] % n] = True
    if not closed:
        held[0], held[n - 1] = True, True
    moved = np.empty((n, 2))
    for turn in range(2 * passes):
        weight = INWARDS if turn % 2 == 0 else OUTWARDS
        for i in range(n):
            before, after = (i - 1) % n, (i + 1) % n
            for c in range(2):
                pull = 0.0 if held[i] else 0.5 * (points[before, c] + points[after, c]) - points[i, c]
                moved[i, c] = points[i, c] + weight * pull
        for i in range(n):
            points[i, 0], points[i, 1] = moved[i, 0], moved[i, 1]
