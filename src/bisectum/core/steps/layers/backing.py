"""A solid shape under everything: the outline of all that is cut, or one at a distance."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.model.artwork import Piece
from bisectum.core.model.offset import SPECK_MM2, offset, outlines, rings_of, sweep_of
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel, without_slivers
from bisectum.core.steps.layers.meet import with_page
from bisectum.core.steps.layers.settings import Backing


def backing_pieces(planar: PlanarMap, cut: NDArray[np.bool_], backing: Backing, gap: float | None = None) -> tuple[Piece, ...]:
    """The pieces of a backing. cut : (F,), what lies on it. gap: mm around what lies on it, where it is left out there; None
    where it is solid."""
    if not cut.any():
        return ()
    windows = "keep" if backing.windows == "keep" else "drop"
    distance = backing.margin_mm if backing.kind == "margin" else 0.0
    fields = {"palette": planar.palette, "mm_per_px": planar.mm_per_px, "width": planar.width, "height": planar.height,
              "deviation": planar.deviation}
    whole = offset(planar, with_page(cut), distance, backing.corners, windows, **fields)  # type: ignore[arg-type]
    inside = with_page(whole.face_labels > 0)
    if gap is not None:
        film = with_page(cut)
        over = overlay([rings_of(*outlines(whole, inside)[:2]), rings_of(*outlines(planar, film)[:2]),
                        *([sweep_of(planar, film, gap)] if gap else [])])
        mine, covered = over.labels[:, 0] > 0, (over.labels[:, 1:] > 0).any(axis=1)
        whole = relabel(over, without_slivers(over, mine & ~covered, SPECK_MM2), **fields)
        inside = with_page(whole.face_labels > 0)
    return pieces_of_faces(whole, inside, True)
