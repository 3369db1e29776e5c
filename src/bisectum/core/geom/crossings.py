"""Where polylines cross each other or themselves, found on a grid.

Pieces that share an end point are neighbours on a path, or touch at a node, and do not count.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.bernstein import bernstein
from bisectum.core.raster.compiled import kernel, part

PIECE = 8.0  # pieces are no longer than this, cells just this large
SAME = 1e-9  # of a pixel: ends nearer than this are one; corners of two lines may touch in a pixel's corner


@part("b1(f8, f8, f8, f8, f8)")
def _is_same(ax, ay, bx, by, within):  # type: ignore[no-untyped-def]
    return abs(ax - bx) < within and abs(ay - by) < within


@kernel("b1(f8[:,:], i8, i8, f8)")
def _cross(pieces, i, j, same):  # type: ignore[no-untyped-def]
    ax, ay, bx, by = pieces[i, 0], pieces[i, 1], pieces[i, 2], pieces[i, 3]
    cx, cy, dx, dy = pieces[j, 0], pieces[j, 1], pieces[j, 2], pieces[j, 3]
    if (max(ax, bx) < min(cx, dx) or max(cx, dx) < min(ax, bx) or max(ay, by) < min(cy, dy) or max(cy, dy) < min(ay, by)):
        return False
    if (_is_same(ax, ay, cx, cy, same) or _is_same(ax, ay, dx, dy, same) or _is_same(bx, by, cx, cy, same)
            or _is_same(bx, by, dx, dy, same)):
        return False
    one = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    two = (bx - ax) * (dy - ay) - (by - ay) * (dx - ax)
    if (one > 0.0 and two > 0.0) or (one < 0.0 and two < 0.0):
        return False
    three = (dx - cx) * (ay - cy) - (dy - cy) * (ax - cx)
    four = (dx - cx) * (by - cy) - (dy - cy) * (bx - cx)
    return not ((three > 0.0 and four > 0.0) or (three < 0.0 and four < 0.0))


@kernel("i8(f8[:,:], f8, f8, f8, i8, i8, f8, i8[:]!, i8[:]!, i8[:,:]!)")
def _search(pieces, left, top, cell, columns, rows, same, starts, members, pairs):  # type: ignore[no-untyped-def]
    """Fill the cells, then test within each. Returns how many pairs cross; the first len(pairs) are written."""
    n = len(pieces)
    for turn in range(2):
        for i in range(n):
            x0 = int((min(pieces[i, 0], pieces[i, 2]) - left) / cell)
            x1 = int((max(pieces[i, 0], pieces[i, 2]) - left) / cell)
            y0 = int((min(pieces[i, 1], pieces[i, 3]) - top) / cell)
            y1 = int((max(pieces[i, 1], pieces[i, 3]) - top) / cell)
            for y in range(y0, y1 + 1):
                for x in range(x0, x1 + 1):
                    place = y * columns + x
                    if turn == 0:
                        starts[place + 1] += 1
                    elif starts[place] < len(members):
                        members[starts[place]] = i
                        starts[place] += 1
        if turn == 0:
            for place in range(rows * columns):
                starts[place + 1] += starts[place]
    found = 0
    low = 0
    for place in range(rows * columns):
        high = starts[place]
        for a in range(low, high):
            for b in range(low, a):
                if _cross(pieces, members[a], members[b], same):
                    if found < len(pairs):
                        pairs[found, 0], pairs[found, 1] = members[a], members[b]
                    found += 1
        low = high
    return found


@kernel("i8(f8[:,:,:], f8, f8, f8[:,:]!, i8[:]!)")
def _cut_up(segments, tolerance, longest, pieces, owners):  # type: ignore[no-untyped-def]
    """Fill pieces and owners, see pieces_of. Returns how many there are; the first len(pieces) are written."""
    used = 0
    for s in range(len(segments)):
        p = segments[s]
        first, second = 0.0, 0.0
        for c in range(2):
            for i in range(3):
                first = max(first, abs(p[i + 1, c] - p[i, c]))
            for i in range(2):
                second = max(second, abs(p[i + 2, c] - 2.0 * p[i + 1, c] + p[i, c]))
        # Sederberg's bound for the tolerance, see chords_needed; and a cubic never runs faster than thrice its longest leg.
        count = int(max(1.0, np.ceil(np.sqrt(0.75 * np.sqrt(2.0) * second / tolerance)), np.ceil(3.0 * first / longest - 1e-9)))
        x, y = p[0, 0], p[0, 1]
        for k in range(1, count + 1 if used + count <= len(pieces) else 1):
            t = k / count
            nx, ny = p[3, 0], p[3, 1]
            if k < count:
                w0, w1, w2, w3 = bernstein(t)
                nx = w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0]
                ny = w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1]
            piece = pieces[used + k - 1]
            piece[0], piece[1], piece[2], piece[3] = x, y, nx, ny
            owners[used + k - 1] = s
            x, y = nx, ny
        used += count
    return used


def pieces_of(
    segments: NDArray[np.float64], tolerance: float, scale: float = 1.0
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Segments (S, 4, 2) as chords of at most PIECE · scale across and down, none further than `tolerance` from its curve.

    Ends that fell together still do.

    Returns (P, 4): x0, y0, x1, y1, and (P,): the segment each is a piece of.
    """
    segments = np.ascontiguousarray(segments)
    count = _cut_up(segments, tolerance, PIECE * scale, np.empty((0, 4)), np.empty(0, np.int64))
    pieces, owners = np.empty((count, 4)), np.empty(count, np.int64)
    _cut_up(segments, tolerance, PIECE * scale, pieces, owners)
    return pieces, owners


def find_crossings(
    pieces: NDArray[np.float64], owners: NDArray[np.int64], scale: float = 1.0, most: int = 10_000
) -> list[tuple[int, int, float, float]]:
    """Crossing pieces. pieces : (P, 4) x0, y0, x1, y1; owners : (P,). scale: of the coordinates against pixels.

    Returns pairs of owners (the same twice where a path crosses itself) with the place x, y.
    """
    if len(pieces) < 2:
        return []
    left, top = float(pieces[:, ::2].min()), float(pieces[:, 1::2].min())
    cell = PIECE * scale
    columns = int((float(pieces[:, ::2].max()) - left) / cell) + 2
    rows = int((float(pieces[:, 1::2].max()) - top) / cell) + 2
    pairs = np.empty((most, 2), np.int64)
    found = _search(np.ascontiguousarray(pieces), left, top, cell, columns, rows, SAME * scale,
                    np.zeros(rows * columns + 1, np.int64), np.empty(6 * len(pieces), np.int64), pairs)
    return [(int(owners[i]), int(owners[j]), float(pieces[i, 0]), float(pieces[i, 1])) for i, j in pairs[: min(found, most)]]
