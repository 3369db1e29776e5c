"""Corners, junctions and blending as the pixels tell them; coverage beside shapely's clipping."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from shapely import affinity
from shapely.geometry import Polygon

from bisectum.core.course import CourseSettings, Source, run_course
from bisectum.core.geom.bezier import points_at
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.raster.colour import LINEAR_OF_SRGB
from bisectum.core.raster.wedge import change_wedge, on_side, wedge_misfit, wedge_slopes
from bisectum.core.steps.lines.blending import blended_in_linear_light, shifts_beside_edges
from tests.support.drawings import INK, circle, coverage, painted, parted, star, turned_square
from tests.support.letters import glyph

RED, GOLD = (200, 60, 40), (240, 200, 60)


def traced(rgba: np.ndarray, closeness: float = 0.05) -> PlanarMap:
    """Lines in pixels."""
    chosen = CourseSettings.model_validate({
        "picture": {"measured": "picture"}, "lines": {"closeness_mm": closeness}})
    return run_course(Source(rgba, 1.0, str(hash(rgba.tobytes()))), chosen, {}).planar_map


def compressed(rgba: np.ndarray) -> np.ndarray:
    buffer = io.BytesIO()
    Image.fromarray(rgba[..., :3]).save(buffer, "JPEG", quality=75)
    return np.asarray(Image.open(buffer).convert("RGBA"))


def node_near(planar: PlanarMap, x: float, y: float) -> float:
    """Distance from a place to the nearest node."""
    return float(np.hypot(*(planar.segments[:, 0] - [x, y]).T).min())


# Coverage of wedges


@settings(max_examples=80, deadline=None)
@given(st.floats(0, 6.2), st.floats(0.4, 2.6), st.floats(0.1, 3), st.floats(0.1, 3), st.booleans(), st.booleans())
def test_a_wedge_covers_what_shapely_clips(
    way: float, turn: float, back: float, ahead: float, clockwise: bool, is_cut: bool
) -> None:
    apex = np.array([6.3, 5.8])
    after = way + (turn if clockwise else -turn)
    ux, uy, vx, vy = math.cos(way), math.sin(way), math.cos(after), math.sin(after)
    wedge = np.array([*apex, ux, uy, 0.0, *apex, vx, vy, 0.0, 1.0 if clockwise else -1.0])
    start, end = apex - 90 * np.array([ux, uy]), apex + 90 * np.array([vx, vy])
    tip = [apex - back * np.array([ux, uy]), apex + ahead * np.array([vx, vy])] if is_cut else [apex]
    shape = Polygon([start, *tip, end])
    cells = [(x, y) for x in range(3, 10) for y in range(3, 10)]
    seen = np.array([(x, y, shape.intersection(shapely.box(x, y, x + 1, y + 1)).area) for x, y in cells])
    off = np.empty(len(cells))
    assert wedge_misfit(seen, len(cells), wedge, np.array([back, ahead, 0.0]), is_cut, 1e9, off) < 1e-12
    assert np.abs(off).max() < 1e-7
    # How the shares change: as they do when one thing is changed a little, both ways.
    slopes, tip = np.empty((8, len(cells))), np.array([back, ahead, 0.0])
    wedge_slopes(seen, len(cells), wedge, tip, is_cut, slopes)
    for which in range(8 if is_cut else 6):
        sides = []
        for by in (1e-6, -1e-6):
            changed, ends = wedge.copy(), tip.copy()
            change_wedge(changed, ends, which, by)
            wedge_misfit(seen, len(cells), changed, ends, is_cut, 1e9, off)
            sides.append(off.copy())
        assert slopes[which] == pytest.approx((sides[1] - sides[0]) / 2e-6, abs=1e-4)


@pytest.mark.parametrize("radius", [1.5, 3.0, 6.0])
def test_a_rounded_wedge_covers_its_disc(radius: float) -> None:
    wedge = np.array([8.0, 2.0, 0.0, -1.0, 0.0, 8.0, 2.0, 1.0, 0.0, 0.0, 1.0])
    corner = shapely.box(8, 2, 80, 80)
    rounded = corner.intersection(circle(8 + radius, 2 + radius, radius).union(shapely.box(8 + radius, 2, 80, 80)).union(
        shapely.box(8, 2 + radius, 80, 80)))
    cells = [(x, y) for x in range(6, 16) for y in range(0, 12)]
    seen = np.array([(x, y, rounded.intersection(shapely.box(x, y, x + 1, y + 1)).area) for x, y in cells])
    off = np.empty(len(cells))
    wedge_misfit(seen, len(cells), wedge, np.array([0.0, 0.0, radius]), False, 1e9, off)
    assert np.abs(off).max() < 0.004 * radius


def test_a_bent_side_is_followed() -> None:
    wedge = np.array([0.0, 0.0, 1.0, 0.0, 0.1, 0.0, 0.0, 0.0, 1.0, 0.0, 1.0])
    x, y, dx, dy = on_side(wedge, 0, -2.0)
    assert (x, y) == pytest.approx((-2.0, 0.2))
    assert (dx, dy) == pytest.approx(np.array([1.0, -0.2]) / math.hypot(1, 0.2))


# Corners


@pytest.mark.parametrize(("width", "lean"), [(0.7, 0.0), (1.3, 0.0), (1.3, 0.5), (3.3, 0.0), (4.5, -0.6)])
def test_the_edge_across_a_tip_has_both_its_nodes(width: float, lean: float) -> None:
    """A wedge of 30° whose tip is cut off, level or leaning."""
    reach = width / 2 / math.tan(math.radians(15))
    left, right = (50.3 - width / 2, 20.4), (50.3 + width / 2, 20.4 + lean)
    apex, foot = (50.3, 20.4 - reach), 90.0
    right = (right[0] + lean * math.tan(math.radians(15)), right[1])
    half = (foot - apex[1]) * math.tan(math.radians(15))
    shape = Polygon([left, right, (50.3 + half, foot), (50.3 - half, foot)])
    planar = traced(painted([(shape, INK)], 100, 100))
    for x, y in shape.exterior.coords[:-1]:
        assert node_near(planar, x, y) < 0.05
    assert len(planar.segments) - 4 == 4  # the frame's four sides, and no node more than it has corners


@pytest.mark.parametrize("radius", [2.0, 4.0, 6.0, 9.0])
def test_a_narrow_bend_is_no_corner(radius: float) -> None:
    soft = shapely.box(20.3, 20.6, 79.4, 80.2).buffer(-radius).buffer(radius, quad_segs=60)
    planar = traced(painted([(soft, INK)], 100, 100))
    around = planar.segments[planar.first[-2] :]
    along = points_at(around, np.linspace(0, 1, 41)).reshape(-1, 2)
    assert shapely.distance(shapely.points(along), soft.boundary).max() < (0.07 if radius < 3 else 0.05)
    assert len(around) <= (8 if radius < 3 else 12)
    directions = np.diff(along, axis=0)
    directions = directions[np.hypot(*directions.T) > 1e-9]
    turns = np.cross(directions[:-1], directions[1:]) / np.hypot(*directions[:-1].T) / np.hypot(*directions[1:].T)
    assert np.abs(turns).max() < math.sin(math.radians(20))


def test_a_corner_is_no_bend() -> None:
    square = shapely.box(20.3, 20.6, 79.4, 80.2)
    sharp = traced(painted([(square, INK)], 100, 100))
    assert all(node_near(sharp, x, y) < 0.01 for x, y in square.exterior.coords)


def placed(letter: str, cap_px: float) -> tuple[Polygon | shapely.MultiPolygon, int]:
    """A capital clear of the frame and off the pixels' grid, and how many nodes its own outline has."""
    outline, own = glyph(letter, cap_px)
    left, top, _, _ = outline.bounds
    return affinity.translate(outline, 12.37 - left, 12.61 - top), own


def hardened(shape: Polygon | shapely.MultiPolygon, width: int, height: int) -> np.ndarray:
    """Painted without soft edges."""
    rgba = painted([(shape, INK)], width, height)
    rgba[..., :3] = np.where(coverage(shape, width, height)[..., None] > 0.5, np.array(INK, np.uint8), 255)
    return rgba


def test_a_disc_without_soft_edges_is_still_a_circle() -> None:
    """Its paper's level edges, which have no noise, say nothing about the stairs of its own."""
    shape = circle(72.3, 71.8, 60)
    planar = traced(hardened(shape, 144, 144), 0.4)
    lines = shapely.points(points_at(planar.segments[-4:], np.linspace(0, 1, 41)).reshape(-1, 2))
    assert len(planar.segments) - 4 == 4 and shapely.distance(lines, shape.boundary).max() < 0.1


@pytest.mark.parametrize("letter", ["R", "K", "B"])
def test_stairs_are_smoothed_and_corners_kept(letter: str) -> None:
    """A letter with level edges, slanting ones and bends, without soft edges: no more nodes than its own outline has."""
    outline, own = placed(letter, 120)
    planar = traced(hardened(outline, *(math.ceil(end) + 13 for end in outline.bounds[2:])), 0.4)
    points = points_at(planar.segments, np.linspace(0, 1, 41)).reshape(-1, 2)
    away = shapely.distance(shapely.points(points[(points > 1).all(axis=1)]), outline.boundary)
    away = away[away < 8]  # the frame's lines are none of the letter's
    assert away.mean() < 0.35 and np.quantile(away, 0.95) < 0.8
    assert 0.4 < planar.deviation < 1.5  # of the stairs, not of what they were smoothed to
    assert len(planar.segments) - 4 < own
    left, top, _, bottom = outline.bounds
    assert all(node_near(planar, left, y) < 0.8 for y in (top, bottom))


@pytest.mark.parametrize(("letter", "spoilt"), [("B", False), ("Q", False), ("S", False), ("S", True), ("G", True)])
def test_letters_of_40_px_keep_slits_and_bends(letter: str, spoilt: bool) -> None:
    """B has an acute notch, Q two slits thinner than a pixel, S and G bends that are nearly corners."""
    outline, own = placed(letter, 40)
    rgba = painted([(outline, INK)], *(math.ceil(end) + 13 for end in outline.bounds[2:]))
    planar = traced(compressed(rgba) if spoilt else rgba, 0.08)
    lines = points_at(planar.segments, np.linspace(0, 1, 41))
    points = lines.reshape(-1, 2)
    away = shapely.distance(shapely.points(points[(points > 1).all(axis=1)]), outline.boundary)
    away = away[away < 8]  # the frame's lines are none of the letter's
    greatest = 0.75 if spoilt else 0.32
    assert away.max() < greatest and away.mean() < (0.08 if spoilt else 0.05)
    there = shapely.points(shapely.get_coordinates(outline.boundary.segmentize(0.5)))
    assert shapely.distance(there, shapely.MultiLineString(list(lines))).max() < greatest
    assert len(planar.segments) - 4 < own


def test_the_mean_beside_edges_is_told() -> None:
    """Rings that are cut off at white darken the paper beside an edge, and only there."""
    labels = np.zeros((60, 60), np.uint8)
    labels[:, 30:] = 1
    labels[4:7, 4:7] = 2
    image = np.full((60, 60, 4), 255, np.uint8)
    image[..., :3] = np.where(labels[..., None] == 1, 40, 255)
    image[:, 26:29, :3] = 251
    shifts = shifts_beside_edges(image, np.array([[255.0] * 3, [40.0] * 3, [10.0] * 3]), labels)
    assert -4 <= shifts[0, 0] < -1.5 and not shifts[1:].any()


def test_tips_survive_lossy_compression() -> None:
    """The points of a star and of a square on its corner, which chroma subsampling blurs; a letter's corners ring."""
    for shape, nodes in ((star(100.2, 99.7, 80, 34), 10), (turned_square(100.3, 99.6, 80, 45), 4), (placed("E", 200)[0], 12)):
        planar = traced(compressed(painted([(shape, INK)], 240, 240)), 0.08)
        assert all(node_near(planar, x, y) < 0.3 for x, y in shape.exterior.coords)
        assert len(planar.segments) - 4 == nodes


# Junctions


def meetings() -> dict[str, tuple[list, float]]:
    """Three colours that meet in one place, and how far the junction may be from it (px)."""
    x, y = 60.37, 59.81
    arms = [math.radians(d) for d in (-79, 41, 161)]
    far = [(x + 300 * math.cos(a), y + 300 * math.sin(a)) for a in arms]
    frame = circle(x, y, 45)
    wedges = [(Polygon([(x, y), far[i], far[(i + 1) % 3]]).intersection(frame), c) for i, c in enumerate((INK, RED, GOLD))]
    outer = shapely.box(10, 10, 110, 110)
    half = affinity.rotate(shapely.box(x - 200, y, x + 200, y + 200), 23, origin=(x, y)).intersection(outer)
    disc = circle(x - 30 * math.cos(math.radians(23)), y - 30 * math.sin(math.radians(23)), 30)
    return {"Y": (wedges, 0.03), "T on a curve": ([(outer, INK), (half, RED), (disc, GOLD)], 0.1)}


@pytest.mark.parametrize("name", ["Y", "T on a curve"])
def test_junctions_lie_where_lines_meet(name: str) -> None:
    shapes, allowed = meetings()[name]
    away = []
    for shift in np.linspace(0, 0.9, 4):
        moved = [(affinity.translate(shape, shift, 0.7 * shift), colour) for shape, colour in shapes]
        planar = traced((parted if name == "Y" else painted)(moved, 120, 120))
        away.append(float(np.hypot(*(planar.junctions - [60.37 + shift, 59.81 + 0.7 * shift]).T).min()))
    assert np.median(away) < allowed


# Blending


def in_linear_light(shape: Polygon, size: int) -> np.ndarray:
    share = coverage(shape, size, size)[..., None]
    light = 1 - share + LINEAR_OF_SRGB[list(INK)] * share
    coded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)  # IEC 61966-2-1
    rgba = np.full((size, size, 4), 255, np.uint8)
    rgba[..., :3] = np.rint(255 * coded)
    return rgba


@pytest.mark.parametrize("shape", [circle(80.3, 79.6, 60), star(80.2, 79.7, 64, 28)], ids=["disc", "star"])
def test_edges_blended_in_linear_light_lie_right_too(shape: Polygon) -> None:
    linear, coded = in_linear_light(shape, 160), painted([(shape, INK)], 160, 160)
    labels = (coverage(shape, 160, 160) > 0.5).astype(np.uint8)
    assert blended_in_linear_light(linear, labels) and not blended_in_linear_light(coded, labels)
    planar = traced(linear)
    nodes = planar.segments[planar.first[-2] :, 0]
    assert shapely.distance(shapely.points(nodes), shape.boundary).max() < 0.03
