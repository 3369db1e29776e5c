"""Eyes, brows, nostrils and mouths as dark lines: what is darker there than the skin about them."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.face import Face

GROWN = 0.02  # of a face's width: points lie on the rim of what they go around
SKIN = 0.1  # the same: deviation that the skin's lightness is smoothed by
NOTHING = 6.0  # L* darker than the skin at most: nothing is drawn there
HALF = 0.55  # of the darkest of a feature, from which it is dark
DARKEST = 0.97  # quantile
SOFT = 0.25  # of the darkest: from not at all to surely


def face_lines(
    light: NDArray[np.float32], faces: Sequence[Face], factor: float, blur_px: float
) -> NDArray[np.float32]:
    """How surely a feature is dark there, 0 to 1. light : (H, W), L*; factor: pixels of the faces' picture along one here;
    blur_px: what light is smoothed by before. Returns (H, W) float32."""
    result = np.zeros_like(light)
    smooth = cv2.GaussianBlur(light, (0, 0), blur_px)
    for face in faces:
        width, every = face.width / factor, face.points / factor
        low = np.clip((every.min(axis=0) - 0.1 * width).astype(int), 0, None)
        high = np.clip(np.ceil(every.max(axis=0) + 0.1 * width).astype(int), 0, None)
        view = np.s_[low[1] : high[1], low[0] : high[0]]
        if min(light[view].shape) < 8:
            continue
        features = [_filled(part / factor - low, light[view].shape, GROWN * width) for part in face.features()]
        skin = (_filled(face.oval / factor - low, light[view].shape, 0) & ~np.any(features, axis=0)).astype(np.float32)
        weight = cv2.GaussianBlur(skin, (0, 0), SKIN * width)
        usual = cv2.GaussianBlur(light[view] * skin, (0, 0), SKIN * width) / np.maximum(weight, 0.05)
        for feature in features:
            darker = usual - smooth[view]
            most = float(np.quantile(darker[feature], DARKEST)) if feature.any() else 0.0
            if most >= NOTHING:
                sure = np.clip((darker / most - HALF) / SOFT + 0.5, 0, 1) * feature
                result[view] = np.maximum(result[view], sure)
    return result


def _filled(ring: NDArray[np.float64], shape: tuple[int, ...], grown: float) -> NDArray[np.bool_]:
    """What lies within the hull of a ring, or `grown` px beside it."""
    mask = np.zeros(shape, np.uint8)
    hull = cv2.convexHull(ring.astype(np.float32))[:, 0]
    cv2.fillPoly(mask, [np.rint(16 * hull).astype(np.int32)], 1, shift=4)
    reach = round(grown)
    if reach >= 1:
        return cv2.dilate(mask, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))) > 0
    return mask > 0
