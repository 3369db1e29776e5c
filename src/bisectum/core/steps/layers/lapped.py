"""Lapped layers: each reaches under the layers above it by a set lap, and no further.

What is seen of a layer stays exactly as it is: its visible edges are the shared lines themselves, node for node. Only where an
upper layer covers it the edge is moved outwards, by the lap, within what lies above.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.hermite import fewer_curves
from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.geom.sweep import FIT_MM
from bisectum.core.model.artwork import Piece
from bisectum.core.model.offset import SPECK_MM2, outlines, rings_of, sweep_of
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel, without_slivers
from bisectum.core.progress import SILENT, Progress
from bisectum.core.units import RESOLUTION_MM

LEAST_MM2 = RESOLUTION_MM**2  # what is smaller is nothing, in a file


def lapped_pieces(
    planar: PlanarMap, own: NDArray[np.bool_], above: NDArray[np.bool_], lap: float, progress: Progress = SILENT
) -> tuple[Piece, ...]:
    """The pieces of a layer that reaches under others.

    own, above : (F + 1,) bool, what is seen of the layer, and where it may run out of sight, the last for what lies beyond the
    picture. lap: mm. Raises: Cancelled.
    """
    left, right = planar.sides.T
    if not ((own[left] & above[right]) | (own[right] & above[left])).any():
        return pieces_of_faces(planar, own, False, progress)
    seen = outlines(planar, own)
    try:
        over = overlay([rings_of(*seen[:2]), rings_of(*outlines(planar, above)[:2]), sweep_of(planar, own, lap)])
    except BrokenStructure:  # lines as near to each other as the numbers of a file: they meet edge to edge then
        return pieces_of_faces(planar, own, False, progress)
    progress.raise_if_cancelled()
    mine, hidden, near = (over.labels > 0).T
    whole = relabel(over, without_slivers(over, mine | (hidden & near), SPECK_MM2), palette=planar.palette,
                    mm_per_px=planar.mm_per_px, width=planar.width, height=planar.height, deviation=planar.deviation)
    whole = _with_fewer_hidden_nodes(whole, planar)
    pieces = pieces_of_faces(whole, np.append(whole.face_labels > 0, False), False, progress)
    return tuple(Piece(piece.outline, tuple(ring for ring in piece.windows if ring.signed_area < -LEAST_MM2))
                 for piece in pieces if piece.outline.signed_area > LEAST_MM2)


def _with_fewer_hidden_nodes(whole: PlanarMap, planar: PlanarMap) -> PlanarMap:
    """With neighbours among the new curves joined where one draws both; the map's own lines stay."""
    known = {row.tobytes() for row in planar.segments} | {np.ascontiguousarray(row[::-1]).tobytes() for row in planar.segments}
    is_new = np.array([row.tobytes() not in known for row in whole.segments], bool)
    may_join = is_new & np.roll(is_new, -1)
    may_join[whole.first[1:] - 1] = False
    segments, straight, made_of = fewer_curves(whole.segments, whole.straight, may_join, FIT_MM)
    return replace(whole, segments=frozen(segments), straight=frozen(straight),
                   first=frozen(np.searchsorted(made_of, whole.first)))
