"""Colours of flat places: pixels whose neighbours are alike, counted by colour; and of thin lines, which have none.

Anti-aliased fringes have no flat places, so they never reach the palette. A line of three pixels or less has none
either; its middle is told from a fringe by what lies two pixels off on both sides: a fringe stands between two colours,
a line apart from both.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel

CLEAN, NOISY = 4, 10  # levels within which neighbours are alike: in a clean picture, in one with JPEG noise
GRAINY = 1.6  # levels of deviation from which colours are looked for in averages
BINS = 32
STILL = 0.98  # part of the flat pixels that are flat within CLEAN in a picture nothing has been lost of
STEEP = 60  # levels between two pixels within two of a place that make it the surroundings of an edge
LEAST_FLAT = 0.02  # of all pixels; with fewer flat ones a picture is all texture
ENOUGH_PX = 3_000_000
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


@kernel("b1(u1[:,:,:], i8, i8)")
def _is_steep(rgba, y, x):  # type: ignore[no-untyped-def]
    """Whether colours change by STEEP within two pixels of a place."""
    for c in range(3):
        low, high = rgba[y, x, c], rgba[y, x, c]
        for row in range(max(0, y - 2), min(rgba.shape[0], y + 3)):
            for column in range(max(0, x - 2), min(rgba.shape[1], x + 3)):
                low, high = min(low, rgba[row, column, c]), max(high, rgba[row, column, c])
        if np.int64(high) - np.int64(low) > STEEP:
            return True
    return False


@kernel("UniTuple(i8, 2)(u1[:,:,:], b1[:,:], i8, f8[:,:]!, f8[:,:]!)")
def _count(rgba, skip, every, clean, noisy):  # type: ignore[no-untyped-def]
    """Add flat pixels of every so many rows to their bins: count and colour sums. clean, noisy : (32³, 4) float64.

    Returns how many pixels were looked at, and how many of those that are not flat are about an edge.
    """
    height, width = skip.shape
    seen, steep = 0, 0
    for y in range(every // 2, height, every):
        for x in range(width):
            if skip[y, x] or rgba[y, x, 3] < 250:
                continue
            seen += 1
            greatest = np.int64(0)
            for row in range(max(0, y - 1), min(height, y + 2)):
                for column in range(max(0, x - 1), min(width, x + 2)):
                    for c in range(3):
                        change = abs(np.int64(rgba[row, column, c]) - np.int64(rgba[y, x, c]))
                        if change > greatest:
                            greatest = change
                if greatest > NOISY:
                    break
            if greatest > NOISY:
                steep += int(_is_steep(rgba, y, x))
                continue
            place = ((np.int64(rgba[y, x, 0]) >> 3) * BINS + (np.int64(rgba[y, x, 1]) >> 3)) * BINS + (
                np.int64(rgba[y, x, 2]) >> 3
            )
            noisy[place, 0] += 1
            for c in range(3):
                noisy[place, c + 1] += rgba[y, x, c]
            if greatest <= CLEAN:
                clean[place, 0] += 1
                for c in range(3):
                    clean[place, c + 1] += rgba[y, x, c]
    return seen, steep


@kernel("void(u1[:,:,:], b1[:,:], i8, f8[:,:]!)")
def _count_ridges(rgba, skip, every, table):  # type: ignore[no-untyped-def]
    """Add the middle of every thin line to its bin. table : (32³, 4) float64, as for _count."""
    height, width = skip.shape
    for y in range(2, height - 2, every):
        for x in range(2, width - 2):
            if skip[y, x] or rgba[y, x, 3] < 250:
                continue
            ridge = False
            for axis in range(4):
                step_y = (0, 1, 1, 1)[axis]
                step_x = (1, 0, 1, -1)[axis]
                reach = 2
                ahead, behind, along = 0.0, 0.0, 0.0
                for c in range(3):
                    here = np.float64(rgba[y, x, c])
                    a = rgba[y + reach * step_y, x + reach * step_x, c] - here
                    b = rgba[y - reach * step_y, x - reach * step_x, c] - here
                    ahead += a * a
                    behind += b * b
                    along += a * b
                if min(ahead, behind) > APART**2 and along > 0.5 * np.sqrt(ahead * behind):
                    ridge = True
                    break
            if ridge:
                place = ((np.int64(rgba[y, x, 0]) >> 3) * BINS + (np.int64(rgba[y, x, 1]) >> 3)) * BINS + (
                    np.int64(rgba[y, x, 2]) >> 3
                )
                table[place, 0] += 1
                for c in range(3):
                    table[place, c + 1] += rgba[y, x, c]


def ridge_colours(rgba: NDArray[np.uint8], skip: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Colours along the middles of thin lines. rgba, skip: as for flat_colours. Returns (B, 3) colours, (B,) counts."""
    table = np.zeros((BINS**3, 4))
    every = rows_between(rgba)
    _count_ridges(rgba, skip, every, table)
    filled = table[:, 0] > 0
    return table[filled, 1:] / table[filled, :1], every * table[filled, 0]


def rows_between(rgba: NDArray[np.uint8]) -> int:
    """Of a large picture every so many rows tell its colours as well as all of them."""
    return max(1, round(rgba.shape[0] * rgba.shape[1] / ENOUGH_PX))


def grain_of(rgba: NDArray[np.uint8]) -> float:
    """Deviation of single pixels, levels, from the median step between neighbours; 0 in clean art. rgba : (H, W, 4)."""
    every = max(1, int(np.sqrt(rgba.shape[0] * rgba.shape[1] / 400_000)))
    rows = rgba[::every, :, :3].astype(np.int16)
    # For a normal distribution the median of |difference| is 0.954 of one pixel's deviation (0.6745 · √2).
    return float(np.median(np.abs(np.diff(rows, axis=1)))) / 0.954


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
    every = rows_between(rgba)
    seen, steep = _count(rgba, skip, every, clean, noisy)
    flat, still = float(noisy[:, 0].sum()), float(clean[:, 0].sum())
    table, alike = (clean, CLEAN) if still >= 0.75 * flat else (noisy, NOISY)
    filled = table[:, 0] > 0
    counts = table[filled, 0]
    share = flat / max(1, seen - steep) if flat >= LEAST_FLAT * seen else 0.0
    return FlatColours(table[filled, 1:] / counts[:, None], every * counts, max(alike, round(4.2 * grain)), share,
                       still < STILL * flat and grain <= GRAINY)
