"""Smooth outlines stay smooth, and straight ones straight, however many pixels draw them."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from numpy.typing import NDArray

from bisectum.core.geom.local_fit import arc_lengths
from bisectum.core.geom.straight import find_straights
from bisectum.core.model.artwork import Layer
from tests.support.asserts import layer_polygons, trace
from tests.support.drawings import INK, painted
from tests.support.smooth import away_from, drawn, grained, hardened, letters, smooth_shapes
from tests.support.strangers import compressed

SHAPES = {shape.name: shape for shape in (*smooth_shapes(), *letters())}
SIZES = (200, 1600)


def traced(rgba: NDArray[np.uint8], width_mm: float | None = None, closeness_mm: float = 0.1) -> Layer:
    """The layer of ink; in pixels where no width is given."""
    artwork = trace(rgba, picture={"measured": "picture", "width_mm": width_mm}, layers={"build": "flush"},
                    lines={"closeness_mm": closeness_mm}, pieces={"smallest_mm2": 6.0 if width_mm is None else 1.0}).artwork
    artwork.check()
    return min(artwork.layers, key=lambda layer: sum(abs(a - b) for a, b in zip(layer.rgb, INK, strict=True)))


def lines_of(layer: Layer) -> int:
    return sum(int(ring.straight.sum()) for ring in layer.rings)


@pytest.mark.parametrize("sigma", [0.0, 3.0])
@pytest.mark.parametrize("name", ["egg", "superellipse", "spline", "rounded box", "O B", "S A", "a B"])
def test_nodes_do_not_depend_on_pixels(name: str, sigma: float) -> None:
    """The same make, 150 mm wide, from a small picture and from large ones."""
    shape = SHAPES[name]
    made = [traced(grained(drawn(shape, size)[0], sigma), 150.0) for size in SIZES]
    assert max(layer.node_count for layer in made[1:]) <= (1.4 if sigma else 1.25) * made[0].node_count
    assert all(lines_of(layer) <= shape.lines for layer in made)
    assert made[0].node_count <= 1.6 * shape.nodes


@pytest.mark.parametrize("name", ["egg", "superellipse", "clothoid", "spline"])
def test_a_gentle_curve_is_no_line_and_lies_close(name: str) -> None:
    rgba, outline = drawn(SHAPES[name], 1600)
    layer = traced(rgba, closeness_mm=0.05)
    assert lines_of(layer) == 0
    assert max(away_from(ring.segments, outline).max() for ring in layer.rings) <= 0.08


@pytest.mark.parametrize("name", ["egg", "spiral, 2 turns", "& A"])
def test_compressed_and_hard_edges_stay_smooth_too(name: str) -> None:
    rgba, outline = drawn(SHAPES[name], 600)
    for spoilt, most in ((compressed(rgba), 0.3), (hardened(rgba), 0.8)):
        layer = traced(spoilt, 150.0)
        assert max(away_from(ring.segments / 150.0 * rgba.shape[1], outline).max() for ring in layer.rings) < most + 0.5
        if SHAPES[name].lines == 0:
            assert lines_of(layer) <= 1


def test_neighbours_on_a_smooth_line_share_their_tangent() -> None:
    layer = traced(drawn(SHAPES["spline"], 600)[0], 150.0)
    for ring in layer.rings:
        out = ring.segments[:, 3] - ring.segments[:, 2]
        into = np.roll(ring.segments[:, 1] - ring.segments[:, 0], -1, axis=0)
        turn = np.arctan2(out[:, 0] * into[:, 1] - out[:, 1] * into[:, 0], (out * into).sum(axis=1))
        assert np.abs(turn).max() < 1e-3


def run_and_bend(line: float, radius: float, sigma: float, seed: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Points a pixel apart along an arc, a line of this length and an arc again, off across it by sigma."""
    bend = np.arange(0.0, 0.8 * radius)
    curvature = np.concatenate([np.full(len(bend), 1 / radius), np.zeros(round(line)), np.full(len(bend), 1 / radius)])
    angle = np.cumsum(curvature)
    off = np.random.default_rng(seed).normal(0, sigma, len(angle))
    points = np.stack([np.cumsum(np.cos(angle)) - off * np.sin(angle), np.cumsum(np.sin(angle)) + off * np.cos(angle)], 1)
    return np.ascontiguousarray(points), arc_lengths(np.ascontiguousarray(points))


@pytest.mark.parametrize("sigma", [0.01, 0.05])
@pytest.mark.parametrize("radius", [20.0, 120.0, 1000.0, 3000.0])
def test_lines_are_told_from_arcs(radius: float, sigma: float) -> None:
    """A stretch that is straight between two bends is found, an arc of the same length is none."""
    runs = np.empty((64, 2), np.int64)
    for seed in range(5):
        for line, wanted in ((6.0 * math.sqrt(radius * max(1.0, sigma / 0.01)), 1), (0.0, 0)):
            points, s = run_and_bend(line, radius, sigma, seed)
            found = find_straights(points, s, 0, len(s) - 1, sigma, False, False, runs)
            assert found == wanted, (line, seed)
            if wanted:
                middle = len(s) / 2
                assert runs[0, 0] < middle - 0.3 * line and runs[0, 1] > middle + 0.3 * line


def strokes(width: float, seed: int, size: int = 160) -> list[shapely.Geometry]:
    """Round-ended strokes, bent ones and dots among them, clear of each other."""
    rng = np.random.default_rng(seed)
    made: list[shapely.Geometry] = []
    while len(made) < 8:
        x, y = rng.uniform(14, size - 14, 2)
        angle, length = rng.uniform(0, math.pi), rng.uniform(0, 30)
        ends = [(x, y), (x + length * math.cos(angle) + 1e-6, y + length * math.sin(angle))]
        if rng.random() < 0.4:
            ends.append((ends[1][0] + 12 * math.cos(angle + 1.4), ends[1][1] + 12 * math.sin(angle + 1.4)))
        stroke = shapely.LineString(ends).buffer(width / 2, quad_segs=32)
        if min(stroke.bounds) > 5 and max(stroke.bounds) < size - 5 and all(stroke.distance(other) > 5 for other in made):
            made.append(stroke)
    return made


@pytest.mark.parametrize("width", [3.0, 4.0, 5.0, 6.0, 8.0])
def test_strokes_of_a_few_pixels_keep_area_and_round_ends(width: float) -> None:
    for seed in range(3):
        made = strokes(width, seed)
        layer = traced(painted([(shapely.union_all(made), INK)], 160, 160))
        got = shapely.make_valid(layer_polygons(layer))
        for stroke in made:
            near = got.intersection(stroke.buffer(2.0))
            assert near.area == pytest.approx(stroke.area, rel=0.08)
            assert near.intersection(stroke).area / near.union(stroke).area > 0.9
        assert layer.node_count <= 9 * len(made)


def test_square_ends_stay_square() -> None:
    bars = [shapely.box(20.3, 20.4, 60.2, 20.4 + w) for w in (3.0,)] + [shapely.box(20.3, 40.4 + 12 * w, 60.2, 40.4 + 13 * w)
                                                                      for w in (4.0, 5.0)]
    layer = traced(painted([(bar, INK) for bar in bars], 120, 120))
    assert lines_of(layer) == layer.node_count == 4 * len(bars)
