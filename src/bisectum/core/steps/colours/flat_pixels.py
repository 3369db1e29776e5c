"""Colours of flat places: pixels whose neighbours are alike, counted by colour; and of thin lines, which have none.

Anti-aliased fringes have no flat places, so they never reach the palette. A line of three pixels or less has none
either; its middle is told from a fringe by what lies two pixels off on both sides: a fringe stands between two colours,
a line apart from both.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel

CLEAN, NOISY = 4, 10  # levels within which neighbours are alike: in a clean picture, in one with JPEG noise
GRAINY = 1.6  # levels of deviation from which colours are looked for in averages
BINS = 32
STILL = 0.98  # part of the flat pixels that are flat within CLEAN in a picture nothing has been lost of
STEEP = 60  # levels between two pixels within two of a place that make it the surroundings of an edge
LEAST_FLAT = 0.02  # of all pixels; with fewer flat ones a picture is all texture
ENOUGH_PX = 1_000_000
RIDGE = 28  # levels some channel must differ by for a line to be APART from both sides
APART = 48.0  # levels a thin line differs from both of its sides


@dataclass(frozen=True, slots=True)
class FlatColours:
    """colours : (B, 3) float64, the mean coded colour of each filled bin; counts : (B,) its flat pixels.

    alike: levels within which neighbours are alike: CLEAN, NOISY, or more by the picture's grain. share: flat pixels as a
    part of all that are not about an edge; what is left are the soft passages of a photograph.
    compressed: there is the unrest of lossy compression.
    """

    colours: NDArray[np.float64]
    counts: NDArray[np.float64]
    alike: int
    share: float
    compressed: bool


@kernel("i8(u1[:,:,:], i8, i8)")
def _bin_of(rgba, y, x):  # type: ignore[no-untyped-def]
    """The number of a pixel's colour among 32³."""
    return ((np.int64(rgba[y, x, 0]) >> 3) * BINS + (np.int64(rgba[y, x, 1]) >> 3)) * BINS + (np.int64(rgba[y, x, 2]) >> 3)


@kernel("i8(u1[:,:,:], u1[:,:,:], i8, i8)")
def _spread(high, low, y, x):  # type: ignore[no-untyped-def]
    """The most any channel differs about a place."""
    return max(np.int64(high[y, x, 0]) - low[y, x, 0], np.int64(high[y, x, 1]) - low[y, x, 1],
               np.int64(high[y, x, 2]) - low[y, x, 2])


@kernel("UniTuple(i8, 2)(u1[:,:,:], b1[:,:], u1[:,:,:], u1[:,:,:], u1[:,:,:], u1[:,:,:], f8[:,:]!, f8[:,:]!)")
def _count(rgba, skip, high, low, highest, lowest, clean, noisy):  # type: ignore[no-untyped-def]
    """Add flat pixels to their bins: count and colour sums. clean, noisy : (32³, 4) float64.

    high, low, highest, lowest: extremes of each channel within one and within two pixels. Returns how many pixels were
    looked at, and how many of those that are not flat are about an edge.
    """
    height, width = skip.shape
    seen, steep = 0, 0
    for y in range(height):
        for x in range(width):
            if skip[y, x] or rgba[y, x, 3] < 250:
                continue
            seen += 1
            change = np.int64(0)
            for c in range(3):
                here = np.int64(rgba[y, x, c])
                change = max(change, high[y, x, c] - here, here - low[y, x, c])
            if change > NOISY:
                steep += int(_spread(highest, lowest, y, x) > STEEP)
                continue
            place = _bin_of(rgba, y, x)
            noisy[place, 0] += 1
            for c in range(3):
                noisy[place, c + 1] += rgba[y, x, c]
            if change <= CLEAN:
                clean[place, 0] += 1
                for c in range(3):
                    clean[place, c + 1] += rgba[y, x, c]
    return seen, steep


@kernel("void(u1[:,:,:], b1[:,:], u1[:,:,:], u1[:,:,:], f8[:,:]!)")
def _count_ridges(rgba, skip, highest, lowest, table):  # type: ignore[no-untyped-def]
    """Add the middle of every thin line to its bin. table : (32³, 4) float64, as for _count."""
    height, width = skip.shape
    for y in range(2, height - 2):
        for x in range(2, width - 2):
            if skip[y, x] or rgba[y, x, 3] < 250 or _spread(highest, lowest, y, x) < RIDGE:
                continue
            for axis in range(4):
                step_y = (0, 2, 2, 2)[axis]
                step_x = (2, 0, 2, -2)[axis]
                ahead, behind, along = 0.0, 0.0, 0.0
                for c in range(3):
                    here = np.float64(rgba[y, x, c])
                    a = rgba[y + step_y, x + step_x, c] - here
                    b = rgba[y - step_y, x - step_x, c] - here
                    ahead += a * a
                    behind += b * b
                    along += a * b
                if min(ahead, behind) > APART**2 and along > 0.5 * np.sqrt(ahead * behind):
                    place = _bin_of(rgba, y, x)
                    table[place, 0] += 1
                    for c in range(3):
                        table[place, c + 1] += rgba[y, x, c]
                    break


def ridge_colours(rgba: NDArray[np.uint8], skip: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Colours along the middles of thin lines. rgba, skip: as for flat_colours. Returns (B, 3) colours, (B,) counts."""
    table = np.zeros((BINS**3, 4))
    rgba, skip, every = sampled(rgba, skip)
    _count_ridges(rgba, skip, *_extremes(rgba, 5), table)
    filled = table[:, 0] > 0
    return table[filled, 1:] / table[filled, :1], every * table[filled, 0]


def sampled(rgba: NDArray[np.uint8], skip: NDArray[np.bool_]) -> tuple[NDArray[np.uint8], NDArray[np.bool_], int]:
    """Of a large picture strips of five rows, whose middle ones alone count, tell its colours as well as all of it.

    Returns the strips one below the other, what of them is not to be counted, and how many rows each middle one stands for.
    """
    every = rgba.shape[0] * rgba.shape[1] // ENOUGH_PX
    if every < 5:
        return rgba, skip, 1
    middles = np.arange(every // 2, rgba.shape[0] - 2, every)
    rows = (middles[:, None] + np.arange(-2, 3)).ravel()
    beside = np.ones((len(rows), skip.shape[1]), bool)
    beside[2::5] = skip[middles]
    return np.ascontiguousarray(rgba[rows]), beside, every


def _extremes(rgba: NDArray[np.uint8], across: int) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """The highest and the lowest of each channel in the square of so many pixels about each. Returns two (H, W, 4) uint8."""
    square = np.ones((across, across), np.uint8)
    return np.asarray(cv2.dilate(rgba, square), np.uint8), np.asarray(cv2.erode(rgba, square), np.uint8)


def grain_of(rgba: NDArray[np.uint8]) -> float:
    """Deviation of single pixels, levels, from the median step between neighbours; 0 in clean art. rgba : (H, W, 4)."""
    every = max(1, rgba.shape[0] * rgba.shape[1] // 400_000)
    rows = np.ascontiguousarray(rgba[::every])
    steps = cv2.absdiff(rows[:, 1:], rows[:, :-1])
    counts = np.cumsum([cv2.calcHist([steps], [c], None, [256], [0, 256]).ravel() for c in range(3)], axis=1).sum(axis=0)
    # For a normal distribution the median of |difference| is 0.954 of one pixel's deviation (0.6745 · √2).
    return float(np.searchsorted(counts, 0.5 * counts[-1])) / 0.954


def averaged(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Means over 3 × 3 pixels, which take a grain down to a third. rgba : (H, W, 4) uint8, opaque."""
    padded = np.pad(rgba, ((1, 1), (1, 1), (0, 0)), mode="edge")
    total = np.zeros(rgba.shape, np.uint16)
    for y in range(3):
        for x in range(3):
            total += padded[y : y + rgba.shape[0], x : x + rgba.shape[1]]
    return ((total + 4) // 9).astype(np.uint8)


def flat_colours(rgba: NDArray[np.uint8], skip: NDArray[np.bool_]) -> FlatColours:
    """rgba : (H, W, 4) uint8; skip : (H, W) bool, pixels not to count (the background)."""
    grain = grain_of(rgba)
    if grain > GRAINY:
        rgba = averaged(rgba)
    clean, noisy = np.zeros((BINS**3, 4)), np.zeros((BINS**3, 4))
    rgba, skip, every = sampled(rgba, skip)
    seen, steep = _count(rgba, skip, *_extremes(rgba, 3), *_extremes(rgba, 5), clean, noisy)
    flat, still = float(noisy[:, 0].sum()), float(clean[:, 0].sum())
    table, alike = (clean, CLEAN) if still >= 0.75 * flat else (noisy, NOISY)
    filled = table[:, 0] > 0
    counts = table[filled, 0]
    share = flat / max(1, seen - steep) if flat >= LEAST_FLAT * seen else 0.0
    return FlatColours(table[filled, 1:] / counts[:, None], every * counts, max(alike, round(4.2 * grain)), share,
                       still < STILL * flat and grain <= GRAINY)
