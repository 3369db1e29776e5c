"""Light where it is needed: local balance, and what a person has painted: darker, lighter, finer, calmer, places that matter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.placement import Placement
from bisectum.core.raster.strokes import stroke_coverage
from bisectum.core.steps.colours.photo.working import Working
from bisectum.core.steps.colours.settings import LightMark

BALANCED = 0.6  # of what is lighter or darker all around that is taken off
SOFT_EDGE = 0.25  # of a mark's width
OWN_CONTRAST = 1.35  # of a place that matters
UPPER, MIDDLE = 0.42, 0.25  # where the middle of a subject is, from its top, and the deviation of what is about it
FARTHEST = 100_000.0  # px


@dataclass(frozen=True, slots=True)
class Lit:
    """light : (H, W) float32, L*; colour : (H, W, 3) float32, DIN99o; detail : (H, W) float32, -1 where all is to be calm to 1
    where it is to be fine; None where nothing was painted."""

    light: NDArray[np.float32]
    colour: NDArray[np.float32]
    detail: NDArray[np.float32] | None


def lit(
    working: Working, balance_mm: float, marks: Sequence[LightMark], places: Placement,
    features: Sequence[NDArray[np.float64]] = (),
) -> Lit:
    """A photograph's light as it is to be worked with. places: of marks on the working picture; features: what matters in faces,
    each (N, 2) px around it; it is kept fine."""
    light, detail = working.light, None
    if balance_mm > 0:
        around = cv2.GaussianBlur(light, (0, 0), working.px(balance_mm / 2, 1.0))
        inside = working.inside
        middle = float(light[inside].mean()) if inside.any() else 50.0
        light = light - np.float32(BALANCED) * (around - np.float32(middle))
    for feature in features:
        detail = np.maximum(0 if detail is None else detail, _within(feature, light.shape))
    for mark in marks:
        trace = _trace(mark, places, light.shape[0], light.shape[1])
        if mark.kind in ("darker", "lighter"):
            light = light + trace * np.float32(mark.amount if mark.kind == "lighter" else -mark.amount)
            continue
        detail = np.zeros_like(light) if detail is None else detail
        detail = np.maximum(detail, trace) if mark.kind != "calmer" else np.minimum(detail, -trace)
        if mark.kind in ("matters", "eye") and trace.sum() > 0:
            middle = float((light * trace).sum() / trace.sum())
            light = light + trace * np.float32(OWN_CONTRAST - 1) * (light - np.float32(middle))
    if light is working.light:
        return Lit(light, working.colour, detail)
    light = np.clip(light, 0, 100).astype(np.float32)
    colour = working.colour.copy()
    colour[..., 0] = np.float32(303.67) * np.log(1 + np.float32(0.0039) * light)
    return Lit(light, colour, detail)


def middle_of(inside: NDArray[np.bool_]) -> NDArray[np.float32]:
    """1 in the upper middle of what is left of a picture, falling off all around. inside : (H, W) bool. Returns (H, W)."""
    rows, columns = np.flatnonzero(inside.any(axis=1)), np.flatnonzero(inside.any(axis=0))
    if not len(rows):
        return np.zeros(inside.shape, np.float32)
    height, width = rows[-1] - rows[0] + 1, columns[-1] - columns[0] + 1
    y = (np.arange(inside.shape[0]) - rows[0] - UPPER * height) / (MIDDLE * height)
    x = (np.arange(inside.shape[1]) - columns[0] - 0.5 * width) / (MIDDLE * width)
    return np.exp(-0.5 * (y[:, None] ** 2 + x**2)).astype(np.float32)


def _trace(mark: LightMark, places: Placement, height: int, width: int) -> NDArray[np.float32]:
    """How much of a mark lies on each pixel, with a soft edge. Returns (height, width) float32, 0..1."""
    points = np.clip(places.to_px(np.array(mark.points)), -FARTHEST, FARTHEST)
    if mark.kind == "matters":
        return _within(points, (height, width))
    across = mark.width * places.scale
    trace = stroke_coverage(height, width, np.ascontiguousarray(points), np.full(len(points), max(0.5, across)))
    return _softened(trace, SOFT_EDGE * across)


def _within(ring: NDArray[np.float64], shape: tuple[int, ...]) -> NDArray[np.float32]:
    """What was drawn round, with a soft edge. ring : (N, 2) px. Returns (H, W) float32, 0..1."""
    trace = np.zeros(shape, np.uint8)
    cv2.fillPoly(trace, [np.rint(ring).astype(np.int32)], 255)
    return _softened(trace, SOFT_EDGE * float(np.sqrt(max(1.0, trace.sum() / 255))))


def _softened(trace: NDArray[np.uint8], soft: float) -> NDArray[np.float32]:
    """soft: how wide the edge becomes, px."""
    return np.asarray(cv2.GaussianBlur(trace.astype(np.float32) / 255, (0, 0), max(0.5, soft / 2)), np.float32)
