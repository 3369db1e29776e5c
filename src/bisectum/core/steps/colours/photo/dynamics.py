"""Smooth borders between classes: threshold dynamics.

Each class has a score at each pixel: how much of it is nearby, less what the picture says against it. A pixel takes the
class of the highest score; a few rounds bring the borders to rest. S. Esedoḡlu, F. Otto, "Threshold Dynamics for Networks
with Arbitrary Surface Tensions", 2015. The last scores are smooth, so borders can be placed where two of them are equal.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.compiled import kernel

ROUNDS = 8


@kernel("void(f4[:,:,:], u1[:,:]!)")
def _highest(scores, labels):  # type: ignore[no-untyped-def]
    """The class of the highest score, the first of equal ones. scores : (K, H, W)."""
    count, height, width = scores.shape
    for y in range(height):
        for x in range(width):
            best, at = scores[0, y, x], 0
            for k in range(1, count):
                if scores[k, y, x] > best:
                    best, at = scores[k, y, x], k
            labels[y, x] = at


def highest(scores: NDArray[np.float32]) -> NDArray[np.uint8]:
    """The class of the highest score at each pixel. scores : (K, H, W). Returns (H, W) uint8."""
    labels = np.empty(scores.shape[1:], np.uint8)
    _highest(scores, labels)
    return labels


def scores_of(labels: NDArray[np.uint8], against: NDArray[np.float32], deviation_px: float) -> NDArray[np.float32]:
    """The scores of one round. labels : (H, W); against : (K, H, W), what speaks against each class. Returns (K, H, W)."""
    result = np.empty_like(against)
    for k in range(len(against)):
        cv2.GaussianBlur((labels == k).astype(np.float32), (0, 0), deviation_px, dst=result[k])
    result -= against
    return result


def settled(
    against: NDArray[np.float32], deviation_px: float, progress: Progress = SILENT, start: NDArray[np.uint8] | None = None,
    rounds: int = ROUNDS,
) -> tuple[NDArray[np.uint8], NDArray[np.float32]]:
    """Labels whose borders have come to rest, and their scores.

    against : (K, H, W) float32, what speaks against each class, weighed against 1 for all of the neighbourhood; deviation_px:
    of the neighbourhood. Returns (H, W) uint8 and (K, H, W) float32. Raises: Cancelled.
    """
    labels = highest(-against) if start is None else start
    scores = -against
    for _ in range(rounds):
        progress.raise_if_cancelled()
        scores = scores_of(labels, against, deviation_px)
        before, labels = labels, highest(scores)
        if np.array_equal(before, labels):
            break
    return labels, scores
