"""Lines drawn by hand: a stroke of the pointer becomes few nodes, and these a closed piece or a line of a set width."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import bounds, line_segments
from bisectum.core.geom.local_fit import arc_lengths
from bisectum.core.geom.outline import corners_of, fit_outline
from bisectum.core.geom.sweep import swept
from bisectum.core.items.ready import Rings
from bisectum.core.items.settings import MOST_NODES, Drawn, Node

CLOSE = 0.12  # of the stroke's length: ends that come nearer than this to each other are joined
SPACING = 0.8  # of a pixel on the screen: how far apart the points are that a line is fitted to
CORNER = 0.9  # radians a drawn line turns by before it is a corner; a hand is not steadier
STEADY = 1.5  # pixels on the screen a hand strays by from what it means to draw


def nodes_of_stroke(points: NDArray[np.float64], mm_per_px: float) -> tuple[tuple[Node, ...], bool, tuple[float, float]]:
    """The nodes of a stroke of the pointer. points : (N, 2), mm; mm_per_px: what a pixel of the screen was then.

    Returns them, whether the line is closed, and the middle they are told from, mm. Raises: SettingsError for a mere dot.
    """
    scaled = points / mm_per_px
    length = float(np.hypot(*np.diff(scaled, axis=0).T).sum()) if len(scaled) > 1 else 0.0
    if length < 6:
        raise SettingsError("That was only a dot; draw a line.", code="stroke_too_short")
    closed = bool(np.hypot(*(scaled[-1] - scaled[0])) < CLOSE * length)
    even = _evenly(np.concatenate([scaled, scaled[:1]]) if closed else scaled, closed)
    room = 2 * len(even) + 16
    corners = np.empty(room, np.int64), np.empty((room, 2)), np.empty(room), np.empty((room, 10))
    found = corners_of(even, closed, STEADY, CORNER, 4.0, *corners)
    curves, straight, worst = np.empty((room, 4, 2)), np.empty(room, bool), np.empty(1)
    count = fit_outline(even, closed, found, *corners, STEADY, True, np.full(found + 1, STEADY), curves, straight, worst)
    segments = curves[:count] * mm_per_px
    if count > MOST_NODES:
        raise SettingsError(f"This line has more than {MOST_NODES} bends; draw it in parts.", code="stroke_too_long",
                            most=MOST_NODES)
    left, top, right, bottom = bounds(segments)
    middle = np.array([(left + right) / 2, (top + bottom) / 2])
    return _nodes(segments - middle, straight[:count], closed), closed, (float(middle[0]), float(middle[1]))


def _evenly(points: NDArray[np.float64], closed: bool) -> NDArray[np.float64]:
    along = arc_lengths(np.ascontiguousarray(points))
    keep = np.append(True, np.diff(along) > 1e-9)
    points, along = points[keep], along[keep]
    count = max(8, int(along[-1] / SPACING))
    wanted = np.linspace(0, along[-1], count + 1)
    even = np.stack([np.interp(wanted, along, points[:, 0]), np.interp(wanted, along, points[:, 1])], axis=1)
    return np.ascontiguousarray(even[:-1] if closed else even)


def _nodes(segments: NDArray[np.float64], straight: NDArray[np.bool_], closed: bool) -> tuple[Node, ...]:
    count = len(segments)
    result = []
    for k in range(count if closed else count + 1):
        own, before = segments[k % count], segments[(k - 1) % count]
        place = own[0] if k < count else before[3]
        leaves = own[1] - own[0] if (closed or k < count) and not straight[k % count] else np.zeros(2)
        comes = before[2] - before[3] if (closed or k > 0) and not straight[(k - 1) % count] else np.zeros(2)
        values = np.round([*place, *comes, *leaves], 3).tolist()
        result.append(Node(x=values[0], y=values[1], in_x=values[2], in_y=values[3], out_x=values[4], out_y=values[5]))
    return tuple(result)


def segments_of(drawn: Drawn) -> Rings:
    """The line itself, through its nodes: (S, 4, 2), and which segments are straight."""
    rows = np.array([(n.x, n.y, n.in_x, n.in_y, n.out_x, n.out_y) for n in drawn.nodes])
    place, comes, leaves = rows[:, :2], rows[:, 2:4], rows[:, 4:]
    after = np.arange(1, len(rows) + (1 if drawn.closed else 0)) % len(rows)
    start = np.arange(len(after))
    segments = np.stack([place[start], place[start] + leaves[start], place[after] + comes[after], place[after]], axis=1)
    straight = ~(leaves[start].any(axis=1) | comes[after].any(axis=1))
    segments[straight] = line_segments_of(segments[straight])
    return segments, np.asarray(straight)


def line_segments_of(segments: NDArray[np.float64]) -> NDArray[np.float64]:
    """Straight segments from where others begin to where they end."""
    return np.concatenate([line_segments(one[[0, 3]]) for one in segments]) if len(segments) else segments


def drawn_rings(drawn: Drawn) -> Rings:
    """What is cut: the closed line, or all within half its width of an open one."""
    segments, straight = segments_of(drawn)
    if drawn.closed:
        return segments, straight
    there_and_back = np.concatenate([segments, segments[::-1, ::-1]])
    both = np.concatenate([straight, straight[::-1]])
    return swept(there_and_back, both, np.array([0, len(both)]), drawn.width_mm / 2)
