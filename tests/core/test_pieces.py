"""Pieces: rules on areas and widths, changes by hand that survive a new trace, bridges; against shapely, SciPy and known
widths."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import example, given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from pydantic import ValidationError
from scipy import ndimage
from scipy.sparse.csgraph import minimum_spanning_tree

from bisectum.core.course import CourseResult, CourseSettings, Source, run_course
from bisectum.core.geom.bezier import bounds, flatten
from bisectum.core.job import JobDocument, new_document
from bisectum.core.make import run_make
from bisectum.core.model.inside import inside
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.thin_places import Thin, thin_places
from bisectum.core.moves import Stand, Stands
from bisectum.core.steps.pieces.bridges import bridged
from bisectum.core.steps.pieces.by_width import joined, thickened, without_thin
from bisectum.core.steps.pieces.middle_lines import bar
from bisectum.core.steps.pieces.settings import PieceChange, PiecesSettings
from bisectum.services.items import NewItem, with_new
from bisectum.services.pieces import PieceRow, piece_list
from tests.support.drawings import circle, painted
from tests.support.letters import glyph
from tests.support.moves import moved_and_back
from tests.support.outlines import circle as ring_about
from tests.support.outlines import map_of, polygon
from tests.support.photos import narrow_places
from tests.support.pieces import cards_with_islands, letters_and_leaves, polygons_of, slots_and_notches, stencils

BODY, DARK, RED, YELLOW = (70, 110, 160), (20, 24, 30), (200, 40, 40), (250, 210, 60)
DIGEST = "d" * 64
FACE = [
    (shapely.box(20, 20, 380, 280).difference(circle(330, 230, 14)), BODY),
    (circle(120, 120, 40), DARK), (circle(280, 120, 40), DARK),
    (circle(120, 120, 5), YELLOW), (circle(280, 120, 5), YELLOW), (shapely.box(150, 220, 250, 232), RED),
    (circle(60, 60, 4), RED), (circle(90, 250, 3), RED), (circle(340, 60, 2.5), RED),
]
CACHE: dict[str, Any] = {}


def course(shapes: list[Any] | None = None, name: str = "face", **steps: Any) -> CourseResult:
    """The face at a width of 100 mm, or another drawing."""
    source = Source(painted(shapes or FACE, 400, 300), 0.25, name)
    first = {"picture": {"width_mm": 100.0}, "background": {"enclosed": "all"}}
    return run_course(source, CourseSettings.model_validate(first | steps), CACHE)


def rows_of(result: CourseResult, colour: str | None = None) -> list[PieceRow]:
    """What is there, of a colour, the smallest first."""
    rows = [row for row in piece_list(result).rows if not row.reason and (colour is None or row.colour == colour)]
    return sorted(rows, key=lambda row: row.area)


def key_of(result: CourseResult, rgb: tuple[int, int, int]) -> str:
    colours = result.pieces.planar.palette.colours
    return min(colours, key=lambda own: sum(abs(a - b) for a, b in zip(own.rgb, rgb, strict=True))).key


def change(row: PieceRow, kind: str, **fields: Any) -> dict[str, Any]:
    return {"kind": kind, "x": row.at[0], "y": row.at[1], "area": row.area, "colour": row.colour or None, **fields}


def area(result: CourseResult, colour: str) -> float:
    return sum(row.area_mm2 for row in rows_of(result, colour))


def bits(segments: NDArray[np.float64]) -> set[bytes]:
    return {own.tobytes() for own in segments} | {own[::-1].tobytes() for own in segments}


# A map as a net


def test_the_face_at_a_place_is_the_one_that_holds_it() -> None:
    planar = course().planar_map
    net = net_of(planar)
    net.check()
    rings: dict[int, list[shapely.Polygon]] = {}
    for face, loop in planar.loops():
        outline = np.concatenate([planar.walk(half)[0] for half in loop])
        rings.setdefault(face, []).append(shapely.Polygon(flatten(outline, 1e-3)))
    places = np.random.default_rng(5).uniform(0, (planar.width, planar.height), (400, 2))
    for place, face in zip(places, faces_at(net, places).tolist(), strict=True):
        held = sum(ring.contains(shapely.Point(place)) for ring in rings[face - 1])
        assert face == 0 or held % 2 == 1


# Rules on areas


def test_small_pieces_and_windows_go_and_all_other_lines_stay_bit_for_bit() -> None:
    everything = course(pieces={"smallest_mm2": 0, "smallest_window_mm2": 0})
    assert not everything.pieces.gone and len(rows_of(everything, "")) == 1
    result = course(pieces={"smallest_mm2": 5, "smallest_window_mm2": 50})
    reasons = sorted(one.reason for one in result.pieces.gone)
    assert reasons == ["small", "small", "small", "small_window"]
    assert all(row.area_mm2 >= 5 for row in rows_of(result) if not row.kept)
    assert bits(result.pieces.planar.segments) <= bits(everything.planar_map.segments)
    body = key_of(result, BODY)
    assert area(result, body) == pytest.approx(area(everything, body) + sum(one.area for one in result.pieces.gone), rel=1e-6)
    result.pieces.check()


def test_what_goes_leaves_an_opening_if_asked_unless_that_were_too_small_a_window() -> None:
    assert len(rows_of(course(pieces={"smallest_mm2": 5, "smallest_window_mm2": 0, "fill": "open"}), "")) == 4
    assert len(rows_of(course(pieces={"smallest_mm2": 5, "smallest_window_mm2": 5, "fill": "open"}), "")) == 1


def test_small_parts_with_a_colour_of_their_own_stay_and_are_named() -> None:
    kept = course(pieces={"smallest_mm2": 12})
    assert len(rows_of(kept, key_of(kept, YELLOW))) == 2 and len(kept.pieces.kept) == 2
    assert next(one for one in kept.pieces.findings if one.code == "small_kept").details["count"] == 2
    plain = course(pieces={"smallest_mm2": 12, "spare_telling": False})
    assert not rows_of(plain, key_of(plain, YELLOW))


def test_a_rule_that_would_take_everything_leaves_the_largest_and_says_so() -> None:
    small = [(circle(100, 100, 20), RED), (circle(250, 150, 30), DARK)]
    result = course(small, "two", picture={"width_mm": 20.0}, pieces={"smallest_mm2": 400})
    assert len(rows_of(result)) == 1 and "rule_would_take_all" in [one.code for one in result.pieces.findings]


def test_the_width_is_that_of_what_stays() -> None:
    """A speck far to the left goes, so the rest is as wide as was asked."""
    shapes = [(shapely.box(200, 50, 380, 250), BODY), (circle(12, 150, 3), BODY)]
    result = course(shapes, "far", pieces={"smallest_mm2": 4})
    box = result.pieces.box
    assert box is not None and (box[2] - box[0]) * result.pieces.scale == pytest.approx(100.0)
    assert len(result.pieces.gone) == 1


def test_only_the_largest_of_each_colour() -> None:
    result = course(pieces={"keep": "largest"})
    counts = {row.colour: sum(own.colour == row.colour for own in rows_of(result)) for row in rows_of(result) if row.colour}
    assert set(counts.values()) == {1}


# Rules on widths


def narrow(planar: PlanarMap, width: float) -> list[Thin]:
    """Thin parts of pieces that are no tips."""
    return [one for one in thin_places(planar, np.append(planar.face_labels > 0, False), width) if one.kind != "tip"]


def test_tips_and_corners_are_not_thin() -> None:
    for maps in letters_and_leaves().values():
        for planar, width in maps[::2]:
            assert not narrow(planar, width)


@given(st.floats(0.15, 2.0), st.floats(0.15, 2.0))
@example(0.203125, 1.75)  # its two lines are drawn into one row of the first look
@settings(max_examples=20, deadline=None)
def test_a_neck_is_found_if_it_is_narrower_as_a_distance_transform_says(neck: float, width: float) -> None:
    """Against SciPy's exact Euclidean distance transform at 50 pixels a mm."""
    if abs(neck - width) < 0.05:
        return
    planar = dumbbell(neck)
    found = narrow(planar, width)
    px = 0.02
    y, x = np.mgrid[0:16:px, 0:34:px]
    whole = shapely.union_all(polygons_of(planar))
    deep = ndimage.distance_transform_edt(shapely.contains_xy(whole, x, y)) * px
    parts = ndimage.label(deep > width / 2)[1]
    assert (len(found) == 1) == (parts == 2)
    if found:
        assert found[0].kind == "neck" and found[0].width == pytest.approx(neck, rel=0.1)
        found[0].check()


def dumbbell(neck: float) -> PlanarMap:
    return map_of(ring_about(8, 8, 5), ring_about(26, 8, 5),
                  polygon([(8, 8 - neck / 2), (26, 8 - neck / 2), (26, 8 + neck / 2), (8, 8 + neck / 2)]))


def test_thin_parts_go_and_none_is_left_by_another_way_of_looking() -> None:
    for planar in stencils():
        done = without_thin(planar, 0.8, "around", np.empty((0, 2)))
        done.planar.check()
        assert narrow_places(shapely.MultiPolygon(polygons_of(done.planar)), 0.78) == 0
        assert all(one.reason == "thin" for one in done.gone) and len(done.places) == len(done.gone)


def test_a_thin_part_that_was_given_back_stays() -> None:
    planar = dumbbell(0.4)
    gone = without_thin(planar, 0.8, "around", np.empty((0, 2))).gone
    kept = without_thin(planar, 0.8, "around", np.array([one.at for one in gone]))
    assert len(gone) == 1 and kept.planar is planar


@pytest.mark.parametrize("width", [0.8, 1.2])
def test_thin_parts_become_as_wide_as_asked_and_nothing_bulges(width: float) -> None:
    for planar in stencils():
        done = thickened(planar, width)
        done.planar.check()
        before, after = (shapely.union_all(polygons_of(own)) for own in (planar, done.planar))
        assert not narrow(done.planar, width)
        assert after.difference(before.buffer(width / 2 + 0.04)).area < 1e-6
        assert before.difference(after).area < 1e-2  # nothing is taken away
        assert done.left == 0


def test_gaps_close_and_notches_stay() -> None:
    for planar, gap, slot in slots_and_notches():
        after = joined(planar, gap)
        after.planar.check()
        assert (len(polygons_of(after.planar)) == 1) if slot else after.planar is planar
        assert len(joined(planar, 0.1).places) == 0


def test_bridges_are_the_least_spanning_tree() -> None:
    """Against SciPy's, on distances by shapely; a level or upright bar may be 15 % longer."""
    for planar, width in cards_with_islands()[::2]:
        shapes = polygons_of(planar)
        done = bridged(planar, width)
        done.planar.check()
        assert len(polygons_of(done.planar)) == 1 and done.islands == len(shapes) and len(done.ends) == len(shapes) - 1
        away = np.array([[a.distance(b) for b in shapes] for a in shapes])
        bars = np.hypot(*(done.ends[:, 1] - done.ends[:, 0]).T).sum()
        least = minimum_spanning_tree(away).sum()
        assert least * (1 - 1e-3) <= bars <= 1.15 * least
        assert narrow_places(shapely.MultiPolygon(polygons_of(done.planar)), 0.9 * width) == 0
    alone = bridged(map_of(ring_about(5, 5, 3)), 1.0)
    assert alone.alone and not len(alone.ends)


def test_rules_on_widths_only_point_at_places_while_the_hand_moves() -> None:
    source = Source(painted([(shapely.box(20, 40, 120, 240), BODY), (shapely.box(260, 40, 380, 240), BODY),
                             (shapely.box(120, 138, 260, 141), BODY)], 400, 300), 0.25, "neck")
    steps = {"picture": {"width_mm": 100.0}, "pieces": {"thinnest_mm": 1.5}}
    hasty = run_course(source, CourseSettings.model_validate(steps), {}, most_px=120_000).pieces
    full = run_course(source, CourseSettings.model_validate(steps), {}).pieces
    assert len(hasty.marks) == 1 and not hasty.gone
    assert [one.reason for one in full.gone] == ["thin"] and len(polygons_of(full.planar)) == 2


# By hand


def test_a_dropped_piece_is_filled_or_left_open_and_comes_back() -> None:
    plain = course()
    mouth = rows_of(plain, key_of(plain, RED))[-1]
    body = key_of(plain, BODY)
    filled = course(pieces={"changes": [change(mouth, "drop")]})
    opened = course(pieces={"changes": [change(mouth, "drop", fill="open")]})
    assert area(filled, body) == pytest.approx(area(plain, body) + mouth.area_mm2)
    assert area(opened, body) == pytest.approx(area(plain, body)) and len(rows_of(opened, "")) == 2
    assert [(one.reason, one.change) for one in filled.pieces.gone if one.change >= 0] == [("dropped", 0)]
    window = rows_of(plain, "")[0]
    assert not rows_of(course(pieces={"changes": [change(window, "drop")]}), "")


def test_two_pieces_of_one_shape_are_told_apart_in_what_is_kept() -> None:
    twins = [(shapely.box(20, 20, 380, 280), BODY), (circle(120, 150, 20), RED), (circle(280, 150, 20), RED)]
    source, cache = Source(painted(twins, 400, 300), 0.25, DIGEST), {}  # type: ignore[var-annotated]
    plain = run_course(source, CourseSettings(), cache)
    middles = []
    for row in rows_of(plain, key_of(plain, RED)):
        steps = CourseSettings.model_validate({"pieces": {"changes": [change(row, "drop")]}})
        layers = run_make({DIGEST: source}, new_document(DIGEST, "", "twins", steps), cache).artwork.layers
        middles.append(float(layers[-1].pieces[0].outline.segments[..., 0].mean()))
    assert abs(middles[0] - middles[1]) > 10


def test_what_a_rule_took_is_given_back() -> None:
    gone = [row for row in piece_list(course(pieces={"smallest_mm2": 5})).rows if row.reason == "small"]
    back = course(pieces={"smallest_mm2": 5, "changes": [change(row, "keep") for row in gone[:2]]})
    assert len(back.pieces.gone) == len(gone) - 2 and not back.pieces.missed


def test_pieces_change_layers() -> None:
    plain = course()
    red, dark = key_of(plain, RED), key_of(plain, DARK)
    mouth = rows_of(plain, red)[-1]
    given = course(pieces={"changes": [change(mouth, "give", into=dark)]})
    assert area(given, dark) == pytest.approx(area(plain, dark) + mouth.area_mm2)
    own = course(pieces={"changes": [change(mouth, "own")]})
    assert area(own, f"{red}-2") == pytest.approx(mouth.area_mm2)
    largest = course(pieces={"smallest_mm2": 0, "changes": [change(mouth, "largest")]})
    assert [row.area_mm2 for row in rows_of(largest, red)] == [pytest.approx(mouth.area_mm2)]


def test_pieces_are_moved_sized_and_evened_out() -> None:
    plain = course()
    red = key_of(plain, RED)
    mouth = rows_of(plain, red)[-1]
    moved = course(pieces={"changes": [change(mouth, "move", dx=0.02, dy=-0.05, scale=1.5)]})
    there = rows_of(moved, red)[-1]
    assert there.area_mm2 == pytest.approx(2.25 * mouth.area_mm2, rel=1e-4)
    grown = course(pieces={"changes": [change(mouth, "grow", amount_mm=0.5)]})
    whole = shapely.box(0, 0, 100 / 3.6, 12 / 3.6)  # the body is 360 px wide
    assert rows_of(grown, red)[-1].area_mm2 == pytest.approx(whole.buffer(0.5).area, rel=0.01)
    shrunk = course(pieces={"changes": [change(mouth, "grow", amount_mm=-0.5)]})
    assert rows_of(shrunk, red)[-1].area_mm2 == pytest.approx(whole.buffer(-0.5).area, rel=0.01)
    smooth = course(pieces={"changes": [change(mouth, "smooth", amount_mm=1.0)]})
    assert rows_of(smooth, red)[-1].area_mm2 == pytest.approx(whole.buffer(-1.0).buffer(1.0).area, rel=0.01)
    for result in (moved, grown, shrunk, smooth):
        result.pieces.check()


def test_a_ringed_word_moves_whole() -> None:
    """Letters of a word, moved by less than a letter: each lands where another one lay."""
    word = [(glyph(character, 36)[0], BODY) for character in "HARBOUR"]
    placed = [(shapely.affinity.translate(shape, 20 + 50 * number - shape.bounds[0], 120 - shape.bounds[1]), colour)
              for number, (shape, colour) in enumerate(word)]
    plain = course(placed, "word", picture={"width_mm": 100.0})
    rows = [row for row in rows_of(plain) if row.colour]
    assert len(rows) == 7
    moved = course(placed, "word", pieces={"changes": [change(rows[0], "move", dx=0.18, dy=0.02, also=held(rows[1:]))]})
    assert not moved.pieces.missed
    before, after = ({round(row.at[0], 4): row.area_mm2 for row in rows_of(one) if row.colour} for one in (plain, moved))
    assert sorted(after.values()) == pytest.approx(sorted(before.values()), rel=1e-6)
    assert sorted(after) == pytest.approx([x + 0.18 for x in sorted(before)], abs=0.02)
    # After other lines it is found again as a whole, or listed as a whole.
    closer = course(placed, "word", lines={"closeness_mm": 0.02}, pieces=moved_so(rows))
    assert not closer.pieces.missed and len([row for row in rows_of(closer) if row.colour]) == 7
    gone = course(placed[1:], "fewer", pieces=moved_so(rows))
    assert gone.pieces.missed == (0,)
    assert sorted(row.area for row in rows_of(gone)) == sorted(row.area for row in rows_of(course(placed[1:], "fewer")))


def held(rows: list[PieceRow]) -> list[dict[str, Any]]:
    return [{"x": row.at[0], "y": row.at[1], "area": row.area, "colour": row.colour or None} for row in rows]


def moved_so(rows: list[PieceRow]) -> dict[str, Any]:
    return {"changes": [change(rows[0], "move", dx=0.18, dy=0.02, also=held(rows[1:]))]}


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10**6))
def test_groups_that_are_moved_and_moved_back_leave_no_trace(seed: int) -> None:
    """Random groups on random maps; what was not touched stays bit for bit."""
    assert moved_and_back(seed) < 1e-9


def test_lines_are_drawn_cut_and_bridged() -> None:
    plain = course()
    red, body = key_of(plain, RED), key_of(plain, BODY)
    bar = {"kind": "bar", "line": [[0.2, 0.65], [0.8, 0.65]], "amount_mm": 2.0, "colour": red}
    drawn = course(pieces={"changes": [bar]})
    assert area(drawn, red) > area(plain, red) + 2.0 * 0.58 * 100
    cut = course(pieces={"changes": [{"kind": "cut", "line": [[0.5, 0.0], [0.5, 0.75]], "amount_mm": 1.0}]})
    assert len([row for row in rows_of(cut, body) if row.area_mm2 > 500]) == 2
    joined_again = course(pieces={"changes": [
        {"kind": "cut", "line": [[0.5, 0.0], [0.5, 0.75]], "amount_mm": 1.0},
        {"kind": "bridge", "line": [[0.45, 0.2], [0.55, 0.2]], "amount_mm": 2.0, "colour": body}]})
    assert len([row for row in rows_of(joined_again, body) if row.area_mm2 > 500]) == 1
    one = {"kind": "cut", "line": [[0.3, 0.2], [0.3, 0.6]], "amount_mm": 1.0, "colour": key_of(plain, DARK)}
    of_dark = course(pieces={"changes": [one]})
    assert area(of_dark, body) == pytest.approx(area(plain, body))
    assert area(of_dark, key_of(plain, DARK)) < area(plain, key_of(plain, DARK)) - 5
    for result in (drawn, cut, joined_again, of_dark):
        result.pieces.check()


def test_a_line_with_any_number_of_bends_is_drawn() -> None:
    """A zigzag with 700 corners has the area of its strokes, by shapely."""
    zigzag = np.stack([np.arange(700) * 2.0, np.tile([0.0, 6.0], 350)], axis=1)
    over = map_of(bar(zigzag, 1.0, 0.02)[0])
    assert sum(part.area for part in polygons_of(over)) == pytest.approx(shapely.LineString(zigzag).buffer(0.5).area, rel=0.01)


def test_the_last_piece_is_not_dropped() -> None:
    one = [(shapely.box(50, 50, 300, 200), BODY)]
    only = rows_of(course(one, "one"))[0]
    assert course(one, "one", pieces={"changes": [change(only, "drop")]}).pieces.missed == (0,)


@pytest.mark.parametrize("steps", [
    {"lines": {"closeness_mm": 0.3}}, {"picture": {"width_mm": 55.0}}, {"colours": {"count": 3}}, {"picture": {"turn": 90}},
    {"picture": {"crop": {"x": 0.02, "y": 0.02, "width": 0.96, "height": 0.7}, "width_mm": 100.0}},
])
def test_changes_by_hand_hold_after_a_new_trace(steps: dict[str, Any]) -> None:
    plain = course()
    rows = [rows_of(plain, key_of(plain, RED))[-1], rows_of(plain, key_of(plain, DARK))[-1], rows_of(plain, "")[0]]
    changed = course(**steps, pieces={"changes": [change(row, "drop") for row in rows]})
    assert not changed.pieces.missed
    assert [one.change for one in changed.pieces.gone if one.change >= 0] == [0, 1, 2]


def test_a_change_that_finds_its_piece_no_more_is_listed_and_takes_nothing_else() -> None:
    plain = course()
    speck = rows_of(plain, key_of(plain, RED))[0]
    lost = course(pieces={"smallest_mm2": 30, "changes": [change(speck, "drop"), change(speck, "give", into="#00ff00")]})
    assert lost.pieces.missed == (1,) and not [one for one in lost.pieces.gone if one.change >= 0]
    assert "piece_changes_lost" in [one.code for one in lost.pieces.findings]


def test_what_might_go_is_suggested_and_stays() -> None:
    frame = shapely.box(10, 10, 390, 290).difference(shapely.box(22, 22, 378, 278))
    shapes = [(frame, DARK), (shapely.box(60, 60, 200, 200), BODY), (shapely.box(200, 60, 340, 200), YELLOW),
              *((circle(200, 70 + 18 * k, 3), RED) for k in range(7))]
    result = course(shapes, "framed", pieces={"smallest_mm2": 0})
    found = {one.kind: len(one.places) for one in result.pieces.suggestions}
    assert found == {"frame": 1, "specks": 7} and not result.pieces.gone


def test_a_narrowest_place_and_a_widest() -> None:
    look = inside(dumbbell(1.0).segments)
    assert look.least == pytest.approx(1.0, abs=0.5) and look.widest == pytest.approx(10, abs=0.8)
    x, y = look.at
    assert min(np.hypot(x - 8, y - 8), np.hypot(x - 26, y - 8)) < 0.6


# In a make


def lifted(**fields: Any) -> JobDocument:
    plain = course()
    eye = [row for row in rows_of(plain) if row.colour in (key_of(plain, DARK), key_of(plain, YELLOW)) and row.at[0] < 0.5]
    document = new_document(DIGEST, "face.png", "Face", CourseSettings.model_validate({"picture": {"width_mm": 100.0}}))
    new = NewItem("lifted", "An eye", {"made": {"source": "picture-1"}, "place": {"x_mm": 30.0, "y_mm": 40.0}, **fields},
                  lifts=[change(row, "lift") for row in eye])
    size = (100.0, 72.0)
    return with_new(document, new, Stands({"picture-1": Stand((0.0, 0.0, *size), size)}, size, (0.0, 0.0)))


def test_lifted_pieces_are_an_item_of_their_own() -> None:
    source = Source(painted(FACE, 400, 300), 0.25, DIGEST)
    document = lifted(place={"x_mm": 30.0, "y_mm": 140.0, "turn_deg": 30})
    result = run_make({DIGEST: source}, document, CACHE)
    result.arrangement.check()
    result.artwork.check()
    frame = result.arrangement.frame("lifted-2")
    assert frame.size[0] == pytest.approx(80 / 3.6, rel=0.02)
    members = {own.colour.key for own in result.arrangement.members if own.item == "lifted-2" and own.filled > 0}
    assert members == {key_of(course(), DARK), key_of(course(), YELLOW)}
    reasons = [one.reason for one in result.courses["picture-1"].pieces.gone]
    assert reasons.count("lifted") == 2
    left = document.without_item("picture-1") if len(document.items) > 2 else document.without_item("lifted-2")
    assert [item.id for item in left.items] == ["picture-1"]


@pytest.mark.parametrize("wrong", [
    {"kind": "give"}, {"kind": "cut", "line": [[0, 0]], "amount_mm": 1},
    {"kind": "bar", "line": [[0, 0], [1, 1]], "amount_mm": 1},
    {"kind": "smooth", "amount_mm": 0}, {"kind": "lift"}, {"kind": "drop", "x": 1e9}, {"kind": "eat"},
])
def test_changes_that_say_too_little_are_refused(wrong: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        PieceChange.model_validate(wrong)
    with pytest.raises(ValidationError):
        PiecesSettings(smallest_mm2=-1)


def test_a_bar_that_comes_back_the_way_it_went_is_as_long_as_it_went_out() -> None:
    out = np.stack([np.linspace(0, 10, 21), np.zeros(21)], axis=1)
    segments, _ = bar(np.concatenate([out, out[::-1]]), 1.0, 0.02)
    left, top, right, bottom = bounds(segments)
    assert (left, right) == pytest.approx((-0.5, 10.5), abs=0.1) and (top, bottom) == pytest.approx((-0.5, 0.5), abs=0.05)
