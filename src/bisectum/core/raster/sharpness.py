"""How blurred a picture is at its sharpest edges.

S. Zhuo, T. Sim, "Defocus map estimation from a single image", 2011: an edge blurred once more loses the more of its slope the
sharper it was.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

ONCE, MORE = 0.7, 1.5  # px: a first blur against noise, and the second one
FEWEST = 60  # places on ridges, and px of a picture's side
STEEP, FAINT = 0.98, 1.0  # the part of all slopes that is no edge; eighths of L* a pixel below which nothing is one
WIDEST = 2.5  # px that are measured well; a wider blur is measured in a picture of half the size
SHARPEST = 0.25  # of the edges


def edge_blur(light: NDArray[np.float32]) -> float | None:
    """Deviation of the blur at the sharpest edges, px; None where there are hardly any. light : (H, W) float32."""
    blur = _measured(light)
    if min(light.shape) < FEWEST or (blur is not None and blur <= WIDEST):
        return blur
    coarser = edge_blur(np.asarray(cv2.resize(light, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), np.float32))
    return 2 * coarser if coarser is not None else blur


def _measured(light: NDArray[np.float32]) -> float | None:
    first = cv2.GaussianBlur(light, (0, 0), ONCE)
    second = cv2.GaussianBlur(first, (0, 0), MORE)
    slopes = [np.hypot(cv2.Sobel(image, cv2.CV_32F, 1, 0), cv2.Sobel(image, cv2.CV_32F, 0, 1)) for image in (first, second)]
    # Steepest across, or down: spots that are steepest all around are rare along a soft edge.
    ridge = np.any([slopes[0] >= cv2.dilate(slopes[0], np.ones(shape, np.uint8)) for shape in ((1, 3), (3, 1))], axis=0)
    ridge &= (slopes[0] > np.quantile(slopes[0], STEEP)) & (slopes[0] > FAINT)
    if ridge.sum() < FEWEST:
        return None
    ratio = np.maximum(slopes[0][ridge] / np.maximum(slopes[1][ridge], 1e-6), 1.0 + 1e-4)
    blur = np.sqrt(np.maximum(MORE**2 / (ratio**2 - 1) - ONCE**2, 0.0))
    return float(np.quantile(blur, SHARPEST))
