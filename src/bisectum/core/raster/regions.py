"""The connected areas of a label image, found by joining runs of equal pixels.

L. He, Y. Chao, K. Suzuki, "A Run-Based Two-Scan Labeling Algorithm", 2008: provisional numbers go to runs, not to pixels,
so there are few parents and short trees. Runs are read off the vertices at which labels meet.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.forest import join, root
from bisectum.core.raster.vertices import KIND, SADDLE_ANTI, SADDLE_MAIN, Vertices, vertices_of


@dataclass(frozen=True, slots=True)
class Regions:
    """numbers : (H, W) int32, the area of each pixel, numbered from 0 in reading order.

    sizes : (R,) int64, pixels of each area; labels : (R,) uint8, its label.
    """

    numbers: NDArray[np.int32]
    sizes: NDArray[np.int64]
    labels: NDArray[np.uint8]


def regions_of(labels: NDArray[np.uint8], vertices: Vertices | None = None) -> Regions:
    """Areas of equal labels: neighbours share a side, or a corner where the vertex there connects them.

    labels : (H, W) uint8, values below OUTSIDE; vertices: its own, where they are known already.
    """
    vertices = vertices or vertices_of(labels)
    starts, numbers, count = _runs(labels, vertices.codes, vertices.places)
    regions, sizes, found = np.empty(labels.shape, np.int32), np.zeros(count, np.int64), np.empty(count, np.uint8)
    _fill(labels.reshape(-1), starts, numbers, regions.reshape(-1), sizes, found)
    return Regions(regions, sizes, found)


@kernel("Tuple((i8[:], i4[:], i8))(u1[:,:], u1[:,:], i8[:])")
def _runs(labels, codes, places):  # type: ignore[no-untyped-def]
    """Where each run starts, pixels counted row by row, with the end of the last one; its area; how many areas there are."""
    height, width = labels.shape
    starts = np.empty(len(places) + 1, np.int64)
    parents = np.empty(len(places), np.int32)
    used = np.int32(0)
    upper = np.int32(-1)  # the run above
    for place in places:
        y, x = place // (width + 1), place % (width + 1)
        if y == height or x == width:
            continue
        value = labels[y, x]
        lower_changes = x == 0 or labels[y, x - 1] != value
        upper_changes = y > 0 and (x == 0 or labels[y - 1, x - 1] != labels[y - 1, x])
        upper_left, lower_left = upper, np.int32(used - 1)
        if upper_changes:
            upper += np.int32(1)
        if lower_changes:
            starts[used] = y * width + x
            parents[used] = used
            used += np.int32(1)
        if y == 0:
            continue
        if labels[y - 1, x] == value:
            join(parents, np.int32(used - 1), upper)
        elif codes[y, x] & KIND == SADDLE_MAIN:
            join(parents, np.int32(used - 1), upper_left)
        elif codes[y, x] & KIND == SADDLE_ANTI:
            join(parents, lower_left, upper)
    starts[used] = height * width
    numbers = np.empty(used, np.int32)
    count = 0
    for item in range(used):
        top = root(parents, np.int32(item))
        numbers[item] = count if top == item else numbers[top]
        count += int(top == item)
    return starts[: used + 1].copy(), numbers, count


@kernel("void(u1[:], i8[:], i4[:], i4[:]!, i8[:]!, u1[:]!)")
def _fill(labels, starts, numbers, regions, sizes, found):  # type: ignore[no-untyped-def]
    for run in range(len(numbers)):
        number = numbers[run]
        regions[starts[run] : starts[run + 1]] = number
        sizes[number] += starts[run + 1] - starts[run]
        found[number] = labels[starts[run]]
