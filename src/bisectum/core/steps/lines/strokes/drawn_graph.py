"""What is drawn in strokes as smooth lines between nodes.

The skeleton's junctions lie where thinning leaves them, and its chains bend near them. So points near a junction are not used:
it comes to lie where the lines that end at it meet, and lines that go straight on through it are one line. Inside a chain a sharp
bend is such a node, too.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.raster.skeleton import Skeleton, skeleton_graph
from bisectum.core.raster.thinning import thinned
from bisectum.core.steps.lines.strokes.centred import Points, centred, end_of

CLEAR, CLEAR_OF_BEND = 1.1, 0.65  # pens about a junction, and about a sharp bend, whose points say nothing
SPUR = 0.9  # pens, the length of what thinning leaves of an uneven edge
SAME = 1.0  # pens between two junctions that are one crossing
BROAD, LONGEST_WEDGE = 1.2, 6.0  # pens: what two lines are together, and how far they run so
CONCENTRATED = 0.4  # of a corner's angle, by which a line turns at least where all of it is in one place
LOOK, LOOK_FAR, STRAIGHT_PX = 3.5, 12.0, 0.25  # pens along a line that tell its direction at its end; if it is straight, so
MOST_DASH, FEWEST_DASHES = 12, 4  # pens a dash is long at most; short lines by themselves that are dashes
LONGEST_DASH = 2.6  # times the usual one: where dashes are of two lengths, or cross
STRAIGHT_ON = 32  # degrees a line may turn by where it goes on through a junction
SHARP = 0.15  # sine of an angle between two lines that still tells where they meet
FREE = -1


@dataclass(frozen=True, slots=True)
class Line:
    """points : (N, 2) float64, px, its ends exact. ends: its nodes, -1 for a free end; both -2 where it is closed. width: of the
    pen along it, px. is_dash: it is as short as a dash, and one of its ends is free at least. passes: nodes that it goes straight
    on through, each with the number of its point there, rising."""

    points: Points
    ends: tuple[int, int]
    width: float
    is_dash: bool = False
    passes: tuple[tuple[int, int], ...] = ()

    @property
    def closed(self) -> bool:
        return self.ends[0] == -2

    @property
    def length(self) -> float:
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


@dataclass(frozen=True, slots=True)
class DrawnGraph:
    """lines, and nodes : (J, 2) float64, px, where they meet."""

    lines: tuple[Line, ...]
    nodes: NDArray[np.float64]

    def check(self) -> None:
        """Raises: BrokenStructure where a line does not begin or end at its node."""
        for number, line in enumerate(self.lines):
            for end, place in ((line.ends[0], line.points[0]), (line.ends[1], line.points[-1])):
                if end >= 0 and np.abs(self.nodes[end] - place).max() > 1e-6:
                    raise BrokenStructure(f"Line {number} does not reach its node at {place[0]:.2f}, {place[1]:.2f}.")


@dataclass(slots=True)
class _Chain:
    """A chain while the graph is made: clear points only. Each end has a node or is free, a direction outwards, and may go on in
    the end of another chain."""

    points: Points
    nodes: list[int]
    width: float
    closed: bool = False
    is_dash: bool = False


def drawn_graph(amount: NDArray[np.float32], pen: float, corner_deg: float) -> DrawnGraph:
    """amount : (H, W), 1 for ink; pen: the usual width of a stroke, px; corner_deg: a bend sharper than this is a corner."""
    skeleton = skeleton_graph(thinned(amount > 0.5))
    chains, nodes = _chains(skeleton, amount, pen)
    split: list[_Chain] = []
    for chain in chains:
        split += _at_corners(chain, pen, corner_deg, nodes)
    return _joined(split, np.array(nodes).reshape(-1, 2), amount, pen, corner_deg)


def _chains(skeleton: Skeleton, amount: NDArray[np.float32], pen: float) -> tuple[list[_Chain], list[NDArray[np.float64]]]:
    """Chains without spurs, crossings as one node each."""
    ends = skeleton.ends.copy()
    sizes = np.array([len(chain) for chain in skeleton.chains])
    hangs = (ends == FREE).sum(axis=1) == 1
    root = np.arange(len(skeleton.junctions))

    def find(k: int) -> int:
        while root[k] != k:
            k = int(root[k])
        return k

    away = cv2.distanceTransform((amount > 0.5).astype(np.uint8), cv2.DIST_L2, 5)
    broad = np.array([_width_of(chain, np.asarray(away, np.float32)) for chain in skeleton.chains]) > BROAD * pen
    # Where two lines run into each other at a small angle, a broad one is left of both.
    spur = hangs & ((sizes < SPUR * pen) | (broad & (sizes < LONGEST_WEDGE * pen)))
    short = (ends >= 0).all(axis=1) & ((sizes < SAME * pen) | (broad & (sizes < LONGEST_WEDGE * pen)))
    for one, other in ends[short]:
        root[find(int(other))] = find(int(one))
    groups = np.array([find(k) for k in range(len(root))], int)
    places = [skeleton.junctions[groups == k].mean(axis=0) if (groups == k).any() else np.zeros(2) for k in range(len(root))]
    result = []
    dash = _dash_length(ends, sizes, pen)
    for number, points in enumerate(skeleton.chains):
        if spur[number] or short[number]:
            continue
        closed = bool(ends[number, 0] == -2)
        fine, widths = centred(points, amount, pen, closed)
        quarter = len(widths) // 4  # near its ends a line is narrower
        width = float(np.median(widths[quarter : len(widths) - quarter]))
        own = [int(groups[end]) if end >= 0 else int(end) for end in ends[number]]
        if not closed:
            keep = np.ones(len(fine), bool)
            for end in own:
                if end >= 0:
                    keep &= np.hypot(*(fine - places[end]).T) > CLEAR * pen
            keep[1:-1] &= ~_at_ends(widths > BROAD * width, own)[1:-1]
            kept = np.flatnonzero(keep)
            fine = fine[kept[0] : kept[-1] + 1] if len(kept) else fine[len(fine) // 2 : len(fine) // 2]
            fine = _without_free_ends(fine, own, pen)
        free = own.count(FREE)
        limit = LONGEST_DASH * dash if free == 2 else LONGEST_DASH * dash / 2 + pen
        result.append(_Chain(fine, own, width, closed, free > 0 and sizes[number] < limit))
    return result, places


def _width_of(chain: Points, away: NDArray[np.float32]) -> float:
    """The width of the ink along a chain of pixels, px. away : (H, W), the distance from the edge."""
    at = np.floor(chain).astype(int)
    return 2.0 * float(np.median(away[at[:, 1], at[:, 0]])) - 1.0 if len(chain) else 0.0


def _at_ends(broad: NDArray[np.bool_], nodes: list[int]) -> NDArray[np.bool_]:
    """Of what is too broad only that which reaches to a node. broad : (N,)."""
    result = np.zeros(len(broad), bool)
    thin = np.flatnonzero(~broad)
    if not len(thin):
        return result
    if nodes[0] >= 0:
        result[: thin[0]] = True
    if nodes[1] >= 0:
        result[thin[-1] + 1 :] = True
    return result


def _dash_length(ends: NDArray[np.int64], sizes: NDArray[np.int64], pen: float) -> float:
    """The usual length of dashes and dots, px, 0 where there are none: of short lines that touch no other."""
    alone = sizes[(ends == FREE).all(axis=1)]
    alone = alone[alone < MOST_DASH * pen]
    return float(np.median(alone)) + pen if len(alone) >= FEWEST_DASHES else 0.0


def _without_free_ends(points: Points, ends: list[int], pen: float) -> Points:
    """Near a free end the skeleton is drawn into a corner of it."""
    cut = round(0.6 * pen)
    low = cut if ends[0] == FREE and len(points) > 3 * cut else 0
    high = len(points) - (cut if ends[1] == FREE and len(points) > 3 * cut else 0)
    return points[low:high]


def _at_corners(chain: _Chain, pen: float, corner_deg: float, nodes: list[NDArray[np.float64]]) -> list[_Chain]:
    """A chain in parts, where it bends sharply; each bend is a new node."""
    points, closed = chain.points, chain.closed
    away, reach = round(CLEAR_OF_BEND * pen) + 1, round(2.2 * pen) + 1
    count = len(points)
    if count < 2 * (away + 2):
        return [chain]
    at = np.arange(count)
    reach = min(reach, count // 3)

    def place(shift: int) -> Points:
        return points[(at + shift) % count] if closed else points[np.clip(at + shift, 0, count - 1)]

    before, behind = place(-away) - place(-away - reach), place(away + reach) - place(away)
    turn = np.abs(np.arctan2(before[:, 0] * behind[:, 1] - before[:, 1] * behind[:, 0], (before * behind).sum(axis=1)))
    # A bend that is spread over the whole of what is looked at is a curve: a corner turns by more than its surroundings do.
    own = np.abs(_turn(place(-away), points, place(away)))
    turn = np.where(own > 0.55 * turn, turn, 0.0)
    if not closed:
        turn[: away + 2] = 0
        turn[count - away - 2 :] = 0
    found: list[int] = []
    for k in np.argsort(-turn, kind="stable"):
        if turn[k] < np.radians(CONCENTRATED * corner_deg):
            break
        apart = [min(abs(k - other), count - abs(k - other)) if closed else abs(k - other) for other in found]
        if all(gap > 2 * away for gap in apart):
            found.append(int(k))
    if not found:
        return [chain]
    found.sort()
    first = len(nodes)
    nodes += [points[k] for k in found]
    names = list(range(first, first + len(found)))
    parts = []
    if closed:
        spans = [(found[k], found[(k + 1) % len(found)], names[k], names[(k + 1) % len(found)]) for k in range(len(found))]
    else:
        marks, ids = [-away, *found, count - 1 + away], [chain.nodes[0], *names, chain.nodes[1]]
        spans = [(marks[k], marks[k + 1], ids[k], ids[k + 1]) for k in range(len(marks) - 1)]
    for low, high, one, other in spans:
        stop = high if high > low else high + count
        index = np.arange(low + away, stop - away + 1)
        parts.append(_Chain(points[index % count], [one, other], chain.width, is_dash=chain.is_dash))
    return parts


def _turn(before: Points, at: Points, behind: Points) -> NDArray[np.float64]:
    one, other = at - before, behind - at
    return np.arctan2(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0], (one * other).sum(axis=1))


def _joined(
    chains: list[_Chain], raw: NDArray[np.float64], amount: NDArray[np.float32], pen: float, corner_deg: float
) -> DrawnGraph:
    """Place the nodes, and make one line of chains that go straight on through them."""
    ends = [(k, side) for k, chain in enumerate(chains) if not chain.closed for side in (0, 1)]
    place = {end: _end(chains[end[0]], end[1], pen) for end in ends}
    at_node: dict[int, list[tuple[int, int]]] = {}
    for k, side in ends:
        if chains[k].nodes[side] >= 0:
            at_node.setdefault(chains[k].nodes[side], []).append((k, side))
    nodes = raw.copy()
    partner: dict[tuple[int, int], tuple[int, int]] = {}
    for node, own in at_node.items():
        sure = [end for end in own if place[end] is not None and not chains[end[0]].is_dash]
        known = [place[end] for end in (sure if len(sure) > 1 else own) if place[end] is not None]
        nodes[node] = _meeting(known, raw[node], pen)  # type: ignore[arg-type]
        for one, other in _straight_on([end for end in own if place[end] is not None], chains, place, pen, corner_deg):
            partner[one], partner[other] = other, one
    lines = [Line(np.concatenate([chain.points, chain.points[:1]]), (-2, -2), chain.width) for chain in chains if chain.closed]
    done: set[int] = set()
    for k, chain in enumerate(chains):
        if chain.closed or k in done:
            continue
        lines.append(_line(k, chains, partner, nodes, amount, pen, done))
    return DrawnGraph(tuple(lines), nodes)


def _end(chain: _Chain, side: int, pen: float) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """The last clear point of a chain and its direction outwards there; None where there are too few points."""
    points = chain.points if side == 1 else chain.points[::-1]
    if len(points) < 3:
        return None
    far = points[-max(8, round(LOOK_FAR * pen)) :]
    middle = far.mean(axis=0)
    _, _, axes = np.linalg.svd(far - middle, full_matrices=False)
    if float(np.abs((far - middle) @ np.array([-axes[0, 1], axes[0, 0]])).max()) < STRAIGHT_PX:
        way = axes[0] if float(axes[0] @ (far[-1] - far[0])) > 0 else -axes[0]
        return middle + way * float((far[-1] - middle) @ way), way
    return _direction(points[-max(4, round(LOOK * pen)) :])


def _direction(points: Points) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The last of points : (N, 2) and the direction there, by a parabola through them, or a line where they are few."""
    t = np.arange(len(points)) - (len(points) - 1.0)
    degree = 2 if len(points) >= 8 else 1
    fx, fy = np.polyfit(t, points[:, 0], degree), np.polyfit(t, points[:, 1], degree)
    way = np.array([fx[-2], fy[-2]])
    return np.array([fx[-1], fy[-1]]), way / max(float(np.hypot(*way)), 1e-9)


def _bend(chain: _Chain, side: int, pen: float) -> float:
    """How much a chain turns on a pixel near one of its ends, radians."""
    points = chain.points if side == 1 else chain.points[::-1]
    own = points[-max(8, round(LOOK * pen)) :]
    if len(own) < 8:
        return 0.0
    half = len(own) // 2
    one, other = own[half] - own[0], own[-1] - own[half]
    turn = abs(float(np.arctan2(one[0] * other[1] - one[1] * other[0], one @ other)))
    return turn / max(float(np.hypot(*(own[-1] - own[0]))) / 2, 1e-9)


def _meeting(
    known: list[tuple[NDArray[np.float64], NDArray[np.float64]]], raw: NDArray[np.float64], pen: float
) -> NDArray[np.float64]:
    """Where lines through points along directions meet, by least squares; a little drawn to the middle of those points, so that
    lines that run on in each other have a place, too."""
    if len(known) < 2:
        return raw
    total, right = np.zeros((2, 2)), np.zeros(2)
    middle = np.mean([point for point, _ in known], axis=0)
    for point, way in known:
        across = np.eye(2) - np.outer(way, way)
        total += across
        right += across @ point
    small = 1e-3
    found = np.linalg.solve(total + small * np.eye(2), right + small * middle)
    ways = np.array([way for _, way in known])
    sharpest = float(np.abs(ways[:, None, 0] * ways[None, :, 1] - ways[:, None, 1] * ways[None, :, 0]).max())
    farthest = 1.5 * pen + (pen / sharpest if sharpest > SHARP else 0.0)
    return found if float(np.hypot(*(found - raw))) < farthest else raw


def _straight_on(
    own: list[tuple[int, int]], chains: list[_Chain],
    place: dict[tuple[int, int], tuple[NDArray[np.float64], NDArray[np.float64]] | None], pen: float, corner_deg: float,
) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Pairs of ends that are one line, the straightest first."""
    trials = []
    for i, one in enumerate(own):
        for other in own[i + 1 :]:
            (p, u), (q, v) = place[one], place[other]  # type: ignore[misc]
            turn = np.degrees(np.arccos(np.clip(-float(u @ v), -1, 1)))
            gap = q - p
            # A curve goes on bending; what turns by more than that is a corner.
            bend = max(_bend(chains[one[0]], one[1], pen), _bend(chains[other[0]], other[1], pen))
            most = min(STRAIGHT_ON, CONCENTRATED * corner_deg + np.degrees(1.5 * bend * float(np.hypot(*gap))))
            beside = abs(float(u[0] * gap[1] - u[1] * gap[0])) if float(gap @ u) > 0 else np.inf
            alike = chains[one[0]].is_dash == chains[other[0]].is_dash  # a dash never is a part of what it ends at
            if alike and turn < most and beside < pen:
                trials.append((turn, one, other))
    found, used = [], set()
    for _, one, other in sorted(trials):
        if one not in used and other not in used:
            used |= {one, other}
            found.append((one, other))
    return found


def _line(
    k: int, chains: list[_Chain], partner: dict[tuple[int, int], tuple[int, int]], nodes: NDArray[np.float64],
    amount: NDArray[np.float32], pen: float, done: set[int],
) -> Line:
    """The whole line that a chain is part of."""
    start, side = k, 0
    while (start, side) in partner:  # to its beginning
        start, other = partner[(start, side)]
        side = 1 - other
        if start == k:
            break
    round_ = start == k and (start, side) in partner and k not in done and side == 0
    sequence, at, entered = [], start, side
    while True:
        sequence.append((at, entered))
        done.add(at)
        leaves = (at, 1 - entered)
        if leaves not in partner:
            break
        at, entered = partner[leaves]
        if at in done:
            break
    points = np.empty((0, 2))
    passes: list[tuple[int, int]] = []
    for number, from_ in sequence:
        own = chains[number].points if from_ == 0 else chains[number].points[::-1]
        if number != sequence[0][0] and len(points) and len(own):
            gap = bridge(points, own, pen)
            node = chains[number].nodes[from_]
            passes.append((node, 1 + len(points) + _nearest(np.concatenate([gap, own[:1]]), nodes[node])))
            points = np.concatenate([points, gap])
        points = np.concatenate([points, own])
    width = float(np.median([chains[number].width for number, _ in sequence]))
    if round_ and (sequence[-1][0], 1 - sequence[-1][1]) in partner:
        closing = bridge(points, points[: max(2, round(LOOK * pen))], pen)
        node = chains[sequence[0][0]].nodes[sequence[0][1]]
        home = (node, len(points) + _nearest(np.concatenate([closing, points[:1]]), nodes[node]))
        return Line(np.concatenate([points, closing, points[:1]]), (-2, -2), width,
                    passes=(*((own, at - 1) for own, at in passes), home))
    first, last = chains[sequence[0][0]].nodes[sequence[0][1]], chains[sequence[-1][0]].nodes[1 - sequence[-1][1]]
    head = nodes[first][None] if first >= 0 else _free(points[::-1], amount, width)
    tail = nodes[last][None] if last >= 0 else _free(points, amount, width)
    return Line(np.concatenate([head, points, tail]), (first, last), width, all(chains[n].is_dash for n, _ in sequence),
                tuple(passes))


def _nearest(points: Points, place: NDArray[np.float64]) -> int:
    return int(np.hypot(*(points - place).T).argmin())


def _free(points: Points, amount: NDArray[np.float32], width: float) -> Points:
    """The free end that points run to, (1, 2)."""
    if len(points) < 2:
        return points[-1:]
    place, way = _direction(points[-max(6, round(2.5 * width)) :])
    return end_of(place, way, amount, width)[None]


def bridge(before: Points, behind: Points, pen: float) -> Points:
    """Points a pixel apart over a gap, along the cubic that goes on in both directions (Hermite)."""
    look = max(3, round(LOOK * pen))
    p, q = before[-1], behind[0]
    gap = float(np.hypot(*(q - p)))
    if gap < 1.5 or len(before) < 2 or len(behind) < 2:
        return np.empty((0, 2))
    u = before[-1] - before[-min(look, len(before))]
    v = behind[min(look, len(behind)) - 1] - behind[0]
    u, v = (way / max(float(np.hypot(*way)), 1e-9) * gap for way in (u, v))
    t = (np.arange(1, int(gap)) / int(gap))[:, None] if int(gap) > 1 else np.empty((0, 1))
    return np.asarray((2 * t**3 - 3 * t**2 + 1) * p + (t**3 - 2 * t**2 + t) * u + (3 * t**2 - 2 * t**3) * q + (t**3 - t**2) * v)
