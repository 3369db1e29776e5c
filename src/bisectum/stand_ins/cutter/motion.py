"""How long a way takes: trapezoids of speed along straight moves, slower at bends.

Between two moves the speed may not be higher than the acceleration allows on an arc that cuts the corner by BEND_MM: with the
angle θ between them, r = BEND_MM · cos(θ/2) / (1 - cos(θ/2)) and v² = a·r. Then a pass back and a pass on see to it that no
move needs more acceleration than there is. """

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel

BEND_MM = 0.02


def seconds_of(points: NDArray[np.float64], speed: float, acceleration: float) -> NDArray[np.float64]:
    """When each place of a way : (N, 2), mm, is reached, from standing to standing. Returns (N,), s, the first 0."""
    times = np.zeros(len(points))
    if len(points) > 1:
        _run(np.ascontiguousarray(points), speed, acceleration, BEND_MM, np.zeros(len(points)), times)
    return times


@kernel("void(f8[:,:], f8, f8, f8, f8[:]!, f8[:]!)")
def _run(points, speed, a, bend, limit, times):  # type: ignore[no-untyped-def]
    """limit : (N,), work space, zeros."""
    n = len(points)
    for k in range(1, n - 1):
        ax, ay = points[k, 0] - points[k - 1, 0], points[k, 1] - points[k - 1, 1]
        bx, by = points[k + 1, 0] - points[k, 0], points[k + 1, 1] - points[k, 1]
        la, lb = (ax * ax + ay * ay) ** 0.5, (bx * bx + by * by) ** 0.5
        limit[k] = speed
        if la > 1e-12 and lb > 1e-12:
            straight = (ax * bx + ay * by) / (la * lb)
            if straight < 1.0 - 1e-12:
                half = max(0.0, (1.0 + straight) / 2.0) ** 0.5
                limit[k] = min(speed, (a * bend * half / (1.0 - half)) ** 0.5)
    for k in range(n - 2, -1, -1):
        long = ((points[k + 1, 0] - points[k, 0]) ** 2 + (points[k + 1, 1] - points[k, 1]) ** 2) ** 0.5
        limit[k] = min(limit[k], (limit[k + 1] ** 2 + 2.0 * a * long) ** 0.5)
    v = 0.0
    for k in range(n - 1):
        long = ((points[k + 1, 0] - points[k, 0]) ** 2 + (points[k + 1, 1] - points[k, 1]) ** 2) ** 0.5
        end = min(limit[k + 1], (v * v + 2.0 * a * long) ** 0.5)
        top = min(speed, (a * long + (v * v + end * end) / 2.0) ** 0.5)
        taken = 0.0
        if long > 1e-12:
            up, down = (top * top - v * v) / (2.0 * a), (top * top - end * end) / (2.0 * a)
            taken = (top - v) / a + (top - end) / a + max(0.0, long - up - down) / top
        times[k + 1] = times[k] + taken
        v = end
