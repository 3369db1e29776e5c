"""The other part of a make: all that it leaves open within a frame, an ellipse, or its own outline."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import line_segments
from bisectum.core.geom.ellipse import Ellipse
from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.model.artwork import Piece
from bisectum.core.model.offset import SPECK_MM2, offset, outlines, rings_of
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel, without_slivers
from bisectum.core.steps.layers.meet import with_page
from bisectum.core.steps.layers.settings import Reverse


def reversed_pieces(planar: PlanarMap, cut: NDArray[np.bool_], reverse: Reverse) -> tuple[Piece, ...]:
    """The pieces of the reverse. cut : (F,), what the make cuts.

    Raises: SettingsError where the make cuts nothing that could be turned round.
    """
    if not cut.any():
        raise SettingsError("This make has no pieces, so there is nothing to reverse.", code="reverse_empty")
    fields = {"palette": planar.palette, "mm_per_px": planar.mm_per_px, "width": planar.width, "height": planar.height,
              "deviation": planar.deviation}
    if reverse.within == "outline":
        filled = offset(planar, with_page(cut), reverse.margin_mm, "round", "drop", **fields)
        shape = outlines(filled, with_page(filled.face_labels > 0))[:2]
    else:
        shape = _shape(reverse, planar.width, planar.height)
    over = overlay([rings_of(*shape), rings_of(*outlines(planar, with_page(cut))[:2])])
    within, taken = (over.labels > 0).T
    left = relabel(over, without_slivers(over, within & ~taken, SPECK_MM2), **fields)
    return pieces_of_faces(left, with_page(left.face_labels > 0), False)


def _shape(reverse: Reverse, width: float, height: float) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """A frame or an ellipse around the page, clockwise as seen."""
    margin = reverse.margin_mm
    if reverse.within == "frame":
        corners = np.array([(-margin, -margin), (width + margin, -margin), (width + margin, height + margin),
                            (-margin, height + margin), (-margin, -margin)])
        return line_segments(corners), np.ones(4, bool)
    # The smallest ellipse of the page's proportions around its corners, and the margin.
    a, b = np.array([width, height]) / math.sqrt(2) + margin
    return Ellipse(width / 2, height / 2, a, b, 0.0).segments(4, True), np.zeros(4, bool)
