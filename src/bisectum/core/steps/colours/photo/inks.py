"""Inks a person would choose: few colours that stand for all of a photograph, chosen by what is seen and not by area alone.

Each colour that is there in places large enough to cut counts by how much of it there is, less the more of its like there is, so
that green eyes earn an ink before a second shade of fur does. Of these colours those are chosen from which the rest is least far
away: the facility location problem (C. ReVelle, R. Swain, "Central Facilities Location", 1970), greedily and then by exchanges.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.steps.colours.photo.certainty import Certainty

SAMPLED_MM = 0.6  # between the pixels that are looked at
SHADES = 28  # colours that are told apart before inks are chosen from them
CELL, ALIKE = 4.0, 9.0  # DIN99o: colours in one cell are one; deviation of what counts as its like
DISTINCT = 0.5  # 1: a colour counts by its area; 0: by being unlike all others
PLAIN = (0.85, 1.4, 1.4)  # of lightness and the two of colour, while shades are gathered
LEAST_MM2 = 1.8  # of a place that counts: a smaller one is not cut
QUIET, DENSITY_MM = 0.35, 4.0  # what a place without edges counts, and how far around edges are looked for
HUE_AROUND_MM, HUE_STEP = 8.0, 10.0  # how far around a colour is looked for whether it differs, and by how much to count twice
ON_EDGE = 0.15  # of a pixel on a sharp edge, which may be on neither side
UNSURE = 0.4  # of a colour whose borders are all soft
SHADED = 0.6, 0.7  # how much nearer two colours are that a soft border parts, and how near they get at most, as shares
FAR = 28.0  # DIN99o from which it hardly matters how much farther an ink is
DARK_FROM, DARK_GAP, DARK_MM2 = 3, 22.0, 4.0  # inks, of which the darkest colour is one; how much darker than the rest, how large
DIM = 25.0  # lightness, below which hue is hardly seen


@dataclass(frozen=True, slots=True)
class Inks:
    """looks : (K, 3) float64, DIN99o, what each ink looks like; shades : (N, 3) float64, the colours; owner : (N,), the ink that
    stands for each."""

    looks: NDArray[np.float64]
    shades: NDArray[np.float64]
    owner: NDArray[np.int64]

    def check(self) -> None:
        """Raises: BrokenStructure where an ink stands for no colour, or a colour has none."""
        if set(self.owner.tolist()) != set(range(len(self.looks))) or len(self.owner) != len(self.shades):
            raise BrokenStructure("Every ink stands for a colour, and every colour has one ink.")


def choose_inks(
    calm: NDArray[np.float32], certain: Certainty, inside: NDArray[np.bool_], mattering: NDArray[np.float32], mm: float,
    count: int, pins: NDArray[np.float64],
) -> Inks:
    """calm : (H, W, 3) float32, DIN99o; inside : (H, W), what is not ground; mattering : (H, W), what the middle and faces count;
    mm: size of a pixel; count: of inks; pins : (P, 3), DIN99o, colours that must be among them, which come first."""
    step = max(1, round(SAMPLED_MM / mm))
    view = np.s_[step // 2 :: step, step // 2 :: step]
    here, own = inside[view], np.ascontiguousarray(calm[view])
    edges = cv2.dilate((certain.edge > 0).astype(np.uint8), np.ones((3, 3), np.uint8))[view] > 0
    worth = (_worth(calm, certain, mm) * mattering)[view] * np.float32((step * mm) ** 2)
    on_edge = np.where(edges, np.float32(ON_EDGE), np.float32(1))
    shades = _shades(own[here].astype(float), (worth * on_edge)[here].astype(float))
    labels = np.where(here, _nearest(own, shades), -1)
    area = np.array([_in_places(labels == k, worth, (step * mm) ** 2) for k in range(len(shades))])
    border, soft = _borders(labels, edges, len(shades), step * mm)
    apart = _apart(shades, shades)
    certainty_of = 1 - soft.sum(axis=1) / np.maximum(border.sum(axis=1), 1e-6)
    like = np.exp(-0.5 * (apart / ALIKE) ** 2) @ area
    weight = area * np.maximum(like, 1e-3) ** (DISTINCT - 1) * (UNSURE + (1 - UNSURE) * certainty_of)
    away = _through_shading(apart, border, soft)
    if len(pins):
        nothing = np.zeros(len(pins))
        shades, weight, area = np.concatenate([pins, shades]), np.append(nothing, weight), np.append(nothing, area)
        wide = _apart(shades, shades)
        wide[len(pins) :, len(pins) :] = away
        away = wide
    chosen = _chosen(away, weight, count, _first(shades, area, len(pins), count))
    owner = away[:, chosen].argmin(axis=1)
    owner[chosen] = np.arange(len(chosen))
    return Inks(shades[chosen], shades, owner)


def _worth(calm: NDArray[np.float32], certain: Certainty, mm: float) -> NDArray[np.float32]:
    """What a pixel counts: more where edges are, and where its hue is unlike what lies around. Returns (H, W) float32."""
    edges = cv2.GaussianBlur((certain.edge > 0).astype(np.float32), (0, 0), DENSITY_MM / mm)
    around = cv2.GaussianBlur(calm[..., 1:], (0, 0), HUE_AROUND_MM / mm)
    unlike = np.sqrt(((calm[..., 1:] - around) ** 2).sum(axis=2))
    return np.asarray((QUIET + np.clip(4 * edges, 0, 1)) * (1 + np.clip(unlike / HUE_STEP, 0, 2)), np.float32)


def _shades(colours: NDArray[np.float64], worth: NDArray[np.float64]) -> NDArray[np.float64]:
    """Colours that stand for all: k-means in which what has many like it counts less. colours : (N, 3); worth : (N,)."""
    scaled = colours * PLAIN
    cells = np.floor(scaled / CELL).astype(np.int64)
    _, cell = np.unique(cells, axis=0, return_inverse=True)
    cell = cell.ravel()
    size = np.bincount(cell, worth)
    middles = np.stack([np.bincount(cell, worth * scaled[:, c]) for c in range(3)], axis=1) / np.maximum(size, 1e-9)[:, None]
    squared = ((middles[:, None] - middles[None]) ** 2).sum(axis=2)
    like = np.exp(-0.5 * squared / ALIKE**2) @ size
    weight = size * np.maximum(like, 1e-9) ** (DISTINCT - 1)
    chosen = [int(weight.argmax())]
    nearest = squared[chosen[0]].copy()
    for _ in range(min(SHADES, len(middles)) - 1):
        chosen.append(int((weight * nearest).argmax()))
        nearest = np.minimum(nearest, squared[chosen[-1]])
    centres = middles[chosen]
    for _ in range(12):
        owner = ((middles[:, None] - centres[None]) ** 2).sum(axis=2).argmin(axis=1)
        mass = np.bincount(owner, weight, len(centres))
        sums = np.stack([np.bincount(owner, weight * middles[:, c], len(centres)) for c in range(3)], axis=1)
        centres = np.where(mass[:, None] > 0, sums / np.maximum(mass, 1e-9)[:, None], centres)
    return np.unique(centres, axis=0) / PLAIN


def _nearest(colours: NDArray[np.float32], shades: NDArray[np.float64]) -> NDArray[np.int64]:
    """The number of the nearest shade of each pixel. colours : (h, w, 3). Returns (h, w)."""
    plain = np.array(PLAIN, np.float32)
    scaled, centres = colours.reshape(-1, 3) * plain, shades.astype(np.float32) * plain
    return ((centres**2).sum(axis=1) - 2 * scaled @ centres.T).argmin(axis=1).reshape(colours.shape[:2])


def _in_places(mask: NDArray[np.bool_], worth: NDArray[np.float32], mm2: float) -> float:
    """What a colour counts in places that are large enough to be cut. mm2: of a pixel."""
    count, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    sums = np.bincount(parts.ravel(), worth.ravel(), count)
    large = stats[:, cv2.CC_STAT_AREA] * mm2 >= LEAST_MM2
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


def _apart(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far colours are apart: hue counts more than chroma, and that more than lightness; in the dark there is little hue."""
    light = one[:, None, 0] - other[None, :, 0]
    chroma = [np.hypot(own[:, 1], own[:, 2]) * np.clip(own[:, 0] / DIM, 0.25, 1) for own in (one, other)]
    hue = [np.arctan2(own[:, 2], own[:, 1]) for own in (one, other)]
    across = 2 * np.sqrt(chroma[0][:, None] * chroma[1][None]) * np.sin((hue[0][:, None] - hue[1][None]) / 2)
    return np.sqrt((0.85 * light) ** 2 + (1.2 * (chroma[0][:, None] - chroma[1][None])) ** 2 + (2 * across) ** 2)


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


def _first(shades: NDArray[np.float64], area: NDArray[np.float64], pinned: int, count: int) -> list[int]:
    """What is chosen whatever else is: pins, and the darkest colour where there are inks enough."""
    first = list(range(pinned))
    if count >= max(DARK_FROM, pinned + 1):
        light = np.where(area >= DARK_MM2, shades[:, 0], np.inf)
        darkest = int(light.argmin())
        if light[darkest] < np.average(shades[:, 0], weights=area + 1e-9) - DARK_GAP:
            first.append(darkest)
    return first


def _chosen(away: NDArray[np.float64], weight: NDArray[np.float64], count: int, first: list[int]) -> list[int]:
    """Which colours are inks: those from which the others, by their weight, are least far away. away : (N, N)."""
    cost = weight[:, None] * (away**2 / (1 + (away / FAR) ** 2))
    able = weight > 0
    chosen = list(first)
    now = cost[:, chosen].min(axis=1) if chosen else np.full(len(weight), cost.max() + 1)
    while len(chosen) < min(count, int(able.sum()) + len(first)):
        total = np.where(able, np.minimum(now[:, None], cost).sum(axis=0), np.inf)
        total[chosen] = np.inf
        best = int(total.argmin())
        if not np.isfinite(total[best]):
            break
        chosen.append(best)
        now = np.minimum(now, cost[:, best])
    least = float(cost[:, chosen].min(axis=1).sum())
    while move := _exchange(cost, able, chosen, len(first), least):
        at, new, least = move
        chosen[at] = new
    return chosen


def _exchange(
    cost: NDArray[np.float64], able: NDArray[np.bool_], chosen: list[int], fixed: int, least: float
) -> tuple[int, int, float] | None:
    """The best exchange of one that is chosen for one that is not, if any gains: its place, the new one, what all costs then."""
    found = None
    for at in range(fixed, len(chosen)):
        rest = chosen[:at] + chosen[at + 1 :]
        now = cost[:, rest].min(axis=1) if rest else np.full(len(cost), np.inf)
        total = np.where(able, np.minimum(now[:, None], cost).sum(axis=0), np.inf)
        total[chosen] = np.inf
        best = int(total.argmin())
        if total[best] < least - 1e-9:
            found, least = (at, best, float(total[best])), float(total[best])
    return found
