"""The colours that stand for many with the least error: k-means.

Starts by D. Arthur, S. Vassilvitskii, "k-means++: The Advantages of Careful Seeding", 2007, made deterministic: each
start is the sample that would lower the error most among the farthest ones.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress

MOST_SAMPLES = 20_000
ROUNDS = 25
STILL = 1e-3  # part of the spread of the samples; centres that move less have come to rest


def cluster(colours: NDArray[np.floating], count: int, progress: Progress = SILENT) -> NDArray[np.float64]:
    """colours : (N, 3), in a space whose distances are those of the eye. Returns (K, 3) centres, K ≤ count, heaviest first.

    Raises: Cancelled.
    """
    samples = np.asarray(colours[:: max(1, len(colours) // MOST_SAMPLES)], np.float64)
    centres = _starts(samples, count)
    still = STILL * float(samples.std(axis=0).max())
    for _ in range(ROUNDS):
        progress.raise_if_cancelled()
        nearest = _squared(samples, centres).argmin(axis=1)
        sums = np.stack([np.bincount(nearest, samples[:, c], minlength=len(centres)) for c in range(samples.shape[1])], axis=1)
        sizes = np.bincount(nearest, minlength=len(centres))
        moved = np.where(sizes[:, None] > 0, sums / np.maximum(sizes, 1)[:, None], centres)
        if np.abs(moved - centres).max() <= still:
            break
        centres = moved
    sizes = np.bincount(_squared(samples, centres).argmin(axis=1), minlength=len(centres))
    return centres[np.argsort(-sizes, kind="stable")][: int((sizes > 0).sum())]


def _squared(samples: NDArray[np.float64], centres: NDArray[np.float64]) -> NDArray[np.float64]:
    """Without differences of each with each, which would be much memory."""
    apart = (samples**2).sum(axis=1)[:, None] - 2 * samples @ centres.T + (centres**2).sum(axis=1)
    return np.maximum(apart, 0.0)


def _starts(samples: NDArray[np.float64], count: int) -> NDArray[np.float64]:
    centres = [np.median(samples, axis=0)]
    nearest = ((samples - centres[0]) ** 2).sum(axis=1)
    nothing = 1e-9 * float((samples**2).sum(axis=1).max(initial=1e-12))
    for _ in range(count - 1):
        if nearest.max() <= nothing:
            break
        # The 16 samples at even ranks of the error: far ones, without single outliers deciding.
        candidates = samples[np.argsort(-nearest, kind="stable")[np.linspace(0, len(samples) // 4, 16).astype(int)]]
        errors = np.minimum(nearest[None], _squared(candidates, samples)).sum(axis=1)
        centres.append(candidates[errors.argmin()])
        nearest = np.minimum(nearest, ((samples - centres[-1]) ** 2).sum(axis=1))
    return np.array(centres)
