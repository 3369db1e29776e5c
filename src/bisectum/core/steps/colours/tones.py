"""A few colours for a photograph: k-means in OKLab on its smoothed pixels.

Starts by D. Arthur, S. Vassilvitskii, "k-means++: The Advantages of Careful Seeding", 2007, made deterministic: each
start is the sample that would lower the error most among the farthest ones.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import oklab
from bisectum.core.raster.compiled import kernel

MOST_SAMPLES = 20_000
ROUNDS = 25


def cluster_tones(rgb: NDArray[np.uint8], count: int, progress: Progress = SILENT) -> NDArray[np.float64]:
    """rgb : (N, 3) uint8. Returns (K, 3) float64 OKLab centres, K ≤ count, heaviest first."""
    samples = oklab(rgb[:: max(1, len(rgb) // MOST_SAMPLES)])
    centres = _starts(samples, count)
    for _ in range(ROUNDS):
        progress.raise_if_cancelled()
        nearest = _squared(samples, centres).argmin(axis=1)
        sums = np.stack([np.bincount(nearest, samples[:, c], minlength=len(centres)) for c in range(3)], axis=1)
        sizes = np.bincount(nearest, minlength=len(centres))
        moved = np.where(sizes[:, None] > 0, sums / np.maximum(sizes, 1)[:, None], centres)
        if np.abs(moved - centres).max() < 1e-4:
            break
        centres = moved
    sizes = np.bincount(_squared(samples, centres).argmin(axis=1), minlength=len(centres))
    return centres[np.argsort(-sizes, kind="stable")][: int((sizes > 0).sum())]


def _squared(samples: NDArray[np.float64], centres: NDArray[np.float64]) -> NDArray[np.float64]:
    return ((samples[:, None] - centres[None]) ** 2).sum(axis=2)


def _starts(samples: NDArray[np.float64], count: int) -> NDArray[np.float64]:
    centres = [np.median(samples, axis=0)]
    nearest = ((samples - centres[0]) ** 2).sum(axis=1)
    for _ in range(count - 1):
        if nearest.max() < 1e-6:
            break
        # The 16 samples at even ranks of the error: far ones, without single outliers deciding.
        candidates = samples[np.argsort(-nearest, kind="stable")[np.linspace(0, len(samples) // 4, 16).astype(int)]]
        errors = np.minimum(nearest[None], _squared(candidates, samples)).sum(axis=1)
        centres.append(candidates[errors.argmin()])
        nearest = np.minimum(nearest, ((samples - centres[-1]) ** 2).sum(axis=1))
    return np.array(centres)


@kernel("u1[:,:](f4[:,:,:], b1[:,:], f8[:,:])")
def assign_nearest(image, skip, centres):  # type: ignore[no-untyped-def]
    """image : (H, W, 3) float32, centres : (K, 3) in the same space. Returns (H, W) uint8: 0 where skip, else 1 + k."""
    height, width = skip.shape
    result = np.zeros((height, width), np.uint8)
    for y in range(height):
        for x in range(width):
            if skip[y, x]:
                continue
            best = 1e30
            for k in range(len(centres)):
                total = 0.0
                for c in range(3):
                    total += (image[y, x, c] - centres[k, c]) ** 2
                if total < best:
                    best = total
                    result[y, x] = k + 1
    return result
