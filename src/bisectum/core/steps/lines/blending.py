"""What edges are placed by: the picture, what its values stand for, and the labels' pure colours.

A program that blends in linear light makes the pixels of a half-covered edge lighter than one that blends coded values,
and an edge placed by the wrong rule is off by up to 0.2 px. Along a straight edge the shares of successive pixels change
by even steps, in the space they were blended in only: that tells which it was.

Lossy compression keeps light and dark finely but colour coarsely, so there edges are placed by light and dark first. It
also rings beside edges, and what rings beyond white or black is cut off: the mean beside edges is another than farther off.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import LINEAR_OF_SRGB, LUMA

CHROMA_KEPT = 0.25  # part of the colour differences that is kept in a compressed picture
CLEAR_OF_EDGE, BESIDE_EDGE = 3, 9  # px across of an area about a pixel that is of one label: from, and below
MOST_SHIFTED = 12.0  # levels; more is no ringing
PURE = 6.0  # levels
APART = 60.0  # levels between two colours that tell of blending
FEWEST = 12  # runs of pixels that can tell
CLEARLY = 0.8  # part of the coded unevenness that the linear one must stay under
BANDS, BAND = 40, 8  # bands of rows that are looked at, and the rows in each


@dataclass(frozen=True, slots=True)
class Blending:
    """image : (H, W, 4) uint8, premultiplied. light : (256,) float64, what a value of it stands for, 0 to 255.

    surfaces : (N, 6, 4) float64, the labels' colours in terms of `light`.
    """

    image: NDArray[np.uint8]
    light: NDArray[np.float64]
    surfaces: NDArray[np.float64]


def blending_of(image: NDArray[np.uint8], surfaces: NDArray[np.float64], labels: NDArray[np.uint8], compressed: bool) -> Blending:
    """image, surfaces: coded values; labels : (H, W). compressed: see LabelMap."""
    coded = np.arange(256, dtype=np.float64)
    if compressed:
        mixing = CHROMA_KEPT * np.eye(3) + (1 - CHROMA_KEPT) * np.outer(np.ones(3), LUMA)
        image, surfaces = image.copy(), surfaces.copy()
        image[..., :3] = np.clip(np.rint(image[..., :3].astype(np.float32) @ mixing.T.astype(np.float32)), 0, 255)
        surfaces[:, :, :3] = surfaces[:, :, :3] @ mixing.T
        surfaces[:, 0, :3] += shifts_beside_edges(image, surfaces[:, 0, :3], labels)
        return Blending(image, coded, surfaces)
    if not blended_in_linear_light(image, labels):
        return Blending(image, coded, surfaces)
    light = 255.0 * LINEAR_OF_SRGB
    lit = surfaces.copy()
    lit[:, 1:] = 0.0  # a shaded background is taken at its middle colour, and corrected where pixels beside an edge agree
    known = surfaces[:, 0] >= 0
    lit[:, 0, :3] = np.where(known[:, :3], np.interp(surfaces[:, 0, :3], coded, light), surfaces[:, 0, :3])
    return Blending(image, light, lit)


def shifts_beside_edges(
    image: NDArray[np.uint8], colours: NDArray[np.float64], labels: NDArray[np.uint8]
) -> NDArray[np.float64]:
    """How far the mean of each label's pixels beside its edges, but clear of them, is off its colour.

    image : (H, W, 4); colours : (N, 3) levels; labels : (H, W). Returns (N, 3) levels, 0 where that cannot be told.
    """
    beside = _of_one_label(labels, CLEAR_OF_EDGE) & ~_of_one_label(labels, BESIDE_EDGE)
    own, values = labels[beside], image[beside]
    counts = np.bincount(own, minlength=len(colours))
    sums = np.stack([np.bincount(own, values[:, c], minlength=len(colours)) for c in range(3)], axis=1)
    shifts = sums / np.maximum(counts, 1)[:, None] - colours
    shifts[(counts == 0) | (np.abs(shifts).max(axis=1) > MOST_SHIFTED)] = 0.0
    return np.asarray(shifts)


def _of_one_label(labels: NDArray[np.uint8], across: int) -> NDArray[np.bool_]:
    square = np.ones((across, across), np.uint8)
    return np.asarray(cv2.dilate(labels, square) == cv2.erode(labels, square))


def blended_in_linear_light(image: NDArray[np.uint8], labels: NDArray[np.uint8]) -> bool:
    """Whether the pixels on edges were blended in linear light; False where that cannot be told.

    image : (H, W, 4) uint8, premultiplied; labels : (H, W) uint8.
    """
    found = [fringe_runs(image, labels), fringe_runs(image.transpose(1, 0, 2), labels.T)]
    runs = np.concatenate(found)  # (R, 3, 3, 3): place along the edge; before, fringe, after; colour
    if len(runs) < FEWEST:
        return False
    return unevenness(255.0 * LINEAR_OF_SRGB[runs.astype(np.uint8)]) < CLEARLY * unevenness(runs)


def unevenness(runs: NDArray[np.float64]) -> float:
    """How much the shares along edges change their step, relative to the step; least in the space of the blending.

    runs : (R, 3, 3, 3), see fringe_runs.
    """
    along = runs[:, :, 2] - runs[:, :, 0]
    shares = ((runs[:, :, 1] - runs[:, :, 0]) * along).sum(axis=2) / np.maximum((along * along).sum(axis=2), 1e-9)
    second = np.abs(shares[:, 0] - 2 * shares[:, 1] + shares[:, 2]).sum()
    return float(second / max(1e-9, np.abs(shares[:, 2] - shares[:, 0]).sum()))


def fringe_runs(image: NDArray[np.uint8], labels: NDArray[np.uint8]) -> NDArray[np.float64]:
    """Three opaque pixels one below the other that each stand alone between the same two pure colours of their rows.

    Returns (R, 3, 3, 3) float64: pixel; colour before it, its own, the one after it; red,
    green, blue.
    """
    height, width = labels.shape
    if width < 7 or height < 3:
        return np.empty((0, 3, 3, 3))
    every = max(1, height // (BANDS * BAND))
    rows = np.concatenate([np.arange(y, min(height, y + BAND)) for y in range(0, height, every * BAND)])
    own = labels[rows]
    y, x = np.nonzero(own[:, 3:-3] != own[:, 4:-2])
    y, x = rows[y], x + 3
    places = np.concatenate([np.stack([y, x], axis=1), np.stack([y, x + 1], axis=1)])  # it may carry either label
    values = np.stack([image[places[:, 0], np.minimum(places[:, 1] + k, width - 1)] for k in (-2, -1, 0, 1, 2)], axis=1)
    values = values.astype(np.float64)
    far, before, here, after, beyond = (values[:, k, :3] for k in range(5))
    pure = (np.abs(far - before).max(axis=1) <= PURE) & (np.abs(beyond - after).max(axis=1) <= PURE)
    pure &= (np.abs(after - before).max(axis=1) >= APART) & (values[..., 3].min(axis=1) == 255)
    pure &= (np.abs(here - before).max(axis=1) > PURE) & (np.abs(here - after).max(axis=1) > PURE)
    places, triples = places[pure], values[pure, 1:4, :3]
    order = np.lexsort((places[:, 0], places[:, 1]))
    places, triples = places[order], triples[order]
    if len(places) < 3:
        return np.empty((0, 3, 3, 3))
    joined = (np.diff(places[:, 0]) == 1) & (np.diff(places[:, 1]) == 0)
    joined &= np.abs(np.diff(triples[:, (0, 2)], axis=0)).max(axis=(1, 2)) <= PURE
    first = np.flatnonzero(joined[:-1] & joined[1:])
    return np.stack([triples[first], triples[first + 1], triples[first + 2]], axis=1)
