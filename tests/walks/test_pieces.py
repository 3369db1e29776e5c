"""Walks through Pieces: slivers, a mouth that is given back, specks in a ring, a frame, a bridged stencil, a thin tail."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from PIL import Image
from playwright.sync_api import Page, expect

from bisectum.core.formats.svg.read import read_svg
from tests.support.drawings import circle, painted
from tests.walks.test_arrange import download, drag, on_stage
from tests.walks.test_several import becomes, kept
from tests.walks.test_walk import bring, set_number, step, wait_ready

BODY, DARK, RED, YELLOW = (70, 110, 160), (20, 24, 30), (200, 40, 40), (250, 210, 60)
BOAT = [
    (shapely.box(8, 8, 392, 292).difference(shapely.box(16, 16, 384, 284)), DARK), (shapely.box(60, 120, 300, 240), BODY),
    (shapely.box(298, 176, 360, 179), BODY), (circle(130, 170, 16), YELLOW), (shapely.box(180, 200, 230, 206), RED),
    *((shapely.box(60 + 30 * k, 117, 80 + 30 * k, 120), RED) for k in range(7)),
    *((circle(90 + 14 * k, 60 + 6 * (k % 2), 2.2), RED) for k in range(6)),
]


def pieces(page: Page) -> list[dict[str, Any]]:
    wait_ready(page)
    rows = page.evaluate("""fetch('/api' + location.pathname + '/items/picture-1/pieces').then((r) => r.json())""")["rows"]
    return list(rows)


def here(page: Page) -> list[dict[str, Any]]:
    return [row for row in pieces(page) if not row["reason"]]


def at(page: Page, row: dict[str, Any]) -> tuple[float, float]:
    """Where a piece lies on the screen."""
    made = page.evaluate("fetch('/api' + location.pathname + '/result').then((r) => r.json())")
    a, b, c, d, e, f = made["items"][0]["placement"]
    x, y = row["at"]
    return on_stage(page, a * x + b * y + c, d * x + e * y + f)


def way(page: Page, name: str) -> None:
    page.get_by_role("group", name="Put right").get_by_role("button", name=name).click()


def of_colour(rows: list[dict[str, Any]], rgb: tuple[int, int, int]) -> list[dict[str, Any]]:
    return sorted((row for row in rows if row["colour"] == "#{:02x}{:02x}{:02x}".format(*rgb)), key=lambda row: row["area"])


@pytest.fixture
def boat(page: Page, tmp_path: Path) -> Page:
    Image.fromarray(painted(BOAT, 400, 300)).save(tmp_path / "boat.png")
    bring(page, tmp_path / "boat.png")
    wait_ready(page)
    page.get_by_role("button", name=re.compile("Finished size")).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("spinbutton", name="Width").fill("100")
    dialog.get_by_role("spinbutton", name="Width").press("Enter")
    dialog.get_by_role("button", name="Done").click()
    step(page, "Pieces")
    way(page, "By rules")
    set_number(page, "Smallest piece", "0.2")
    wait_ready(page)
    becomes(page, lambda: len(of_colour(here(page), RED)) == 14)
    return page


def test_pieces_are_put_right_and_all_of_it_holds_when_the_colours_change(boat: Page, tmp_path: Path) -> None:
    page = boat
    # A mouth vanishes with a rule, is seen, and given back; the slivers stay away and their place is filled.
    set_number(page, "Smallest piece", "25")
    wait_ready(page)
    assert len(of_colour(here(page), RED)) == 0
    way(page, "In a list")
    gone = [row for row in pieces(page) if row["reason"] == "small"]
    assert len(gone) == 14
    page.get_by_role("listitem").filter(has_text="20 mm²").filter(has_text="too small").get_by_role(
        "button", name="Give back").click()
    becomes(page, lambda: len(of_colour(here(page), RED)) == 1)
    # The frame is suggested, shown and dropped; the rest is as it was.
    body = of_colour(here(page), BODY)[0]
    way(page, "By hand")
    suggestion = page.get_by_role("note").filter(has_text="A frame runs around everything")
    suggestion.get_by_role("button", name="Show").click()
    expect(page.get_by_text(re.compile("^Dark.*narrowest|^Black.*narrowest"))).to_be_visible()
    page.get_by_role("button", name="Drop, left open").click()
    becomes(page, lambda: len(of_colour(here(page), DARK)) == 0)
    assert of_colour(here(page), BODY)[0]["path"] == body["path"]
    # A thin tail becomes wide enough.
    way(page, "By rules")
    set_number(page, "Thicken to", "2")
    wait_ready(page)
    becomes(page, lambda: of_colour(here(page), BODY)[0]["area_mm2"] > body["area_mm2"] + 10)
    expect(page.get_by_text(re.compile("put right, ringed on the stage"))).to_be_visible()
    # Other colours, and all of it still holds.
    step(page, "Colours")
    set_number(page, "How many", "3")
    wait_ready(page)
    step(page, "Pieces")
    rows = pieces(page)
    assert {row["reason"] for row in rows if row["change"] >= 0} == {"dropped"}
    expect(page.get_by_text("finds its piece no more")).to_be_hidden()
    drawing = read_svg(Path(download_to(page, tmp_path)).read_text())
    assert len(drawing.layers) >= 2


def download_to(page: Page, folder: Path) -> Path:
    download(page, folder)
    return folder / "file.svg"


def test_specks_in_a_ring_and_a_piece_by_keys(boat: Page) -> None:
    page = boat
    way(page, "By hand")
    specks = [row for row in of_colour(here(page), RED) if row["at"][1] < 0.2]
    assert len(specks) == 6
    places = np.array([at(page, row) for row in specks])
    middle, reach = places.mean(axis=0), np.ptp(places, axis=0) / 2 + 18
    page.get_by_role("button", name="Ring several").click()
    page.mouse.move(middle[0] + reach[0], middle[1])
    page.mouse.down()
    for angle in np.linspace(0, 2 * np.pi, 24):
        page.mouse.move(middle[0] + reach[0] * np.cos(angle), middle[1] + reach[1] * np.sin(angle))
    page.mouse.up()
    expect(page.get_by_text("6 pieces picked")).to_be_visible()
    page.get_by_role("button", name="Drop, filled").click()
    becomes(page, lambda: len(of_colour(here(page), RED)) == 8)
    # A ring around nothing says so.
    page.get_by_role("button", name="Ring several").click()
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 3, middle[1] + 3)
    page.mouse.move(middle[0] - 3, middle[1] + 3)
    page.mouse.up()
    expect(page.get_by_text("No piece lies whole within that ring")).to_be_visible()
    # By keys alone: the next one is picked and dropped; undo brings it back.
    page.locator("section.stage > canvas").focus()
    page.keyboard.press("n")
    expect(page.get_by_text("narrowest")).to_be_visible()
    page.keyboard.press("Delete")
    becomes(page, lambda: len(of_colour(here(page), RED)) == 7)
    page.keyboard.press("Control+z")
    becomes(page, lambda: len(of_colour(here(page), RED)) == 8)
    # A sun is pointed at, picked, given to another layer, and lifted out as an item.
    sun = of_colour(here(page), YELLOW)[0]
    page.mouse.click(*at(page, sun))
    expect(page.get_by_text(re.compile("Yellow.*narrowest"))).to_be_visible()
    page.get_by_role("button", name="Lift out").click()
    becomes(page, lambda: [item["kind"] for item in kept(page)["document"]["items"]] == ["picture", "lifted"])
    expect(page.get_by_role("heading", name="Arrange", level=2)).to_be_visible()
    wait_ready(page)


def test_a_stencil_is_bridged(page: Page, tmp_path: Path) -> None:
    card = [(shapely.box(20, 20, 380, 280).difference(circle(120, 150, 70)).difference(circle(280, 150, 70)), DARK),
            (circle(120, 150, 40), DARK), (circle(280, 150, 40), DARK)]
    rgba = painted(card, 400, 300)
    rgba[..., 3] = np.where((rgba[..., :3] > 200).all(axis=2), 0, 255)  # what is open is see-through
    Image.fromarray(rgba).save(tmp_path / "card.png")
    bring(page, tmp_path / "card.png")
    wait_ready(page)
    step(page, "Pieces")
    becomes(page, lambda: len([row for row in here(page) if row["colour"]]) == 3)
    way(page, "By rules")
    set_number(page, "Bridges", "2")
    wait_ready(page)
    expect(page.get_by_text("2 bridges tie everything together.")).to_be_visible()
    assert len([row for row in here(page) if row["colour"]]) == 1
    # One of them is pulled to another place: everything still hangs together by two.
    made = page.evaluate("fetch('/api' + location.pathname + '/result').then((r) => r.json())")["items"][0]
    a, b, c, d, e, f = made["placement"]
    (x, y), _ = made["facts"]["pieces"]["bridges"][0]
    end = on_stage(page, a * x + b * y + c, d * x + e * y + f)
    drag(page, end, (end[0] + 6, end[1] + 14))

    def changes() -> list[str]:
        return [one["kind"] for one in kept(page)["document"]["items"][0]["course"]["pieces"]["changes"]]

    becomes(page, lambda: changes() == ["bridge"])
    assert len([row for row in here(page) if row["colour"]]) == 1
    wait_ready(page)
