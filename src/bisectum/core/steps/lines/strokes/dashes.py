"""Dashes and dots that lie in a row as one line.

Ends of dashes are joined when each goes on in the direction of the other, the nearest and straightest first; gaps of one line are
alike. A dot has no direction: it goes on away from where it came from.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.steps.lines.strokes.centred import Points
from bisectum.core.steps.lines.strokes.drawn_graph import Line, bridge

DOT = 1.5  # pens: what is shorter has no direction
WIDEST_GAP = 2.4  # a gap against the usual one
TURN, SHARP_TURN = 36, 60  # degrees a line turns by from a dash to the gap behind it; where the gap is the usual one
ALIKE_GAP = 1.4  # times the usual one
BACK = 110  # degrees between the two ways on from a dot, at least
BENT = 2.0  # how much a turn of one radian, squared, makes a gap longer
FEWEST = 3  # dashes of a line


@dataclass(frozen=True, slots=True)
class _End:
    """An end of a dash. way: outwards, None of a dot."""

    dash: int
    place: NDArray[np.float64]
    way: NDArray[np.float64] | None


@dataclass(frozen=True, slots=True)
class Row:
    """Dashes of one line in their order. lines: numbers of the dashes; parts: the points of each, (N, 2), px, in the direction of
    the row. gap, dash: the usual ones, px."""

    lines: tuple[int, ...]
    parts: tuple[Points, ...]
    gap: float
    dash: float


def rows_of_dashes(lines: tuple[Line, ...], amount: NDArray[np.float32], pen: float) -> list[Row]:
    """All rows of at least three dashes among lines. amount : (H, W), 1 for ink; pen: its width, px."""
    bits = [k for k, line in enumerate(lines) if line.is_dash]
    if len(bits) < FEWEST:
        return []
    ends = [end for k in bits for end in _ends(k, lines[k], pen)]
    usual = float(np.median([max(lines[k].length, pen) for k in bits]))
    links = _links(ends, pen, 3.5 * usual + 3 * pen, TURN)
    gaps = [gap for _, _, gap in links]
    if gaps:
        gap = float(np.median(gaps))
        links = _links(ends, pen, min(WIDEST_GAP * gap + 1.0, 2 * usual + 4 * pen), TURN)
        # Where a gap is just as wide as all others the line may bend more.
        used = {end for link in links for end in link[:2]}
        free = [k for k in range(len(ends)) if k not in used and ends[k].way is not None]
        more = _links([ends[k] for k in free], pen, ALIKE_GAP * gap + 1.0, SHARP_TURN)
        links += [(free[i], free[j], own) for i, j, own in more]
    return [row for row in _rows(bits, ends, links, lines, amount, pen) if len(row.lines) >= FEWEST]


def _ends(number: int, line: Line, pen: float) -> list[_End]:
    dot = line.length < DOT * pen
    middle = line.points.mean(axis=0)
    found = []
    for side in (0, 1):
        if line.ends[side] >= 0:
            continue  # it ends at what is drawn there
        points = line.points if side == 1 else line.points[::-1]
        if dot and line.ends == (-1, -1):
            found.append(_End(number, middle, None))
            continue
        way = points[-1] - points[-min(len(points), max(3, round(4 * pen)))]
        found.append(_End(number, points[-1], way / max(float(np.hypot(*way)), 1e-9)))
    return found


def _links(ends: list[_End], pen: float, widest: float, most_turn: float) -> list[tuple[int, int, float]]:
    """Pairs of ends that go on in each other, with the gap between them. No end is in two pairs."""
    places = np.array([end.place for end in ends])
    trials = []
    for i, one in enumerate(ends):
        away = np.hypot(*(places - one.place).T)
        for j in np.flatnonzero(away <= widest + pen).tolist():
            other = ends[j]
            if j <= i or other.dash == one.dash:
                continue
            gap = other.place - one.place
            size = max(float(np.hypot(*gap)), 1e-9)
            turns = [_angle(one.way, gap / size), _angle(other.way, -gap / size)]
            if sum(turns) > np.radians(2 * TURN) or max(turns) > np.radians(most_turn):
                continue
            trials.append((size * (1 + BENT * sum(turn * turn for turn in turns)), i, j, size))
    found: list[tuple[int, int, float]] = []
    used: set[int] = set()
    ways: dict[int, NDArray[np.float64]] = {}
    joined: dict[int, int] = {}

    def root(k: int) -> int:
        while joined.get(k, k) != k:
            k = joined[k]
        return k

    for _, i, j, size in sorted(trials):
        one, other = ends[i], ends[j]
        if i in used or j in used or root(one.dash) == root(other.dash):
            continue
        way = (other.place - one.place) / max(size, 1e-9)
        if not (_goes_back(one, way, ways) and _goes_back(other, -way, ways)):
            continue
        used |= {i, j}
        joined[root(one.dash)] = root(other.dash)
        for end, own in ((one, way), (other, -way)):
            if end.way is None:
                ways[end.dash] = own
        found.append((i, j, size - (pen if one.way is None or other.way is None else 0.0)))
    return found


def _angle(way: NDArray[np.float64] | None, towards: NDArray[np.float64]) -> float:
    return 0.0 if way is None else float(np.arccos(np.clip(way @ towards, -1, 1)))


def _goes_back(end: _End, way: NDArray[np.float64], ways: dict[int, NDArray[np.float64]]) -> bool:
    """Whether a dot that has one neighbour already has the other one across from it."""
    if end.way is not None or end.dash not in ways:
        return True
    return bool(np.degrees(np.arccos(np.clip(ways[end.dash] @ way, -1, 1))) > BACK)


def _rows(
    bits: list[int], ends: list[_End], links: list[tuple[int, int, float]], lines: tuple[Line, ...],
    amount: NDArray[np.float32], pen: float,
) -> list[Row]:
    """Follow the links from dash to dash."""
    next_to: dict[int, list[tuple[int, int, float]]] = {k: [] for k in bits}  # dash: (own end, other end, gap)
    for i, j, gap in links:
        next_to[ends[i].dash].append((i, j, gap))
        next_to[ends[j].dash].append((j, i, gap))
    done: set[int] = set()
    result = []
    for start in sorted(bits, key=lambda k: len(next_to[k])):
        if start in done or not next_to[start]:
            continue
        order, gaps, at, came = [start], [], start, -1
        done.add(start)
        while True:
            ahead = [link for link in next_to[at] if ends[link[1]].dash not in done and link[0] != came]
            if not ahead:
                break
            _, came, gap = ahead[0]
            at = ends[came].dash
            done.add(at)
            order.append(at)
            gaps.append(gap)
        parts = _in_order([_exact(lines[k], amount, pen) for k in order])
        dash = float(np.median([max(lines[k].length, pen) for k in order]))
        result.append(Row(tuple(order), tuple(parts), float(np.median(gaps)) if gaps else 0.0, dash))
    return result


def _exact(line: Line, amount: NDArray[np.float32], pen: float) -> Points:
    """The points of a dash; of a dot its middle."""
    if line.length >= DOT * pen or line.ends != (-1, -1):
        return line.points
    x, y = line.points.mean(axis=0)
    reach = round(pen) + 1
    left, top = max(0, int(x) - reach), max(0, int(y) - reach)
    part = amount[top : int(y) + reach + 1, left : int(x) + reach + 1].astype(float)
    rows, columns = np.mgrid[0 : part.shape[0], 0 : part.shape[1]]
    total = max(float(part.sum()), 1e-9)
    return np.array([[left + 0.5 + float((part * columns).sum()) / total, top + 0.5 + float((part * rows).sum()) / total]])


def _in_order(parts: list[Points]) -> list[Points]:
    """Each part in the direction of the row."""
    middles = np.array([part.mean(axis=0) for part in parts])
    result = []
    for k, part in enumerate(parts):
        way = middles[min(k + 1, len(parts) - 1)] - middles[max(k - 1, 0)]
        result.append(part if float((part[-1] - part[0]) @ way) >= 0 else part[::-1])
    return result


def points_of_row(row: Row, pen: float) -> tuple[Points, NDArray[np.bool_]]:
    """One run of points along a row, with points over its gaps. Returns (N, 2), px, and (N,), which of them are in ink."""
    run, sure = row.parts[0], np.ones(len(row.parts[0]), bool)
    for part in row.parts[1:]:
        # A dash's own last point is only how far it goes; what lies between two dashes is led by their middles.
        if len(run) > 3:
            run, sure = run[:-1], sure[:-1]
        behind = part[1:] if len(part) > 3 else part
        gap = bridge(run, behind, pen)
        run = np.concatenate([run, gap, behind])
        sure = np.concatenate([sure, np.zeros(len(gap), bool), np.ones(len(behind), bool)])
    return run, sure
