"""Places that are one vertex: a greedy cover of points within a small distance of each other, in the order they come."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel, part


@part("i8(i8, i8, i8)", inline=True)
def _slot(column, row, mask):  # type: ignore[no-untyped-def]
    """Where a cell of the grid is kept. Cells that share a slot cost time only."""
    mixed = column * 73856093 ^ row * 19349663
    return (mixed ^ (mixed >> 15)) & mask


@kernel("i8(f8[:,:], f8, b1, f8[:,:]!, i8, i8[:]!, i8[:]!, i4[:]!)")
def _cover(points, eps, may_add, places, count, slots, following, which):  # type: ignore[no-untyped-def]
    """The nearest vertex within eps of each point, a new one where there is none. Returns how many vertices there are.

    places (room, 2), following (room,): the vertices and, of those in one slot, the next; slots: the first of each, or -1.
    """
    mask = len(slots) - 1
    for n in range(len(points)):
        x, y = points[n, 0], points[n, 1]
        column, row = int(np.floor(x / eps)), int(np.floor(y / eps))
        best, nearest = eps * eps, -1
        for dy in range(-1, 2):
            for dx in range(-1, 2):
                at = slots[_slot(column + dx, row + dy, mask)]
                while at >= 0:
                    away = (places[at, 0] - x) ** 2 + (places[at, 1] - y) ** 2
                    if away < best or (away == best and (nearest < 0 or at < nearest)):
                        best, nearest = away, at
                    at = following[at]
        if nearest < 0 and may_add:
            nearest = count
            places[count, 0], places[count, 1] = x, y
            slot = _slot(column, row, mask)
            following[count] = slots[slot]
            slots[slot] = count
            count += 1
        which[n] = nearest
    return count


class Vertices:
    """Points no two of which are nearer than eps (mm). They never move."""

    def __init__(self, eps: float) -> None:
        self.eps = eps
        self.count = 0
        self._places = np.empty((0, 2))
        self._room(1024)

    @property
    def places(self) -> NDArray[np.float64]:
        """(V, 2)."""
        return self._places[: self.count]

    def at(self, points: NDArray[np.float64]) -> NDArray[np.int32]:
        """The vertex of each point : (N, 2), made where there is none yet. Returns (N,)."""
        if self.count + len(points) > len(self._places):
            self._room(2 * (self.count + len(points)))
        which = np.empty(len(points), np.int32)
        self.count = _cover(np.ascontiguousarray(points), self.eps, True, self._places, self.count, self._slots, self._following,
                            which)
        return which

    def _room(self, size: int) -> None:
        old = self._places[: self.count].copy() if self.count else np.empty((0, 2))
        self._places, self._following = np.empty((size, 2)), np.empty(size, np.int64)
        self._slots = np.full(1 << int(np.ceil(np.log2(2 * size))), -1, np.int64)
        which = np.empty(len(old), np.int32)
        # Each is its own nearest, so they come back in the same order.
        self.count = _cover(old, self.eps, True, self._places, 0, self._slots, self._following, which) if len(old) else 0
