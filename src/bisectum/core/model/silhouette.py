"""The outline of all that is cut, taken together."""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.offset import rings_of
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.palette import Colour, Palette
from bisectum.core.model.relabel import relabel


def silhouette(artwork: Artwork) -> tuple[Path, ...]:
    """The outer outlines of all pieces of all layers as one shape, windows filled; clockwise as seen."""
    inputs = []
    for layer in artwork.layers:
        rings = list(layer.rings)
        if rings:
            inputs.append(rings_of(np.concatenate([ring.segments for ring in rings]),
                                   np.concatenate([ring.straight for ring in rings])))
    if not inputs:
        return ()
    over = overlay(inputs)
    palette = Palette((Colour((0, 0, 0), 1.0),))
    whole = relabel(over, np.asarray((over.labels > 0).any(axis=1)), palette=palette, mm_per_px=1.0, width=artwork.width,
                    height=artwork.height, deviation=0.0)
    pieces = pieces_of_faces(whole, np.append(whole.face_labels > 0, False), True)
    outer = sorted((piece.outline for piece in pieces), key=lambda ring: -ring.signed_area)
    return tuple(ring for number, ring in enumerate(outer) if not _is_within(ring, outer[:number]))


def _is_within(ring: Path, others: list[Path]) -> bool:
    """Whether a ring lies in a window of a larger one, which is filled."""
    import shapely  # takes its time to load

    from bisectum.core.geom.bezier import flatten

    at = shapely.Point(*ring.segments[0, 0])
    return any(shapely.Polygon(flatten(other.segments, 0.01)).contains(at) for other in others)
