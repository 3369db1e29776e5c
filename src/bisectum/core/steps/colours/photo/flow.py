"""The direction in which a picture's edges run, and averages along it.

Directions from the smoothed structure tensor: J. Bigün, G. H. Granlund, 1987; H. Kang, S. Lee, C. K. Chui, "Flow-Based Image
Abstraction", 2009.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel


def edge_flow(image: NDArray[np.float32], deviation_px: float) -> NDArray[np.float32]:
    """Unit vectors along the edges. image : (H, W) float32. Returns (H, W, 2) float32, x and y."""
    dx, dy = cv2.Scharr(image, cv2.CV_32F, 1, 0), cv2.Scharr(image, cv2.CV_32F, 0, 1)
    xx, xy, yy = (cv2.GaussianBlur(product, (0, 0), deviation_px) for product in (dx * dx, dx * dy, dy * dy))
    angle = 0.5 * np.arctan2(2 * xy, xx - yy)  # of the steepest slope
    return np.stack([-np.sin(angle), np.cos(angle)], axis=-1).astype(np.float32)


@kernel("void(f4[:,:], f4[:,:,:], f4[:], b1[:,:], f4[:,:]!)")
def _along(image, flow, weights, wanted, out):  # type: ignore[no-untyped-def]
    """weights : (N + 1,), of the place itself and of those 1 to N pixels off, on either side."""
    height, width = image.shape
    for y in range(height):
        for x in range(width):
            if not wanted[y, x]:
                continue
            total, mass = weights[0] * image[y, x], weights[0]
            for side in range(2):
                px, py = np.float32(x), np.float32(y)
                vx, vy = flow[y, x, 0], flow[y, x, 1]
                if side == 1:
                    vx, vy = -vx, -vy
                for k in range(1, len(weights)):
                    px += vx
                    py += vy
                    ix, iy = int(px + np.float32(0.5)), int(py + np.float32(0.5))
                    if px < 0 or py < 0 or ix >= width or iy >= height:
                        break
                    total += weights[k] * image[iy, ix]
                    mass += weights[k]
                    nx, ny = flow[iy, ix, 0], flow[iy, ix, 1]
                    turn = np.float32(1) if nx * vx + ny * vy >= 0 else np.float32(-1)
                    vx, vy = turn * nx, turn * ny
            out[y, x] = total / mass


def along_flow(
    image: NDArray[np.float32], flow: NDArray[np.float32], deviation_px: float, wanted: NDArray[np.bool_]
) -> NDArray[np.float32]:
    """Gaussian averages along the flow. image : (H, W); flow : (H, W, 2); wanted : (H, W), where; elsewhere they are 0."""
    reach = max(1, math.ceil(2.0 * deviation_px))
    weights = np.exp(-0.5 * (np.arange(reach + 1) / deviation_px) ** 2).astype(np.float32)
    out = np.zeros_like(image)
    _along(image, flow, weights, wanted, out)
    return out
