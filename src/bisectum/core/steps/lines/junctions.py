"""Where lines meet: the place that lies nearest to all incoming lines, carried on.

On the picture's frame a junction stays on the frame.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.copying import copy_row
from bisectum.core.geom.corners import LONGEST_SIDE, SPOILT
from bisectum.core.geom.joint import OPPOSITE
from bisectum.core.geom.local_fit import arc_lengths, fit_stretch
from bisectum.core.geom.straight import LEAST_NOISE
from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.cracks import CrackGraph
from bisectum.core.steps.lines.subpixel import FARTHEST, ChainPoints

THROUGH = 6.0  # weight of such a line against an arm
HOLD = 0.04  # weight of the corner of pixels against one incoming line


@part("i8(f8[:,:], i8, i8, f8, f8, f8[:,:]!)")
def _points_of_arm(points, low, beyond, x, y, near):  # type: ignore[no-untyped-def]
    """Points low..beyond, or backwards where beyond < low, from SPOILT to LONGEST_SIDE away from (x, y). Returns how many."""
    step = 1 if beyond > low else -1
    count = 0
    for i in range(low, beyond, step):
        away = np.sqrt((points[i, 0] - x) ** 2 + (points[i, 1] - y) ** 2)
        if away > LONGEST_SIDE or count == len(near):
            break
        if away >= SPOILT:
            near[count, 0], near[count, 1] = points[i, 0], points[i, 1]
            count += 1
    return count


@part("b1(f8[:,:], i8, f8[:]!)")
def _arm(near, count, out):  # type: ignore[no-untyped-def]
    """One incoming line carried on to the junction. out : (5,) a place, the direction away from it, a weight."""
    if count < 2:
        return False
    stretch = near[:count].copy()
    s = arc_lengths(stretch)
    used = count - 1
    rms = fit_stretch(stretch, s, 0, used, -SPOILT, 1, out)
    if rms > LEAST_NOISE and count >= 7:
        bent = fit_stretch(stretch, s, 0, used, -SPOILT, 2, out)
        if 0.0 <= bent < 0.4 * rms:
            out[4] = 0.5
            return True
        rms = fit_stretch(stretch, s, 0, used, -SPOILT, 1, out)
    while rms > 0.05 and used > 1:
        used = max(1, (2 * used) // 3)
        rms = fit_stretch(stretch, s, 0, used, -SPOILT, 1, out)
    out[4] = 1.0 if s[used] > 2.5 else 0.3
    return 0.0 <= rms <= 0.2


@part("b1(f8[:,:], i8, f8[:,:], i8, f8[:]!)")
def _through(one, ones, other, others, out):  # type: ignore[no-untyped-def]
    """A line that runs through the junction, fitted across it to both of its arms. out: as for _arm."""
    joined = np.empty((ones + others, 2))
    for i in range(ones):
        copy_row(joined[i], one[ones - 1 - i])
    for i in range(others):
        copy_row(joined[ones + i], other[i])
    s = arc_lengths(joined)
    middle = 0.5 * (s[ones - 1] + s[ones])
    rms = fit_stretch(joined, s, 0, len(joined) - 1, middle, 1, out)
    if rms > LEAST_NOISE:
        rms = fit_stretch(joined, s, 0, len(joined) - 1, middle, 2, out)
    out[4] = THROUGH
    return 0.0 <= rms <= 0.06


@kernel("void(f8[:,:], i8[:], b1[:], i4[:,:], i4[:,:], f8[:,:]!)")
def _gather(points, first, refined, spokes, junctions, sums):  # type: ignore[no-untyped-def]
    """Add each incoming line's normal equations. sums : (J, 5): xx, xy, yy, right-hand x and y."""
    near, counts = np.empty((4, 24, 2)), np.zeros(4, np.int64)
    arms, known, line = np.empty((4, 5)), np.zeros(4, np.bool_), np.empty(5)
    for j in range(len(junctions)):
        y, x = np.float64(junctions[j, 0]), np.float64(junctions[j, 1])
        for k in range(4):
            half = spokes[j, k]
            known[k] = half >= 0 and refined[half >> 1]
            if known[k]:
                low, high = first[half >> 1], first[(half >> 1) + 1]
                if half & 1:
                    counts[k] = _points_of_arm(points, high - 1, low - 1, x, y, near[k])
                else:
                    counts[k] = _points_of_arm(points, low, high, x, y, near[k])
                known[k] = _arm(near[k], counts[k], arms[k])
        for k in range(4):
            for other in range(k):
                opposite = arms[k, 2] * arms[other, 2] + arms[k, 3] * arms[other, 3] < -OPPOSITE
                if known[k] and known[other] and min(counts[k], counts[other]) > 2 and opposite and _through(
                        near[k], counts[k], near[other], counts[other], line):
                    copy_row(arms[k], line)
                    known[other] = False
        for k in range(4):
            if known[k]:
                nx, ny = -arms[k, 3], arms[k, 2]
                along = nx * arms[k, 0] + ny * arms[k, 1]
                sums[j, 0] += arms[k, 4] * nx * nx
                sums[j, 1] += arms[k, 4] * nx * ny
                sums[j, 2] += arms[k, 4] * ny * ny
                sums[j, 3] += arms[k, 4] * nx * along
                sums[j, 4] += arms[k, 4] * ny * along


@kernel("UniTuple(i8, 2)(f8[:,:], f8[:], f8[:], f8)")
def clear_of_ends(points, first, last, clear):  # type: ignore[no-untyped-def]
    """The stretch of a chain's points, as low and beyond, whose ends are further than `clear` from its junctions.

    points : (N, 2); first, last : (2,), the junctions.
    """
    low, high = 0, len(points)
    while low < high and (points[low, 0] - first[0]) ** 2 + (points[low, 1] - first[1]) ** 2 <= clear * clear:
        low += 1
    while high > low and (points[high - 1, 0] - last[0]) ** 2 + (points[high - 1, 1] - last[1]) ** 2 <= clear * clear:
        high -= 1
    return low, high


def place_junctions(graph: CrackGraph, found: ChainPoints) -> NDArray[np.float64]:
    """Places (x, y) of all junctions in pixels: (J, 2) float64."""
    grid = graph.junctions[:, ::-1].astype(np.float64)
    if not len(grid):
        return grid.reshape(0, 2)
    sums = np.zeros((len(grid), 5))
    _gather(found.points, found.first, found.refined, graph.spokes, graph.junctions, sums)
    height, width = graph.regions.shape
    told = sums[:, 0] + sums[:, 2] > 0
    xx, xy, yy = sums[:, 0] + HOLD, sums[:, 1], sums[:, 2] + HOLD
    rx, ry = sums[:, 3] + HOLD * grid[:, 0], sums[:, 4] + HOLD * grid[:, 1]
    upright, level = np.isin(grid[:, 0], (0, width)), np.isin(grid[:, 1], (0, height))
    determinant = xx * yy - xy * xy
    x, y = (rx * yy - ry * xy) / determinant, (ry * xx - rx * xy) / determinant
    x = np.where(upright, grid[:, 0], np.where(level, (rx - xy * grid[:, 1]) / xx, x))
    y = np.where(level, grid[:, 1], np.where(upright, (ry - xy * grid[:, 0]) / yy, y))
    places = np.stack([x, y], axis=1)
    near = told & (np.hypot(*(places - grid).T) <= FARTHEST)
    return np.where(near[:, None], places, grid)
