"""Lapped layers: each reaches under the layers above it by a set lap, and no further.

What is seen of a layer stays exactly as it is: its visible edges are the shared lines themselves, less nodes on straight ones
that no line ends at any more. Only where an upper layer covers it the edge is moved outwards, by the lap, within what lies above.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.hermite import fewer_curves
from bisectum.core.geom.overlay.overlay import Overlay, overlay
from bisectum.core.geom.sweep import FIT_MM, Rings, swept
from bisectum.core.model.artwork import Piece
from bisectum.core.model.net import net_of
from bisectum.core.model.offset import SPECK_MM2, curves_of, outlines_and_beyond, rings_of
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import labels_from, relabel, without_slivers
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.forest import groups_of
from bisectum.core.units import RESOLUTION_MM

OWN, ABOVE = 1, 2  # labels of a map that tells no more
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
    of_map = {name: getattr(planar, name) for name in ("palette", "mm_per_px", "width", "height", "deviation")}
    kinds = relabel(net_of(planar), np.append(0, np.where(own, OWN, np.where(above, ABOVE, 0))[:-1]), **of_map)
    is_own, is_above = (np.append(kinds.face_labels == kind, False) for kind in (OWN, ABOVE))
    try:
        over = overlay([curves_of(kinds), rings_of(*_lap(kinds, is_own, is_above, lap))])
    except BrokenStructure:  # lines as near to each other as the numbers of a file: they meet edge to edge then
        return pieces_of_faces(planar, own, False, progress)
    progress.raise_if_cancelled()
    kind = labels_from(over, 0, kinds)
    taken = _beside(over, kind == OWN, (kind == ABOVE) & (over.labels[:, 1] > 0))
    whole = relabel(over, without_slivers(over, taken, SPECK_MM2), **of_map)
    whole = _with_fewer_hidden_nodes(whole, planar)
    pieces = pieces_of_faces(whole, np.append(whole.face_labels > 0, False), True, progress)
    return tuple(Piece(piece.outline, tuple(ring for ring in piece.windows if ring.signed_area < -LEAST_MM2))
                 for piece in pieces if piece.outline.signed_area > LEAST_MM2)


def _lap(planar: PlanarMap, own: NDArray[np.bool_], above: NDArray[np.bool_], lap: float) -> Rings:
    """What the outlines of faces sweep over where they border on what lies above, and a segment beyond."""
    segments, straight, first, beyond = outlines_and_beyond(planar, own)
    borders = above[beyond]
    following = np.arange(1, len(segments) + 1)
    following[first[1:] - 1] = first[:-1]
    chosen = borders | borders[following]
    chosen[following] |= borders
    return swept(segments, straight, first, lap, chosen=chosen)


def _beside(over: Overlay, mine: NDArray[np.bool_], lap: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What is seen of a layer, and the faces of a lap that hang together with it; others lie beyond a narrow gap."""
    taken = mine | lap
    shared = taken[over.left] & taken[over.right]
    group = groups_of(np.stack([over.left, over.right], axis=1)[shared], over.face_count)
    return taken & np.isin(group, np.unique(group[mine]))


def _with_fewer_hidden_nodes(whole: PlanarMap, planar: PlanarMap) -> PlanarMap:
    """With neighbours among the new curves joined where one draws both; the map's own lines stay."""
    known = {row.tobytes() for row in planar.segments} | {np.ascontiguousarray(row[::-1]).tobytes() for row in planar.segments}
    is_new = np.array([row.tobytes() not in known for row in whole.segments], bool)
    may_join = is_new & np.roll(is_new, -1)
    may_join[whole.first[1:] - 1] = False
    segments, straight, made_of = fewer_curves(whole.segments, whole.straight, may_join, FIT_MM)
    return replace(whole, segments=frozen(segments), straight=frozen(straight),
                   first=frozen(np.searchsorted(made_of, whole.first)))
