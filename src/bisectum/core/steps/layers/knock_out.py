"""No film on film: what of a layer is seen, with a gap around all that lies on it.

Film sticks to cloth better than to film, so heat-transfer vinyl is left out where other film comes to lie.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.model.artwork import Piece
from bisectum.core.model.offset import SPECK_MM2, outlines, rings_of, sweep_of
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel, without_slivers
from bisectum.core.progress import SILENT, Progress


def clear_of_film(
    planar: PlanarMap, own: NDArray[np.bool_], above: NDArray[np.bool_], gap: float, progress: Progress = SILENT
) -> tuple[Piece, ...]:
    """The pieces of what is seen of a layer, no nearer than a gap (mm) to what lies above it.

    own, above : (F + 1,) bool, the last for what lies beyond the picture; they have no face in common. Raises: Cancelled.
    """
    if not gap or not above.any():
        return pieces_of_faces(planar, own, False, progress)
    over = overlay([rings_of(*outlines(planar, own)[:2]), sweep_of(planar, above, gap)])
    progress.raise_if_cancelled()
    mine, near = (over.labels > 0).T
    left = relabel(over, without_slivers(over, mine & ~near, SPECK_MM2), palette=planar.palette, mm_per_px=planar.mm_per_px,
                   width=planar.width, height=planar.height, deviation=planar.deviation)
    return pieces_of_faces(left, np.append(left.face_labels > 0, False), False, progress)
