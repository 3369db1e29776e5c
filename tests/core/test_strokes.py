"""Drawings in strokes: middles of lines, folds and outlines of known plans, and what becomes of them in files."""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np
import pytest
import shapely
import skimage.morphology
from numpy.typing import NDArray
from shapely.geometry import LineString

from bisectum.core.course import CourseSettings, Source
from bisectum.core.errors import ComputationError
from bisectum.core.formats.svg.read import read_svg
from bisectum.core.formats.svg.verify import verify_svg
from bisectum.core.formats.svg.write import write_svg
from bisectum.core.geom.bezier import flatten, line_segments
from bisectum.core.job import JobDocument, MakeSettings, new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.model.clip import clipped
from bisectum.core.model.stroke import Stroke
from bisectum.core.raster.ink.amount import ink_of
from bisectum.core.raster.ink.paper import darkness
from bisectum.core.raster.skeleton import skeleton_graph
from bisectum.core.raster.thinning import pen_width, thinned
from bisectum.core.steps.layers.perforate import perforated
from bisectum.core.steps.lines.strokes.drawn_graph import drawn_graph
from bisectum.core.steps.lines.strokes.reading import Reading, RoleChange, read_strokes
from tests.support.drawings import coverage
from tests.support.plans import dashed, far, pen_drawing, plan

Amount = NDArray[np.float32]


def drawn(lines: list[object], size: tuple[int, int] = (260, 200), pen: float = 4.0) -> Amount:
    ink = shapely.union_all([one.buffer(pen / 2) if hasattr(one, "buffer") else LineString(one).buffer(pen / 2) for one in lines])
    return coverage(ink, *size).astype(np.float32)


def square(left: float, top: float, right: float, bottom: float) -> list[tuple[float, float]]:
    return [(left, top), (right, top), (right, bottom), (left, bottom), (left, top)]


def along(part_curve: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.concatenate([flatten(part_curve, 0.02), part_curve[-1:, 3]])


def dense(curve: NDArray[np.float64]) -> NDArray[np.float64]:
    points = along(curve)
    return np.concatenate([np.linspace(one, other, 8) for one, other in pairwise(points)])


def parts_of(mask: NDArray[np.bool_]) -> tuple[int, int]:
    """How many parts, joined by sides or corners, and how many parts of what is not."""
    return (cv2.connectedComponents(mask.astype(np.uint8), connectivity=8)[0],
            cv2.connectedComponents((~mask).astype(np.uint8), connectivity=4)[0])


@pytest.mark.parametrize("number", (0, 1, 2))
def test_thinning_keeps_parts_and_holes_as_another_library_does(number: int) -> None:
    mask = plan(number).rgb[..., 1] < 140
    ours, theirs = thinned(mask), skimage.morphology.thin(mask)
    assert parts_of(ours) == parts_of(mask) == parts_of(theirs)
    skeleton_graph(ours).check()
    away = cv2.distanceTransform((~theirs).astype(np.uint8), cv2.DIST_L2, 5)
    assert np.quantile(away[ours], 0.99) < 2.0


def read(number: int) -> Reading:
    rgb = plan(number).rgb
    ink = ink_of(darkness(np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])), with_rules=False)
    assert ink is not None
    reading = read_strokes(ink.amount, pen_width(ink.amount), "auto", 28.0, 1.0)
    reading.check()
    return reading


@pytest.mark.parametrize("number", (0, 1, 5))
def test_a_plan_is_cut_along_its_lines_and_folded_along_its_dashes(number: int) -> None:
    known, reading = plan(number), read(number)
    assert reading.is_plan and sorted(len(segments) for segments, _ in reading.rings) == [4, 4, 20]  # nodes as drawn
    for segments, _ in reading.rings:
        assert far(along(segments), known.cuts).max() < 0.3  # px: 0.03 mm at 0.1 mm a pixel
    folds = [part for part in reading.parts if part.role == "score"]
    for line in known.straight:
        best = min(folds, key=lambda part: far(dense(part.curve[0]), [line]).mean())
        assert far(dense(best.curve[0]), [line]).max() < 0.5 and len(best.curve[0]) == 1
        assert far(np.array([line[0], line[-1]]), [along(best.curve[0])]).max() < 0.7  # its ends lie on the outline
    arc = min(folds, key=lambda part: far(dense(part.curve[0]), [known.curved[0]]).mean())
    assert far(dense(arc.curve[0])[8:-8], [known.curved[0]]).max() < 1.0


def test_middles_of_pen_lines_are_where_the_pen_went() -> None:
    means = []
    for number in (1, 6, 7, 11):
        known = pen_drawing(number)
        ink = ink_of(darkness(np.dstack([known.rgb, np.full(known.rgb.shape[:2], 255, np.uint8)])), with_rules=False)
        assert ink is not None
        graph = drawn_graph(ink.amount, pen_width(ink.amount), 28.0)
        graph.check()
        means.append(far(np.concatenate([line.points for line in graph.lines]), known.strokes).mean())
    assert np.mean(means) < 0.1  # px


def test_a_crossing_is_two_lines_and_a_bend_is_a_corner() -> None:
    cross = drawn_graph(drawn([[(20, 30), (230, 150)], [(30, 160), (220, 20)]]), 4.0, 28.0)
    assert len(cross.lines) == 2
    ends = np.array(sorted(point for line in cross.lines for point in (tuple(line.points[0]), tuple(line.points[-1]))))
    assert np.abs(ends - np.array(sorted([(20, 30), (230, 150), (30, 160), (220, 20)]))).max() < 0.3
    bend = drawn_graph(drawn([[(30, 150), (120, 40), (220, 150)]]), 4.0, 28.0)
    assert len(bend.lines) == 2 and np.abs(bend.nodes - [120, 40]).max() < 0.25


def test_windows_inner_lines_and_open_outlines_are_told() -> None:
    outline, inner = square(20, 20, 220, 170), square(60, 60, 110, 110)
    whole = read_strokes(drawn([outline, inner, [(150, 20), (150, 170)]]), 4.0, "auto", 28.0, 1.0)
    assert len(whole.rings) == 2 and [part.role for part in whole.parts if not part.outline] == ["score"]
    folded = read_strokes(drawn([outline, dashed(np.array([(100.0, 20), (100, 170)]), 12, 8, 0.2), [(150, 40), (150, 140)]]),
                          4.0, "auto", 28.0, 1.0)
    assert sorted(part.role for part in folded.parts if not part.outline) == ["cut", "score"]
    gap = drawn([[(120, 20), (20, 20), (20, 170), (220, 170), (220, 20), (128, 20)]])
    opened = read_strokes(gap, 4.0, "auto", 28.0, 1.0)
    assert not opened.rings and len(opened.open_ends) == 2
    closed = read_strokes(gap, 4.0, "auto", 28.0, 1.0, gap=10.0)
    assert len(closed.rings) == 1 and len(closed.open_ends) == 0
    assert {part.role for part in read_strokes(gap, 4.0, "none", 28.0, 1.0).parts} == {"draw"}


def test_a_line_is_what_somebody_says_it_is() -> None:
    amount = drawn([square(20, 20, 220, 170), [(150, 20), (150, 170)]])
    said = read_strokes(amount, 4.0, "auto", 28.0, 1.0, changes=[RoleChange(151, 100, "cut"), RoleChange(90, 90, "cut")])
    assert said.missed == [1]  # nothing is drawn there
    slit = next(part for part in said.parts if not part.outline)
    assert (slit.read, slit.role) == ("score", "cut") and len(said.rings) == 1
    left = read_strokes(amount, 4.0, "auto", 28.0, 1.0, changes=[RoleChange(20, 100, "leave"), RoleChange(151, 100, "cut")])
    rings = [shapely.Polygon(along(segments)).area for segments, _ in left.rings]
    assert rings == pytest.approx([70 * 150], rel=0.01)  # what the other lines still shut in


SETTINGS = {"picture": {"width_mm": 120.0}, "colours": {"kind": "line-drawing"}}


def made(rgb: NDArray[np.uint8], lines: dict[str, object] | None = None, layers: dict[str, object] | None = None) -> MakeResult:
    course = CourseSettings.model_validate({**SETTINGS, "lines": lines or {}})
    document: JobDocument = new_document("0" * 64, "", "plan", course, MakeSettings.model_validate({"layers": layers or {}}))
    rgba = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
    result = run_make({"0" * 64: Source(rgba, 0.1, "0" * 64)}, document, {})
    result.arrangement.check()
    result.artwork.check()
    return result


def test_folds_are_a_group_of_their_own_in_the_file() -> None:
    result = made(plan(0).rgb)
    (layer,) = result.artwork.layers
    assert len(layer.pieces) == 1 and len(layer.pieces[0].windows) == 2
    text = write_svg(result.artwork, "plan")
    verify_svg(text, result.artwork)
    found = read_svg(text)
    assert found.width_mm == pytest.approx(120.0)
    assert [(group.title, len(group.lengths)) for group in found.strokes if group.title == "Score"] == [("Score", 10)]
    assert 'fill="none" stroke="#b3261e" stroke-width="0.1"' in text
    with pytest.raises(ComputationError):
        verify_svg(text.replace("<title>Score</title>\n<path", "<title>Score</title>\n<!-- path", 1).replace("Z\"/>", "Z\"/>", 1)
                   .replace("<!-- path", "<path d=\"M0,0L1,1\"/><path", 1), result.artwork)


def test_pen_lines_alone_are_a_make_of_their_own() -> None:
    result = made(pen_drawing(1).rgb, {"drawn": "centre", "score": "none"})
    (layer,) = result.artwork.layers
    assert not layer.pieces and {stroke.role for stroke in layer.strokes} == {"draw"}
    assert result.artwork.width == pytest.approx(120.0)
    verify_svg(write_svg(result.artwork, "pen"), result.artwork)
    filled = made(pen_drawing(1).rgb, {"drawn": "filled"})
    assert filled.artwork.piece_count > 0 and filled.artwork.stroke_count == 0


def test_a_fold_may_be_cut_in_dashes_instead() -> None:
    stroke = Stroke(line_segments(np.array([(0.0, 0.0), (40.0, 0.0), (40.0, 30.0)])), np.ones(2, bool), "score", "score", 0.4,
                    (20.0, 0.0))
    cuts = perforated((stroke,), 3.0, 2.0)
    assert {cut.role for cut in cuts} == {"cut"} and len(cuts) == 14
    lengths = [cut.path.length for cut in cuts]
    assert lengths == pytest.approx([lengths[0]] * 14) and lengths[0] == pytest.approx(3.0, rel=0.05)
    assert cuts[0].segments[0, 0, 0] == pytest.approx(2.0, rel=0.05)  # something holds at both ends
    result = made(plan(0).rgb, layers={"folds": "perforate"})
    assert {own.role for own in result.artwork.layers[0].strokes} == {"cut"} and result.artwork.stroke_count > 50


def test_what_is_taken_away_ends_strokes_exactly_there() -> None:
    stroke = Stroke(line_segments(np.array([(0.0, 0.0), (30.0, 0.0)])), np.ones(1, bool), "score", "score", 0.4, (15.0, 0.0))

    def disc(places: NDArray[np.float64]) -> NDArray[np.bool_]:
        return np.hypot(places[:, 0] - 12, places[:, 1]) < 5

    left, right = clipped(stroke, disc, keeps=False)
    assert left.segments[-1, 3] == pytest.approx([7, 0], abs=1e-5) and right.segments[0, 0] == pytest.approx([17, 0], abs=1e-5)
    (inner,) = clipped(stroke, disc, keeps=True)
    assert inner.path.length == pytest.approx(10, abs=1e-5)


def test_a_line_may_be_very_long() -> None:
    turns = np.linspace(0, 2 * np.pi * 6, 4000)
    spiral = np.stack([500 + (40 + 70 * turns / 6.3) * np.cos(turns), 500 + (40 + 70 * turns / 6.3) * np.sin(turns)], axis=1)
    graph = drawn_graph(drawn([spiral], (1000, 1000)), 4.0, 28.0)
    assert len(graph.lines) == 1 and graph.lines[0].length == pytest.approx(LineString(spiral).length, rel=0.01)
