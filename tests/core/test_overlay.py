"""Curves laid over each other, against GEOS (by shapely) on fine polygons, and by what must hold of any sets."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable

import numpy as np
import pathops
import pytest
import shapely

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.overlay.crossed import deep_crossings
from bisectum.core.geom.overlay.network import EPS_MM
from bisectum.core.geom.overlay.overlay import Overlay, overlay
from bisectum.core.model.mend import without_crossings
from bisectum.core.model.offset import curves_of, rings_of
from bisectum.core.model.relabel import labels_from, relabel
from tests.support.outlines import (
    FIELDS,
    Ring,
    area_of,
    blob,
    circle,
    clockwise,
    is_straight,
    laid,
    map_of,
    nasty_pair,
    pathops_of,
    polygon,
    polygon_of,
    random_pair,
)

SQUARE = polygon([(0, 0), (10, 0), (10, 10), (0, 10)])
STRIP = 1.5 * EPS_MM  # lines this near to each other are one, which may move what lies between them to the other side
PAIRS = [
    ("union", shapely.union, lambda a, b: a | b), ("intersection", shapely.intersection, lambda a, b: a & b),
    ("difference", shapely.difference, lambda a, b: a & ~b),
]


def area(over: Overlay, rule: Callable[[np.ndarray, np.ndarray], np.ndarray]) -> float:
    inside = rule(over.labels[1:, 0] != 0, over.labels[1:, 1] != 0)
    return float(over.areas()[1:][inside].sum())


def wrong(one: Ring, other: Ring, over: Overlay) -> float:
    """How far the areas of union, intersection and difference lie off GEOS's, beyond what its chords lose; of the area."""
    a, b = polygon_of(one), polygon_of(other)
    if not (a.is_valid and b.is_valid):
        return 0.0  # it crosses itself: then windings count here, and GEOS refuses it
    worst = max(abs(area(over, rule) - by_geos(a, b).area) for _, by_geos, rule in PAIRS)
    return float((worst - 2e-5 * (a.length + b.length)) / max(a.area, b.area))


def test_random_pairs_against_geos() -> None:
    for seed in range(150):
        one, other = random_pair(np.random.default_rng(seed))
        over = laid(one, other)
        over.check()
        assert wrong(one, other, over) < 1e-6, seed


def test_pairs_that_are_hard_to_tell_apart() -> None:
    """Copies, copies shifted by less than can be cut, mirrored, touching, partly the same line: whatever comes is sound."""
    for seed in range(150):
        one, other, kind = nasty_pair(np.random.default_rng(seed))
        over = laid(one, other)
        over.check()
        length = polygon_of(one).length
        assert wrong(one, other, over) * polygon_of(one).area < STRIP * length + 1e-6, (seed, kind)
        for rule in (lambda a, b: a | b, lambda a, b: a & b, lambda a, b: a & ~b):
            values = rule(over.labels[:, 0] != 0, over.labels[:, 1] != 0)
            assert list(relabel(over, values, **FIELDS).faults()) == [], (seed, kind)


def test_a_second_opinion() -> None:
    """skia-pathops, another program for curves, where it agrees with GEOS."""
    agreed = 0
    for seed in range(60):
        one, other = random_pair(np.random.default_rng(seed))
        paths = [pathops_of(one), pathops_of(other)]
        theirs = pathops.op(*paths, pathops.PathOp.UNION).area
        geos = shapely.union(shapely.make_valid(polygon_of(one)), shapely.make_valid(polygon_of(other))).area
        if abs(theirs - geos) < 1e-3 * geos:
            agreed += 1
            assert area(laid(one, other), lambda a, b: a | b) == pytest.approx(theirs, rel=1e-4), seed
    assert agreed > 40


def test_what_holds_of_any_sets() -> None:
    for seed in range(25):
        rng = np.random.default_rng(1000 + seed)
        one, other = random_pair(rng)
        whole = laid(one)
        own = float(whole.areas()[1:][whole.labels[1:, 0] != 0].sum())
        both, again = laid(one, one), laid(one, other)
        assert area(both, lambda a, b: a | b) == pytest.approx(own, rel=1e-12)
        assert area(both, lambda a, b: a & ~b) == 0
        assert area(again, lambda a, b: a & b) <= own + 1e-9
        swapped = laid(other, one)
        assert area(again, lambda a, b: a | b) == pytest.approx(area(swapped, lambda a, b: a | b), rel=1e-7)
        quarter = np.array([[0.0, 1.0], [-1.0, 0.0]])
        turned = laid(one @ quarter, other @ quarter)
        assert area(again, lambda a, b: a & b) == pytest.approx(area(turned, lambda a, b: a & b), rel=1e-7, abs=1e-6)
        repeat = laid(one, other)
        assert np.array_equal(repeat.curves, again.curves) and np.array_equal(repeat.labels, again.labels)


def test_what_nothing_touches_keeps_its_bits() -> None:
    ring, far = blob(np.random.default_rng(4)), circle(50, 0, 3)
    planar = relabel(over := laid(ring, far), (over.labels != 0).any(axis=1), **FIELDS)
    assert {row.tobytes() for row in planar.segments} == {row.tobytes() for row in (*clockwise(ring), *far)}
    crossed = laid(SQUARE, circle(10, 5, 2))
    union = relabel(crossed, (crossed.labels != 0).any(axis=1), **FIELDS)
    whole = {row.tobytes() for row in union.segments}
    assert sum(row.tobytes() in whole for row in SQUARE) == 3  # all sides but the one that was cut
    assert len(union.segments) == 3 + 2 + 2  # the fourth in two parts, and the two quarters of the circle outside


def test_lines_that_go_on_straight_lose_their_node() -> None:
    """A box laid half over another one: where both sides run on one line nothing is left of the corners between."""
    over = laid(SQUARE, SQUARE + np.array([5, 0]))
    union = relabel(over, (over.labels != 0).any(axis=1), **FIELDS)
    assert area_of(union) == pytest.approx(150) and len(union.segments) <= 6


def test_junctions_of_any_degree() -> None:
    """Sixteen wedges about one place: its spokes, and the way around each wedge."""
    angles = np.linspace(0, 2 * np.pi, 17)[:-1]
    tips = np.stack([np.cos(angles), np.sin(angles)], axis=1) * 10
    wedges = [polygon([(0, 0), tip, after]) for tip, after in zip(tips, np.roll(tips, -1, axis=0), strict=True)]
    over = laid(*wedges)
    planar = relabel(over, np.arange(over.face_count), **FIELDS)
    planar.check()
    assert np.diff(planar.spoke_first).max() == 16
    assert len(planar.face_labels) == 16
    assert area_of(planar) == pytest.approx(float(shapely.Polygon(tips).area))


def test_windings_count_where_a_line_crosses_itself() -> None:
    """Self-overlapping rings weld: an eight, and a ring walked twice."""
    eight = polygon([(0, 0), (10, 10), (10, 0), (0, 10)])
    assert sorted(set(laid(eight).labels[:, 0].tolist())) == [-1, 0, 1]
    twice = overlay([rings_of(np.concatenate([SQUARE, SQUARE]), np.ones(8, bool))])
    assert twice.labels[:, 0].tolist() == [0, 2]


def test_areas_of_each_input_survive() -> None:
    """Needs no oracle: the faces of each input are parted, and their parts add up to what they were."""
    rng = np.random.default_rng(7)
    rings = [clockwise(blob(rng)) + rng.uniform(-6, 6, 2) for _ in range(6)]
    before = [float(over.areas()[1:][over.labels[1:, 0] == 1].sum()) for over in (laid(ring) for ring in rings)]
    over = laid(*rings)
    after = [float(over.areas()[1:][over.labels[1:, k] == 1].sum()) for k in range(6)]
    assert after == pytest.approx(before, rel=1e-6)


def test_a_map_laid_over_itself_is_the_map() -> None:
    one, other = random_pair(np.random.default_rng(11))
    over = laid(one, other)
    planar = relabel(over, over.labels[:, 0] + 2 * over.labels[:, 1], **FIELDS)
    for shift in (0.0, 1e-6, 1e-4):
        there = np.array([[1.0, 0.0, shift], [0.0, 1.0, 0.0]])
        both = overlay([curves_of(planar), curves_of(planar, there)])
        again = relabel(both, labels_from(both, 0, planar), **FIELDS)
        assert sorted(row.tobytes() for row in again.segments) == sorted(row.tobytes() for row in planar.segments)


def test_lines_that_cross_are_found_and_mended() -> None:
    """Two sides of a sharp corner that cross just before it, as traced lines did: told as a fault, and cut there."""
    sharp = np.array([
        [(0, 0), (4, 0.3), (8, 0.2), (10, 0)], [(10, 0), (7.5, 0.35), (4, -1.5), (0, -2)],
        [(0, -2), (-1, -1.5), (-1, -0.5), (0, 0)],
    ], float)
    planar = map_of(circle(0, 0, 5))
    assert deep_crossings(planar.segments, np.zeros(4, np.int64), EPS_MM) == []
    owners = np.zeros(len(sharp), np.int64)
    assert [found[:2] for found in deep_crossings(np.ascontiguousarray(sharp), owners, EPS_MM)] == [(0, 0)]
    broken = relabel(laid(SQUARE), np.array([0, 1]), **FIELDS)
    moved = broken.segments.copy()
    moved[1, 3] = moved[2, 0] = (-2.0, 5.0)
    moved[[1, 2], 1], moved[[1, 2], 2] = moved[[1, 2], 0], moved[[1, 2], 3]
    bent = dataclasses.replace(broken, segments=moved)
    assert "self_crossing" in {fault.kind for fault in bent.faults()}
    mended = without_crossings(bent)
    assert list(mended.faults()) == []
    assert without_crossings(mended) is mended


def test_what_is_broken_is_told() -> None:
    over = laid(SQUARE)
    moved = over.curves.copy()
    moved[0, 0] += 1
    with pytest.raises(BrokenStructure, match="vertex"):
        dataclasses.replace(over, curves=moved).check()
    with pytest.raises(BrokenStructure, match="parts nothing"):
        dataclasses.replace(over, labels=np.zeros_like(over.labels)).check()


def test_nothing_and_next_to_nothing() -> None:
    assert overlay([]).face_count == 1
    assert laid(np.empty((0, 4, 2))).face_count == 1
    speck = laid(circle(0, 0, 1e-4))
    assert relabel(speck, speck.labels[:, 0] != 0, **FIELDS).chain_count == 0
    assert is_straight(SQUARE).all()
