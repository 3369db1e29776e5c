"""What came free, held against what was meant, area by area."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from bisectum.stand_ins.cutter.freed import Freed

MOST_MM = 0.05  # a difference beyond this is told


@dataclass(frozen=True, slots=True)
class Difference:
    """code: "not_free" for a piece that did not come free, "not_meant" for one that was not asked for, "off" for an edge that
    lies elsewhere. at: mm; by: mm for an edge, mm² for a piece."""

    code: str
    at: tuple[float, float]
    by: float


def differences(
    freed: Sequence[Freed], meant: Sequence[shapely.Polygon], most: float = MOST_MM
) -> tuple[list[Difference], float]:
    """What differs, and how far the edges of what came free lie off at most, mm."""
    own = [one.shape for one in freed if one.kind == "piece"]
    tree = shapely.STRtree(own)
    found: list[Difference] = []
    farthest = 0.0
    used: set[int] = set()
    for piece in meant:
        inside = [number for number in tree.query(piece, predicate="intersects").tolist()
                  if own[number].intersection(piece).area > 0.5 * own[number].area]
        used.update(inside)
        whole = shapely.union_all([own[number] for number in inside], grid_size=1e-5) if inside else shapely.Polygon()
        if whole.area < 0.5 * piece.area:
            at = piece.representative_point()
            found.append(Difference("not_free", (at.x, at.y), round(piece.area, 3)))
            continue
        off, at = _off(whole.boundary, piece.boundary)
        farthest = max(farthest, off)
        if off > most:
            found.append(Difference("off", at, round(off, 3)))
    for number, shape in enumerate(own):
        if number not in used:
            at = shape.representative_point()
            found.append(Difference("not_meant", (at.x, at.y), round(shape.area, 3)))
    return found, farthest


def _off(one: shapely.Geometry, other: shapely.Geometry) -> tuple[float, tuple[float, float]]:
    """How far two edges lie off each other at most, mm, and where."""
    worst, at = 0.0, (0.0, 0.0)
    for first, second in ((one, other), (other, one)):
        places = shapely.points(shapely.get_coordinates(first))
        shapely.prepare(second)
        away = shapely.distance(places, second)
        most = int(np.argmax(away))
        if away[most] > worst:
            worst, at = float(away[most]), (float(places[most].x), float(places[most].y))
    return worst, at
