"""Outlines at a distance, by the distances themselves, by Steiner's formula, and by what must vanish or grow together."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from bisectum.core.geom.bezier import split_at
from bisectum.core.geom.hermite import fewer_curves, fit_handles
from bisectum.core.geom.sweep import Corners, swept
from bisectum.core.items.border import border_map
from bisectum.core.items.settings import Border
from bisectum.core.model.offset import Windows, offset
from bisectum.core.model.planar_map import PlanarMap
from tests.support.outlines import FIELDS, area_of, blob, circle, clockwise, map_of, points_on, polygon, polygon_of

SQUARE = polygon([(0, 0), (10, 0), (10, 10), (0, 10)])
OFF = 0.005


def moved(planar: PlanarMap, distance: float, corners: Corners = "round", windows: Windows = "keep") -> PlanarMap:
    result = offset(planar, np.append(planar.face_labels > 0, False), distance, corners, windows, **FIELDS)
    result.check()
    return result


def off_by(planar: PlanarMap, result: PlanarMap, distance: float) -> float:
    """How far the lines of a result are from lying at the distance, at most, mm: true distances, no buffer of a buffer."""
    lines = shapely.union_all([shapely.LinearRing(ring) for ring in rings_of_map(planar)])
    away = shapely.distance(shapely.points(points_on(result)), lines)
    return float(np.abs(away - abs(distance)).max())


def rings_of_map(planar: PlanarMap) -> list[np.ndarray]:
    return [np.asarray(polygon_of(np.concatenate([planar.walk(half)[0] for half in loop]), 1e-5).exterior.coords)
            for face, loop in planar.loops() if face < 0]


@pytest.mark.parametrize("distance", [0.05, 3, 50])
def test_steiners_formula(distance: float) -> None:
    """The area around a convex shape is A + P d + π d² (J. Steiner, Über parallele Flächen, 1840)."""
    for ring, area, around in ((SQUARE, 100, 40), (circle(0, 0, 10), 100 * np.pi, 20 * np.pi)):
        result = moved(map_of(ring), distance)
        expected = area + around * distance + np.pi * distance**2
        assert area_of(result) == pytest.approx(expected, abs=OFF * (around + 2 * np.pi * distance))


def test_lines_lie_at_the_distance_with_few_nodes() -> None:
    nodes = []
    for seed in range(7):
        planar = map_of(clockwise(blob(np.random.default_rng(seed))))
        for distance in (0.3, 2, 8, -0.5, -2, -4):
            result = moved(planar, distance)
            assert off_by(planar, result, distance) < OFF, (seed, distance)
            nodes.append(len(result.segments) / len(planar.segments))
    assert np.median(nodes) < 2  # of eight nodes that wobble; tight bends part


def test_circles_stay_circles_and_straight_stays_straight() -> None:
    assert len(moved(map_of(circle(0, 0, 10)), 3).segments) == 4
    square = moved(map_of(SQUARE), 2)
    assert len(square.segments) == 8 and square.straight.sum() == 4
    assert len(moved(map_of(SQUARE), -2).segments) == 4


def test_corners() -> None:
    sharp, flat = moved(map_of(SQUARE), 2, "sharp"), moved(map_of(SQUARE), 2, "flat")
    assert area_of(sharp) == pytest.approx(14 * 14) and len(sharp.segments) <= 12
    assert area_of(flat) == pytest.approx(100 + 4 * 20 + 4 * 2)
    spike = map_of(polygon([(0, 0), (40, -1), (40, 1)]))
    assert points_on(moved(spike, 1, "sharp"))[:, 0].min() > -4.5  # a needle's point is cut off


def test_what_is_thin_vanishes_and_what_is_near_grows_together() -> None:
    dumbbell = map_of(circle(0, 0, 5), circle(20, 0, 5), polygon([(0, -0.5), (20, -0.5), (20, 0.5), (0, 0.5)]))
    assert len(moved(dumbbell, -1).face_labels) == 2  # the bar is gone, the ends stay
    apart = map_of(circle(0, 0, 5), circle(11, 0, 5))
    assert len(moved(apart, 0.4).face_labels) == 2
    assert len(moved(apart, 0.6).face_labels) == 1
    assert not moved(map_of(SQUARE), -5.01).face_labels.any()
    assert not moved(map_of(circle(0, 0, 5)), -5.2).face_labels.any()


def test_windows_are_kept_or_dropped() -> None:
    ring = map_of(circle(0, 0, 10), circle(0, 0, 6)[::-1, ::-1])
    assert area_of(ring) == pytest.approx(np.pi * 64, rel=1e-3)
    assert area_of(moved(ring, 1)) == pytest.approx(np.pi * (121 - 25), rel=1e-3)
    assert area_of(moved(ring, 1, windows="drop")) == pytest.approx(np.pi * 121, rel=1e-3)
    assert area_of(moved(ring, 7)) == pytest.approx(np.pi * 17**2, rel=1e-3)  # the window has closed


def test_a_border_closes_gaps() -> None:
    apart = map_of(circle(0, 0, 5), circle(20, 0, 5))
    assert len(border_map(apart, Border(distance_mm=2)).face_labels) == 2
    joined = border_map(apart, Border(distance_mm=2, bridge_mm=9))
    assert len(joined.face_labels) == 1
    assert points_on(joined)[:, 0].min() == pytest.approx(-7, abs=0.01)


def test_shapes_of_nothing() -> None:
    assert len(swept(np.empty((0, 4, 2)), np.empty(0, bool), np.zeros(1, np.int64), 3)[0]) == 0
    assert len(fit_handles(np.empty((0, 9, 2)), np.empty((0, 2)), np.empty((0, 2)), np.empty((0, 2)))[0]) == 0


def test_neighbours_are_joined_where_one_curve_draws_both() -> None:
    whole = circle(0, 0, 10)[0]
    halves = np.concatenate([split_at(half, 0.5) for half in split_at(whole, 0.4)])
    joined, _, made_of = fewer_curves(halves, np.zeros(4, bool), np.ones(4, bool), 1e-3)
    assert len(joined) == 1 and made_of.tolist() == [0]
    assert np.abs(joined[0] - whole).max() < 0.02
    kept, _, _ = fewer_curves(halves, np.zeros(4, bool), np.zeros(4, bool), 1e-3)
    assert np.array_equal(kept, halves)
