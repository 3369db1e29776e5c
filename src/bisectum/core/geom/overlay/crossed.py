"""Where curves cross each other that should not, and how deeply."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.overlay.meeting import cross_pairs, project_pairs
from bisectum.core.geom.overlay.network import boxes_of, points_on

LOOKS = 8  # places on either side of a crossing at which it is asked how far the curves are apart
Crossing = tuple[int, int, float, float]


def deep_crossings(segments: NDArray[np.float64], chains: NDArray[np.int64], depth: float) -> list[Crossing]:
    """Crossings of joined curves at which both go on to more than `depth` (mm) from each other, on both sides.

    segments : (S, 4, 2); chains : (S,), which path each belongs to. Curves that only touch, or run within `depth` of each other,
    do not cross. Returns pairs of paths, the same twice where one crosses itself, with the place.
    """
    pairs, ends, places = _pairs(segments)
    owner, found = _found(segments, ends, places, pairs, depth)
    result: list[Crossing] = []
    for (one, other), (t, u) in zip(pairs[owner].tolist(), found.tolist(), strict=True):
        if _goes_through(segments, chains, one, t, other, depth) and _goes_through(segments, chains, other, u, one, depth):
            x, y = points_on(segments[[one]], np.array([t]))[0]
            result.append((int(chains[one]), int(chains[other]), float(x), float(y)))
    return result


def crossings_left(
    curves: NDArray[np.float64], ends: NDArray[np.int32], vertices: NDArray[np.float64], near: float
) -> NDArray[np.float64]:
    """Where curves (E, 4, 2) still cross, but within `near` of vertices at which both end. Returns (K, 2)."""
    curves = np.ascontiguousarray(curves)
    pairs = _pairs(curves)[0]
    owner, found = _found(curves, np.ascontiguousarray(ends), vertices, pairs, near)
    return points_on(curves[pairs[owner, 0]], found[:, 0])


def _found(
    curves: NDArray[np.float64], ends: NDArray[np.int32], vertices: NDArray[np.float64], pairs: NDArray[np.int64], near: float
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The crossings of pairs: which pair each is of, and t and u : (K, 2)."""
    room = 64
    while True:
        owner, found = np.empty(room, np.int64), np.empty((room, 2))
        count = cross_pairs(curves, ends, vertices, pairs, near, owner, found)
        if count <= room:
            return owner[:count], found[:count]
        room = count


def _pairs(segments: NDArray[np.float64]) -> tuple[NDArray[np.int64], NDArray[np.int32], NDArray[np.float64]]:
    """Curves whose boxes overlap : (M, 2), and the ends of all as numbers of places."""
    import shapely  # takes its time to load

    places, which = np.unique(segments[:, [0, 3]].reshape(-1, 2), axis=0, return_inverse=True)
    boxes = boxes_of(segments, 0.0)
    one, other = shapely.STRtree(boxes).query(boxes)
    pairs = np.stack([one, other], axis=1)[one < other]
    order = np.lexsort((pairs[:, 1], pairs[:, 0]))
    return np.ascontiguousarray(pairs[order]), which.reshape(-1, 2).astype(np.int32), np.ascontiguousarray(places)


def _goes_through(
    segments: NDArray[np.float64], chains: NDArray[np.int64], one: int, t: float, other: int, depth: float
) -> bool:
    """Whether a curve is more than `depth` from the path of another one on both sides of where they cross.

    Lines that run on straight through a node they share seem to cross a little beside it; there the other path is not.
    """
    path = np.flatnonzero(chains == chains[other])
    path = path[path != one]
    for low, high in ((0.0, t), (t, 1.0)):
        looks = points_on(np.repeat(segments[[one]], LOOKS, axis=0), np.linspace(low, high, LOOKS))
        pairs = np.stack(np.meshgrid(path, np.arange(LOOKS), indexing="ij"), axis=-1).reshape(-1, 2)
        found = np.empty((len(pairs), 2))
        project_pairs(segments, looks, np.ascontiguousarray(pairs), depth, found)
        near = np.zeros(LOOKS, bool)
        near[pairs[found[:, 0] >= 0, 1]] = True
        if near.all() or not near[-1 if low == 0.0 else 0]:
            return False
    return True
