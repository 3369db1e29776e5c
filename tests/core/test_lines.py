"""Cut lines: watertight on anything, exact on drawings of known geometry."""

from __future__ import annotations

import dataclasses
import io
import math

import cv2
import numpy as np
import pytest
import rasterio.features
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image
from shapely.geometry import Polygon

from bisectum.core.course import CourseSettings, Source, run_course
from bisectum.core.errors import BrokenStructure, Cancelled
from bisectum.core.geom.bezier import bounds, flatten, lengths, line_segments, points_at, signed_area
from bisectum.core.geom.ellipse import Ellipse, fit_ellipse
from bisectum.core.geom.local_fit import arc_lengths, fit_line, fit_stretch, line_sums
from bisectum.core.geom.path import Path
from tests.support.asserts import assert_watertight, distances, map_of_labels, trace
from tests.support.drawings import INK, circle, painted, parted, star, turned_square
from tests.support.icons import icons
from tests.support.touching import areas_of, pair_of, staircases
from tests.support.zoo import ZOO

CLOSE = {"lines": {"closeness_mm": 0.05}}


@pytest.mark.parametrize("name", ZOO)
def test_the_zoo_is_watertight(name: str) -> None:
    assert_watertight(map_of_labels(ZOO[name]))


@settings(max_examples=40, deadline=None)
@given(
    arrays(np.uint8, st.tuples(st.integers(1, 16), st.integers(1, 16)), elements=st.integers(0, 4)),
    st.sampled_from([0.01, 0.3, 2.0]),
)
def test_any_labels_are_watertight(labels: np.ndarray, closeness: float) -> None:
    assert_watertight(map_of_labels(labels, closeness))


def test_noise_everywhere_is_watertight() -> None:
    labels = np.random.default_rng(3).integers(0, 6, (60, 60)).astype(np.uint8)
    planar = map_of_labels(labels)
    assert_watertight(planar)
    assert len(planar.face_labels) > 750


@pytest.mark.parametrize(
    "name", ["255 colours", "checkerboard", "one-pixel lines", "touching at corners", "fills the frame", "noise"]
)
def test_hard_label_maps_come_out_watertight(name: str) -> None:
    """Every face is one connected area of one label, as rasterio (GDAL's polygoniser) finds them."""
    rows, columns = np.indices((48, 60))
    labels = {
        "255 colours": (rows // 3 * 20 + columns // 3) % 255 + 1,
        "checkerboard": (rows + columns) % 2 + 1,
        "one-pixel lines": 1 + ((rows % 4 == 0) | (columns % 5 == 0)),
        "touching at corners": 1 + (rows // 6 + columns // 6) % 2,
        "fills the frame": np.ones((48, 60)),
        "noise": np.random.default_rng(8).integers(1, 9, (48, 60)),
    }[name].astype(np.uint8)
    planar = map_of_labels(labels)
    assert_watertight(planar)
    areas = sum(1 for _ in rasterio.features.shapes(labels, connectivity=4))
    joined = sum(1 for _ in rasterio.features.shapes(labels, connectivity=8))
    assert joined <= len(planar.face_labels) <= areas  # areas may hang together by a corner, one pair at each
    flat = [shapely.LineString(np.concatenate([flatten(planar.chain(k), 0.01), planar.chain(k)[-1:, 3]]))
            for k in range(planar.chain_count)]
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.unary_union(flat))))
    assert len(faces) == len(planar.face_labels)
    assert sum(face.area for face in faces) == pytest.approx(48 * 60, rel=1e-6)


def test_faces_are_a_coverage() -> None:
    """shapely.coverage_is_valid on the flattened faces of a drawing where three colours meet."""
    shapes = [(turned_square(60, 60, 80, 20), INK), (circle(80, 70, 30), (200, 60, 40)), (circle(45, 45, 22), (240, 200, 60))]
    planar = trace(painted(shapes, 130, 120)).planar_map
    assert_watertight(planar)
    rings: dict[int, list[np.ndarray]] = {}
    for face, loop in planar.loops():
        if face >= 0:
            path = [planar.chain(half >> 1) for half in loop]
            flat = [flatten(chain, 0.01)[::1] for chain in path]
            runs = [np.concatenate([f, c[-1:, 3]]) for f, c in zip(flat, path, strict=True)]
            points = np.concatenate([run if not half & 1 else run[::-1] for run, half in zip(runs, loop, strict=True)])
            rings.setdefault(face, []).append(points)
    faces = [
        Polygon(max(own, key=lambda r: Polygon(r).area), [r for r in own if r is not max(own, key=lambda q: Polygon(q).area)])
        for own in rings.values()
    ]
    assert shapely.coverage_is_valid(faces)
    assert len(
        shapely.get_parts(
            shapely.polygonize(
                shapely.get_parts(
                    shapely.node(shapely.GeometryCollection([shapely.LineString(r) for own in rings.values() for r in own]))
                )
            )
        )
    ) == len(planar.face_labels)


def only_outline(rgba: np.ndarray, **steps: dict[str, object]) -> Path:
    steps = {"picture": {"measured": "picture"}, **steps}
    artwork = trace(rgba, **steps).artwork
    assert [len(layer.pieces) for layer in artwork.layers] == [1]
    return artwork.layers[0].pieces[0].outline


@pytest.mark.parametrize("radius", [20.0, 60.0, 200.0])
def test_circles_are_round(radius: float) -> None:
    size = int(2 * radius + 40)
    shape = circle(size / 2 + 0.3, size / 2 - 0.2, radius)
    ring = only_outline(painted([(shape, INK)], size, size), **CLOSE)
    away = distances(ring.segments, shape.exterior)
    assert len(ring.segments) == 4
    assert away.max() <= 0.06
    assert away.mean() <= 0.02
    assert abs(ring.signed_area / (math.pi * radius**2) - 1) <= 0.0012


@pytest.mark.parametrize("degrees", [0.0, 7.0, 30.0, 45.0])
def test_squares_have_four_straight_sides(degrees: float) -> None:
    shape = turned_square(70.3, 69.6, 80, degrees)
    ring = only_outline(painted([(shape, INK)], 140, 140), **CLOSE)
    assert len(ring.segments) == 4
    assert ring.straight.all()
    assert distances(ring.segments, shape.exterior).max() <= 0.02


@pytest.mark.parametrize("noise", [0.0, 5.0])
def test_level_upright_and_diagonal_edges_are_exactly_so(noise: float) -> None:
    """A roof over a wall, off the pixel grid, and a wall that a second colour shares: its level edge is one height."""
    house = Polygon([(30.3, 70.7), (70.3, 30.7), (110.3, 70.7), (110.3, 130.4), (30.3, 130.4)])
    door = shapely.box(60.2, 100.6, 80.9, 130.4)
    rgba = parted([(house.difference(door), INK), (door, (200, 60, 40))], 150, 160)
    grain = np.random.default_rng(7).normal(0, noise, rgba[..., :3].shape)
    rgba[..., :3] = np.clip(np.rint(rgba[..., :3] + grain), 0, 255)
    planar = trace(rgba, picture={"measured": "picture"}, **CLOSE).planar_map
    inner = planar.segments[np.repeat(planar.sides.min(axis=1) >= 0, np.diff(planar.first))]
    way = np.abs(inner[:, 3] - inner[:, 0])
    assert (way.max(axis=1) > 8).all()
    exact = (way.min(axis=1) < 1e-9) | (np.abs(way[:, 0] - way[:, 1]) < 1e-9)
    assert exact.all()
    assert len(np.unique(inner[:, 0, 1][np.abs(inner[:, 0, 1] - 130.4) < 2].round(9))) == 1


@pytest.mark.parametrize("margin", [1, 2, 3, 12])
def test_a_tight_crop_changes_no_line_and_no_colour(margin: int) -> None:
    """A mark of 10 mm as a scanner of 300 dpi sees it, with all of its paper, and cropped close to it."""
    shapes = [(circle(150.3, 149.8, 59).difference(circle(150.3, 149.8, 46)), INK), (star(150, 150, 40, 16), (200, 60, 40)),
              (circle(152, 153, 6), (240, 200, 60))]
    drawn = painted(shapes, 300, 300, (250, 249, 245)).astype(float)
    seen = cv2.GaussianBlur(drawn, (0, 0), 1.0) + np.random.default_rng(0).normal(0, 2, drawn.shape)
    rgba = np.clip(seen, 0, 255).astype(np.uint8)
    rgba[..., 3] = 255
    side = (118 + 2 * margin) / 300
    crop = {"x": (91 - margin) / 300, "y": (91 - margin) / 300, "width": side, "height": side}
    whole, close, large = (
        run_course(Source(rgba, 25.4 / 300, "mark"), CourseSettings.model_validate({"picture": picture, "colours": colours}), {})
        for picture, colours in (({}, {}), ({"crop": crop}, {}), ({"crop": crop, "enlarge": 4}, {"count": 3})))
    assert len(close.planar_map.segments) == len(whole.planar_map.segments)
    known = np.array([colour.rgb for colour in whole.label_map.palette.colours])
    for result in (close, large):
        found = np.array([colour.rgb for colour in result.label_map.palette.colours])
        assert found.shape == known.shape and np.abs(found[:, None] - known[None]).max(axis=2).min(axis=1).max() <= 6
    places = [np.sort(one.picture.places.to_shares(one.planar_map.segments[:, 0] / one.planar_map.mm_per_px) * 300, axis=0)
              for one in (whole, close)]
    assert np.abs(places[0] - places[1])[4:-4].max() < 0.1


@pytest.mark.parametrize(("number", "kind"), [(0, "star in disc"), (12, "star in disc"), (84, "star in disc"), (33, "discs"),
                                              (34, "ring and bar"), (3, "letter on rule")])
def test_shapes_that_touch_have_no_staircase(number: int, kind: str) -> None:
    """Drawings whose whole outline once came out as the stairs of its pixels, or in four times the nodes."""
    pair = pair_of(number)
    assert pair.kind == kind
    together, apart = (trace(rgba, colours={"kind": "clip-art"}).planar_map for rgba in (pair.touching, pair.apart))
    together.check()
    assert staircases(together) == 0
    assert len(together.segments) <= 1.5 * len(apart.segments)
    assert areas_of(together) == pytest.approx(pair.areas, rel=0.01)  # nothing is given away


def test_a_star_keeps_its_tips() -> None:
    shape = star(100.2, 99.7, 80, 34)
    ring = only_outline(painted([(shape, INK)], 200, 200), **CLOSE)
    assert len(ring.segments) == 10
    assert ring.straight.all()
    tips = shapely.points(ring.segments[:, 0])
    assert shapely.distance(tips, shapely.MultiPoint(shape.exterior.coords[:-1])).max() <= 0.05


def test_a_thin_ring_keeps_its_area() -> None:
    shape = circle(60, 60, 43.0).difference(circle(60, 60, 40.0))
    steps = {"picture": {"measured": "picture"}, "layers": {"build": "flush"}, **CLOSE}
    piece = trace(painted([(shape, INK)], 120, 120), **steps).artwork.layers[0].pieces[0]
    assert [len(ring.segments) for ring in piece.rings] == [4, 4]
    assert abs(piece.area / shape.area - 1) <= 0.006


def test_jpeg_noise_does_not_wobble() -> None:
    shape = circle(80.3, 79.8, 60)
    buffer = io.BytesIO()
    Image.fromarray(painted([(shape, INK)], 160, 160)[..., :3]).save(buffer, "JPEG", quality=75)
    ring = only_outline(np.asarray(Image.open(buffer).convert("RGBA")))
    away = distances(ring.segments, shape.exterior)
    assert away.max() <= 0.2
    assert away.mean() <= 0.06


def test_closer_lines_are_closer_and_fewer_nodes_are_fewer() -> None:
    angle = np.linspace(0, 2 * math.pi, 900)[:-1]
    wave = Polygon(
        np.stack([100 + (70 + 6 * np.sin(7 * angle)) * np.cos(angle), 100 + (70 + 6 * np.sin(7 * angle)) * np.sin(angle)], 1)
    )
    rgba = painted([(wave, INK)], 200, 200)
    fine, coarse = (only_outline(rgba, lines={"closeness_mm": c}) for c in (0.03, 0.8))
    assert distances(fine.segments, wave.exterior).max() < 0.12
    assert distances(coarse.segments, wave.exterior).max() < 1.0
    assert len(coarse.segments) < len(fine.segments) < 60


@pytest.mark.parametrize("own", [{"closeness_mm": 2.0}, {"simplify_mm": 1.5}])
def test_a_marked_part_has_its_own_settings(own: dict[str, float]) -> None:
    """A cog with soft teeth: its right half is drawn loosely, its left half stays as it was, and no line breaks off."""
    angle = np.linspace(0, 2 * math.pi, 900)[:-1]
    reach = 70 + 4 * np.sin(12 * angle)
    cog = Polygon(np.stack([100 + reach * np.cos(angle), 100 + reach * np.sin(angle)], 1))
    rgba = painted([(cog, INK)], 200, 200)
    close = {"closeness_mm": 0.03, "corner_deg": 80.0}
    part = {"x": 0.5, "y": 0.0, "width": 0.5, "height": 1.0, **close, **own}
    whole, loose = (only_outline(rgba, lines={**close, "parts": parts}) for parts in ([], [part]))

    def side(ring: Path, left: bool) -> np.ndarray:
        return ring.segments[(ring.segments[..., 0].max(axis=1) < 97) if left else (ring.segments[..., 0].min(axis=1) > 103)]

    assert distances(side(loose, True), cog.exterior).max() < 0.15
    away = distances(side(loose, False), cog.exterior).max()
    assert 1.5 * distances(side(whole, False), cog.exterior).max() < away < 2.5
    border = np.flatnonzero(np.abs(loose.segments[:, 0, 0] - 100) < 1)
    for at in border:
        into, out = loose.segments[at - 1, 3] - loose.segments[at - 1, 2], loose.segments[at, 1] - loose.segments[at, 0]
        assert abs(math.atan2(into[0] * out[1] - into[1] * out[0], into @ out)) < 1e-6
    assert len(border) >= 2


def test_check_finds_the_broken_place() -> None:
    planar = trace(painted([(turned_square(40, 40, 40, 10), INK), (circle(40, 40, 8), (220, 60, 40))], 80, 80)).planar_map
    planar.check()
    closed = int(np.flatnonzero((planar.ends[:, 0] < 0) & ~planar.straight[planar.first[:-1]])[0])  # the circle
    moved = planar.segments.copy()
    place = planar.first[closed]
    moved[place, 1] += [90.0, 0.0]  # a handle pulled right across the other line
    with pytest.raises(BrokenStructure) as crossing:
        dataclasses.replace(planar, segments=moved).check()
    assert crossing.value.details["fault"] in ("crossing", "self_crossing")
    torn = planar.segments.copy()
    torn[place, 0] += 0.001
    with pytest.raises(BrokenStructure) as gap:
        dataclasses.replace(planar, segments=torn).check()
    assert gap.value.details["fault"] in ("gap", "loose_end")
    assert gap.value.details["x"] == pytest.approx(torn[place, 0, 0], abs=0.01)
    bare = planar.first.copy()
    bare[-2] = bare[-1]
    assert "empty_chain" in {fault.kind for fault in dataclasses.replace(planar, first=bare).faults()}
    swapped = planar.sides.copy()
    swapped[closed] = swapped[closed, ::-1]
    with pytest.raises(BrokenStructure):
        dataclasses.replace(planar, sides=swapped).check()


def test_work_on_lines_can_be_stopped() -> None:
    class Stopper:
        told = 0

        def begin(self, what: str) -> None: ...

        def report(self, fraction: float) -> None:
            self.told += 1

        def raise_if_cancelled(self) -> None:
            if self.told > 9:
                raise Cancelled("Stopped.")

    rgba = np.random.default_rng(1).integers(0, 255, (200, 200, 4)).astype(np.uint8)
    rgba[..., 3] = 255
    settings_ = CourseSettings()
    with pytest.raises(Cancelled):
        run_course(Source(rgba, 0.2, "noise"), settings_, {}, Stopper())


# Pure geometry


def test_four_arcs_stray_by_the_handbook_value() -> None:
    """Four cubic arcs with handles of 4/3·tan(π/8) stray from the unit circle by at most 2.7 × 10⁻⁴, outwards."""
    segments = Ellipse(0, 0, 1, 1, 0).segments(4, clockwise=True)
    radius = np.hypot(*points_at(segments, np.linspace(0, 1, 2001)).reshape(-1, 2).T)
    assert 2.6e-4 < radius.max() / radius.min() - 1 < 2.8e-4
    assert radius[0] == pytest.approx(radius.min())
    assert signed_area(segments) == pytest.approx(math.pi, rel=1e-12)


def test_an_ellipse_is_found_from_its_points() -> None:
    truth = Ellipse(12.0, -7.0, 80.0, 35.0, 0.6)
    points = points_at(truth.segments(8, True), np.linspace(0, 1, 20)[:-1]).reshape(-1, 2)
    found = fit_ellipse(points)
    assert found is not None
    assert (found.x, found.y, found.a, found.b) == pytest.approx((12, -7, 80, 35), abs=0.02)
    assert fit_ellipse(np.array([[0.0, 0], [1, 0], [2, 0], [3, 0], [4, 0], [5, 0]])) is None


@settings(max_examples=60, deadline=None)
@given(arrays(float, (3, 4, 2), elements=st.floats(-100, 100)))
def test_areas_lengths_and_bounds_agree_with_fine_polygons(curves: np.ndarray) -> None:
    curves[1:, 0] = curves[:-1, 3]
    curves[-1, 3] = curves[0, 0]
    fine = flatten(curves, 1e-4)
    x, y = fine.T
    shoelace = float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)
    assert signed_area(curves) == pytest.approx(shoelace, abs=0.2)
    left, top, right, bottom = bounds(curves)
    assert (left, top, right, bottom) == pytest.approx((x.min(), y.min(), x.max(), y.max()), abs=2e-3)
    # A quadrature of ten points is good to a few per mille where a curve does not turn back on itself.
    assert lengths(line_segments(fine)).sum() == pytest.approx(
        float(np.hypot(*np.diff(fine, axis=0).T).sum()), rel=1e-9, abs=1e-9
    )


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**32 - 1), st.floats(0, 6.2), st.integers(8, 400), st.floats(0.0, 0.3))
def test_lines_by_sums_are_those_of_least_squares(seed: int, way: float, count: int, grain: float) -> None:
    """Far from the first point, where sums could lose digits."""
    rng = np.random.default_rng(seed)
    t = np.arange(3000.0)
    points = np.stack([t * math.cos(way), t * math.sin(way) + 40 * np.sin(t / 300)], axis=1) + rng.normal(0, grain, (3000, 2))
    s = arc_lengths(points)
    low = int(rng.integers(0, 3000 - count))
    rms = fit_line(line_sums(points, s), low, low + count - 1)
    assert rms == pytest.approx(fit_stretch(points, s, low, low + count - 1, s[low], 1, np.empty(4)), abs=1e-3)


@pytest.mark.parametrize("size", [96, 240])
def test_icons_nobody_drew_for_this_keep_their_own_outlines(size: int) -> None:
    """Lines traced from the picture of an icon lie on the outlines that its file says."""
    off = []
    for _, rgba, outlines in icons(20, size):
        planar = trace(rgba, picture={"measured": "picture"}, lines={"closeness_mm": 0.08}).planar_map
        inner = np.repeat((planar.sides >= 0).all(axis=1), np.diff(planar.first))
        places = points_at(planar.segments[inner], np.linspace(0, 1, 13))
        long = np.hypot(*(planar.segments[inner, 3] - planar.segments[inner, 0]).T)
        off.append(float(np.average(shapely.distance(shapely.points(places), outlines).mean(axis=1), weights=long)))
    assert len(off) > 12
    assert np.median(off) < 0.03 and np.quantile(off, 0.8) < 0.06
