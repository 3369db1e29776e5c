"""The colour of a shaded ground, place by place: what of it is known is spread outwards, and what fits is ground too.

A quadratic through the border does not know how the light falls in the middle. Here the ground grows inwards from the
border in small steps, each against the mean colour of the ground nearby. Of what was found a surface in coded colours is fitted,
which later steps go by where it fits.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.flood import flood_from_border
from bisectum.core.raster.surface import TERMS, basis, fit_surface
from bisectum.core.steps.background.border import STEPS_PER_UNIT, Border

NEAR, FAR = 4.0, 24.0  # px of the small picture
FAR_WEIGHT = 0.01
FITS = 0.016  # OKLab, noise apart
ROUNDS = 40
SETTLED = 2e-4  # of the pixels
RELAXED = 12
UNEVEN = 5.0  # levels a ground's surface may be off, over an eighth of the picture


def ground_field(lab: NDArray[np.float32], border: Border) -> NDArray[np.float32]:
    """The ground's colour everywhere. lab : (h, w, 3) float32 OKLab, small. Returns (h, w, 3) float32."""
    import cv2

    height, width = lab.shape[:2]
    rows, columns = np.indices((height, width))
    field = (basis(rows, columns, height, width) @ border.surface).astype(np.float32)
    soft = cv2.GaussianBlur(lab, (0, 0), 1.0)  # grain is not shade
    level = np.uint8(min(254, round((FITS + 2.5 * border.noise) * STEPS_PER_UNIT)))
    known = np.ones((height, width), bool)
    ground = np.zeros((height, width), bool)
    for _ in range(ROUNDS):
        away = np.sqrt(((soft - field) ** 2).sum(axis=2))
        steps = np.minimum(255, np.rint(away * STEPS_PER_UNIT)).astype(np.uint8)
        steps[~known & ~ground] = 255
        grown = flood_from_border(steps, level)
        change = int((grown != ground).sum())
        ground = grown
        if not ground.any() or change < SETTLED * ground.size:
            break
        weight = ground.astype(np.float32)
        sums = np.dstack([lab * weight[..., None], weight])
        near, far = cv2.GaussianBlur(sums, (0, 0), NEAR), cv2.GaussianBlur(sums, (0, 0), FAR)
        known = near[..., 3] > 0.02
        both = near + FAR_WEIGHT * far
        field = (both[..., :3] / np.maximum(both[..., 3:], 1e-9)).astype(np.float32)
    return _filled(field, ground) if ground.any() else field


def _filled(field: NDArray[np.float32], known: NDArray[np.bool_]) -> NDArray[np.float32]:
    """What lies between is as even as it can be: means of what is known, coarse to fine, then relaxed."""
    import cv2

    sums = np.dstack([field * known[..., None], known]).astype(np.float32)
    levels = [sums]
    while min(levels[-1].shape[:2]) > 4:
        levels.append(cv2.pyrDown(levels[-1]).astype(np.float32, copy=False))
    filled = levels[-1][..., :3] / np.maximum(levels[-1][..., 3:], 1e-9)
    for own in reversed(levels[:-1]):
        up = cv2.pyrUp(filled, dstsize=(own.shape[1], own.shape[0]))
        weight = own[..., 3:]
        share = np.minimum(1.0, 4.0 * weight)
        filled = (share * own[..., :3] / np.maximum(weight, 1e-9) + (1 - share) * up).astype(np.float32)
        for _ in range(RELAXED):
            soft = cv2.blur(filled, (3, 3))
            filled = np.where(weight > 0.5, filled, soft)
    return np.ascontiguousarray(np.where(known[..., None], field, filled), np.float32)

def coded_surface(rgba: NDArray[np.uint8], mask: NDArray[np.bool_]) -> tuple[NDArray[np.float64], bool]:
    """The surface of the ground in coded colours with alpha, (6, 4), fitted to the flooded pixels, and whether it fits."""
    chosen = np.flatnonzero(mask)
    result = np.zeros((TERMS, 4))
    if not len(chosen):
        return result, True
    chosen = chosen[:: max(1, len(chosen) // 5000)]
    rows, columns = np.unravel_index(chosen, mask.shape)
    values = rgba[rows, columns, :3].astype(np.float64)
    terms = basis(rows, columns, *mask.shape)
    result[:, :3] = fit_surface(terms, values, 3.0)
    result[0, 3] = 255.0
    # Grain averages out over a neighbourhood of blocks; shade that the surface does not follow does not.
    away = (values - terms @ result[:, :3]).mean(axis=1)
    blocks = (rows * 8 // mask.shape[0]) * 8 + columns * 8 // mask.shape[1]
    counts = np.bincount(blocks, minlength=64)
    means = np.bincount(blocks, away, 64)[counts > 20] / counts[counts > 20]
    return result, not len(means) or float(np.abs(means).max()) < UNEVEN
