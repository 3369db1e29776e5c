"""Areas of a label map as a graph in which they are given to neighbours: which ones, a rule says.

What an area is worth is contrast × area: how much more speaks against another class there than against its own. A small
part of strong contrast (an eye) outweighs a large one of hardly any (a patch of shade).
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.absorb import shared_borders
from bisectum.core.raster.regions import Regions, regions_of
from bisectum.core.raster.vertices import vertices_of

BORDER_WORTH = 0.024  # what a mm of border between two classes must be worth, in mm² of what speaks against the other class
TELLING = 2.0  # times that much is worth of a part that tells, so that it stays however small it is
LEAST_MM2 = 2.0  # of what is cut: less is texture, and nobody weeds it
MANY, GROWN = 50, 0.1  # neighbours, and part of an area
NEVER = 1e6  # against giving anything to the ground, or the ground to anything


@dataclass(frozen=True, slots=True)
class Least:
    """The smallest area that is cut. mm2: its size; counted : (H, W) float32, how many times a place counts where smaller things
    tell, such as eyes, or None where none does."""

    mm2: float
    counted: NDArray[np.float32] | None = None

    def times(self, factor: float) -> Least:
        """The same, larger by a factor."""
        return Least(factor * self.mm2, self.counted)


ANY = Least(0.0)


class Areas:
    """labels : (H, W) uint8, 0 for the ground, k + 1 for class k; against : (K, H, W); mm: size of a pixel;
    counted: as in Least."""

    def __init__(
        self, labels: NDArray[np.uint8], against: NDArray[np.float32], mm: float, counted: NDArray[np.float32] | None = None
    ) -> None:
        vertices = vertices_of(labels)
        self.regions: Regions = regions_of(labels, vertices)
        count = len(self.regions.sizes)
        self.label = self.regions.labels.astype(np.int64).copy()
        numbers = self.regions.numbers.ravel()
        self.area = (self.regions.sizes if counted is None else np.bincount(numbers, counted.ravel(), count)) * mm**2
        self.cost = np.full((count, len(against) + 1), NEVER)
        for k, own in enumerate(against, 1):
            self.cost[:, k] = np.bincount(numbers, own.ravel(), count) * mm**2
        ground = self.label == 0
        self.cost[~ground, 0] = NEVER + self.cost[~ground, 1:].max(axis=1)
        self.cost[ground, 1:] += NEVER
        self.cost[ground, 0] = 0.0
        self.parent = np.arange(count)
        pairs, lengths = shared_borders(vertices, self.regions.numbers)
        self.beside: list[dict[int, float]] = [{} for _ in range(count)]
        for (one, other), length in zip(pairs.tolist(), (lengths * mm).tolist(), strict=True):
            self.beside[one][other] = self.beside[other][one] = length

    def best(self, area: int, border_worth: float, but: int = -1) -> tuple[float, int, float]:
        """The neighbouring class it costs least to give an area to: what that costs, less what the border is worth; the
        label; mm of border. but: a label it may not go to. Label -1 where there is none."""
        borders: dict[int, float] = {}
        for other, length in self.beside[area].items():
            label = int(self.label[other])
            if label not in (but, self.label[area]):
                borders[label] = borders.get(label, 0.0) + length
        own = self.cost[area, self.label[area]]
        return min(((float(self.cost[area, label] - own) - border_worth * length, label, length)
                    for label, length in borders.items()), default=(0.0, -1, 0.0))

    def give(self, area: int, label: int) -> int:
        """Give an area to a class; it becomes one with all neighbours of that class. Returns the area that it is now part of."""
        if (self.label[area] == 0) != (label == 0):  # what has been decided costs nothing any more
            sign = 1 if label == 0 else -1
            self.cost[area, 1:] += sign * NEVER
            self.cost[area, 0] -= sign * NEVER
        same = [other for other in self.beside[area] if self.label[other] == label]
        self.label[area] = label
        chief = max([area, *same], key=lambda own: self.area[own])
        for other in [area, *same]:
            if other != chief:
                self._join(other, chief)
        return chief

    def _join(self, one: int, chief: int) -> None:
        self.parent[one] = chief
        self.area[chief] += self.area[one]
        self.cost[chief] += self.cost[one]
        for other, length in self.beside[one].items():
            del self.beside[other][one]
            if other != chief:
                self.beside[chief][other] = self.beside[chief].get(other, 0.0) + length
                self.beside[other][chief] = self.beside[chief][other]
        self.beside[one] = {}

    def painted(self) -> NDArray[np.uint8]:
        """The labels as they are now, (H, W) uint8."""
        roots = self.parent
        while not np.array_equal(roots, roots[roots]):
            roots = roots[roots]
        return self.label[roots].astype(np.uint8)[self.regions.numbers]


def merged(
    labels: NDArray[np.uint8], against: NDArray[np.float32], mm: float, least: Least, border_worth: float = BORDER_WORTH
) -> tuple[NDArray[np.uint8], int]:
    """Give away what is smaller than `least`, and what is worth less than its border, a mm of which is worth border_worth.

    Shapes as in Areas.
    Returns (H, W) uint8 and how many areas went, the least worth first.
    """
    areas = Areas(labels, against, mm, least.counted)
    queue: list[tuple[int, float, int, int]] = []
    turn = [0] * len(areas.area)
    looked_at = areas.area.copy()  # how large an area was when it was last looked at

    def push(area: int) -> None:
        turn[area] += 1
        looked_at[area] = areas.area[area]
        if areas.area[area] < least.mm2:
            heapq.heappush(queue, (0, float(areas.area[area]), area, turn[area]))
        elif border_worth > 0 and areas.beside[area]:
            gain = areas.best(area, border_worth)[0]
            if gain < 0:
                heapq.heappush(queue, (1, gain, area, turn[area]))

    for area in range(len(areas.area)):
        push(area)
    gone = 0
    while queue:
        _, _, area, was = heapq.heappop(queue)
        if was != turn[area] or areas.parent[area] != area:
            continue
        gain, label, _ = areas.best(area, border_worth)
        if label < 0 or (areas.area[area] >= least.mm2 and gain >= 0):
            continue
        gone += 1
        beside = list(areas.beside[area])  # only for these has a neighbour another class now
        chief = areas.give(area, label)
        for other in beside:
            if areas.parent[other] == other and other != chief:
                push(other)
        # One with many neighbours, which hardly ever is worth too little, is looked at when it has grown by a part.
        if len(areas.beside[chief]) <= MANY or areas.area[chief] > (1 + GROWN) * looked_at[chief]:
            push(chief)
    return areas.painted(), gone
