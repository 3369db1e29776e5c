"""Marks of the brush, and the traces of strokes, as coverage of pixels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.placement import Placement
from bisectum.core.raster.strokes import stroke_coverage
from bisectum.core.steps.background.settings import Touch

FARTHEST = 100_000.0  # px


def trace_of(touch: Touch, places: Placement, shape: tuple[int, int], least_px: float = 0.5) -> NDArray[np.uint8]:
    """Coverage of a touch's line, 0 to 255. (H, W) uint8; empty where it lies beside the picture."""
    points = np.clip(places.to_px(np.array(touch.points)), -FARTHEST, FARTHEST)
    widths = np.maximum(least_px, touch.width * places.scale * _pressures(touch))
    return stroke_coverage(shape[0], shape[1], np.ascontiguousarray(points), widths)


def _pressures(touch: Touch) -> NDArray[np.float64]:
    if not touch.pressures:
        return np.ones(len(touch.points))
    return np.array(touch.pressures)


def brushed(shares: NDArray[np.uint8], marks: tuple[Touch, ...], places: Placement) -> NDArray[np.uint8]:
    """Shares of the subject, (H, W) uint8, with marks painted in their order."""
    result = shares.copy()
    for mark in marks:
        trace = trace_of(mark, places, (shares.shape[0], shares.shape[1]))
        if mark.kind == "clear":
            np.minimum(result, 255 - trace, out=result)
        else:
            np.maximum(result, trace, out=result)
    return result
