"""Edges that are level, upright or at 45° but for the uncertainty of measuring are made exactly so.

Nodes that level edges join get one height, nodes that upright edges join one place across; that holds for junctions too,
so that a line running on through several areas stays one line. What is left of a 45° edge's slant goes to its free ends.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.joint import SMOOTH
from bisectum.core.raster.forest import groups_of
from bisectum.core.steps.lines.zones import LEAST_TOLERANCE

PER_NOISE = 1.0  # px more for each px of noise
SHORTEST = 4.0  # px

Curves = list[NDArray[np.float64]]


@dataclass(frozen=True, slots=True)
class _Net:
    """Nodes and the segments between them. nodes : (N, 2), px, as they were; moved : (N, 2), as they become; bound : (N, 2) bool,
    coordinates that stay; first, last : (S,), the nodes at a segment's ends; lines : (S,) bool, straight and well known;
    tolerance : (S,), px."""

    nodes: NDArray[np.float64]
    moved: NDArray[np.float64]
    bound: NDArray[np.bool_]
    first: NDArray[np.int64]
    last: NDArray[np.int64]
    lines: NDArray[np.bool_]
    tolerance: NDArray[np.float64]


def square_up(
    curves: Curves, straight: list[NDArray[np.bool_]], refined: NDArray[np.bool_], ends: NDArray[np.int32],
    junctions: NDArray[np.float64], noises: NDArray[np.float64], size: tuple[int, int],
) -> tuple[Curves, NDArray[np.float64], float]:
    """curves, straight: each chain's segments (S, 4, 2) and which of them are lines; refined : (C,), see ChainPoints.

    ends, junctions: see PlanarMap; noises : (C,), px; size: width and height of the picture, px. Returns the curves, the
    junctions, and the farthest a node was moved.
    """
    old, flat, counts = np.concatenate(curves), np.concatenate(straight), np.array([len(own) for own in curves])
    nodes, first, last = _numbered(old, counts, ends, junctions)
    bound = np.zeros(nodes.shape, bool)
    bound[: len(junctions)] = True  # a junction moves for level and upright edges only
    tolerance = LEAST_TOLERANCE + PER_NOISE * np.repeat(noises, counts)
    net = _Net(nodes, nodes.copy(), bound, first, last, flat & np.repeat(refined, counts), tolerance)
    for axis in (1, 0):
        _align(net, axis, float(size[axis]))
    _slant(net)
    moved = net.moved
    shift = moved - nodes
    if not shift.any():
        return curves, junctions, 0.0
    whole = _shifted(old, flat, shift[first], shift[last])
    whole[:, 0], whole[:, 3] = moved[first], moved[last]
    _carry_on(whole, flat, old, counts, first, last)
    result = np.split(whole, np.cumsum(counts)[:-1])
    return list(result), moved[: len(junctions)], float(np.hypot(*shift.T).max())


def _numbered(
    whole: NDArray[np.float64], counts: NDArray[np.int64], ends: NDArray[np.int32], junctions: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64]]:
    """All nodes, junctions first, and the numbers of each segment's first and last one."""
    begins, is_open = np.cumsum(counts) - counts, ends[:, 0] >= 0
    inner = np.ones(len(whole), bool)
    inner[begins[is_open]] = False
    first = len(junctions) + np.cumsum(inner) - 1
    first[begins[is_open]] = ends[is_open, 0]
    last = np.roll(first, -1)
    last[begins + counts - 1] = np.where(is_open, ends[:, 1], first[begins])
    return np.concatenate([junctions, whole[inner, 0]]), first, last


def _align(net: _Net, axis: int, frame: float) -> None:
    """Give all nodes joined by lines across `axis` the same coordinate; the picture's frame keeps its own."""
    nodes, first, last, tolerance = net.nodes, net.first, net.last, net.tolerance
    step = nodes[last] - nodes[first]
    along, across = np.abs(step[:, 1 - axis]), np.abs(step[:, axis])
    chosen = np.flatnonzero(net.lines & (across <= tolerance) & (along >= SHORTEST))
    most = float(tolerance[chosen].max(initial=0.0))
    pairs = np.stack([first[chosen], last[chosen]], axis=1).astype(np.int32)
    members = np.unique(pairs)
    group: NDArray[np.int64] = np.unique(groups_of(pairs, len(nodes))[members], return_inverse=True)[1]
    count = int(group.max(initial=-1)) + 1
    values, weight = nodes[members, axis], np.zeros(len(nodes))
    np.add.at(weight, pairs, along[chosen, None])
    low, high = np.full(count, np.inf), np.full(count, -np.inf)
    np.minimum.at(low, group, values)
    np.maximum.at(high, group, values)
    place = np.bincount(group, weight[members] * values, count) / np.bincount(group, weight[members], count)
    on_frame = (values == 0.0) | (values == frame)
    place[group[on_frame]] = values[on_frame]
    one_line = (high - low <= 2 * most)[group]  # not a flight of slanting edges
    net.bound[members[one_line], axis] = True
    net.moved[members[one_line], axis] = place[group[one_line]]


def _slant(net: _Net) -> None:
    """Make edges at 45° exactly so, by coordinates of their ends that nothing else has bound."""
    moved, bound = net.moved, net.bound
    step = net.nodes[net.last] - net.nodes[net.first]
    off = np.abs(step[:, 0]) - np.abs(step[:, 1])
    size = np.hypot(*step.T)
    near = np.abs(off) <= math.sqrt(2) * net.tolerance
    for number in np.flatnonzero(net.lines & near & (size >= SHORTEST)).tolist():
        one, other = int(net.first[number]), int(net.last[number])
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
    whole: NDArray[np.float64], straight: NDArray[np.bool_], old: NDArray[np.float64], counts: NDArray[np.int64],
    first: NDArray[np.int64], last: NDArray[np.int64],
) -> None:
    """Let curves that ran on from an edge without a bend do so from the edge as it lies now."""
    begins, following = np.cumsum(counts) - counts, np.arange(1, len(old) + 1)
    following[begins + counts - 1] = begins
    before = np.flatnonzero((straight != straight[following]) & (last == first[following]))
    leaves = straight[before]  # the edge comes first
    line, curve = np.where(leaves, before, following[before]), np.where(leaves, following[before], before)
    handle, node, sign = np.where(leaves, 1, 2), np.where(leaves, 0, 3), np.where(leaves, 1.0, -1.0)
    edge, reach = old[line, 3] - old[line, 0], old[curve, handle] - old[curve, node]
    cross, along = sign * (edge[:, 0] * reach[:, 1] - edge[:, 1] * reach[:, 0]), sign * (edge * reach).sum(axis=1)
    way = whole[line, 3] - whole[line, 0]
    share = sign * np.hypot(*reach.T) / np.maximum(1e-12, np.hypot(*way.T))
    on = (np.abs(np.arctan2(cross, along)) <= SMOOTH) & (np.hypot(*edge.T) > 0) & (np.hypot(*way.T) > 0)
    whole[curve[on], handle[on]] = (whole[curve, node] + way * share[:, None])[on]
