"""Give every pixel of flat art to a colour: seeds by likeness, fringe pixels by the best two-colour mix.

A pixel is a *seed* when it is close to a palette colour and has at least three like neighbours. Any other pixel is
explained as one colour, or as a mix of two, of those that have seeds within three pixels (others at a penalty), and
goes to the larger share. So a fringe between red and white never becomes pink, and no third colour comes between two.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.raster.absorb import absorb_small
from bisectum.core.raster.compiled import kernel

WINDOW = 3
UNSEEDED = 255  # a pixel without a seed, in the seed image
PENALTY = 900.0  # squared levels: what a colour without seeds nearby must be better by
PAIR_PENALTY = 12.0  # squared levels: two colours must explain more than one does
NEAR_MOST = 10  # levels; grain does not make colours less distinct
CROSS = np.array([[0, 1, 0], [1, 1, 1], [0, 1, 0]], np.uint8)
RINGING_PX = 60  # the largest area without a seed that is taken for ringing
BAND = 128  # rows between two looks at the progress


@kernel("f8(f8[:,:,:], i8, i8, f8, f8)")
def colour_at(surfaces, label, channel, u, v):  # type: ignore[no-untyped-def]
    """A label's colour at a place; surfaces : (N, 6, 4), see raster.surface; u, v : -1..1."""
    s = surfaces
    return (s[label, 0, channel] + s[label, 1, channel] * u + s[label, 2, channel] * v + s[label, 3, channel] * u * u
            + s[label, 4, channel] * u * v + s[label, 5, channel] * v * v)


@kernel("void(u1[:,:,:], b1[:,:], f8[:,:,:], i8, f8, u1[:,:]!, i8, i8)")
def _seed_rows(image, ground, surfaces, alike, near, seeds, start, stop):  # type: ignore[no-untyped-def]
    height, width = ground.shape
    for y in range(start, stop):
        last = np.int64(-1)
        label = np.uint8(UNSEEDED)
        for x in range(width):
            if ground[y, x]:
                seeds[y, x] = 0
                continue
            coded = ((np.int64(image[y, x, 0]) << 24) + (np.int64(image[y, x, 1]) << 16)
                     + (np.int64(image[y, x, 2]) << 8) + np.int64(image[y, x, 3]))
            if coded != last:
                last = coded
                best = near * near
                label = np.uint8(UNSEEDED)
                for candidate in range(1, len(surfaces)):
                    total = 0.0
                    for c in range(4):
                        total += (image[y, x, c] - surfaces[candidate, 0, c]) ** 2
                    if total < best:
                        best = total
                        label = np.uint8(candidate)
            seeds[y, x] = UNSEEDED
            if label == UNSEEDED:
                continue
            # In the middle of a flat area three neighbours are soon found; there the others need no look.
            if y > 0 and 0 < x < width - 1:
                even = True
                for c in range(4):
                    here = image[y, x, c]
                    even = even and image[y, x - 1, c] == here and image[y, x + 1, c] == here and image[y - 1, x, c] == here
                if even:
                    seeds[y, x] = label
                    continue
            like = 0
            for row in range(max(0, y - 1), min(height, y + 2)):
                for column in range(max(0, x - 1), min(width, x + 2)):
                    greatest = np.int64(0)
                    for c in range(4):
                        greatest = max(greatest, abs(np.int64(image[row, column, c]) - np.int64(image[y, x, c])))
                    like += int(greatest <= alike)
            if like >= 4:  # itself among them
                seeds[y, x] = label


@kernel("u1(u1[:,:,:], f8[:,:,:], i8, i8, b1[:], i8[:]!, f8[:,:]!)")
def _explain(image, surfaces, y, x, present, order, colours):  # type: ignore[no-untyped-def]
    """The label of a pixel that is no seed. present : (N,) the labels seeded nearby; order, colours : scratch."""
    height, width = image.shape[0], image.shape[1]
    u, v = (x + 0.5) * 2.0 / width - 1.0, (y + 0.5) * 2.0 / height - 1.0
    used = 0
    best = 1e30
    result = 0
    for label in range(len(surfaces)):
        for c in range(4):
            colours[label, c] = colour_at(surfaces, label, c, u, v)
        total = 0.0 if present[label] else PENALTY
        for c in range(4):
            total += (image[y, x, c] - colours[label, c]) ** 2
        if total < best:
            best, result = total, label
        if present[label]:
            order[used] = label
            used += 1
    for first in range(used):
        for second in range(first):
            a, b = order[first], order[second]
            along, length = 0.0, 0.0
            for c in range(4):
                along += (image[y, x, c] - colours[b, c]) * (colours[a, c] - colours[b, c])
                length += (colours[a, c] - colours[b, c]) ** 2
            share = min(1.0, max(0.0, along / max(length, 1e-9)))
            total = PAIR_PENALTY
            for c in range(4):
                total += (image[y, x, c] - share * colours[a, c] - (1.0 - share) * colours[b, c]) ** 2
            if total < best:
                best = total
                result = a if share >= 0.5 else b
    return np.uint8(result)


@kernel("void(u1[:,:,:], f8[:,:,:], u1[:,:], u1[:,:]!, i8, i8)")
def _assign_rows(image, surfaces, seeds, labels, start, stop):  # type: ignore[no-untyped-def]
    height, width = seeds.shape
    present = np.zeros(len(surfaces), np.bool_)
    order = np.empty(len(surfaces), np.int64)
    colours = np.empty((len(surfaces), 4))
    for y in range(start, stop):
        for x in range(width):
            if seeds[y, x] != UNSEEDED:
                labels[y, x] = seeds[y, x]
                continue
            present[:] = False
            for row in range(max(0, y - WINDOW), min(height, y + WINDOW + 1)):
                for column in range(max(0, x - WINDOW), min(width, x + WINDOW + 1)):
                    if seeds[row, column] != UNSEEDED:
                        present[seeds[row, column]] = True
            labels[y, x] = _explain(image, surfaces, y, x, present, order, colours)


def assign_by_mixes(
    image: NDArray[np.uint8], ground: NDArray[np.bool_], surfaces: NDArray[np.float64], alike: int,
    compressed: bool = False, progress: Progress = SILENT,
) -> NDArray[np.uint8]:
    """image : (H, W, 4) uint8, premultiplied; ground : (H, W) bool, pixels that are label 0 for certain.

    surfaces : (N, 6, 4) float64, the colour of each label, 0 being the ground. alike: levels within which neighbours
    are alike; compressed: what rings beside edges is no area of its own. Returns (H, W) uint8.
    """
    height = ground.shape[0]
    near = 3.0 * min(alike, NEAR_MOST)
    seeds, labels = np.empty(ground.shape, np.uint8), np.empty(ground.shape, np.uint8)
    for half, (start, stop) in enumerate(((0.0, 0.4), (0.4, 1.0))):
        part = Part(progress, start, stop)
        for top in range(0, height, BAND):
            progress.raise_if_cancelled()
            if half == 0:
                _seed_rows(image, ground, surfaces, alike, near, seeds, top, min(height, top + BAND))
            else:
                _assign_rows(image, surfaces, seeds, labels, top, min(height, top + BAND))
            part.report(top / height)
    if compressed:
        labels, _ = absorb_small(labels, RINGING_PX, SILENT, (seeds != UNSEEDED) | _at_heart(image, surfaces, labels, near))
    return labels


def _at_heart(
    image: NDArray[np.uint8], surfaces: NDArray[np.float64], labels: NDArray[np.uint8], near: float
) -> NDArray[np.bool_]:
    """Pixels of their label's own colour, all about which are of that label: a small area that has them is no ringing."""
    own = np.rint(np.clip(surfaces[:, 0], 0, 255)).astype(np.uint8)
    off = cv2.absdiff(image, own[labels])
    even = cv2.dilate(labels, CROSS) == cv2.erode(labels, CROSS)
    return np.asarray((off[..., :3].max(axis=2) <= near) & even)
