"""Where which settings hold: the whole picture's, and those of parts that were marked.

A line that runs into a marked part gets a node at the border, and runs on there without a bend.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.corners import turn_of
from bisectum.core.model.placement import Placement
from bisectum.core.steps.lines.settings import LinesSettings, Looks

LEAST_TOLERANCE = 0.03  # px; closer than that is not in any picture
MOST_PASSES = 1500
SIDE = 5  # points on either side that a border's tangent is taken from, and that lie between it and a corner

Corners = tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]


class Zones:
    """Zone 0 is the whole picture, zone k the k-th marked part; a later part lies over an earlier one.

    tolerance, simplify: px; corner: radians; passes: of smoothing; all (Z,).
    """

    def __init__(self, settings: LinesSettings, places: Placement, mm_per_px: float) -> None:
        looks: list[Looks] = [settings, *settings.parts]
        self.boxes = np.array([(part.x, part.y, part.x + part.width, part.y + part.height) for part in settings.parts])
        self.boxes, self.places = self.boxes.reshape(-1, 4), places
        self.tolerance = np.maximum(LEAST_TOLERANCE, [own.closeness_mm / mm_per_px for own in looks])
        self.corner = np.array([math.radians(own.corner_deg) for own in looks])
        self.simplify = np.array([own.simplify_mm / mm_per_px for own in looks])
        self.simplifies = bool(self.simplify.any())
        # A pass evens out waves of some 2 px, n² passes those n times as long.
        self.passes = np.array([min(MOST_PASSES, round((own.smoothing_mm / mm_per_px / 2) ** 2)) for own in looks])

    def of(self, points: NDArray[np.float64]) -> NDArray[np.int64]:
        """The zone of each point. points : (N, 2), px."""
        zones = np.zeros(len(points), np.int64)
        if not len(self.boxes):
            return zones
        x, y = self.places.to_shares(points).T
        for number, (left, top, right, bottom) in enumerate(self.boxes, 1):
            zones[(x >= left) & (x < right) & (y >= top) & (y < bottom)] = number
        return zones

    def present(self, zones: NDArray[np.int64]) -> list[int]:
        """Which zones there are among those of some points."""
        return np.unique(zones).tolist() if len(self.boxes) else [0]

    def keen(self, zones: NDArray[np.int64], count: int, corners: Corners) -> int:
        """Drop corners that their zone takes for bends. zones: of the chain's points. Returns how many corners stay."""
        indices, _, _, sides = corners
        stay = [k for k in range(count) if turn_of(sides[k]) >= self.corner[zones[indices[k] % len(zones)]]]
        if len(stay) < count:
            for values in corners:
                values[: len(stay)] = values[stay]
        return len(stay)

    def with_borders(
        self, points: NDArray[np.float64], closed: bool, zones: NDArray[np.int64], count: int, corners: Corners
    ) -> int:
        """Add a node with a tangent for both of its sides wherever the zone changes. Returns the count of all.

        Such a node's radius is zero, which tells fit_outline that the tangent binds.
        """
        n = len(points)
        changes = np.flatnonzero(zones != np.roll(zones, 1))
        if not closed:
            changes = changes[(changes >= SIDE) & (changes < n - SIDE)]
        near = corners[0][:count] % n
        for at in changes.tolist():
            away = np.abs((near - at + n // 2) % n - n // 2) if closed else np.abs(near - at)
            if n <= 2 * SIDE or (len(away) and away.min() < SIDE):
                continue
            way = points[(at + SIDE) % n] - points[(at - SIDE) % n]
            way /= max(1e-12, math.hypot(*way))
            indices, places, radii, sides = corners
            indices[count], places[count], radii[count] = at, points[at], 0.0
            sides[count] = [*way, *way, 0.0, 0.0, *points[at], *points[at]]
            count += 1
            near = corners[0][:count] % n
        order = np.argsort(corners[0][:count], kind="stable")
        for values in corners:
            values[:count] = values[:count][order]
        return count

    def tolerances(self, zones: NDArray[np.int64], closed: bool, count: int, indices: NDArray[np.int64]) -> NDArray[np.float64]:
        """px for each span, in the order of fit_outline. (count + 1,); for a closed chain the first value has no span."""
        if not len(self.boxes):
            return np.full(count + 1, self.tolerance[0])
        n = len(zones)
        stops = indices[:count] % n
        starts, ends = np.append(0, stops), np.append(stops, n)
        if closed and count:
            ends[-1] = stops[0] + n
        return self.tolerance[zones[(starts + ends) // 2 % n]]
