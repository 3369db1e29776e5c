"""The colour a person means when they click: that of the flat area there, never of a pixel on its fringe."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

AROUND = 4  # px that may be looked at on either side
ALIKE = 8  # levels from the flattest pixel that belong to its area
NEARER = 0.6  # levels of unrest that a pixel farther off must save, for each px


def flat_colour(rgba: NDArray[np.uint8], x: float, y: float) -> tuple[int, int, int] | None:
    """The mean colour of the flat area at x, y (px); None beside the picture or where it is see-through.

    rgba : (H, W, 4) uint8, straight alpha.
    """
    height, width = rgba.shape[:2]
    row, column = math.floor(y), math.floor(x)
    if not (0 <= row < height and 0 <= column < width) or rgba[row, column, 3] < 128:
        return None
    top, left = max(0, row - AROUND), max(0, column - AROUND)
    near = rgba[top : row + AROUND + 1, left : column + AROUND + 1, :3].astype(np.int64)
    wide = np.pad(near, ((1, 1), (1, 1), (0, 0)), mode="edge")
    windows = np.lib.stride_tricks.sliding_window_view(wide, (3, 3), axis=(0, 1))
    unrest = np.ptp(windows.reshape(*near.shape, 9), axis=3).max(axis=2)
    v, u = np.indices(unrest.shape)
    away = np.hypot(v + top - row, u + left - column)
    best = np.unravel_index(int(np.argmin(unrest + NEARER * away)), unrest.shape)
    alike = np.abs(near - near[best]).max(axis=2) <= ALIKE
    red, green, blue = (int(value) for value in np.rint(near[alike].mean(axis=0)))
    return red, green, blue
