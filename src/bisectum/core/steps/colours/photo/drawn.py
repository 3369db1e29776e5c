"""A photograph as a drawing in one dark tone: lines on the dark side of edges, with the darkest parts filled.

Lines: differences of Gaussians of lightness, averaged along the edges (H. Winnemöller, J. E. Kyprianidis, S. C. Olsen, "XDoG:
An eXtended Difference-of-Gaussians Compendium", 2012).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.curvature_flow import curvature_flow
from bisectum.core.raster.thresholds import best_by_error
from bisectum.core.steps.colours.photo.certainty import Certainty
from bisectum.core.steps.colours.photo.flow import along_flow, edge_flow
from bisectum.core.steps.colours.photo.working import Working

RATIO, TAU = 1.6, 0.96  # of both Gaussians: their deviations, and how much of the wider one is taken off
TENSOR, ALONG = 1.8, 2.7  # deviations of the flow and along it, in that of the lines
CALM = 0.1  # of the square of that deviation: curvature flow at the end
SOFT = 0.15  # how roundly lines and filled parts run into each other
SHARP = 2.5  # deviations of the lines: scale of the edges that have one
BESIDE = 1.6  # deviations of the lines, that they lie beside a certain edge at most
DARKEST_OF = 4  # tones, the darkest of which is filled


def dark_field(
    working: Working, light: NDArray[np.float32], calm: NDArray[np.float32], certain: Certainty, deviation_mm: float,
    ink_share: float, progress: Progress = SILENT,
) -> NDArray[np.float32]:
    """How far each place is on the dark side: above 0 is ink, -1 to 1.

    light : (H, W), the lightness whose lines are drawn; calm : (H, W), the same without texture, whose darkest parts are filled;
    certain: where edges stand out, beside which alone lines are drawn; deviation_mm: how fine they are; ink_share: of what is
    not filled that lines take. Returns (H, W) float32. Raises: Cancelled.
    """
    inside = working.inside
    sigma = working.px(deviation_mm, 0.8)
    fine, wide = cv2.GaussianBlur(light, (0, 0), sigma), cv2.GaussianBlur(light, (0, 0), RATIO * sigma)
    progress.raise_if_cancelled()
    flow = edge_flow(light, TENSOR * sigma)
    response = along_flow(fine - np.float32(TAU) * wide, flow, ALONG * sigma, np.ones_like(inside))
    # What is filled has no lines; those of the rest are counted without it, so that a dark coat takes no face away.
    dark = _normed(calm, inside, None)
    rest = inside & (dark <= 0)
    lines = _normed(response, rest if rest.any() else inside, ink_share)
    reach = max(1, round(BESIDE * sigma))
    beside = certain.beside_sharp(SHARP * deviation_mm, reach)  # the edge of a shade has no line
    near = cv2.GaussianBlur(beside.astype(np.float32), (0, 0), max(0.6, reach / 2))
    field = _smooth_max(np.clip(lines - 2 * (1 - near), -1, 1).astype(np.float32), dark)
    return curvature_flow(field, CALM * sigma**2, progress)


def _normed(values: NDArray[np.float32], inside: NDArray[np.bool_], share: float | None) -> NDArray[np.float32]:
    """Values about a threshold, 1 far below it and -1 far above. share: of the subject below it; None for the darkest tone."""
    own = values[inside]
    if share is not None:
        level = float(np.quantile(own, share))
    else:
        low, high = float(own.min()), float(own.max())
        counts = np.histogram(own, 256, (low, max(high, low + 1e-3)))[0].astype(float)
        starts = best_by_error(counts, DARKEST_OF)
        level = low + (high - low) * (float(starts[0]) if len(starts) else 0.0) / 256
    spread = max(1e-3, float(own.std()) * 0.5)
    return np.clip((np.float32(level) - values) / np.float32(spread), -1, 1).astype(np.float32)


def _smooth_max(one: NDArray[np.float32], other: NDArray[np.float32]) -> NDArray[np.float32]:
    """The larger of both, rounded where they are equal."""
    apart = one - other
    return np.asarray(0.5 * (one + other + np.sqrt(apart * apart + np.float32(SOFT**2))) - 0.5 * SOFT, np.float32)
