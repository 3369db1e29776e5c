"""Walks through Arrange: lettering over a picture, crops, borders, a drawn line, pictures brought to one line, and undo."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, Route, expect

from bisectum.core.formats.svg.read import read_svg
from tests.support.strangers import shipped
from tests.walks.conftest import Server
from tests.walks.test_several import becomes, history, kept
from tests.walks.test_walk import bring, build_as, set_number, step, unfold, wait_ready


def result(page: Page) -> dict[str, Any]:
    wait_ready(page)
    return page.evaluate("fetch('/api' + location.pathname + '/result').then((r) => r.json())")


def add(page: Page, what: str) -> None:
    before = len(kept(page)["document"]["items"])
    page.get_by_role("group", name="Bring in").get_by_role("button", name=what).click()
    becomes(page, lambda: len(kept(page)["document"]["items"]) > before)
    wait_ready(page)


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label).click()
    page.get_by_role("option", name=option).click()
    wait_ready(page)


def on_stage(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a place of the page, mm, lies on the screen, by what the middle of the make and its width say."""
    made = result(page)
    box = page.locator("section.stage > canvas").bounding_box()
    assert box is not None
    scale = min((box["width"] - 88) / made["width_mm"], (box["height"] - 88) / made["height_mm"])
    return (box["x"] + box["width"] / 2 + (x - made["width_mm"] / 2) * scale,
            box["y"] + box["height"] / 2 + (y - made["height_mm"] / 2) * scale)


INSIDE = """([outline, left, top, width, height]) => {
  const pen = document.createElement("canvas").getContext("2d");
  const path = new Path2D(outline);
  for (let y = top; y < top + height; y += height / 40)
    for (let x = left; x < left + width; x += width / 200)
      if ([-0.3, 0, 0.3].every((d) => pen.isPointInPath(path, x + d, y + d, "evenodd"))) return [x, y];
}"""


def place_on(page: Page, item: dict[str, Any]) -> tuple[float, float]:
    """A place on the screen where an item has something."""
    width, height = item["size"]
    x, y = page.evaluate(INSIDE, [item["outline"], -width / 2, -height / 2, width, height])
    a, b, c, d, e, f = item["placement"]
    return on_stage(page, a * x + b * y + c, d * x + e * y + f)


def drag(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    page.mouse.move(*start)
    page.mouse.down()
    for share in np.linspace(0.1, 1, 12):
        page.mouse.move(start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share)
    page.mouse.up()
    page.wait_for_timeout(200)
    wait_ready(page)


def download(page: Page, folder: Path) -> str:
    step(page, "Export")
    with page.expect_download() as got:
        page.get_by_role("button", name="Download").click()
    path = folder / "file.svg"
    got.value.save_as(path)
    return path.read_text()


def test_a_name_over_the_kettle_with_a_border(page: Page, pictures: Path, server: Server, tmp_path: Path) -> None:
    bring(page, pictures / "kettle.jpg")
    wait_ready(page)
    step(page, "Arrange")
    add(page, "Lettering")
    page.get_by_label("Words", exact=True).fill("Quillhaven")
    page.get_by_role("button", name="Nunito").click()
    page.get_by_role("option", name="Pacifico").click()
    becomes(page, lambda: kept(page)["document"]["items"][1]["made"]["font"] == "pacifico")
    becomes(page, lambda: kept(page)["document"]["items"][1]["made"]["text"] == "Quillhaven")
    page.get_by_role("checkbox", name="Nothing below it").check()
    becomes(page, lambda: kept(page)["document"]["items"][1]["part"]["clear_mm"] == 0.5)
    made = result(page)
    name = next(layer for layer in made["layers"] if layer["colour"] == "#1c2a44")
    assert name["pieces"] <= 4  # its letters are welded; the i has its dot

    # It follows the hand, and comes to lie where it was let go of, lined up with the middle of the make.
    frame = made["items"][1]["box"]
    here = place_on(page, made["items"][1])
    drag(page, here, (here[0] - 3, here[1] + 60))
    moved = result(page)["items"][1]["box"]
    assert moved[1] > frame[1] + 10
    expect(page.get_by_role("button", name="Undo: Lettering moved")).to_be_enabled()
    page.locator("section.stage > canvas").focus()
    page.keyboard.press("ArrowLeft")
    becomes(page, lambda: abs(result(page)["items"][1]["box"][0] - moved[0] + 0.5) < 0.01)

    add(page, "Border")
    bordered = result(page)
    assert bordered["layers"][0]["colour"] == "#ffffff"
    file = read_svg(download(page, tmp_path))
    assert len(file.layers) == len(bordered["layers"])

    # Undo, to the beginning.
    done = len([change for change in history(page) if change["done"]])
    for _ in range(done - 1):
        page.get_by_role("button", name="Undo").click()
    becomes(page, lambda: kept(page)["undo"] is None)
    assert [item["id"] for item in kept(page)["document"]["items"]] == ["picture-1"]


def test_cropped_in_a_heart_nostrils_and_a_drawn_line(page: Page, pictures: Path, server: Server, tmp_path: Path) -> None:
    bring(page, pictures / "berth-sign.png")
    wait_ready(page)
    step(page, "Arrange")
    whole = result(page)
    add(page, "Shape")
    choose(page, "What it does", "only what lies inside it stays")
    cropped = result(page)
    assert cropped["width_mm"] < 0.5 * whole["width_mm"]
    page.get_by_role("radio", name="Ellipse").click()
    becomes(page, lambda: kept(page)["document"]["items"][1]["made"]["form"] == "ellipse")
    page.get_by_role("button", name="Undo").click()
    becomes(page, lambda: kept(page)["document"]["items"][1]["made"]["form"] == "heart")

    # A shape taken out of it; then a copy of that one: two holes.
    add(page, "Shape")
    set_number(page, "Width", "6")
    choose(page, "What it does", "is cut out of what lies below")
    page.get_by_role("button", name="Duplicate").click()
    becomes(page, lambda: len(kept(page)["document"]["items"]) == 4)
    rows = page.get_by_role("list", name="Items, the topmost first").get_by_role("listitem")
    expect(rows.nth(0)).to_have_class(re.compile("picked"))  # what is done next is done to the copy

    # A line drawn by hand, one of its nodes moved.
    page.get_by_role("group", name="Bring in").get_by_role("button", name="Draw").click()
    left, top = on_stage(page, 5, 5)
    page.mouse.move(left, top)
    page.mouse.down()
    for t in np.linspace(0, 1, 40):
        page.mouse.move(left + 260 * t, top + 50 * np.sin(5 * t))
    page.mouse.up()
    becomes(page, lambda: len(kept(page)["document"]["items"]) == 5)
    wait_ready(page)
    page.keyboard.press("Escape")
    drawn = kept(page)["document"]["items"][4]
    assert drawn["kind"] == "drawn" and not drawn["made"]["closed"] and len(drawn["made"]["nodes"]) <= 9
    node = drawn["made"]["nodes"][0]
    a, b, c, d, e, f = result(page)["items"][4]["placement"]
    here = on_stage(page, a * node["x"] + b * node["y"] + c, d * node["x"] + e * node["y"] + f)
    drag(page, here, (here[0] + 10, here[1] + 30))
    becomes(page, lambda: kept(page)["document"]["items"][4]["made"]["nodes"][0]["y"] > node["y"] + 1)
    expect(page.get_by_role("button", name="Undo: A node of Drawn line")).to_be_enabled()
    read_svg(download(page, tmp_path))


def test_numbers_and_presses_quicker_than_the_server_all_hold(page: Page, pictures: Path, server: Server) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Arrange")
    add(page, "Lettering")
    unfold(page, "Place and size")

    def late(route: Route) -> None:
        page.wait_for_timeout(1500)
        route.continue_()

    page.route(re.compile("/items/moved$"), late)
    for label, value in (("Height", "9"), ("Middle, across", "60"), ("Middle, down", "41")):
        page.get_by_label(label, exact=True).last.fill(value)
        page.keyboard.press("Tab")
    becomes(page, lambda: kept(page)["undo"]["values"].get("did") == "moved" and len(history(page)) == 5)
    words = result(page)["items"][1]
    left, top, right, bottom = words["box"]
    assert words["size"][1] == pytest.approx(9, abs=1e-3)
    assert ((left + right) / 2, (top + bottom) / 2) == (pytest.approx(60, abs=1e-3), pytest.approx(41, abs=1e-3))
    for side in ("bottom edges", "middles across"):
        page.get_by_role("button", name=side).click()
    for _ in range(3):
        page.locator("section.stage > canvas").press("ArrowUp")
    becomes(page, lambda: len(history(page)) == 10)
    made = result(page)
    left, top, right, bottom = made["items"][1]["box"]
    assert bottom == pytest.approx(made["height_mm"] - 1.5, abs=1e-3)
    assert (left + right) / 2 == pytest.approx(made["width_mm"] / 2, abs=1e-3)


def test_two_pictures_are_brought_to_one_line(page: Page, pictures: Path, server: Server) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Arrange")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("group", name="Bring in").get_by_role("button", name="Picture").click()
    chooser.value.set_files(pictures / "berth-sign.png")
    becomes(page, lambda: len(kept(page)["document"]["items"]) == 2)
    wait_ready(page)
    rows = page.get_by_role("list", name="Items, the topmost first").get_by_role("listitem")
    rows.nth(0).click()
    rows.nth(1).click(modifiers=["Shift"])
    compare = page.get_by_role("button", name="Hold against each other at the seam")
    compare.click()
    expect(compare).to_have_attribute("aria-pressed", "true")
    compare.click()
    page.get_by_role("button", name="top edges").click()
    becomes(page, lambda: kept(page)["undo"]["values"].get("did") == "aligned")
    first, second = (item["box"] for item in result(page)["items"])
    assert first[1] == pytest.approx(second[1], abs=1e-3)
    page.get_by_role("button", name="Undo: Items brought to one line").click()
    becomes(page, lambda: kept(page)["document"]["items"][0]["place"]["x_mm"] is None)

    # One is hidden: it is in no file, and comes back.
    page.get_by_role("button", name="Hide berth sign").click()
    becomes(page, lambda: len(result(page)["items"]) == 1)
    page.get_by_role("button", name="Show berth sign").click()
    becomes(page, lambda: len(result(page)["items"]) == 2)


def test_a_strangers_picture_with_a_name_reaches_a_file(page: Page, server: Server, tmp_path: Path) -> None:
    path = tmp_path / "coins.png"
    Image.fromarray(shipped("coins")).convert("RGB").resize((384, 303)).save(path)
    bring(page, path)
    wait_ready(page)
    step(page, "Arrange")
    add(page, "Lettering")
    page.get_by_role("checkbox", name="Nothing below it").check()
    becomes(page, lambda: kept(page)["document"]["items"][1]["part"]["clear_mm"] == 0.5)
    add(page, "Border")
    for build in ("Whole", "Lapped", "Flush"):
        wait_ready(page)
        step(page, "Layers")
        build_as(page, build)
        becomes(page, lambda build=build: kept(page)["document"]["make"]["layers"]["build"] == build.lower())
        file = read_svg(download(page, tmp_path))
        assert len(file.layers) >= 3 and sum(sum(layer.subpaths) for layer in file.layers) > 10
