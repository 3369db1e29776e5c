"""Spot clearing: a place, and everything of its colour that hangs together with it, or all of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import LINEAR_OF_SRGB, oklab
from bisectum.core.raster.flood import distance_from_surface, flood_from
from bisectum.core.steps.background.border import STEPS_PER_UNIT

AROUND = 1  # px on either side whose median is the place's colour, so that one odd pixel does not decide


def spot_at(rgba: NDArray[np.uint8], x: float, y: float, reach: float, everywhere: bool) -> NDArray[np.bool_] | None:
    """The pixels a click at x, y takes; None beside the picture.

    rgba : (H, W, 4) uint8; x, y: px; reach: OKLab / 100. Returns (H, W) bool.
    """
    height, width = rgba.shape[:2]
    column, row = int(np.floor(x)), int(np.floor(y))
    if not (0 <= column < width and 0 <= row < height):
        return None
    here = rgba[max(0, row - AROUND) : row + AROUND + 1, max(0, column - AROUND) : column + AROUND + 1, :3]
    surface = np.zeros((6, 3))
    surface[0] = np.median(oklab(here.reshape(-1, 3)), axis=0)
    distances = distance_from_surface(rgba, surface, LINEAR_OF_SRGB)
    level = np.uint8(min(254, round(reach / 100 * STEPS_PER_UNIT)))
    if everywhere:
        return distances <= level
    distances[row, column] = 0
    return flood_from(distances, level, row, column)
