"""How much ink lies on each pixel: the share of its darkness on the way from paper to ink, less what a rule brings there.

The level half-way between rule and ink parts them, so a stroke that crosses a rule is whole without any mending.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import LUMA
from bisectum.core.raster.ink.rules import Rule, covered_by, find_rules, near_rules
from bisectum.core.raster.thresholds import otsu

FAINT = 0.1  # darkness of what may be ink
RULE_WIDTH = 5  # px about a rule's middle that say nothing of the ink's colour
MOST_RULE = 0.85  # of the ink's darkness: where a rule is as dark, only what is darker yet is ink


@dataclass(frozen=True, slots=True)
class Ink:
    """amount : (H, W) float32, 0 for paper and 1 for the page's usual ink. vector : (3,) float64, the darkness of that ink;
    rules: of the page; ruled : (H, W) float32, how dark they are at each pixel, 1 for ink."""

    amount: NDArray[np.float32]
    vector: NDArray[np.float64]
    rules: list[Rule]
    ruled: NDArray[np.float32]


def ink_of(dark: NDArray[np.float32], with_rules: bool = True) -> Ink | None:
    """The ink on a page, or None where nothing is darker than paper and rules. dark : (H, W, 3), as `darkness` gives it.

    with_rules: whether to look for rules, and to take them away.
    """
    mean = np.ascontiguousarray(dark.mean(axis=2))
    rules = find_rules(mean) if with_rules else []
    vector = _vector(dark, mean, ~near_rules(rules, mean.shape, RULE_WIDTH))
    if vector is None:
        return None
    # By light and dark alone: cameras and compression keep colours at half the size.
    amount = np.asarray(dark @ (LUMA / float(LUMA @ vector)).astype(np.float32), np.float32)
    ruled = np.minimum(covered_by(rules, amount), np.float32(MOST_RULE))
    return Ink(np.clip((amount - ruled) / (1.0 - ruled), 0.0, 1.0), vector, rules, ruled)


def _vector(
    dark: NDArray[np.float32], mean: NDArray[np.float32], beside: NDArray[np.bool_]
) -> NDArray[np.float64] | None:
    """The darkness of ink: the typical one of the middles of strokes."""
    core = cv2.erode(mean, np.ones((3, 3), np.uint8))
    drawn = beside & (mean > FAINT)
    if drawn.sum() < 12:
        return None
    level = max(FAINT, otsu(mean[drawn])) if float(np.ptp(mean[drawn])) > 0.05 else FAINT
    inner = beside & (core > level)
    if inner.sum() < 12:
        inner = beside & (mean >= np.quantile(mean[drawn], 0.8))
    chosen = np.median(dark[inner], axis=0).astype(float)
    return chosen if float(chosen @ chosen) > FAINT**2 else None


def stroke_width(mask: NDArray[np.bool_]) -> float:
    """The typical width of what is drawn, px: twice the distance from its middle to its edge, at ridges of that distance.
    mask : (H, W)."""
    away = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
    ridge = mask & (away >= cv2.dilate(away, np.ones((3, 3), np.uint8)) - 1e-6)
    return max(1.0, 2.0 * float(np.median(away[ridge])) - 1.0) if ridge.any() else 1.0
