"""Curvature flow: every level line moves inwards by its curvature, so small bends go and large shapes stay.

L. Alvarez, P.-L. Lions, J.-M. Morel, "Image Selective Smoothing and Edge Detection by Nonlinear Diffusion II", 1992;
explicit steps on a grid of pixels.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.compiled import kernel

STEP = 0.2  # px², stable up to a quarter


@kernel("void(f4[:,:], f4[:,:]!, f4)")
def _step(image, out, step):  # type: ignore[no-untyped-def]
    height, width = image.shape
    for y in range(height):
        up, down = max(0, y - 1), min(height - 1, y + 1)
        for x in range(width):
            left, right = max(0, x - 1), min(width - 1, x + 1)
            here = image[y, x]
            dx, dy = np.float32(0.5) * (image[y, right] - image[y, left]), np.float32(0.5) * (image[down, x] - image[up, x])
            dxx = image[y, right] - np.float32(2) * here + image[y, left]
            dyy = image[down, x] - np.float32(2) * here + image[up, x]
            dxy = np.float32(0.25) * (image[down, right] - image[down, left] - image[up, right] + image[up, left])
            slope = dx * dx + dy * dy
            bend = dxx * dy * dy - np.float32(2) * dx * dy * dxy + dyy * dx * dx
            out[y, x] = here + step * (bend / slope if slope > np.float32(1e-8) else np.float32(0.25) * (dxx + dyy))


def curvature_flow(image: NDArray[np.float32], time_px2: float, progress: Progress = SILENT) -> NDArray[np.float32]:
    """image : (H, W) float32. time_px2: how long, px²; a circle of radius r is gone after r² / 2. Raises: Cancelled."""
    steps = math.ceil(time_px2 / STEP)
    one, other = np.ascontiguousarray(image, np.float32).copy(), np.empty(image.shape, np.float32)
    for _ in range(steps):
        progress.raise_if_cancelled()
        _step(one, other, np.float32(time_px2 / steps))
        one, other = other, one
    return one
