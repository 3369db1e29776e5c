"""The crack graph of a label image: where areas of different labels meet, before any smoothing.

labels : (H, W) uint8, every value below OUTSIDE; what lies beyond the image counts as label OUTSIDE.
A *crack* is the unit edge between two pixels of different labels; a *vertex* (y, x), 0 ≤ y ≤ H, 0 ≤ x ≤ W, is a corner
of pixels. Where three or more labels meet, and at the four corners of the image, a vertex is a *junction*. Cracks
between junctions form *chains*; what is left forms closed chains.

Where the four pixels around a vertex alternate between two labels only one diagonal can be connected: the one whose
label is the minority in the 6 × 6 pixels around. Where just one diagonal has equal labels, that one is connected. Such
a vertex is a *saddle*: two chains pass it, neither ends there.

Directions are numbered clockwise as seen, y down: 0 right, 1 down, 2 left, 3 up. Everything is linear in the number of
pixels.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel

OUTSIDE = 255
NONE, PASS, JUNCTION, SADDLE_MAIN, SADDLE_ANTI = 0, 1, 2, 3, 4
"""Kinds of vertex. SADDLE_MAIN connects top left with bottom right, SADDLE_ANTI the other two."""


@dataclass(frozen=True, slots=True)
class CrackGraph:
    """Chains of cracks between areas.

    regions : (H, W) int32, the connected area of each pixel, numbered from 0 in reading order
    vertices : (V, 2) int32, y and x of the vertices of all chains, one chain after the other
    first : (C + 1,) int64, where each chain starts in `vertices`; a chain of n cracks has n + 1 vertices
    sides : (C, 2) int32, the region to the left and to the right of each chain as it is walked; -1 is outside
    ends : (C, 2) int32, the junction at its start and its end; -1, -1 for a closed chain
    junctions : (J, 2) int32, y and x
    spokes : (J, 4) int32, for each direction the half-edge that leaves the junction that way, or -1
        (half-edge 2c walks chain c forward, 2c + 1 backward)
    """

    regions: NDArray[np.int32]
    region_count: int
    vertices: NDArray[np.int32]
    first: NDArray[np.int64]
    sides: NDArray[np.int32]
    ends: NDArray[np.int32]
    junctions: NDArray[np.int32]
    spokes: NDArray[np.int32]


def crack_graph(labels: NDArray[np.uint8]) -> CrackGraph:
    """The crack graph of labels : (H, W) uint8, values below OUTSIDE."""
    kinds = classify_vertices(labels)
    regions, count = label_regions(labels, kinds)
    found = trace_chains(labels, kinds, regions)
    return CrackGraph(regions, count, *found)


@kernel("u1(u1[:,:], i8, i8)")
def _label(labels, y, x):  # type: ignore[no-untyped-def]
    if y < 0 or x < 0 or y >= labels.shape[0] or x >= labels.shape[1]:
        return np.uint8(OUTSIDE)
    return labels[y, x]


@kernel("b1(u1[:,:], i8, i8, u1, u1)")
def _first_is_minority(labels, y, x, first, second):  # type: ignore[no-untyped-def]
    balance = 0
    for row in range(y - 3, y + 3):
        for column in range(x - 3, x + 3):
            value = _label(labels, row, column)
            if value == first:
                balance += 1
            elif value == second:
                balance -= 1
    return balance <= 0


@kernel("u1[:,:](u1[:,:])")
def classify_vertices(labels):  # type: ignore[no-untyped-def]
    """labels : (H, W) uint8. Returns (H + 1, W + 1) uint8: the kind of each vertex."""
    height, width = labels.shape
    kinds = np.zeros((height + 1, width + 1), np.uint8)
    for y in range(height + 1):
        inner_row = 0 < y < height
        for x in range(width + 1):
            if inner_row and 0 < x < width:
                a, b, c, d = labels[y - 1, x - 1], labels[y - 1, x], labels[y, x - 1], labels[y, x]
                if a == b and c == d and a == c:
                    continue
            else:
                a, b = _label(labels, y - 1, x - 1), _label(labels, y - 1, x)
                c, d = _label(labels, y, x - 1), _label(labels, y, x)
            degree = int(a != b) + int(b != d) + int(d != c) + int(c != a)
            if degree == 2:
                corner = (y == 0 or y == height) and (x == 0 or x == width)
                kinds[y, x] = JUNCTION if corner else PASS
            elif degree == 3:
                kinds[y, x] = JUNCTION
            elif degree == 4:
                if a == d and b == c:
                    kinds[y, x] = SADDLE_MAIN if _first_is_minority(labels, y, x, a, b) else SADDLE_ANTI
                elif a == d:
                    kinds[y, x] = SADDLE_MAIN
                elif b == c:
                    kinds[y, x] = SADDLE_ANTI
                else:
                    kinds[y, x] = JUNCTION
    return kinds


@kernel("i4(i4[:]!, i4)")
def root(parents, item):  # type: ignore[no-untyped-def]
    """The root of `item` in a union-find forest, halving the path on the way."""
    while parents[item] != item:
        parents[item] = parents[parents[item]]
        item = parents[item]
    return item


@kernel("void(i4[:]!, i4, i4)")
def join(parents, one, other):  # type: ignore[no-untyped-def]
    """Unite two trees of a union-find forest; the smaller number becomes the root."""
    first, second = root(parents, one), root(parents, other)
    if first < second:
        parents[second] = first
    elif second < first:
        parents[first] = second


@kernel("Tuple((i4[:,:], i8))(u1[:,:], u1[:,:])")
def label_regions(labels, kinds):  # type: ignore[no-untyped-def]
    """Connected areas: neighbours share a side, or a corner where the vertex there connects them.

    labels : (H, W) uint8; kinds : (H + 1, W + 1) uint8. Returns (H, W) int32 numbered in reading order, and the count.
    """
    height, width = labels.shape
    regions = np.empty((height, width), np.int32)
    # Provisional numbers go to runs, not to pixels: few parents, short trees.
    limit = 1
    for y in range(height):
        limit += 1
        for x in range(1, width):
            limit += int(labels[y, x] != labels[y, x - 1])
    parents = np.empty(limit, np.int32)
    used = np.int32(0)
    for y in range(height):
        for x in range(width):
            value = labels[y, x]
            mine = np.int32(-1)
            if x > 0 and labels[y, x - 1] == value:
                mine = regions[y, x - 1]
            else:
                parents[used] = used
                mine = used
                used += np.int32(1)
            if y > 0:
                if labels[y - 1, x] == value:
                    if x == 0 or regions[y - 1, x] != regions[y - 1, x - 1] or regions[y, x - 1] != mine:
                        join(parents, mine, regions[y - 1, x])
                else:
                    if x > 0 and labels[y - 1, x - 1] == value and kinds[y, x] == SADDLE_MAIN:
                        join(parents, mine, regions[y - 1, x - 1])
                    if x + 1 < width and labels[y - 1, x + 1] == value and kinds[y, x + 1] == SADDLE_ANTI:
                        join(parents, mine, regions[y - 1, x + 1])
            regions[y, x] = mine
    numbers = np.empty(used, np.int32)
    count = 0
    for item in range(used):
        top = root(parents, np.int32(item))
        if top == item:
            numbers[item] = count
            count += 1
        else:
            numbers[item] = numbers[top]
    for y in range(height):
        for x in range(width):
            regions[y, x] = numbers[regions[y, x]]
    return regions, count


@kernel("b1(u1[:,:], i8, i8, i8)")
def _is_crack(labels, y, x, direction):  # type: ignore[no-untyped-def]
    """Whether a crack leaves vertex (y, x) in `direction`."""
    if direction == 0:
        return _label(labels, y - 1, x) != _label(labels, y, x)
    if direction == 1:
        return _label(labels, y, x - 1) != _label(labels, y, x)
    if direction == 2:
        return _label(labels, y - 1, x - 1) != _label(labels, y, x - 1)
    return _label(labels, y - 1, x - 1) != _label(labels, y - 1, x)


@kernel("i8(u1[:,:], u1, i8, i8, i8)")
def _turn(labels, kind, y, x, direction):  # type: ignore[no-untyped-def]
    """The direction in which a chain goes on from a vertex that is no junction."""
    if kind == PASS:
        for change in (0, 1, 3):
            turned = (direction + change) % 4
            if _is_crack(labels, y, x, turned):
                return turned
    # Arriving rightwards means coming from the left arm of the vertex, and so on.
    if kind == SADDLE_MAIN:  # left arm with lower arm, upper arm with right arm
        return (1, 0, 3, 2)[direction]
    return (3, 2, 1, 0)[direction]


@kernel("i4(u1[:,:], i4[:,:], i8, i8)")
def _region(labels, regions, y, x):  # type: ignore[no-untyped-def]
    if y < 0 or x < 0 or y >= labels.shape[0] or x >= labels.shape[1]:
        return np.int32(-1)
    return regions[y, x]


@kernel("UniTuple(i4, 2)(u1[:,:], i4[:,:], i8, i8, i8)")
def _sides(labels, regions, y, x, direction):  # type: ignore[no-untyped-def]
    """The regions left and right of the crack that leaves vertex (y, x) in `direction`."""
    if direction == 0:
        return _region(labels, regions, y - 1, x), _region(labels, regions, y, x)
    if direction == 1:
        return _region(labels, regions, y, x), _region(labels, regions, y, x - 1)
    if direction == 2:
        return _region(labels, regions, y, x - 1), _region(labels, regions, y - 1, x - 1)
    return _region(labels, regions, y - 1, x - 1), _region(labels, regions, y - 1, x)


@kernel("i8(u1[:,:], u1[:,:], u1[:,:]!, i4[:,:]!, i8, i8, i8, i8, b1, i8[:]!)")
def _walk(labels, kinds, seen, vertices, used, y, x, leaving, open_end, arrival):  # type: ignore[no-untyped-def]
    """Follow one chain from (y, x), writing its vertices from row `used` on. Returns the next free row.

    arrival : (3,) int64 receives y, x and the direction back into the chain, where it ended.
    """
    start_y, start_x, direction = y, x, leaving
    vertices[used, 0], vertices[used, 1] = y, x
    used += 1
    while True:
        seen[y, x] |= np.uint8(1 << direction)
        if direction == 0:
            x += 1
        elif direction == 1:
            y += 1
        elif direction == 2:
            x -= 1
        else:
            y -= 1
        back = (direction + 2) % 4
        seen[y, x] |= np.uint8(1 << back)
        vertices[used, 0], vertices[used, 1] = y, x
        used += 1
        if kinds[y, x] == JUNCTION:
            break
        direction = _turn(labels, kinds[y, x], y, x, direction)
        if not open_end and y == start_y and x == start_x and direction == leaving:
            break
    arrival[0], arrival[1], arrival[2] = y, x, back
    return used


@kernel("UniTuple(i8, 2)(u1[:,:], u1[:,:])")
def count_cracks(labels, kinds):  # type: ignore[no-untyped-def]
    """How many cracks and how many junctions there are."""
    cracks = 0
    junctions = 0
    for y in range(kinds.shape[0]):
        for x in range(kinds.shape[1]):
            if kinds[y, x] != NONE:
                cracks += int(_is_crack(labels, y, x, 0)) + int(_is_crack(labels, y, x, 1))
                junctions += int(kinds[y, x] == JUNCTION)
    return cracks, junctions


@kernel("void(u1[:,:], i4[:,:]!)")
def _junctions(kinds, found):  # type: ignore[no-untyped-def]
    """Write y and x of every junction, in reading order."""
    used = 0
    for y in range(kinds.shape[0]):
        for x in range(kinds.shape[1]):
            if kinds[y, x] == JUNCTION:
                found[used, 0], found[used, 1] = y, x
                used += 1


@kernel("i8(i4[:,:], i8, i8)")
def _place_of(junctions, y, x):  # type: ignore[no-untyped-def]
    """The number of the junction at (y, x)."""
    low, high = 0, len(junctions) - 1
    while low < high:
        middle = (low + high) // 2
        if junctions[middle, 0] < y or (junctions[middle, 0] == y and junctions[middle, 1] < x):
            low = middle + 1
        else:
            high = middle
    return low


@kernel("i8(u1[:,:], u1[:,:], i4[:,:], u1[:,:]!, i4[:,:], i4[:,:]!, i8[:]!, i4[:,:]!, i4[:,:]!, i4[:,:]!, i8[:]!)")
def _trace(labels, kinds, regions, seen, junctions, vertices, first, sides, ends, spokes, arrival):  # type: ignore[no-untyped-def]
    """Walk all chains, first from the junctions, then the closed ones. Returns how many there are."""
    rows, columns = kinds.shape
    chains = 0
    for item in range(len(junctions)):
        y, x = np.int64(junctions[item, 0]), np.int64(junctions[item, 1])
        for leaving in range(4):
            if seen[y, x] & (1 << leaving) or not _is_crack(labels, y, x, leaving):
                continue
            sides[chains, 0], sides[chains, 1] = _sides(labels, regions, y, x, leaving)
            first[chains + 1] = _walk(labels, kinds, seen, vertices, first[chains], y, x, leaving, True, arrival)
            end = _place_of(junctions, arrival[0], arrival[1])
            ends[chains, 0], ends[chains, 1] = item, end
            spokes[item, leaving] = 2 * chains
            spokes[end, arrival[2]] = 2 * chains + 1
            chains += 1
    for row in range(rows):
        for column in range(columns):
            if kinds[row, column] == NONE or kinds[row, column] == JUNCTION:
                continue
            for leaving in range(4):
                if seen[row, column] & (1 << leaving) or not _is_crack(labels, row, column, leaving):
                    continue
                sides[chains, 0], sides[chains, 1] = _sides(labels, regions, row, column, leaving)
                first[chains + 1] = _walk(labels, kinds, seen, vertices, first[chains], row, column, leaving, False, arrival)
                chains += 1
    return chains


def trace_chains(
    labels: NDArray[np.uint8], kinds: NDArray[np.uint8], regions: NDArray[np.int32]
) -> tuple[NDArray[np.int32], NDArray[np.int64], NDArray[np.int32], NDArray[np.int32], NDArray[np.int32], NDArray[np.int32]]:
    """Walk all chains. Returns the arrays of CrackGraph, from `vertices` to `spokes`."""
    cracks, junction_count = count_cracks(labels, kinds)
    junctions = np.empty((junction_count, 2), np.int32)
    _junctions(kinds, junctions)
    vertices = np.empty((2 * cracks + 1, 2), np.int32)
    first = np.zeros(cracks + 2, np.int64)
    sides = np.empty((cracks + 1, 2), np.int32)
    ends = np.full((cracks + 1, 2), -1, np.int32)
    spokes = np.full((junction_count, 4), -1, np.int32)
    chains = _trace(labels, kinds, regions, np.zeros_like(kinds), junctions, vertices, first, sides, ends, spokes,
                    np.zeros(3, np.int64))
    used = int(first[chains])
    return (vertices[:used].copy(), first[: chains + 1].copy(), sides[:chains].copy(), ends[:chains].copy(),
            junctions, spokes)
