"""Thinning of a mask to lines one pixel wide: T. Zhang, C. Suen, "A Fast Parallel Algorithm for Thinning Digital Patterns", 1984.

Steps of a staircase that it leaves are taken out afterwards, so that each pixel of a line has two neighbours.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel


def _lookup() -> tuple[NDArray[np.bool_], NDArray[np.bool_], NDArray[np.bool_]]:
    """By the eight neighbours as bits, clockwise from above: what each of the two passes takes, and what is a mere step."""
    first, second, step = np.zeros(256, bool), np.zeros(256, bool), np.zeros(256, bool)
    for code in range(256):
        p = [(code >> k) & 1 for k in range(8)]  # above, above right, right, …
        turns = sum(p[k] == 0 and p[(k + 1) % 8] == 1 for k in range(8))
        apt = 2 <= sum(p) <= 6 and turns == 1
        first[code] = apt and p[0] * p[2] * p[4] == 0 and p[2] * p[4] * p[6] == 0
        second[code] = apt and p[0] * p[2] * p[6] == 0 and p[0] * p[4] * p[6] == 0
        for k in (0, 2, 4, 6):
            # Two neighbours beside each other at a right angle, nothing across from them: they touch by their corners.
            step[code] |= bool(p[k] and p[(k + 2) % 8] and not p[(k + 4) % 8] and not p[(k + 5) % 8] and not p[(k + 6) % 8])
    return first, second, step


_FIRST, _SECOND, _STEP = _lookup()


@kernel("i8(u1[:,:]!, b1[:], b1[:], b1[:])")
def _thin(mask, first, second, step):  # type: ignore[no-untyped-def]
    """mask : (H, W), 0 along its rim. Returns how many passes there were."""
    height, width = mask.shape
    places = np.empty((height * width, 2), np.int32)
    count = 0
    for y in range(1, height - 1):
        for x in range(1, width - 1):
            if mask[y, x]:
                places[count, 0], places[count, 1] = y, x
                count += 1
    gone = np.empty(count, np.int64)
    passes, quiet, phase = 0, 0, 0
    while quiet < 2:
        taken = 0
        for i in range(count):
            y, x = places[i, 0], places[i, 1]
            code = (mask[y - 1, x] | mask[y - 1, x + 1] << 1 | mask[y, x + 1] << 2 | mask[y + 1, x + 1] << 3 | mask[y + 1, x] << 4
                    | mask[y + 1, x - 1] << 5 | mask[y, x - 1] << 6 | mask[y - 1, x - 1] << 7)
            if first[code] if phase == 0 else second[code]:
                gone[taken] = i
                taken += 1
        for k in range(taken):
            mask[places[gone[k], 0], places[gone[k], 1]] = 0
        left = 0
        for i in range(count):
            if mask[places[i, 0], places[i, 1]]:
                places[left, 0], places[left, 1] = places[i, 0], places[i, 1]
                left += 1
        count = left
        quiet = quiet + 1 if taken == 0 else 0
        phase = 1 - phase
        passes += 1
    for i in range(count):
        y, x = places[i, 0], places[i, 1]
        code = (mask[y - 1, x] | mask[y - 1, x + 1] << 1 | mask[y, x + 1] << 2 | mask[y + 1, x + 1] << 3 | mask[y + 1, x] << 4
                | mask[y + 1, x - 1] << 5 | mask[y, x - 1] << 6 | mask[y - 1, x - 1] << 7)
        if step[code]:
            mask[y, x] = 0
    return passes


def thinned(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """mask : (H, W). Returns (H, W) bool, with as many parts and holes (parts joined by sides or corners)."""
    padded = np.pad(mask.astype(np.uint8), 1)
    _thin(padded, _FIRST, _SECOND, _STEP)
    thin = np.asarray(padded[1:-1, 1:-1] > 0)
    # Squares of two pixels vanish; one pixel of each stands for them.
    _, numbers = cv2.connectedComponents(mask.astype(np.uint8), connectivity=8)
    lost = np.setdiff1d(np.unique(numbers), numbers[thin])[1:]
    first = np.unique(numbers, return_index=True)
    thin.reshape(-1)[first[1][np.isin(first[0], lost)]] = True
    return thin


def pen_width(amount: NDArray[np.float32]) -> float:
    """The usual width of a stroke, px: the ink by the length of its skeleton. amount : (H, W), 1 for ink."""
    thin = thinned(amount > 0.5)
    # A step to a corner of a pixel is longer than one to its side.
    slanting = int((thin[1:, 1:] & thin[:-1, :-1]).sum() + (thin[1:, :-1] & thin[:-1, 1:]).sum())
    long = int(thin.sum()) + (np.sqrt(2.0) - 1.0) * slanting
    return max(1.0, float(amount.sum()) / max(long, 1.0))
