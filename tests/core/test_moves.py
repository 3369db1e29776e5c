"""Items moved, sized and lined up: what the arranged make measures afterwards is what was asked for, and nothing else moved."""

from __future__ import annotations

import itertools
from typing import Any, get_args

import numpy as np
import pytest

from bisectum.core.job import JobDocument
from bisectum.core.moves import Move, Side, Stand, Stands, aligned, brought_to, copied, fitted_in, moved, spread
from bisectum.services.items import NewItem, with_new
from tests.core.test_arrange import job, made, square

WORDS = ("lettering", {"made": {"text": "Quay", "capital_mm": 8}, "place": {"x_mm": 10, "y_mm": -60, "turn_deg": 30}})
STAR = ("shape", {"made": {"form": "star", "width_mm": 20, "height_mm": 15}, "place": {"x_mm": 55, "y_mm": 7, "turn_deg": 12}})
ALL = ("picture-1", "shape-2", "lettering-3", "shape-4")
EDGES: dict[str, Any] = {"left": lambda b: b[0], "right": lambda b: b[2], "middle": lambda b: (b[0] + b[2]) / 2,
                         "top": lambda b: b[1], "bottom": lambda b: b[3], "centre": lambda b: (b[1] + b[3]) / 2}


def stands(document: JobDocument) -> Stands:
    arrangement = made(document).arrangement
    return Stands({frame.item: Stand(frame.box, frame.size) for frame in arrangement.frames},
                  (arrangement.width, arrangement.height), arrangement.origin)


def on_table(document: JobDocument) -> dict[str, np.ndarray]:
    """Boxes of all items, mm from the table's origin."""
    now = stands(document)
    return {name: np.array(stand.box) + np.tile(now.origin, 2) for name, stand in now.of.items()}


def several() -> JobDocument:
    return job(square(12, -50, 40), WORDS, STAR)


@pytest.mark.parametrize("side", get_args(Side))
def test_edges_and_middles_come_to_one_line(side: Side) -> None:
    document = several()
    before, boxes = stands(document), on_table(document)
    after = on_table(moved(document, before, aligned(document, before, ALL, side)))
    line = {"left": min, "top": min, "right": max, "bottom": max}.get(side)
    assert np.ptp([EDGES[side](box) for box in after.values()]) < 1e-3
    if line:
        assert EDGES[side](after["shape-2"]) == pytest.approx(line(EDGES[side](box) for box in boxes.values()), abs=1e-3)
    still = [1, 3] if side in ("left", "middle", "right") else [0, 2]
    for name in ALL:
        np.testing.assert_allclose(after[name][still], boxes[name][still], atol=1e-3)


def test_equal_gaps_between_them_and_the_outer_ones_stay() -> None:
    document = several()
    before, boxes = stands(document), on_table(document)
    after = on_table(moved(document, before, spread(document, before, ALL, across=False)))
    order = sorted(ALL, key=lambda name: after[name][1])
    gaps = [after[low][1] - after[high][3] for high, low in itertools.pairwise(order)]
    assert np.ptp(gaps) < 1e-3
    for name in (order[0], order[-1]):
        np.testing.assert_allclose(after[name], boxes[name], atol=1e-3)
    assert spread(document, before, ALL[:2], across=True) == {}


def test_typed_numbers_hold_one_after_the_other() -> None:
    """Width, across and down, each on what the one before left, with an item that nobody had placed beside them."""
    document = several().with_item("picture-1", place={})
    boxes = on_table(document)
    for field, value in (("width", 31.0), ("x", 20.0), ("y", 44.5), ("height", 12.0)):
        now = stands(document)
        document = moved(document, now, brought_to(now, "lettering-3", **{field: value}))
        there = stands(document).of["lettering-3"]
        origin = np.subtract(stands(document).origin, now.origin)
        across, down = there.middle + origin
        told = {"width": there.size[0], "height": there.size[1], "x": across, "y": down}
        assert told[field] == pytest.approx(value, abs=1e-3), field
    np.testing.assert_allclose(on_table(document)["picture-1"], boxes["picture-1"], atol=1e-3)
    now = stands(document)
    picture = moved(document, now, brought_to(now, "picture-1", width=150))
    assert picture.picture("picture-1").course.picture.width_mm == 150.0


def test_as_large_as_fits_and_free_forms() -> None:
    document = several()
    now = stands(document)
    after = stands(moved(document, now, fitted_in(now, "lettering-3", 40, 25))).of["lettering-3"].box
    assert min(40 - (after[2] - after[0]), 25 - (after[3] - after[1])) == pytest.approx(0, abs=1e-2)
    assert after[2] - after[0] <= 40.01 and after[3] - after[1] <= 25.01
    star, words = (moved(document, now, {name: Move(fx=2, fy=3)}).item(name) for name in ("shape-4", "lettering-3"))
    assert (star.made.width_mm, star.made.height_mm, star.place.stretch) == (40, 45, 1)  # type: ignore[union-attr]
    assert (words.made.capital_mm, words.place.stretch) == (16, 1.5)  # type: ignore[union-attr]


def test_what_is_locked_or_hidden_stays_and_shifts_add_up_unseen() -> None:
    document = several().with_changed_item("shape-2", {"place": {"locked": True}}).with_item("shape-4", hidden=True)
    now = stands(document)
    assert moved(document, now, {"shape-2": Move(dx=5), "shape-4": Move(dy=5)}) == document
    unseen = Stands.unseen(document)
    assert unseen is not None and Stands.unseen(document.with_item("picture-1", place={})) is None
    twice = document
    for _ in range(2):
        twice = moved(twice, unseen, {"lettering-3": Move(dx=1, turn=200)})
    place = twice.item("lettering-3").place
    assert (place.x_mm, place.y_mm, place.turn_deg) == (12, -60, 70)


def test_copies_and_new_items_lie_where_they_are_expected() -> None:
    document = several().with_item("picture-1", place={})
    now = stands(document)
    both = copied(document, now, "lettering-3", [Move(dx=6, dy=6), Move(turn=90)])
    places = [both.item(f"lettering-{k}").place for k in (5, 6)]
    assert [(p.x_mm, p.y_mm, p.turn_deg) for p in places] == [(16, -54, 30), (10, -60, 120)]
    more = with_new(document, NewItem("shape", "Heart", {"made": {"form": "heart"}}), now)
    after = stands(more)
    assert after.of["shape-5"].middle == pytest.approx(np.array(now.page) / 2, abs=1e-3)
    assert after.of["shape-5"].size[0] == pytest.approx(0.3 * now.page[0], abs=0.3)
    for name in ALL:
        np.testing.assert_allclose(on_table(more)[name], on_table(document)[name], atol=1e-3)
