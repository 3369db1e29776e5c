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
SCRAP_MM2 = 1e-3  # slivers where a line is followed twice


@dataclass(frozen=True, slots=True, eq=False)
class Freed:
    """An area that comes free. shape: with its holes, mm; kind: a piece, or waste that is weeded out of one."""

    shape: shapely.Polygon
    kind: AreaKind


def freed_by(cuts: Sequence[NDArray[np.float64]], filled: Sequence[Sequence[NDArray[np.float64]]]) -> list[Freed]:
    """cuts: (N, 2) each, mm, as the blade went; filled: the outlines of what the file fills. Where it fills nothing, what
    lies within an odd number of lines is a piece."""
    lines = shapely.union_all([shapely.LineString(cut) for cut in cuts if len(cut) > 1], grid_size=GRID_MM)
    faces = [face for face in shapely.get_parts(shapely.polygonize([lines])) if face.area > SCRAP_MM2]
    if not faces:
        return []
    places = shapely.points([_inside(face) for face in faces])
    areas = [[_polygon(ring) for ring in rings] for rings in filled] or [[_polygon(cut) for cut in cuts if _is_closed(cut)]]
    is_piece = np.zeros(len(faces), bool)
    tree = shapely.STRtree(places)
    for rings in areas:
        times = np.zeros(len(faces), int)
        for ring in rings:
            times[tree.query(ring, predicate="contains")] += 1
        is_piece |= times % 2 == 1
    return [Freed(face, "piece" if one else "window") for face, one in zip(faces, is_piece.tolist(), strict=True)]


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
