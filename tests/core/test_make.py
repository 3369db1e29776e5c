"""The make of several pictures, its document, and what a change does not work out anew."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bisectum.core.course import CourseSettings, Source, run_course
from bisectum.core.errors import BrokenStructure, DocumentError, NotFoundError, SettingsError
from bisectum.core.formats.exporters import EXPORTERS, export
from bisectum.core.formats.svg.read import read_svg
from bisectum.core.geom.path import Path as Line
from bisectum.core.job import JobDocument, new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.older import read_document
from bisectum.core.steps.lines import step as lines_step
from tests.support.asserts import layer_polygons
from tests.support.drawings import INK, circle, painted, turned_square

RED, GOLD = (200, 60, 40), (240, 200, 60)
DOCUMENTS = Path(__file__).parents[1] / "documents"
ONE, OTHER = "1" * 64, "2" * 64
PICTURES = {
    ONE: painted([(turned_square(60, 60, 80, 5), INK), (circle(60, 60, 22), RED)], 120, 120),
    OTHER: painted([(circle(70, 50, 40), RED), (turned_square(70, 50, 26, 20), GOLD)], 140, 100),
}
SOURCES = {digest: Source(rgba, 0.5, digest) for digest, rgba in PICTURES.items()}


def two(**make: Any) -> JobDocument:
    document = new_document(ONE, "one.png", "one", CourseSettings()).with_picture(OTHER, "other.png", "other", CourseSettings())
    for step, fields in make.items():
        document = document.with_make_step(step, fields)  # type: ignore[arg-type]
    return document


def made(document: JobDocument, cache: dict[str, Any] | None = None) -> MakeResult:
    result = run_make(SOURCES, document, {} if cache is None else cache)
    result.arrangement.check()
    result.artwork.check()
    return result


def flat(result: MakeResult) -> dict[str, shapely.Geometry]:
    return {layer.key: layer_polygons(layer) for layer in result.artwork.layers}


def test_two_pictures_lie_side_by_side_and_are_what_each_was_alone() -> None:
    both = made(two(layers={"build": "flush"}, arrange={"gap_mm": 7}))
    alone = [made(new_document(digest, "", "x", CourseSettings()).with_make_step("layers", {"build": "flush"}))
             for digest in (ONE, OTHER)]
    left, right = (both.arrangement.frame(f"picture-{number}").box for number in (1, 2))
    assert right[0] - left[2] == pytest.approx(7)
    assert both.artwork.width == pytest.approx(sum(result.artwork.width for result in alone) + 7)
    assert both.artwork.height == pytest.approx(max(result.artwork.height for result in alone))
    # Every piece is a piece of one of them, moved; the red of both is one layer.
    ink, red, gold = ("#{:02x}{:02x}{:02x}".format(*colour) for colour in (INK, RED, GOLD))
    found = flat(both)
    assert set(found) == {ink, red, gold}
    for result, box in zip(alone, (left, right), strict=True):
        for key, polygons in flat(result).items():
            moved = shapely.affinity.translate(polygons, box[0], box[1])
            assert shapely.area(shapely.difference(moved, found[key])) < 1e-6
    assert found[red].area == pytest.approx(sum(flat(result)[red].area for result in alone))
    shared = next(layer for layer in both.artwork.layers if layer.key == red)
    assert {hold.item for hold in shared.holds} == {"picture-1", "picture-2"}


def test_colours_that_look_the_same_are_one_layer_until_they_are_parted() -> None:
    nearly = tuple(value + 2 for value in RED)
    shape = {"made": {"form": "rectangle", "width_mm": 9, "height_mm": 9}, "place": {"x_mm": 300, "y_mm": 0}}
    for colour, layers in ((nearly, 3), ((RED[0] - 40, *RED[1:]), 4)):
        fields = {**shape, "made": {**shape["made"], "colour": "#{:02x}{:02x}{:02x}".format(*colour)}}
        document = two().with_made("shape", "box", fields)
        assert len(made(document).artwork.layers) == layers
    near = two().with_made("shape", "box", {**shape, "made": {**shape["made"], "colour": "#{:02x}{:02x}{:02x}".format(*nearly)}})
    shared = next(layer for layer in made(near).artwork.layers if len(layer.holds) == 3)
    anchors = [{"item": hold.item, "colour": hold.colour, "x": hold.x, "y": hold.y} for hold in shared.holds]
    parted = near.with_make_step("layers", {"records": [{"id": "", "anchors": anchors[:2]}, {"id": "", "anchors": anchors[2:]}]})
    assert len(made(parted).artwork.layers) == 4


def test_a_record_sent_before_its_id_was_known_is_the_same_one() -> None:
    """Two quick presses: the second was made on the state before the first was answered."""
    document = two()
    held = [layer.holds for layer in made(document).artwork.layers]
    records = [{"id": "", "anchors": [{"item": one.item, "colour": one.colour, "x": one.x, "y": one.y} for one in holds]}
               for holds in held]
    first = document.with_make_step("layers", {"records": records, "order": ["-2", "-0", "-1"]})
    second = first.with_make_step("layers", {"records": records, "order": ["-2", "-1", "-0"]})
    names = [record.id for record in first.make.layers.records]
    assert [record.id for record in second.make.layers.records] == names and second.minted == first.minted
    assert second.make.layers.order == (names[2], names[1], names[0])
    joined = [records[1], {"id": "", "anchors": [*records[2]["anchors"], *records[0]["anchors"]]}]
    third = second.with_make_step("layers", {"records": joined})
    assert [record.id for record in third.make.layers.records] == [names[1], names[2]]  # in the place of the one it was joined to


@pytest.mark.parametrize("build", ["auto", "whole", "lapped", "flush", "stacked"])
def test_two_pictures_reach_a_file_in_every_build(build: str) -> None:
    result = made(two(layers={"build": build}))
    for kind in EXPORTERS:
        data = export(kind, result.artwork, "two")
        assert data == export(kind, result.artwork, "two")
    assert len(read_svg(export("svg", result.artwork, "two").decode()).layers) == 3


def test_a_picture_that_was_placed_stays_there_and_may_lie_on_another() -> None:
    beside = two().with_item("picture-1", place={"x_mm": 300, "y_mm": 40})
    left, right = (made(beside).arrangement.frame(f"picture-{number}").box for number in (1, 2))
    assert right[0] > left[2]
    on_it = beside.with_item("picture-2", place={"x_mm": 310, "y_mm": 40})
    over = made(on_it).arrangement
    over.check()
    both = (over.stack > 0).all(axis=1)
    assert both.any() and (over.planar.face_labels[both] == over.stack[both, 1]).all()  # the second lies on top


def test_more_colours_than_a_byte_holds() -> None:
    """Fifty pictures of six colours each: labels of the make are numbered on beyond 255."""
    boxes = [(shapely.box(4 + 16 * k, 4, 18 + 16 * k, 30), (20 + 35 * k, 40 * k, 200 - 30 * k)) for k in range(6)]
    rgba = painted(boxes, 104, 34)
    sources = {f"{number:064x}": Source(rgba, 0.5, f"{number:064x}") for number in range(50)}
    document = new_document(f"{0:064x}", "", "x", CourseSettings())
    for number in range(1, 50):
        document = document.with_picture(f"{number:064x}", "", "x", CourseSettings())
    result = run_make(sources, document.with_make_step("layers", {"build": "flush"}), {})
    assert len(result.arrangement.members) == 300 and len(result.artwork.layers) == 6
    assert result.artwork.piece_count == 300
    with pytest.raises(SettingsError):
        document.with_picture(ONE, "", "x", CourseSettings())


def test_no_layer_runs_under_a_picture_it_is_not_in() -> None:
    result = made(two(layers={"build": "whole"}))
    for layer in result.artwork.layers:
        there = {hold.item for hold in layer.holds}
        for item in ("picture-1", "picture-2"):
            frame = shapely.box(*result.arrangement.frame(item).box)
            assert (shapely.area(shapely.intersection(layer_polygons(layer), frame)) > 1) == (item in there)


# What is not worked out anew


def test_a_change_works_out_only_what_it_touches() -> None:
    cache: dict[str, Any] = {}
    first = made(two(), cache)
    assert {step for _, step in first.fresh} == {"picture", "background", "colours", "lines", "pieces", "arrange", "layers"}
    assert made(two(), cache).fresh == ()
    closer = made(two().with_step("picture-2", "lines", {"closeness_mm": 0.02}), cache)
    assert closer.fresh == (("picture-2", "lines"), ("picture-2", "pieces"), ("", "arrange"), ("", "layers"))
    assert made(two(layers={"build": "flush"}), cache).fresh == (("", "layers"),)
    again = made(two().renamed("Another name"), cache)
    assert again.fresh == () and again.key == first.key


@pytest.mark.parametrize("change", [
    ("picture", {"width_mm": 41.0}), ("pieces", {"smallest_mm2": 1.01}),
    ("lines", {"corrections": [{"kind": "move", "x": 0.5, "y": 0.3, "to_x": 0.51, "to_y": 0.3}]}),
])
def test_lines_are_fitted_once(change: tuple[Any, dict[str, Any]], monkeypatch: pytest.MonkeyPatch) -> None:
    document = new_document(ONE, "", "x", CourseSettings()).with_step("picture-1", "picture", {"width_mm": 40.0})
    cache: dict[str, Any] = {}
    before = made(document, cache)
    fitted: list[int] = []
    original = lines_step.fit_lines
    monkeypatch.setattr(lines_step, "fit_lines", lambda *given: (fitted.append(1), original(*given))[1])
    after = made(document.with_step("picture-1", *change), cache)
    assert not fitted
    if change[0] == "picture":
        assert after.artwork.width == pytest.approx(41.0)
        ratio = [np.concatenate([ring.segments for layer in result.artwork.layers for ring in layer.rings]) for result in
                 (after, before)]
        np.testing.assert_allclose(ratio[0], ratio[1] * 41 / 40, atol=1e-9)


@settings(max_examples=15, deadline=None)
@given(st.floats(20, 400))
def test_a_line_strays_no_farther_than_asked_at_any_width(width: float) -> None:
    cache: dict[str, Any] = {}
    document = new_document(ONE, "", "x", CourseSettings()).with_step("picture-1", "picture", {"width_mm": 40.0})
    made(document, cache)
    result = made(document.with_step("picture-1", "picture", {"width_mm": width}), cache)
    assert result.artwork.width == pytest.approx(width, rel=1e-12)
    px = result.courses["picture-1"].label_map.mm_per_px
    assert result.courses["picture-1"].planar_map.deviation <= 0.1 + 0.3 * px


def test_a_course_may_stop_at_any_step() -> None:
    source = SOURCES[ONE]
    result = run_course(source, CourseSettings(), {}, until="background")
    assert result.ground.mask.any() and result.fresh == ("picture", "background")
    with pytest.raises(BrokenStructure):
        _ = result.planar_map
    assert run_course(source, CourseSettings(), {}, most_px=3000).picture.rgba.size <= 4 * 3000


# The document


def test_ids_are_given_out_once_and_never_again() -> None:
    document = two()
    assert [item.id for item in document.items] == ["picture-1", "picture-2"]
    holds = made(document).artwork.layers[0].holds
    anchors = [{"item": hold.item, "colour": hold.colour, "x": hold.x, "y": hold.y} for hold in holds]
    named = document.with_make_step("layers", {"records": [{"anchors": anchors, "name": "Lid"}], "order": ["-0"]})
    assert [record.id for record in named.make.layers.records] == ["layer-3"] == list(named.make.layers.order)
    without = named.without_item("picture-2")
    assert without.with_picture(OTHER, "", "x", CourseSettings()).items[-1].id == "picture-4"
    assert all(anchor.item == "picture-1" for record in without.make.layers.records for anchor in record.anchors)
    with pytest.raises(SettingsError):
        without.without_item("picture-1")
    with pytest.raises(NotFoundError):
        without.item("picture-2")


def test_pictures_change_places() -> None:
    assert [item.id for item in two().moved("picture-1", 9).items] == ["picture-2", "picture-1"]
    assert two().moved("picture-2", 1) == two()


def test_what_changed_is_told_field_by_field() -> None:
    before = two()
    after = before.with_step("picture-2", "lines", {"closeness_mm": 0.3}).with_make_step("arrange", {"gap_mm": 3}).renamed("new")
    assert after.changed_since(before) == {
        ("items", "picture-2", "lines", "closeness_mm"), ("make", "arrange", "gap_mm"), ("name",)}
    assert before.changed_since(two()) == set()
    assert ("items",) in before.without_item("picture-2").changed_since(before)


@pytest.mark.parametrize("version", [1, 2, 3, 4, 5])
def test_documents_of_every_version_are_read(version: int) -> None:
    data = json.loads((DOCUMENTS / f"version-{version}.json").read_text())
    assert data["version"] == version
    document = read_document(data)
    assert read_document(document.model_dump(mode="json")) == document
    item = document.items[0]
    assert (item.id, item.course.picture.turn, len(item.course.background.touches)) == ("picture-1", 90, 1)
    layers = document.make.layers
    assert (layers.build, layers.lap_mm, layers.base) == ("lapped", 0.8, "#1c2a44")
    by_colour = {record.anchors[0].colour: record for record in layers.records}
    assert by_colour["#2f5d7c"].name == "Harbour water" and by_colour["#c8452f"].colour == "#FF0000"
    assert [next(record.anchors[0].colour for record in layers.records if record.id == name) for name in layers.order] == [
        "#2f5d7c", "#f2c14e"]
    if version >= 4:  # one version had a mode "person"
        assert [one.course.background.mode for one in document.pictures] == ["auto", "subject"]


@pytest.mark.parametrize("data", [{}, {"version": 1}, {"version": 6, "name": "x"}, {"version": 2, "name": "x", "items": []},
                                  {"version": 1, "name": "x", "items": "none"}])
def test_a_document_that_cannot_be_read_says_so(data: dict[str, Any]) -> None:
    with pytest.raises(DocumentError) as refused:
        read_document(data)
    assert refused.value.code == ("document_newer" if data.get("version") == 6 else "document_unreadable")


# Layers that something was said about


def said(document: JobDocument, result: MakeResult, key: str, **what: str) -> JobDocument:
    """With a record of the layer of a colour."""
    layer = next(layer for layer in result.artwork.layers if layer.key == key)
    anchors = [{"item": hold.item, "colour": hold.colour, "x": hold.x, "y": hold.y} for hold in layer.holds]
    return document.with_make_step("layers", {"records": [*document.make.layers.records, {"anchors": anchors, **what}]})


def test_a_colour_that_moves_by_a_new_exposure_keeps_its_layer() -> None:
    cache: dict[str, Any] = {}
    ink, red = ("#{:02x}{:02x}{:02x}".format(*colour) for colour in (INK, RED))
    document = two()
    result = made(document, cache)
    document = said(said(document, result, ink, name="Hull"), result, red, name="Lid", colour="#00ff00")
    for exposure in (-1.0, -0.4, 0.5, 0.9):
        lit = document.with_step("picture-1", "picture", {"exposure": exposure})
        after = made(lit, cache)
        names = {layer.name: layer for layer in after.artwork.layers}
        assert {"Hull", "Lid"} <= set(names), exposure
        assert names["Hull"].key != ink and names["Lid"].rgb == (0, 255, 0)
        assert {hold.item for hold in names["Lid"].holds} == {"picture-1", "picture-2"}
        assert not after.artwork.findings


def test_what_finds_nothing_to_hold_on_to_is_told_not_dropped() -> None:
    document = two()
    gold = "#{:02x}{:02x}{:02x}".format(*GOLD)
    document = said(document, made(document), gold, name="Lamp")
    gone = document.with_step("picture-2", "colours", {"palette_changes": [{"kind": "fill", "colour": gold}]})
    result = made(gone)
    assert [(finding.code, finding.details["name"]) for finding in result.artwork.findings] == [("layer_unbound", "Lamp")]
    assert gone.make.layers.records == document.make.layers.records
    assert any(layer.name == "Lamp" for layer in made(document).artwork.layers)


# Paths and their pens


class Walker:
    """A pen that remembers where it has been."""

    def __init__(self) -> None:
        self.calls: list[tuple[Any, ...]] = []

    def __getattr__(self, name: str) -> Any:
        return lambda *values: self.calls.append((name, *values))


def test_a_path_leads_a_pen_along_it_closed_or_open() -> None:
    corners = np.array([(0.0, 0.0), (4.0, 0.0), (4.0, 3.0), (0.0, 0.0)])
    segments = np.stack([corners[:-1], corners[:-1], corners[1:], corners[1:]], axis=1)
    straight = np.array([True, False, True])
    for closed in (True, False):
        pen = Walker()
        path = Line(segments, straight, closed)
        path.check()
        path.draw(pen)
        assert pen.calls[:3] == [("move_to", 0.0, 0.0), ("line_to", 4.0, 0.0), ("curve_to", 4.0, 0.0, 4.0, 3.0, 4.0, 3.0)]
        assert pen.calls[3:] == ([("close_path",)] if closed else [("line_to", 0.0, 0.0), ("end_path",)])
    broken = segments.copy()
    broken[1, 0] += 1
    with pytest.raises(BrokenStructure):
        Line(broken, straight).check()
    assert len(Line(segments * 1e-5, straight).rounded(3).segments) == 0
