"""How much of an item is thinner than can be cut: what an opening takes away (erosion and dilation, J. Serra)."""

from __future__ import annotations

import numpy as np

from bisectum.core.items.ready import of_map
from bisectum.core.model.offset import offset
from bisectum.core.model.planar_map import PlanarMap


def thin_share(planar: PlanarMap, width_mm: float) -> float:
    """The share of the area of all that is cut that no disc of a width (mm) gets to, 0 to 1; sharp corners count little."""
    inside = np.append(planar.face_labels > 0, False)
    whole = _area(planar)
    if whole <= 0:
        return 0.0
    fields = of_map("#000000")
    eroded = offset(planar, inside, -width_mm / 2, **fields)
    opened = offset(eroded, np.append(eroded.face_labels > 0, False), width_mm / 2, **fields)
    return min(1.0, max(0.0, 1 - _area(opened) / whole))


def _area(planar: PlanarMap) -> float:
    areas = planar.half_areas()
    return float(sum(areas[loop].sum() for face, loop in planar.loops() if face >= 0 and planar.face_labels[face]))
