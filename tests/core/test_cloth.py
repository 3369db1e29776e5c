"""Layers for the cloth: pairs that meet in their own way, backings, cloths, no film on film.

Oracles: shapely's buffers and booleans.
"""

from __future__ import annotations

from itertools import combinations
from typing import Any

import numpy as np
import pytest
import shapely
import shapely.affinity

from bisectum.core.course import CourseSettings, Source
from bisectum.core.errors import NotFoundError, SettingsError
from bisectum.core.job import JobDocument, new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.model.artwork import Layer
from bisectum.core.steps.layers.backing import backing_pieces
from bisectum.core.steps.layers.opposite import with_opposite
from bisectum.core.steps.layers.reversed import reversed_pieces
from bisectum.core.steps.layers.settings import Backing, Reverse
from bisectum.core.steps.layers.thickness import thickest
from tests.support.asserts import layer_polygons
from tests.support.drawings import INK, circle, painted, turned_square
from tests.support.strangers import rgba_of, shipped

RED, GOLD, PALE = (200, 60, 40), (240, 200, 60), (250, 250, 248)
ONE = "1" * 64
DRAWING = painted([(turned_square(75, 75, 110, 8), INK), (circle(75, 75, 36), RED), (circle(80, 70, 15), GOLD),
                   (circle(30, 110, 6), (255, 255, 255))], 150, 150)


def document(**layers: Any) -> JobDocument:
    return new_document(ONE, "a.png", "Badge", CourseSettings()).with_make_step("layers", layers)


def made(wanted: JobDocument, rgba: Any = DRAWING) -> MakeResult:
    result = run_make({ONE: Source(rgba, 0.5, ONE)}, wanted, {})
    result.arrangement.check()
    result.artwork.check()
    return result


def layer(result: MakeResult, rgb: tuple[int, int, int]) -> Layer:
    return min(result.artwork.layers, key=lambda one: sum(abs(a - b) for a, b in zip(one.rgb, rgb, strict=True)))


def flat(result: MakeResult, rgb: tuple[int, int, int]) -> shapely.Geometry:
    return layer_polygons(layer(result, rgb))


def records(result: MakeResult, *colours: tuple[int, int, int], **more: Any) -> list[dict[str, Any]]:
    """What the screen sends to say something of layers."""
    return [{"id": "", "anchors": [{"item": hold.item, "colour": hold.colour, "x": hold.x, "y": hold.y}
                                   for hold in layer(result, colour).holds], **more} for colour in colours]


def test_a_pair_meets_in_its_own_way_and_all_others_as_before() -> None:
    plain = {build: made(document(build=build)) for build in ("stacked", "flush")}
    own = records(plain["stacked"], INK, RED)
    mixed = made(document(build="stacked", records=own, meetings=[{"lower": "-0", "upper": "-1", "build": "flush"}]))
    # The blue no longer runs under the red disc, but still under the gold one, which lies on the red.
    red, gold = flat(plain["flush"], RED), flat(plain["flush"], GOLD)
    wanted = shapely.difference(flat(plain["stacked"], INK), red)
    assert shapely.symmetric_difference(flat(mixed, INK), wanted).area < 1e-3
    assert shapely.intersection(flat(mixed, INK), gold).area == pytest.approx(gold.area, rel=1e-3)
    for colour in (RED, GOLD):
        assert shapely.symmetric_difference(flat(mixed, colour), flat(plain["stacked"], colour)).area < 1e-9
    lapped = made(document(build="flush", lap_mm=1.5, records=own, meetings=[{"lower": "-0", "upper": "-1", "build": "lapped"}]))
    under = shapely.intersection(flat(lapped, INK), red)
    band = shapely.intersection(flat(plain["flush"], INK).buffer(1.5, quad_segs=64), red)
    assert shapely.symmetric_difference(under, band).area < 0.02 * band.area


@pytest.mark.parametrize(("kind", "corners", "windows"), [("same", "round", "keep"), ("same", "round", "fill"),
                                                         ("margin", "round", "fill"), ("margin", "sharp", "keep")])
def test_a_backing_is_the_outline_at_its_distance(kind: str, corners: str, windows: str) -> None:
    plain, margin = made(document()), 3.0
    backed = made(document(backing={"kind": kind, "margin_mm": margin, "corners": corners, "windows": windows}))
    bottom = backed.artwork.layers[0]
    assert bottom.id == "backing" and len(backed.artwork.layers) == len(plain.artwork.layers) + 1
    room = margin if kind == "margin" else 0.0
    if corners == "round":
        assert backed.artwork.width == pytest.approx(plain.artwork.width + 2 * room, abs=1e-9)
    left, top, *_ = backed.artwork.room
    # In register: every layer lies where it lay, moved by the room for the backing.
    for one, other in zip(plain.artwork.layers, backed.artwork.layers[1:], strict=True):
        moved = shapely.affinity.translate(layer_polygons(one), left, top)
        assert shapely.symmetric_difference(layer_polygons(other), moved).area < 1e-6
    cut = shapely.union_all([layer_polygons(one) for one in backed.artwork.layers[1:]])
    if windows == "fill":
        cut = shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(cut)])
    join = "round" if corners == "round" else "mitre"
    wanted = cut.buffer(room, quad_segs=64, join_style=join, mitre_limit=10) if room else cut
    assert shapely.symmetric_difference(layer_polygons(bottom), wanted).area < 0.002 * wanted.area
    frame = backed.arrangement.frame("picture-1").box
    assert frame[0] == pytest.approx(plain.arrangement.frame("picture-1").box[0] + left)


def test_no_film_lies_on_film() -> None:
    gap = 0.4
    plain = made(document(build="stacked", material="heat-transfer vinyl"))
    assert thickest(plain.artwork).films == 4
    clear = made(document(build="whole", material="heat-transfer vinyl", knock_out=True, knock_mm=gap,
                          backing={"kind": "margin", "margin_mm": 2}))
    shapes = [layer_polygons(one) for one in clear.artwork.layers]
    for one, other in combinations(shapes, 2):
        assert shapely.intersection(one, other).area == 0
        assert shapely.distance(one, other) > gap - 0.005 or shapely.distance(one, other) == pytest.approx(gap, abs=0.01)
    assert thickest(clear.artwork).films == 1
    # What is seen on top is whole; what lies below lost the gap only.
    left, top, *_ = clear.artwork.room
    flush = made(document(build="flush"))
    gold = shapely.affinity.translate(flat(flush, GOLD), left, top)
    assert shapely.symmetric_difference(flat(clear, GOLD), gold).area < 1e-6
    red = shapely.difference(shapely.affinity.translate(flat(flush, RED), left, top), gold.buffer(gap, quad_segs=64))
    assert shapely.symmetric_difference(flat(clear, RED), red).area < 0.01 * red.area
    # On other material nothing is left out.
    assert thickest(made(document(build="stacked", material="card", knock_out=True)).artwork).films == 4


@pytest.mark.parametrize("build", ["whole", "lapped", "flush", "stacked"])
def test_the_thickest_place_is_where_most_films_lie(build: str) -> None:
    artwork = made(document(build=build, lap_mm=2)).artwork
    shapes = [layer_polygons(one) for one in artwork.layers]
    found = thickest(artwork)
    place = shapely.Point(found.at)
    assert sum(shape.contains(place) for shape in shapes) == found.films
    deepest = max((len(own) for size in range(1, len(shapes) + 1) for own in combinations(shapes, size)
                   if shapely.intersection_all(own).buffer(-0.2).area > 0.5), default=0)
    assert found.films == deepest


def test_a_layer_left_to_the_cloth_leaves_nothing_there() -> None:
    """Not the layer itself, and none that would run under it."""
    plain = made(document(build="flush"))
    named = document(build="whole", records=records(plain, RED))
    red = named.make.layers.records[0].id
    bare = made(named.with_make_step("layers", {"bare": [red]}))
    gone = flat(plain, RED)
    assert len(bare.artwork.layers) == len(plain.artwork.layers) - 1
    for one in bare.artwork.layers:
        assert shapely.intersection(layer_polygons(one), gone).area < 1e-6


@pytest.mark.parametrize("within", ["frame", "ellipse", "outline"])
def test_the_reverse_is_all_that_was_left_open(within: str) -> None:
    margin, plain = 6.0, made(document(build="flush"))
    other = made(document(build="flush", reverse={"within": within, "margin_mm": margin, "colour": "#fafaf8"}))
    (film,) = other.artwork.layers
    left, top, *_ = other.artwork.room
    cut = shapely.affinity.translate(shapely.union_all([layer_polygons(one) for one in plain.artwork.layers]), left, top)
    reverse = layer_polygons(film)
    assert shapely.intersection(reverse, cut).area < 1e-3
    together = shapely.union(reverse, cut)
    width, height = plain.artwork.width, plain.artwork.height
    if within == "frame":
        assert together.area == pytest.approx((width + 2 * margin) * (height + 2 * margin), rel=1e-6)
        assert other.artwork.width == pytest.approx(width + 2 * margin)
    elif within == "ellipse":
        area = np.pi * (width / np.sqrt(2) + margin) * (height / np.sqrt(2) + margin)
        assert together.area == pytest.approx(area, rel=1e-3)
    else:
        filled = shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(cut)])
        outline = filled.buffer(margin, quad_segs=64)
        assert shapely.symmetric_difference(together, outline).area < 0.002 * outline.area


def test_a_make_without_pieces_has_no_reverse_and_no_backing() -> None:
    planar = made(document()).arrangement.planar
    none = np.zeros(len(planar.face_labels), bool)
    with pytest.raises(SettingsError, match="nothing to reverse"):
        reversed_pieces(planar, none, Reverse(within="outline"))
    assert backing_pieces(planar, none, Backing(kind="margin")) == ()


def test_the_opposite_of_a_drawing_leaves_bare_what_the_cloth_shows() -> None:
    slate = (34, 40, 48)
    drawing = painted([(turned_square(75, 75, 110, 8), slate), (circle(75, 75, 36), RED)], 150, 150)
    plain = made(document(base="#ffffff"), drawing)
    job = document(base="#ffffff")
    fields = with_opposite(job.make.layers, plain.artwork.layers, {})
    job = job.with_make_step("layers", fields)
    (variant,) = job.make.layers.variants
    assert variant.cloth == "Dark cloth" and job.make.layers.cloth == "Light cloth"
    dark = job.for_cloth(variant.id)
    assert dark.make.layers.base == variant.base and not dark.make.layers.variants
    # The slate is as dark as the cloth: it is left bare, by an id that it was given for that.
    assert variant.bare == (job.make.layers.records[-1].id,)
    cut = {one.key for one in plain.artwork.layers} - {layer(plain, slate).key}
    assert {one.key for one in made(dark, drawing).artwork.layers} == cut
    with pytest.raises(NotFoundError):
        job.for_cloth("cloth-999")
    one = painted([(turned_square(60, 60, 80, 5), INK)], 120, 120)
    alone = with_opposite(job.make.layers, made(document(), one).artwork.layers, {})
    assert alone["variants"][-1]["reverse"]["within"] == "frame"


def test_the_opposite_of_a_photograph_shows_the_same_picture() -> None:
    """On dark cloth the lightest tones are cut and the darkest left; together both cut every place of the subject."""
    rgba = np.ascontiguousarray(rgba_of(shipped("coffee"))[::3, ::3])
    course = CourseSettings.model_validate({"colours": {"kind": "photo", "treatment": "lightness", "count": 3, "bare": [1],
                                                       "drawn_top": False},
                                            "background": {"mode": "keep"}})
    job = new_document(ONE, "a.jpg", "Face", course).with_make_step("layers", {"build": "flush", "base": "#ffffff"})
    light = made(job, rgba)
    scales = {name: one.label_map.scale for name, one in light.courses.items() if one.label_map.scale is not None}
    job = job.with_make_step("layers", with_opposite(job.make.layers, light.artwork.layers, scales))
    variant = job.make.layers.variants[0]
    assert variant.tones[0].tones == (0,)
    dark = made(job.for_cloth(variant.id), rgba)
    page = light.artwork.width * light.artwork.height
    both = shapely.union_all([layer_polygons(one) for result in (light, dark) for one in result.artwork.layers])
    assert both.area > 0.97 * page
    for result in (light, dark):
        area = shapely.union_all([layer_polygons(one) for one in result.artwork.layers]).area
        assert 0.05 * page < area < 0.98 * page
