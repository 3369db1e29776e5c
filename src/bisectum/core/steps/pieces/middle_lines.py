"""The middle of thin parts, and bars along it: all discs of a width about it, which is what widens the part and nothing else.

The middle is the part of the Voronoi diagram of points along the sides that lies between different sides (the medial axis;
H. Blum, 1967). Where the part ends at a mouth the piece is as wide as the disc already, so a bar's round end lies within it.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import lengths, points_at
from bisectum.core.geom.sweep import swept
from bisectum.core.items.drawn import nodes_of_stroke, segments_of
from bisectum.core.items.settings import Drawn
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.model.offset import outlines
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.thin_places import Thin
from bisectum.core.steps.pieces.changed import Rings

SPACING = 0.1  # of the width: how far apart the points along the sides are
SPARE_MM = 0.02  # that a bar is wider than asked, for what fitting takes away
ALONG = 0.6  # of its length that the sides may draw apart along an edge of the middle
CROSSES = 0.9  # of the ends' distance from the sides: in the middle of an edge it is hardly less
BRANCH = 0.75  # of the width: a branch of the middle that is shorter is of a corner
STRAY = 0.02  # of the width that a bar's middle may lie off


def bars_along(chosen: Sequence[Thin], planar: PlanarMap, width: float) -> tuple[dict[int, Rings], int]:
    """Bars along thin parts, by the label of their piece, and how many parts have no middle to go along."""
    rings: dict[int, list[Rings]] = {}
    net = net_of(planar)
    left = 0
    for one in chosen:
        edges = middle_edges(*_sides(one, planar, width), width)
        lines = _lines(edges[faces_at(net, edges.mean(axis=1)) - 1 == one.face], width)
        own = [bar(line, width + 2 * SPARE_MM, width * STRAY) for line in lines]
        left += not own
        rings.setdefault(int(planar.face_labels[one.face]), []).extend(own)
    return {label: (np.concatenate([ring[0] for ring in own]), np.concatenate([ring[1] for ring in own]))
            for label, own in rings.items() if own}, left


def bar(line: NDArray[np.float64], width: float, stray: float) -> Rings:
    """All within half a width of a line : (N, 2), mm, smoothed by as much as it may stray."""
    try:
        nodes, closed, middle = nodes_of_stroke(line, stray)
        if len(nodes) < 2:  # it came back the way it went
            far = int(np.hypot(*(line - line[0]).T).argmax())
            segments, straight = _straight(line[[0, far]])
        else:
            segments, straight = segments_of(Drawn(nodes=nodes, closed=closed, width_mm=1.0))
            segments = segments + np.array(middle)
    except SettingsError as refused:
        if refused.code == "stroke_too_long":
            halves = [bar(half, width, stray) for half in (line[: len(line) // 2 + 1], line[len(line) // 2 :])]
            return np.concatenate([one[0] for one in halves]), np.concatenate([one[1] for one in halves])
        segments, straight = _straight(line[[0, -1]])  # a dot
    back = np.concatenate([segments, segments[::-1, ::-1]]), np.concatenate([straight, straight[::-1]])
    return swept(*back, np.array([0, len(back[1])]), width / 2)


def _straight(points: NDArray[np.float64]) -> Rings:
    a, b = points
    if np.hypot(*(b - a)) < 1e-4:
        b = a + np.array([1e-3, 0.0])
    return np.stack([a, a + (b - a) / 3, a + (b - a) * 2 / 3, b])[None], np.ones(1, bool)


def _sides(one: Thin, planar: PlanarMap, width: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Points along the sides of a part and of its face somewhat beyond, and along those of the part alone. (N, 2), (M, 2)."""
    inside = np.zeros(len(planar.face_labels) + 1, bool)
    inside[one.face] = True
    around = outlines(planar, inside)[0]
    low, high = one.segments.min(axis=(0, 1)) - width, one.segments.max(axis=(0, 1)) + width
    near = (around.min(axis=1) < high).all(axis=1) & (around.max(axis=1) > low).all(axis=1)
    beyond = _points(around[near], SPACING * width)
    return beyond[((beyond > low) & (beyond < high)).all(axis=1)], _points(one.segments[~one.mouth], SPACING * width)


def _points(curves: NDArray[np.float64], spacing: float) -> NDArray[np.float64]:
    counts = np.maximum(2, np.ceil(lengths(curves) / spacing)).astype(int)
    return np.concatenate([points_at(curves[k : k + 1], (np.arange(n) + 0.5) / n).reshape(-1, 2) for k, n in enumerate(counts)]
                          or [np.empty((0, 2))])


def middle_edges(sides: NDArray[np.float64], own: NDArray[np.float64], width: float) -> NDArray[np.float64]:
    """Short edges in the middle between sides, as far as those are nearer than a width to each other. (E, 2, 2).

    sides : (N, 2), points along them; own : (M, 2), those of the part itself.
    """
    import shapely  # takes its time to load

    if len(sides) < 4:
        return np.empty((0, 2, 2))
    diagram = shapely.voronoi_polygons(shapely.multipoints(sides), only_edges=True)
    edges = np.array([line.coords[:] for part in shapely.get_parts(diagram) for line in _segments(part)])
    if not len(edges):
        return np.empty((0, 2, 2))
    tree = shapely.STRtree(shapely.points(sides))
    _, reach = tree.query_nearest(shapely.points(edges.reshape(-1, 2)), return_distance=True, all_matches=False)
    reach = reach.reshape(-1, 2)
    _, between = tree.query_nearest(shapely.points(edges.mean(axis=1)), return_distance=True, all_matches=False)
    # Between neighbours along one side an edge runs away from it; between two sides it runs along both.
    runs_along = np.abs(reach[:, 1] - reach[:, 0]) < ALONG * np.hypot(*(edges[:, 1] - edges[:, 0]).T) + 1e-9
    crosses = between < CROSSES * reach.min(axis=1)  # from one face to the other side of its outline
    near = (reach < width / 2).all(axis=1) & runs_along & ~crosses
    inside = near & (reach > SPACING * width * 0.8).all(axis=1)
    close = shapely.STRtree(shapely.points(own)).query_nearest(
        shapely.points(edges.mean(axis=1)), return_distance=True, all_matches=False)[1]
    return np.asarray(edges[inside & (close < 0.75 * width)])


def _lines(edges: NDArray[np.float64], width: float) -> list[NDArray[np.float64]]:
    """Edges as lines between branchings, each (K, 2); short branches are left out."""
    import shapely
    from shapely.ops import linemerge

    if not len(edges):
        return []
    merged = linemerge([shapely.linestrings(edge) for edge in edges])
    found = [np.asarray(line.coords) for line in (merged.geoms if merged.geom_type == "MultiLineString" else [merged])]
    longest = max(float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in found)
    return [line for line in found if float(np.hypot(*np.diff(line, axis=0).T).sum()) >= min(BRANCH * width, longest)]


def _segments(part: object) -> list[Any]:
    import shapely

    coords = shapely.get_coordinates(part)
    return [shapely.linestrings(pair) for pair in itertools.pairwise(coords)]
