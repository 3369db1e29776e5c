"""From pixels of a skeleton to the middle of the ink, to a small part of a pixel.

Across the line the amount of ink is summed on both sides of a point; the point goes to the middle of that sum. Where another
line lies beside, the sum stops in the gap between them.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
STEP = 0.5  # px between two places across a line
GAP = 0.12  # amount of ink below which a line has ended
ROUNDS = 3
IN_ROW = 1024
ROUND_END = 0.05  # of the width squared, that a round end lacks against a flat one, and a bit less than half of it


def sampled(amount: NDArray[np.float32], places: Points) -> NDArray[np.float32]:
    """The amount of ink at places : (…, 2), px, between the middles of pixels. Returns (…)."""
    flat = places.reshape(-1, 2).astype(np.float32) - 0.5
    # In rows: OpenCV remaps to rasters of at most 32,767 pixels along a side.
    rows = -(-len(flat) // IN_ROW)
    table = np.zeros((rows * IN_ROW, 2), np.float32)
    table[: len(flat)] = flat
    x, y = (np.ascontiguousarray(table[:, k].reshape(rows, IN_ROW)) for k in (0, 1))
    found = cv2.remap(amount, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=0.0)
    return np.asarray(found, np.float32).reshape(-1)[: len(flat)].reshape(places.shape[:-1])


def tangents(points: Points, closed: bool, reach: int) -> Points:
    """Unit directions along points : (N, 2), each from the points `reach` before and behind."""
    count = len(points)
    at = np.arange(count)
    if closed:
        way = points[(at + reach) % count] - points[(at - reach) % count]
    else:
        way = points[np.minimum(at + reach, count - 1)] - points[np.maximum(at - reach, 0)]
    size = np.hypot(way[:, 0], way[:, 1])
    return np.asarray(way / np.maximum(size, 1e-9)[:, None])


def smoothed(points: Points, closed: bool, passes: int) -> Points:
    """Binomial smoothing; the ends of an open run stay. points : (N, 2)."""
    result = points.copy()
    for _ in range(passes):
        if closed:
            result = (np.roll(result, 1, axis=0) + 2 * result + np.roll(result, -1, axis=0)) / 4
        elif len(result) > 2:
            result[1:-1] = (result[:-2] + 2 * result[1:-1] + result[2:]) / 4
    return result


def centred(points: Points, amount: NDArray[np.float32], pen: float, closed: bool) -> tuple[Points, NDArray[np.float64]]:
    """points : (N, 2), px, of a skeleton; amount : (H, W), 1 for ink; pen: its width, px.

    Returns the points in the middle of the ink, and (N,) its width there.
    """
    if len(points) < 3:
        return points.copy(), np.full(len(points), pen)
    half = pen / 2 + 2.5
    offsets = np.arange(-np.ceil(half / STEP), np.ceil(half / STEP) + 1) * STEP
    middle = len(offsets) // 2
    reach = max(2, round(0.75 * pen))
    now = smoothed(points, closed, 2 + round(pen))
    widths = np.full(len(points), pen)
    for _ in range(ROUNDS):
        way = tangents(now, closed, reach)
        normal = np.stack([-way[:, 1], way[:, 0]], axis=1)
        values = sampled(amount, now[:, None] + offsets[:, None] * normal[:, None]).astype(float)
        for side in (values[:, middle:], values[:, middle::-1]):  # views: outwards, and never more again after a gap
            side[:] = np.where(np.maximum.accumulate(side < GAP, axis=1), 0.0, side)
        total = np.maximum(values.sum(axis=1), 1e-9)
        shift = np.clip((values * offsets).sum(axis=1) / total, -1.0, 1.0)
        widths = total * STEP
        now = now + shift[:, None] * normal
        now = smoothed(now, closed, 1)
    return now, widths


def end_of(
    start: NDArray[np.float64], way: NDArray[np.float64], amount: NDArray[np.float32], width: float
) -> NDArray[np.float64]:
    """Where the middle line of a stroke ends that goes on from `start` along the unit vector `way`: at its edge where it is cut
    off flat, half its width before where it is round. start, way : (2,), px. Returns (2,)."""
    along = np.arange(0.0, 3.0 * width + 6.0, 0.25)
    ahead = sampled(amount, start + along[:, None] * way)
    out = np.flatnonzero(ahead < 0.5)
    if not len(out) or out[0] == 0:
        return start
    k = int(out[0])
    over, under = float(ahead[k - 1]), float(ahead[k])
    far = float(along[k - 1]) + 0.25 * (over - 0.5) / max(over - under, 1e-6)
    normal = np.array([-way[1], way[0]])
    across = np.arange(-width, width + 0.25, 0.5)
    inside = along[along < far + 3.0]
    grid = sampled(amount, start + inside[:, None, None] * way + across[:, None] * normal)
    grid[0] *= 0.5  # half of it lies behind
    lacks = width * far - float(grid.sum()) * 0.25 * 0.5
    return np.asarray(start + way * max(0.0, far - (width / 2 if lacks > ROUND_END * width * width else 0.0)))
