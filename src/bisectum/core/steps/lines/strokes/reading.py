"""What a drawing in strokes means: which lines are cut, folded, drawn.

A plan of a box is cut along the middle of its outlines and folded along its dashes. Outlines are the outer bounds of what its
unbroken lines shut in; one within another is a window. Unbroken lines inside an outline are folds where nothing is dashed, and
else cuts that part nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import flatten, points_at, reversed_segments
from bisectum.core.model.stroke import Role
from bisectum.core.steps.lines.strokes.centred import Points
from bisectum.core.steps.lines.strokes.dashes import Row, points_of_row, rows_of_dashes
from bisectum.core.steps.lines.strokes.drawn_graph import DrawnGraph, Line, drawn_graph
from bisectum.core.steps.lines.strokes.fitted_stroke import Curve, fitted_stroke

FINE = 0.05  # px between a curve and the chords it is looked at by
NEAR = 2.5  # pens beside a line in which a place means it
OF_CLOSENESS = 0.5  # of how far a line may stray, what is left to fitting
AT_NODE = 0.35  # pens beside a node at which a fold runs to it
OPEN_END = 2.0  # pens that an end may be short of what it is drawn to


@dataclass(frozen=True, slots=True)
class RoleChange:
    """What a line at a place is to be. x, y: px."""

    x: float
    y: float
    role: Role


@dataclass(slots=True)
class Part:
    """A stretch of a drawn line between two nodes, or a row of dashes. ends: nodes, -1 for free, -2 twice where closed. sure :
    (N,), of a row, which points lie in ink."""

    points: Points
    ends: tuple[int, int]
    width: float
    read: Role = "draw"
    role: Role = "draw"
    row: Row | None = None
    sure: NDArray[np.bool_] | None = None
    line: int = -1
    outline: bool = False
    curve: Curve | None = None


@dataclass(frozen=True, slots=True)
class Reading:
    """rings: closed curves that are cut, those of windows among them; parts: all others, and those of rings too, for whoever
    wants them otherwise. px. folds: how many rows of dashes there are; open_ends : (N, 2), ends of lines near which an outline
    does not close; missed: numbers of changes that found no line."""

    rings: list[Curve]
    parts: list[Part]
    folds: int
    open_ends: NDArray[np.float64]
    missed: list[int] = field(default_factory=list)

    @property
    def is_plan(self) -> bool:
        """Whether it has an outline, and dashed folds."""
        return bool(self.rings) and self.folds > 0

    def check(self) -> None:
        """Raises: BrokenStructure where a ring does not close."""
        for segments, _ in self.rings:
            if (segments[0, 0] != segments[-1, 3]).any():
                x, y = segments[0, 0]
                raise BrokenStructure(f"A ring does not close at {x:.2f}, {y:.2f} px.")


def read_strokes(
    amount: NDArray[np.float32], pen: float, score: Literal["auto", "none"], corner_deg: float, tolerance: float,
    gap: float = 0.0, changes: Sequence[RoleChange] = (),
) -> Reading:
    """amount : (H, W), 1 for ink; pen: its width, px; score: whether folds and outlines are told, or all is drawn; tolerance: px
    that a line may stray; gap: px between free ends that are joined."""
    graph = drawn_graph(amount, pen, corner_deg)
    lines = _with_gaps_closed(graph, gap)
    rows = rows_of_dashes(lines.lines, amount, pen) if score == "auto" else []
    parts = _parts(lines, rows, pen)
    if score == "auto":
        _tell(parts, lines.nodes, bool(rows))
    missed = _change(parts, changes, pen)
    rings = _rings(parts, lines.nodes)
    parts = _merged(parts)
    for part in parts:
        part.curve = fitted_stroke(part.points, part.ends[0] == -2, OF_CLOSENESS * tolerance, part.sure)
    closed = [_ring_curve([parts[k] for k in ring]) for ring in _rings(parts, lines.nodes)] if rings else []
    _snap(parts, closed, pen)
    return Reading(closed, parts, len(rows), _open_ends(parts), missed)


def _with_gaps_closed(graph: DrawnGraph, gap: float) -> DrawnGraph:
    """Free ends of unbroken lines that lie within `gap` of each other, made one node half-way."""
    free = [(k, side) for k, line in enumerate(graph.lines) if not line.is_dash for side in (0, 1) if line.ends[side] == -1]
    if gap <= 0 or len(free) < 2:
        return graph
    places = np.array([graph.lines[k].points[-side] for k, side in free])
    away = np.hypot(*(places[:, None] - places[None]).transpose(2, 0, 1))
    np.fill_diagonal(away, np.inf)
    nearest = away.argmin(axis=1)
    lines, nodes = list(graph.lines), [*graph.nodes]
    for i, j in enumerate(nearest.tolist()):
        if j <= i or nearest[j] != i or away[i, j] > gap:
            continue
        middle = (places[i] + places[j]) / 2
        nodes.append(middle)
        for k, side in (free[i], free[j]):
            line = lines[k]
            ends = (len(nodes) - 1, line.ends[1]) if side == 0 else (line.ends[0], len(nodes) - 1)
            points = np.concatenate([middle[None], line.points[1:]] if side == 0 else [line.points[:-1], middle[None]])
            lines[k] = Line(points, ends, line.width, False, line.passes)
    return DrawnGraph(tuple(lines), np.array(nodes).reshape(-1, 2))


def _parts(graph: DrawnGraph, rows: list[Row], pen: float) -> list[Part]:
    used = {k for row in rows for k in row.lines}
    result = []
    for number, line in enumerate(graph.lines):
        if number not in used:
            result += _between_nodes(number, line, graph.nodes)
    for row in rows:
        width = float(np.median([graph.lines[k].width for k in row.lines]))
        points, sure = points_of_row(row, pen)
        result.append(Part(points, (-1, -1), width, row=row, sure=sure))
    return [part for part in result if len(part.points) > 1]


def _between_nodes(number: int, line: Line, nodes: NDArray[np.float64]) -> list[Part]:
    """A line in parts, cut where it passes a node; each part ends at the node exactly."""
    if not line.passes:
        return [Part(line.points, line.ends, line.width, line=number)]
    points = line.points.copy()
    for node, at in line.passes:
        points[at] = nodes[node]
    marks = [at for _, at in line.passes]
    names = [node for node, _ in line.passes]
    if line.closed:
        ring = points[:-1]
        spans = []
        for k in range(len(marks)):
            low, high = marks[k] % len(ring), marks[(k + 1) % len(marks)] % len(ring)
            index = np.arange(low, high + 1 if high > low else high + len(ring) + 1) % len(ring)
            spans.append(Part(ring[index], (names[k], names[(k + 1) % len(marks)]), line.width, line=number))
        return spans
    cuts, ids = [0, *marks, len(points) - 1], [line.ends[0], *names, line.ends[1]]
    return [Part(points[cuts[k] : cuts[k + 1] + 1], (ids[k], ids[k + 1]), line.width, line=number) for k in range(len(cuts) - 1)]


def _tell(parts: list[Part], nodes: NDArray[np.float64], dashed: bool) -> None:
    """What each part is taken for."""
    solid = [part for part in parts if part.row is None]
    outlines = _exteriors(solid, nodes)
    shut = shapely.union_all([shapely.Polygon(ring) for ring, _ in outlines]) if outlines else shapely.Polygon()
    on = {k for _, members in outlines for k in members}
    for k, part in enumerate(solid):
        if k in on:
            part.read = "cut"
        elif shut.contains(shapely.Point(part.points[len(part.points) // 2])):
            part.read = "cut" if dashed else "score"
    for part in parts:
        if part.row is not None:
            part.read = "score"
        part.role = part.read


def _exteriors(parts: list[Part], nodes: NDArray[np.float64]) -> list[tuple[NDArray[np.float64], list[int]]]:
    """The outer bounds of what parts shut in, each component's by itself: its points, and the numbers of the parts along it."""
    lines = []
    for part in parts:
        points = part.points.copy()
        for end, at in ((part.ends[0], 0), (part.ends[1], -1)):
            if end >= 0:
                points[at] = nodes[end]
        lines.append(shapely.LineString(points) if len(points) > 1 else shapely.LineString())
    polygons = [one for one in shapely.get_parts(shapely.polygonize(lines)) if one.area > 1.0]
    if not polygons:
        return []
    # Without their own holes: what lies in a hole is shut in by its own lines.
    filled = [shapely.Polygon(one.exterior) for one in polygons]
    middles = shapely.line_interpolate_point(np.array(lines, object), 0.5, normalized=True)
    result = []
    for component in _components(filled):
        whole = shapely.union_all([filled[k] for k in component])
        for shape in shapely.get_parts(whole):
            ring = shape.exterior
            near = [k for k, middle in enumerate(middles) if lines[k].length > 0 and ring.distance(middle) < 1e-6]
            along = [ring.project(middles[k]) for k in near]
            result.append((shapely.get_coordinates(ring), [near[k] for k in np.argsort(along)]))
    return result


def _components(polygons: list[shapely.Polygon]) -> list[list[int]]:
    """Polygons that share lines, in groups; one that merely lies inside another is a group of its own."""
    tree = shapely.STRtree([polygon.exterior for polygon in polygons])
    group = list(range(len(polygons)))

    def root(k: int) -> int:
        while group[k] != k:
            k = group[k]
        return k

    for k, polygon in enumerate(polygons):
        for other in tree.query(polygon.exterior, predicate="intersects"):
            group[root(int(other))] = root(k)
    found: dict[int, list[int]] = {}
    for k in range(len(polygons)):
        found.setdefault(root(k), []).append(k)
    return list(found.values())


def _change(parts: list[Part], changes: Sequence[RoleChange], pen: float) -> list[int]:
    """Give lines another role. Returns the numbers of changes that found none."""
    lines = [shapely.LineString(part.points) for part in parts]
    missed = []
    for number, change in enumerate(changes):
        away = [line.distance(shapely.Point(change.x, change.y)) for line in lines]
        nearest = int(np.argmin(away)) if away else -1
        if nearest < 0 or away[nearest] > NEAR * pen:
            missed.append(number)
            continue
        of_line = parts[nearest].line
        for part in parts:
            same = part is parts[nearest] or (of_line >= 0 and part.line == of_line and part.read == parts[nearest].read)
            if same:
                part.role = change.role
    return missed


def _rings(parts: list[Part], nodes: NDArray[np.float64]) -> list[list[int]]:
    """The parts along each outline that is cut, in order; they are marked."""
    cut = [k for k, part in enumerate(parts) if part.role == "cut" and part.row is None]
    found = [[cut[k] for k in members] for _, members in _exteriors([parts[k] for k in cut], nodes)]
    for part in parts:
        part.outline = False
    for ring in found:
        for k in ring:
            parts[k].outline = True
    return found


def _merged(parts: list[Part]) -> list[Part]:
    """Stretches of one line that have become the same, as one again."""
    result: list[Part] = []
    for part in parts:
        last = result[-1] if result else None
        alike = last is not None and part.line >= 0 and (part.line, part.role, part.read, part.outline) == (
            last.line, last.role, last.read, last.outline)
        if last is None or not alike or part.ends[0] != last.ends[1]:
            result.append(part)
            continue
        last.points = np.concatenate([last.points, part.points[1:]])
        last.ends = (last.ends[0], part.ends[1])
        if last.ends[0] == last.ends[1] and last.ends[0] >= 0 and sum(own.line == part.line for own in parts) > 1:
            around = [own for own in parts if own.line == part.line]
            if sum(len(own.points) - 1 for own in around) == len(last.points) - 1:
                last.ends = (-2, -2)
    return result


def _ring_curve(ring: list[Part]) -> Curve:
    """The curves of an outline as one closed path."""
    if len(ring) == 1:
        assert ring[0].curve is not None
        segments, straight = ring[0].curve
        segments = segments.copy()
        segments[-1, 3] = segments[0, 0]
        return segments, straight
    pieces, flat = [], []
    at = ring[0].ends[1] if ring[0].ends[1] in ring[1].ends else ring[0].ends[0]
    for number, part in enumerate(ring):
        assert part.curve is not None
        segments, straight = part.curve
        if number == 0:
            forward = part.ends[1] == at
        else:
            forward = part.ends[0] == at
            at = part.ends[1] if forward else part.ends[0]
        pieces.append(segments if forward else reversed_segments(segments))
        flat.append(straight if forward else straight[::-1])
    whole = np.concatenate(pieces).copy()
    ends = np.roll(whole[:, 0], -1, axis=0)
    lines = np.concatenate(flat)
    whole[:, 3] = ends
    whole[lines, 1] = whole[lines, 0] + (whole[lines, 3] - whole[lines, 0]) / 3
    whole[lines, 2] = whole[lines, 0] + (whole[lines, 3] - whole[lines, 0]) * (2 / 3)
    return whole, lines


def _snap(parts: list[Part], rings: list[Curve], pen: float) -> None:
    """Ends of folds and open cuts that stop near an outline go on to it, as they run."""
    if not rings:
        return
    edges = [np.concatenate([flatten(segments, FINE), segments[:1, 0]]) for segments, _ in rings]
    outline = shapely.union_all([shapely.LineString(edge) for edge in edges])
    corners = np.concatenate([segments[:, 0] for segments, _ in rings])
    for part in parts:
        if part.outline or part.role not in ("score", "cut") or part.ends[0] == -2 or part.curve is None:
            continue
        segments, straight = part.curve
        segments = segments.copy()
        reach = part.row.dash + part.row.gap + pen if part.row is not None else OPEN_END * pen
        for end in (0, 1):
            place = _reached(segments, end, reach, pen, outline, corners)
            if place is not None:
                _pull(segments, straight, end, place)
        part.curve = segments, straight


def _reached(
    segments: NDArray[np.float64], end: int, reach: float, pen: float, outline: shapely.Geometry, corners: NDArray[np.float64]
) -> NDArray[np.float64] | None:
    """Where a stroke meets an outline near one of its ends: at a node of it that the stroke runs to, or where it crosses."""
    tip = segments[0, 0] if end == 0 else segments[-1, 3]
    inner = points_at(segments[:1] if end == 0 else segments[-1:], np.array([0.1 if end == 0 else 0.9]))[0, 0]
    way = tip - inner
    size = float(np.hypot(*way))
    if size < 1e-9:
        return None
    way = way / size
    ahead = (corners - tip) @ way
    beside = np.abs((corners - tip) @ np.array([-way[1], way[0]]))
    apt = (ahead > -pen) & (ahead < reach) & (beside < AT_NODE * pen)
    if apt.any():
        return np.asarray(corners[np.where(apt, np.abs(ahead), np.inf).argmin()])
    probe = shapely.LineString([tip - way * pen, tip + way * reach])
    found = shapely.get_coordinates(probe.intersection(outline))
    return np.asarray(found[np.hypot(*(found - tip).T).argmin()]) if len(found) else None


def _pull(segments: NDArray[np.float64], straight: NDArray[np.bool_], end: int, place: NDArray[np.float64]) -> None:
    """Let an end come to a place; the handle beside it goes along."""
    k, node, handle = (0, 0, 1) if end == 0 else (-1, 3, 2)
    segments[k, handle] += place - segments[k, node]
    segments[k, node] = place
    if straight[k]:
        start, stop = segments[k, 0], segments[k, 3]
        segments[k, 1], segments[k, 2] = start + (stop - start) / 3, start + (stop - start) * (2 / 3)


def _open_ends(parts: list[Part]) -> NDArray[np.float64]:
    """Free ends of unbroken lines that shut in nothing."""
    found = [part.points[-side] for part in parts if part.row is None and not part.outline and part.read == "draw"
             for side in (0, 1) if part.ends[side] == -1]
    return np.array(found).reshape(-1, 2)
