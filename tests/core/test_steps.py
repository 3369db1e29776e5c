"""Background, colours, layers and the course on drawings whose answers are known."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import shapely.affinity

from bisectum.core.course import PREVIEW_PX, STEPS, CourseSettings, Source, run_course
from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import points_at
from bisectum.core.raster.colour import oklab
from bisectum.core.raster.resample import reduce_to
from bisectum.core.steps.layers.edge_view import EdgeView
from tests.support.asserts import assert_fits, assert_watertight, distances, layer_polygons, trace
from tests.support.drawings import INK, circle, painted, star, turned_square

RED, GOLD, CREAM = (200, 60, 40), (240, 200, 60), (246, 240, 226)
HOUSE = [(turned_square(100, 100, 120, 5), INK), (circle(100, 100, 40), RED), (star(100, 100, 25, 11), GOLD)]


def keys(result: object) -> list[str]:
    return [colour.key for colour in result.label_map.palette.colours]  # type: ignore[attr-defined]


# Background


def test_a_soft_gradient_is_one_background() -> None:
    rgba = painted(HOUSE, 200, 200)
    y, x = np.mgrid[0:200, 0:200] / 200
    shade = np.stack([235 - 40 * y, 240 - 25 * x, 250 - 30 * x * y], axis=-1)
    ground = (rgba[..., :3] == 255).all(axis=-1)
    rgba[ground, :3] = np.round(shade[ground])
    result = trace(rgba)
    assert result.ground.kind == "shaded"
    assert (result.label_map.labels[ground] == 0).mean() > 0.995
    assert len(result.label_map.palette.colours) == 3


def test_transparency_is_honoured() -> None:
    rgba = painted(HOUSE, 200, 200)
    share = 255 - np.abs(rgba[..., :3].astype(int) - 255).max(axis=-1).clip(0, 1) * 255
    rgba[..., 3] = 255 - share
    result = trace(rgba)
    assert result.ground.kind == "transparent"
    assert len(keys(result)) == 3


def test_a_busy_border_keeps_everything() -> None:
    rgba = np.full((90, 90, 4), 255, np.uint8)
    rgba[..., :3] = np.random.default_rng(2).integers(0, 255, (90, 90, 3))
    result = trace(rgba, pieces={"smallest_mm2": 0, "smallest_window_mm2": 0})
    assert result.ground.kind == "not_plain"
    assert not result.ground.mask.any()


def test_enclosed_background_is_left_in_and_reported() -> None:
    hollow = turned_square(100, 100, 120, 0).difference(circle(100, 100, 30))
    result = trace(painted([(hollow, INK), (circle(60, 60, 9), (200, 60, 40))], 200, 200))
    assert len(result.ground.enclosed) == 1
    spot = result.ground.enclosed[0]
    assert (spot.x - 100) ** 2 + (spot.y - 100) ** 2 < 30**2
    assert spot.area_px == pytest.approx(np.pi * 900, rel=0.08)
    assert "#ffffff" in keys(result)


def test_a_near_background_colour_survives() -> None:
    cream = trace(painted([(turned_square(100, 100, 120, 5), CREAM), (circle(100, 100, 30), INK)], 200, 200))
    assert len(keys(cream)) == 2


def test_reach_given_by_hand_takes_more() -> None:
    rgba = painted([(turned_square(100, 100, 120, 5), CREAM), (circle(100, 100, 30), INK)], 200, 200)
    assert keys(trace(rgba, background={"reach": 8})) == ["#1e3c78"]


def test_keep_and_a_colour_of_ones_own() -> None:
    rgba = painted(HOUSE, 200, 200)
    assert len(keys(trace(rgba, background={"mode": "keep"}))) == 4
    taken = trace(rgba, background={"mode": "colour", "colour": "#ffffff"})
    assert len(keys(taken)) == 3
    with pytest.raises(SettingsError):
        trace(rgba, background={"mode": "colour"})
    with pytest.raises(SettingsError) as nothing:
        trace(rgba, background={"reach": 40, "mode": "colour", "colour": "#808080"}, pieces={"smallest_mm2": 400})
    assert "smallest piece" in nothing.value.message or "background" in nothing.value.message


# Colours


def test_the_count_comes_out_by_itself_and_tiny_colours_stay() -> None:
    dots = [(circle(70, 70, 4.0), (20, 160, 90)), (circle(130, 128, 4.2), (250, 90, 160))]
    result = trace(painted(HOUSE + dots, 200, 200))
    found = oklab(np.array([colour.rgb for colour in result.label_map.palette.colours], np.uint8))
    for colour in (INK, RED, GOLD, (20, 160, 90), (250, 90, 160)):
        assert np.sqrt(((found - oklab(np.array(colour, np.uint8))) ** 2).sum(axis=1)).min() < 0.004
    assert len(found) == 5
    assert [colour.small for colour in result.label_map.palette.colours[-2:]] == [True, True]


def test_fringes_never_make_a_layer_a_ring_or_a_sliver() -> None:
    result = trace(painted(HOUSE, 200, 200), pieces={"smallest_mm2": 0, "smallest_window_mm2": 0})
    assert result.label_map.absorbed == 0
    assert [len(layer.pieces) for layer in trace(painted(HOUSE, 200, 200), layers={"build": "flush"}).artwork.layers] == [1, 1, 1]
    truth = np.zeros((200, 200), int)
    centres = shapely.points(*(np.stack(np.meshgrid(np.arange(200), np.arange(200)), -1) + 0.5).transpose(2, 0, 1))
    for shape, colour in HOUSE:
        truth[shapely.contains(shape, centres)] = keys(result).index("#{:02x}{:02x}{:02x}".format(*colour)) + 1
    assert (result.label_map.labels != truth).mean() < 0.002


def test_the_wanted_count_is_met_or_said() -> None:
    rgba = painted(HOUSE, 200, 200)
    assert len(keys(trace(rgba, colours={"count": 2}))) == 2
    many = trace(rgba, colours={"count": 9})
    assert len(keys(many)) == 3
    told = many.label_map.findings[0]
    assert (told.code, told.details) == ("fewer_colours", {"wanted": 9, "found": 3})


def test_ink_only_is_one_layer() -> None:
    assert keys(trace(painted(HOUSE, 200, 200), colours={"kind": "line-drawing"})) == ["#1e3c78"]


def test_a_thin_line_keeps_its_colour() -> None:
    ring = circle(60, 60, 40).difference(circle(60, 60, 38.2))
    result = trace(painted([(ring, INK)], 120, 120), pieces={"smallest_mm2": 0, "smallest_window_mm2": 0})
    assert min(abs(colour.rgb[0] - INK[0]) for colour in result.label_map.palette.colours) < 30


def test_all_background_is_a_clear_refusal() -> None:
    rgba = np.full((40, 40, 4), 255, np.uint8)
    rgba[10:12, 10:12, :3] = 250
    with pytest.raises(SettingsError) as error:
        trace(rgba, background={"reach": 20})
    assert error.value.code == "nothing_left"


# Layers


@pytest.mark.parametrize("build", ["whole", "flush"])
def test_layers_fit_each_other(build: str) -> None:
    artwork = trace(painted(HOUSE, 200, 200), layers={"build": build}, lines={"closeness_mm": 0.05}).artwork
    assert [layer.key for layer in artwork.layers] == ["#1e3c78", "#c83c28", "#f0c83c"]
    assert_fits(artwork)
    square, disc, tip = (shape.area for shape, _ in HOUSE)
    truth = [square, disc, tip] if build == "whole" else [square - disc, disc - tip, tip]
    areas = [sum(piece.area for piece in layer.pieces) for layer in artwork.layers]
    assert areas == pytest.approx(truth, rel=2e-3)


def test_whole_layers_drop_nodes_that_no_line_needs() -> None:
    halves = [(shapely.box(20, 20, 100, 60), INK), (shapely.box(20, 60, 100, 100), RED)]
    for build, area in (("whole", 80 * 40.5), ("stacked", 6400)):
        artwork = trace(painted(halves, 120, 120), layers={"build": build}).artwork
        assert artwork.layers[0].node_count == 4
        assert artwork.layers[0].pieces[0].area == pytest.approx(area, rel=1e-3)


def test_order_names_and_colours_are_the_persons() -> None:
    def record(number: int, key: str, **more: str) -> dict[str, object]:
        return {"id": f"layer-{number}", "anchors": [{"item": "picture-1", "colour": key, "x": 0.5, "y": 0.5}], **more}

    records = [record(2, "#f0c83c"), record(3, "#1e3c78"), record(4, "#c83c28", name="Lid", colour="#ff0000")]
    artwork = trace(painted(HOUSE, 200, 200), minted=4, layers={"order": ["layer-2", "layer-3"], "records": records}).artwork
    assert [layer.key for layer in artwork.layers] == ["#f0c83c", "#1e3c78", "#c83c28"]
    assert (artwork.layers[2].name, artwork.layers[2].rgb) == ("Lid", (255, 0, 0))
    assert [layer.id for layer in artwork.layers] == ["layer-2", "layer-3", "layer-4"]


@pytest.mark.parametrize(("measured", "width"), [("artwork", 90.0), ("picture", 90.0)])
def test_the_width_is_exact(measured: str, width: float) -> None:
    traced = trace(painted(HOUSE, 200, 180), picture={"width_mm": width, "measured": measured})
    artwork, (left, _, across_mm, _) = traced.artwork, traced.frame
    assert artwork.width == pytest.approx(width, abs=1e-9)
    across = (
        200 if measured == "picture" else turned_square(100, 100, 120, 5).bounds[2] - turned_square(100, 100, 120, 5).bounds[0]
    )
    assert across_mm == pytest.approx(width * 200 / across, rel=1e-3)
    polygons = layer_polygons(artwork.layers[0])
    assert left + 100 * across_mm / 200 == pytest.approx(polygons.centroid.x, abs=0.05)


@pytest.mark.parametrize("axis", ["x", "y"])
def test_the_edge_view_is_what_lies_under_the_seam(axis: str) -> None:
    artwork = trace(painted(HOUSE, 200, 200), layers={"build": "whole"}).artwork
    edge = EdgeView(artwork)
    at = 0.45 * artwork.width
    seam = shapely.LineString([(at, -9), (at, 999)] if axis == "x" else [(-9, at), (999, at)])
    bars = edge.cut(axis, at)  # type: ignore[arg-type]
    for number, layer in enumerate(artwork.layers):
        under = layer_polygons(layer).intersection(seam).length
        assert sum(bar.stop - bar.start for bar in bars if bar.layer == number) == pytest.approx(under, abs=0.05)
    assert max(bar.below for bar in bars) == 2
    assert edge.cut(axis, -50) == []  # type: ignore[arg-type]


# The course


def test_a_change_runs_only_the_later_steps() -> None:
    source = Source(painted(HOUSE, 200, 200), 0.3, "house")
    cache: dict[str, object] = {}
    first = run_course(source, CourseSettings(), cache)
    assert first.fresh == STEPS
    assert run_course(source, CourseSettings(), cache).fresh == ()
    closer = CourseSettings().changed("lines", {"closeness_mm": 0.02})
    assert run_course(source, closer, cache).fresh == ("lines", "pieces")
    again = run_course(source, CourseSettings(), cache)
    assert again.fresh == () and again.key == first.key


def test_a_preview_is_the_same_make_on_fewer_pixels() -> None:
    large = [(shapely.affinity.scale(shape, 4, 4, origin=(0, 0)), colour) for shape, colour in HOUSE]
    big = painted(large, 800, 800)
    full, preview = (trace(big, 0.05, most_px, picture={"width_mm": 80.0}) for most_px in (None, PREVIEW_PX))
    assert preview.picture.rgba.size <= 4 * 500_000
    assert keys(preview) == keys(full)
    assert preview.artwork.height == pytest.approx(full.artwork.height, abs=0.2)


def test_a_preview_of_a_busy_drawing_is_watertight_and_close() -> None:
    """196 turned squares: more lines than a preview asks the pixels about."""
    shapes = [(turned_square(20 + 40 * (k % 14), 20 + 40 * (k // 14), 24, 7 * k), (INK, RED)[k % 2]) for k in range(196)]
    source, settings = Source(painted(shapes, 580, 580), 0.2, "fleet"), CourseSettings()
    full, preview = (run_course(source, settings, {}, most_px=most_px).planar_map for most_px in (None, PREVIEW_PX))
    assert_watertight(preview)
    assert len(preview.face_labels) == len(full.face_labels) > 196
    lines = shapely.MultiLineString(list(points_at(full.segments, np.linspace(0, 1, 9))))
    assert distances(preview.segments, lines).max() < 0.15


def test_reducing_keeps_the_mean_colour() -> None:
    rgba = np.random.default_rng(0).integers(0, 255, (37, 53, 4)).astype(np.uint8)
    rgba[..., 3] = 255
    small, n = reduce_to(rgba, 500)
    assert n == 2 and small.shape == (19, 27, 4)
    expected = rgba[:36, :52, :3].reshape(18, 2, 26, 2, 3).mean(axis=(1, 3))
    assert np.abs(small[:18, :26, :3] - expected).max() <= 0.51
