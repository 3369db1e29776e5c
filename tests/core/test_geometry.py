"""Fitting, corners and smoothing one by one, against curves that are known."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bisectum.core.geom.bezier import chords_needed, flatten, line_segments, points_at, reversed_segments, signed_area
from bisectum.core.geom.corners import find_corners
from bisectum.core.geom.crossings import find_crossings, pieces_of
from bisectum.core.geom.fit import fit_curve, fit_segment
from bisectum.core.geom.local_fit import arc_lengths, fit_stretch, noise_of, tangent_at
from bisectum.core.geom.outline import corners_of as corners_of_chain
from bisectum.core.geom.outline import fit_outline
from bisectum.core.geom.simplify import simplified

S_CURVE = np.array([[[0.0, 0.0], [40.0, -30.0], [60.0, 50.0], [100.0, 20.0]]])


def along(curve: np.ndarray, count: int) -> np.ndarray:
    """Points of a curve about a pixel apart, both ends included."""
    return np.ascontiguousarray(points_at(curve, np.linspace(0, 1, count))[0])


def corners_of(points: np.ndarray, noise: float = 0.002, least: float = 28.0) -> list[tuple[float, float]]:
    n = len(points)
    places = np.empty((n + 2, 2))
    count = find_corners(
        points,
        arc_lengths(points),
        1,
        n - 2,
        noise,
        math.radians(least),
        3.5,
        np.empty(n + 2, np.int64),
        places,
        np.empty(n + 2),
        np.empty((n + 2, 10)),
    )
    return [(float(x), float(y)) for x, y in places[:count]]


def outline(points: np.ndarray, closed: bool, tolerance: float = 0.1) -> tuple[np.ndarray, np.ndarray, float]:
    room = 2 * len(points) + 16
    curves, straight, worst = np.empty((room, 4, 2)), np.empty(room, bool), np.zeros(1)
    corners = np.empty(room, np.int64), np.empty((room, 2)), np.empty(room), np.empty((room, 10))
    found = corners_of_chain(points, closed, 0.003, math.radians(28), 3.5, *corners)
    count = fit_outline(points, closed, found, *corners, 0.003, True, np.full(found + 1, tolerance), curves, straight, worst)
    return curves[:count], straight[:count], float(worst[0])


# Local fits


@settings(max_examples=60, deadline=None)
@given(st.floats(-3, 3), st.floats(-3, 3), st.floats(-0.05, 0.05), st.floats(5, 12))
def test_a_parabola_is_its_own_fit(slope_x: float, slope_y: float, bend: float, origin: float) -> None:
    s = np.linspace(0, 15, 16)
    points = np.stack([2 + slope_x * s + bend * s * s, 1 + (slope_y + 0.1) * s - bend * s * s], axis=1)
    out = np.empty(4)
    rms = fit_stretch(points, s, 0, 15, origin, 2, out)
    assert 0 <= rms < 1e-7
    x, y = 2 + slope_x * origin + bend * origin**2, 1 + (slope_y + 0.1) * origin - bend * origin**2
    assert out[:2] == pytest.approx((x, y), abs=1e-6)
    velocity = np.array([slope_x + 2 * bend * origin, slope_y + 0.1 - 2 * bend * origin])
    if np.hypot(*velocity) > 1e-3:
        assert out[2:] == pytest.approx(velocity / np.hypot(*velocity), abs=1e-5)


def test_too_few_points_are_told() -> None:
    points = np.array([[0.0, 0.0], [1.0, 0.0]])
    s, out = arc_lengths(points), np.empty(4)
    assert fit_stretch(points, s, 0, 0, 0.0, 1, out) < 0
    assert fit_stretch(points, s, 0, 1, 0.0, 2, out) < 0
    assert fit_stretch(np.zeros((5, 2)), np.zeros(5), 0, 4, 0.0, 1, out) < 0
    tangent_at(points, s, 0, 0, 1, 5.0, out)
    assert out[2:].tolist() == [1.0, 0.0]


def test_noise_is_measured() -> None:
    rng = np.random.default_rng(2)
    for sigma in (0.0, 0.02, 0.2):
        points = along(S_CURVE, 400) + rng.normal(0, sigma, (400, 2))
        assert noise_of(points, np.arange(400.0)) == pytest.approx(sigma, rel=0.45, abs=1e-3)  # a low percentile says too little


# Corners


@pytest.mark.parametrize("degrees", [35, 60, 90, 120, 140])
def test_corners_lie_where_the_sides_meet(degrees: int) -> None:
    turn = math.radians(degrees)
    first = np.stack([np.arange(0.5, 40), np.zeros(40)], axis=1)
    ray = np.arange(0.5, 40)[:, None] * [math.cos(turn), math.sin(turn)] + [40.0, 0.0]
    points = np.concatenate([first, ray])
    found = corners_of(points)
    assert len(found) == 1
    assert found[0] == pytest.approx((40, 0), abs=0.02)


@pytest.mark.parametrize("radius", [12.0, 16.0, 40.0, 200.0])
def test_a_bend_is_no_corner(radius: float) -> None:
    angle = np.arange(0, math.pi, 1 / radius)
    assert corners_of(np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1)) == []


def test_two_corners_close_together_are_two() -> None:
    up = np.stack([np.zeros(30), np.arange(30, 0, -1.0)], axis=1)
    over = np.stack([np.arange(0.5, 6), np.zeros(6)], axis=1)
    down = np.stack([np.full(30, 6.0), np.arange(1.0, 31)], axis=1)
    found = corners_of(np.concatenate([up, over, down]))
    assert [tuple(round(v, 1) for v in place) for place in found] == [(0, 0), (6, 0)]


# Fitting


def test_one_cubic_is_found_again() -> None:
    points = along(S_CURVE, 120)
    s, out = arc_lengths(points), np.empty((4, 2))
    tangent = np.array([0.8, -0.6])
    end = (S_CURVE[0, 3] - S_CURVE[0, 2]) / np.hypot(*(S_CURVE[0, 3] - S_CURVE[0, 2]))
    error = fit_segment(points, s, 0, 119, tangent, end, False, 0.05, np.empty(130), out)
    assert error < 0.05
    away = np.abs(along(out[None], 3000)[:, None] - points[None]).sum(axis=2).min(axis=0)
    assert away.max() < 0.1


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.03, 1.0))
def test_the_tolerance_is_kept_and_the_joins_are_smooth(seed: int, tolerance: float) -> None:
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 2.5, 260)
    wave = np.stack([60 * t, 14 * np.sin(2.2 * t + rng.uniform(0, 6)) + 6 * np.sin(5 * t + rng.uniform(0, 6))], axis=1)
    s = arc_lengths(wave)
    room = (len(wave) + 2, 4, 2)
    out, worst, local = np.empty(room), np.zeros(1), np.empty(4)
    tangent_at(wave, s, 0, 0, 259, 5.0, local)
    start = local[2:].copy()
    tangent_at(wave, s, 259, 0, 259, 5.0, local)
    count = fit_curve(
        wave, s, 0, 259, start, local[2:].copy(), False, False, tolerance, np.empty(270), out, np.empty(room), worst
    )
    curves = out[:count]
    assert worst[0] <= tolerance + 1e-9 and count < 40
    dense = points_at(curves, np.linspace(0, 1, 500)).reshape(-1, 2)
    assert np.sqrt(((wave[:, None] - dense[None]) ** 2).sum(axis=2)).min(axis=1).max() <= tolerance + 0.06
    for before, after in itertools.pairwise(curves):
        assert before[3] == pytest.approx(after[0])
        one, other = before[3] - before[2], after[1] - after[0]
        assert abs(one[0] * other[1] - one[1] * other[0]) <= 0.02 * np.hypot(*one) * np.hypot(*other)


def test_lines_run_into_arcs_without_a_bend() -> None:
    """A rounded box: four lines, four arcs, and the lines keep exactly to their direction."""
    corner = 18.0
    quarter = np.arange(1, 28) / 28 * math.pi / 2
    sides = []
    for turn in range(4):
        side = np.stack([np.arange(corner, 100 - corner + 0.5), np.zeros(int(100 - 2 * corner) + 1)], axis=1)
        arc = np.stack([100 - corner + corner * np.sin(quarter), corner - corner * np.cos(quarter)], axis=1)
        angle = turn * math.pi / 2
        rotation = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
        sides.append((np.concatenate([side, arc]) - 50) @ rotation + 50)
    curves, straight, worst = outline(np.concatenate(sides), True)
    assert 8 <= len(curves) <= 12 and straight.sum() == 4 and worst < 0.1
    for line in curves[straight]:
        assert min(abs(line[3] - line[0])) < 0.02
    assert signed_area(curves) == pytest.approx(100**2 - (4 - math.pi) * corner**2, rel=1e-3)


def test_short_and_strange_chains_come_through() -> None:
    for points in (
        np.array([[0.0, 0.0], [1.0, 0.0]]),
        np.array([[0.0, 0.0], [0.5, 0.5], [1.0, 0.0]]),
        np.array([[0.0, 0.0], [5.0, 0.0], [0.0, 0.0]]),
    ):
        curves, _, _ = outline(points, False)
        assert np.isfinite(curves).all()
        assert curves[0, 0].tolist() == points[0].tolist() and curves[-1, 3].tolist() == points[-1].tolist()


# Curves and polylines


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=4, max_size=4), st.floats(0.005, 1))
def test_flattening_keeps_its_tolerance(control: list[tuple[float, float]], tolerance: float) -> None:
    curve = np.array([control])
    points = np.concatenate([flatten(curve, tolerance), curve[:, 3]])
    assert len(points) == chords_needed(curve, tolerance)[0] + 1
    dense = along(curve, 400)
    start, step = points[:-1], np.diff(points, axis=0)
    size = np.maximum((step**2).sum(axis=1), 1e-18)
    share = np.clip(((dense[:, None] - start[None]) * step[None]).sum(axis=2) / size, 0, 1)
    near = start[None] + share[..., None] * step[None]
    assert np.sqrt(((dense[:, None] - near) ** 2).sum(axis=2)).min(axis=1).max() <= tolerance + 1e-9
    assert signed_area(np.concatenate([curve, reversed_segments(curve)])) == pytest.approx(0, abs=1e-6)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=2, max_size=60), st.floats(0.01, 5))
def test_simplifying_stays_within_its_tolerance(places: list[tuple[float, float]], tolerance: float) -> None:
    points = np.array(places)
    keep = simplified(points, tolerance)
    assert keep[0] and keep[-1]
    kept = np.flatnonzero(keep)
    for low, high in itertools.pairwise(kept):
        step = points[high] - points[low]
        size = max(float(step @ step), 1e-18)
        for place in points[low + 1 : high]:
            share = min(1.0, max(0.0, float((place - points[low]) @ step) / size))
            assert np.hypot(*(place - points[low] - share * step)) <= tolerance + 1e-6


def test_crossings_are_found_and_touching_ends_are_none() -> None:
    def pieces(*paths: list[tuple[float, float]]) -> tuple[np.ndarray, np.ndarray]:
        runs = [pieces_of(line_segments(np.array(path, float)), 0.02)[0] for path in paths]
        return np.concatenate(runs), np.repeat(np.arange(len(runs)), [len(run) for run in runs])

    assert find_crossings(*pieces([(0, 0), (100, 0)], [(0, 1), (100, 1)])) == []
    assert find_crossings(*pieces([(0, 0), (50, 0)], [(50, 0), (90, 40)], [(50, 0), (50, 60)])) == []
    one, other, x, y = find_crossings(*pieces([(0, 0), (100, 0)], [(37, -20), (37, 20)]))[0]
    assert {one, other} == {0, 1} and abs(x - 37) <= 8 and abs(y) <= 8
    loop = find_crossings(*pieces([(0, 0), (30, 0), (30, 30), (10, -20)]))
    assert loop and loop[0][:2] == (0, 0)
    assert pieces_of(line_segments(np.array([[0.0, 0.0], [20.0, 0.0]])), 0.02)[0].shape == (3, 4)
    assert find_crossings(np.empty((0, 4)), np.empty(0, np.int64)) == []


def test_straight_segments_have_their_handles_at_the_thirds() -> None:
    segments = line_segments(np.array([[0.0, 0.0], [3.0, 6.0], [9.0, 6.0]]))
    assert segments[0].tolist() == [[0, 0], [1, 2], [2, 4], [3, 6]]
    assert segments[1, 1].tolist() == [5, 6]
