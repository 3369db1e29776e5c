"""Which layer lies under which."""

from __future__ import annotations

import numpy as np

from bisectum.core.model.planar_map import PlanarMap


def natural_order(planar: PlanarMap) -> list[int]:
    """Labels from the lowest layer up: by the area within the outlines of each, windows filled in.

    What is set into another colour is never larger than that colour's filled outline, so nesting and area agree.
    """
    filled = np.zeros(len(planar.palette.colours) + 1)
    areas = planar.half_areas()
    for face, loop in planar.loops():
        if face >= 0:
            filled[planar.face_labels[face]] += max(0.0, float(areas[loop].sum()))
    labels = [label for label in range(1, len(filled)) if filled[label] > 0]
    return sorted(labels, key=lambda label: (-filled[label], label))
