"""From the planar map to the rings of one layer: the outline of a set of faces, along the shared lines."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.artwork import Piece, Ring
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap

STRAIGHT_ON_MM = 0.001  # how far a node may be off the line through its neighbours to be left out


def pieces_of_faces(planar: PlanarMap, inside: NDArray[np.bool_], join_lines: bool) -> tuple[Piece, ...]:
    """The pieces that faces form together. inside : (F + 1,) bool, the last for what lies beyond the picture.

    join_lines: leave out nodes that a line no longer shown has left on a straight one. Pieces come in the order of
    their first chain.
    """
    group = _groups(planar, inside)
    outlines: dict[int, Ring] = {}
    windows: dict[int, list[Ring]] = {}
    for face, loop in planar.loops(inside):
        parts = [planar.walk(half) for half in loop]
        segments, straight = np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts])
        if join_lines:
            segments, straight = _joined(segments, straight)
        ring = Ring(frozen(segments), frozen(straight))
        if ring.signed_area > 0:
            outlines[group[face]] = ring
        else:
            windows.setdefault(group[face], []).append(ring)
    return tuple(Piece(ring, tuple(windows.get(number, ()))) for number, ring in outlines.items())


def _groups(planar: PlanarMap, inside: NDArray[np.bool_]) -> list[int]:
    """For each face the number of the connected set of inside faces it belongs to."""
    parents = list(range(len(inside)))

    def top(item: int) -> int:
        while parents[item] != item:
            parents[item] = parents[parents[item]]
            item = parents[item]
        return item

    for left, right in planar.sides:
        if inside[left] and inside[right]:
            parents[top(int(left) % len(inside))] = top(int(right) % len(inside))
    return [top(face) for face in range(len(inside))]


def _joined(segments: NDArray[np.float64], straight: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """Join straight segments that go straight on into each other."""
    if straight.sum() < 2 or len(segments) < 4:
        return segments, straight
    before, after = np.roll(segments, 1, axis=0), segments
    start, node, end = before[:, 0], after[:, 0], after[:, 3]
    along = end - start
    size = np.maximum(np.hypot(*along.T), 1e-12)
    off = np.abs((node - start)[:, 0] * along[:, 1] - (node - start)[:, 1] * along[:, 0]) / size
    forward = ((node - start) * (end - node)).sum(axis=1) > 0
    drop = straight & np.roll(straight, 1) & (off < STRAIGHT_ON_MM) & forward
    if not drop.any() or (~drop).sum() < 3:
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
