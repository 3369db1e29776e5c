"""What a look at few pixels tells of an outline: a place well inside it, how wide it is, and how wide where it is narrowest."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import flatten

LOOKED_AT_PX, MOST_PX = 48, 400  # along the longer side, at least and at most
FINE_MM = 0.25  # pixels need be no smaller
LEVELS, HALVINGS = 12, 5  # at which it is tried whether a piece falls apart; of the steps between them
PLAIN = 0.72  # of its box that a shape fills that has no narrow place worth telling
LASTS = 1.25  # times as deep as its neck is a part that counts


@dataclass(frozen=True, slots=True)
class Inside:
    """at: the place farthest from the outlines, mm; widest, least: how wide it is there, and where it is narrowest, mm."""

    at: tuple[float, float]
    widest: float
    least: float


def inside(segments: NDArray[np.float64]) -> Inside:
    """segments : (S, 4, 2), closed rings one after the other, even-odd.

    The least width is twice the depth at which what lies deeper first falls apart into parts that both go deeper still (a
    saddle of the distance from the outline); of what never falls apart it is the width.
    """
    deep, left, top, px = _depth(segments)
    row, column = np.unravel_index(int(deep.argmax()), deep.shape)
    most = float(deep.max())
    plain = (deep > 0).sum() > PLAIN * (deep.shape[0] - 2) * (deep.shape[1] - 2)
    levels = [] if plain else np.linspace(0, most / LASTS, LEVELS).tolist()
    apart = next((number for number, level in enumerate(levels) if number and _falls_apart(deep, level)), 0)
    low, least = (levels[apart - 1], levels[apart]) if apart else (most, most)
    for _ in range(HALVINGS if apart else 0):
        middle = (low + least) / 2
        low, least = (low, middle) if _falls_apart(deep, middle) else (middle, least)
    return Inside((float(left + (column - 1) * px), float(top + (row - 1) * px)), 2 * most * px, 2 * least * px)


def _falls_apart(deep: NDArray[np.float32], level: float) -> bool:
    """Whether what lies deeper than a level is several parts, two of which go deeper still."""
    count, names = cv2.connectedComponents((deep > level).astype(np.uint8), connectivity=8)
    if count < 3:
        return False
    peaks = np.zeros(count, np.float32)
    np.maximum.at(peaks, np.asarray(names, np.int64).ravel(), deep.ravel())
    return bool((peaks[1:] >= LASTS * level).sum() > 1)


def place_inside(segments: NDArray[np.float64]) -> tuple[float, float]:
    """The place farthest from the outlines of a shape. segments : (S, 4, 2), closed rings, even-odd."""
    deep, left, top, px = _depth(segments)
    row, column = np.unravel_index(int(deep.argmax()), deep.shape)
    return float(left + (column - 1) * px), float(top + (row - 1) * px)


def _depth(segments: NDArray[np.float64]) -> tuple[NDArray[np.float32], float, float, float]:
    """How far each pixel lies from the outlines, px; where pixel 1, 1 lies, mm; and the size of a pixel, mm."""
    (left, top), (right, bottom) = segments.min(axis=(0, 1)).tolist(), segments.max(axis=(0, 1)).tolist()
    extent = max(right - left, bottom - top, 1e-6)
    px = max(extent / MOST_PX, min(extent / LOOKED_AT_PX, FINE_MM))
    size = int(np.ceil((bottom - top) / px)) + 3, int(np.ceil((right - left) / px)) + 3
    mask = np.zeros(size, np.uint8)
    starts = np.flatnonzero(np.append(True, (segments[1:, 0] != segments[:-1, 3]).any(axis=1)))
    rings = [np.round(((flatten(own, px / 4) - (left, top)) / px + 1) * 16).astype(np.int32)
             for own in np.split(segments, starts[1:])]
    cv2.fillPoly(mask, rings, 1, cv2.LINE_8, 4)
    deep = np.asarray(cv2.distanceTransform(mask, cv2.DIST_L2, cv2.DIST_MASK_PRECISE), np.float32)
    # What is filled takes in the pixels that the outline runs through.
    return np.maximum(deep - np.float32(1), np.float32(0)), left, top, px
