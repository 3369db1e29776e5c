"""Bridges: bars that tie everything that is cut together, as few and as short as can be.

Islands are the nodes of a graph, the shortest lines between their outlines its edges; the bridges are its least spanning tree (J.
Kruskal, 1956). Only islands that are neighbours in the Delaunay triangulation of places along their outlines are looked at,
since a least spanning tree lies within it (F. Preparata and M. Shamos, "Computational Geometry", 1985, ch. 6).
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import flatten, lengths, line_segments, points_at
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.raster.forest import groups_of
from bisectum.core.steps.pieces.changed import Rings, cut_from, laid_under

STRAIGHT = 1.15  # a level or upright bar may be so much longer than the shortest one
CHORD_MM = 0.005
LOOKS_MM = 0.5  # how far apart the places along outlines are, at most
INTO = 1.0  # widths that a bar reaches into what it holds, so that its corners lie within
MOST_ISLANDS = 2000


@dataclass(frozen=True, slots=True)
class Bridged:
    """planar: with the bridges; ends : (B, 2, 2), mm; islands: how many there were; alone: nothing else was there to tie it
    to."""

    planar: PlanarMap
    ends: NDArray[np.float64]
    islands: int
    alone: bool = False


def bridged(planar: PlanarMap, width: float) -> Bridged:
    """With bars of a width (mm) between all islands of what is cut, so that it hangs together."""
    islands, names = _islands(planar)
    if len(names) < 2:
        return Bridged(planar, np.empty((0, 2, 2)), len(names), len(names) == 1)
    shapes = _polygons(planar, islands, names)
    ends = np.array([_level(shapes, one, other) for one, other in _tree(planar, islands, names, shapes)])
    over, values, within = laid_under(planar, [_bar(pair[0], pair[1], width) for pair in ends])
    middle = _middles(over)
    for (p, q), inside in zip(ends, within, strict=True):
        length = float(np.hypot(*(q - p)))
        along = (middle - p) @ (q - p) / max(length, 1e-9)
        # What the bar covers behind an island is no part of the bridge.
        fills = inside & (values == 0) & (along > -width / 4) & (along < length + width / 4)
        values[fills] = _label_at(planar, p)
    return Bridged(cut_from(over, values, planar), ends, len(names))


def _islands(planar: PlanarMap) -> tuple[NDArray[np.int64], list[int]]:
    """The island of each face, -1 for ground; and which there are."""
    cut = np.append(planar.face_labels > 0, False)
    both = planar.sides[cut[planar.sides].all(axis=1)]
    group = groups_of(both.astype(np.int32), len(planar.face_labels))
    islands = np.where(cut[:-1], group, -1).astype(np.int64)
    return islands, np.unique(islands[islands >= 0]).tolist()


def _outlines(planar: PlanarMap, islands: NDArray[np.int64], island: int) -> list[NDArray[np.float64]]:
    inside = np.append(islands == island, False)
    return [np.concatenate([planar.walk(half)[0] for half in loop]) for _, loop in planar.loops(inside)]


def _polygons(planar: PlanarMap, islands: NDArray[np.int64], names: list[int]) -> dict[int, Any]:
    """Each island as the lines around it, so that what lies in a window of another is a neighbour of it."""
    import shapely  # takes its time to load

    return {name: shapely.multilinestrings([shapely.linestrings(_ring(flatten(outline, CHORD_MM)))
                                            for outline in _outlines(planar, islands, name)]) for name in names}


def _ring(points: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.concatenate([points, points[:1]])


def _tree(
    planar: PlanarMap, islands: NDArray[np.int64], names: list[int], shapes: dict[int, Any]
) -> list[tuple[int, int]]:
    """Pairs of islands that are tied to each other."""
    import shapely

    places, owners = [], []
    for name in names:
        for outline in _outlines(planar, islands, name):
            for curve in outline:
                count = int(np.ceil(float(lengths(curve[None])[0]) / LOOKS_MM)) + 1
                places.append(points_at(curve[None], np.arange(count) / count).reshape(-1, 2))
                owners += [name] * count
    points, owner = np.concatenate(places), np.array(owners)
    edges = shapely.get_parts(shapely.delaunay_triangles(shapely.multipoints(points), only_edges=True))
    found = shapely.get_coordinates(edges).reshape(-1, 2)
    number = {place.tobytes(): k for k, place in enumerate(points)}
    pairs: set[tuple[int, int]] = set()
    starts = np.cumsum([0, *shapely.get_num_coordinates(edges)])
    for low, high in itertools.pairwise(starts):
        of = [int(owner[number[place.tobytes()]]) for place in found[low:high]]
        pairs |= {(min(a, b), max(a, b)) for a, b in itertools.pairwise(of) if a != b}
    return _kruskal(names, sorted((float(shapely.distance(shapes[a], shapes[b])), a, b) for a, b in pairs))


def _kruskal(names: list[int], edges: list[tuple[float, int, int]]) -> list[tuple[int, int]]:
    group = {name: name for name in names}

    def root(name: int) -> int:
        while group[name] != name:
            group[name] = group[group[name]]
            name = group[name]
        return name

    chosen = []
    for _, one, other in edges:
        if root(one) != root(other):
            group[root(one)] = root(other)
            chosen.append((one, other))
    return chosen


def _level(shapes: dict[int, Any], one: int, other: int) -> NDArray[np.float64]:
    """The ends of a bar between two islands : (2, 2): level or upright if that is hardly longer than the shortest."""
    import shapely

    shortest = shapely.get_coordinates(shapely.shortest_line(shapes[one], shapes[other]))
    length = float(np.hypot(*(shortest[1] - shortest[0])))
    best, ends = STRAIGHT * length, shortest
    for end, (start, target) in enumerate([(shortest[0], shapes[other]), (shortest[1], shapes[one])]):
        for axis in (0, 1):
            way = np.zeros(2)
            way[axis] = np.sign((shortest[1] - shortest[0])[axis]) * (1 if end == 0 else -1)
            if not way.any():
                continue
            ray = shapely.linestrings([start, start + way * best])
            meets = shapely.get_coordinates(shapely.intersection(ray, target))
            if len(meets):
                near = meets[np.hypot(*(meets - start).T).argmin()]
                away = float(np.hypot(*(near - start)))
                if 0 < away < best:
                    best, ends = away, np.array([start, near] if end == 0 else [near, start])
    return np.asarray(ends)


def _bar(p: NDArray[np.float64], q: NDArray[np.float64], width: float) -> Rings:
    way = q - p
    length = float(np.hypot(*way))
    way = way / length if length > 1e-9 else np.array([1.0, 0.0])
    side = np.array([-way[1], way[0]]) * width / 2
    a, b = p - way * INTO * width, q + way * INTO * width
    corners = np.array([a - side, b - side, b + side, a + side, a - side])
    return line_segments(corners), np.ones(4, bool)


def _middles(over: Any) -> NDArray[np.float64]:
    """The mean of the places along each face's edges. (F, 2)."""
    places = points_at(over.curves, np.array([0.25, 0.75])).mean(axis=1)
    size = lengths(over.curves)
    sums, weights = np.zeros((over.face_count, 2)), np.zeros(over.face_count)
    for faces in (over.left, over.right):
        np.add.at(sums, faces, places * size[:, None])
        np.add.at(weights, faces, size)
    return sums / np.maximum(weights, 1e-12)[:, None]


def _label_at(planar: PlanarMap, place: NDArray[np.float64]) -> int:
    """The label of what is cut beside a place on its outline."""
    nearest = int(np.hypot(*(points_at(planar.segments, np.linspace(0, 1, 5)) - place).T).min(axis=0).argmin())
    chain = int(np.searchsorted(planar.first, nearest, side="right")) - 1
    labels = np.append(planar.face_labels, 0)[planar.sides[chain]]
    return int(labels.max())
