"""Sheets: in register, close together, mirrored, marked and split; what is in their files, measured by libraries that share
nothing with the layout."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations
from typing import Any

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import given, settings
from hypothesis import strategies as st

from bisectum.core.errors import BrokenStructure, Cancelled, SettingsError
from bisectum.core.geom.bezier import bounds
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.shapes_of import polygon_of, shape_of, union
from bisectum.core.model.sheet import Area, SheetPlan
from bisectum.core.model.stock import Stock
from bisectum.core.progress import SILENT
from bisectum.core.steps.sheets.carriers import CARRIERS, carrier_named
from bisectum.core.steps.sheets.marks import reach_of
from bisectum.core.steps.sheets.nest import Demand, Strip, Task
from bisectum.core.steps.sheets.settings import SMALL_MAT, SheetsSettings
from bisectum.core.steps.sheets.split import split
from bisectum.core.steps.sheets.step import Desk, lay_out
from bisectum.services.nester import nest
from bisectum.services.sheets import file_stem, written
from tests.support.mats import BLUE, artwork, fitted, in_file, letters, mixed, moved, pieces_on, planned, shape

REGISTER_MM = 1e-3
CLOSE_MM = 0.01
MM_PER_INCH = 25.4


def two_layers() -> Artwork:
    """Two layers that lie on each other, the upper one much smaller."""
    return artwork(shape("star", 120, 110, (70, 60)), (*shape("heart", 30, 28, (70, 60)), *letters("R7", 12, (110, 100))),
                   size=(140, 120))


def spacing_of(plan: SheetPlan, number: int) -> float:
    """The least distance between parts on a sheet, measured on their curves."""
    return min((float(shapely.distance(one, other)) for one, other in combinations(pieces_on(plan, number), 2)), default=np.inf)


def same_pieces(plan: SheetPlan, copies: int = 1) -> None:
    """No piece is lost or added: on all sheets there are as many of each area as in the make."""
    wanted = sorted(round(piece.area, 4) for layer in plan.artwork.layers for piece in layer.pieces for _ in range(copies))
    found = [piece.area for number in range(len(plan.sheets)) for layer in plan.drawn(number).layers for piece in layer.pieces]
    assert np.allclose(sorted(found), wanted, atol=1e-3)


# In place

@pytest.mark.parametrize(("turned", "mirror", "centred"), [(False, "none", False), (True, "none", True), (False, "all", True),
                                                           (True, "all", False)])
def test_layers_in_place_lie_in_register(turned: bool, mirror: str, centred: bool) -> None:
    """Read from the files: what lies at one place in the make lies at one place on every sheet."""
    make = two_layers()
    plan = planned(make, turned=turned, mirror=mirror, centred=centred, marks="triangles", copies=2)
    assert len(plan.sheets) == 2 and all(sheet.mirrored == (mirror == "all") for sheet in plan.sheets)
    shifts = []
    for number, layer in enumerate(make.layers):
        found = in_file(plan, number)
        own = next(rings for name, rings in found.items() if name.startswith("layer-1"))
        first = [polygon_of(piece, 0.002) for piece in layer.pieces]
        assert len(own) == 2 * sum(len(piece.rings) for piece in layer.pieces)
        # The first copy, turned and mirrored back, is the make moved by one vector, the same for both layers.
        points = own[0]
        if mirror == "all":
            points = points * [-1, 1] + [plan.sheets[number].width, 0]
        if turned:
            points = np.column_stack([points[:, 1], -points[:, 0]])
        shifts.append(points.min(axis=0) - np.array(first[0].bounds[:2]))
    assert np.abs(shifts[0] - shifts[1]).max() <= REGISTER_MM + 2e-3  # the polygons lie so far off the curves
    marks = [np.concatenate(next(rings for name, rings in in_file(plan, number).items() if name.startswith("cut-")))
             for number in (0, 1)]
    assert np.abs(marks[0] - marks[1]).max() <= REGISTER_MM
    same_pieces(plan, 2)


def test_what_fits_on_a_mat() -> None:
    """23 × 11.5 in fit on a 12 × 24 in mat, 24 × 12 do not; an 18-inch roll takes 17 in across. Common practice, no source."""
    for width, height, carrier, fits in ((23, 11.5, "12x24", True), (24, 12, "12x24", False), (11.5, 11.5, "12x12", True),
                                         (11.6, 11.5, "12x12", False), (17, 40, "roll-457", True), (18, 40, "roll-457", False)):
        box = (width * MM_PER_INCH, height * MM_PER_INCH)
        make = artwork(shape("rectangle", *box, (box[0] / 2, box[1] / 2)), size=box)
        plan = planned(make, carrier=CARRIERS[carrier], turned=width > height)
        told = {finding.code for finding in plan.artwork.findings}
        assert ("larger_than_mat" not in told and not plan.sheets[0].clashes) == fits, (width, height, carrier)
        if not fits:
            with pytest.raises(SettingsError, match="larger mat"):
                written(plan, 0, "svg", "x")


def test_copies_in_place_share_sheets_until_one_is_full() -> None:
    make = artwork(shape("ellipse", 60, 40, (30, 20)), shape("star", 20, 20, (30, 20)), size=(60, 40))
    plan = planned(make, copies=30, spacing_mm=4)
    across, down = int((292.1 + 4) // 64), int((292.1 + 4) // 44)
    assert [len(sheet.laid) for sheet in plan.sheets] == [across * down] * 2 + [30 - across * down] * 2
    same_pieces(plan, 30)
    assert spacing_of(plan, 0) >= 4 - CLOSE_MM
    assert len(planned(make, fill=True, spacing_mm=4).sheets[0].laid) == across * down


# Close together

@pytest.mark.parametrize(("turns", "seed"), [("none", 1), ("quarter", 2), ("any", 3)])
def test_close_layouts_lose_nothing_and_keep_their_distance(turns: str, seed: int) -> None:
    make = artwork(mixed(26, seed), mixed(8, seed + 50, 30.0), size=(900, 600))
    plan = planned(make, layout="ganged", turns=turns, together="pieces", spacing_mm=2.5)
    same_pieces(plan)
    assert not plan.left_over and not any(sheet.clashes for sheet in plan.sheets)
    for number, sheet in enumerate(plan.sheets):
        assert spacing_of(plan, number) >= 2.5 - CLOSE_MM
        assert all(sheet.usable.holds(part.bounds, CLOSE_MM) for part in pieces_on(plan, number))
        if turns == "none":
            assert all(laid.turn == 0 for laid in sheet.laid)
        if turns == "quarter":
            assert all(laid.turn % 90 == 0 for laid in sheet.laid)


def test_a_layout_that_was_found_stays() -> None:
    make = artwork(mixed(12, 9), size=(900, 300))
    layouts: dict[str, Strip] = {}
    first = planned(make, layouts, layout="ganged", together="pieces")
    again = planned(make, layouts, layout="ganged", together="pieces", marks="cross")
    assert len(layouts) == 2
    # Marks take room, so the layout is another one; the same wish gives the same sheets.
    assert planned(make, layouts, layout="ganged", together="pieces").sheets[0].laid == first.sheets[0].laid
    assert len(again.sheets[0].laid) == len(first.sheets[0].laid)


def test_patterned_stock_is_never_turned_and_a_small_stock_is_no_larger_than_it_is() -> None:
    stock = Stock("Tide stripes", "heat-transfer vinyl", BLUE, 150, 200, patterned=True, id="stock-7")
    make = artwork(mixed(9, 4, 40.0), size=(400, 300))
    make = replace(make, layers=(replace(make.layers[0], stock=stock),))
    plan = planned(make, layout="ganged", turns="any", together="pieces")
    assert all(laid.turn == 0 for sheet in plan.sheets for laid in sheet.laid)
    for number, sheet in enumerate(plan.sheets):
        assert sheet.usable.width == 150 and sheet.mirrored and sheet.stock_id == "stock-7"
        assert all(sheet.usable.holds(part.bounds, CLOSE_MM) for part in pieces_on(plan, number))
    assert "mirrored" in file_stem(plan, 0, "Crew")


def test_what_is_near_stays_together() -> None:
    """Letters of a word move as one; both words of a make need not."""
    make = artwork((*letters("Quay", 14, (60, 30)), *letters("Boat", 14, (60, 120))), size=(120, 150))
    for together, parts in (("near", 2), ("layer", 1), ("pieces", len(make.layers[0].pieces))):
        plan = planned(make, layout="ganged", together=together, together_mm=4)
        assert len(plan.parts) == parts
        same_pieces(plan)
    near = planned(make, layout="ganged", together="near", together_mm=4, turns="none")
    for part in near.parts:
        assert len(part.pieces) > 2
    assert spacing_of(near, 0) >= 3 - CLOSE_MM


def test_small_pieces_lie_in_windows_where_asked() -> None:
    frame = shape("frame", 200, 200, (110, 110), band_mm=15)
    small = [piece for k in range(6) for piece in shape("star", 30, 30, (300 + 40 * k, 20))]
    make = artwork((*frame, *small), size=(600, 250))
    outside = planned(make, layout="ganged", together="pieces", turns="none")
    inside = planned(make, layout="ganged", together="pieces", turns="none", in_windows=True)
    same_pieces(inside)
    window = shapely.Polygon(max(pieces_on(inside, 0), key=lambda one: one.bounds[2] - one.bounds[0]).interiors[0])
    held = [part for part in pieces_on(inside, 0) if window.contains(part)]
    assert len(held) == 6 and spacing_of(inside, 0) >= 3 - CLOSE_MM
    assert len(inside.sheets) <= len(outside.sheets)


def test_items_can_be_cut_more_often_than_others() -> None:
    make = artwork((*shape("star", 30, 30, (20, 20)), *shape("heart", 30, 30, (90, 20))), size=(120, 40))
    asked = SheetsSettings.model_validate({"layout": "ganged", "together": "pieces", "copies": 2, "seconds": 1,
                                           "of_items": [{"item": "shape-2", "count": 3}]})
    desk = Desk(asked, "card", nest, {}, lambda places: ["shape-1" if x < 60 else "shape-2" for x, _ in places])
    plan = lay_out(make, desk)
    assert sorted(part.item for part in plan.parts) == ["shape-1"] * 2 + ["shape-2"] * 6


def test_a_sheet_is_filled_with_whole_copies() -> None:
    make = artwork((*shape("star", 40, 40, (30, 30)), *shape("heart", 25, 25, (80, 30))), size=(110, 60))
    plan = planned(make, layout="ganged", together="pieces", fill=True, carrier=CARRIERS["A4"])
    copies = len(plan.parts) // 2
    assert len(plan.sheets) == 1 and copies >= 12
    assert sorted((part.copy, round(part.pieces[0].area)) for part in plan.parts) == sorted(
        (copy, round(piece.area)) for copy in range(copies) for piece in make.layers[0].pieces)


# By hand

def test_a_part_put_by_hand_stays_and_others_make_room() -> None:
    make = artwork(tuple(piece for k in range(6) for piece in shape("ellipse", 40, 40, (30 + 50 * k, 30))), size=(330, 60))
    layouts: dict[str, Strip] = {}
    before = planned(make, layouts, layout="ganged", together="pieces")
    chosen, target = before.sheets[0].laid[0], before.sheets[0].laid[3]
    part, other = before.parts[chosen.part], before.parts[target.part]
    x, y = target.matrix[:, :2] @ (np.array(other.at) * make.width) + target.matrix[:, 2]
    aside = 5 if x < 150 else -5
    hand = {"layer": make.layers[0].key, "copy_number": 0, "at_x": part.at[0], "at_y": part.at[1], "sheet": 0, "x_mm": x + aside,
            "y_mm": y + 8, "turn_deg": 30}
    after = planned(make, layouts, layout="ganged", together="pieces", by_hand=[hand])
    same_pieces(after)
    assert not after.sheets[0].clashes and spacing_of(after, 0) >= 3 - CLOSE_MM
    now = {laid.part: laid for laid in after.sheets[0].laid}
    assert now[chosen.part].by_hand and now[chosen.part].turn == 30
    middle = now[chosen.part].matrix[:, :2] @ (np.array(part.at) * make.width) + now[chosen.part].matrix[:, 2]
    assert np.allclose(middle, [x + aside, y + 8])
    stayed = [laid for laid in before.sheets[0].laid if laid == now[laid.part]]
    assert len(stayed) >= 3 and target not in stayed  # only what was in the way has moved
    # Two by hand at one place are told, and no file is made of them.
    rest = {**hand, "at_x": other.at[0], "at_y": other.at[1], "x_mm": x, "turn_deg": 0}
    told = planned(make, layouts, layout="ganged", together="pieces", by_hand=[hand, rest])
    assert told.sheets[0].clashes
    with pytest.raises(SettingsError, match="overlaps"):
        written(told, 0, "svg", "x")


# Split

@settings(max_examples=5, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(["straight", "calm"]), st.sampled_from([0.0, 2.0, 6.0]))
def test_parts_of_a_split_make_laid_together_are_the_make(seed: int, way: str, lap: float) -> None:
    """Nothing is lost, and nothing is there twice but within the laps."""
    make = fitted(mixed(9, seed, 40.0), shape("rectangle", 560, 330, (300, 100)))
    plan = planned(make, carrier=CARRIERS["A4"], split=way, split_lap_mm=lap)
    assert not any(sheet.clashes for sheet in plan.sheets) and {sheet.tile for sheet in plan.sheets} >= {0, 1, 2, 3}
    asked = SheetsSettings.model_validate({"carrier": CARRIERS["A4"], "split": way, "split_lap_mm": lap})
    tiles = split(make, asked, Area(5, 5, 200, 287), reach_of(asked, seams=True), SILENT)
    on_sheets = [piece.area for number in range(len(plan.sheets)) for layer in plan.drawn(number).layers
                 for piece in layer.pieces]
    assert np.allclose(sorted(on_sheets), sorted(piece.area for tile in tiles for layer in tile.artwork.layers
                                                 for piece in layer.pieces), atol=1e-6)
    for number, layer in enumerate(make.layers):
        whole = shape_of(layer.pieces, (), 0.002)
        parts = [shapely.transform(shape_of(tile.artwork.layers[number].pieces, (), 0.002), lambda p, at=tile.at: p + at)
                 for tile in tiles]
        together = union(parts)
        assert shapely.symmetric_difference(together, whole).area < 0.002 * whole.length  # chords of curves cut elsewhere
        doubled = sum(part.area for part in parts) - together.area
        if not lap:
            assert doubled < 0.002 * whole.length
        elif way == "straight":
            wide = 2 * sum(part.length for part in parts)  # no lap is longer than all outlines there are
            assert -0.01 < doubled < lap * wide


def test_the_calmest_way_cuts_through_less() -> None:
    """Between words there is nothing to cut; a straight seam would run through a letter."""
    make = fitted((*letters("QUAY", 60, (100, 60)), *letters("CREW", 60, (345, 60))))
    carrier = carrier_named(f"{make.width / 2 + 40:.1f}x200mm")
    lengths = {}
    for way in ("straight", "calm"):
        plan = planned(make, carrier=carrier, split=way, split_lap_mm=0.0)
        cut = sum(ring.length for number in range(len(plan.sheets)) for layer in plan.drawn(number).layers
                  for ring in layer.rings)
        lengths[way] = cut - sum(ring.length for layer in make.layers for ring in layer.rings)
    assert lengths["calm"] < 0.5 and lengths["straight"] > 20


def test_parts_have_matching_marks() -> None:
    """The cross at the end of a seam lies on both parts at the same place of the make."""
    make = artwork(shape("rectangle", 500, 150, (250, 75)), size=(500, 150))
    asked = SheetsSettings.model_validate({"carrier": SMALL_MAT, "split": "straight"})
    plan = planned(make, split="straight")
    tiles = split(make, asked, Area(6.35, 6.35, 292.1, 292.1), reach_of(asked, seams=True), SILENT)
    assert len(plan.sheets) == len(tiles) == 2
    found = []
    for sheet, tile in zip(plan.sheets, tiles, strict=True):
        laid = sheet.laid[0].matrix
        places = [(path.segments[:, 0].mean(axis=0) + path.segments[:, 3].mean(axis=0)) / 2 for path in sheet.marks]
        back = [np.linalg.solve(laid[:, :2], place - laid[:, 2]) + tile.at for place in places]
        found.append(sorted(map(tuple, np.round(back, 6))))
    assert found[0] == found[1] and len(set(found[0])) == 2


# Marks, weeding, what it takes

@pytest.mark.parametrize(("marks", "open_ones"), [("brackets", 4), ("cross", 8), ("triangles", 0)])
def test_marks_and_weeding_cuts_touch_no_piece(marks: str, open_ones: int) -> None:
    plan = planned(two_layers(), marks=marks, frame=True, weed_every_mm=20, centred=True, mark_mm=6, mark_off_mm=2)
    for number, sheet in enumerate(plan.sheets):
        assert sum(not path.closed for path in sheet.marks) == open_ones and len(sheet.marks) == (open_ones or 4)
        cuts = [shapely.LineString(np.concatenate([path.segments[:, 0], path.segments[-1:, 3]]))
                for path in (*sheet.marks, *sheet.waste)]
        pieces = shapely.union_all(pieces_on(plan, number))
        assert len(sheet.waste) > 3 and min(cut.distance(pieces) for cut in cuts) > 0.9
        assert all(sheet.usable.holds(cut.bounds) for cut in cuts)
    assert [path.segments.tolist() for path in plan.sheets[0].marks] == [path.segments.tolist() for path in plan.sheets[1].marks]
    # In the file they are lines of their own, never areas.
    assert {name.split("-")[0] for name in in_file(plan, 0)} == {"layer", "cut"}


def test_what_it_takes_is_what_lies_on_the_sheets() -> None:
    make = two_layers()
    mat = planned(make, copies=5)
    assert [one.sheets for one in mat.used] == [2, 2]
    for one, layer in zip(mat.used, make.layers, strict=True):
        area = sum(piece.area for piece in layer.pieces)
        assert one.area_mm2 == pytest.approx(5 * area) and one.length_mm == 0
        assert one.waste == pytest.approx(1 - 5 * area / (2 * (12 * MM_PER_INCH) ** 2))
    roll = planned(make, layout="ganged", together="layer", copies=5, carrier=CARRIERS["roll-457"])
    for number, (one, sheet) in enumerate(zip(roll.used, roll.sheets, strict=True)):
        lowest = max(part.bounds[3] for part in pieces_on(roll, number))
        assert one.length_mm == pytest.approx(lowest + 10, abs=0.01) and sheet.height == one.length_mm
        assert one.taken_mm2 == pytest.approx(457.2 * one.length_mm)


def test_heat_transfer_is_mirrored_by_itself() -> None:
    make = two_layers()
    assert not any(sheet.mirrored for sheet in planned(make).sheets)
    plan = planned(make, material="heat-transfer vinyl")
    assert all(sheet.mirrored for sheet in plan.sheets)
    flipped, straight = plan.drawn(0).layers[0], planned(make).drawn(0).layers[0]
    one, other = (shapely.union_all([polygon_of(piece, 0.002) for piece in layer.pieces]) for layer in (flipped, straight))
    wide = plan.sheets[0].width
    assert shapely.symmetric_difference(shapely.affinity.affine_transform(one, [-1, 0, 0, 1, wide, 0]), other).area < 1e-6
    assert not any(sheet.mirrored for sheet in planned(make, material="heat-transfer vinyl", mirror="none").sheets)


# What cannot be

@pytest.mark.parametrize(("asked", "code"), [
    ({"margin_mm": 150}, "no_usable_area"),
    ({"spacing_mm": 199, "carrier": CARRIERS["card-A6"]}, "spacing_too_large"),
    ({"carrier": {**CARRIERS["A4"].model_dump(), "usable_width_mm": 0}}, "no_usable_area"),
    ({"copies": 500, "layout": "ganged", "together": "pieces"}, "too_many_parts"),
])
def test_what_cannot_be_laid_out_is_said(asked: dict[str, Any], code: str) -> None:
    make = artwork(mixed(50, 5, 8.0), size=(100, 60))
    with pytest.raises(SettingsError) as told:
        planned(make, **asked)
    assert told.value.code == code and len(told.value.message) > 30


def test_a_piece_larger_than_every_carrier_is_told_and_the_others_are_laid_out() -> None:
    make = artwork((*shape("rectangle", 400, 350, (210, 180)), *shape("star", 40, 40, (450, 60))), size=(480, 360))
    plan = planned(make, layout="ganged", together="pieces")
    assert len(plan.left_over) == 1 and len(plan.sheets) == 1
    assert [finding.code for finding in plan.artwork.findings] == ["piece_too_large"]


def test_no_mat_of_a_strange_name() -> None:
    assert carrier_named("320x450mm").usable_height_mm == 450 and carrier_named("12.5x20in").width_mm == pytest.approx(317.5)
    assert carrier_named("roll-610").usable_width_mm == pytest.approx(597.3)
    for text in ("13x", "roll-x", "big", "0x0mm"):
        with pytest.raises((SettingsError, ValueError)):
            carrier_named(text)


def test_a_plan_that_lies_is_found_out() -> None:
    plan = planned(two_layers())
    twice = replace(plan, sheets=(plan.sheets[0], plan.sheets[0]))
    with pytest.raises(BrokenStructure, match="another sheet"):
        twice.check()
    off = replace(plan.sheets[0], laid=(replace(plan.sheets[0].laid[0], x=500.0),))
    with pytest.raises(BrokenStructure, match="usable area"):
        replace(plan, sheets=(off, plan.sheets[1])).check()
    with pytest.raises(BrokenStructure, match="left over"):
        replace(plan, sheets=plan.sheets[:1]).check()


def test_nesting_stops_when_it_is_no_longer_wanted() -> None:
    class Stopped:
        def begin(self, what: str) -> None: ...

        def report(self, fraction: float) -> None: ...

        def raise_if_cancelled(self) -> None:
            raise Cancelled("Stopped.", code="cancelled")

    square = np.array([(0, 0), (10, 0), (10, 10), (0, 10)], float)
    with pytest.raises(Cancelled):
        nest([Task((Demand(square, 3, (0.0,)),), 50.0)], 30, Stopped())
    (strip,) = nest([Task((Demand(square, 3, (0.0,)),), 50.0)], 1, SILENT)
    assert len(strip.laid) == 3 and strip.length == pytest.approx(10, abs=0.1)


def test_a_part_moved_by_a_matrix_is_moved_in_the_file() -> None:
    pieces = moved(shape("tag", 50, 30, (0, 0)), (40, 30))
    plan = planned(artwork(pieces, size=(80, 60)), turned=True)
    left, top, right, bottom = bounds(np.concatenate([piece.outline.segments for piece in plan.drawn(0).layers[0].pieces]))
    assert (right - left, bottom - top) == (pytest.approx(30), pytest.approx(50))
