"""The amount of ink against the ink beside it, so that a faint stroke is as wide as it was drawn.

A pen that is pressed less, or a second one, leaves strokes that are never half as dark as the usual ink. The edge of a stroke
lies where it is half as dark as its own middle.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import LUMA
from bisectum.core.raster.ink.amount import FAINT, RULE_WIDTH, Ink

LENS = 1.0  # px: how far a lens or a scanner spreads a thin stroke, which is fainter for that reason and not for its ink


def evened(ink: Ink, pen: float) -> NDArray[np.float32]:
    """The amount of ink, 1 in the middle of each stroke, however dark the stroke is. pen: its usual width, px.

    What is fainter than `FAINT` stays paper, and beside a rule what is fainter than half of it.

    Returns (H, W) float32, 0..1; its strokes are where it is above .5.
    """
    sharp = ink.amount + (ink.amount - cv2.GaussianBlur(ink.amount, (0, 0), LENS))
    reach = int(np.ceil(pen / 2)) + 1
    about = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    middle = cv2.GaussianBlur(cv2.dilate(np.clip(sharp, 0.0, 1.0), about), (0, 0), max(1.0, pen / 2))
    ruled = cv2.dilate(ink.ruled, np.ones((2 * RULE_WIDTH + 1,) * 2, np.uint8))
    least = (FAINT / float(LUMA @ ink.vector) + ruled / 2) / (1.0 - ruled)
    return np.clip(ink.amount / np.maximum(middle, np.clip(2 * least, 0.0, 1.0)), 0.0, 1.0).astype(np.float32)
