"""Where polylines cross each other or themselves, found on a grid.

Pieces that share an end point are neighbours on a path or meet at a node, and do not count.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel

PIECE = 8.0  # pieces are no longer than this, cells just this large


@kernel("b1(f8[:,:], i8, i8)")
def _cross(pieces, i, j):  # type: ignore[no-untyped-def]
    ax, ay, bx, by = pieces[i, 0], pieces[i, 1], pieces[i, 2], pieces[i, 3]
    cx, cy, dx, dy = pieces[j, 0], pieces[j, 1], pieces[j, 2], pieces[j, 3]
    if (max(ax, bx) < min(cx, dx) or max(cx, dx) < min(ax, bx) or max(ay, by) < min(cy, dy) or max(cy, dy) < min(ay, by)):
        return False
    if (ax == cx and ay == cy) or (ax == dx and ay == dy) or (bx == cx and by == cy) or (bx == dx and by == dy):
        return False
    one = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    two = (bx - ax) * (dy - ay) - (by - ay) * (dx - ax)
    if (one > 0.0 and two > 0.0) or (one < 0.0 and two < 0.0):
        return False
    three = (dx - cx) * (ay - cy) - (dy - cy) * (ax - cx)
    four = (dx - cx) * (by - cy) - (dy - cy) * (bx - cx)
    return not ((three > 0.0 and four > 0.0) or (three < 0.0 and four < 0.0))


@kernel("i8(f8[:,:], f8, f8, f8, i8, i8, i8[:]!, i8[:]!, i8[:,:]!)")
def _search(pieces, left, top, cell, columns, rows, starts, members, pairs):  # type: ignore[no-untyped-def]
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
                if _cross(pieces, members[a], members[b]):
                    if found < len(pairs):
                        pairs[found, 0], pairs[found, 1] = members[a], members[b]
                    found += 1
        low = high
    return found


def pieces_of(chords: NDArray[np.float64], scale: float = 1.0) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Chords (N, 4) cut into pieces of at most PIECE · scale; ends that fell together still do.

    Returns (P, 4) and (P,): the chord each is a piece of.
    """
    start, end = chords[:, :2], chords[:, 2:]
    counts = np.maximum(1, np.ceil(np.abs(end - start).max(axis=1) / (PIECE * scale))).astype(int)
    which = np.repeat(np.arange(len(chords)), counts)
    last = np.cumsum(counts) - 1
    step = np.arange(len(which)) - (last - counts + 1)[which]
    share = (step / counts[which])[:, None]
    first = start[which] * (1 - share) + end[which] * share
    second = np.roll(first, -1, axis=0)
    second[last] = end
    return np.concatenate([first, second], axis=1), which


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
    found = _search(np.ascontiguousarray(pieces), left, top, cell, columns, rows, np.zeros(rows * columns + 1, np.int64),
                    np.empty(6 * len(pieces), np.int64), pairs)
    return [(int(owners[i]), int(owners[j]), float(pieces[i, 0]), float(pieces[i, 1])) for i, j in pairs[: min(found, most)]]
