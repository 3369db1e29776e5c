"""Segments moved until they cover the pixels as the picture does; coverage beside shapely's areas."""

from __future__ import annotations

import itertools
import math

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Polygon

from bisectum.core.geom.bezier import line_segments, points_at
from bisectum.core.geom.joint import has_sane_handles
from bisectum.core.geom.polish import polish_curves
from bisectum.core.geom.solve import solve
from bisectum.core.raster.coverage import ACROSS, AT, CHORDS_PER_PX, DOWN, PIXEL, SEGMENT, cover_segment
from bisectum.core.steps.lines import step
from bisectum.core.steps.lines.fit_to_coverage import fit_chain
from bisectum.core.steps.lines.patch import patched
from tests.core.test_coverage import node_near, traced
from tests.support.drawings import INK, PAPER, circle, coverage, painted

SIZE = 24


def covered(curves: np.ndarray, straight: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Coverage of a closed chain's inside where it runs anticlockwise as seen, and its hits."""
    cover, hits = np.zeros((SIZE, SIZE + 1)), np.empty((4000, 5))
    used = 0
    for number, (curve, is_straight) in enumerate(zip(curves, straight, strict=True)):
        used = cover_segment(np.ascontiguousarray(curve), bool(is_straight), 0.0, 0.0, cover, hits, used, number)
    return np.cumsum(cover, axis=1)[:, :-1], hits[:used]


def blob(seed: int) -> np.ndarray:
    """Five cubics that follow each other about the middle, anticlockwise as seen."""
    rng = np.random.default_rng(seed)
    angle = -np.arange(5) * 2 * math.pi / 5 - rng.uniform(0, 1)
    nodes = 12 + (rng.uniform(5, 9, 5) * np.array([np.cos(angle), np.sin(angle)])).T
    ends = np.roll(nodes, -1, axis=0)
    handles = rng.uniform(-1.5, 1.5, (2, 5, 2))
    return np.stack([nodes, nodes + (ends - nodes) / 3 + handles[0], ends - (ends - nodes) / 3 + handles[1], ends], axis=1)


def chords_of(curve: np.ndarray) -> int:
    return int(CHORDS_PER_PX * np.hypot(*np.diff(curve, axis=0).T).sum())


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000))
def test_segments_cover_what_shapely_clips_and_tell_how_that_changes(seed: int) -> None:
    curves, straight = blob(seed), np.zeros(5, bool)
    shape = Polygon(points_at(curves, np.linspace(0, 1, 400, endpoint=False)).reshape(-1, 2))
    share, hits = covered(curves, straight)
    if shape.is_valid:
        assert np.abs(share - coverage(shape, SIZE, SIZE)).max() < 0.02
    assert share.sum() == pytest.approx(shape.area, abs=0.2)
    moved = curves.copy()
    moved[2, 1] += (1e-4, -2e-4)  # a handle
    assume(chords_of(curves[2]) == chords_of(moved[2]))  # one chord more is a small change of its own
    told = np.zeros(SIZE * SIZE)
    own = hits[hits[:, SEGMENT] == 2]
    weight = 3 * own[:, AT] * (1 - own[:, AT]) ** 2
    np.add.at(told, own[:, PIXEL].astype(int), weight * (-1e-4 * own[:, DOWN] - 2e-4 * own[:, ACROSS]))
    assert np.abs((covered(moved, straight)[0] - share).ravel() - told).max() < 2e-5


@pytest.mark.parametrize("noise", [0.0, 0.02])
def test_corners_find_back_to_their_places(noise: float) -> None:
    """A key with edges of 3 to 9 px, every corner of it moved off by up to 0.7 px."""
    key = np.array([(6.3, 6.4), (15.6, 6.4), (15.6, 12.2), (12.3, 12.2), (12.3, 15.4), (9.1, 15.4), (9.1, 17.8), (6.3, 17.8)])
    rng = np.random.default_rng(7)
    share = np.clip(coverage(Polygon(key), SIZE, SIZE) + rng.normal(0, noise, (SIZE, SIZE)), 0, 1)
    image = np.full((SIZE, SIZE, 4), 255, np.uint8)
    image[..., :3] = np.rint(share[..., None] * np.array(INK) + (1 - share[..., None]) * np.array(PAPER))
    surfaces = np.zeros((2, 6, 4))
    surfaces[:, 0] = [*PAPER, 255], [*INK, 255]
    off = key[::-1] + rng.uniform(-0.5, 0.5, key.shape)
    curves = line_segments(np.concatenate([off, off[:1]]))
    regions = (share > 0.5).astype(np.int32)
    fit_chain(curves, np.ones(len(key), bool), True, *off[0], image, np.arange(256.0), surfaces, np.array([0, 1], np.uint8),
                 regions, 1, 0)
    away = np.hypot(*(curves[:, 0] - key[::-1]).T)
    assert away.max() < (0.03 if noise == 0 else 0.12)
    assert np.array_equal(curves[:, 0], np.roll(curves[:, 3], 1, axis=0))


def letter_f() -> list[tuple[float, float]]:
    return [(12.6, 12.6), (46.2, 12.6), (46.2, 20.2), (21.3, 20.2), (21.3, 30.5), (39.9, 30.5), (39.9, 37.6), (21.3, 37.6),
            (21.3, 52.6), (12.6, 52.6)]


def slot() -> list[tuple[float, float]]:
    """A notch of two pixels between two bows, as in the waist of a letter."""
    return [(10.4, 20.3), (60.2, 20.3), (60.2, 34.6), (30.3, 34.6), (30.3, 36.6), (60.2, 36.6), (60.2, 50.7), (10.4, 50.7)]


@pytest.mark.parametrize("corners", [letter_f(), slot()], ids=["arms of 7 px", "a notch of 2 px"])
@pytest.mark.parametrize("degrees", [0, 11])
def test_small_corners_are_where_they_are_drawn(corners: list[tuple[float, float]], degrees: float) -> None:
    shape = affinity.rotate(Polygon(corners), degrees, origin=(32, 32))
    planar = traced(painted([(shape, INK)], 72, 72))
    places = np.asarray(shape.exterior.coords)[:-1]
    assert max(node_near(planar, x, y) for x, y in places) < 0.08
    assert len(planar.segments) - 4 == len(places)  # and no others, but for the picture's own corners


def test_a_corner_beside_a_junction_is_found() -> None:
    """A kite on a bar: its corner lies 4 px above the bar's edge."""
    kite = Polygon([(40.2, 30.3), (62.4, 51.3), (61.5, 70.0), (30.0, 70.0), (22.3, 47.6)])
    bar = shapely.box(8.3, 55.6, 92.4, 75.2)
    planar = traced(painted([(kite, (200, 60, 40)), (bar, INK)], 100, 90))
    assert node_near(planar, 62.4, 51.3) < 0.25


# Smooth spans moved together


def test_polished_curves_lie_nearer_and_stay_smooth() -> None:
    """Two cubics on a wave whose nodes sit on noisy points; the truth is the wave."""
    rng = np.random.default_rng(4)
    x = np.linspace(0, 80, 161)
    points = np.stack([x, 8 * np.sin(x / 16)], axis=1) + rng.normal(0, 0.05, (161, 2))
    ends = points[[0, 60, 110, 160]]
    slope = np.array([np.cos(ends[:, 0] / 16) / 2]).T
    way = np.concatenate([np.ones((4, 1)), slope + rng.normal(0, 0.02, (4, 1))], axis=1)
    curves = np.array([[a, a + u * (b - a)[0] / 3, b - v * (b - a)[0] / 3, b] for a, b, u, v in zip(
        ends[:-1], ends[1:], way[:-1], way[1:], strict=True)])
    before, worst = curves.copy(), np.array([1.0])
    polish_curves(points, 0, False, False, 0.5, curves, worst)

    def off(them: np.ndarray) -> float:
        places = points_at(them, np.linspace(0, 1, 60)).reshape(-1, 2)
        return float(np.abs(places[:, 1] - 8 * np.sin(places[:, 0] / 16)).mean())

    assert off(curves) < 0.6 * off(before) and off(curves) < 0.025
    assert np.array_equal(curves[0, 0], points[0]) and np.array_equal(curves[-1, 3], points[-1])
    for one, other in itertools.pairwise(curves):
        u, v = one[3] - one[2], other[1] - other[0]
        assert abs(u[0] * v[1] - u[1] * v[0]) < 1e-9 * np.hypot(*u) * np.hypot(*v) and u @ v > 0
    assert not has_sane_handles(np.array([[0, 0], [9, 0], [-8, 0], [1.0, 0]]))


def test_a_system_is_solved_as_numpy_does() -> None:
    rng = np.random.default_rng(2)
    root = rng.normal(size=(9, 9))
    matrix, vector = root @ root.T + 0.1 * np.eye(9), rng.normal(size=9)
    wanted = np.linalg.solve(matrix, vector)
    assert solve(matrix.copy(), vector) and vector == pytest.approx(wanted)
    assert not solve(np.zeros((2, 2)), np.ones(2))


def test_round_things_stay_round() -> None:
    """A ring two pixels from a disc: pixels that another line is in say nothing."""
    shape = circle(40.3, 39.8, 30).difference(circle(40.3, 39.8, 26)).union(circle(40.3, 39.8, 24))
    planar = traced(painted([(shape, INK)], 80, 80))
    for number in range(planar.chain_count):
        if planar.ends[number, 0] < 0:
            radius = np.hypot(*(points_at(planar.chain(number), np.linspace(0, 1, 30)).reshape(-1, 2) - [40.3, 39.8]).T)
            assert np.ptp(radius) < 0.12


# Repairs


@pytest.mark.parametrize("closed", [False, True])
def test_a_patch_goes_through_the_points_there_and_nowhere_else(closed: bool) -> None:
    angle = np.linspace(0, 2 * math.pi if closed else math.pi, 160, endpoint=not closed)
    points = 50 * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    nodes = np.concatenate([points[::4], points[:1] if closed else points[-1:]])
    curves = line_segments(nodes)
    curves[3, 1:3] += (9.0, -4.0)  # strays
    place, reach = points_at(curves[3:4], np.array([0.5]))[0], 16.0
    found = patched(curves, np.zeros(len(curves), bool), points, closed, place, reach)
    assert found is not None
    segments, straight = found
    assert np.array_equal(segments[1:, 0], segments[:-1, 3])
    away = np.abs(np.hypot(*points_at(segments, np.linspace(0, 1, 9)).reshape(-1, 2).T) - 50)
    assert straight.sum() >= 2 and away.max() < 0.25
    far = np.hypot(*(curves - place).transpose(2, 0, 1)).min(axis=1) > reach + 1
    kept = {tuple(curve.ravel()) for curve in segments[~straight]}
    assert far.sum() >= 5 and {tuple(curve.ravel()) for curve in curves[far]} <= kept
    assert np.hypot(*(segments[~straight] - place).transpose(2, 0, 1)).min() > reach / 2
    assert patched(curves, np.zeros(len(curves), bool), points, closed, place, 500.0) is None  # all of it


def test_one_crossing_does_not_spoil_a_long_line(monkeypatch: pytest.MonkeyPatch) -> None:
    """Blobs without anti-aliasing, whose outlines run far and close beside each other."""
    rng = np.random.default_rng(1)
    field = cv2.GaussianBlur(rng.normal(0, 1, (400, 400)).astype(np.float32), (0, 0), 6.5)
    palette = np.array([[40, 80, 140], [240, 196, 70], [200, 60, 40], [90, 150, 90]], np.uint8)
    rgba = np.full((400, 400, 4), 255, np.uint8)
    rgba[..., :3] = palette[np.digitize(field, np.quantile(field, [0.25, 0.5, 0.75]))]
    planar = traced(rgba)
    planar.check()
    places = shapely.points(planar.repaired)
    lines = shapely.MultiLineString([points_at(curve[None], np.linspace(0, 1, 9))[0] for curve in planar.segments])
    assert shapely.distance(places, lines).max() < 5 * planar.mm_per_px  # where it is told to be
    monkeypatch.setattr(step, "MOST_PATCHES", 0)
    assert len(planar.repaired) and len(planar.segments) < 0.9 * len(traced(rgba).segments)
