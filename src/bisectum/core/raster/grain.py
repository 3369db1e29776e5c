"""Grain: how much of it there is, and a picture without it.

How much is measured as by J. Immerkær, "Fast Noise Variance Estimation", 1996: a difference of two Laplacians, which neither flat
places nor even shading have; here by its median, which leaves edges out. It is taken away by the bilateral filter (C. Tomasi,
R. Manduchi, 1998), which evens out what differs by no more than grain does, and keeps edges.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

KERNEL = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
TO_DEVIATION = 1 / (0.6745 * 6.0)  # from the median of a normal variable's size; squares of the kernel's weights add up to 36
ACROSS_PX, REACH_PX, PASSES = 9, 3.0, 2  # of the filter
RANGE = 4.2  # deviations within which the filter evens out; in white and black, where grain is cut off, less is measured


def grain_of(rgba: NDArray[np.uint8]) -> float:
    """The deviation of the grain of a picture, levels, in the channel that has most. rgba : (H, W, 4) uint8."""
    return max(float(np.median(np.abs(cv2.filter2D(rgba[..., channel].astype(np.float32), -1, KERNEL)))) * TO_DEVIATION
               for channel in range(3))


def without_grain(rgba: NDArray[np.uint8], deviation: float) -> NDArray[np.uint8]:
    """The picture with grain of that deviation (levels) evened out; alpha as it was."""
    result = rgba.copy()
    colours = np.ascontiguousarray(rgba[..., :3])
    for _ in range(PASSES):
        colours = np.asarray(cv2.bilateralFilter(colours, ACROSS_PX, RANGE * deviation, REACH_PX), np.uint8)
    result[..., :3] = colours
    return result
