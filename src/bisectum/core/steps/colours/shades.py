"""Shading in flat art: areas whose colour changes softly are cut into a few even steps.

An area is what hangs together without a jump from pixel to pixel. Where its colour travels far all the same, it is shaded;
it is cut at even distances along the direction in which its colours vary most, softened within it, so that grain does
not fray the steps.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import coded_of_oklab, oklab
from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.forest import join, root

JUMP = 7  # levels between neighbours that end an area
TRAVELS = 0.07  # OKLab from end to end that make an area shaded
LEAST_PX = 150
SOFT_PX = 2.0
INSIDE = 0.02  # of an area's pixels on either end that do not count for where it ends
MOST_AREAS = 300
MOST_COLOURS = 60
MOST_SAMPLES = 4000
LIKE = 0.03  # OKLab: steps of two areas nearer than this are one colour


@dataclass(frozen=True, slots=True)
class Shades:
    """mask : (H, W) bool, the shaded areas; labels : (H, W) uint8, i + 1 is colours[i]; colours : (N, 3) uint8."""

    mask: NDArray[np.bool_]
    labels: NDArray[np.uint8]
    colours: NDArray[np.uint8]

    def put_on(self, labels: NDArray[np.uint8], numbers: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """Labels with the steps on them; a fringe pixel that went to any step goes to the one beside it.

        labels : (H, W); numbers : (N,) the label of each step.
        """
        import cv2

        result = labels.copy()
        result[self.mask] = numbers[self.labels[self.mask].astype(np.intp) - 1]
        stray = np.isin(labels, numbers) & ~self.mask
        if stray.any():
            _, nearest = cv2.distanceTransformWithLabels((~self.mask).astype(np.uint8), cv2.DIST_L2, 5,
                                                         labelType=cv2.DIST_LABEL_PIXEL)
            values = np.zeros(int(nearest.max()) + 1, np.uint8)
            values[nearest[self.mask]] = result[self.mask]
            result[stray] = values[nearest[stray]]
        return result


@kernel("i4[:,:](u1[:,:,:], b1[:,:], i8)")
def soft_areas(rgba, skip, jump):  # type: ignore[no-untyped-def]
    """Areas that hang together without a jump. rgba : (H, W, 4); skip : (H, W). Returns (H, W) int32, -1 where skipped."""
    height, width = skip.shape
    parents = np.arange(height * width, dtype=np.int32)
    for y in range(height):
        for x in range(width):
            if skip[y, x]:
                continue
            for k in range(2):
                row, column = y - (k == 0), x - (k == 1)
                if row < 0 or column < 0 or skip[row, column]:
                    continue
                greatest = np.int64(0)
                for c in range(3):
                    greatest = max(greatest, abs(np.int64(rgba[y, x, c]) - np.int64(rgba[row, column, c])))
                if greatest <= jump:
                    join(parents, np.int32(row * width + column), np.int32(y * width + x))
    result = np.full((height, width), np.int32(-1))
    names = np.full(height * width, np.int32(-1))
    used = 0
    for y in range(height):
        for x in range(width):
            if not skip[y, x]:
                top = root(parents, np.int32(y * width + x))
                if names[top] < 0:
                    names[top] = used
                    used += 1
                result[y, x] = names[top]
    return result


def find_shades(rgba: NDArray[np.uint8], skip: NDArray[np.bool_], steps: int) -> Shades:
    """Cut every shaded area into `steps`. rgba : (H, W, 4) uint8; skip : (H, W) bool, the background."""
    areas = soft_areas(rgba, skip, JUMP).ravel()
    sizes = np.bincount(areas[areas >= 0]) if (areas >= 0).any() else np.zeros(0, np.int64)
    large = np.argsort(-sizes, kind="stable")[:MOST_AREAS]
    large = large[sizes[large] >= LEAST_PX]
    pixels = rgba.reshape(-1, 4)
    labels = np.zeros(areas.shape, np.uint8)
    colours: list[NDArray[np.float64]] = []
    members = np.flatnonzero(np.isin(areas, large))
    members = members[np.argsort(areas[members], kind="stable")]
    bounds = np.searchsorted(areas[members], np.stack([large, large + 1]))
    for first, last in bounds.T.tolist():
        own = members[first:last]
        samples = oklab(pixels[own[:: max(1, len(own) // MOST_SAMPLES)], :3])
        middle = samples.mean(axis=0)
        way = np.linalg.svd(samples - middle, full_matrices=False)[2][0]
        low, high = np.quantile((samples - middle) @ way, (INSIDE, 1 - INSIDE))
        if high - low < TRAVELS:
            continue
        along = _softened((oklab(pixels[own, :3]) - middle) @ way, own, skip.shape)
        place = np.clip((along - low) / (high - low) * steps, 0, steps - 1e-6).astype(np.int64)
        numbers = [_number(colours, middle + way * (low + (step + 0.5) * (high - low) / steps)) for step in range(steps)]
        labels[own] = np.array(numbers, np.uint8)[place]
    return Shades((labels > 0).reshape(skip.shape), labels.reshape(skip.shape),
                  coded_of_oklab(np.array(colours).reshape(-1, 3)))


def _softened(values: NDArray[np.float64], own: NDArray[np.intp], shape: tuple[int, ...]) -> NDArray[np.float64]:
    """Values of an area's pixels blurred with each other, and with nothing beyond it. values, own : (N,)."""
    import cv2

    rows, columns = np.unravel_index(own, shape)
    top, left = rows.min(), columns.min()
    box = np.zeros((int(rows.max() - top) + 1, int(columns.max() - left) + 1, 2), np.float32)
    box[rows - top, columns - left, 0] = values
    box[rows - top, columns - left, 1] = 1.0
    blurred = cv2.GaussianBlur(box, (0, 0), SOFT_PX, borderType=cv2.BORDER_CONSTANT)[rows - top, columns - left]
    return np.asarray(blurred[:, 0] / np.maximum(blurred[:, 1], 1e-6), np.float64)


def _number(colours: list[NDArray[np.float64]], colour: NDArray[np.float64]) -> int:
    """The number of a colour like this one, which is added where there is none."""
    for number, known in enumerate(colours, 1):
        if float(np.linalg.norm(known - colour)) < LIKE or number >= MOST_COLOURS:
            return number
    colours.append(colour)
    return len(colours)
