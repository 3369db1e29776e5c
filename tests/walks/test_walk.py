"""Walks through the real interface in a real browser, from the empty shelf to the file."""

from __future__ import annotations

import re
import statistics
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from bisectum.core.formats.svg.read import read_svg
from tests.walks.conftest import Server, serving

DEMO = Path(__file__).parents[2] / "demo" / "pictures"


def bring(page: Page, path: Path) -> None:
    page.locator("input[type=file]").set_input_files(path)


def wait_ready(page: Page) -> None:
    expect(page.get_by_text("Cut lines are ready")).to_be_visible(timeout=90_000)  # two servers may be starting side by side


def step(page: Page, name: str) -> None:
    page.get_by_role("navigation").get_by_role("button", name=re.compile(f"^{name}")).click()
    expect(page.get_by_role("heading", name=name, level=2)).to_be_visible()


def unfold(page: Page, title: str) -> None:
    """Open what is behind a title in the tray, if it is shut."""
    fold = page.locator("details", has=page.locator("summary", has_text=title)).first
    if fold.get_attribute("open") is None:
        fold.locator("summary").click()


def set_number(page: Page, label: str, value: str) -> None:
    field = page.get_by_label(label, exact=True).and_(page.locator("input[role=spinbutton]"))
    field.fill(value)
    field.press("Enter")


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option, exact=True).click()


def build_as(page: Page, build: str) -> None:
    choose(page, "How layers meet", build)


@pytest.fixture()
def own_server(page: Page, tmp_path: Path) -> Iterator[Server]:
    """A server with an empty shelf, which may be killed."""
    with serving(tmp_path / "data") as server:
        page.goto(server.address)
        yield server


def test_from_the_empty_shelf_to_the_file(page: Page, own_server: Server, pictures: Path, tmp_path: Path) -> None:
    expect(page.get_by_role("heading", name="Drop a picture here")).to_be_visible()
    expect(page.get_by_text("Nothing on it yet")).to_be_visible()

    # A bad file: one sentence, and the shelf as it was.
    bad = tmp_path / "boat.png"
    bad.write_text("not a picture")
    bring(page, bad)
    expect(page.get_by_role("alert")).to_contain_text("no picture that can be read", timeout=30_000)  # servers are starting
    expect(page.get_by_text("Nothing on it yet")).to_be_visible()

    began = time.monotonic()
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    assert time.monotonic() - began < 10
    expect(page.get_by_text("6 found.")).to_be_visible()

    expect(page.locator("img.where")).to_have_count(6)

    # Colours by number, seen at once; undo takes them back.
    set_number(page, "How many", "4")
    expect(page.get_by_text("5 found. As many as you asked for, and paper that is shut in; 6 stand out.")).to_be_visible()
    expect(page.locator("img.where")).to_have_count(5)
    page.get_by_role("button", name="Undo: Number of colours").click()
    expect(page.get_by_text("6 found.")).to_be_visible()
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_text("5 found.")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("6 found.")).to_be_visible()

    # Background, lines, layers.
    step(page, "Background")
    set_number(page, "Reach", "3.0")
    wait_ready(page)
    step(page, "Lines")
    before = page.get_by_text(re.compile(r"^\s*\d+ nodes on")).inner_text()
    set_number(page, "Closeness", "0.5")
    expect(page.get_by_text(before)).to_be_hidden()
    step(page, "Layers")
    build_as(page, "Flush")
    expect(page.get_by_text("edge to edge", exact=False).first).to_be_visible()
    wait_ready(page)
    page.get_by_label("Name of Blue").fill("Harbour water")
    page.get_by_label("Name of Blue").press("Enter")
    expect(page.get_by_label("Name of Harbour water")).to_be_visible()
    page.get_by_role("button", name="Move Harbour water down").click()
    expect(page.get_by_role("button", name="Move Harbour water up")).to_be_enabled()

    # The finished size, in inches.
    page.get_by_role("button", name=re.compile("Finished size")).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="in", exact=True).click()
    dialog.get_by_role("spinbutton", name="Width").fill("5")
    dialog.get_by_role("spinbutton", name="Width").press("Enter")
    dialog.get_by_role("button", name="Done").click()
    expect(page.get_by_role("button", name=re.compile(r"Finished size 5\.00 ×"))).to_be_visible()

    # A reload in the middle, and a server that is killed: everything as it was.
    page.reload()
    wait_ready(page)
    own_server.kill()
    own_server.start()
    page.reload()
    wait_ready(page)
    step(page, "Layers")
    expect(page.get_by_label("Name of Harbour water")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile(r"Finished size 5\.00 ×"))).to_be_visible()

    page.get_by_role("button", name="Export", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Download SVG").click()
    drawing = read_svg(Path(download.value.path()).read_text())
    assert download.value.suggested_filename == "lighthouse.svg"
    assert abs(drawing.width_mm - 127) < 1e-3
    assert "Harbour water" in [layer.title for layer in drawing.layers]
    assert len(drawing.layers) == 6
    expect(page.get_by_text("read back and compared")).to_be_visible()

    page.get_by_role("link", name="Back to the shelf").click()
    expect(page.get_by_role("link", name="Open lighthouse")).to_be_visible()


def test_seam_zoom_and_edge_view_by_keyboard(page: Page, pictures: Path) -> None:
    bring(page, pictures / "berth-sign.png")
    wait_ready(page)
    bars = page.locator("figure svg rect")
    expect(bars.nth(2)).to_be_attached()
    seam = page.get_by_role("slider", name="Seam")
    seam.focus()
    for _ in range(9):
        page.keyboard.press("Shift+ArrowLeft")
    expect(seam).to_have_attribute("aria-valuenow", "5")
    expect(page.get_by_text("Nothing is cut here.")).to_be_visible()
    for _ in range(9):
        page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_text(re.compile(r"Dark blue.*films? thick here"))).to_be_visible()
    stage = page.locator("section canvas").first
    stage.focus()
    page.keyboard.press("+")
    expect(page.get_by_text("125 %")).to_be_visible()
    page.keyboard.press("t")
    expect(seam).to_have_attribute("aria-orientation", "vertical")
    page.keyboard.press("Home")
    expect(page.get_by_text("100 %")).to_be_visible()
    page.keyboard.press("4")
    expect(page.get_by_role("heading", name="Lines", level=2)).to_be_visible()


def test_a_preview_follows_the_hand(page: Page, pictures: Path) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Lines")
    handle = page.locator(".slider .p-slider-handle").first
    box = handle.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 6, box["y"] + 10)
    page.mouse.down()
    times = []
    for move in range(1, 9):
        began = time.monotonic()
        with page.expect_response(re.compile("preview"), timeout=5000) as answer:
            page.mouse.move(box["x"] + 6 + 9 * move, box["y"] + 10)
        if answer.value.status == 200:
            times.append(time.monotonic() - began)
    expect(page.get_by_text("Preview", exact=True)).to_be_visible()
    page.mouse.up()
    wait_ready(page)
    expect(page.get_by_role("button", name="Undo: Closeness of the lines")).to_be_enabled()
    assert times and statistics.median(times) < 2.0  # a hang would show; speed itself is shown in bench/


@pytest.mark.parametrize("leaving", ["tray", "page"])
def test_a_change_by_key_is_kept_whatever_comes_next(page: Page, pictures: Path, leaving: str) -> None:
    bring(page, pictures / "berth-sign.png")
    wait_ready(page)
    step(page, "Lines")
    page.locator(".slider .p-slider-handle").first.focus()
    page.keyboard.press("ArrowRight")
    if leaving == "page":
        page.reload()
    else:
        step(page, "Layers")
    wait_ready(page)
    expect(page.get_by_role("button", name="Undo: Closeness of the lines")).to_be_enabled()


GIVE = """async (kind) => {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 120;
  const pen = canvas.getContext("2d");
  pen.fillStyle = "white";
  pen.fillRect(0, 0, 120, 120);
  pen.fillStyle = kind === "drop" ? "navy" : "crimson";
  pen.fillRect(30, 30, 60, 60);
  const blob = await new Promise((done) => canvas.toBlob(done, "image/png"));
  const held = new DataTransfer();
  held.items.add(new File([blob], `${kind}ped.png`, { type: "image/png" }));
  const options = { bubbles: true, cancelable: true };
  document.body.dispatchEvent(
    kind === "drop"
      ? new DragEvent("drop", { ...options, dataTransfer: held })
      : new ClipboardEvent("paste", { ...options, clipboardData: held }),
  );
}"""


def test_pictures_can_be_dropped_and_pasted(page: Page) -> None:
    for kind in ("drop", "paste"):
        page.evaluate(GIVE, kind)
        wait_ready(page)
        expect(page.get_by_label("Name of the job")).to_have_value(f"{kind}ped")
        expect(page.get_by_text("1 found.")).to_be_visible()
        page.get_by_role("link", name="Back to the shelf").click()
        expect(page.get_by_role("link", name=f"Open {kind}ped").first).to_be_visible()


def test_lines_are_corrected_by_hand(page: Page, pictures: Path) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Lines")
    # A corner of the sea, which only this layer has, found on the stage the way the stage is fitted.
    result = page.evaluate("fetch('/api' + location.pathname + '/result').then((r) => r.json())")
    sea = next(layer for layer in result["layers"] if layer["name"] == "Blue")
    nodes = re.findall(r"(-?[\d.]+),(-?[\d.]+)(?=[MLCZ])", sea["path"])
    x, y = max(((float(x), float(y)) for x, y in nodes), key=lambda place: 3 * place[0] - place[1])
    canvas = page.get_by_role("img", name=re.compile("Cut lines can be corrected"))
    box = canvas.bounding_box()
    assert box is not None
    scale = min((box["width"] - 88) / result["width_mm"], (box["height"] - 88) / result["height_mm"])
    left, top = (box["width"] - result["width_mm"] * scale) / 2, (box["height"] - result["height_mm"] * scale) / 2
    at = box["x"] + left + x * scale, box["y"] + top + y * scale
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] - 30, at[1] - 25, steps=5)
    expect(page.get_by_text("Preview", exact=True)).to_be_visible()
    page.mouse.up()
    expect(page.get_by_text("1 correction. It stays when lines are drawn anew.")).to_be_visible()
    wait_ready(page)
    expect(page.get_by_text("left out")).to_have_count(0)
    page.get_by_role("button", name="Round it").click()
    expect(page.get_by_text("2 corrections.")).to_be_visible()
    wait_ready(page)
    set_number(page, "Closeness", "0.3")
    wait_ready(page)
    expect(page.get_by_text("left out")).to_have_count(0)
    page.reload()
    wait_ready(page)
    step(page, "Lines")
    expect(page.get_by_text("2 corrections.")).to_be_visible()
    canvas.focus()
    page.keyboard.press("n")
    expect(page.get_by_text("One node picked.")).to_be_visible()
    page.keyboard.press("Alt+ArrowRight")
    expect(page.get_by_text("3 corrections.")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("2 corrections.")).to_be_visible()
    page.get_by_role("button", name="Take back all").click()
    expect(page.get_by_text(re.compile("corrections?\\."))).to_have_count(0)
    page.get_by_role("button", name="Mark a part with its own settings").click()
    page.mouse.move(box["x"] + left - 10, box["y"] + top + 0.5 * result["height_mm"] * scale)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] - 5, box["y"] + box["height"] - 5, steps=4)
    page.mouse.up()
    expect(page.get_by_role("button", name="Part 1", exact=True)).to_have_attribute("aria-pressed", "true")
    set_number(page, "Fewer nodes", "2")
    wait_ready(page)
    page.get_by_role("button", name="Drop part 1").click()
    expect(page.get_by_role("button", name="Part 1", exact=True)).to_have_count(0)
    step(page, "Layers")
    build_as(page, "Lapped")
    wait_ready(page)
    set_number(page, "Lap", "1.5")
    wait_ready(page)
    expect(page.get_by_text("Lapped, Blue lowest")).to_be_visible()


def on_stage(page: Page, share_x: float, share_y: float) -> tuple[float, float]:
    """Where a share of the picture's width lies on the screen, while the stage shows all."""
    result = page.evaluate("fetch('/api' + location.pathname + '/result').then((r) => r.json())")
    box = page.locator("section canvas").first.bounding_box()
    assert box is not None
    scale = min((box["width"] - 88) / result["width_mm"], (box["height"] - 88) / result["height_mm"])
    left, top = (box["width"] - result["width_mm"] * scale) / 2, (box["height"] - result["height_mm"] * scale) / 2
    a, b, c, d, e, f = result["items"][0]["placement"]
    x, y = a * share_x + b * share_y + c, d * share_x + e * share_y + f
    return box["x"] + left + x * scale, box["y"] + top + y * scale


def background_share(page: Page) -> float:
    result = page.evaluate("fetch('/api' + location.pathname + '/result').then((r) => r.json())")
    return result["items"][0]["facts"]["background"]["share"]


def test_the_railings_ground_goes_and_comes_back(page: Page, pictures: Path) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Background")
    expect(page.get_by_text("4 spots are ringed. 4 stay as pieces")).to_be_visible()
    page.get_by_role("checkbox", name="1 maybe").check()
    expect(page.get_by_text("3 stay as pieces")).to_be_visible()
    page.get_by_text("All go", exact=True).click()
    expect(page.get_by_text("All of them go.")).to_be_visible()
    wait_ready(page)
    expect(page.get_by_text("5 colours")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("3 stay as pieces")).to_be_visible()
    page.get_by_text("As mask", exact=True).click()


def test_a_kettle_is_cleared_with_strokes_and_stays_so_when_turned(page: Page) -> None:
    bring(page, DEMO / "kettle.jpg")
    wait_ready(page)
    step(page, "Background")
    expect(page.get_by_text("The subject was kept")).to_be_visible()
    before = background_share(page)
    assert 0.7 < before < 0.85
    page.get_by_role("button", name="Drop stroke").click()
    page.mouse.move(*on_stage(page, 0.55, 0.2))
    page.mouse.down()
    page.mouse.move(*on_stage(page, 0.5, 0.21), steps=6)
    page.mouse.up()
    expect(page.get_by_text("1. dropped")).to_be_visible()
    wait_ready(page)
    page.get_by_role("button", name="Clearing brush").click()
    page.mouse.move(*on_stage(page, 0.5, 0.55))
    page.mouse.down()
    page.mouse.move(*on_stage(page, 0.6, 0.55), steps=6)
    page.mouse.up()
    expect(page.get_by_text("2. brushed away")).to_be_visible()
    wait_ready(page)
    brushed = background_share(page)
    assert brushed > before + 0.002
    page.get_by_role("button", name="Clear a spot").click()
    with page.expect_response(re.compile("/spot$")) as answer:
        page.mouse.move(*on_stage(page, 0.45, 0.6))
    assert answer.value.status == 200
    page.keyboard.press("Escape")
    step(page, "Picture")
    page.get_by_role("button", name="Turn right").click()
    wait_ready(page)
    expect(page.get_by_role("button", name="Undo: Turned")).to_be_enabled()
    assert background_share(page) == pytest.approx(brushed, abs=0.004)
    step(page, "Background")
    page.get_by_role("button", name="Take out mark 2").click()
    wait_ready(page)
    assert background_share(page) < brushed - 0.002
    expect(page.get_by_text("2. brushed away")).to_have_count(0)


def test_a_wrong_count_is_put_right_and_layers_are_matched_to_the_drawer(
    page: Page, own_server: Server, pictures: Path, tmp_path: Path
) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Colours")
    chip = page.locator(".chip")
    expect(chip).to_have_count(6)
    set_number(page, "How many", "4")
    expect(chip).to_have_count(5)  # and the paper that is shut in
    expect(page.get_by_text(re.compile(r"[A-Z][a-z ]+ \(#[0-9a-f]{6}\) went into [A-Z]")).first).to_be_visible()
    unfold(page, "Pin, shade, give away")
    page.get_by_role("button", name="Dropper").click()
    page.mouse.click(*on_stage(page, 0.4758, 0.379))  # in a lit pane
    expect(page.get_by_label("Colour value")).to_have_value("#f2c14e")
    expect(page.get_by_text("2 pieces · pinned")).to_be_visible()  # a click is enough
    page.get_by_label("Name of the colour").fill("Lamp")
    page.get_by_role("button", name="Name it").click()
    expect(page.get_by_text("Lamp", exact=True).first).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Count them by itself").click()
    expect(chip).to_have_count(6)
    # Two blues are one: dragged with the pointer.
    page.get_by_role("heading", name="Colours", level=2).scroll_into_view_if_needed()
    dark = chip.filter(has=page.get_by_text("Dark blue", exact=True))
    dark.drag_to(chip.filter(has=page.get_by_text("Blue", exact=True)).first)
    expect(chip).to_have_count(5)
    expect(page.get_by_text("merged")).to_be_visible()
    wait_ready(page)
    step(page, "Layers")
    page.get_by_text("From your drawer").click()
    expect(page.get_by_text("Your drawer is empty")).to_be_visible()
    drawer = tmp_path / "drawer.csv"
    drawer.write_text(
        "name,kind,colour,width_mm,height_mm,on_hand,finish\r\nHarbour blue,adhesive vinyl,#2e5c7a,305,305,yes,matt\r\n"
        "Buoy red,adhesive vinyl,#c9452e,305,305,no,\r\n", newline="",
    )
    page.get_by_role("button", name="Open the drawer").click()
    page.locator("input[type=file][accept*=csv]").set_input_files(drawer)
    expect(page.get_by_label("Name of material 2")).to_have_value("Buoy red")
    page.get_by_label("Name of material 1").fill("Quay blue")
    page.get_by_label("Name of material 1").press("Tab")
    page.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_text("for Blue · same (0.5)")).to_be_visible()
    expect(page.get_by_text("To be bought:")).to_be_visible()
    page.get_by_role("button", name="Use Quay blue for Blue").click()
    expect(page.get_by_label("Name of Quay blue")).to_have_value("Quay blue")
    wait_ready(page)
    step(page, "Export")
    with page.expect_download() as download:
        page.get_by_role("button", name="Download SVG").click()
    drawing = read_svg(Path(download.value.path()).read_text())
    assert len(drawing.layers) == 5 and "#2e5c7a" in {layer.fill for layer in drawing.layers}
