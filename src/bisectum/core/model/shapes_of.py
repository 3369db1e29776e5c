"""Pieces and parts as polygons of shapely: for measuring distances and for laying out, never for cutting."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from bisectum.core.geom.bezier import flatten
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Piece
from bisectum.core.model.stroke import Strokes

CHORD_MM = 0.005
GRID_MM = 1e-6
FINE = 0.02  # of the extent of a ring


def polygon_of(piece: Piece, chord: float = CHORD_MM) -> BaseGeometry:
    """A piece with its windows, never empty. chord: how far its curves may lie off the polygon's sides, mm; less for what is
    small, so that nothing closes up."""
    outline, *windows = (flatten(ring.segments, min(chord, FINE * extent_of(ring))) for ring in piece.rings)
    # Nothing but areas: lines among them could not be laid over other areas.
    whole = shapely.make_valid(shapely.Polygon(outline, windows), method="structure", keep_collapsed=False)
    return whole if whole.area > 0 else shapely.MultiPoint(piece.outline.segments.reshape(-1, 2)).convex_hull


def extent_of(ring: Path) -> float:
    """The longer side of the box around a ring's nodes and handles, mm."""
    return float(np.ptp(ring.segments.reshape(-1, 2), axis=0).max())


def shape_of(pieces: Sequence[Piece], strokes: Strokes, chord: float = CHORD_MM) -> BaseGeometry:
    """Pieces and strokes as one geometry."""
    if len(pieces) == 1 and not strokes:
        return polygon_of(pieces[0], chord)
    lines = [shapely.LineString(np.concatenate([flatten(stroke.segments, chord), stroke.segments[-1:, 3]])) for stroke in strokes]
    return union([*(polygon_of(piece, chord) for piece in pieces), *lines])


def union(shapes: Sequence[BaseGeometry]) -> BaseGeometry:
    """All of some shapes. On a grid: without one, GEOS has been seen to lose a polygon that only touches others."""
    return shapely.union_all(shapes, grid_size=GRID_MM)


def moved(shape: BaseGeometry, matrix: NDArray[np.float64]) -> BaseGeometry:
    """matrix : (2, 3)."""
    return shapely.transform(shape, lambda points: points @ matrix[:, :2].T + matrix[:, 2])
