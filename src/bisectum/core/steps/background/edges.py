"""The outline of what stays: moved in or out, smoothed, small parts dropped, fuzz given the subject's colour."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.nearest import nearest_colours

INTERIOR = 2.6  # px from the outline a colour is taken from; nearer ones are mixed with the ground's
FUZZ = 6  # px from there that a colour may go to; thinner parts keep their own


def moved(shares: NDArray[np.uint8], by_px: float) -> NDArray[np.uint8]:
    """The outline moved out by `by_px`, in where that is below zero. shares : (H, W) uint8."""
    import cv2

    solid = (shares > 127).astype(np.uint8)
    if not by_px or not solid.any() or solid.all():
        return shares
    inside = cv2.distanceTransform(solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    outside = cv2.distanceTransform(1 - solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    # These are distances to the other side's pixel centres; the outline lies half a pixel before them.
    distance = cv2.GaussianBlur(np.where(solid > 0, inside - 0.5, 0.5 - outside), (0, 0), 0.8)
    return np.clip(np.rint(255 * (distance + by_px + 0.5)), 0, 255).astype(np.uint8)


def smoothed(shares: NDArray[np.uint8], radius_px: float) -> NDArray[np.uint8]:
    """Notches and bumps smaller than the radius are evened out. shares : (H, W) uint8, as is what is returned."""
    import cv2

    if radius_px < 0.3:
        return shares
    soft = cv2.GaussianBlur(shares, (0, 0), radius_px / 2).astype(np.float32) / 255
    # A straight edge blurred by σ rises by 1/(σ√2π) a pixel: that steepness is made one again.
    steep = max(1.0, radius_px / 2 * np.sqrt(2 * np.pi))
    return np.clip(np.rint(255 * ((soft - 0.5) * steep + 0.5)), 0, 255).astype(np.uint8)


def only_parts(shares: NDArray[np.uint8], largest: bool, smallest_px: float) -> NDArray[np.uint8]:
    """The largest connected part only, or those of at least `smallest_px` pixels. shares : (H, W) uint8."""
    import cv2

    if not largest and smallest_px <= 0:
        return shares
    count, parts, stats, _ = cv2.connectedComponentsWithStats((shares > 127).astype(np.uint8))
    areas = stats[:, cv2.CC_STAT_AREA]
    stays = areas >= smallest_px
    if largest and count > 1:
        stays[1:] = False
        stays[1 + int(np.argmax(areas[1:]))] = True
    stays[0] = True  # the ground and the soft pixels beside the outline
    goes = ~stays[parts]
    around = cv2.dilate(goes.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    result = shares.copy()
    result[around & ((shares < 128) | goes)] = 0
    return result


def without_fuzz(rgba: NDArray[np.uint8], shares: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Pixels along the outline take the nearest colour from inside. Returns (H, W, 3) uint8."""
    import cv2

    result = np.ascontiguousarray(rgba[..., :3])
    size = 2 * math.ceil(INTERIOR) + 1
    inside = cv2.erode((shares > 127).astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))) > 0
    rows, columns = (np.ascontiguousarray(index) for index in np.nonzero((shares > 0) & ~inside))
    found = nearest_colours(rgba, inside, rows, columns, FUZZ)
    told = found[:, 3] > 0
    if result is rgba or result.base is not None:
        result = result.copy()
    result[rows[told], columns[told]] = found[told, :3].astype(np.uint8)
    return result
