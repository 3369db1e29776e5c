"""Where lines meet: the place that lies nearest to all incoming lines, carried on.

On the picture's frame a junction stays on the frame.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.local_fit import arc_lengths, fit_stretch
from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.cracks import CrackGraph
from bisectum.core.steps.lines.subpixel import ChainPoints

CLEAR = 1.7  # px around a junction where a third colour spoils the places
SIDE = 9.0  # px of an incoming line that are used
HOLD = 0.04  # weight of the corner of pixels against one incoming line
FARTHEST = 1.1  # px a junction may move


@kernel("void(f8[:,:], i8[:], b1[:], i4[:,:], i4[:,:], f8[:,:]!)")
def _gather(points, first, refined, ends, junctions, sums):  # type: ignore[no-untyped-def]
    """Add each incoming line's normal equations. sums : (J, 5): xx, xy, yy, right-hand x and y."""
    out = np.empty(4)
    near = np.empty((24, 2))
    for chain in range(len(ends)):
        if ends[chain, 0] < 0 or not refined[chain]:
            continue
        for side in range(2):
            j = ends[chain, side]
            y, x = np.float64(junctions[j, 0]), np.float64(junctions[j, 1])
            count = 0
            n = first[chain + 1] - first[chain]
            for k in range(n):
                i = first[chain] + k if side == 0 else first[chain + 1] - 1 - k
                away = np.sqrt((points[i, 0] - x) ** 2 + (points[i, 1] - y) ** 2)
                if away > SIDE or count == len(near):
                    break
                if away >= CLEAR:
                    near[count, 0], near[count, 1] = points[i, 0], points[i, 1]
                    count += 1
            if count < 2:
                continue
            stretch = near[:count].copy()
            s = arc_lengths(stretch)
            used = count - 1
            rms = fit_stretch(stretch, s, 0, used, -CLEAR, 1, out)
            while rms > 0.05 and used > 2:
                used = max(2, (2 * used) // 3)
                rms = fit_stretch(stretch, s, 0, used, -CLEAR, 1, out)
            if rms < 0.0 or rms > 0.2:
                continue
            weight = 1.0 if s[used] > 2.5 else 0.3
            nx, ny = -out[3], out[2]
            along = nx * out[0] + ny * out[1]
            sums[j, 0] += weight * nx * nx
            sums[j, 1] += weight * nx * ny
            sums[j, 2] += weight * ny * ny
            sums[j, 3] += weight * nx * along
            sums[j, 4] += weight * ny * along


@kernel("UniTuple(i8, 2)(f8[:,:], f8[:], f8[:], f8)")
def clear_of_ends(points, first, last, clear):  # type: ignore[no-untyped-def]
    """The stretch of a chain's points, as low and beyond, whose ends are further than `clear` from its junctions."""
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
    _gather(found.points, found.first, found.refined, graph.ends, graph.junctions, sums)
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
