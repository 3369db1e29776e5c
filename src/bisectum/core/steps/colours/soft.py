"""What tells a drawing of thin strokes from a photograph, when neither has flat places to speak of.

All pixels of a drawing that are of none of its colours are fringes: its colours change within two pixels of them. A
photograph has passages that change softly.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.steps.colours.flat_pixels import NOISY, STEEP

ABOUT = 5  # px across: what is looked at about a pixel


def soft_share(rgba: NDArray[np.uint8], skip: NDArray[np.bool_], colours: NDArray[np.float64]) -> float:
    """The part of the pixels that are neither of a known colour nor about an edge. 1 where there is no pixel.

    rgba : (H, W, 4) uint8; skip : (H, W) bool, pixels not to count; colours : (N, 3), levels.
    """
    counted = ~skip & (rgba[..., 3] >= 250)
    square = np.ones((ABOUT, ABOUT), np.uint8)
    spread = cv2.subtract(cv2.dilate(rgba, square), cv2.erode(rgba, square)).max(axis=2)
    left = rgba[counted & (spread <= STEEP)][:, :3].astype(np.int16)
    known = np.zeros(len(left), bool)
    for colour in colours:
        known |= np.abs(left - colour).max(axis=1) <= NOISY
    return float((~known).sum() / max(1, counted.sum())) if counted.any() else 1.0
