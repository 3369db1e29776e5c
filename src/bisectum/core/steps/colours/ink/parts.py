"""What of the dark spots on a page is writing, and what a speck: by size, by what lies beside it, and by the text lines."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.words import Words, words_of
from bisectum.core.raster.ink.rules import Rule

LEAST_DOT = 0.4  # stroke widths squared: what is smaller is no dot of a pen
LONGER = 3.0  # stroke widths, that a stroke is longer than
STROKE = 2.5  # stroke widths squared: what is larger is a stroke, and kept wherever it lies if it is long
NEAR = 3.0  # stroke widths about a stroke in which a dot belongs to it
SURE = 0.75  # of ink that a dot on a rule has somewhere
RIDGE, THIN, LONG = 0.6, 1.6, 3.0  # share of a spot on a rule, its height in stroke widths, and its length: what a rule left


@dataclass(frozen=True, slots=True)
class Parts:
    """numbers : (H, W) int32, of each connected spot, 0 for paper; kept : (N + 1,) bool, which of them are writing, the first
    never; boxes : (N + 1, 4), left, top, right, bottom, px; areas : (N + 1,), px."""

    numbers: NDArray[np.int32]
    kept: NDArray[np.bool_]
    boxes: NDArray[np.float64]
    areas: NDArray[np.int64]


def parts_of(
    amount: NDArray[np.float32], width: float, rules: list[Rule], on_rule: NDArray[np.bool_], written: bool = True
) -> Parts:
    """Tell writing from specks. amount : (H, W), 1 for ink; width: of the pen, px; on_rule : (H, W). written: it is writing; in a
    drawing all that a pen can make stays."""
    mask = amount > 0.5
    count, found, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    numbers = np.asarray(found, np.int32)
    left, top, wide, high, areas = stats.T.astype(np.int64)
    boxes = np.stack([left, top, left + wide, top + high], axis=1).astype(float)
    pen = width * width
    strokes = areas > (STROKE if written else LEAST_DOT) * pen
    if written:
        strokes &= np.maximum(wide, high) > LONGER * width  # a crumb may be large, but it is round
    ruled = np.bincount(numbers[on_rule], minlength=count) / np.maximum(areas, 1)
    level = (np.minimum(wide, high) < THIN * width) & (np.maximum(wide, high) > LONG * np.minimum(wide, high))
    peaks = np.zeros(count, np.float32)
    np.maximum.at(peaks, numbers[mask], amount[mask])
    crumbs = (ruled > RIDGE) & (level | ((areas < STROKE * pen) & (peaks < SURE)))
    strokes &= ~crumbs
    strokes[0] = False
    slopes = [rule.slope for rule in rules if rule.level]
    words = words_of(boxes[1:], float(np.median(slopes)) if slopes else None) if count > 1 else None
    in_line = np.zeros(count, bool)
    if words is not None:
        in_line[1:] = _in_lines(words, boxes[1:], strokes[1:])
    beside = _beside(numbers, strokes, round(NEAR * width))
    dots = (areas >= LEAST_DOT * pen) & (in_line | beside) & ~crumbs
    kept = strokes | dots
    kept[0] = False
    return Parts(numbers, kept, boxes, areas)


def _in_lines(words: Words, boxes: NDArray[np.float64], strokes: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Which parts lie on a line of at least two strokes, between these or right beside them. boxes : (N, 4)."""
    result = np.zeros(len(boxes), bool)
    for line in np.unique(words.lines[(words.lines >= 0) & strokes]):
        own = strokes & (words.lines == line)
        if own.sum() > 1:
            left, right = boxes[own, 0].min() - words.height, boxes[own, 2].max() + words.height
            result |= (words.lines == line) & (boxes[:, 0] < right) & (boxes[:, 2] > left)
    return result


def _beside(numbers: NDArray[np.int32], strokes: NDArray[np.bool_], reach: int) -> NDArray[np.bool_]:
    """Which spots lie within `reach` pixels of a stroke. Returns (N,) bool."""
    away = cv2.distanceTransform((~strokes[numbers]).astype(np.uint8), cv2.DIST_L2, 5)
    near = np.zeros(len(strokes), bool)
    near[np.unique(numbers[(away <= reach) & (numbers > 0)])] = True
    return near
