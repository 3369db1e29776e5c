"""Corrections by hand, fewer nodes, smoothing and lapped layers, on drawings whose geometry is known."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from PIL import Image
from shapely import affinity

from bisectum.core.geom.bezier import flatten, points_at, signed_area
from bisectum.core.geom.even_out import even_out
from bisectum.core.geom.fewer import fewer_nodes
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Layer
from bisectum.core.model.planar_map import PlanarMap
from tests.support.asserts import Traced, trace
from tests.support.drawings import INK, circle, painted, parted

RED = (200, 60, 40)
SIZE = 120
LEFT, MIDDLE, RIGHT, TOP, BOTTOM = 20.4, 60.3, 99.6, 30.2, 90.7


def flag() -> np.ndarray:
    """Two halves that share one upright line."""
    halves = [(shapely.box(LEFT, TOP, MIDDLE, BOTTOM), INK), (shapely.box(MIDDLE, TOP, RIGHT, BOTTOM), RED)]
    return parted(halves, SIZE, SIZE)


def traced(rgba: np.ndarray, *corrections: dict, **lines: object) -> Traced:
    """One pixel is one millimetre; places of corrections are given in pixels."""
    shares = [{key: value / rgba.shape[1] if key in ("x", "y", "to_x", "to_y") else value for key, value in one.items()}
              for one in corrections]
    return trace(rgba, picture={"measured": "picture", "width_mm": rgba.shape[1]}, layers={"build": "flush"},
                 lines={"closeness_mm": 0.05, "corrections": shares} | lines)


def fix(kind: str, x: float, y: float, **more: float) -> dict:
    return {"kind": kind, "x": x, "y": y, **more}


def polygon(layer: Layer) -> shapely.Polygon:
    whole = shapely.Polygon()
    for ring in layer.rings:
        whole = whole.symmetric_difference(shapely.Polygon(flatten(ring.segments, 1e-3)))
    return whole


def node_at(planar: PlanarMap, x: float, y: float) -> bool:
    return bool(np.hypot(*(planar.segments[:, (0, 3)].reshape(-1, 2) - [x, y]).T).min() < 0.05)


# Corrections


def test_a_moved_node_of_a_shared_line_moves_for_both() -> None:
    plain = traced(flag())
    done = traced(flag(), fix("move", MIDDLE, TOP, to_x=MIDDLE + 9, to_y=TOP - 4))
    assert done.planar_map.left_out == ()
    done.planar_map.check()
    ink, red = (polygon(layer) for layer in sorted(done.artwork.layers, key=lambda layer: layer.rgb))
    assert shapely.area(shapely.intersection(ink, red)) < 1e-6
    moved = shapely.Polygon([(LEFT, TOP), (MIDDLE + 9, TOP - 4), (MIDDLE, BOTTOM), (LEFT, BOTTOM)])
    assert shapely.area(shapely.symmetric_difference(ink, moved)) < 0.6
    assert shapely.area(ink) > shapely.area(polygon(min(plain.artwork.layers, key=lambda layer: layer.rgb))) + 200


def test_nodes_are_added_moved_and_taken_out_again() -> None:
    middle = (LEFT, (TOP + BOTTOM) / 2)
    bulged = traced(flag(), fix("add", *middle), fix("move", *middle, to_x=LEFT - 8, to_y=middle[1]))
    assert node_at(bulged.planar_map, LEFT - 8, middle[1]) and bulged.planar_map.left_out == ()
    again = traced(flag(), fix("add", *middle), fix("move", *middle, to_x=LEFT - 8, to_y=middle[1]),
                   fix("remove", LEFT - 8, middle[1]))
    assert len(again.planar_map.segments) == len(traced(flag()).planar_map.segments)
    assert not node_at(again.planar_map, LEFT - 8, middle[1])


@pytest.mark.parametrize("x", [22.9, 27.83, 41.0, 57.6])
def test_a_node_is_added_anywhere_on_a_long_line(x: float) -> None:
    rgba = painted([(shapely.box(LEFT, TOP, RIGHT, BOTTOM), INK)], SIZE, SIZE)
    planar = traced(rgba, fix("add", x, TOP)).planar_map
    assert planar.left_out == () and node_at(planar, x, TOP)


def test_a_corner_is_rounded_by_its_radius() -> None:
    radius = 12.0
    done = traced(flag(), fix("round", LEFT, TOP, radius_mm=radius))
    ink = polygon(min(done.artwork.layers, key=lambda layer: layer.rgb))
    plain = polygon(min(traced(flag()).artwork.layers, key=lambda layer: layer.rgb))
    assert plain.area - ink.area == pytest.approx((1 - math.pi / 4) * radius**2, rel=0.01)
    arc = [point for point in ink.exterior.coords if point[0] < LEFT + radius - 0.1 and point[1] < TOP + radius - 0.1]
    away = [math.hypot(x - LEFT - radius, y - TOP - radius) - radius for x, y in arc]
    # Four cubic arcs stray from a circle by 2.7e-4 of its radius at most: a handbook value.
    assert max(map(abs, away)) < 2.8e-4 * radius + 0.02


def test_spans_become_lines_arcs_and_joins() -> None:
    disc = painted([(circle(60.3, 59.8, 40), INK)], SIZE, SIZE)
    top, right = {"x": 60.3, "y": 19.8}, {"to_x": 100.3, "to_y": 59.8}
    chord = traced(disc, {"kind": "straight", **top, **right})
    assert chord.planar_map.straight.sum() == 5  # with the frame's four sides
    lost = math.pi * 400 - 800  # a quarter of the disc, less its triangle
    assert math.pi * 1600 - polygon(chord.artwork.layers[0]).area == pytest.approx(lost, rel=0.01)
    arc = traced(disc, {"kind": "straight", **top, **right}, {"kind": "arc", "x": 60.3, "y": 99.8, "to_x": 20.3, "to_y": 59.8})
    assert polygon(arc.artwork.layers[0]).area == pytest.approx(polygon(chord.artwork.layers[0]).area, rel=1e-3)
    join = traced(disc, {"kind": "join", **top, **right})
    assert join.planar_map.straight.sum() == 4 and 1.0 < math.pi * 1600 - polygon(join.artwork.layers[0]).area < lost


def test_corners_become_smooth_and_smooth_nodes_corners() -> None:
    def turn_at(done: Traced, x: float, y: float) -> float:
        planar = done.planar_map
        number = int(np.hypot(*(planar.segments[:, 0] - [x, y]).T).argmin())
        before = next(own for own in planar.segments if np.allclose(own[3], planar.segments[number, 0]))
        a, b = before[3] - before[2], planar.segments[number, 1] - planar.segments[number, 0]
        return abs(math.atan2(a[0] * b[1] - a[1] * b[0], a @ b))

    assert turn_at(traced(flag()), LEFT, TOP) == pytest.approx(math.pi / 2, abs=0.01)
    assert turn_at(traced(flag(), fix("smooth", LEFT, TOP)), LEFT, TOP) < 1e-6
    disc = painted([(circle(60.3, 59.8, 40), INK)], SIZE, SIZE)
    assert turn_at(traced(disc, fix("corner", 60.3, 19.8)), 60.3, 19.8) > 0.3
    bent = traced(disc, fix("handle", 60.3 + 22.1, 19.8, to_x=60.3 + 20, to_y=10))
    assert turn_at(bent, 60.3, 19.8) < 1e-6 and bent.planar_map.left_out == ()


def test_what_finds_nothing_or_would_cross_is_left_out_and_the_rest_is_made() -> None:
    done = traced(
        flag(),
        fix("remove", 5, 5),
        fix("move", LEFT, TOP, to_x=RIGHT + 8, to_y=BOTTOM + 15),  # across the whole flag
        fix("round", LEFT, BOTTOM, radius_mm=150),  # no room
        fix("move", RIGHT, TOP, to_x=RIGHT + 3, to_y=TOP - 3),
    )
    assert done.planar_map.left_out == (0, 1, 2)
    done.planar_map.check()
    assert node_at(done.planar_map, RIGHT + 3, TOP - 3) and node_at(done.planar_map, LEFT, TOP)


def test_corrections_survive_a_new_trace() -> None:
    move = fix("move", MIDDLE, BOTTOM, to_x=MIDDLE - 6, to_y=BOTTOM + 5)
    for closeness in (0.02, 0.4, 1.5):
        done = traced(flag(), move, closeness_mm=closeness)
        assert done.planar_map.left_out == () and node_at(done.planar_map, MIDDLE - 6, BOTTOM + 5)


# Fewer nodes and smoothing


def wave(count: int) -> np.ndarray:
    """A sine wave as many cubics (Hermite form): (count, 4, 2)."""
    x = np.linspace(0, 120, count + 1)
    place, slope = np.stack([x, 12 * np.sin(x / 9)], axis=1), np.stack([np.ones_like(x), 12 / 9 * np.cos(x / 9)], axis=1)
    third = (x[1] - x[0]) / 3
    return np.stack([place[:-1], place[:-1] + third * slope[:-1], place[1:] - third * slope[1:], place[1:]], axis=1)


@pytest.mark.parametrize("bound", [0.05, 0.3, 1.5])
def test_fewer_nodes_stay_within_the_bound(bound: float) -> None:
    many = wave(60)
    fewer, straight, moved = fewer_nodes(many, np.zeros(60, bool), False, np.full(60, bound))
    assert len(fewer) < 30 and moved <= bound and not straight.any()
    true = shapely.LineString(points_at(many, np.linspace(0, 1, 60)).reshape(-1, 2))
    away = shapely.distance(shapely.points(points_at(fewer, np.linspace(0, 1, 160)).reshape(-1, 2)), true)
    assert away.max() <= bound * 1.02 + 1e-3
    assert np.array_equal(fewer[0, 0], many[0, 0]) and np.array_equal(fewer[-1, 3], many[-1, 3])


def test_a_looser_bound_gives_no_more_nodes_and_corners_stay() -> None:
    counts = [len(fewer_nodes(wave(60), np.zeros(60, bool), False, np.full(60, bound))[0]) for bound in (0.02, 0.1, 0.5, 2.0)]
    assert counts == sorted(counts, reverse=True)
    done = traced(flag(), simplify_mm=1.0)
    assert all(node_at(done.planar_map, x, y) for x in (LEFT, RIGHT) for y in (TOP, BOTTOM))


def test_smoothing_evens_out_wobbles_and_keeps_what_is_round() -> None:
    angle = np.linspace(0, 2 * math.pi, 300, endpoint=False)
    radius = 50 + 0.4 * np.sin(60 * angle)
    points = np.ascontiguousarray(np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1))
    even_out(points, True, np.zeros(len(points), bool), 0, np.empty(0, np.int64), 60)
    found = np.hypot(*points.T)
    assert found.std() < 0.03 and found.mean() == pytest.approx(50, abs=0.05)


# Lapped layers


def hidden_edges(lapped: Path, flush: shapely.Polygon) -> np.ndarray:
    """Points of a ring that are off the flush outline."""
    points = points_at(lapped.segments, np.linspace(0, 1, 30)).reshape(-1, 2)
    return points[shapely.distance(shapely.points(points), flush.boundary) > 0.02]


@pytest.mark.parametrize("lap", [0.3, 1.0, 3.0])
def test_a_lapped_layer_reaches_under_by_its_lap_and_no_further(lap: float) -> None:
    """A sail on a hull on the sea, at 4 px/mm: lines that run on, a T, and an upper layer set into a lower one."""
    sea = shapely.box(40, 200, 440, 380)
    hull = affinity.rotate(shapely.box(120, 150, 330, 260), 7)
    port = circle(240, 215, 22)
    rgba = painted([(sea, INK), (hull, RED), (port, (250, 210, 90))], 480, 420)
    def layers(**build: object) -> tuple[Layer, ...]:
        result = trace(rgba, 0.25, picture={"width_mm": 100}, lines={"closeness_mm": 0.02}, layers=build)
        result.artwork.check()
        return result.artwork.layers

    flush, lapped = layers(build="flush"), layers(build="lapped", lap_mm=lap)
    above = shapely.union_all([polygon(layer) for layer in flush[1:]])
    for flat, wide in zip(flush[:2], lapped[:2], strict=True):
        old, new = polygon(flat), polygon(wide)
        assert new.is_valid and shapely.area(shapely.difference(old, new)) < 0.05
        edges = np.concatenate([hidden_edges(ring, old) for ring in wide.rings])
        inside = shapely.distance(shapely.points(edges), above.boundary) > 0.05  # not where what is above ends first
        away = shapely.distance(shapely.points(edges[inside]), old)
        assert len(away) > 20 and np.abs(away - lap).max() < 0.03
    shared = {tuple(place) for ring in flush[0].rings for place in ring.segments[:, 0].round(6).tolist()}
    kept = {tuple(place) for ring in lapped[0].rings for place in ring.segments[:, 0].round(6).tolist()}
    assert len(shared & kept) >= 4  # what is seen of the sea keeps its own nodes
    assert [ring.segments.tolist() for ring in flush[-1].rings] == [ring.segments.tolist() for ring in lapped[-1].rings]


def test_laps_of_the_demo_are_sound() -> None:
    with Image.open("demo/pictures/lighthouse.png") as picture:
        rgba = np.asarray(picture.convert("RGBA"))
    artwork = trace(rgba, 0.1, picture={"width_mm": 120}, layers={"build": "lapped", "lap_mm": 0.8}).artwork
    artwork.check()
    assert all(signed_area(ring.segments) != 0 and polygon(layer).is_valid for layer in artwork.layers for ring in layer.rings)
