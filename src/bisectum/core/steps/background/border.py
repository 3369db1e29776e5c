"""Background told by the border: its colour as a surface, and how far that reaches.

The colour is a surface, so a soft gradient is one background. Its reach is the valley in the histogram of distances from
that surface, beyond what the border itself shows (the lines of a pale grid, say).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import oklab
from bisectum.core.raster.surface import basis, fit_surface

STEPS_PER_UNIT = 500.0  # of the distances from raster.flood
AGREEING = 0.02  # OKLab: border pixels this near the surface agree with it, noise apart
PLAIN_SHARE = 0.6  # of the border must agree
SURELY_PLAIN = 0.8
DRAWN = 0.003  # OKLab; less grain is in no photograph
TRAVELS = 0.02  # OKLab: a surface that changes more over the border is shaded
BORDER_REACH = 0.1  # OKLab: what differs more is no part of the background, even where it lies on the border
COLOUR_SHARE = 0.004  # of the picture within three steps of distance makes a colour, not a fringe


@dataclass(frozen=True, slots=True)
class Border:
    """surface : (6, 3) float64, OKLab; agreeing: share of the border that lies on it; travel: its change, noise: the
    deviation of what agrees, OKLab."""

    surface: NDArray[np.float64]
    agreeing: float
    travel: float
    noise: float = 0.0

    @property
    def plain(self) -> bool:
        return self.agreeing >= PLAIN_SHARE

    @property
    def surely_plain(self) -> bool:
        return self.agreeing >= SURELY_PLAIN or (self.plain and self.noise < DRAWN)

    @property
    def shaded(self) -> bool:
        return self.travel > TRAVELS


def look_at_border(rgba: NDArray[np.uint8]) -> Border:
    """rgba : (H, W, 4) uint8."""
    rows, columns = _ring(rgba.shape[0], rgba.shape[1])
    samples = oklab(rgba[rows, columns, :3])
    terms = basis(rows, columns, rgba.shape[0], rgba.shape[1])
    # Two starts: one from the commonest colour of the border, one from all of it. A gradient is found by the second
    # only, a border with much else in it by the first.
    bins = np.round(samples / 0.03).astype(np.int64)
    common, count = np.unique(bins, axis=0, return_counts=True)
    near = np.abs(samples - common[count.argmax()] * 0.03).max(axis=1) < 0.05
    candidates = [fit_surface(terms[near], samples[near], 0.01), fit_surface(terms, samples, 0.01)]
    agreeing = [float((_residual(samples, terms, s) < AGREEING + 2 * _noise(samples, terms, s)).mean()) for s in candidates]
    best = candidates[0] if agreeing[0] >= agreeing[1] - 0.02 else candidates[1]
    return Border(best, max(agreeing), float(np.ptp(terms[near] @ best, axis=0).max()),
                  _noise(samples, terms, best))


def _ring(height: int, width: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Rows and columns of at most some 4000 pixels along the border, two deep."""
    across = np.arange(width)
    above, between, below = np.split(np.arange(height), [min(2, height), max(2, height - 2)])
    parts = [(above, across), (between, across[(across < 2) | (across >= width - 2)]), (below, across)]
    rows, columns = (np.concatenate([index.ravel() for index in own]) for own in zip(
        *(np.meshgrid(down, along, indexing="ij") for down, along in parts), strict=True))
    every = max(1, len(rows) // 4000)
    return rows[::every], columns[::every]


def _residual(samples: NDArray[np.float64], terms: NDArray[np.float64], surface: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.sqrt(((samples - terms @ surface) ** 2).sum(axis=1))


def _noise(samples: NDArray[np.float64], terms: NDArray[np.float64], surface: NDArray[np.float64]) -> float:
    """Deviation of the agreeing samples, at most 0.012 so that texture does not pass for noise."""
    residual = _residual(samples, terms, surface)
    near = residual[residual < 0.06]
    return min(0.012, 1.2 * float(np.median(near))) if len(near) else 0.0


def reach_of(distances: NDArray[np.uint8]) -> float:
    """The reach, OKLab: the first place where the histogram of distances is as good as empty, behind the ground and before
    what comes next. distances : (H, W), see raster.flood."""
    every = max(1, int(np.sqrt(distances.size / 300_000)))
    counts = np.bincount(distances[::every, ::every].ravel(), minlength=256).astype(float)
    border = np.concatenate([distances[0], distances[-1], distances[:, 0], distances[:, -1]])
    pale = border[border < BORDER_REACH * STEPS_PER_UNIT]
    shown = float(np.quantile(pale, 0.98)) if len(pale) else 0.0
    start = int(min(BORDER_REACH * STEPS_PER_UNIT, max(5.0, 1.3 * shown + 2.0)))
    window = np.convolve(counts, np.ones(3) / 3, mode="same")[start : start + 35]
    crowded = np.flatnonzero(3 * window > COLOUR_SHARE * counts.sum())  # another colour begins here
    if len(crowded):
        window = window[: max(1, int(crowded[0]))]
    empty = 1.5 * window.min() + 2e-4 * counts.sum()
    return (start + int(np.argmax(window <= empty))) / STEPS_PER_UNIT
