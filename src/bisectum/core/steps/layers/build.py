"""From the planar map to the rings of one layer: the outline of a set of faces, along the shared lines."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.artwork import Piece, Ring
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.forest import groups_of

STRAIGHT_ON_MM = 0.001  # how far a node may be off the line through its neighbours to be left out


def pieces_of_faces(planar: PlanarMap, inside: NDArray[np.bool_], join_lines: bool) -> tuple[Piece, ...]:
    """The pieces that faces form together. inside : (F + 1,) bool, the last for what lies beyond the picture.

    join_lines: leave out nodes that a line no longer shown has left on a straight one. Pieces come in the order of
    their first chain.
    """
    group, areas = _groups(planar, inside).tolist(), planar.half_areas()
    outlines: dict[int, Ring] = {}
    windows: dict[int, list[Ring]] = {}
    for face, loop in planar.loops(inside):
        parts = [planar.walk(half) for half in loop]
        segments, straight = np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts])
        if join_lines:
            segments, straight = _joined(segments, straight)
        ring = Ring(frozen(segments), frozen(straight))
        if areas[loop].sum() > 0:
            outlines[group[face]] = ring
        else:
            windows.setdefault(group[face], []).append(ring)
    return tuple(Piece(ring, tuple(windows.get(number, ()))) for number, ring in outlines.items())


def _groups(planar: PlanarMap, inside: NDArray[np.bool_]) -> NDArray[np.int32]:
    """For each face the number of the connected set of inside faces it belongs to."""
    shared = planar.sides[inside[planar.sides].all(axis=1)]
    return groups_of(shared % len(inside), len(inside))


@kernel("i8(f8[:,:,:], b1[:], f8, b1[:]!)")
def _needless(segments, straight, most, drop):  # type: ignore[no-untyped-def]
    """Mark the straight segments that go on straight, to `most`, from the one before. Returns how many."""
    n, used = len(segments), 0
    for i in range(n):
        drop[i] = False
        if not (straight[i] and straight[i - 1]):
            continue
        ax, ay = segments[i, 0, 0] - segments[i - 1, 0, 0], segments[i, 0, 1] - segments[i - 1, 0, 1]
        bx, by = segments[i, 3, 0] - segments[i, 0, 0], segments[i, 3, 1] - segments[i, 0, 1]
        size = max(1e-12, np.sqrt((ax + bx) ** 2 + (ay + by) ** 2))
        drop[i] = abs(ax * (ay + by) - ay * (ax + bx)) < most * size and ax * bx + ay * by > 0.0
        used += int(drop[i])
    return used


def _joined(segments: NDArray[np.float64], straight: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """Join straight segments that go straight on into each other."""
    drop = np.empty(len(segments), bool)
    count = _needless(segments, straight, STRAIGHT_ON_MM, drop)
    if not count or len(segments) < count + 3:
        return segments, straight
    keep = np.flatnonzero(~drop)
    starts = segments[keep, 0]
    ends = np.roll(starts, -1, axis=0)
    result = segments[keep].copy()
    flat = straight[keep]
    for share, place in ((0, 0), (1 / 3, 1), (2 / 3, 2), (1, 3)):
        result[flat, place] = starts[flat] + (ends[flat] - starts[flat]) * share
    result[flat, 3] = ends[flat]
    return result, flat
