"""Where a shape, or the gap between shapes, is narrower than a width: necks, hairs and scraps; tips are no fault.

Places of the outline whose disc is smaller than half the width hang together along the outline and across the discs. Such a
group with two sides that are apart along the outline is a neck, between two parts of the shape. One that runs round an end is
a hair where its sides run side by side for a while, else a tip. One that is all of an outline is a scrap. """

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.path import Path
from bisectum.core.raster.forest import groups_of
from bisectum.core.steps.check.inscribed import Discs, Outline, discs_of, outline_of

NarrowKind = Literal["neck", "hair", "scrap"]
PER_WIDTH = 8  # places looked at along the width
BESIDE_DEG = 9.0  # sides that close at less run side by side; a tip as sharp as that is a hair
LEAST_RUN = 0.6  # widths: what runs side by side for less is the end of something
LOOSER = 1.05  # groups are gathered a little above the width, so that they do not fall apart; so is what is even


@dataclass(frozen=True, slots=True, eq=False)
class Narrow:
    """A narrow place. at: the middle of its narrowest disc, mm; width: there; length: along it, mm. line : (N, 2): the middles of
    discs along it, in order. ring: the number of the ring that it is on; inside: in the material, else a gap."""

    kind: NarrowKind
    at: tuple[float, float]
    width: float
    length: float
    line: NDArray[np.float64]
    ring: int


def narrow_places(rings: Sequence[Path], width: float, inside: bool = True) -> list[Narrow]:
    """All that is narrower than a width (mm), in the material within rings or beside it. The narrowest first."""
    outline = outline_of(rings, LOOSER * width, PER_WIDTH)
    discs = discs_of(outline, LOOSER * width / 2 * 1.001, inside)
    thin = (discs.touched >= 0) & (discs.radius <= LOOSER * width / 2)
    if not thin.any():
        return []
    look = _Look.at(outline, discs, thin, width)
    group = look.groups()
    found = []
    order = np.flatnonzero(thin)[np.argsort(group[thin], kind="stable")]
    for own in np.split(order, np.flatnonzero(np.diff(group[order])) + 1):
        # A gap that is open at one end is a notch.
        found += [place for place in look.places(np.sort(own)) if inside or place.kind != "hair"]
    return sorted(found, key=lambda place: place.width)


def _one_way(line: NDArray[np.float64]) -> NDArray[np.float64]:
    """The first half of a line : (N, 2) that goes round an end and comes back beside itself."""
    along = np.append(0.0, np.cumsum(np.hypot(*np.diff(line, axis=0).T)))
    comes_back = np.hypot(*(line[-1] - line[0])) < along[-1] / 4
    return line[: max(1, int(np.searchsorted(along, along[-1] / 2)) + 1)] if comes_back else line


@dataclass(frozen=True, slots=True, eq=False)
class _Look:
    """What is known of all places. thin : (P,) bool; ring, runs : (P,), of each its ring, and its run of thin places along it
    by the number of one; widths : (P,) and middles : (P, 2) of the discs, mm; lengths : (P,), mm of outline that a place
    stands for; middle_of : (C,), the place of each chord; around : (C + 1,), mm, where each chord begins along all rings."""

    outline: Outline
    discs: Discs
    width: float
    thin: NDArray[np.bool_]
    ring: NDArray[np.int64]
    runs: NDArray[np.int32]
    after: NDArray[np.int64]
    widths: NDArray[np.float64]
    middles: NDArray[np.float64]
    lengths: NDArray[np.float64]
    middle_of: NDArray[np.int64]
    around: NDArray[np.float64]

    @classmethod
    def at(cls, outline: Outline, discs: Discs, thin: NDArray[np.bool_], width: float) -> _Look:
        long, count = outline.lengths, len(thin)
        ring = outline.ring[discs.chord]
        first = np.searchsorted(ring, np.arange(len(outline.first) - 1))
        after = np.arange(1, count + 1)
        last = np.flatnonzero(np.append(ring[1:] != ring[:-1], True))
        after[last] = first[ring[last]]
        along = np.flatnonzero(thin & thin[after])
        runs = groups_of(np.stack([along, after[along]], axis=1).astype(np.int32), count)
        return cls(outline, discs, width, thin, ring, runs, after, discs.width, discs.middle,
                   np.where(discs.is_middle, long[discs.chord], 0.0), np.flatnonzero(discs.is_middle),
                   np.concatenate([[0.0], np.cumsum(long)]))

    def groups(self) -> NDArray[np.int32]:
        """For each place its group of runs, by the number of one of them. (P,)."""
        count, thin = len(self.thin), self.thin
        along = np.flatnonzero(thin & thin[self.after])
        own = np.flatnonzero(thin)
        touched = self.discs.touched[own]
        # A disc that touches a corner touches the chord before or after it; the corner's own places are named by the one after.
        some = np.full(len(self.middle_of), -1)
        some[self.discs.chord[own]] = own
        first, last = self.outline.first[self.outline.ring[touched]], self.outline.first[self.outline.ring[touched] + 1]
        beside = [touched, np.where(touched + 1 < last, touched + 1, first), np.where(touched > first, touched - 1, last - 1)]
        across = [np.stack([own, some[chord]], axis=1)[some[chord] >= 0] for chord in beside]
        return groups_of(np.concatenate([np.stack([along, self.after[along]], axis=1), *across]).astype(np.int32), count)

    def places(self, own: NDArray[np.int64]) -> list[Narrow]:
        """What a group of places is; nothing for a tip, or where it is wide enough. own : (N,), rising."""
        sides = self.runs[own]
        beside = self.widths[own] >= 2 * self.discs.radius[own] * np.sin(np.radians(180 - BESIDE_DEG) / 2)
        between = self._between(own) if sides.min() != sides.max() else np.zeros(len(own), bool)
        is_neck = bool(between.any())
        if not is_neck and float(self.lengths[own][beside].sum()) / 2 < LEAST_RUN * self.width:
            return []
        chosen = own[between if is_neck else beside]
        chosen = chosen[self.widths[chosen] < self.width]
        kind: NarrowKind = "neck" if is_neck else "scrap" if self._is_whole(own) else "hair"
        return self._stretches(chosen, kind)

    def _stretches(self, chosen: NDArray[np.int64], kind: NarrowKind) -> list[Narrow]:
        """Each stretch of a group once: in between a shape is wide enough, and every stretch is seen from both sides."""
        if not len(chosen):
            return []
        step = np.hypot(*np.diff(self.middles[chosen], axis=0).T)
        apart = (step > self.width / 2) | (self.runs[chosen][1:] != self.runs[chosen][:-1])
        stretches = sorted(np.split(chosen, np.flatnonzero(apart) + 1), key=lambda one: float(self.widths[one].min()))
        found: list[Narrow] = []
        for one in stretches:
            # Of an even stretch the middle, which stays where it is when the lines are drawn anew.
            narrowest = one[self.widths[one] <= LOOSER * self.widths[one].min()]
            middles = self.middles[narrowest]
            at = narrowest[int(np.hypot(*(middles - middles.mean(axis=0)).T).argmin())]
            x, y = self.middles[at].tolist()
            if any(np.hypot(*(other.line - (x, y)).T).min() <= self.width / 2 for other in found):
                continue
            length = float(self.lengths[one].sum()) / (1 if kind == "neck" else 2)  # an end is gone round
            line = self.middles[one] if kind == "neck" else _one_way(self.middles[one])
            found.append(Narrow(kind, (x, y), float(self.widths[one].min()), length, line, int(self.ring[at])))
        return found

    def _between(self, own: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Places with a part of the shape on both sides of their disc: along the outline it is farther to where the disc touches
        than around a disc of the width."""
        here, there = self.discs.chord[own], self.discs.touched[own]
        ring = self.ring[own]
        whole = self.around[self.outline.first[ring + 1]] - self.around[self.outline.first[ring]]
        way = np.abs(self.around[here] - self.around[there])
        far = (ring != self.outline.ring[there]) | (np.minimum(way, whole - way) >= np.pi * self.width)
        return far & (self.runs[own] != self.runs[self.middle_of[there]])

    def _is_whole(self, own: NDArray[np.int64]) -> bool:
        """Whether a group is all of its ring."""
        ring = int(self.ring[own[0]])
        mine = self.ring[own[self.discs.is_middle[own]]] == ring
        return int(mine.sum()) == int(self.outline.first[ring + 1] - self.outline.first[ring])
