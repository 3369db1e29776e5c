"""Walks through drawings in strokes and pages of ink: a plan at its true size, a word of a note, a file brought in."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from bisectum.core.formats.svg.read import read_svg
from tests.walks.test_arrange import download, on_stage
from tests.walks.test_pieces import at, here
from tests.walks.test_walk import bring, step, wait_ready

DEMO = Path(__file__).resolve().parents[2] / "demo/pictures"


def count_of(page: Page, role: str) -> int:
    legend = page.get_by_role("list", name="What strokes were taken for")
    return int(re.sub(r"\D", "", legend.get_by_role("button", name=re.compile(f"^{role}")).inner_text()))


def result(page: Page) -> dict[str, Any]:
    return dict(page.evaluate("fetch('/api' + location.pathname + '/result').then((r) => r.json())"))


def test_a_plan_is_told_sized_and_changed_by_hand(page: Page, tmp_path: Path) -> None:
    bring(page, DEMO / "lunch-crate.png")
    wait_ready(page)
    expect(page.locator("header")).to_contain_text("Line drawing")
    step(page, "Lines")
    assert (count_of(page, "Cut"), count_of(page, "Folded")) == (28, 5)
    # Two corners of the upper flap are 640 px apart: in truth 160 mm.
    page.get_by_role("button", name="Measure, and set the true size").click()
    made = result(page)
    a, b, c, d, e, f = made["items"][0]["placement"]
    for x, y in ((330 / 1300, 150 / 1300), (970 / 1300, 150 / 1300)):
        page.mouse.click(*on_stage(page, a * x + b * y + c, d * x + e * y + f))
    panel = page.get_by_role("region", name="What was measured")
    panel.get_by_role("spinbutton").fill("160")
    panel.get_by_role("spinbutton").press("Enter")
    expect(panel.locator("p")).to_contain_text("160.0 mm")
    wait_ready(page)
    made = result(page)
    assert made["width_mm"] == pytest.approx(1000 / 640 * 160, rel=1e-3)  # the outline is 1000 px wide
    panel.get_by_role("button", name="Put the rule away").click()
    a, b, c, d, e, f = made["items"][0]["placement"]
    x, y = 650 / 1300, 490 / 1300  # the top of the curved fold
    page.mouse.click(*on_stage(page, a * x + b * y + c, d * x + e * y + f))
    page.get_by_role("button", name="Leave out", exact=True).click()
    wait_ready(page)
    assert (count_of(page, "Folded"), count_of(page, "Left out")) == (4, 1)
    found = read_svg(download(page, tmp_path))
    assert [(group.title, len(group.lengths)) for group in found.strokes] == [("Score", 4)]
    page.keyboard.press("Control+z")
    step(page, "Lines")
    expect(page.get_by_role("list", name="What strokes were taken for")).to_contain_text("Folded5")


def test_a_word_of_a_note_is_picked_whole_and_dropped(page: Page) -> None:
    bring(page, DEMO / "tide-note.jpg")
    wait_ready(page)
    expect(page.locator("header")).to_contain_text("Handwriting")
    step(page, "Colours")
    expect(page.get_by_text("7 rules and margin lines were taken away.")).to_be_visible()
    expect(page.get_by_text("2 spots lie beside the writing")).to_be_visible()
    before = result(page)["layers"][0]["pieces"]
    page.get_by_role("checkbox", name="Spot 1 stays").check()
    wait_ready(page)
    assert result(page)["layers"][0]["pieces"] == before + 1
    step(page, "Pieces")
    rows = here(page)
    word = [row for row in rows if row["word"] == 0]
    assert 2 <= len(word) <= 8  # the letters of the first word
    page.mouse.click(*at(page, max(word, key=lambda row: row["area"])))
    page.get_by_role("button", name="The whole word").click()
    page.get_by_role("button", name="Drop, filled").click()
    assert len(here(page)) <= len(rows) - len(word)


def test_a_vector_file_comes_in_beside_a_picture(page: Page, tmp_path: Path) -> None:
    file = tmp_path / "lines.svg"
    file.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
                    '<circle cx="30" cy="20" r="18" fill="#c4422e"/><path d="M2 2h56" stroke="#1c2a44" fill="none"/></svg>')
    bring(page, DEMO / "lighthouse.png")
    wait_ready(page)
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in another picture").click()
    chooser.value.set_files(file)
    wait_ready(page)
    step(page, "Arrange")
    page.get_by_role("button", name=re.compile("^Pick ")).first.click()
    expect(page.get_by_text("1 line does not close: it is cut open.")).to_be_visible()
    found = read_svg(download(page, tmp_path))
    assert [group.title for group in found.strokes] == ["Cut lines"]
    assert found.strokes[0].lengths[0] == pytest.approx(56, abs=0.01)
