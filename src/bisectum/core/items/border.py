"""An outline around other items: at a distance, gaps closed, inner ones left out."""

from __future__ import annotations

import numpy as np

from bisectum.core.items.ready import of_map
from bisectum.core.items.settings import Border
from bisectum.core.model.offset import offset
from bisectum.core.model.planar_map import PlanarMap


def border_map(whole: PlanarMap, border: Border) -> PlanarMap:
    """The border around all that is cut of a map, as a map of one colour where it lies.

    Gaps that are narrower than bridge_mm are closed: it goes out by half of that more, and back again (the closing of
    mathematical morphology, J. Serra). So a gap closes where no disc of that width fits into it.
    """
    fields = of_map(border.colour)
    inside = np.append(whole.face_labels > 0, False)
    half = border.bridge_mm / 2
    result = offset(whole, inside, border.distance_mm + half, border.corners, border.windows, **fields)
    if half:
        result = offset(result, np.append(result.face_labels > 0, False), -half, border.corners, border.windows, **fields)
    return result
