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

from bisectum.core.raster.colour import words_of
from bisectum.core.raster.compiled import kernel, part

CLEAN, NOISY = 4, 10  # levels within which neighbours are alike: in a clean picture, in one with JPEG noise
GRAINY = 1.6  # levels of deviation from which colours are looked for in averages
BINS = 32
STILL = 0.98  # part of the flat pixels that are flat within CLEAN in a picture nothing has been lost of
EVEN, RESTLESS = 0.9, 0.03  # in one with fine detail: those just like all neighbours, and those that are off one by up to CLEAN
EVEN_BESIDE = 0.5  # of the flat places about edges .94 and more are in clean pictures, .22 and less in compressed ones
STEEP = 60  # levels between two pixels within two of a place that make it the surroundings of an edge
LEAST_FLAT = 0.02  # of all pixels; with fewer flat ones a picture is all texture
ENOUGH_PX = 1_000_000
APART = 48.0  # levels a thin line differs from both of its sides


@dataclass(frozen=True, slots=True)
class FlatColours:
    """colours : (B, 3) float64, the mean coded colour of each filled bin; counts : (B,) its flat pixels.

    alike: levels within which neighbours are alike: CLEAN, NOISY, or more by the picture's grain. share: flat pixels as a
    part of all that are not about an edge; what is left are the soft passages of a photograph.
    compressed: there is the unrest of lossy compression; restless: there is some of it, be it too little to mind.
    """

    colours: NDArray[np.float64]
    counts: NDArray[np.float64]
    alike: int
    share: float
    compressed: bool
    restless: bool


@part("i8(u1[:,:,:], i8, i8)")
def _bin_of(rgba, y, x):  # type: ignore[no-untyped-def]
    """The number of a pixel's colour among 32³."""
    return ((np.int64(rgba[y, x, 0]) >> 3) * BINS + (np.int64(rgba[y, x, 1]) >> 3)) * BINS + (np.int64(rgba[y, x, 2]) >> 3)


@part("i8(u1[:,:,:], u1[:,:,:], i8, i8)")
def _spread(high, low, y, x):  # type: ignore[no-untyped-def]
    """The most any channel differs within two pixels of a place; high, low: its extremes within one pixel of each."""
    height, width = high.shape[0], high.shape[1]
    result = np.int64(0)
    for c in range(3):
        highest, lowest = np.int64(0), np.int64(255)
        for row in (max(0, y - 1), min(height - 1, y + 1)):
            for column in (max(0, x - 1), min(width - 1, x + 1)):
                highest, lowest = max(highest, np.int64(high[row, column, c])), min(lowest, np.int64(low[row, column, c]))
        result = max(result, highest - lowest)
    return result


@part("void(f8[:,:]!, i8, u1[:,:,:], i8, i8, i8)")
def _add(table, place, rgba, y, x, times):  # type: ignore[no-untyped-def]
    """Add a pixel so many times to its bin: count and colour sums."""
    table[place, 0] += times
    for c in range(3):
        table[place, c + 1] += times * np.int64(rgba[y, x, c])


@kernel("UniTuple(i8, 3)(u1[:,:,:], i4[:,:], b1[:,:], i4[:,:], i4[:,:], u1[:,:,:], u1[:,:,:], f8[:,:]!, f8[:,:]!)")
def _count(rgba, words, skip, high_words, low_words, high, low, clean, noisy):  # type: ignore[no-untyped-def]
    """Add flat pixels to their bins. clean, noisy : (32³, 4) float64, count and colour sums.

    high, low: extremes of each channel within one pixel; words: see words_of. Returns how many pixels were looked at, how
    many of those that are not flat are about an edge, and how many are just like all of their neighbours.
    """
    height, width = skip.shape
    seen, steep, even = 0, 0, 0
    for y in range(height):
        run, begin = 0, 0  # pixels just like all of their neighbours, of one colour: they are added together
        for x in range(width):
            if skip[y, x] or rgba[y, x, 3] < 250:
                continue
            seen += 1
            if high_words[y, x] == low_words[y, x]:
                if run > 0 and words[y, x] != words[y, begin]:
                    _add(clean, _bin_of(rgba, y, begin), rgba, y, begin, run)
                    _add(noisy, _bin_of(rgba, y, begin), rgba, y, begin, run)
                    run = 0
                begin = x
                run += 1
                even += 1
                continue
            change = np.int64(0)
            for c in range(3):
                here = np.int64(rgba[y, x, c])
                change = max(change, high[y, x, c] - here, here - low[y, x, c])
            if change > NOISY:
                steep += int(_spread(high, low, y, x) > STEEP)
                continue
            place = _bin_of(rgba, y, x)
            _add(noisy, place, rgba, y, x, 1)
            if change <= CLEAN:
                _add(clean, place, rgba, y, x, 1)
        if run > 0:
            _add(clean, _bin_of(rgba, y, begin), rgba, y, begin, run)
            _add(noisy, _bin_of(rgba, y, begin), rgba, y, begin, run)
    return seen, steep, even


@kernel("void(u1[:,:,:], i4[:,:], b1[:,:], f8[:,:]!)")
def _count_ridges(rgba, words, skip, table):  # type: ignore[no-untyped-def]
    """Add the middle of every thin line to its bin. table : (32³, 4) float64, as for _count."""
    height, width = skip.shape
    likely = np.zeros(width, np.uint8)
    for y in range(2, height - 2):
        above, here, below, skipped = words[y - 2], words[y], words[y + 2], skip[y]
        for x in range(2, width - 2):  # where one of each pair is just like the pixel, as in all flat places, there is no line
            own = here[x]
            none = (((here[x - 2] == own) | (here[x + 2] == own)) & ((above[x] == own) | (below[x] == own))
                    & ((above[x - 2] == own) | (below[x + 2] == own)) & ((below[x - 2] == own) | (above[x + 2] == own)))
            likely[x] = not (none | skipped[x])
        for x in range(2, width - 2):
            if not likely[x] or rgba[y, x, 3] < 250:
                continue
            for axis in range(4):
                dy, dx = (0, 2, 2, 2)[axis], (2, 0, 2, -2)[axis]
                ahead, behind, along = np.int64(0), np.int64(0), np.int64(0)
                for c in range(3):
                    a = np.int64(rgba[y + dy, x + dx, c]) - rgba[y, x, c]
                    ahead += a * a
                if ahead <= APART**2:
                    continue
                for c in range(3):
                    value = np.int64(rgba[y, x, c])
                    b = rgba[y - dy, x - dx, c] - value
                    behind += b * b
                    along += (rgba[y + dy, x + dx, c] - value) * b
                # Both sides far off, and in directions at most 60° apart.
                if behind > APART**2 and along > 0 and 4 * along * along > ahead * behind:
                    _add(table, _bin_of(rgba, y, x), rgba, y, x, 1)
                    break


def ridge_colours(rgba: NDArray[np.uint8], skip: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Colours along the middles of thin lines. rgba, skip: as for flat_colours. Returns (B, 3) colours, (B,) counts."""
    table = np.zeros((BINS**3, 4))
    rgba, skip, every = sampled(rgba, skip)
    _count_ridges(rgba, words_of(rgba), skip, table)
    filled = table[:, 0] > 0
    return table[filled, 1:] / table[filled, :1], every * table[filled, 0]


def sampled(rgba: NDArray[np.uint8], skip: NDArray[np.bool_]) -> tuple[NDArray[np.uint8], NDArray[np.bool_], int]:
    """Of a large picture strips of five rows, whose middle ones alone count, tell its colours as well as all of it.

    Returns the strips one below the other, what of them is not to be counted, and how many rows each middle one stands for.
    rgba : (H, W, 4) uint8; skip : (H, W) bool.
    """
    every = rgba.shape[0] * rgba.shape[1] // ENOUGH_PX
    if every < 5:
        return rgba, skip, 1
    middles = np.arange(every // 2, rgba.shape[0] - 2, every)
    rows = (middles[:, None] + np.arange(-2, 3)).ravel()
    beside = np.ones((len(rows), skip.shape[1]), bool)
    beside[2::5] = skip[middles]
    return np.ascontiguousarray(rgba[rows]), beside, every


def _extremes(rgba: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """The highest and the lowest of each channel within a pixel of each. Returns two (H, W, 4) uint8."""
    square = np.ones((3, 3), np.uint8)
    return np.asarray(cv2.dilate(rgba, square), np.uint8), np.asarray(cv2.erode(rgba, square), np.uint8)


def _is_even_beside_edges(high: NDArray[np.uint8], low: NDArray[np.uint8]) -> bool:
    """Whether flat places beside edges are of one value each, where compression would ring. high, low: see _extremes."""
    about = np.ones((7, 7), np.uint8)
    beside = (cv2.subtract(cv2.dilate(high, about), cv2.erode(low, about)).max(axis=2) > STEEP)
    change = cv2.subtract(high, low).max(axis=2)[beside]
    flat = int((change <= NOISY).sum())
    return flat > 0 and int((change == 0).sum()) > EVEN_BESIDE * flat


def grain_of(rgba: NDArray[np.uint8]) -> float:
    """Deviation of single pixels, levels, from the median step between neighbours; 0 in clean art. rgba : (H, W, 4)."""
    every = max(1, rgba.shape[0] * rgba.shape[1] // 100_000)
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
    high, low = _extremes(rgba)
    seen, steep, even = _count(rgba, words_of(rgba), skip, words_of(high), words_of(low), high, low, clean, noisy)
    flat, still = float(noisy[:, 0].sum()), float(clean[:, 0].sum())
    table, alike = (clean, CLEAN) if still >= 0.75 * flat else (noisy, NOISY)
    filled = table[:, 0] > 0
    counts = table[filled, 0]
    share = flat / max(1, seen - steep) if flat >= LEAST_FLAT * seen else 0.0
    restless = still - even > RESTLESS * flat and grain <= GRAINY
    compressed = (still < STILL * flat and (restless or even < EVEN * flat) and grain <= GRAINY
                  and not (every == 1 and _is_even_beside_edges(high, low)))
    return FlatColours(table[filled, 1:] / counts[:, None], every * counts, max(alike, round(4.2 * grain)), share, compressed,
                       restless)
