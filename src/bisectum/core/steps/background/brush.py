"""Marks of the brush, and the traces of strokes, as coverage of pixels."""

from __future__ import annotations

import hashlib
from collections.abc import MutableMapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.placement import Placement
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.strokes import stroke_coverage
from bisectum.core.steps.background.settings import Touch

FARTHEST = 100_000.0  # px
AT_ONCE = 50  # marks painted between two looks at the progress


def trace_of(touch: Touch, places: Placement, shape: tuple[int, int], least_px: float = 0.5) -> NDArray[np.uint8]:
    """Coverage of a touch's line, 0 to 255. (H, W) uint8; empty where it lies beside the picture."""
    return stroke_coverage(shape[0], shape[1], *_line(touch, places, least_px))


def _line(touch: Touch, places: Placement, least_px: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """A touch's points, px, and its width at each of them."""
    points = np.clip(places.to_px(touch.places), -FARTHEST, FARTHEST)
    pressures = np.array(touch.pressures) if touch.pressures else np.ones(len(touch.points))
    return np.ascontiguousarray(points), np.maximum(least_px, touch.width * places.scale * pressures)


def brushed(
    shares: NDArray[np.uint8], marks: tuple[Touch, ...], places: Placement, memory: MutableMapping[str, Any] | None = None,
    key: str = "", progress: Progress = SILENT,
) -> NDArray[np.uint8]:
    """Shares of the subject, (H, W) uint8, with marks painted in their order, each into its own box.

    memory: keeps what was painted last for the same `key`, which names the shares; marks behind those are painted onto it.
    Raises: Cancelled.
    """
    *before, last = marks
    result, done = _painted_before(shares, tuple(before), memory, f"brushed/{key}")
    for number, mark in enumerate(before[done:]):
        if number % AT_ONCE == 0:
            progress.raise_if_cancelled()
        _paint(result, mark, places)
    if memory is not None:  # without the last one, which may yet be another one
        memory[f"brushed/{key}"] = len(before), _digest(tuple(before)), result.copy()
    _paint(result, last, places)
    return result


def _painted_before(
    shares: NDArray[np.uint8], marks: tuple[Touch, ...], memory: MutableMapping[str, Any] | None, name: str
) -> tuple[NDArray[np.uint8], int]:
    """What to paint on, and how many marks are on it already."""
    if memory is not None and name in memory:
        count, digest, painted = memory[name]
        if count <= len(marks) and digest == _digest(marks[:count]):
            return painted.copy(), count
    return shares.copy(), 0


def _digest(marks: tuple[Touch, ...]) -> str:
    return hashlib.sha256("".join(mark.digest for mark in marks).encode()).hexdigest()


def _paint(result: NDArray[np.uint8], mark: Touch, places: Placement) -> None:
    """One mark into the box around it."""
    points, widths = _line(mark, places, 0.5)
    reach = float(widths.max()) / 2 + 2.0
    height, width = result.shape
    left, top = (max(0, int(value)) for value in np.floor(points.min(axis=0) - reach))
    right, bottom = (min(most, int(value) + 1) for most, value in zip((width, height), points.max(axis=0) + reach, strict=True))
    if left >= right or top >= bottom:
        return
    box = result[top:bottom, left:right]
    trace = stroke_coverage(bottom - top, right - left, np.ascontiguousarray(points - (left, top)), widths)
    if mark.kind == "clear":
        np.minimum(box, 255 - trace, out=box)
    else:
        np.maximum(box, trace, out=box)
