"""The colours of a compressed picture more finely than its flat places keep them.

JPEG rounds the mean of a block to steps of one to two levels, the same way everywhere in a flat area. In blocks that hold an
edge as well, each is rounded another way, so the mean over the flat places of many such blocks comes nearer to the colour.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

BLOCK = 8  # px, of JPEG's transform
BAND, ENOUGH_PX = 8 * BLOCK, 1_000_000  # rows that are looked at together, and about how many pixels in all
NEAR = 20  # levels about a mode that are taken for it, but no more than half of the way to the next one
STEP = 2  # levels; a block that varies by no more is flat
FEWEST_PX, FARTHEST = 300, 3.0  # pixels that tell, and levels they may move a mode


def settled_modes(rgba: NDArray[np.uint8], skip: NDArray[np.bool_], modes: NDArray[np.float64]) -> NDArray[np.float64]:
    """rgba : (H, W, 4); skip : (H, W), pixels not to count; modes : (M, 3) coded. Returns (M, 3)."""
    every = max(1, rgba.shape[0] * rgba.shape[1] // ENOUGH_PX)
    rows = np.flatnonzero(np.arange(rgba.shape[0]) // BAND % every == 0)
    image = np.ascontiguousarray(rgba[rows])
    square = np.ones((3, 3), np.uint8)
    high, low = cv2.dilate(image, square), cv2.erode(image, square)
    telling = (_in_restless_blocks(image) & ~skip[rows]).astype(np.uint8)
    apart = np.abs(modes[:, None] - modes).max(axis=2) + np.diag(np.full(len(modes), np.inf))
    result = modes.copy()
    for number, mode in enumerate(modes):
        near = min(NEAR, 0.5 * apart[number].min(initial=np.inf))
        least, most = np.clip(mode - near, 0, 255), np.clip(mode + near, 0, 255)
        above = cv2.inRange(low, np.append(least, 0), np.full(4, 255.0))
        below = cv2.inRange(high, np.zeros(4), np.append(most, 255))
        own = cv2.bitwise_and(above, below, mask=telling)
        if cv2.countNonZero(own) < FEWEST_PX:
            continue
        mean = np.array(cv2.mean(image, own)[:3])
        whole = (least > 0) & (most < 255)  # elsewhere noise is cut off at black or white, which shifts the mean
        if np.abs(mean - mode)[whole].max(initial=0.0) <= FARTHEST:
            result[number, whole] = mean[whole]
    return result


def _in_restless_blocks(image: NDArray[np.uint8]) -> NDArray[np.bool_]:
    height, width = image.shape[0] // BLOCK, image.shape[1] // BLOCK
    blocks = image[: height * BLOCK, : width * BLOCK, :3].reshape(height, BLOCK, width, BLOCK, 3)
    restless = (blocks.max(axis=(1, 3)) - blocks.min(axis=(1, 3))).max(axis=2) > STEP
    result = np.zeros(image.shape[:2], bool)
    result[: height * BLOCK, : width * BLOCK] = restless.repeat(BLOCK, axis=0).repeat(BLOCK, axis=1)
    return result
