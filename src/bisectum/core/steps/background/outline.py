"""The outline of a photograph's subject for a blade: from a coarse mask to the half-way line between subject and ground.

How much of each pixel is subject follows from the colours about it (K. He, J. Sun, X. Tang, "Guided Image Filtering", 2010),
in a band along the mask. Fur and hair make that line ragged in every direction, which no blade can follow and no eye misses when
it is gone; there the shares are blurred before the line is drawn. Where it runs in one direction it stays as it is.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.resample import reduce_to

GRID_PX = 1_000_000  # pixels the shares are worked out in
BAND = 0.012  # of the longer side: what the mask may be off, with some fur beyond it
LEAST_BAND = 3  # px
LIKE = 1e-4  # variance of colours, 0 to 1 each, below which they say nothing
SMOOTHED = 1 / 200  # of the width: deviation of the blur that takes away fur


def outlined(rgba: NDArray[np.uint8], mask: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """How much of each pixel is subject. rgba : (H, W, 4) uint8; mask : (h, w) bool, of the same picture made smaller.

    Returns (H, W) uint8, 0 to 255; other values than these lie on the outline only.
    """
    if not mask.any() or mask.all():
        return np.full(rgba.shape[:2], 255 if mask.any() else 0, np.uint8)
    grid = reduce_to(rgba, GRID_PX)[0]
    shares = _shares(np.ascontiguousarray(grid[..., :3]), mask)
    shares = _without_fur(shares, SMOOTHED * grid.shape[1])
    height, width = rgba.shape[:2]
    n = math.ceil(height / grid.shape[0])
    whole = cv2.resize(shares, (grid.shape[1] * n, grid.shape[0] * n), interpolation=cv2.INTER_LINEAR)[:height, :width]
    return _sharp(np.ascontiguousarray(whole))


def _shares(rgb: NDArray[np.uint8], mask: NDArray[np.bool_]) -> NDArray[np.float32]:
    """0 to 1; within a band about the mask's outline by the colours there. rgb : (h, w, 3) uint8; mask of any size."""
    height, width = rgb.shape[:2]
    solid = cv2.resize(mask.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR) > 0.5
    band = max(LEAST_BAND, round(BAND * max(height, width)))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * band + 1, 2 * band + 1))
    inner = cv2.erode(solid.astype(np.uint8), disc, borderValue=1) > 0
    outer = cv2.dilate(solid.astype(np.uint8), disc) == 0
    guided = guided_filter(rgb.astype(np.float32) / np.float32(255), solid.astype(np.float32), band, LIKE)
    shares = np.where(inner, 1.0, np.where(outer, 0.0, np.clip(guided, 0.0, 1.0))).astype(np.float32)
    return _hanging_together(shares, inner, outer)


def guided_filter(guide: NDArray[np.float32], values: NDArray[np.float32], radius: int, like: float) -> NDArray[np.float32]:
    """Values led along the edges of a picture: in each window they are the best linear function of its colours.

    guide : (h, w, 3) float32; values : (h, w) float32; radius: of the windows, px; like: variance below which colours are one.
    """
    def mean(image: NDArray) -> NDArray[np.float32]:
        return np.asarray(cv2.boxFilter(image, -1, (2 * radius + 1, 2 * radius + 1)), np.float32)

    red, green, blue = (np.ascontiguousarray(guide[..., k]) for k in range(3))
    means, own = [mean(one) for one in (red, green, blue)], mean(values)
    rr, gg, bb = (mean(one * one) - middle**2 + like for one, middle in zip((red, green, blue), means, strict=True))
    rg, rb, gb = (mean(one * other) - a * b for one, other, a, b in (
        (red, green, means[0], means[1]), (red, blue, means[0], means[2]), (green, blue, means[1], means[2])))
    with_values = [mean(one * values) - middle * own for one, middle in zip((red, green, blue), means, strict=True)]
    # The inverse of the symmetric 3 × 3 matrix of variances, by its cofactors.
    c_rr, c_gg, c_bb = gg * bb - gb**2, rr * bb - rb**2, rr * gg - rg**2
    c_rg, c_rb, c_gb = rb * gb - rg * bb, rg * gb - rb * gg, rg * rb - rr * gb
    det = rr * c_rr + rg * c_rg + rb * c_rb
    slopes = [(x * with_values[0] + y * with_values[1] + z * with_values[2]) / det
              for x, y, z in ((c_rr, c_rg, c_rb), (c_rg, c_gg, c_gb), (c_rb, c_gb, c_bb))]
    level = own - sum(slope * middle for slope, middle in zip(slopes, means, strict=True))
    result = mean(level)
    for slope, one in zip(slopes, (red, green, blue), strict=True):
        result += mean(slope) * one
    return result


def _hanging_together(
    shares: NDArray[np.float32], inner: NDArray[np.bool_], outer: NDArray[np.bool_]
) -> NDArray[np.float32]:
    """Without bits of one side that hang together with nothing that surely belongs to it."""
    result = shares.copy()
    for side, sure, other in ((shares > 0.5, inner, 0.0), (shares <= 0.5, outer, 1.0)):
        count, parts = cv2.connectedComponents(side.astype(np.uint8), connectivity=4)
        held = np.zeros(count, bool)
        held[parts[sure]] = True
        result[side & ~held[parts]] = other
    return result


def _without_fur(shares: NDArray[np.float32], deviation: float) -> NDArray[np.float32]:
    """Blurred where the outline runs in many directions at once. deviation: px of the blur."""
    down, across = (cv2.Sobel(cv2.GaussianBlur(shares, (0, 0), 1.0), cv2.CV_32F, *way, ksize=3) for way in ((0, 1), (1, 0)))
    # The structure tensor (W. Förstner, E. Gülch, 1987): how much the slopes about a place agree.
    xx, yy, xy = (cv2.GaussianBlur(one, (0, 0), 2 * deviation) for one in (across * across, down * down, across * down))
    agreeing = (((xx - yy) ** 2 + 4 * xy**2) / np.maximum(xx + yy, 1e-9) ** 2) ** 2  # half of them is hardly any
    soft = cv2.GaussianBlur(shares, (0, 0), deviation)
    return np.asarray(agreeing * shares + (1 - agreeing) * soft, np.float32)


def _sharp(shares: NDArray[np.float32]) -> NDArray[np.uint8]:
    """The same half-way line, with shares only in the pixels it runs through. shares : (H, W), 0 to 1."""
    slope = cv2.magnitude(cv2.Sobel(shares, cv2.CV_32F, 1, 0, ksize=3, scale=1 / 8),
                          cv2.Sobel(shares, cv2.CV_32F, 0, 1, ksize=3, scale=1 / 8))
    away = (shares - 0.5) / np.maximum(slope, 1e-3)
    return np.asarray(np.clip(np.rint(255 * (0.5 + away)), 0, 255), np.uint8)
