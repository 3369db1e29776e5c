"""What comes free when lines have been cut: areas worked out from the cuts alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

AreaKind = Literal["piece", "window"]
GRID_MM = 1e-5
SAME_MM = 0.02  # cuts that run so near are one cut twice, and what is thinner between them is no area


@dataclass(frozen=True, slots=True, eq=False)
class Freed:
    """An area that comes free. shape: with its holes, mm; kind: a piece, or waste that is weeded out of one."""

    shape: shapely.Polygon
    kind: AreaKind


def freed_by(cuts: Sequence[NDArray[np.float64]], filled: Sequence[Sequence[NDArray[np.float64]]]) -> list[Freed]:
    """cuts: (N, 2) each, mm, as the blade went; filled: the outlines of what the file fills. Where it fills nothing, what
    lies within an odd number of lines is a piece."""
    lines = shapely.union_all([shapely.LineString(cut) for cut in cuts if len(cut) > 1], grid_size=GRID_MM)
    faces = [face for face in shapely.get_parts(shapely.polygonize([lines])) if 2 * face.area / face.length > SAME_MM]
    if not faces:
        return []
    places = shapely.points([_inside(face) for face in faces])
    areas = [[_polygon(ring) for ring in rings] for rings in filled]
    areas = areas or [_once([_polygon(cut) for cut in cuts if _is_closed(cut)])]
    is_piece = np.zeros(len(faces), bool)
    tree = shapely.STRtree(places)
    for rings in areas:
        times = np.zeros(len(faces), int)
        for ring in rings:
            times[tree.query(ring, predicate="contains")] += 1
        is_piece |= times % 2 == 1
    return [Freed(face, "piece" if one else "window") for face, one in zip(faces, is_piece.tolist(), strict=True)]


def _once(areas: Sequence[shapely.Geometry]) -> list[shapely.Geometry]:
    """Areas, of those that are cut several times the first."""
    tree, found = shapely.STRtree(areas), []
    for number, area in enumerate(areas):
        like = tree.query(area, predicate="dwithin", distance=SAME_MM)
        like = like[like < number]
        near = (np.abs(shapely.bounds(tree.geometries[like]) - area.bounds) <= SAME_MM).all(axis=1)
        if not any(area.boundary.hausdorff_distance(areas[other].boundary) <= SAME_MM for other in like[near]):
            found.append(area)
    return found


def _inside(face: shapely.Polygon) -> tuple[float, float]:
    """A place well inside a face: seams where a line is followed twice lie along its edge."""
    at = face.representative_point()
    return at.x, at.y


def _polygon(ring: NDArray[np.float64]) -> shapely.Geometry:
    whole = shapely.make_valid(shapely.Polygon(ring)) if len(ring) > 3 else shapely.Polygon()
    shapely.prepare(whole)
    return whole


def _is_closed(cut: NDArray[np.float64]) -> bool:
    return len(cut) > 3 and bool(np.hypot(*(cut[0] - cut[-1])) < 1.0)
