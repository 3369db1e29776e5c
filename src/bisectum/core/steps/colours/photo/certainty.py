"""How far each place of a photograph may be smoothed: to the finest scale at which an edge stands out from what is usual around.

A hair has hundreds like it, a pupil's glint none: where many edges of one scale lie close together each of them is texture, and
only a coarser one counts. Scale control by J. Elder, S. Zucker, "Local Scale Control for Edge Detection and Blur Estimation",
1998, with the noise replaced by what is around (C. Grigorescu, N. Petkov, M. Westenberg, "Contour Detection Based on
Nonclassical Receptive Field Inhibition", 2003).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure

SCALES = (0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 2.0, 2.8, 4.0)  # deviations, in mm where lines are of the usual fineness
USUAL_FINE_MM = 0.4  # the fineness of lines that these scales are for; they grow with it
AROUND = 6.0  # the same: what is usual is asked of a disc of such deviation, or 4 times the scale where that is more
LEAST_STEP = 0.8  # DIN99o times the scale's share of a step: less is nothing, wherever it lies (a step of 2)
LEAST_SUM = 3.0  # DIN99o · mm that a connected edge must stand out by
CLEAR = 2.0  # deviations about a certain edge that say nothing of what is usual: a sharp outline would hush the shade beside it
FEWEST = 0.08  # share of a disc that must be left to say what is usual
RISE = 0.35  # mm of scale a mm away from an edge, so that none is blurred from beside
WIDEST_PX = 3.0  # deviation from which a picture of half the size does
SMALLEST_PX = 64  # side of such a picture


@dataclass(frozen=True, slots=True)
class Certainty:
    """scale : (H, W) float32, mm, that a place may be smoothed to; found : (H, W) float32, mm, the scale of the certain edge at a
    place, the widest where there is none; edge : (H, W) float32, DIN99o, how far that stands out, 0 where there is none; levels:
    the picture at each scale, smaller where wide; scales: mm."""

    scale: NDArray[np.float32]
    found: NDArray[np.float32]
    edge: NDArray[np.float32]
    levels: tuple[NDArray[np.float32], ...]
    scales: tuple[float, ...]

    def beside_sharp(self, widest: float, reach_px: int) -> NDArray[np.bool_]:
        """(H, W), what lies within so many pixels of a certain edge whose scale is `widest` mm at most; the edge of a shade is
        wider."""
        sharp = ((self.edge > 0) & (self.found <= widest)).astype(np.uint8)
        return cv2.dilate(sharp, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach_px + 1, 2 * reach_px + 1))) > 0

    def calm(self) -> NDArray[np.float32]:
        """The picture without texture: every place smoothed to its scale. Returns (H, W, 3) float32."""
        height, width = self.scale.shape
        place = np.interp(np.log(self.scale), np.log(self.scales), np.arange(len(self.scales))).astype(np.float32)
        result = np.zeros((height, width, 3), np.float32)
        for number, level in enumerate(self.levels):
            share = np.maximum(0, 1 - np.abs(place - number))
            if share.any():
                whole = level if level.shape[:2] == (height, width) else cv2.resize(level, (width, height))
                result += share[..., None] * whole
        return result

    def check(self) -> None:
        """Raises: BrokenStructure where the rasters differ in size or the scales do not rise."""
        if not self.scale.shape == self.found.shape == self.edge.shape:
            raise BrokenStructure("The rasters of a map of certainty are of one size.")
        if list(self.scales) != sorted(self.scales) or len(self.scales) != len(self.levels):
            raise BrokenStructure("A map of certainty has a level for each of its scales, which rise.")


def certainty(
    colour: NDArray[np.float32], mm: float, fine_mm: float, times: NDArray[np.float32], seed: NDArray[np.float32]
) -> Certainty:
    """colour : (H, W, 3) float32, DIN99o; mm: size of a pixel; fine_mm: how fine lines are. times : (H, W), how many times what
    is usual around it an edge must be; seed : (H, W), how far beyond that, as a share of it, some place of an edge must be."""
    height, width = colour.shape[:2]
    scales = tuple(scale * fine_mm / USUAL_FINE_MM for scale in SCALES)
    found = np.full((height, width), scales[-1], np.float32)
    edge, levels = np.zeros((height, width), np.float32), []
    for scale in scales:
        level, shrunk = _at_scale(colour, scale / mm)
        levels.append(level)
        sure = _resized((edge > 0).astype(np.float32), level.shape)
        standing = _standing_out(level, sure > 0, scale, mm * shrunk, fine_mm, _resized(times, level.shape),
                                 _resized(seed, level.shape))
        standing = _resized(standing, colour.shape)
        new = (standing > 0) & (edge <= 0)
        found[new], edge[new] = scale, standing[new]
    return Certainty(_spread(found, scales, mm), found, edge, tuple(levels), scales)


def _at_scale(colour: NDArray[np.float32], deviation: float) -> tuple[NDArray[np.float32], int]:
    """The picture smoothed by a deviation, px, and how many of its pixels are one there."""
    shrunk = 1
    while deviation / shrunk >= WIDEST_PX and min(colour.shape[:2]) // (2 * shrunk) > SMALLEST_PX:
        shrunk *= 2
    small = _resized(colour, (colour.shape[0] // shrunk, colour.shape[1] // shrunk)) if shrunk > 1 else colour
    left = max(deviation, 0.5) ** 2 - (shrunk**2 - 1) / 12  # the mean of a square of pixels has smoothed already
    return np.asarray(cv2.GaussianBlur(small, (0, 0), math.sqrt(max(0.2, left)) / shrunk), np.float32), shrunk


def _standing_out(
    level: NDArray[np.float32], sure: NDArray[np.bool_], scale: float, mm: float, fine_mm: float, times: NDArray[np.float32],
    seed: NDArray[np.float32],
) -> NDArray[np.float32]:
    """How far edges of a scale stand out from what is usual around, 0 where they do not. sure : (h, w), where a finer one is."""
    slope = _slope(level) * np.float32(max(scale / mm, 0.5))
    reach = max(AROUND * fine_mm / USUAL_FINE_MM, 4 * scale) / mm
    free = cv2.distanceTransform((~sure).astype(np.uint8), cv2.DIST_L2, 3) > CLEAR * scale / mm if sure.any() else ~sure
    count = _wide_mean(free.astype(np.float32), reach)
    usual = np.sqrt(np.maximum(0, _wide_mean(np.where(free, slope * slope, 0), reach) / np.maximum(count, FEWEST)))
    limit = np.maximum(np.float32(LEAST_STEP), times * usual)
    beyond = np.maximum(0, slope - limit)
    _, parts = cv2.connectedComponents((beyond > 0).astype(np.uint8), connectivity=8)
    # A ridge is about 1.5 deviations wide, so its area by that is its length.
    total = np.bincount(parts.ravel(), beyond.ravel()) * mm**2 / (1.5 * scale)
    kept = total >= LEAST_SUM * fine_mm / USUAL_FINE_MM
    seeded = np.zeros(len(kept), bool)
    seeded[np.unique(parts[slope - limit >= seed * limit])] = True
    kept &= seeded
    kept[0] = False
    return np.where(kept[parts], beyond, 0).astype(np.float32)


def _slope(level: NDArray[np.float32]) -> NDArray[np.float32]:
    """Change to the next pixel, all channels together: (h, w)."""
    total = np.zeros(level.shape[:2], np.float32)
    for dx, dy in ((1, 0), (0, 1)):
        change = cv2.Sobel(level, cv2.CV_32F, dx, dy, ksize=1, scale=0.5, borderType=cv2.BORDER_REPLICATE)
        total += np.einsum("ijk,ijk->ij", change, change)
    return np.sqrt(total)


def _wide_mean(values: NDArray[np.float32], deviation: float) -> NDArray[np.float32]:
    """A Gaussian mean of any width, of a picture that is as small as it may be. Returns (h, w)."""
    small, shrunk = _at_scale(values, deviation)
    return small if shrunk == 1 else _resized(small, values.shape)


def _resized(values: NDArray[np.float32], shape: tuple[int, ...]) -> NDArray[np.float32]:
    if values.shape[:2] == tuple(shape[:2]):
        return values
    way = cv2.INTER_AREA if shape[0] < values.shape[0] else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(values, (shape[1], shape[0]), interpolation=way), np.float32)


def _spread(found: NDArray[np.float32], scales: tuple[float, ...], mm: float) -> NDArray[np.float32]:
    """The scale of each place: of the certain edge there, or what the edges beside leave of it."""
    result = found.copy()
    for scale in scales[:-1]:
        own = found == np.float32(scale)
        if own.any():
            away = cv2.distanceTransform((~own).astype(np.uint8), cv2.DIST_L2, 5)
            np.minimum(result, np.float32(scale) + np.float32(RISE * mm) * away, out=result)
    return result
