"""Making images smaller by whole-area averages."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

SHADE = 254  # an even one: half of a block averages to just half of it, one pixel more to above that in blocks of up to 22


def premultiplied(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Straight alpha to premultiplied. rgba : (H, W, 4) uint8 → (H, W, 4) uint8; the same array where all is opaque."""
    alpha = cv2.extractChannel(rgba, 3)
    if int(alpha.min()) == 255:
        return rgba
    result = rgba.copy()
    for channel in range(3):
        result[..., channel] = (rgba[..., channel].astype(np.uint16) * alpha + 127) // 255
    return result


def reduce_to(rgba: NDArray[np.uint8], most_px: int) -> tuple[NDArray[np.uint8], float]:
    """Average blocks of n × n pixels, n as small as brings the image to `most_px` pixels.

    rgba : (H, W, 4) uint8, straight alpha. Returns the smaller image and n; a last incomplete row or column of blocks
    is averaged over what it has. Colours are weighted by their alpha.
    """
    height, width = rgba.shape[:2]
    n = max(1, math.ceil(math.sqrt(height * width / most_px)))
    if n == 1:
        return rgba, 1.0
    solid = premultiplied(rgba)
    low, right = height // n * n, width // n * n
    result = np.empty((math.ceil(height / n), math.ceil(width / n), 4), np.float32)
    if low and right:  # whole blocks, quickly
        part = np.ascontiguousarray(solid[:low, :right])
        result[: low // n, : right // n] = cv2.resize(part, (right // n, low // n), interpolation=cv2.INTER_AREA)
    if low < height:
        result[-1] = _blocks(solid[low:], n)[0]
    if right < width:
        result[:, -1] = _blocks(solid[:, right:], n)[:, 0]
    alpha = result[..., 3:4]
    if float(alpha.min()) < 255:
        result[..., :3] = np.where(alpha > 0, result[..., :3] * 255.0 / np.maximum(alpha, 1e-9), 0.0)
    return np.clip(result + 0.5, 0, 255).astype(np.uint8), float(n)


def _blocks(strip: NDArray[np.uint8], n: int) -> NDArray[np.float64]:
    """Means over blocks of n × n, the last ones over what they have. strip : (h, w, 4) uint8."""
    height, width = strip.shape[:2]
    rows, columns = np.arange(0, height, n), np.arange(0, width, n)
    counts = np.outer(np.diff(np.append(rows, height)), np.diff(np.append(columns, width)))[..., None]
    sums = np.add.reduceat(np.add.reduceat(strip, rows, axis=0, dtype=np.uint32), columns, axis=1)
    return np.asarray(sums / counts)


def reduced_mask(mask: NDArray[np.bool_], height: int, width: int, n: int) -> NDArray[np.bool_]:
    """Most of each block of n × n, as reduce_to makes them; the last ones may be smaller.

    mask : (H, W) bool. Returns (height, width) bool.
    """
    if n == 1:
        return mask
    low, right = mask.shape[0] // n * n, mask.shape[1] // n * n
    result = np.empty((math.ceil(mask.shape[0] / n), math.ceil(mask.shape[1] / n)), bool)
    if low and right:  # whole blocks, quickly
        part = np.ascontiguousarray(mask[:low, :right]).view(np.uint8) * np.uint8(SHADE)
        result[: low // n, : right // n] = cv2.resize(part, (right // n, low // n), interpolation=cv2.INTER_AREA) > SHADE // 2
    if low < mask.shape[0]:
        result[-1] = _most(mask[low:], n)[0]
    if right < mask.shape[1]:
        result[:, -1] = _most(mask[:, right:], n)[:, 0]
    return result[:height, :width]


def _most(mask: NDArray[np.bool_], n: int) -> NDArray[np.bool_]:
    """Most of each block of a strip; the last ones may be smaller."""
    rows, columns = np.arange(0, mask.shape[0], n), np.arange(0, mask.shape[1], n)
    sums = np.add.reduceat(np.add.reduceat(mask, rows, axis=0, dtype=np.int32), columns, axis=1)
    sizes = np.outer(np.diff(np.append(rows, mask.shape[0])), np.diff(np.append(columns, mask.shape[1])))
    return np.asarray(2 * sums > sizes)
