"""An outline around other items: at a distance, gaps closed, inner ones left out."""

from __future__ import annotations

import numpy as np

from bisectum.core.items.ready import of_map
from bisectum.core.items.settings import Border
from bisectum.core.model.net import net_of
from bisectum.core.model.offset import offset, with_fewer_nodes
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel

TOOL_MM = 0.2  # what no blade parts: a gap narrower than this is closed in any case (from memory)


def border_map(whole: PlanarMap, border: Border) -> PlanarMap:
    """The border around all that is cut of a map, as a map of one colour where it lies.

    Gaps that are narrower than bridge_mm are closed: it goes out by half of that more, and back again (the closing of
    mathematical morphology, J. Serra). So a gap closes where no disc of that width fits into it. Where windows are dropped, those
    go as well that only arise between parts that have grown together.
    """
    fields = of_map(border.colour)
    inside = np.append(whole.face_labels > 0, False)
    half = max(border.bridge_mm, TOOL_MM) / 2
    result = offset(whole, inside, border.distance_mm + half, border.corners, border.windows, **fields)
    result = _filled(result, border)
    result = offset(result, np.append(result.face_labels > 0, False), -half, border.corners, border.windows, **fields)
    return with_fewer_nodes(_filled(result, border))


def _filled(planar: PlanarMap, border: Border) -> PlanarMap:
    """Without its windows, where they are dropped."""
    if border.windows == "keep":
        return planar
    return relabel(net_of(planar), np.append(0, np.ones(len(planar.face_labels), np.int64)), **of_map(border.colour))
