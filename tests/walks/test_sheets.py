"""Walks through layers for the cloth and sheets for the mat, to the files that are carried to the machine."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import svgelements
from numpy.typing import NDArray
from playwright.sync_api import Locator, Page, expect

from bisectum.core.formats.svg.read import read_svg
from tests.walks.test_strokes import result
from tests.walks.test_walk import bring, choose, set_number, step, unfold, wait_ready

STOCKS = [("Harbour blue", "#2e5c7a", "adhesive vinyl"), ("Sailcloth cream", "#f3e9d4", "adhesive vinyl"),
          ("Buoy red", "#c4422e", "heat-transfer vinyl")]


def fill_drawer(page: Page) -> None:
    stocks = [{"name": name, "kind": kind, "colour": colour, "width_mm": 305, "height_mm": 305, "on_hand": name != "Buoy red",
               "finish": ""} for name, colour, kind in STOCKS]
    page.evaluate("""async (stocks) => {
        const { version } = await (await fetch("/api/stocks")).json();
        const body = JSON.stringify({ version, stocks });
        await fetch("/api/stocks", { method: "PUT", headers: { "Content-Type": "application/json" }, body });
    }""", stocks)


def names_of_layers(page: Page) -> list[str]:
    return [box.input_value() for box in layer_names(page).all()]


def layer_names(page: Page) -> Locator:
    return page.get_by_role("list").get_by_label(re.compile("^Name of "))


def test_a_press_moves_a_layer_by_one_place_however_slow_the_server(page: Page, pictures: Path) -> None:
    """Each answer is held back, and presses follow at once; then as many undos."""
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Layers")
    expect(layer_names(page)).to_have_count(6)
    before = names_of_layers(page)

    page.evaluate("""() => {
        window.atOnce = window.fetch;
        window.fetch = (...asked) => new Promise((go) => setTimeout(go, 700)).then(() => window.atOnce(...asked));
    }""")
    wanted = list(before)
    for name, by in ((before[5], -1), (before[5], -1), (before[0], 1), (before[3], -1)):
        at = wanted.index(name)
        wanted[at], wanted[at + by] = wanted[at + by], wanted[at]
        page.get_by_role("button", name=f"Move {name} {'up' if by < 0 else 'down'}", exact=True).click()
        assert names_of_layers(page) == wanted
    page.get_by_label(f"Name of {wanted[2]}").press("Alt+ArrowDown")
    wanted[2], wanted[3] = wanted[3], wanted[2]
    assert names_of_layers(page) == wanted
    page.wait_for_timeout(700 * 2 * 5)
    page.evaluate("() => { window.fetch = window.atOnce; }")
    wait_ready(page)
    assert [layer["name"] for layer in result(page)["layers"]] == wanted
    assert names_of_layers(page) == wanted
    for _ in range(5):
        page.keyboard.press("Control+z")
        page.wait_for_timeout(600)
    wait_ready(page)
    assert [layer["name"] for layer in result(page)["layers"]] == before
    page.get_by_role("button", name="Join all layers").click()
    expect(layer_names(page)).to_have_count(1)
    wait_ready(page)
    assert len(result(page)["layers"]) == 1


def to_sheets(page: Page, count: int, timeout: float = 40_000) -> None:
    step(page, "Sheets")
    laid_out(page, count, timeout)


def laid_out(page: Page, count: int, timeout: float = 40_000) -> None:
    unfold(page, "Each sheet")
    expect(page.get_by_role("list", name="Sheets").get_by_role("listitem")).to_have_count(count, timeout=timeout)
    expect(page.get_by_text("Laying out")).to_have_count(0, timeout=timeout)


def all_sheets(page: Page, folder: Path) -> tuple[str, dict[str, bytes]]:
    with page.expect_download(timeout=60_000) as got:
        page.get_by_role("button", name="Download all sheets").click()
    path = folder / "sheets.zip"
    got.value.save_as(path)
    with zipfile.ZipFile(path) as archive:
        return got.value.suggested_filename, {name: archive.read(name) for name in archive.namelist()}


def cut_in(data: bytes, group: str) -> NDArray[np.float64]:
    """All corners of what is cut in a group of a file, by svgelements: (N, 2) mm, sorted."""
    document = svgelements.SVG.parse(io.BytesIO(data), ppi=25.4)
    found = [(point.x, point.y) for one in document if isinstance(one, svgelements.Group) and str(one.id).startswith(group)
             for path in one if isinstance(path, svgelements.Path) for point in path.as_points()]
    return np.array(sorted(found))


def test_the_lighthouse_in_three_stocks_lies_in_register_on_three_mats(page: Page, pictures: Path, tmp_path: Path) -> None:
    fill_drawer(page)
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Layers")
    for name, other in (("White", "Cream"), ("Yellow", "Red"), ("Dark blue", "Blue")):
        page.get_by_role("button", name=f"More about {name}", exact=True).click()
        choose(page, "Join with another layer", other)
        expect(page.get_by_role("button", name=f"More about {name}", exact=True)).to_have_count(0, timeout=20_000)
        wait_ready(page)
    assert len(result(page)["layers"]) == 3
    for layer, (stock, _, kind) in zip(("Blue", "Cream", "Red"), STOCKS, strict=True):
        page.get_by_role("button", name=f"More about {layer}", exact=True).click()
        choose(page, "Cut from", f"{stock} · {kind}")
        expect(page.get_by_label(f"Name of {stock}")).to_be_visible(timeout=20_000)
        wait_ready(page)
    before = result(page)
    to_sheets(page, 3)
    page.get_by_text("Register marks and weeding").click()
    choose(page, "Register marks and weeding", "Crosses")
    laid_out(page, 3)
    unfold(page, "What it takes")
    takes = page.get_by_role("region", name="What it takes")
    expect(takes).to_contain_text("Buoy red not on hand")
    expect(takes).to_contain_text("To be bought: Buoy red (1 sheet)")
    page.wait_for_timeout(800)
    name, files = all_sheets(page, tmp_path)
    assert name.endswith("-sheets.zip") and len(files) == 3
    step(page, "Layers")
    unfold(page, "From your drawer")
    page.get_by_role("button", name="Open the drawer").click()
    row = page.get_by_role("row").filter(has=page.get_by_label("Colour of Buoy red"))
    expect(row).to_contain_text("929 cm², 1 make")  # a sheet of 12 × 12 inches
    page.keyboard.press("Escape")
    assert [("mirrored" in one) for one in sorted(files)] == [False, False, True]  # heat-transfer vinyl only
    marks = []
    for number, (file, data) in enumerate(sorted(files.items())):
        assert STOCKS[number][0].replace(" ", "-") in file
        drawing = read_svg(data.decode())
        assert (drawing.width_mm, drawing.height_mm) == (pytest.approx(304.8), pytest.approx(304.8))
        own, crosses = cut_in(data, "layer-1"), cut_in(data, "cut-")
        if "mirrored" in file:
            own, crosses = (np.array(sorted((304.8 - x, y) for x, y in points)) for points in (own, crosses))
        marks.append(crosses)
        # Where the layer lies on the page, moved by the corner of the usable area and what the marks need.
        path = svgelements.Path(before["layers"][number]["path"])
        wanted = np.array([(point.x, point.y) for point in path.as_points()]) + 6.35 + 8
        apart = np.hypot(*(own[:, None] - wanted[None]).transpose(2, 0, 1))
        assert max(apart.min(axis=0).max(), apart.min(axis=1).max()) < 2e-3
    assert max(np.abs(one - marks[0]).max() for one in marks) < 2e-3 and len(marks[0])


def test_a_dozen_badges_lie_close_together_on_a_roll(page: Page, badge: bytes, tmp_path: Path) -> None:
    picture = tmp_path / "crew badge.png"
    picture.write_bytes(badge)
    bring(page, picture)
    wait_ready(page)
    layers = len(result(page)["layers"])
    to_sheets(page, layers)
    choose(page, "Mat, roll or card", "18 in roll")
    page.get_by_role("button", name="Close together").click()
    set_number(page, "Copies", "12")
    expect(page.get_by_text("12 parts").first).to_be_visible(timeout=40_000)
    laid_out(page, layers)
    unfold(page, "What it takes")
    expect(page.get_by_role("region", name="What it takes")).to_contain_text("m of roll")
    # One part is turned by hand, and lies so in the file.
    stage = page.get_by_role("img", name=re.compile("All sheets, to scale"))
    stage.focus()
    page.keyboard.press("n")
    expect(page.get_by_text("Picked: drag it")).to_be_visible()
    for _ in range(3):
        page.keyboard.press("r")
    expect(page.get_by_role("button", name="Put it back")).to_be_visible(timeout=20_000)
    laid_out(page, layers)
    with page.expect_download(timeout=60_000) as got:
        page.get_by_role("button", name="Download sheet 1").click()
    drawing = read_svg(Path(got.value.path()).read_text())
    assert len(drawing.layers[0].areas) == 12 and drawing.width_mm == pytest.approx(457.2)
    assert max(drawing.layers[0].areas) - min(drawing.layers[0].areas) < 0.05
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_role("button", name="Put it back")).to_have_count(0, timeout=20_000)


def test_the_kettle_in_tones_for_light_and_dark_cloth(page: Page, pictures: Path, tmp_path: Path) -> None:
    bring(page, pictures / "kettle.jpg")
    wait_ready(page)
    step(page, "Colours")
    choose(page, "It becomes", "Tones, light to dark")
    wait_ready(page)
    step(page, "Layers")
    light = {layer["colour"] for layer in result(page)["layers"]}
    page.get_by_text("For other cloth").click()
    page.get_by_role("button", name="Reverse for the opposite cloth").click()
    expect(page.get_by_label("Name of the cloth").nth(1)).to_have_value("Dark cloth", timeout=20_000)
    expect(page.get_by_role("combobox").filter(has_text="For Dark cloth")).to_be_visible(timeout=40_000)
    wait_ready(page)
    cloth = page.evaluate("fetch('/api' + location.pathname).then((r) => r.json())")["document"]["make"]["layers"]["variants"][0]
    dark = page.evaluate(f"fetch('/api' + location.pathname + '/cloths/{cloth['id']}/result').then((r) => r.json())")
    assert {layer["colour"] for layer in dark["layers"]} != light and dark["cloth"] == "Dark cloth"
    step(page, "Export")
    for name in ("Light cloth", "Dark cloth"):
        choose(page, "For which cloth", name)
        with page.expect_download(timeout=60_000) as got:
            page.get_by_role("button", name="Download SVG").click()
        assert got.value.suggested_filename == f"kettle-for-{name.replace(' ', '-')}.svg"
        assert read_svg(Path(got.value.path()).read_text()).layers
    to_sheets(page, len(light))
    choose(page, "For which cloth", "Dark cloth")
    laid_out(page, len(dark["layers"]))
    page.wait_for_timeout(500)
    _, files = all_sheets(page, tmp_path)
    assert len(files) == len(dark["layers"]) and all("for-Dark-cloth" in file for file in files)


def test_a_sign_larger_than_its_mat_is_split_and_marked(page: Page, pictures: Path, tmp_path: Path) -> None:
    bring(page, pictures / "berth-sign.png")
    wait_ready(page)
    page.get_by_role("button", name=re.compile("^Finished size")).click()
    dialog = page.get_by_role("dialog")
    page.wait_for_timeout(500)  # once it has come in, the dialog takes the focus itself
    field = dialog.get_by_role("spinbutton", name="Width")
    field.fill("480")
    field.press("Enter")
    dialog.get_by_role("button", name="Done").click()
    wait_ready(page)
    layers = len(result(page)["layers"])
    to_sheets(page, layers)
    expect(page.get_by_text("does not fit on “12 × 12 in mat”")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Size it to [0-9]"))).to_be_visible()
    expect(page.get_by_role("button", name="Download all sheets")).to_be_disabled()  # and why is said beside it
    expect(page.get_by_text(re.compile("^Not yet: on sheet 1, .* sticks out beyond the usable area"))).to_be_visible()
    page.get_by_role("button", name="Calmest way").click()
    expect(page.get_by_role("list", name="Sheets").get_by_role("listitem").nth(layers)).to_be_visible(timeout=40_000)
    page.wait_for_timeout(500)
    _, files = all_sheets(page, tmp_path)
    assert len(files) > layers
    for data in files.values():
        assert [group.title.split(":")[0] for group in read_svg(data.decode()).strokes] == ["Cut lines"]  # the matching marks
    # The other ways out: a smaller make.
    page.get_by_role("button", name="Leave it").click()
    page.get_by_role("button", name=re.compile("^Size it to [0-9]")).click()
    expect(page.get_by_text("does not fit on")).to_have_count(0, timeout=40_000)
    laid_out(page, layers)


def test_a_decal_for_the_back_of_glass_is_mirrored(page: Page, badge: bytes, tmp_path: Path) -> None:
    picture = tmp_path / "decal.png"
    picture.write_bytes(badge)
    bring(page, picture)
    wait_ready(page)
    to_sheets(page, len(result(page)["layers"]))

    def first() -> tuple[str, NDArray[np.float64]]:
        with page.expect_download(timeout=60_000) as got:
            page.get_by_role("button", name="Download sheet 1").click()
        return got.value.suggested_filename, cut_in(Path(got.value.path()).read_bytes(), "layer-1")

    name, straight = first()
    choose(page, "Mirrored", "All: for the back of glass")
    expect(page.get_by_text("1 part, mirrored").first).to_be_visible(timeout=20_000)
    other, flipped = first()
    assert "mirrored" in other and "mirrored" not in name
    assert np.abs(np.array(sorted((304.8 - x, y) for x, y in flipped)) - straight).max() < 2e-3
    # The same sheet for machines that take no SVG.
    others = (("DXF, exact curves (2000)", ".dxf", b"  0\nSECTION"), ("HPGL, for plotters", ".plt", b"IN;\nSP1;"))
    for kind, ending, begins in others:
        choose(page, "Kind of file", kind)
        with page.expect_download(timeout=60_000) as got:
            page.get_by_role("button", name="Download sheet 1").click()
        assert got.value.suggested_filename.endswith(ending) and Path(got.value.path()).read_bytes().startswith(begins)


def test_what_cannot_be_laid_out_is_said_and_the_job_stays(page: Page, badge: bytes, tmp_path: Path) -> None:
    picture = tmp_path / "small.png"
    picture.write_bytes(badge)
    bring(page, picture)
    wait_ready(page)
    to_sheets(page, len(result(page)["layers"]))
    page.get_by_text("Register marks and weeding").click()
    set_number(page, "Margin along the edge", "180")
    expect(page.get_by_text("Nothing of “12 × 12 in mat” can be cut on").first).to_be_visible(timeout=20_000)
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.get_by_text("can be cut on")).to_have_count(0, timeout=20_000)
    laid_out(page, len(result(page)["layers"]))


def test_layers_are_seen_alone_apart_and_put_on_one_by_one(page: Page, pictures: Path) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Layers")
    page.get_by_role("button", name="Show Red alone").click()
    expect(page.get_by_role("combobox").filter(has_text="One layer alone")).to_be_visible()
    unfold(page, "Put on one by one")
    slider = page.get_by_role("slider", name="Put on one by one")
    slider.focus()
    page.keyboard.press("Home")
    expect(page.get_by_text("Clean and dry, before the first layer.")).to_be_visible()
    page.keyboard.press("End")
    expect(page.get_by_text("Yellow: line it up by the marks, rub it on.")).to_be_visible()
    second = page.get_by_role("combobox").filter(has_text="Made up")
    second.click()
    page.get_by_role("option", name="Spread, layers apart").click()
    expect(page.get_by_text(re.compile("At most 2 films over each other"))).to_be_visible()
    before: dict[str, Any] = result(page)
    # Dragged onto another one, a layer joins it; parted off it is a layer again.
    page.get_by_role("listitem").filter(has=page.get_by_label("Name of Yellow")).drag_to(
        page.get_by_role("listitem").filter(has=page.get_by_label("Name of White")))
    expect(page.get_by_label("Name of Yellow")).to_have_count(0, timeout=20_000)
    wait_ready(page)
    page.get_by_role("button", name="More about White").click()
    page.get_by_role("button", name=re.compile("^Part #f2c14e")).click()
    expect(page.get_by_label("Name of Yellow")).to_have_count(1, timeout=20_000)
    wait_ready(page)
    assert {layer["colour"] for layer in result(page)["layers"]} == {layer["colour"] for layer in before["layers"]}
