"""Shading evened between certain edges: what is dark on one side of a soft change and light on the other gets one smooth slope.

Weighted least squares, solved along rows and columns in turn: D. Min et al., "Fast Global Image Smoothing Based on Weighted Least
Squares", 2014.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel
from bisectum.core.steps.colours.photo.certainty import USUAL_FINE_MM, Certainty
from bisectum.core.steps.colours.photo.sides import SHARP

REACH = 4.0  # mm that shading is evened over where lines are of the usual fineness
STOPS = 2.0  # DIN99o that an edge of shade stands out by where the evening falls off by e²
SHARPLY = 0.3  # the same of a sharp edge, where borders are to lie on it
ROUNDS = 3


def evened(
    calm: NDArray[np.float32], certain: Certainty, mm: float, fine_mm: float, exactly: bool = True
) -> NDArray[np.float32]:
    """calm : (H, W, 3) float32, DIN99o; mm: size of a pixel. exactly: sharp edges stay where they are; else only the colours
    between them matter. Returns the same, smoothed wherever nothing is certain."""
    sharp = (certain.found <= SHARP * fine_mm) & exactly
    stops = np.where(sharp, np.float32(SHARPLY), np.float32(STOPS))
    open_ = np.exp(-2 * certain.edge / stops).astype(np.float32)
    result = np.ascontiguousarray(calm).copy()
    _smooth(result, open_, np.float32((REACH * fine_mm / USUAL_FINE_MM / mm) ** 2), ROUNDS)
    return result


@kernel("void(f4[:,:,:]!, f4[:,:], f4, i8)")
def _smooth(image, passes, strength, rounds):  # type: ignore[no-untyped-def]
    """image : (H, W, 3), smoothed in place; passes : (H, W), 1 where smoothing goes on, 0 where an edge parts."""
    height, width, channels = image.shape
    kept = np.empty((height, width), np.float32)
    one = np.float32(1)
    for turn in range(rounds):
        weight = np.float32(1.5 * strength * 4.0 ** (rounds - 1 - turn) / (4.0**rounds - 1))
        for y in range(height):
            before = np.float32(0)
            for x in range(width):
                after = weight * min(passes[y, x], passes[y, x + 1]) if x < width - 1 else np.float32(0)
                share = one / (one + before + after - (before * kept[y, x - 1] if x > 0 else np.float32(0)))
                kept[y, x] = after * share
                for c in range(channels):
                    image[y, x, c] = (image[y, x, c] + (before * image[y, x - 1, c] if x > 0 else np.float32(0))) * share
                before = after
            for x in range(width - 2, -1, -1):
                for c in range(channels):
                    image[y, x, c] += kept[y, x] * image[y, x + 1, c]
        for y in range(height):
            for x in range(width):
                above = weight * min(passes[y, x], passes[y - 1, x]) if y > 0 else np.float32(0)
                below = weight * min(passes[y, x], passes[y + 1, x]) if y < height - 1 else np.float32(0)
                share = one / (one + above + below - (above * kept[y - 1, x] if y > 0 else np.float32(0)))
                kept[y, x] = below * share
                for c in range(channels):
                    image[y, x, c] = (image[y, x, c] + (above * image[y - 1, x, c] if y > 0 else np.float32(0))) * share
        for y in range(height - 2, -1, -1):
            for x in range(width):
                for c in range(channels):
                    image[y, x, c] += kept[y, x] * image[y + 1, x, c]
