"""The cut check: narrow places on shapes whose width is known, limits, what mends what, and what is ignored.

Oracles: shapely's negative buffers for necks, its booleans for film on film.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from itertools import combinations
from typing import Any

import numpy as np
import pytest
import shapely
from shapely import affinity

from bisectum.core.check import CutCheck, check_make
from bisectum.core.course import CourseSettings, Source
from bisectum.core.errors import InputError, SettingsError
from bisectum.core.geom.bezier import line_segments
from bisectum.core.job import JobDocument, new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.stroke import Stroke
from bisectum.core.steps.check.narrow import narrow_places
from bisectum.core.steps.check.settings import FROM_MEMORY, CheckSettings
from bisectum.core.steps.check.step import check_artwork
from bisectum.core.steps.sheets.step import Desk
from bisectum.services.bench import Bench, Edits, Repairing
from bisectum.services.check import check_file
from bisectum.services.fonts import shipped_files
from tests.support.asserts import layer_polygons
from tests.support.drawings import INK, circle, painted, turned_square
from tests.support.mats import artwork, shape
from tests.support.narrow import Made, decoys, falls_apart, necked, smooth_ring
from tests.support.strangers import shipped

RED, GOLD = (200, 60, 40), (240, 200, 60)
ONE = "1" * 64


# Narrow places

@pytest.mark.parametrize("limit", [1.6, 2.5])
def test_every_narrow_place_is_found_with_its_width(limit: float) -> None:
    rng = np.random.default_rng(20)
    for made in necked(rng):
        found = narrow_places(made.rings, limit)
        assert found, made.name
        assert abs(found[0].width - made.width) < 0.03, (made.name, found[0].width)
        assert made.shape.buffer(1e-6).covers(shapely.Point(found[0].at))


def test_a_neck_is_as_wide_as_what_parts_the_shape() -> None:
    rng = np.random.default_rng(21)
    for made in necked(rng):
        if made.name.startswith(("neck", "waist")):
            width = narrow_places(made.rings, 2.0)[0].width
            assert falls_apart(made.shape, width + 0.02) and not falls_apart(made.shape, width - 0.02), made.name


@pytest.mark.parametrize("limit", [0.8, 2.0])
def test_tips_corners_and_stars_are_no_narrow_places(limit: float) -> None:
    rng = np.random.default_rng(22)
    told = [(made.name, one.kind, one.width) for made in decoys(rng) for one in narrow_places(made.rings, limit)]
    assert not told


def test_what_is_wide_enough_is_not_told_and_curves_count_as_they_are() -> None:
    assert not narrow_places(smooth_ring(8, 1.0), 0.98)
    place, = narrow_places(smooth_ring(8, 1.0), 1.02)
    assert place.width == pytest.approx(1.0, abs=0.002) and place.length == pytest.approx(2 * np.pi * 7.5, rel=0.08)
    assert not narrow_places([], 1.0)


def test_gaps_are_measured_like_parts() -> None:
    one, other = shapely.box(0, 0, 10, 10), shapely.box(10.4, 2, 20, 8)
    rings = [ring for box in (one, other) for ring in Made("", box, None).rings]
    gap, = narrow_places(rings, 0.6, inside=False)
    assert gap.width == pytest.approx(0.4, abs=1e-6) and gap.length == pytest.approx(6, abs=0.7) and 10 < gap.at[0] < 10.4
    assert not narrow_places(rings, 0.39, inside=False)


# Findings

def codes(make: Artwork, kind: Any = "adhesive vinyl", **settings: Any) -> list[str]:
    return [flaw.finding.code for flaw in check_artwork(make, lambda _: kind, CheckSettings(**settings))]


def test_limits_are_those_of_the_material_until_a_person_changes_them() -> None:
    make = artwork(shape("frame", 60, 40, (40, 30), band_mm=1.2), size=(80, 60))
    assert "narrow_neck" not in codes(make) and "narrow_neck" in codes(make, "card")
    own = next(limits for limits in FROM_MEMORY if limits.kind == "card").with_fields({"width_mm": 1.1})
    assert "narrow_neck" not in codes(make, "card", limits=(own,))
    with pytest.raises(ValueError, match="once"):
        CheckSettings(limits=(own, own))
    # From memory, common practice, no source: 0.8 mm in adhesive vinyl, 1 mm in heat-transfer vinyl, 2 mm in card, 1 mm².
    assert [limits.width_mm for limits in FROM_MEMORY if limits.kind != "flock"] == [0.8, 1, 2, 1]


def test_small_pieces_windows_and_islands() -> None:
    dots = (*shape("ellipse", 0.8, 0.8, (10, 10)), *shape("ellipse", 20, 20, (40, 30)))
    found = check_artwork(artwork(dots, size=(80, 60)), lambda _: "adhesive vinyl", CheckSettings())
    small, = (flaw.finding for flaw in found if flaw.finding.code == "small_piece")
    assert small.value == pytest.approx(np.pi * 0.16, abs=2e-3) and small.at == pytest.approx((10, 10), abs=0.1)
    within = artwork((*shape("frame", 60, 40, (40, 30), band_mm=6), *shape("ellipse", 10, 10, (40, 30))), size=(80, 60))
    assert "island" in codes(within, "card") and "island" not in codes(within)


def test_folds_across_cuts_and_lines_that_part_nothing() -> None:
    piece = artwork(shape("rectangle", 40, 30, (40, 30)), size=(80, 60))

    def with_line(role: Any, *points: tuple[float, float]) -> Artwork:
        stroke = Stroke(line_segments(np.array(points, float)), np.ones(len(points) - 1, bool), role, role, 0.3, points[0])
        return replace(piece, layers=(replace(piece.layers[0], strokes=(stroke,)),))

    assert "fold_across_cut" in codes(with_line("score", (10, 30), (50, 30)))
    assert "fold_across_cut" not in codes(with_line("score", (20.1, 30), (59.9, 30)))
    assert "open_line" in codes(with_line("cut", (25, 30), (50, 30)))


def test_film_on_film_is_what_lies_twice() -> None:
    below, above = shape("rectangle", 40, 30, (40, 30)), shape("ellipse", 20, 20, (58, 30))
    make = artwork(below, above, size=(80, 60))
    one, other = (layer_polygons(layer) for layer in make.layers)
    found = [flaw.finding for flaw in check_artwork(make, lambda _: "heat-transfer vinyl", CheckSettings())]
    told = next(finding for finding in found if finding.code == "film_on_film")
    assert told.value == pytest.approx(one.intersection(other).area, rel=1e-3)
    assert one.intersection(other).contains(shapely.Point(told.at))
    assert "film_on_film" not in codes(make)


# Whole jobs

def drawing() -> Any:
    """A dumbbell, a speck, a disc with a tiny window, and two discs with a narrow gap between them."""
    speck = circle(20, 150, 4)
    bar = [(60, 76), (140, 76), (140, 79), (60, 79)]
    return painted([(circle(50, 77, 30), INK), (circle(150, 77, 30), INK), (shapely.Polygon(bar), INK), (speck, RED),
                    (turned_square(150, 77, 26, 0), GOLD)], 200, 180)


def checked(document: JobDocument, rgba: Any, cache: dict[str, Any]) -> tuple[MakeResult, CutCheck]:
    result = run_make({ONE: Source(rgba, 0.2, ONE)}, document, cache)
    make = document.make
    return result, check_make(document, result, Desk(make.sheets, make.layers.material, None, {}))  # type: ignore[arg-type]


def job(width: float = 60.0, **make: Any) -> JobDocument:
    document = new_document(ONE, "a.png", "Badge", CourseSettings.model_validate({"pieces": {"smallest_mm2": 0}}))
    document = document.with_step("picture-1", "picture", {"width_mm": width})
    for step, settings in make.items():
        document = document.with_make_step(step, settings)  # type: ignore[arg-type]
    return document


def repaired(document: JobDocument, check: CutCheck, code: str) -> JobDocument:
    edits = [edit for one in check.findings if one.finding.code == code for edit in one.repairs[0].edits]
    assert edits, code
    return Bench.repaired(document, [Repairing(edit.item, edit.step, Edits(edit.settings, edit.add)) for edit in edits])


@pytest.mark.parametrize(("code", "width", "make"), [
    ("narrow_neck", 40.0, {}), ("small_piece", 20.0, {}),
    ("film_on_film", 60.0, {"layers": {"build": "stacked", "material": "heat-transfer vinyl"}}),
    ("not_mirrored", 60.0, {"layers": {"material": "flock"}, "sheets": {"mirror": "none"}}),
    ("larger_than_mat", 400.0, {}),
])
def test_what_mends_a_finding_mends_it(code: str, width: float, make: dict[str, Any]) -> None:
    cache: dict[str, Any] = {}
    document = job(width, **make)
    before, check = checked(document, drawing(), cache)
    assert code in [one.finding.code for one in check.findings] and check.to_look_at > 0
    mended, again = checked(repaired(document, check, code), drawing(), cache)
    mended.artwork.check()
    assert code not in [one.finding.code for one in again.findings]
    if code in ("narrow_neck", "small_piece"):
        assert mended.artwork.piece_count <= before.artwork.piece_count


def test_a_finding_that_is_ignored_stays_so_at_another_size_and_is_heard_of_elsewhere() -> None:
    cache: dict[str, Any] = {}
    _, check = checked(job(30.0), drawing(), cache)
    neck = next(one for one in check.findings if one.finding.code == "narrow_neck")
    ignored = {"check": {"ignored": (neck.known,)}}
    for width in (30.0, 33.0):
        _, again = checked(job(width, **ignored), drawing(), cache)
        same = [one for one in again.findings if one.finding.code == "narrow_neck"]
        assert [one.ignored for one in same] == [True] and again.to_look_at == sum(
            one.finding.severity != "note" for one in again.findings) - 1
    elsewhere = neck.known.with_fields({"x": neck.known.x + 0.4})
    _, heard = checked(job(30.0, check={"ignored": (elsewhere,)}), drawing(), cache)
    assert not any(one.ignored for one in heard.findings)


def test_too_much_work_is_told_with_ways_out() -> None:
    document = job(60.0, check={"evening_min": 10})
    _, calm = checked(document, drawing(), {})
    assert "much_work" not in [one.finding.code for one in calm.findings]
    rng = np.random.default_rng(4)
    dots = painted([(circle(*rng.uniform(10, 390, 2), 3), INK) for _ in range(500)], 400, 400)
    _, much = checked(document, dots, {})
    told = next(one for one in much.findings if one.finding.code == "much_work")
    assert [repair.code for repair in told.repairs] == ["larger_pieces"] and told.finding.details["pieces"] > 250


# Files of others

SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="60mm" viewBox="0 0 100 60">{}</svg>'


@pytest.mark.parametrize(("body", "code", "at"), [
    ('<path d="M0 0L20 20L20 0L0 20Z" fill="#f00"/>', "lines_cross", (10, 10)),
    ('<rect width="30" height="20" fill="#f00"/><rect width="30" height="20" fill="#f00"/>', "line_twice", None),
    ('<path d="M0 0H40V20H60V0H100V40H60V20.5H40V40H0Z" fill="#00f"/>', "narrow_neck", (50, 20.25)),
    ('<path d="M0 0H40V20" fill="none" stroke="#00f"/>', "open_line", (0, 0)),
])
def test_a_plain_svg_is_checked_like_any_other(body: str, code: str, at: tuple[float, float] | None) -> None:
    report = check_file(SVG.format(body).encode(), "adhesive vinyl")
    found = next(row for row in report["findings"] if row["code"] == code)
    if at is not None:
        assert abs(found["at_mm"][1] - at[1]) < 0.2 and (code == "narrow_neck" or abs(found["at_mm"][0] - at[0]) < 0.2)


@pytest.mark.parametrize(("body", "told"), [
    ('<path d="M30 5L42 42L10 19L50 19L18 42Z"/>', {"lines_cross": 5}),
    ('<circle cx="30" cy="30" r="12"/>' * 3, {"line_twice": 2}),
    ('<rect x="5" y="5" width="30" height="20"/><rect x="5.01" y="5.01" width="30" height="20"/>', {"line_twice": 1}),
    ('<rect x="5" y="5" width="30" height="20"/><rect x="35" y="5" width="30" height="20"/>', {"line_twice": 1}),
    ('<rect x="5" y="5" width="40" height="40"/><rect x="5" y="5" width="20" height="20"/>', {"line_twice": 1}),
    ('<circle cx="30" cy="30" r="12"/><circle cx="45" cy="30" r="12"/>', {"lines_cross": 2}),
    ('<path d="M10 10L60 12L60 11L10 13Z"/>', {"lines_cross": 1}),
    ('<path d="M10 10C90 50 10 50 60 10L60 5L10 5Z"/>', {"lines_cross": 1}),
    ('<path d="M0 0H40V20H60V0H100V40H60V20.5H40V40H0Z"/><path d="M80 30H99V59H80Z"/>', {"lines_cross": 2, "narrow_neck": 1}),
    ('<circle cx="95" cy="30" r="9"/><rect x="-3" y="40" width="20" height="25"/><rect x="9" y="9" width="9" height="9"/>',
     {"off_page": 2}),
])
def test_where_lines_meet_or_leave_the_page_that_alone_is_told(body: str, told: dict[str, int]) -> None:
    report = check_file(SVG.format(f'<g fill="#f00">{body}</g>').encode(), "adhesive vinyl")
    assert Counter(row["code"] for row in report["findings"]) == told


@pytest.mark.parametrize("seed", range(12))
def test_every_crossing_of_shapes_thrown_down_is_told_and_nothing_beside_it(seed: int) -> None:
    """Oracle: shapely's intersections of the outlines. What else is told is a corner near an edge."""
    rng = np.random.default_rng(seed)
    boxes = [affinity.rotate(shapely.box(0, 0, *rng.uniform(15, 35, 2)), rng.uniform(0, 90)) for _ in range(3)]
    thrown = [affinity.translate(box, *rng.uniform((5, 5), (60, 30))) for box in boxes]
    met = [one.exterior.intersection(other.exterior) for one, other in combinations(thrown, 2)]
    wanted = shapely.union_all([places for places in met if not places.is_empty])
    leave = sum(not shapely.box(0, 0, 100, 60).covers(one) for one in thrown)
    paths = "".join(f'<path d="M{"L".join(f"{x:.6f},{y:.6f}" for x, y in one.exterior.coords[:-1])}Z"/>' for one in thrown)
    report = check_file(SVG.format(f'<g fill="#f00">{paths}</g>').encode(), "adhesive vinyl")
    rows = report["findings"]
    crossings = shapely.MultiPoint([row["at_mm"] for row in rows if row["code"] == "lines_cross"])
    assert shapely.get_num_geometries(crossings) == shapely.get_num_geometries(wanted)
    assert crossings.is_empty or crossings.hausdorff_distance(wanted) < 0.01
    assert sum(row["code"] == "off_page" for row in rows) == leave
    for row in rows:
        assert row["code"] in ("lines_cross", "off_page") or wanted.distance(shapely.Point(row["at_mm"])) > row["value"]


def test_a_page_that_is_larger_than_its_mat_is_told() -> None:
    page = SVG.format('<circle cx="30" cy="30" r="12" fill="#f00"/>').replace('"100mm"', '"340mm"').replace('0 0 100', '0 0 340')
    found = check_file(page.encode(), "card", "12x12")["findings"]
    assert [(row["code"], row["value"]) for row in found] == [("larger_than_mat", 340.0)]
    assert check_file(page.encode(), "card")["size_mm"] == {"width": 340.0, "height": 60.0}
    assert check_file(page.encode(), "card", "12x24")["findings"] == []
    with pytest.raises(SettingsError):
        check_file(page.encode(), "card", "large")


def test_a_sound_file_has_nothing_and_no_file_is_told() -> None:
    body = '<g fill-rule="evenodd"><path fill="#f00" d="M0 0H40V40H0ZM10 10V30H30V10Z"/></g>'
    report = check_file(SVG.format(body).encode(), "adhesive vinyl")
    assert report["findings"] == [] and report["work"]["pieces"] == 1 and report["work"]["windows"] == 1
    assert report["work"]["cut_mm"] == pytest.approx(240)
    with pytest.raises(InputError):
        check_file(SVG.format("").encode(), "adhesive vinyl")


def one_edit(document: JobDocument, check: CutCheck, code: str, repair: str) -> JobDocument:
    """With the repair of the first finding of a kind that has it."""
    edits = next(own.edits for one in check.findings if one.finding.code == code for own in one.repairs if own.code == repair)
    return Bench.repaired(document, [Repairing(edit.item, edit.step, Edits(edit.settings, edit.add)) for edit in edits])


def test_layers_that_look_alike_are_cut_as_one() -> None:
    rgba = painted([(circle(50, 60, 40), (200, 60, 40)), (circle(150, 60, 40), (208, 64, 44))], 200, 120)
    document = job(80.0).with_step("picture-1", "colours", {"pins": [{"colour": "#c83c28"}, {"colour": "#d0402c"}]})
    cache: dict[str, Any] = {}
    before, check = checked(document, rgba, cache)
    assert len(before.artwork.layers) == 2
    after, again = checked(one_edit(document, check, "alike_layers", "join_layers"), rgba, cache)
    assert len(after.artwork.layers) == 1 and "alike_layers" not in [one.finding.code for one in again.findings]


def test_an_island_of_card_is_tied_and_a_window_closed() -> None:
    """A ring with a disc in it; and a plate with a hole of 0.5 mm²."""
    ring = painted([(circle(60, 60, 50), INK), (circle(60, 60, 35), (255, 255, 255)), (circle(60, 60, 18), INK)], 120, 120)
    document = job(60.0, layers={"material": "card"}).with_step("picture-1", "background", {"enclosed": "all"})
    cache: dict[str, Any] = {}
    before, check = checked(document, ring, cache)
    assert before.artwork.piece_count == 2
    tied, again = checked(one_edit(document, check, "island", "bridge"), ring, cache)
    assert tied.artwork.piece_count == 1 and "island" not in [one.finding.code for one in again.findings]
    plate = painted([(circle(60, 60, 50), INK), (circle(60, 60, 4), (255, 255, 255))], 120, 120)
    document = job(10.0).with_step("picture-1", "background", {"enclosed": "all"})
    cache = {}
    _, check = checked(document, plate, cache)
    closed, again = checked(one_edit(document, check, "small_window", "close_window"), plate, cache)
    assert not closed.artwork.layers[0].pieces[0].windows and "small_window" not in [one.finding.code for one in again.findings]


def test_words_that_read_backwards_are_turned_round() -> None:
    document = job(60.0).with_made("lettering", "Words", {
        "made": {"text": "Bun", "font": "nunito", "capital_mm": 12}, "place": {"x_mm": 0, "y_mm": 60, "mirrored": True}})
    fonts = {"nunito": shipped_files("nunito")}

    def look(wanted: JobDocument) -> CutCheck:
        result = run_make({ONE: Source(drawing(), 0.2, ONE)}, wanted, {}, fonts=fonts)
        return check_make(wanted, result, Desk(wanted.make.sheets, "adhesive vinyl", None, {}))  # type: ignore[arg-type]

    check = look(document)
    again = look(one_edit(document, check, "reads_backwards", "turn_lettering"))
    assert "reads_backwards" not in [one.finding.code for one in again.findings]


def test_much_work_of_a_photograph_is_less_by_every_button() -> None:
    rgba = np.ascontiguousarray(shipped("coffee")[::2, ::2])
    course = {"treatment": "lightness", "count": 6}
    document = job(300.0, check={"evening_min": 10}).with_step("picture-1", "colours", course)
    cache: dict[str, Any] = {}
    _, check = checked(document, rgba, cache)
    for repair in ("fewer_colours", "larger_pieces", "one_dark"):
        _, again = checked(one_edit(document, check, "much_work", repair), rgba, cache)
        assert again.work.pieces < check.work.pieces, repair
