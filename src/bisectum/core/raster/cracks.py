"""The crack graph of a label image: where areas of different labels meet, before any smoothing.

Cracks, junctions and directions: see raster.vertices. Cracks between junctions form *chains*; what is left forms closed
chains. Everything is linear in the number of pixels.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.regions import regions_of
from bisectum.core.raster.vertices import ARM, JUNCTION, KIND, PASS, SADDLE_MAIN, Vertices, vertices_of


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
    vertices = vertices_of(labels)
    regions = regions_of(labels, vertices)
    return CrackGraph(regions.numbers, len(regions.sizes), *_chains(vertices, regions.numbers))


@part("i8(u1, i8)")
def _next(code, direction):  # type: ignore[no-untyped-def]
    """The direction in which a chain that arrives in `direction` goes on from a vertex that is no junction, -1 for none."""
    if code & KIND == PASS:
        back = (direction + 2) % 4
        for turned in range(4):
            if turned != back and code & (ARM << turned):
                return turned
        return -1  # it has been left that way before: a closed chain is back where it began
    # Arriving rightwards means coming from the left arm of the vertex, and so on.
    if code & KIND == SADDLE_MAIN:  # left arm with lower arm, upper arm with right arm
        return (1, 0, 3, 2)[direction]
    return (3, 2, 1, 0)[direction]


@part("i4(i4[:,:], i8, i8)")
def _region(regions, y, x):  # type: ignore[no-untyped-def]
    if y < 0 or x < 0 or y >= regions.shape[0] or x >= regions.shape[1]:
        return np.int32(-1)
    return regions[y, x]


@part("UniTuple(i4, 2)(i4[:,:], i8, i8, i8)")
def _sides(regions, y, x, direction):  # type: ignore[no-untyped-def]
    """The regions left and right of the crack that leaves vertex (y, x) in `direction`."""
    if direction == 0:
        return _region(regions, y - 1, x), _region(regions, y, x)
    if direction == 1:
        return _region(regions, y, x), _region(regions, y, x - 1)
    if direction == 2:
        return _region(regions, y, x - 1), _region(regions, y - 1, x - 1)
    return _region(regions, y - 1, x - 1), _region(regions, y - 1, x)


@part("i8(u1[:,:]!, i4[:,:]!, i8, i8, i8, i8, i8[:]!)")
def _walk(codes, vertices, used, y, x, leaving, arrival):  # type: ignore[no-untyped-def]
    """Follow one chain from (y, x), writing its vertices from row `used` on and taking away the arms it goes along.

    Returns the next free row. arrival : (3,) int64 receives y, x and the direction back into the chain, where it ended.
    """
    direction = leaving
    vertices[used, 0], vertices[used, 1] = y, x
    used += 1
    while True:
        codes[y, x] &= ~np.uint8(ARM << direction)
        y += (0, 1, 0, -1)[direction]
        x += (1, 0, -1, 0)[direction]
        vertices[used, 0], vertices[used, 1] = y, x
        used += 1
        code, back = codes[y, x], (direction + 2) % 4
        codes[y, x] = code & ~np.uint8(ARM << back)
        if code & KIND == JUNCTION:
            break
        direction = _next(code, direction)
        if direction < 0 or not code & (ARM << direction):
            break
    arrival[0], arrival[1], arrival[2] = y, x, back
    return used


@part("i8(i4[:,:], i8, i8)")
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


@kernel("i8(u1[:,:]!, i8[:], i4[:,:], i4[:,:], i4[:,:]!, i8[:]!, i4[:,:]!, i4[:,:]!, i4[:,:]!, i8[:]!)")
def _trace(codes, places, regions, junctions, vertices, first, sides, ends, spokes, arrival):  # type: ignore[no-untyped-def]
    """Walk all chains, first from the junctions, then the closed ones. Returns how many there are."""
    chains = 0
    for item in range(len(junctions)):
        y, x = np.int64(junctions[item, 0]), np.int64(junctions[item, 1])
        for leaving in range(4):
            if not codes[y, x] & (ARM << leaving):
                continue
            sides[chains, 0], sides[chains, 1] = _sides(regions, y, x, leaving)
            first[chains + 1] = _walk(codes, vertices, first[chains], y, x, leaving, arrival)
            end = _place_of(junctions, arrival[0], arrival[1])
            ends[chains, 0], ends[chains, 1] = item, end
            spokes[item, leaving] = 2 * chains
            spokes[end, arrival[2]] = 2 * chains + 1
            chains += 1
    columns = codes.shape[1]
    for place in places:
        y, x = place // columns, place % columns
        for leaving in range(4):
            if codes[y, x] & (ARM << leaving):
                sides[chains, 0], sides[chains, 1] = _sides(regions, y, x, leaving)
                first[chains + 1] = _walk(codes, vertices, first[chains], y, x, leaving, arrival)
                chains += 1
    return chains


def _chains(
    found: Vertices, regions: NDArray[np.int32]
) -> tuple[NDArray[np.int32], NDArray[np.int64], NDArray[np.int32], NDArray[np.int32], NDArray[np.int32], NDArray[np.int32]]:
    """Walk all chains. Returns the arrays of CrackGraph, from `vertices` to `spokes`."""
    codes, places = found.codes.copy(), found.places
    here = codes.reshape(-1)[places]
    junctions = np.stack(np.divmod(places[here & KIND == JUNCTION], codes.shape[1]), axis=1).astype(np.int32)
    cracks = int(np.bitwise_count(here & ~np.uint8(KIND)).sum()) // 2
    vertices = np.empty((2 * cracks + 1, 2), np.int32)
    first = np.zeros(cracks + 2, np.int64)
    sides = np.empty((cracks + 1, 2), np.int32)
    ends = np.full((cracks + 1, 2), -1, np.int32)
    spokes = np.full((len(junctions), 4), -1, np.int32)
    chains = _trace(codes, places, regions, junctions, vertices, first, sides, ends, spokes, np.zeros(3, np.int64))
    used = int(first[chains])
    return (vertices[:used].copy(), first[: chains + 1].copy(), sides[:chains].copy(), ends[:chains].copy(),
            junctions, spokes)


def labels_of_regions(graph: CrackGraph, labels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The label of every region, read beside the first crack of its chains. Returns (region_count,) uint8."""
    found = np.zeros(graph.region_count, np.uint8)
    start, step = graph.vertices[graph.first[:-1]], graph.vertices[graph.first[:-1] + 1] - graph.vertices[graph.first[:-1]]
    y, x = start.T + np.minimum(step, 0).T  # the upper left end of the crack
    level = step[:, 0] == 0
    forward = np.where(level, step[:, 1] > 0, step[:, 0] < 0)  # rightwards or upwards: the left side is above, or left
    for side, behind in ((0, forward), (1, ~forward)):
        rows, columns = np.where(level & behind, y - 1, y), np.where(~level & behind, x - 1, x)
        there = graph.sides[:, side] >= 0
        found[graph.sides[there, side]] = labels[rows[there], columns[there]]
    return found
