"""Where lines of one layer cross, and where one runs on another: what nobody here has drawn may do both."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

SAME_MM = 0.02  # lines that run so near are one line twice
TWICE_MM = 1.0  # of it at least
WHOLE = 0.999  # of a line's length: all of it


@dataclass(frozen=True, slots=True, eq=False)
class Meetings:
    """crossings : (C, 2), mm; shared: the stretches on which a line runs on an earlier one; twins: numbers of the lines that do
    so all along."""

    crossings: NDArray[np.float64]
    shared: tuple[shapely.Geometry, ...]
    twins: frozenset[int]

    def are_near(self, places: NDArray[np.float64], reach: float) -> bool:
        """Whether lines meet within reach, mm, of one of some places : (N, 2)."""
        where = shapely.union_all([shapely.MultiPoint(self.crossings), *self.shared])
        return bool(shapely.dwithin(where, shapely.MultiPoint(places), reach))


def meetings_of(lines: Sequence[shapely.LineString]) -> Meetings:
    """Of the lines of a layer."""
    crossings = [at for line in lines if not line.is_simple for at in _with_itself(line)]
    shared: list[shapely.Geometry] = []
    twins: set[int] = set()
    one, other = shapely.STRtree(lines).query(lines, predicate="dwithin", distance=SAME_MM)
    for first, second in sorted(zip(one[one < other].tolist(), other[one < other].tolist(), strict=True)):
        if first in twins or second in twins:
            continue
        along, rest = _along(lines[second], lines[first]), lines[second]
        if along.length > min(TWICE_MM, 0.9 * lines[second].length, 0.9 * lines[first].length):
            shared.append(along)
            rest = rest.difference(along.buffer(2 * SAME_MM))
            if along.length > WHOLE * lines[second].length:
                twins.add(second)
        crossings += _crossings(lines[first], rest)
    return Meetings(np.array(crossings).reshape(-1, 2), tuple(shared), frozenset(twins))


def _along(line: shapely.LineString, other: shapely.LineString) -> shapely.Geometry:
    """What of a line runs on another."""
    return line.intersection(other.buffer(SAME_MM, cap_style="flat"))


def _crossings(line: shapely.LineString, other: shapely.Geometry) -> Iterator[tuple[float, float]]:
    if line.crosses(other):
        yield from _places(line.intersection(other))


def _with_itself(line: shapely.LineString) -> Iterator[tuple[float, float]]:
    """The places at which a line meets itself."""
    coords = shapely.get_coordinates(line)
    parts = shapely.linestrings(np.stack([coords[:-1], coords[1:]], axis=1))
    one, other = shapely.STRtree(parts).query(parts, predicate="intersects")
    apart = (other - one > 1) & ~((one == 0) & (other == len(parts) - 1) & bool((coords[0] == coords[-1]).all()))
    yield from _places(shapely.union_all(shapely.intersection(parts[one[apart]], parts[other[apart]])))


def _places(met: shapely.Geometry) -> Iterator[tuple[float, float]]:
    for part in shapely.get_parts(met):
        at = part.representative_point()
        yield at.x, at.y
