"""Give every pixel of flat art to a colour: seeds by likeness, fringe pixels by the best two-colour mix.

A pixel is a *seed* when it is close to a palette colour and has at least three like neighbours. Any other pixel is
explained as one colour, or as a mix of two, of those that have seeds within three pixels (others at a penalty), rather
of those that have one beside it, and goes to the larger share (see mixes.py). So a fringe between red and white never
becomes pink, and no third colour comes between two. What lies beside lines too thin for seeds is explained again with
these, and in compressed pictures all that is thin.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.absorb import absorb_small
from bisectum.core.raster.colour import words_of
from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.surface import colour_at
from bisectum.core.steps.colours.mixes import ANY, PENALTY, by_nearby, by_remote

WINDOW = 3
ALONG = 6  # times a thin line is followed by as many pixels
UNSEEDED = 255  # a pixel without a seed, in the seed image
UNSEEDED_OFF = 60.0  # levels, at most, that a pixel may be off a colour without seeds nearby to have it, where nothing is lost
POOR = 225.0  # squared levels from which what has seeds nearby does not explain a pixel well
NEAR_MOST = 10  # levels; grain does not make colours less distinct
CROSS = np.array([[0, 1, 0], [1, 1, 1], [0, 1, 0]], np.uint8)
RINGING_PX = 60  # the largest area without a seed that is taken for ringing
BAND, MANY = 128, 100_000  # rows, and pixels to explain, between two looks at the progress


@part("u1(u1[:,:,:], i8, i8, f8[:,:,:], f8)")
def _likest(image, y, x, surfaces, near):  # type: ignore[no-untyped-def]
    """The palette colour nearest to a pixel, UNSEEDED where none is near."""
    result = np.uint8(UNSEEDED)
    best = near * near
    for candidate in range(1, len(surfaces)):
        total = 0.0
        for c in range(4):
            total += (image[y, x, c] - surfaces[candidate, 0, c]) ** 2
        if total < best:
            best = total
            result = np.uint8(candidate)
    return result


@part("b1(u1[:,:,:], i8, i8, i8)")
def _has_likes(image, y, x, alike):  # type: ignore[no-untyped-def]
    """Whether three neighbours of a pixel at least are like it."""
    like = 0
    for row in range(max(0, y - 1), min(len(image), y + 2)):
        for column in range(max(0, x - 1), min(image.shape[1], x + 2)):
            greatest = np.int64(0)
            for c in range(4):
                greatest = max(greatest, abs(np.int64(image[row, column, c]) - np.int64(image[y, x, c])))
            like += int(greatest <= alike)
            if like == 4:  # itself among them
                return True
    return False


@kernel("i8(u1[:,:,:], i4[:,:], b1[:,:], f8[:,:,:], i8, f8, i8, i8, u1[:,:]!, i8[:]!, i8)")
def _seed_rows(image, words, ground, surfaces, alike, near, start, stop, seeds, places, used):  # type: ignore[no-untyped-def]
    """Seeds of rows start..stop, and the numbers of the pixels without one, from places[used] on. Returns the next free place."""
    width = ground.shape[1]
    last, label = words[start, 0], _likest(image, start, 0, surfaces, near)
    for y in range(start, stop):
        skip, here, above, own = ground[y], words[y], words[max(0, y - 1)], seeds[y]
        for x in range(width):
            if skip[x]:
                own[x] = 0
                continue
            if here[x] != last:
                last, label = here[x], _likest(image, y, x, surfaces, near)
            own[x] = label
            if label != UNSEEDED:
                # In the middle of a flat area three neighbours are soon found; there the others need no look.
                if y > 0 and 0 < x < width - 1 and here[x - 1] == last and here[x + 1] == last and above[x] == last:
                    continue
                if _has_likes(image, y, x, alike):
                    continue
                own[x] = UNSEEDED
            places[used] = y * width + x
            used += 1
    return used


@part("i8(u1[:,:], i8, i8, i8, i8[:]!, i8[:]!, i8[:]!)")
def _seeded_about(seeds, y, x, place, stamps, touching, nearby):  # type: ignore[no-untyped-def]
    """Write down the labels that have seeds about a pixel, the lowest first, and stamp them with its number; in touching those
    that have one beside it. Returns how many."""
    height, width = seeds.shape
    used = 0
    for row in range(max(0, y - WINDOW), min(height, y + WINDOW + 1)):
        for column in range(max(0, x - WINDOW), min(width, x + WINDOW + 1)):
            label = np.int64(seeds[row, column])
            if label == UNSEEDED or stamps[label] == place:
                continue
            stamps[label] = place
            rank = used
            while rank > 0 and nearby[rank - 1] > label:
                nearby[rank] = nearby[rank - 1]
                rank -= 1
            nearby[rank] = label
            used += 1
    for row in range(max(0, y - 1), min(height, y + 2)):
        for column in range(max(0, x - 1), min(width, x + 2)):
            touching[seeds[row, column]] = place
    return used


@part("b1(i4[:,:], i8, i8)", inline=True)
def _is_flat(words, y, x):  # type: ignore[no-untyped-def]
    """Whether a pixel is just like those above, below, left and right of it."""
    if y == 0 or x == 0 or y == len(words) - 1 or x == words.shape[1] - 1:
        return False
    own = words[y, x]
    return words[y, x - 1] == own and words[y, x + 1] == own and words[y - 1, x] == own and words[y + 1, x] == own


@kernel("i8(u1[:,:,:], i4[:,:], f8[:,:,:], u1[:,:], f8, i8[:], u1[:,:]!, i8[:]!, f8[:]!)")
def _assign(image, words, surfaces, seeds, farthest, places, labels, poor, left):  # type: ignore[no-untyped-def]
    """Explain the pixels that are no seeds. places : (P,) their numbers, row by row; farthest: see by_remote.

    Within a flat area, whose colour is then in no palette, the answer goes on from pixel to pixel.

    words: see words_of; poor : (P,) receives the numbers of those that the colours with seeds about them do not explain
    well, inverted (~) where they get one of these all the same, the others are on a line too thin for seeds; left : (P,)
    squared levels these are off, penalties with them. Returns how many these are.
    """
    height, width = seeds.shape
    found = 0
    stamps, touching = np.full(UNSEEDED, -1, np.int64), np.full(UNSEEDED + 1, -1, np.int64)
    nearby = np.empty(len(surfaces), np.int64)
    colours = surfaces[:, 0].copy()
    shaded = False
    for label in range(len(surfaces)):
        for term in range(1, surfaces.shape[1]):
            for c in range(4):
                shaded = shaded or surfaces[label, term, c] != 0.0
    last = np.int64(-2)
    for place in places:
        y, x = place // width, place % width
        goes_on = place == last + 1 and _is_flat(words, y, x)
        last = place
        if goes_on:
            labels[y, x] = labels[y, x - 1]
            continue
        used = _seeded_about(seeds, y, x, place, stamps, touching, nearby)
        u, v = (x + 0.5) * 2.0 / width - 1.0, (y + 0.5) * 2.0 / height - 1.0
        for label in range(len(surfaces) if shaded else 0):
            colour_at(surfaces, label, u, v, colours[label])
        own, off = by_nearby(image, y, x, place, touching, nearby, used, colours)
        if off > PENALTY:
            own, off = by_remote(image, y, x, place, stamps, nearby, used, colours, farthest, own, off)
        labels[y, x] = own
        if off > POOR:
            poor[found], left[found] = place if stamps[own] != place else ~place, off
            found += 1
    return found


@kernel("void(u1[:,:,:], f8[:,:,:], u1[:,:], i8[:], f8, b1[:]!)")
def _find_pure(image, surfaces, labels, places, near, pure):  # type: ignore[no-untyped-def]
    """Which pixels have their label's own colour to `near` levels. places, pure : (P,)."""
    width = labels.shape[1]
    for p in range(len(places)):
        y, x = places[p] // width, places[p] % width
        pure[p] = True
        for c in range(4):
            pure[p] = pure[p] and abs(image[y, x, c] - surfaces[labels[y, x], 0, c]) <= near


@kernel("i8(u1[:,:], i8[:], i8[:], u1, u1[:]!, i8[:]!)")
def _unseeded_about(seeds, lone, places, mark, marks, out):  # type: ignore[no-untyped-def]
    """Those of `places` that are no seeds, within WINDOW of pixels `lone`. marks : (H·W,) scratch, of which none holds `mark`.

    Returns how many.
    """
    height, width = seeds.shape
    used = 0
    for place in lone:
        y, x = place // width, place % width
        for row in range(max(0, y - WINDOW), min(height, y + WINDOW + 1)):
            for column in range(max(0, x - WINDOW), min(width, x + WINDOW + 1)):
                marks[row * width + column] = mark
    for place in places:
        if marks[place] == mark and seeds[place // width, place % width] == UNSEEDED:
            out[used] = place
            used += 1
    return used


def assign_by_mixes(
    image: NDArray[np.uint8], ground: NDArray[np.bool_], surfaces: NDArray[np.float64], alike: int,
    compressed: bool = False, progress: Progress = SILENT,
) -> NDArray[np.uint8]:
    """image : (H, W, 4) uint8, premultiplied; ground : (H, W) bool, pixels that are label 0 for certain.

    surfaces : (N, 6, 4) float64, the colour of each label, 0 being the ground. alike: levels within which neighbours
    are alike; compressed: what rings beside edges is no area of its own. Returns (H, W) uint8.
    """
    height = ground.shape[0]
    near, words = 3.0 * min(alike, NEAR_MOST), words_of(image)
    seeds, places, used = np.empty(ground.shape, np.uint8), np.empty(ground.size, np.int64), 0
    for top in range(0, height, BAND):
        progress.raise_if_cancelled()
        used = _seed_rows(image, words, ground, surfaces, alike, near, top, min(height, top + BAND), seeds, places, used)
        progress.report(0.4 * top / height)
    labels, poor, left = seeds.copy(), np.empty(used, np.int64), np.empty(used)
    badly, farthest = 0, ANY if compressed else UNSEEDED_OFF**2
    for first in range(0, used, MANY):
        progress.raise_if_cancelled()
        part = places[first : min(used, first + MANY)]
        badly += int(_assign(image, words, surfaces, seeds, farthest, part, labels, poor[badly:], left[badly:]))
        progress.report(0.4 + 0.6 * first / used)
    if badly and not compressed:
        _assign_beside_lines(image, surfaces, seeds, labels, poor[:badly], left[:badly], near)
    if compressed:
        _assign_thin(image, surfaces, labels)
        labels, _ = absorb_small(labels, RINGING_PX, SILENT, (seeds != UNSEEDED) | _at_heart(image, surfaces, labels, near))
    return labels


def _assign_beside_lines(
    image: NDArray[np.uint8], surfaces: NDArray[np.float64], seeds: NDArray[np.uint8], labels: NDArray[np.uint8],
    poor: NDArray[np.int64], left: NDArray[np.float64], near: float,
) -> None:
    """Explain anew what is not well explained beside lines too thin for seeds, with their pixels as seeds, and so on along the
    lines, which between two rows of pixels are half as strong. poor, left: see _assign; near: levels."""
    flat_seeds, flat = seeds.reshape(-1), labels.reshape(-1)
    lone, places = poor[poor >= 0], np.where(poor >= 0, poor, ~poor)
    # Those that have just their label's colour first, then those that a mix explains: they may explain the others better.
    pure = np.empty(len(lone), bool)
    _find_pure(image, surfaces, labels, lone, near, pure)
    well = left[poor >= 0] < PENALTY + POOR
    turns = [lone[pure], lone[well & ~pure], lone[~well & ~pure]]
    marks, space = np.zeros(seeds.size, np.uint8), np.empty_like(places)
    changed = space[:0]
    for round_ in range(1, ALONG + 1):
        fresh = np.concatenate([changed, *turns[:1]])
        turns = turns[1:]
        if not len(fresh) and not turns:
            break
        flat_seeds[fresh] = flat[fresh]
        again = space[: _unseeded_about(seeds, fresh, places, round_, marks, space)]
        before = flat[again]
        _assign(image, words_of(image), surfaces, seeds, UNSEEDED_OFF**2, again, labels, np.empty(len(again), np.int64),
                np.empty(len(again)))
        changed = again[flat[again] != before]


def _assign_thin(image: NDArray[np.uint8], surfaces: NDArray[np.float64], labels: NDArray[np.uint8]) -> None:
    """Explain anew what is no wider than two pixels, by the areas about it: between two colours compression leaves some that
    look like a third one, which a line of that third colour does not."""
    square = np.ones((3, 3), np.uint8)
    solid = cv2.dilate((cv2.dilate(labels, square) == cv2.erode(labels, square)).astype(np.uint8), square) > 0
    places, sure = np.flatnonzero(~solid), np.where(solid, labels, UNSEEDED).astype(np.uint8)
    _assign(image, words_of(image), surfaces, sure, ANY, places, labels, np.empty_like(places), np.empty(len(places)))


def _at_heart(
    image: NDArray[np.uint8], surfaces: NDArray[np.float64], labels: NDArray[np.uint8], near: float
) -> NDArray[np.bool_]:
    """Pixels of their label's own colour, all about which are of that label: a small area that has them is no ringing."""
    own = np.rint(np.clip(surfaces[:, 0], 0, 255)).astype(np.uint8)
    off = cv2.absdiff(image, own[labels])
    even = cv2.dilate(labels, CROSS) == cv2.erode(labels, CROSS)
    return np.asarray((off[..., :3].max(axis=2) <= near) & even)
