"""From the planar map to the rings of one layer: the outline of a set of faces, along the shared lines."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Piece
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.forest import groups_of
from bisectum.core.units import RESOLUTION_MM

AT_ONCE = 500  # rings between two looks at the progress


def pieces_of_faces(
    planar: PlanarMap, inside: NDArray[np.bool_], join_lines: bool, progress: Progress = SILENT
) -> tuple[Piece, ...]:
    """The pieces that faces form together. inside : (F + 1,) bool, the last for what lies beyond the picture.

    join_lines: leave out nodes that a line no longer shown has left on a straight one. Pieces come in the order of
    their first chain. Raises: Cancelled.
    """
    group, areas = connected_faces(planar, inside).tolist(), planar.half_areas()
    outlines: dict[int, Path] = {}
    windows: dict[int, list[Path]] = {}
    for number, (face, loop) in enumerate(planar.loops(inside)):
        if number % AT_ONCE == 0:
            progress.raise_if_cancelled()
        parts = [planar.walk(half) for half in loop]
        segments, straight = np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts])
        if join_lines:
            segments, straight = _joined(segments, straight)
        ring = Path(frozen(segments), frozen(straight))
        if areas[loop].sum() > 0:
            outlines[group[face]] = ring
        else:
            windows.setdefault(group[face], []).append(ring)
    return tuple(Piece(ring, tuple(windows.get(number, ()))) for number, ring in outlines.items())


def connected_faces(planar: PlanarMap, inside: NDArray[np.bool_]) -> NDArray[np.int32]:
    """For each face the number of the connected set of inside faces it belongs to."""
    shared = planar.sides[inside[planar.sides].all(axis=1)]
    return groups_of(shared % len(inside), len(inside))


@kernel("i8(f8[:,:,:], b1[:], f8, b1[:]!)")
def _needless(segments, straight, most, drop):  # type: ignore[no-untyped-def]
    """Mark the straight segments that go on straight from those before: all nodes between are within `most` of the line
    that stays. Returns how many."""
    n, used = len(segments), 0
    for i in range(n):
        drop[i] = False
    start = 0  # the segment that the line under way begins with
    for i in range(1, n):
        on = straight[i] and straight[start]
        x, y = segments[start, 0, 0], segments[start, 0, 1]
        dx, dy = segments[i, 3, 0] - x, segments[i, 3, 1] - y
        size = max(1e-12, np.sqrt(dx * dx + dy * dy))
        for k in range(start + 1, i + 1):
            if not on:
                break
            ex, ey = segments[k, 0, 0] - x, segments[k, 0, 1] - y
            along = (ex * dx + ey * dy) / size
            on = abs(ex * dy - ey * dx) < most * size and 0.0 < along < size
        if on:
            drop[i] = True
            used += 1
        else:
            start = i
    return used


def _joined(segments: NDArray[np.float64], straight: NDArray[np.bool_]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """Join straight segments that go straight on into each other."""
    last = np.arange(-1, len(segments) - 1)  # of each segment the one before it; np.roll takes many times as long on few
    both = straight & straight[last]
    if not both.any():
        return segments, straight
    # Begin at a node that stays, if there is one: what runs on over the ring's first node is seen then.
    way = segments[:, 3] - segments[:, 0]
    before = way[last]
    turns = np.abs(before[:, 0] * way[:, 1] - before[:, 1] * way[:, 0]) > RESOLUTION_MM * np.hypot(*(before + way).T)
    stays = np.flatnonzero(turns | ~both)
    if len(stays) and stays[0]:
        turned = np.arange(stays[0], stays[0] + len(segments)) % len(segments)
        segments, straight = segments[turned], straight[turned]
    drop = np.empty(len(segments), bool)
    count = _needless(segments, straight, RESOLUTION_MM, drop)
    if not count or len(segments) < count + 3:
        return segments, straight
    keep = np.flatnonzero(~drop)
    starts = segments[keep, 0]
    ends = starts[np.arange(1, len(starts) + 1) % len(starts)]
    result = segments[keep].copy()
    flat = straight[keep]
    for share, place in ((0, 0), (1 / 3, 1), (2 / 3, 2), (1, 3)):
        result[flat, place] = starts[flat] + (ends[flat] - starts[flat]) * share
    result[flat, 3] = ends[flat]
    return result, flat
