"""A place well inside each label of a label map."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray


def inner_places(labels: NDArray[np.uint8], count: int) -> NDArray[np.float64]:
    """The place farthest from the edge of each label. labels : (H, W) uint8. Returns (count, 2) float64, px x, y, for the
    labels 1 to count; NaN for those that are not there."""
    places = np.full((count, 2), np.nan)
    for label in range(1, count + 1):
        own = (labels == label).astype(np.uint8)
        if own.any():
            depth = cv2.distanceTransform(cv2.copyMakeBorder(own, 1, 1, 1, 1, cv2.BORDER_CONSTANT), cv2.DIST_L2, 3)
            row, column = np.unravel_index(int(depth.argmax()), depth.shape)
            places[label - 1] = column - 0.5, row - 0.5
    return places
