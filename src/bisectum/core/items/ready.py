"""The cut lines of an item that is no picture: closed rings, welded, as a planar map of one colour."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import bounds
from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.model.offset import rings_of, with_fewer_nodes
from bisectum.core.model.palette import Colour, Palette
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel, without_slivers
from bisectum.core.raster.colour import rgb_of
from bisectum.core.units import RESOLUTION_MM

Rings = tuple[NDArray[np.float64], NDArray[np.bool_]]
"""(S, 4, 2) segments, ring after ring, and (S,) which are straight. What winds around itself once or more is inside."""


def of_map(colour: str) -> dict[str, Any]:
    """The fields of a planar map that are no lines, for one of one colour."""
    palette = Palette((Colour(rgb_of(colour), 1.0),), method="given", found=1)
    return {"palette": palette, "mm_per_px": 0.05, "width": 0.0, "height": 0.0, "deviation": 0.0}


def welded(rings: Rings, colour: str, fewer: bool = False, about: tuple[float, float] | None = None) -> PlanarMap:
    """A map of what lies within rings. fewer: join curves that one draws as well. about: the place that comes to 0, 0, the
    middle if it is not said."""
    segments, straight = rings
    over = overlay([rings_of(segments, straight)])
    planar = relabel(over, without_slivers(over, over.labels[:, 0] != 0), **of_map(colour))
    planar = with_fewer_nodes(planar) if fewer else planar
    return planar if about is not None else centred(planar)


def centred(planar: PlanarMap) -> PlanarMap:
    """The same with the middle of its box at 0, 0, and the size of that box."""
    if not len(planar.segments):
        return planar
    left, top, right, bottom = bounds(planar.segments)
    middle = np.array([(left + right) / 2, (top + bottom) / 2])
    middle = np.round(middle / RESOLUTION_MM) * RESOLUTION_MM  # so that what was whole in mm stays so
    return replace(planar, segments=planar.segments - middle, junctions=planar.junctions - middle, width=right - left,
                   height=bottom - top)
