"""The corners of pixels at which labels meet, what kind each is, and where cracks leave it.

labels : (H, W) uint8, every value below OUTSIDE; what lies beyond the image counts as label OUTSIDE. A *vertex* (y, x),
0 ≤ y ≤ H, 0 ≤ x ≤ W, is a corner of pixels. Where three or more labels meet, and at the four corners of the image, it is
a *junction*. A *crack* is the unit edge between two pixels of different labels; the cracks at a vertex are its *arms*.
Directions are numbered clockwise as seen, y down: 0 right, 1 down, 2 left, 3 up.

Where the four pixels around a vertex alternate between two labels only one diagonal can be connected: the one whose
label is the minority in the 6 × 6 pixels around. Where just one diagonal has equal labels, that one is connected. Such
a vertex is a *saddle*: two chains pass it, neither ends there.

Hardly any vertex is one where labels meet, so these are listed once, and all that follows goes through the list.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel, part

OUTSIDE = 255
NONE, PASS, JUNCTION, SADDLE_MAIN, SADDLE_ANTI = 0, 1, 2, 3, 4
"""Kinds of vertex. SADDLE_MAIN connects top left with bottom right, SADDLE_ANTI the other two."""
KIND, ARM = 7, 16  # in a code: the bits of the kind, and the bit of arm 0, those of the others above it
WORD = 8  # vertices that are looked at together


@dataclass(frozen=True, slots=True)
class Vertices:
    """codes : (H + 1, W + 1) uint8, of each vertex its kind and its arms; places : (N,) int64, y · (W + 1) + x of all where
    labels meet, in reading order."""

    codes: NDArray[np.uint8]
    places: NDArray[np.int64]


def vertices_of(labels: NDArray[np.uint8]) -> Vertices:
    """labels : (H, W) uint8, values below OUTSIDE."""
    height, width = labels.shape
    columns = -(-(width + 1) // WORD) * WORD
    meeting = np.empty((height + 1, columns), np.uint8)
    _mark(labels, meeting)
    places = np.empty(np.count_nonzero(meeting), np.int64)
    _list(meeting, meeting.view(np.int64), width + 1, places)
    codes = np.zeros((height + 1, width + 1), np.uint8)
    _classify(labels, places, codes)
    return Vertices(codes, places)


@part("u1(u1[:,:], i8, i8)")
def label_at(labels, y, x):  # type: ignore[no-untyped-def]
    """The label of a pixel, OUTSIDE beyond the image."""
    if y < 0 or x < 0 or y >= labels.shape[0] or x >= labels.shape[1]:
        return np.uint8(OUTSIDE)
    return labels[y, x]


@kernel("void(u1[:,:], u1[:,:]!)")
def _mark(labels, meeting):  # type: ignore[no-untyped-def]
    """Write 1 at every vertex where labels meet, 0 at all others and beyond the last column."""
    height, width = labels.shape
    meeting[0] = meeting[height] = 1
    for y in range(1, height):
        above, here, marks = labels[y - 1], labels[y], meeting[y]
        for x in range(1, width):
            marks[x] = (above[x - 1] ^ above[x]) | (here[x - 1] ^ here[x]) | (above[x] ^ here[x])
        for x in range(1, width):
            marks[x] = np.uint8(marks[x] != 0)
        marks[0] = marks[width] = 1
    meeting[:, width + 1 :] = 0


@kernel("void(u1[:,:], i8[:,:], i8, i8[:]!)")
def _list(meeting, words, columns, places):  # type: ignore[no-untyped-def]
    used = 0
    for y in range(len(words)):
        for word in range(words.shape[1]):
            if words[y, word] == 0:
                continue
            for x in range(WORD * word, WORD * word + WORD):
                if meeting[y, x]:
                    places[used] = y * columns + x
                    used += 1


@part("b1(u1[:,:], i8, i8, u1, u1)")
def _first_is_minority(labels, y, x, first, second):  # type: ignore[no-untyped-def]
    balance = 0
    for row in range(y - 3, y + 3):
        for column in range(x - 3, x + 3):
            value = label_at(labels, row, column)
            if value == first:
                balance += 1
            elif value == second:
                balance -= 1
    return balance <= 0


@kernel("void(u1[:,:], i8[:], u1[:,:]!)")
def _classify(labels, places, codes):  # type: ignore[no-untyped-def]
    height, width = labels.shape
    for place in places:
        y, x = place // (width + 1), place % (width + 1)
        a, b = label_at(labels, y - 1, x - 1), label_at(labels, y - 1, x)
        c, d = label_at(labels, y, x - 1), label_at(labels, y, x)
        arms = int(b != d) + 2 * int(c != d) + 4 * int(a != c) + 8 * int(a != b)
        degree = int(a != b) + int(b != d) + int(d != c) + int(c != a)
        kind = JUNCTION
        if degree == 2 and not ((y == 0 or y == height) and (x == 0 or x == width)):
            kind = PASS
        elif degree == 4 and a == d and b == c:
            kind = SADDLE_MAIN if _first_is_minority(labels, y, x, a, b) else SADDLE_ANTI
        elif degree == 4 and a == d:
            kind = SADDLE_MAIN
        elif degree == 4 and b == c:
            kind = SADDLE_ANTI
        codes[y, x] = kind + ARM * arms
