"""Photographs in a real browser: from the shelf by try-outs to the file, tones on cloth, light by hand."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pillow_heif
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from bisectum.core.formats.svg.read import ReadDrawing, read_svg
from bisectum.core.raster.difference import ciede2000, cielab
from tests.support.strangers import shipped
from tests.walks.test_arrange import add
from tests.walks.test_several import becomes, kept
from tests.walks.test_walk import bring, on_stage, set_number, step, unfold, wait_ready


def made(page: Page, count: int) -> None:
    expect(page.locator(".card:not([disabled])").nth(count - 1)).to_be_visible(timeout=30_000)


def bring_shipped(page: Page, folder: Path, name: str, step_px: int = 1) -> None:
    """A photograph of a package, every step_px-th pixel of it."""
    path = folder / f"{name}.png"
    Image.fromarray(np.ascontiguousarray(shipped(name)[::step_px, ::step_px, :3])).save(path)
    bring(page, path)
    wait_ready(page)


def downloaded(page: Page) -> ReadDrawing:
    page.get_by_role("button", name="Export", exact=True).click()
    button = page.get_by_role("button", name="Download SVG")
    expect(button).to_be_enabled(timeout=90_000)  # not before all of the job is worked out
    with page.expect_download(timeout=90_000) as download:
        button.click()
    return read_svg(Path(download.value.path()).read_text())


@pytest.mark.parametrize("name", ["kettle.jpg"])
def test_from_the_shelf_by_try_outs_to_the_file(page: Page, pictures: Path, name: str) -> None:
    bring(page, pictures / name)
    wait_ready(page)
    page.get_by_role("button", name="Try-outs side by side").click()
    made(page, 9)
    page.get_by_role("button", name="Export", exact=True).click()  # whatever is opened, the page gives way
    page.get_by_role("navigation").get_by_role("button", name=re.compile("^Colours")).click()
    page.get_by_role("button", name="Try-outs side by side").click()
    page.get_by_role("button", name="Try-out D: 4 colours").click()
    expect(page.get_by_role("heading", name="D: 4 colours")).to_be_visible()
    expect(page.get_by_text(re.compile(r"About \d+ min"))).to_be_visible()
    page.get_by_role("slider", name="Seam between both").press("ArrowRight")
    page.get_by_role("button", name="More like D").click()
    expect(page.get_by_role("button", name=re.compile("Finer, like D"))).to_be_enabled(timeout=20_000)
    page.get_by_role("button", name="Take D").click()
    wait_ready(page)
    expect(page.get_by_label("How many", exact=True).and_(page.locator("input"))).to_have_value("4")
    drawing = downloaded(page)
    assert len(drawing.layers) == 4 and all(min(layer.areas) >= 1 for layer in drawing.layers)
    page.get_by_role("button", name="Undo: A try-out taken").click()
    wait_ready(page)
    step(page, "Colours")
    unfold(page, "Detail and light")
    expect(page.get_by_label("Dark lines save eyes and mouths")).to_be_checked()


def test_a_phones_picture_that_is_all_subject_is_kept_until_a_cut_out_is_chosen(page: Page, tmp_path: Path) -> None:
    pillow_heif.from_pillow(Image.fromarray(shipped("chelsea")[..., :3])).save(tmp_path / "cat.heic", quality=90)
    bring(page, tmp_path / "cat.heic")
    wait_ready(page)
    step(page, "Background")
    expect(page.get_by_text("Nothing was removed: the picture may be all subject.")).to_be_visible()
    offered = page.get_by_role("region", name="Cut out the subject").get_by_role("button")
    assert 1 <= offered.count() <= 3
    page.wait_for_function("() => [...document.querySelectorAll('.cutouts img')].every((image) => image.naturalWidth > 40)")
    offered.first.press("Enter")
    expect(page.get_by_text("The subject was kept, all around it taken away.")).to_be_visible(timeout=30_000)
    expect(offered.first).to_have_attribute("aria-pressed", "true")
    wait_ready(page)
    drawing = downloaded(page)
    assert drawing.layers and all(min(layer.areas) >= 1 for layer in drawing.layers)
    page.get_by_role("button", name=re.compile("^Undo")).click()
    step(page, "Background")
    expect(page.get_by_text("Nothing was removed: the picture may be all subject.")).to_be_visible(timeout=30_000)


def test_try_outs_can_be_stopped_and_go_on(page: Page, pictures: Path) -> None:
    bring(page, pictures / "dog.jpg")
    wait_ready(page)
    page.get_by_role("button", name="Try-outs side by side").click()
    made(page, 1)
    page.get_by_role("button", name="Stop", exact=True).click()
    before = page.locator(".card:not([disabled])").count()
    page.wait_for_timeout(1200)
    assert page.locator(".card:not([disabled])").count() == before < 12
    page.get_by_role("button", name="Go on").click()
    made(page, 12)
    expect(page.get_by_role("status").filter(has_text=re.compile("under way"))).to_have_count(0, timeout=30_000)

    def told(place: int) -> list[int]:
        """What the cards tell, in their order: likeness first, then minutes."""
        numbers = (own.inner_text() for own in page.locator(".card:not([disabled]) .numbers").all())
        return [int(re.findall(r"\d+", text)[place]) for text in numbers]

    page.mouse.move(5, 5)
    likeness = told(0)
    assert likeness == sorted(likeness, reverse=True) and likeness[0] > likeness[-1]
    page.get_by_role("combobox", name="Order").click()
    page.get_by_role("option", name="Least work first").click()
    assert told(1) == sorted(told(1))
    page.get_by_role("button", name="Back to the bench").click()
    expect(page.get_by_role("heading", name="Colours", level=2)).to_be_visible()


def test_a_cut_between_tones_is_dragged_and_a_tone_left_to_the_cloth(page: Page, pictures: Path) -> None:
    bring(page, pictures / "kettle.jpg")
    wait_ready(page)
    page.get_by_role("combobox", name="It becomes").click()
    page.get_by_role("option", name="Tones, light to dark").click()
    wait_ready(page)
    set_number(page, "How many", "4")
    wait_ready(page)
    unfold(page, "Detail and light")
    page.get_by_label("Dark lines save eyes and mouths").uncheck()
    wait_ready(page)
    cut = page.get_by_role("slider", name="Cut between tone 1 and 2")
    before = float(cut.get_attribute("aria-valuenow") or 0)
    box = cut.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 12, y, steps=6)
    page.mouse.up()
    wait_ready(page)
    assert float(cut.get_attribute("aria-valuenow") or 0) > before + 2
    cut.press("ArrowLeft")
    expect(page.get_by_role("button", name="Part them by itself")).to_be_visible()
    whole = len(downloaded(page).layers)
    step(page, "Colours")
    page.get_by_role("button", name="Leave tone 4 to the cloth").click()
    wait_ready(page)
    light = downloaded(page)
    assert len(light.layers) == whole - 1
    step(page, "Colours")
    page.get_by_role("button", name="Cut tone 4 again").click()
    page.get_by_role("button", name="Leave tone 1 to the cloth").click()
    wait_ready(page)
    dark = downloaded(page)
    assert {layer.fill for layer in dark.layers} != {layer.fill for layer in light.layers}


def test_the_light_brush_and_a_place_that_matters(page: Page, tmp_path: Path) -> None:
    """The eyes of scikit-image's cat are kept where somebody has drawn round them."""
    bring_shipped(page, tmp_path, "chelsea")
    page.get_by_role("combobox", name="It becomes").click()
    page.get_by_role("option", name="One dark tone").click()
    wait_ready(page)
    before = downloaded(page)
    step(page, "Colours")
    unfold(page, "Detail and light")
    page.get_by_role("button", name="This place matters").click()
    for number, (x, y) in enumerate(((0.3, 0.18), (0.5, 0.18), (0.5, 0.45), (0.3, 0.45), (0.3, 0.2))):
        page.mouse.move(*on_stage(page, x, y), steps=5)
        if number == 0:
            page.mouse.down()
    page.mouse.up()
    expect(page.get_by_text("1. matters")).to_be_visible()
    wait_ready(page)
    page.get_by_role("button", name="Darker", exact=True).click()
    page.mouse.move(*on_stage(page, 0.6, 0.3))
    page.mouse.down()
    page.mouse.move(*on_stage(page, 0.7, 0.35), steps=6)
    page.mouse.up()
    expect(page.get_by_text("2. made darker")).to_be_visible()
    wait_ready(page)
    after = downloaded(page)
    assert sum(after.layers[0].areas) != pytest.approx(sum(before.layers[0].areas), rel=1e-3)
    step(page, "Colours")
    page.get_by_role("button", name="Take out mark 2").click()
    expect(page.get_by_text("2. made darker")).to_be_hidden()


def test_a_silhouette_of_what_is_not_cut_out_says_what_to_do(page: Page, tmp_path: Path) -> None:
    bring_shipped(page, tmp_path, "china", 2)
    step(page, "Background")
    page.get_by_role("combobox", name="Take away").click()
    page.get_by_role("option", name="Nothing").click()
    wait_ready(page)
    step(page, "Colours")
    page.get_by_role("combobox", name="It becomes").click()
    page.get_by_role("option", name="A silhouette").click()
    expect(page.get_by_text("take the background away first").first).to_be_visible()
    page.get_by_role("button", name=re.compile("Undo")).click()
    wait_ready(page)


def test_a_pets_eyes_are_tapped_and_one_is_taken_back(page: Page, tmp_path: Path) -> None:
    """The cat of scikit-image has no face that is found; eyes and nose are tapped quickly, by eye."""
    bring_shipped(page, tmp_path, "chelsea")
    before = downloaded(page)
    step(page, "Colours")
    expect(page.get_by_role("checkbox", name="Face 1")).to_have_count(0)
    page.get_by_role("button", name="Eyes here").click()
    page.mouse.dblclick(*on_stage(page, 0.388, 0.259))  # marks it once
    for x, y in ((0.614, 0.288), (0.525, 0.5)):
        page.mouse.click(*on_stage(page, x, y))
    unfold(page, "Detail and light")
    expect(page.get_by_text("3. eye or nose")).to_be_visible()
    page.mouse.click(*on_stage(page, 0.525, 0.5))
    expect(page.get_by_text("3. eye or nose")).to_be_hidden()
    expect(page.get_by_text("2. eye or nose")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Eyes here")).to_have_attribute("aria-pressed", "false")
    wait_ready(page)
    after = downloaded(page)
    assert [sum(layer.areas) for layer in after.layers] != [sum(layer.areas) for layer in before.layers]
    # The pink nose and the green of an eye are among five inks, once they are tapped, however quickly.
    step(page, "Colours")
    page.get_by_role("button", name="Keep a colour").click()
    page.mouse.dblclick(*on_stage(page, 0.575, 0.53))
    page.mouse.click(*on_stage(page, 0.34, 0.26))
    expect(page.get_by_text(re.compile(r"pinned$"))).to_have_count(2)
    page.keyboard.press("Escape")
    wait_ready(page)
    nose = cielab(np.ascontiguousarray(shipped("chelsea")[234:244, 255:265, :3])).reshape(-1, 3).mean(axis=0)
    inks = np.array([tuple(bytes.fromhex(layer.fill[1:])) for layer in downloaded(page).layers], np.uint8)
    assert len(inks) <= 5 and ciede2000(cielab(inks), nose[None]).min() < 8


def test_palettes_are_compared_and_one_is_taken(page: Page, tmp_path: Path) -> None:
    bring_shipped(page, tmp_path, "chelsea")
    before = downloaded(page)
    step(page, "Colours")
    palettes = page.get_by_role("group", name="Which colours").get_by_role("radio")
    expect(palettes.first).to_be_checked()
    assert 2 <= palettes.count() <= 3
    palettes.first.press("ArrowDown")
    expect(palettes.nth(1)).to_be_checked()
    wait_ready(page)
    after = downloaded(page)
    assert {layer.fill for layer in after.layers} != {layer.fill for layer in before.layers}
    page.get_by_role("button", name="Undo: Which colours").click()
    wait_ready(page)
    assert {layer.fill for layer in downloaded(page).layers} == {layer.fill for layer in before.layers}


def test_a_face_is_told_and_dismissed_and_stays_after_a_crop(page: Page, tmp_path: Path) -> None:
    bring_shipped(page, tmp_path, "astronaut", 2)
    step(page, "Colours")
    face = page.get_by_role("checkbox", name="Face 1")
    expect(page.get_by_text("One face: its eyes, brows, nose and mouth keep fine lines.")).to_be_visible()
    expect(face).to_be_checked()
    face.press("Space")
    expect(face).not_to_be_checked(timeout=30_000)
    face.press("Space")
    expect(face).to_be_checked(timeout=30_000)
    step(page, "Picture")
    page.get_by_role("button", name="Crop", exact=True).click()
    page.mouse.move(*on_stage(page, 0.1, 0.02))
    page.mouse.down()
    page.mouse.move(*on_stage(page, 0.75, 0.6), steps=6)
    page.mouse.up()
    wait_ready(page)
    step(page, "Colours")
    expect(face).to_be_checked(timeout=30_000)
    drawing = downloaded(page)
    whole = sum(sum(layer.areas) for layer in drawing.layers)
    assert len(drawing.layers) >= 3 and all(sum(layer.areas) > 0.02 * whole for layer in drawing.layers)  # no mere black collar
    step(page, "Colours")
    page.get_by_role("combobox", name="It becomes").click()
    page.get_by_role("option", name="Tones, light to dark").click()
    set_number(page, "How many", "3")
    wait_ready(page)
    step(page, "Arrange")
    add(page, "Lettering")
    page.get_by_label("Words", exact=True).fill("Up and away")
    becomes(page, lambda: kept(page)["document"]["items"][1]["made"]["text"] == "Up and away")
    wait_ready(page)
    tones = downloaded(page)
    assert len(tones.layers) == 4 and all(min(layer.areas) > 0.5 for layer in tones.layers)
