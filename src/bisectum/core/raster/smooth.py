"""Edge-keeping smoothing: the recursive domain-transform filter.

E. S. L. Gastal, M. M. Oliveira, "Domain Transform for Edge-Aware Image and Video Processing", 2011, section 4.2 (the
recursive form), in three passes of falling reach.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel


@kernel("void(f4[:,:,:]!, f4[:,:], f4)")
def _sweep_rows(image, steps, feedback):  # type: ignore[no-untyped-def]
    height, width, channels = image.shape
    for y in range(height):
        for x in range(1, width):
            weight = feedback ** steps[y, x]
            for c in range(channels):
                image[y, x, c] += weight * (image[y, x - 1, c] - image[y, x, c])
        for x in range(width - 2, -1, -1):
            weight = feedback ** steps[y, x + 1]
            for c in range(channels):
                image[y, x, c] += weight * (image[y, x + 1, c] - image[y, x, c])


def _steps(image: NDArray[np.float32], axis: int, ratio: float) -> NDArray[np.float32]:
    change = np.abs(np.diff(image, axis=axis, prepend=np.take(image, [0], axis=axis))).sum(axis=2)
    return (1.0 + ratio * change).astype(np.float32)


def smooth_keeping_edges(image: NDArray[np.float32], reach_px: float, contrast: float) -> NDArray[np.float32]:
    """image : (H, W, C) float32. reach_px: spatial deviation; contrast: change (sum over channels) that stops it."""
    across = _steps(image, 1, reach_px / contrast)
    down = np.ascontiguousarray(_steps(image, 0, reach_px / contrast).T)
    result = image.copy()
    passes = 3
    for index in range(passes):
        deviation = reach_px * math.sqrt(3.0) * 2.0 ** (passes - index - 1) / math.sqrt(4.0**passes - 1.0)
        feedback = np.float32(math.exp(-math.sqrt(2.0) / deviation))
        _sweep_rows(result, across, feedback)
        turned = np.ascontiguousarray(result.transpose(1, 0, 2))
        _sweep_rows(turned, down, feedback)
        result = np.ascontiguousarray(turned.transpose(1, 0, 2))
    return result
