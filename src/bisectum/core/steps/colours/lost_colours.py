"""Small colours that compression left no flat place of: what is no mix of the colours about it.

JPEG keeps light and dark by the pixel but colour by areas of 16 pixels and smears both beside edges, so a patch of a few
pixels has no two that are alike. It is told by what it is not: its light lies beyond that of the known colours nearby, or
its hue off every line between two of them, by more than ringing does.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import YCC_OF_RGB
from bisectum.core.steps.colours.modes import is_mix

MOST_PX = 600_000  # in a larger picture a small colour has flat places
NEAR = 20.0  # levels within which a pixel is a known colour
AROUND = 9  # px across of what a known colour may reach into
RINGING, SMEARED = 26.0, 20.0  # levels of light and of hue that compression may be off
LEAST_PATCH, LEAST = 6, 28  # px of one patch; px right within patches that one colour must have
LEAST_OF_MIX, COMPACT = 40, 0.5  # the same of what may be a mix, and which part of its patches that must be
WITHIN = 8  # of nine pixels that are of the patch about one within it
ALIKE = 34.0  # levels between the patches of one colour
NEW = 40.0  # levels from every known colour


def missed_colours(
    rgba: NDArray[np.uint8], ground: NDArray[np.bool_], known: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """rgba : (H, W, 4) uint8; ground : (H, W) bool; known : (K, 3) coded, the ground's own colour among them.

    Returns colours : (M, 3) coded and of how many pixels each is within patches : (M,).
    """
    none = np.empty((0, 3)), np.empty(0)
    if ground.size > MOST_PX or not len(known):
        return none
    values = rgba[..., :3].astype(np.float32) @ YCC_OF_RGB.T.astype(np.float32)
    strange = _unexplained(values, rgba, known) & ~ground & (rgba[..., 3] > 250)
    count, patches, facts, _ = cv2.connectedComponentsWithStats(strange.astype(np.uint8), connectivity=8)
    colours: list[NDArray[np.float64]] = []
    sizes: list[tuple[int, int]] = []
    inner = cv2.boxFilter(strange.astype(np.float32), -1, (3, 3), normalize=False, borderType=cv2.BORDER_CONSTANT)
    for number in range(1, count):
        x, y, width, height, size = facts[number]
        if size < LEAST_PATCH:
            continue
        there = slice(y, y + height), slice(x, x + width)
        own = patches[there] == number
        depth = inner[there][own]
        colours.append(np.median(rgba[there][own][depth >= np.quantile(depth, 0.6), :3], axis=0))
        sizes.append((int((depth >= WITHIN).sum()), int(size)))
    return _joined(colours, sizes, known) if colours else none


def _unexplained(values: NDArray[np.float32], rgba: NDArray[np.uint8], known: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Pixels that are no mix of two known colours about them. values : (H, W, 3) light and hues."""
    square = np.ones((AROUND, AROUND), np.uint8)
    rgb = rgba[..., :3].astype(np.int16)
    near = [cv2.dilate((np.abs(rgb - np.rint(own)).max(axis=2) <= NEAR).astype(np.uint8), square) > 0 for own in known]
    ends = known @ YCC_OF_RGB.T
    strange = np.ones(rgba.shape[:2], bool)
    for first in range(len(known)):
        for second in range(first + 1):
            y, x = np.nonzero(near[first] & near[second] & strange)
            if not len(y):
                continue
            a, along = ends[second], ends[first] - ends[second]
            own = values[y, x] - a
            light = (own[:, 0] >= min(0.0, along[0]) - RINGING) & (own[:, 0] <= max(0.0, along[0]) + RINGING)
            share = np.clip(own[:, 1:] @ along[1:] / max(float(along[1:] @ along[1:]), 1e-9), 0.0, 1.0)
            hue = np.hypot(*(own[:, 1:] - share[:, None] * along[1:]).T) <= SMEARED
            strange[y, x] = ~(light & hue)
    return strange


def _joined(
    colours: list[NDArray[np.float64]], sizes: list[tuple[int, int]], known: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Patches of one colour taken together, the largest giving it. sizes: of each patch the px within it, and all."""
    found, weights = list[NDArray[np.float64]](), list[NDArray[np.float64]]()
    for number in sorted(range(len(sizes)), key=lambda number: -sizes[number][0]):
        away = [float(np.abs(colours[number] - other).max()) for other in found]
        if away and min(away) <= ALIKE:
            weights[int(np.argmin(away))] += sizes[number]
        elif np.abs(known - colours[number]).max(axis=1).min() > NEW:
            found.append(colours[number])
            weights.append(np.array(sizes[number], float))
    keep = []
    for number, (within, whole) in enumerate(weights):
        mixed = is_mix(found[number], known)
        if within >= (LEAST_OF_MIX if mixed else LEAST) and (not mixed or within >= COMPACT * whole):
            keep.append(number)
    return np.array(found).reshape(-1, 3)[keep], np.array(weights).reshape(-1, 2)[keep, 0]
