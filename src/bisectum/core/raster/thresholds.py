"""Thresholds that part a histogram into classes.

Best by error: the exact minimum of the squared error by dynamic programming; its classes are those of S. Lloyd, "Least
Squares Quantization in PCM", 1982, and J. Max, 1960, without their local minima.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def best_by_error(counts: NDArray[np.float64], classes: int) -> NDArray[np.int64]:
    """Where each class but the first begins. counts : (B,), of bins in order. Returns (classes - 1,) int64, rising.

    Fewer where fewer bins are filled.
    """
    filled = np.flatnonzero(counts > 0)
    classes = min(classes, len(filled))
    if classes < 2:
        return np.empty(0, np.int64)
    values, weights = filled.astype(float), counts[filled].astype(float)
    total = np.concatenate([[0.0], np.cumsum(weights)])
    first = np.concatenate([[0.0], np.cumsum(weights * values)])
    second = np.concatenate([[0.0], np.cumsum(weights * values**2)])
    low, high = np.meshgrid(np.arange(len(filled)), np.arange(1, len(filled) + 1), indexing="ij")
    mass = np.where(high > low, total[high] - total[low], 1.0)
    spread = second[high] - second[low] - (first[high] - first[low]) ** 2 / mass
    cost = np.where(high > low, np.maximum(spread, 0.0), np.inf)  # of one class from bin low up to bin high - 1
    best, chosen = cost[0], []
    for _ in range(classes - 1):
        trials = np.concatenate([[np.inf], best[:-1]])[:, None] + cost
        chosen.append(trials.argmin(axis=0))
        best = trials.min(axis=0)
    starts, stop = [], len(filled)
    for from_ in reversed(chosen):
        start = int(from_[stop - 1])
        starts.append(int(filled[start]))
        stop = start
    return np.array(starts[::-1], np.int64)


def by_area(counts: NDArray[np.float64], classes: int) -> NDArray[np.int64]:
    """Classes of equal area. Shapes as in best_by_error."""
    reached = np.cumsum(counts) / max(1e-12, float(counts.sum()))
    return np.unique(np.searchsorted(reached, np.arange(1, classes) / classes) + 1)


def evenly(counts: NDArray[np.float64], classes: int, left_out: float = 0.01) -> NDArray[np.int64]:
    """Classes equally wide, between the bins that leave out so much of the area on either side. counts : (B,); as in
    best_by_error."""
    reached = np.cumsum(counts) / max(1e-12, float(counts.sum()))
    low, high = np.searchsorted(reached, [left_out, 1 - left_out])
    return np.unique(np.rint(np.linspace(low, high + 1, classes + 1)[1:-1]).astype(np.int64))


def otsu(values: NDArray[np.floating], bins: int = 128) -> float:
    """The threshold that parts values into two classes with the least squared error (N. Otsu, "A Threshold Selection Method
    from Gray-Level Histograms", 1979), to a part in `bins` of their range; the largest where all are alike. values : (N,)."""
    counts, edges = np.histogram(values, bins)
    starts = best_by_error(counts.astype(float), 2)
    return float(edges[starts[0]]) if len(starts) else float(edges[-1])
