"""The colours of a photograph from which inks are chosen: how much of each there is to be seen, and how far they are apart.

Each colour that is there in places large enough to cut counts by how much of it there is, where it lies and how it differs from
what is around it, so that a small collar is not lost beside much fur.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.steps.colours.photo.areas import LEAST_MM2
from bisectum.core.steps.colours.photo.certainty import Certainty

SAMPLED_MM = 0.6  # between the pixels that are looked at
FEWEST = 200  # pixels to look at, if there are so many
MOST = 28  # colours that are told apart
CELL, ALIKE = 4.0, 9.0  # DIN99o: colours in one cell are one; deviation of what counts as its like
DISTINCT = 0.5  # 1: a colour counts by its area; 0: by being unlike all others
PLAIN = (0.85, 1.4, 1.4)  # of lightness and the two of colour, while shades are gathered
QUIET, EDGES, DENSITY_MM = 0.35, 1.5, 4.0  # what a place without edges counts, what edges add, how far around they do
HUE_AROUND_MM, HUE_STEP = 8.0, 10.0  # how far around a colour is looked for whether it differs, and by how much to count twice
ON_EDGE = 0.15  # of a pixel on a sharp edge, which may be on neither side
SHADED = 0.6, 0.7  # how much nearer two colours are that a soft border parts, and how near they get at most, as shares
DIM = 25.0  # lightness, below which hue is hardly seen


@dataclass(frozen=True, slots=True)
class Shades:
    """colours : (N, 3) float64, DIN99o; rgb : (N, 3) uint8, what each looks like; area : (N,), mm² by what they count;
    sure : (N,), the share of its border that is a sharp edge; away : (N, N), how far they are apart, less where one shades
    into the other."""

    colours: NDArray[np.float64]
    rgb: NDArray[np.uint8]
    area: NDArray[np.float64]
    sure: NDArray[np.float64]
    away: NDArray[np.float64]

    def check(self) -> None:
        """Raises: BrokenStructure where the parts do not fit."""
        count = len(self.colours)
        if {len(self.rgb), len(self.area), len(self.sure), *self.away.shape} != {count} or not count:
            raise BrokenStructure("Each shade has a look, an area, a border and its distances.")


def gather_shades(
    calm: NDArray[np.float32], rgb: NDArray[np.uint8], certain: Certainty, inside: NDArray[np.bool_],
    mattering: NDArray[np.float32], mm: float,
) -> Shades:
    """calm : (H, W, 3) float32, DIN99o; rgb : (H, W, 3), as it came; inside : (H, W), what is not ground;
    mattering : (H, W), what the middle and faces count; mm: size of a pixel."""
    step = _step(inside, mm)
    view = np.s_[step // 2 :: step, step // 2 :: step]
    here, own = inside[view], np.ascontiguousarray(calm[view])
    edges = cv2.dilate((certain.edge > 0).astype(np.uint8), np.ones((3, 3), np.uint8))[view] > 0
    worth = _worth(own, edges, step * mm) * mattering[view] * np.float32((step * mm) ** 2)
    on_edge = np.where(edges, np.float32(ON_EDGE), np.float32(1))
    shades = _shades(own[here].astype(float), (worth * on_edge)[here].astype(float))
    labels = np.where(here, _nearest(own, shades), -1)
    used, labels[here] = np.unique(labels[here], return_inverse=True)
    shades = shades[used]
    area = np.array([_in_places(labels == k, worth, LEAST_MM2 / (step * mm) ** 2) for k in range(len(shades))])
    if not area.any():  # nothing is large enough to cut at this size, so all counts
        area = np.array([_in_places(labels == k, worth, 0) for k in range(len(shades))])
    border, soft = _borders(labels, edges, len(shades), step * mm)
    sure = 1 - soft.sum(axis=1) / np.maximum(border.sum(axis=1), 1e-6)
    looks = _looks(rgb[view][here], labels[here], shades)
    return Shades(shades, looks, area, sure, _through_shading(apart(shades, shades), border, soft))


def likeness(colours: NDArray[np.float64]) -> NDArray[np.float64]:
    """How much each two are alike, 0 to 1. colours : (N, 3), DIN99o. Returns (N, N)."""
    return np.asarray(np.exp(-0.5 * (apart(colours, colours) / ALIKE) ** 2))


def apart(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far colours are apart, (N, M): hue counts more than chroma, and that more than lightness; in the dark there is little
    hue. one : (N, 3), other : (M, 3), DIN99o."""
    light = one[:, None, 0] - other[None, :, 0]
    chroma = [np.hypot(own[:, 1], own[:, 2]) * np.clip(own[:, 0] / DIM, 0.25, 1) for own in (one, other)]
    hue = [np.arctan2(own[:, 2], own[:, 1]) for own in (one, other)]
    across = 2 * np.sqrt(chroma[0][:, None] * chroma[1][None]) * np.sin((hue[0][:, None] - hue[1][None]) / 2)
    return np.sqrt((0.85 * light) ** 2 + (1.2 * (chroma[0][:, None] - chroma[1][None])) ** 2 + (2 * across) ** 2)


def _step(inside: NDArray[np.bool_], mm: float) -> int:
    """How many pixels on the next one is that is looked at. inside : (H, W); mm: size of a pixel."""
    step = max(1, round(SAMPLED_MM / mm))
    while step > 1 and inside[step // 2 :: step, step // 2 :: step].sum() < FEWEST:
        step -= 1
    return step


def _worth(calm: NDArray[np.float32], edges: NDArray[np.bool_], mm: float) -> NDArray[np.float32]:
    """What a place counts: more where edges are, and where its hue is unlike what lies around. Returns (h, w) float32."""
    near = cv2.GaussianBlur(edges.astype(np.float32), (0, 0), DENSITY_MM / mm)
    around = cv2.GaussianBlur(calm[..., 1:], (0, 0), HUE_AROUND_MM / mm)
    unlike = np.sqrt(((calm[..., 1:] - around) ** 2).sum(axis=2))
    return np.asarray((QUIET + np.clip(EDGES * near, 0, 1)) * (1 + np.clip(unlike / HUE_STEP, 0, 2)), np.float32)


def _shades(colours: NDArray[np.float64], worth: NDArray[np.float64]) -> NDArray[np.float64]:
    """Colours that stand for all: k-means in which what has many like it counts less. colours : (N, 3); worth : (N,)."""
    scaled = colours * PLAIN
    cells = np.floor(scaled / CELL).astype(np.int64)
    _, cell = np.unique(cells @ np.array([1_000_000, 1_000, 1]), return_inverse=True)
    size = np.bincount(cell, worth)
    middles = np.stack([np.bincount(cell, worth * scaled[:, c]) for c in range(3)], axis=1) / np.maximum(size, 1e-9)[:, None]
    squared = _squared(middles, middles)
    like = np.exp(-0.5 * squared / ALIKE**2) @ size
    weight = size * np.maximum(like, 1e-9) ** (DISTINCT - 1)
    chosen = [int(weight.argmax())]
    nearest = squared[chosen[0]].copy()
    for _ in range(min(MOST, len(middles)) - 1):
        chosen.append(int((weight * nearest).argmax()))
        nearest = np.minimum(nearest, squared[chosen[-1]])
    centres = middles[chosen]
    for _ in range(12):
        owner = _squared(middles, centres).argmin(axis=1)
        mass = np.bincount(owner, weight, len(centres))
        sums = np.stack([np.bincount(owner, weight * middles[:, c], len(centres)) for c in range(3)], axis=1)
        centres = np.where(mass[:, None] > 0, sums / np.maximum(mass, 1e-9)[:, None], centres)
    return np.unique(centres, axis=0) / PLAIN


def _squared(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """Squared distances between points, (N, M). one : (N, 3); other : (M, 3)."""
    return np.maximum((one**2).sum(axis=1)[:, None] + (other**2).sum(axis=1) - 2 * one @ other.T, 0.0)


def _nearest(colours: NDArray[np.float32], shades: NDArray[np.float64]) -> NDArray[np.int64]:
    """The number of the nearest shade of each pixel. colours : (h, w, 3). Returns (h, w)."""
    plain = np.array(PLAIN, np.float32)
    scaled, centres = colours.reshape(-1, 3) * plain, shades.astype(np.float32) * plain
    return ((centres**2).sum(axis=1) - 2 * scaled @ centres.T).argmin(axis=1).reshape(colours.shape[:2])


def _looks(rgb: NDArray[np.uint8], labels: NDArray[np.int64], shades: NDArray[np.float64]) -> NDArray[np.uint8]:
    """The median of what is nearest to each shade, since a mean of skin and shadow is a bruise. rgb : (P, 3); labels : (P,)."""
    return np.rint([np.median(rgb[labels == k], axis=0) for k in range(len(shades))]).astype(np.uint8)


def _in_places(mask: NDArray[np.bool_], worth: NDArray[np.float32], least: float) -> float:
    """What a colour counts in places of so many pixels at least."""
    count, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    sums = np.bincount(parts.ravel(), worth.ravel(), count)
    large = stats[:, cv2.CC_STAT_AREA] >= least
    large[0] = False
    return float(sums[large].sum())


def _borders(
    labels: NDArray[np.int64], edges: NDArray[np.bool_], count: int, mm: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """mm of border between each two colours, and how much of it no edge marks: two (N, N)."""
    border, soft = np.zeros((count, count)), np.zeros((count, count))
    for one, other, at in ((labels[:, 1:], labels[:, :-1], edges[:, 1:] | edges[:, :-1]),
                           (labels[1:], labels[:-1], edges[1:] | edges[:-1])):
        meet = (one != other) & (one >= 0) & (other >= 0)
        np.add.at(border, (one[meet], other[meet]), mm)
        meet &= ~at
        np.add.at(soft, (one[meet], other[meet]), mm)
    return border + border.T, soft + soft.T


def _through_shading(
    apart: NDArray[np.float64], border: NDArray[np.float64], soft: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Distances that are shorter where one colour shades into the other, by however many between. Shapes (N, N)."""
    smaller = np.minimum(border.sum(axis=1)[:, None], border.sum(axis=1)[None])
    shaded = np.clip(2 * soft / np.maximum(smaller, 1e-6), 0, 1)
    way = apart * (1 - SHADED[0] * shaded)
    for between in range(len(way)):
        way = np.minimum(way, way[:, between : between + 1] + way[between : between + 1])
    return np.maximum(way, SHADED[1] * apart)
