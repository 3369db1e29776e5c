"""Small areas go to the neighbour with which they share the longest border."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.forest import groups_of
from bisectum.core.raster.regions import regions_of
from bisectum.core.raster.vertices import Vertices, vertices_of


@kernel("i8(i8[:], i4[:,:], i8[:]!)")
def _borders(places, regions, pairs):  # type: ignore[no-untyped-def]
    """Write one number per crack, low region × 2³² + high region; places: see raster.vertices. Returns how many."""
    height, width = regions.shape
    used = 0
    for place in places:
        y, x = place // (width + 1), place % (width + 1)
        if y == height or x == width:
            continue
        here = np.int64(regions[y, x])
        if y > 0 and regions[y - 1, x] != here:
            there = np.int64(regions[y - 1, x])
            pairs[used] = (min(here, there) << 32) + max(here, there)
            used += 1
        if x > 0 and regions[y, x - 1] != here:
            there = np.int64(regions[y, x - 1])
            pairs[used] = (min(here, there) << 32) + max(here, there)
            used += 1
    return used


@kernel("void(u1[:,:]!, i4[:,:], u1[:])")
def _repaint(labels, regions, label_of_region):  # type: ignore[no-untyped-def]
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            labels[y, x] = label_of_region[regions[y, x]]


def shared_borders(vertices: Vertices, regions: NDArray[np.int32]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Which regions touch along a side, and for how many pixels.

    regions : (H, W) int32. Returns pairs : (P, 2) int64, the lower number first, and lengths : (P,) int64.
    """
    space = np.empty(2 * len(vertices.places), np.int64)
    coded, lengths = np.unique(space[: _borders(vertices.places, regions, space)], return_counts=True)
    return np.stack([coded >> 32, coded & 0xFFFFFFFF], axis=1), lengths.astype(np.int64)


def absorb_small(
    labels: NDArray[np.uint8], smallest_px: float, progress: Progress = SILENT, sure: NDArray[np.bool_] | None = None
) -> tuple[NDArray[np.uint8], int]:
    """Give every area of less than `smallest_px` pixels to its neighbour of the longest shared border.

    labels : (H, W) uint8; sure : (H, W): with it, only areas without any sure pixel go. Returns (H, W) uint8 and how many
    areas went. Areas are united in one union-find forest: in each round every area still too small joins its best
    neighbour, if that one is larger (of two equal ones, the later joins the earlier); the largest member gives the label.
    The rounds end when nothing small is left that has a neighbour.
    """
    vertices = vertices_of(labels)
    found = regions_of(labels, vertices)
    regions, sizes, count = found.numbers, found.sizes, len(found.sizes)
    if sure is not None:
        sizes[np.bincount(regions.ravel(), weights=sure.ravel(), minlength=count) > 0] += math.ceil(smallest_px)
    if count < 2 or sizes.min() >= smallest_px:
        return labels.copy(), 0
    pairs, lengths = shared_borders(vertices, regions)
    roots = np.arange(count, dtype=np.int32)  # of each united area the first of its members
    chief = np.arange(count)  # the member whose label the united area carries
    total = sizes.copy()
    while True:
        progress.raise_if_cancelled()
        ends = roots[pairs]
        apart = ends[:, 0] != ends[:, 1]
        if not apart.any():
            break
        both = np.concatenate([ends[apart], ends[apart][:, ::-1]])
        weight = np.concatenate([lengths[apart], lengths[apart]])
        both, weight = both[total[both[:, 0]] < smallest_px], weight[total[both[:, 0]] < smallest_px]
        if not len(both):
            break
        coded, place = np.unique(both[:, 0].astype(np.int64) * count + both[:, 1], return_inverse=True)
        summed = np.bincount(place, weights=weight)
        low, high = coded // count, coded % count
        best = np.lexsort((-total[high], -summed, low))
        low, high = low[best], high[best]
        keep = np.ones(len(low), bool)
        keep[1:] = low[1:] != low[:-1]
        low, high = low[keep], high[keep]
        smaller = (total[low] < total[high]) | ((total[low] == total[high]) & (low > high))
        low, high = low[smaller], high[smaller]
        roots = groups_of(np.stack([low, high], axis=1).astype(np.int32), count)[roots]
        order = np.argsort(-sizes, kind="stable")
        chief = np.full(count, -1)
        chief[roots[order[::-1]]] = order[::-1]
        total = np.bincount(roots, weights=sizes, minlength=count).astype(np.int64)
    united = found.labels[chief[roots]]
    gone = int((roots != np.arange(count)).sum())
    result = labels.copy()
    _repaint(result, regions, united)
    return result, gone
