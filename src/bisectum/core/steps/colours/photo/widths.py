"""Parts too thin to cut: what tells is made just wide enough, the rest goes to what lies about it.

Thin is what a disc of the smallest width does not fit into: the opening of a shape by that disc leaves it out (G. Matheron,
"Random Sets and Integral Geometry", 1975). So necks and hairs go, and points get no sharper than the disc.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.steps.colours.photo.areas import BORDER_WORTH, TELLING, Areas

SPARE = 0.4  # px wider than asked: borders still move a little while they come to rest
SLIVER = 3.0  # pixels, times the disc's radius, which rounding leaves along edges and at tips


def depth(mask: NDArray[np.bool_]) -> NDArray[np.float32]:
    """How far each pixel's middle lies from the edge of a mask, px; the picture's frame is an edge. (H, W) float32."""
    framed = cv2.copyMakeBorder(mask.astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_CONSTANT)
    result = np.asarray(cv2.distanceTransform(framed, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1], np.float32)
    return np.maximum(result - np.float32(0.5), np.float32(0.0))


def grown(mask: NDArray[np.bool_], radius_px: float) -> NDArray[np.bool_]:
    """All within a distance of a mask. mask : (H, W) bool."""
    if not mask.any():
        return mask
    away = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(away <= radius_px, bool)


def opened(mask: NDArray[np.bool_], radius_px: float) -> NDArray[np.bool_]:
    """What discs of a radius can cover of a mask. mask : (H, W) bool."""
    return mask & grown(depth(mask) >= radius_px, radius_px + 0.5)


def wide_enough(
    labels: NDArray[np.uint8], against: NDArray[np.float32], mm: float, width_mm: float,
    border_worth: float = BORDER_WORTH,
) -> tuple[NDArray[np.uint8], int, int]:
    """Labels without thin parts. Shapes as in Areas; width_mm: of the thinnest part that may stay; border_worth: see areas.

    Returns (H, W) uint8, how many parts went, and how many were widened.
    """
    radius = width_mm / 2 / mm + SPARE
    if width_mm == 0:
        return labels, 0, 0
    thin = labels > 0
    for label in np.unique(labels[thin]).tolist():
        thin &= ~opened(labels == label, radius)
    if not thin.any():
        return labels, 0, 0
    classes = len(against)
    areas = Areas(np.where(thin, labels + np.uint8(classes), labels).astype(np.uint8), np.concatenate([against, against]), mm)
    of_thin = np.flatnonzero(areas.label > classes)
    gone, widened = 0, []
    for area in of_thin[np.argsort(areas.area[of_thin])].tolist():
        if areas.label[area] <= classes or areas.parent[area] != area:
            continue
        own = int(areas.label[area]) - classes
        worth, label, border = areas.best(area, border_worth, own)
        if label > classes:
            label -= classes
        small = areas.area[area] < SLIVER * radius * mm**2
        if not small and label > 0 and worth > (TELLING - 1) * border_worth * border:
            widened.append((area, own))
        elif label >= 0:
            gone += not small
            areas.give(area, label if label != 0 or small else own)
    result = areas.painted()
    result = np.where(result > classes, result - classes, result).astype(np.uint8)
    return _widened(result, labels, areas, widened, radius), gone, len(widened)


def _widened(
    result: NDArray[np.uint8], before: NDArray[np.uint8], areas: Areas, parts: list[tuple[int, int]], radius: float
) -> NDArray[np.uint8]:
    """Each part as wide as the disc, about the line along its middle."""
    result = result.copy()
    for own in sorted({label for _, label in parts}):
        chosen = np.zeros(len(areas.area), bool)
        chosen[[area for area, label in parts if label == own]] = True
        part = chosen[areas.regions.numbers]
        deep = depth(before == own)
        ridge = part & (deep >= cv2.dilate(deep, np.ones((3, 3), np.uint8)) - 1e-3)
        wide = grown(ridge, radius + 0.25) & (before > 0)
        result[wide] = own
    return result
