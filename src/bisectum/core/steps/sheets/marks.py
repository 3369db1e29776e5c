"""Register marks around a make, frames for weeding, and cuts across the waste."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from bisectum.core.geom.bezier import line_segments
from bisectum.core.geom.path import Path
from bisectum.core.model.shapes_of import union
from bisectum.core.steps.sheets.settings import SheetsSettings

AWAY_MM = 1.0  # cuts across the waste end so far off every piece
SHORTEST_MM = 8.0  # shorter ones are not worth it
Box = tuple[float, float, float, float]


def reach_of(settings: SheetsSettings, seams: bool = False) -> float:
    """How far marks and frames stand out beyond a make, mm. seams: it has matching marks."""
    marks = settings.mark_off_mm + settings.mark_mm if settings.marks != "none" or seams else 0.0
    return max(marks, settings.frame_mm if settings.frame else 0.0)


def register_marks(settings: SheetsSettings, box: Box) -> list[Path]:
    """Marks at the corners of a make. box: left, top, right and bottom of it on the carrier, mm."""
    size, off = settings.mark_mm, settings.mark_off_mm
    found: list[Path] = []
    for x, dx in ((box[0], -1), (box[2], 1)):
        for y, dy in ((box[1], -1), (box[3], 1)):
            corner = np.array([x + dx * off, y + dy * off])
            far = corner + np.array([dx * size, dy * size])
            if settings.marks == "brackets":
                found.append(_open([(corner[0], far[1]), (far[0], far[1]), (far[0], corner[1])]))
            elif settings.marks == "triangles":
                ring = [(far[0], far[1]), (far[0], corner[1]), (corner[0], far[1])]
                found.append(_closed(ring))
            elif settings.marks == "cross":
                found += cross((corner + far) / 2, size)
    return found


def cross(middle: NDArray[np.float64], size: float) -> list[Path]:
    x, y = middle.tolist()
    return [_open([(x - size / 2, y), (x + size / 2, y)]), _open([(x, y - size / 2), (x, y + size / 2)])]


def frame_around(settings: SheetsSettings, box: Box) -> list[Path]:
    off = settings.frame_mm
    left, top, right, bottom = box[0] - off, box[1] - off, box[2] + off, box[3] + off
    return [_closed([(left, top), (right, top), (right, bottom), (left, bottom)])] if settings.frame else []


def weeding_cuts(settings: SheetsSettings, shapes: Sequence[BaseGeometry], box: Box) -> list[Path]:
    """Level cuts across the waste between what is cut, so that it comes off in strips. shapes: pieces and marks on the
    carrier."""
    every = settings.weed_every_mm
    if not every or not shapes:
        return []
    taken = union([shape.buffer(AWAY_MM, quad_segs=4) for shape in shapes])
    rows = math.floor((box[3] - box[1]) / every)
    found: list[Path] = []
    for row in range(1, rows + 1):
        y = box[1] + row * (box[3] - box[1]) / (rows + 1)
        left = shapely.LineString([(box[0], y), (box[2], y)]).difference(taken)
        found += [_open([tuple(place) for place in line.coords]) for line in shapely.get_parts(left) if line.length >=
        SHORTEST_MM]
    return found


def _open(places: Sequence[tuple[float, ...]]) -> Path:
    segments = line_segments(np.array(places, float))
    return Path(segments, np.ones(len(segments), bool), False)


def _closed(places: Sequence[tuple[float, float]]) -> Path:
    """Clockwise as seen, whichever way round the places come."""
    path = Path(line_segments(np.array([*places, places[0]], float)), np.ones(len(places), bool))
    return path if path.signed_area > 0 else _closed(places[::-1])
