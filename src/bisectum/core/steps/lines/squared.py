"""Edges that are level, upright or at 45° but for the uncertainty of measuring are made exactly so.

Nodes that level edges join get one height, nodes that upright edges join one place across; that holds for junctions too,
so that a line running on through several areas stays one line. What is left of a 45° edge's slant goes to its free ends.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

CERTAIN = 0.03  # px an end may be off where there is no noise
PER_NOISE = 1.0  # px more for each px of noise
MOST_SLANT = 0.02  # of an edge's length
SHORTEST = 4.0  # px
SMOOTH = 0.03  # radians within which a curve runs on from an edge

Curves = list[NDArray[np.float64]]


def square_up(
    curves: Curves, straight: list[NDArray[np.bool_]], refined: NDArray[np.bool_], ends: NDArray[np.int32],
    junctions: NDArray[np.float64], noises: NDArray[np.float64], size: tuple[int, int],
) -> tuple[Curves, NDArray[np.float64], float]:
    """curves, straight: each chain's segments (S, 4, 2) and which of them are lines; refined : (C,), see ChainPoints.

    ends, junctions: see PlanarMap; noises : (C,), px; size: width and height of the picture, px. Returns the curves, the
    junctions, and the farthest a node was moved.
    """
    nodes, first, last = _numbered(curves, ends, junctions)
    counts = [len(own) for own in curves]
    lines = np.concatenate(straight) & np.repeat(refined, counts)
    moved = nodes.copy()
    tolerance = CERTAIN + PER_NOISE * np.repeat(noises, counts)
    bound = np.zeros(nodes.shape, bool)
    bound[: len(junctions)] = True  # a junction moves for level and upright edges only
    for axis in (1, 0):
        _align(moved, nodes, bound, first, last, lines, axis, tolerance, float(size[axis]))
    _slant(moved, nodes, bound, first, last, lines, tolerance)
    shift = moved - nodes
    if not shift.any():
        return curves, junctions, 0.0
    whole = _shifted(np.concatenate(curves), np.concatenate(straight), shift[first], shift[last])
    whole[:, 0], whole[:, 3] = moved[first], moved[last]
    _carry_on(whole, np.concatenate(straight), curves, first, last)
    result = np.split(whole, np.cumsum(counts)[:-1])
    return list(result), moved[: len(junctions)], float(np.hypot(*shift.T).max())


def _numbered(
    curves: Curves, ends: NDArray[np.int32], junctions: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64]]:
    """All nodes, junctions first, and the numbers of each segment's first and last one."""
    nodes, first, last = [junctions], [], []
    used = len(junctions)
    for own, (start, stop) in zip(curves, ends.tolist(), strict=True):
        inner = own[:, 0] if start < 0 else own[1:, 0]
        numbers = used + np.arange(len(inner))
        used += len(inner)
        nodes.append(inner)
        chain = np.append(numbers, numbers[:1]) if start < 0 else np.concatenate([[start], numbers, [stop]])
        first.append(chain[:-1])
        last.append(chain[1:])
    return np.concatenate(nodes), np.concatenate(first), np.concatenate(last)


def _align(
    moved: NDArray[np.float64], nodes: NDArray[np.float64], bound: NDArray[np.bool_], first: NDArray[np.int64],
    last: NDArray[np.int64], lines: NDArray[np.bool_], axis: int, tolerance: NDArray[np.float64], frame: float,
) -> None:
    """Give all nodes joined by lines across `axis` the same coordinate; the picture's frame keeps its own."""
    step = nodes[last] - nodes[first]
    along, across = np.abs(step[:, 1 - axis]), np.abs(step[:, axis])
    chosen = np.flatnonzero(lines & (across <= tolerance) & (across <= MOST_SLANT * along) & (along >= SHORTEST))
    most = float(tolerance[chosen].max(initial=0.0))
    parents: dict[int, int] = {}

    def top(item: int) -> int:
        while parents.setdefault(item, item) != item:
            item = parents[item]
        return item

    for one, other in zip(first[chosen].tolist(), last[chosen].tolist(), strict=True):
        parents[top(one)] = top(other)
    groups: dict[int, list[int]] = {}
    for item in parents:
        groups.setdefault(top(item), []).append(item)
    weight = np.zeros(len(nodes))
    np.add.at(weight, first[chosen], along[chosen])
    np.add.at(weight, last[chosen], along[chosen])
    for members in groups.values():
        values = nodes[members, axis]
        if np.ptp(values) > 2 * most:
            continue  # a flight of slanting edges, not one line
        on_frame = values[(values == 0.0) | (values == frame)]
        bound[members, axis] = True
        moved[members, axis] = on_frame[0] if len(on_frame) else np.average(values, weights=weight[members])


def _slant(
    moved: NDArray[np.float64], nodes: NDArray[np.float64], bound: NDArray[np.bool_], first: NDArray[np.int64],
    last: NDArray[np.int64], lines: NDArray[np.bool_], tolerance: NDArray[np.float64],
) -> None:
    """Make edges at 45° exactly so, by coordinates of their ends that nothing else has bound."""
    step = nodes[last] - nodes[first]
    off = np.abs(step[:, 0]) - np.abs(step[:, 1])
    size = np.hypot(*step.T)
    near = np.abs(off) <= math.sqrt(2) * np.minimum(tolerance, MOST_SLANT * size)
    for number in np.flatnonzero(lines & near & (size >= SHORTEST)).tolist():
        one, other = int(first[number]), int(last[number])
        free = [(end, axis) for end in (one, other) for axis in (0, 1) if not bound[end, axis]]
        way = moved[other] - moved[one]
        excess = abs(way[0]) - abs(way[1])
        for end, axis in free:
            away = np.sign(way[axis]) * (1 if end == other else -1)  # the direction in which the edge gets longer
            moved[end, axis] += (-away if axis == 0 else away) * excess / len(free)
            bound[end, axis] = True


def _shifted(
    segments: NDArray[np.float64], straight: NDArray[np.bool_], start: NDArray[np.float64], end: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Segments whose ends are moved, and whose handles go with them."""
    result = segments.copy()
    result[:, :2] += start[:, None]
    result[:, 2:] += end[:, None]
    lines = result[straight]
    chord = lines[:, 3] - lines[:, 0]
    lines[:, 1], lines[:, 2] = lines[:, 0] + chord / 3, lines[:, 0] + chord * (2 / 3)
    result[straight] = lines
    return result


def _carry_on(
    whole: NDArray[np.float64], straight: NDArray[np.bool_], before: Curves, first: NDArray[np.int64], last: NDArray[np.int64]
) -> None:
    """Let curves that ran on from an edge without a bend do so from the edge as it lies now."""
    old = np.concatenate(before)
    counts = np.array([len(own) for own in before])
    begins = np.cumsum(counts) - counts
    following = np.arange(1, len(old) + 1)
    following[begins + counts - 1] = begins
    for number in np.flatnonzero((straight != straight[following]) & (last == first[following])).tolist():
        after = int(following[number])
        line, curve, handle, node = (number, after, 1, 0) if straight[number] else (after, number, 2, 3)
        was = old[line, 3] - old[line, 0], old[curve, handle] - old[curve, node]
        forward = was[1] if handle == 1 else -was[1]
        if abs(math.atan2(was[0][0] * forward[1] - was[0][1] * forward[0], float(was[0] @ forward))) > SMOOTH:
            continue
        way = whole[line, 3] - whole[line, 0]
        reach = math.hypot(*was[1]) / max(1e-12, math.hypot(*way))
        whole[curve, handle] = whole[curve, node] + way * (reach if handle == 1 else -reach)
