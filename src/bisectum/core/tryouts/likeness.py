"""How much a result is like its picture to the eye, as one number.

The eye goes to places: where edges stand out from what is usual around them, and to the middle. At each such place the result
is compared with the picture in a window, by form and by how much of the contrast is left; how light or of what hue the whole
window is does not matter. Work is another number, and counts for nothing here.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.din99o import din99o, lab_image
from bisectum.core.steps.colours.photo.certainty import Certainty, certainty

PLACES = 24  # the eye rests at so many at most
RADIUS_MM = 5.0  # of a place; of 5, 8 and 12 mm the one that agrees most with the order a person put 84 results in
WINDOW, EMPTIED = 1.2, 1.3  # half of what is compared, and what one place takes from others, in its radius
FINE_MM, TIMES, SEED = 0.4, 1.7, 0.5  # as in photographs that are made calm: which edges stand out
SHARP_MM, STRONG = 1.05, 6.0  # the widest edge that draws the eye, and DIN99o from which it draws it no more
SEEN_MM = 0.3  # deviation of the blur of a look from a distance
CONTRAST = 0.6  # of the picture's, which is enough
MIDDLE, RIM = 0.35, 0.4  # deviation of the weight about the middle, in the picture's longer side; weight of its rim


def likeness(
    picture: NDArray[np.uint8], made: NDArray[np.uint8], shown: NDArray[np.bool_], mm: float
) -> float:
    """0 for nothing alike to 100 for the same. picture, made : (H, W, 3) uint8, sRGB; shown : (H, W) bool, what is not cut
    away; mm: size of a pixel."""
    one, other = din99o(lab_image(picture)), din99o(lab_image(made))
    ones = np.ones(shown.shape, np.float32)
    found = certainty(one, mm, FINE_MM, np.float32(TIMES) * ones, np.float32(SEED) * ones)
    places = _places(_drawing_the_eye(found, shown), RADIUS_MM / mm)
    deviation = max(0.3, SEEN_MM / mm)
    seen, seen_made = (np.asarray(cv2.GaussianBlur(own, (0, 0), deviation), np.float32) for own in (one, other))
    half = max(2, round(WINDOW * RADIUS_MM / mm))
    total = sum(weight * _alike(_window(seen, x, y, half), _window(seen_made, x, y, half)) for x, y, weight in places)
    return 100 * total / sum(weight for _, _, weight in places) if places else 0.0


def _drawing_the_eye(found: Certainty, shown: NDArray[np.bool_]) -> NDArray[np.float32]:
    """How much each pixel draws the eye, (H, W). Where no edge stands out all of the picture does, the middle most."""
    edges = np.where((found.found <= SHARP_MM) & shown, np.minimum(found.edge, np.float32(STRONG)), np.float32(0))
    if not edges.any():
        edges = shown.astype(np.float32)
    height, width = shown.shape
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    away = ((x - width / 2) ** 2 + (y - height / 2) ** 2) / (MIDDLE * max(height, width)) ** 2
    return np.asarray(edges * (RIM + (1 - RIM) * np.exp(-0.5 * away)), np.float32)


def _places(drawing: NDArray[np.float32], radius_px: float) -> list[tuple[int, int, float]]:
    """x, y and weight of the places where the eye rests, px. drawing : (H, W)."""
    left = cv2.GaussianBlur(drawing, (0, 0), max(0.5, radius_px / 2))
    found: list[tuple[int, int, float]] = []
    while len(found) < PLACES:
        _, peak, _, (x, y) = cv2.minMaxLoc(left)
        if peak <= 1e-6:
            break
        found.append((x, y, peak))
        cv2.circle(left, (x, y), max(1, round(EMPTIED * radius_px)), 0.0, -1)
    return found


def _window(pixels: NDArray[np.float32], x: int, y: int, half: int) -> NDArray[np.float32]:
    """(P, 3) about a place, less their mean."""
    own = pixels[max(0, y - half) : y + half + 1, max(0, x - half) : x + half + 1].reshape(-1, 3)
    return np.asarray(own - own.mean(axis=0), np.float32)


def _alike(wanted: NDArray[np.float32], made: NDArray[np.float32]) -> float:
    """0 to 1: correlation, less where contrast is lost. wanted, made : (P, 3)."""
    product, own, other = (float((one * two).sum()) for one, two in ((wanted, made), (wanted, wanted), (made, made)))
    if own < 1e-6 or other < 1e-6:
        return float(own < 1e-6 and other < 1e-6)
    return max(0.0, product / (own * other) ** 0.5) * min(1.0, max(0.0, product / own) / CONTRAST)
