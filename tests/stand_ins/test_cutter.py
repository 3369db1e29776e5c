"""The stand-in cutter and printer: whether what comes free is what lines enclose, how long it takes, where the blade goes.

Oracles: the tractrix in closed form (C. Huygens, 1692), trapezoidal moves worked by hand, shapely's areas.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from bisectum.core.errors import InputError
from bisectum.core.formats.exporters import export
from bisectum.core.formats.selection import Selection, selected
from bisectum.core.formats.uses import FOLD_COLOUR
from bisectum.core.model.shapes_of import polygon_of
from bisectum.core.raster.colour import rgb_of
from bisectum.core.steps.sheets.marks import register_marks
from bisectum.core.steps.sheets.settings import SheetsSettings
from bisectum.services.cut import _points, off_the_print
from bisectum.stand_ins.cutter.blade import dragged, led
from bisectum.stand_ins.cutter.compare import differences
from bisectum.stand_ins.cutter.cutter import cut, cut_lines
from bisectum.stand_ins.cutter.machine import MACHINES, Machine
from bisectum.stand_ins.cutter.motion import BEND_MM, seconds_of
from bisectum.stand_ins.cutter.order import in_order, joined
from bisectum.stand_ins.cutter.reading import ToolLine, tool_lines
from bisectum.stand_ins.printer.printer import printed
from tests.support.mats import artwork, folded, letters, shape

VINYL = MACHINES["adhesive vinyl"]


def square(size: float, x: float = 0.0, y: float = 0.0) -> ToolLine:
    corners = np.array([(0, 0), (1, 0), (1, 1), (0, 1), (0, 0)], float) * size + [x, y]
    return ToolLine(corners, True, "blade")


# Time

def test_a_straight_move_takes_what_a_trapezoid_takes() -> None:
    """Worked by hand. 100 mm at 80 mm/s and 1000 mm/s²: up and down take 0.08 s and 3.2 mm each, the rest 93.6 / 80 = 1.17 s.
    4 mm never reach 80 mm/s: a triangle, 2 · √(4 / 1000)."""
    line = np.array([(0, 0), (100, 0)], float)
    assert seconds_of(line, 80, 1000)[-1] == pytest.approx(0.08 + 1.17 + 0.08, rel=1e-9)
    assert seconds_of(line * 0.04, 80, 1000)[-1] == pytest.approx(2 * np.sqrt(4 / 1000), rel=1e-9)
    split = np.stack([np.linspace(0, 100, 501), np.zeros(501)], axis=1)
    assert seconds_of(split, 80, 1000)[-1] == pytest.approx(1.33, rel=1e-9)


def test_a_corner_is_taken_at_the_speed_that_the_bend_allows() -> None:
    """Worked by hand. At a right angle cos(θ/2) = √½: v² = a · BEND · 0.7071 / 0.2929, 6.95 mm/s for 1000 mm/s². Each side of
    50 mm at most 80 mm/s: from rest to 80 (0.08 s, 3.2 mm), from 80 down to 6.95 (0.07305 s, 3.1759 mm), the rest at 80 mm/s."""
    corner = np.sqrt(1000 * BEND_MM * np.sqrt(0.5) / (1 - np.sqrt(0.5)))
    assert corner == pytest.approx(6.949, abs=1e-3)
    down, long = (80 - corner) / 1000, (80**2 - corner**2) / 2000
    side = 0.08 + down + (50 - 3.2 - long) / 80
    found = seconds_of(np.array([(0, 0), (50, 0), (50, 50)], float), 80, 1000)
    assert found[1] == pytest.approx(side, rel=1e-6) and found[2] == pytest.approx(2 * side, rel=1e-6)


# The blade

def test_a_tip_is_drawn_along_a_tractrix() -> None:
    offset = 0.25
    t = np.linspace(0, 1.2, 400)
    tip = dragged(np.stack([t, np.zeros(400)], axis=1), np.array([0.0, offset]), offset)
    s = t / offset
    wanted = np.stack([t - offset * np.tanh(s), offset / np.cosh(s)], axis=1)
    assert np.abs(tip - wanted).max() < 0.01 * offset


@pytest.mark.parametrize("offset", [0.25, 0.5])
def test_the_tip_follows_the_line_round_corners_and_bends(offset: float) -> None:
    star = np.array([(np.cos(a) * r, np.sin(a) * r) for a, r in
                     zip(np.linspace(0, 2 * np.pi, 11), [10, 4] * 5 + [10], strict=True)])
    for line in (star, np.stack([6 * np.cos(t := np.linspace(0, 2 * np.pi, 200)), 4 * np.sin(t)], axis=1)):
        middle = led(line, True, offset, 0.3, np.array([1.0, 0.0]))
        tip = dragged(middle, line[0], offset)
        course = shapely.LineString(line)
        assert shapely.distance(shapely.points(tip), course).max() < 0.01
        assert shapely.distance(shapely.points(line), shapely.LineString(tip)).max() < 0.01
        # Moved as if it were no drag blade, the tip cuts corners by more than that.
        naive = dragged(line, line[0] - [offset, 0], offset)
        assert shapely.distance(shapely.points(line[1:-1]), shapely.LineString(naive)).max() > 0.05


# Order

def test_what_lies_inside_is_cut_first_and_folds_before_all() -> None:
    fold = ToolLine(np.array([(0, 5), (40, 5)], float), False, "scoring")
    order = in_order([square(40), square(10, 5, 5), square(4, 8, 8), fold])
    assert [float(np.ptp(line.points[:, 0])) for line in order] == [40, 4, 10, 40] and order[0].tool == "scoring"


def test_open_lines_are_joined_where_their_ends_meet() -> None:
    parts = [ToolLine(np.array(points, float), False, "blade") for points in
             ([(0, 0), (10, 0)], [(10, 10), (10, 0)], [(10, 10), (0, 10)], [(0, 10), (0, 0.01)])]
    whole, = joined(parts)
    assert whole.closed and len(whole.points) == 5
    apart, other = joined([parts[0], parts[2]])
    assert not apart.closed and not other.closed


# What comes free

def make():
    return artwork((*shape("frame", 60, 40, (40, 30), band_mm=6), *letters("Qa8&", 14, (90, 60))), size=(140, 80))


@pytest.mark.parametrize("kind", ["svg", "hpgl", "dxfcurves", "dxf"])
def test_what_comes_free_of_a_file_is_what_was_meant(kind: str) -> None:
    own = make()
    done = cut(export(kind, own, "Sheet"), VINYL, own.height)
    meant = [polygon_of(piece, 0.001) for piece in own.layers[0].pieces]
    found, farthest = differences(done.freed, meant)
    assert not found and len(done.pieces) == len(meant)
    assert farthest < (0.01 if kind != "hpgl" else 0.03)
    assert sum(one.shape.area for one in done.pieces) == pytest.approx(sum(shape.area for shape in meant), rel=1e-3)
    rings = [ring for piece in own.layers[0].pieces for ring in piece.rings]
    assert done.cut_mm == pytest.approx(sum(ring.length for ring in rings) + VINYL.overcut * len(rings), rel=2e-3)


def test_each_kind_of_file_is_cut_folded_and_drawn_alike() -> None:
    """Also where a layer has the colour that folds have."""
    own = folded()
    own = replace(own, layers=(replace(own.layers[0], rgb=rgb_of(FOLD_COLOUR)), own.layers[1]))
    done = [cut(export(kind, own, "Sheet"), VINYL, own.height) for kind in ("svg", "dxf", "dxfcurves", "hpgl")]
    done.append(cut(export("svg", selected(own, Selection("hairline")), "Sheet"), VINYL, own.height))
    for one in done:
        ways = {move.kind: move for move in one.moves if move.kind in ("score", "draw")}
        for role, length in (("score", own.layers[0].strokes[0].path.length), ("draw", 60.0)):
            assert ways[role].length == pytest.approx(length, rel=2e-3)
            assert sum(move.kind == role for move in one.moves) == 1
        assert len(one.pieces) == len(done[0].pieces)
        assert sorted(piece.shape.area for piece in one.pieces) == pytest.approx(
            sorted(piece.shape.area for piece in done[0].pieces), rel=2e-3)


def test_a_line_that_does_not_close_frees_nothing_and_an_island_is_a_piece() -> None:
    open_square = ToolLine(square(20).points[:-1], False, "blade")
    meant = [shapely.box(0, 0, 20, 20)]
    found, _ = differences(cut_lines([open_square], VINYL).freed, meant)
    assert [one.code for one in found] == ["not_free"]
    nested = cut_lines([square(40), square(20, 10, 10), square(8, 16, 16)], VINYL)
    assert sorted(round(one.shape.area) for one in nested.pieces) == [64, 1200]
    moved, farthest = differences(cut_lines([square(20, 0.1)], VINYL).freed, meant)
    assert [one.code for one in moved] == ["off"] and farthest == pytest.approx(0.1, abs=2e-3)
    extra, _ = differences(nested.freed, [shapely.box(0, 0, 40, 40) - shapely.box(10, 10, 30, 30)])
    assert [one.code for one in extra] == ["not_meant"]


@pytest.mark.parametrize("off", [0.0, 0.01])
@pytest.mark.parametrize("style", ['fill="#f00"', 'fill="none" stroke="#f00"'])
def test_a_square_that_is_cut_twice_frees_one_piece(style: str, off: float) -> None:
    body = f'<g {style}><rect x="10" y="10" width="30" height="30"/><rect x="{10 + off}" y="10" width="30" height="30"/></g>'
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">'
    done = cut(f"{head}{body}</svg>".encode(), VINYL)
    assert [(one.kind, round(one.shape.area)) for one in done.freed] == [("piece", 900)]
    assert done.cut_mm == pytest.approx(2 * (120 + VINYL.overcut), rel=1e-2)


def test_a_blade_that_turns_far_from_its_tip_and_is_not_led_round_corners_is_told() -> None:
    """A machine that is told nothing of its blade: what comes free is other than meant."""
    done = cut(export("svg", make(), "Sheet"), Machine(80, offset=1e-6))
    meant = [polygon_of(piece, 0.001) for piece in make().layers[0].pieces]
    assert not differences(done.freed, meant)[0]
    blunt = [ToolLine(dragged(line.points, line.points[0] - [0.8, 0], 0.8), line.closed, "blade", fill=line.fill)
             for line in tool_lines(export("svg", make(), "Sheet"))]
    assert differences(cut_lines(blunt, VINYL).freed, meant)[0]


def test_files_that_cannot_be_followed_are_refused() -> None:
    for data in (b"", b"\xff\xfe\x00", b"IN;PU1,1;XX3,4;", b"IN;SP1;PU;SP0;"):
        with pytest.raises(InputError):
            tool_lines(data)


# Print and cut

@pytest.mark.parametrize("kind", ["brackets", "cross", "triangles"])
def test_the_cut_lies_on_the_print_by_its_marks(kind: str) -> None:
    box = (30.0, 40.0, 220.0, 200.0)
    marks = [_points(path) for path in register_marks(SheetsSettings(marks=kind), box)]  # type: ignore[arg-type]
    paper = printed(marks, 305, 305)
    corners = np.array([(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])])
    askew = np.hypot(*(corners @ paper.matrix[:, :2].T + paper.matrix[:, 2] - corners).T).max()
    assert askew > 0.5 and off_the_print(paper, marks, corners) < 0.05
    with pytest.raises(InputError, match="needed"):
        off_the_print(printed(marks[:1], 305, 305), marks, corners)
