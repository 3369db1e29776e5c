"""Items laid over each other: what each part does to those below, as areas of what is cut."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely

from bisectum.core.course import CourseSettings, Source
from bisectum.core.errors import NotFoundError, SettingsError
from bisectum.core.formats.exporters import PLAIN, exporter
from bisectum.core.formats.svg.read import read_svg
from bisectum.core.job import MOST_IDS, MOST_ITEMS, JobDocument, new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.moves import Stands
from bisectum.core.steps.layers.edge_view import EdgeView
from bisectum.services.fonts import SHIPPED, shipped_files
from bisectum.services.items import NewItem, with_changes, with_new
from tests.support.drawings import painted

DIGEST = "d" * 64
BLUE, RED = (30, 80, 140), (190, 40, 40)
SOURCE = Source(painted([(shapely.box(20, 20, 180, 120), BLUE), (shapely.box(60, 50, 140, 90), RED)], 200, 140), 0.5, DIGEST)
NOWHERE = Stands({}, (0.0, 0.0), (0.0, 0.0))
FONTS = {font.id: shipped_files(font.id) for font in SHIPPED}
CACHE: dict[str, Any] = {}
BOX = 80 * 50  # mm²: the blue box 160 × 100 px at half a millimetre


def job(*items: tuple[str, dict[str, Any]], build: str = "whole") -> JobDocument:
    """The picture in its place, its middle at 0, 0, and items on it."""
    document = new_document(DIGEST, "box.png", "Box", CourseSettings())
    document = document.with_item("picture-1", place={"x_mm": 0, "y_mm": 0}).with_make_step("layers", {"build": build})
    for kind, fields in items:
        document = document.with_made(kind, kind, fields)
    return document


def made(document: JobDocument) -> MakeResult:
    result = run_make({DIGEST: SOURCE}, document, CACHE, fonts=FONTS)
    result.arrangement.check()
    result.artwork.check()
    return result


def areas(document: JobDocument) -> dict[str, float]:
    """The area of each layer by its colour, mm²."""
    result: dict[str, float] = {}
    for layer in made(document).artwork.layers:
        result[layer.key] = result.get(layer.key, 0) + sum(piece.area for piece in layer.pieces)
    return result


def square(side: float = 10, x: float = 0, y: float = 0, colour: str = "#ffcc00", **part: Any) -> tuple[str, dict[str, Any]]:
    return "shape", {"made": {"form": "rectangle", "width_mm": side, "height_mm": side, "colour": colour},
                     "place": {"x_mm": x, "y_mm": y}, "part": part}


def keys() -> tuple[str, str]:
    blue, red = (layer.key for layer in made(job()).artwork.layers)
    return blue, red


def test_it_lies_on_top_and_what_is_below_runs_on_underneath() -> None:
    blue, red = keys()
    on = areas(job(square()))
    assert on == pytest.approx({blue: BOX, red: 800, "#ffcc00": 100}, rel=1e-6)
    flush = areas(job(square(), build="flush"))
    assert flush == pytest.approx({blue: BOX - 800, red: 700, "#ffcc00": 100}, rel=1e-6)
    lapped = areas(job(square(), build="lapped").with_make_step("layers", {"lap_mm": 1}))
    assert lapped[red] == pytest.approx(800 - 64, rel=1e-6)  # it reaches a millimetre under the square from all sides
    assert lapped[blue] == pytest.approx(BOX - 38 * 18, rel=1e-3)


def test_what_hangs_over_adds_only_itself() -> None:
    blue, _ = keys()
    over = made(job(square(20, x=40)))
    assert over.artwork.width == pytest.approx(90) and over.artwork.height == pytest.approx(50)
    assert areas(job(square(20, x=40)))[blue] == pytest.approx(BOX)
    assert over.arrangement.origin == pytest.approx((-40, -25))


def test_nothing_below_it_with_room_around() -> None:
    blue, red = keys()
    clear = areas(job(square(clear_mm=0.5)))
    gone = 11 * 11 - (4 - np.pi) * 0.25  # round corners
    assert clear == pytest.approx({blue: BOX - gone, red: 800 - gone, "#ffcc00": 100}, rel=1e-5)
    depth = max(bar.below for bar in EdgeView(made(job(square(clear_mm=0.5))).artwork).cut("x", 40.1))
    assert depth == 1 and max(bar.below for bar in EdgeView(made(job(square())).artwork).cut("x", 40.1)) == 2


def test_it_melts_into_another_layer() -> None:
    blue, red = keys()
    target = {"item": "picture-1", "colour": blue}
    document = job(square(20, x=40, kind="melts", targets=(target,)))
    assert areas(document) == pytest.approx({blue: BOX + 200, red: 800}, rel=1e-6)
    layer = next(layer for layer in made(document).artwork.layers if layer.key == blue)
    assert len(layer.pieces) == 1 and not layer.pieces[0].windows  # no line between them
    inside = areas(job(square(kind="melts", targets=(target,)), build="flush"))
    assert inside == pytest.approx({blue: BOX - 700, red: 700}, rel=1e-6)


def test_it_is_cut_out_of_what_lies_below() -> None:
    blue, red = keys()
    assert areas(job(square(kind="cuts"))) == pytest.approx({blue: BOX - 100, red: 700}, rel=1e-6)
    of_red = areas(job(square(kind="cuts", targets=({"item": "picture-1", "colour": red},))))
    assert of_red == pytest.approx({blue: BOX - 100, red: 700}, rel=1e-6)  # below red is blue no more: it was red's place
    with_room = areas(job(square(kind="cuts", clear_mm=1)))
    assert with_room[blue] == pytest.approx(BOX - (144 - (4 - np.pi)), rel=1e-5)
    twice = made(job(square(10, -10, kind="cuts"), square(10, 10, kind="cuts")))  # nostrils, of two shapes
    assert len(twice.artwork.layers[1].pieces[0].windows) == 2


def test_only_what_is_inside_stays() -> None:
    """A picture cropped inside a shape: the page is what is left."""
    blue, _ = keys()
    document = job(("shape", {"made": {"form": "ellipse", "width_mm": 30, "height_mm": 30}, "place": {"x_mm": 0, "y_mm": 0},
                              "part": {"kind": "keeps"}}), build="stacked")
    left = areas(document)
    assert left[blue] == pytest.approx(np.pi * 225, rel=1e-3)
    assert made(document).artwork.width == pytest.approx(30, abs=1e-6)


def test_an_item_that_takes_everything_away_is_told() -> None:
    with pytest.raises(SettingsError) as refused:
        made(job(square(500, kind="cuts")))
    assert refused.value.code == "all_taken_away"
    hidden = job(square()).with_changed_item("shape-2", {"hidden": True}).with_changed_item("picture-1", {"hidden": True})
    with pytest.raises(SettingsError) as refused:
        made(hidden)
    assert refused.value.code == "all_hidden"
    with pytest.raises(SettingsError) as refused:
        made(job(("border", {})).with_changed_item("picture-1", {"hidden": True}))
    assert refused.value.code == "border_around_nothing"


def test_an_item_without_an_area_is_told() -> None:
    line = ("drawn", {"made": {"nodes": ({"x": 0, "y": 0}, {"x": 9, "y": 0}), "closed": True}, "place": {"x_mm": 0, "y_mm": 0}})
    with pytest.raises(SettingsError) as refused:
        made(job(line))
    assert refused.value.code == "nothing_in_item"


def test_the_order_decides_and_hidden_items_are_left_out() -> None:
    blue, _ = keys()
    document = job(square(20, x=40, kind="cuts"))
    below = document.moved("shape-2", 0)
    assert areas(below)[blue] == pytest.approx(BOX)  # it is cut out of nothing now
    assert areas(document.with_changed_item("shape-2", {"hidden": True}))[blue] == pytest.approx(BOX)


def test_turned_mirrored_and_stretched() -> None:
    tag = {"made": {"form": "tag", "width_mm": 20, "height_mm": 30, "colour": "#ffcc00"}}
    plain = areas(job(("shape", {**tag, "place": {"x_mm": 100, "y_mm": 0}})))["#ffcc00"]
    for place in ({"turn_deg": 37}, {"mirrored": True}, {"turn_deg": 90, "mirrored": True}):
        document = job(("shape", {**tag, "place": {"x_mm": 0, "y_mm": 0, **place}}))
        assert areas(document)["#ffcc00"] == pytest.approx(plain, rel=1e-6), place
        frame = made(document).arrangement.frame("shape-2")
        assert frame.size == pytest.approx((20, 30))
        assert ((frame.box[0] + frame.box[2]) / 2, (frame.box[1] + frame.box[3]) / 2) == pytest.approx((40, 25), abs=1e-6)
    wide = made(job(("shape", {**tag, "place": {"x_mm": 0, "y_mm": 0, "turn_deg": 90}})))
    left, top, right, bottom = wide.arrangement.frame("shape-2").box
    assert (right - left, bottom - top) == pytest.approx((30, 20))
    name = {"made": {"text": "Tea", "font": "nunito"}, "place": {"x_mm": 0, "y_mm": 0, "stretch": 2}}
    assert made(job(("lettering", name))).arrangement.frame("lettering-2").size[1] == pytest.approx(
        2 * made(job(("lettering", {**name, "place": {"x_mm": 0, "y_mm": 0}}))).arrangement.frame("lettering-2").size[1])
    whole = job().with_item("picture-1", place={"x_mm": 0, "y_mm": 0, "turn_deg": 30, "mirrored": True})
    assert sum(areas(whole).values()) == pytest.approx(BOX + 800, rel=1e-6)


def test_a_border_around_fragments() -> None:
    """Two squares apart and a bar beside them become one outline; windows inside it are dropped."""
    dots = [square(10, x, 60, colour="#222222") for x in (-8, 8)]
    border = made(job(*dots, ("border", {"made": {"distance_mm": 3.175, "around": ("shape-2", "shape-3")}})))
    order = [layer.key for layer in border.artwork.layers]
    assert order.index("#ffffff") < order.index("#222222")
    outline = border.artwork.layers[order.index("#ffffff")]
    assert len(outline.pieces) == 1 and not outline.pieces[0].windows
    assert border.arrangement.frames[0].item == "border-4"
    everything = made(job(("border", {"made": {"distance_mm": 2}})))
    assert everything.artwork.width == pytest.approx(84, abs=0.01)
    wide = made(job(("border", {"made": {"distance_mm": 50}})))
    assert wide.artwork.width == pytest.approx(180, abs=0.01)


def test_white_on_red_on_white_are_three_films() -> None:
    """A colour that lies below and above another one cannot be one film."""
    document = job(square(40, 0, 100, "#ffffff"), square(30, 0, 100, "#dd0000"), square(20, 0, 100, "#ffffff"))
    layers = [layer for layer in made(document).artwork.layers if layer.key in ("#ffffff", "#dd0000")]
    assert [layer.key for layer in layers] == ["#ffffff", "#dd0000", "#ffffff"]
    assert [round(layer.pieces[0].area) for layer in layers] == [1600, 900, 400]


def test_lettering_over_a_picture_reaches_a_file() -> None:
    document = job(("lettering", {"made": {"text": "Quillhaven", "font": "pacifico", "capital_mm": 10, "colour": "#ffffff"},
                                  "place": {"x_mm": 0, "y_mm": 0}, "part": {"clear_mm": 0.5}}), ("border", {}))
    result = made(document)
    svg = exporter("svg")
    data = svg.write(result.artwork, "Name", PLAIN)
    svg.verify(data, result.artwork, PLAIN)
    assert len(read_svg(data.decode()).layers) == len(result.artwork.layers)
    assert result.missing == {}


def test_what_a_part_named_and_is_gone_is_told() -> None:
    document = job(square(kind="cuts", targets=({"item": "picture-1", "colour": "#123456"},)))
    assert [finding.code for finding in made(document).artwork.findings] == ["part_unbound"]


# The document


def test_changes_of_several_items_are_one() -> None:
    document = job(square(), square(5, 20))
    turned = {"width_mm": 120, "place": {"turn_deg": 5}}
    changed = with_changes(document, {"shape-2": {"place": {"x_mm": 7}}, "picture-1": turned})
    assert changed.item("shape-2").place.x_mm == 7 and changed.item("shape-2").place.y_mm == 0
    assert changed.picture("picture-1").course.picture.width_mm == 120
    assert changed.changed_since(document) == {
        ("items", "shape-2", "place"), ("items", "picture-1", "place"), ("items", "picture-1", "picture", "width_mm")}
    with pytest.raises(SettingsError):
        with_changes(document, {"shape-2": {"source": "x"}})
    with pytest.raises(NotFoundError):
        with_changes(document, {"shape-9": {"hidden": True}})


def test_copies_and_leaving() -> None:
    document = job(square(), ("border", {"made": {"around": ("shape-2",)}}))
    copied = document.with_copies("shape-2", [{"x_mm": 30}, {"x_mm": 60}])
    assert [item.id for item in copied.items] == ["border-3", "picture-1", "shape-2", "shape-4", "shape-5"]
    gone = copied.without_item("shape-2")
    assert gone.item("border-3").made.around == ()  # type: ignore[union-attr]
    full = document.with_copies("shape-2", [{}] * (MOST_ITEMS - 3))
    assert len(full.items) == MOST_ITEMS
    with pytest.raises(SettingsError) as refused:
        with_new(full, NewItem("shape", "One more", {}), NOWHERE)
    assert refused.value.code == "too_many_items"


def test_numbers_of_items_and_layers_come_to_an_end() -> None:
    document = job(square()).with_fields({"minted": MOST_IDS - 1})
    last = document.with_copies("shape-2", [{}])
    with pytest.raises(SettingsError) as refused:
        last.with_copies("shape-2", [{}])
    assert (last.items[-1].id, refused.value.code) == (f"shape-{MOST_IDS}", "ids_used_up")
    anchors = [{"item": "picture-1", "colour": "#ff0000"}]
    with pytest.raises(SettingsError):
        last.with_make_step("layers", {"records": [{"anchors": anchors, "name": "Hull"}]})


def test_words_that_are_too_many_or_none() -> None:
    for text, code in (("a" * 2000, "text_too_long"), ("  ", "text_empty")):
        with pytest.raises(SettingsError) as refused:
            with_new(job(), NewItem("lettering", "Words", {"made": {"text": text}}), NOWHERE)
        assert refused.value.code == code
