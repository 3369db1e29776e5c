"""Which parts of a page make a line of writing, and which of them a word.

Lines: parts of more than half the usual height whose middles lie side by side, as the writing slants; smaller ones, such as
dots and commas, go to the line they lie nearest to. Words: the gaps of a line, small ones within words and large ones between
them, parted by Otsu's criterion over all lines at once (N. Otsu 1979).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.raster.thresholds import otsu

SMALL = 0.45  # of the usual height: a dot or a comma
NEAR = 0.9  # of the usual height, how far beyond a line something of it may lie
LEAST_GAP, SURE_GAP, WIDEST_GAP = 0.1, 0.75, 2.0  # of the usual height: what is hardly a gap; what parts words anyway
STEEPEST, TURN_STEP = 6.0, 0.25  # degrees


@dataclass(frozen=True, slots=True)
class Words:
    """lines, words : (N,) int64, the number of the line and of the word that a part belongs to, from 0 on, -1 for none; words are
    numbered through, line after line. height: the usual one of a letter; slope: how much lines fall on one unit."""

    lines: NDArray[np.int64]
    words: NDArray[np.int64]
    height: float
    slope: float

    def check(self) -> None:
        """Raises: BrokenStructure where a word lies on two lines."""
        for word in np.unique(self.words[self.words >= 0]):
            if len(np.unique(self.lines[self.words == word])) > 1:
                raise BrokenStructure(f"The word {word} lies on two lines.")


def words_of(boxes: NDArray[np.float64], slope: float | None = None) -> Words:
    """Group parts of a page. boxes : (N, 4) float64, left, top, right, bottom, any unit; slope: of its rules, if any."""
    count = len(boxes)
    none = np.full(count, -1, np.int64)
    if not count:
        return Words(none, none.copy(), 0.0, 0.0)
    heights = boxes[:, 3] - boxes[:, 1]
    large = heights >= SMALL * float(np.median(heights[heights >= np.median(heights)]))
    usual = float(np.median(heights[large]))
    large = heights >= SMALL * usual
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    slope = _slope(middles[large], heights[large], usual) if slope is None else slope
    levels = middles[:, 1] - slope * middles[:, 0]
    lines = none.copy()
    centres = _line_levels(levels[large], usual)
    if not len(centres):
        return Words(none, none.copy(), usual, slope)
    nearest = np.abs(levels[:, None] - centres).argmin(axis=1)
    lines = np.where(np.abs(levels - centres[nearest]) <= NEAR * usual, nearest, -1).astype(np.int64)
    return Words(lines, _words(boxes, lines, large, usual), usual, slope)


def _slope(middles: NDArray[np.float64], heights: NDArray[np.float64], usual: float) -> float:
    """That by which a projection of the parts' middles is sharpest."""
    best, slope = -1.0, 0.0
    for angle in sorted(np.arange(-STEEPEST, STEEPEST + TURN_STEP / 2, TURN_STEP), key=abs):
        tilt = float(np.tan(np.radians(angle)))
        levels = middles[:, 1] - tilt * middles[:, 0]
        counts, _ = np.histogram(levels, np.arange(levels.min() - usual, levels.max() + usual, usual / 5))
        sharp = float((np.convolve(counts, np.ones(3), "same") ** 2).sum())
        if sharp > 1.02 * best:
            best, slope = sharp, tilt
    return slope


def _line_levels(levels: NDArray[np.float64], usual: float) -> NDArray[np.float64]:
    """The middles of the lines: peaks of the density of parts, no nearer to each other than letters are high."""
    at = np.arange(levels.min() - usual, levels.max() + usual, usual / 8)
    density = np.exp(-((at[:, None] - levels) ** 2) / (2 * (0.35 * usual) ** 2)).sum(axis=1)
    order = np.argsort(-density, kind="stable")
    chosen: list[float] = []
    for k in order:
        peak = density[k] >= density[max(0, k - 1) : k + 2].max() - 1e-12
        if density[k] < 0.6:
            break
        if peak and all(abs(at[k] - other) > 0.95 * usual for other in chosen):
            chosen.append(float(at[k]))
    return np.array(sorted(chosen))


def _words(
    boxes: NDArray[np.float64], lines: NDArray[np.int64], large: NDArray[np.bool_], usual: float
) -> NDArray[np.int64]:
    gaps, of_line = [], []
    for line in range(int(lines.max(initial=-1)) + 1):
        own = np.flatnonzero(lines == line)
        own = own[np.argsort(boxes[own, 0], kind="stable")]
        reach = np.maximum.accumulate(boxes[own, 2]) if len(own) else np.zeros(0)
        gap = np.append(-np.inf, boxes[own[1:], 0] - reach[:-1]) if len(own) else np.zeros(0)
        gaps.append(gap)
        of_line.append(own)
    inner = np.concatenate([gap[1:] for gap in gaps]) if gaps else np.zeros(0)
    # By their logarithm: what tells is how many times wider a gap is than others. All that nearly touches is alike.
    inner = np.log(np.clip(inner / usual, LEAST_GAP, WIDEST_GAP))
    threshold = usual * float(np.clip(np.exp(otsu(inner)), LEAST_GAP, SURE_GAP)) if len(inner) > 2 else SURE_GAP * usual
    words = np.full(len(boxes), -1, np.int64)
    number = -1
    for own, gap in zip(of_line, gaps, strict=True):
        for part, before in zip(own, gap, strict=True):
            number += int(before == -np.inf or before > threshold)
            words[part] = number
    return words
