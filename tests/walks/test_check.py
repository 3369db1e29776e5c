"""Walks through the cut check, the stand-in cutter and the files that leave the house."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path

import pypdfium2
import pytest
from playwright.sync_api import Page, expect

from tests.walks.test_sheets import choose
from tests.walks.test_walk import bring, build_as, step, wait_ready

SLOW = 60_000


def checked(page: Page, words: str | re.Pattern[str] = re.compile(r"\d+ to look at|Ready to cut")) -> None:
    """Wait until the head says how the check stands."""
    name = words if isinstance(words, str) else re.compile(rf"Cut check: ({words.pattern})")
    expect(page.get_by_role("button", name=name)).to_be_visible(timeout=SLOW)


def saved(page: Page, button: str, folder: Path) -> tuple[str, bytes]:
    with page.expect_download(timeout=SLOW) as got:
        page.get_by_role("button", name=button, exact=True).click()
    path = folder / "file"
    got.value.save_as(path)
    return got.value.suggested_filename, path.read_bytes()


@pytest.fixture()
def kettle(page: Page, pictures: Path) -> Page:
    bring(page, pictures / "kettle.jpg")
    wait_ready(page)
    step(page, "Colours")
    choose(page, "It becomes", "Tones, light to dark")
    wait_ready(page)
    step(page, "Layers")
    choose(page, "The rest is cut from", "Heat-transfer vinyl")
    build_as(page, "Lapped")  # by itself such film is flush
    wait_ready(page)
    page.wait_for_timeout(2000)
    checked(page)
    return page


def test_findings_are_looked_at_mended_taken_back_and_left(kettle: Page) -> None:
    page = kettle
    page.keyboard.press("9")
    expect(page.get_by_role("heading", name="Check", level=2)).to_be_visible()
    rows = page.locator("li button[aria-pressed]")
    page.keyboard.press("n")
    expect(rows.first).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("p")
    expect(rows.first).to_have_attribute("aria-pressed", "false")
    film = page.get_by_role("region", name="Film on film")
    film.get_by_role("button", name="Leave out what lies under").hover()
    expect(page.get_by_text("Preview")).to_be_visible(timeout=SLOW)
    page.get_by_role("heading", name="Check", level=2).hover()
    wait_ready(page)
    expect(film).to_be_visible()
    film.get_by_role("button", name="Leave out what lies under").click()
    expect(film).to_have_count(0, timeout=SLOW)
    page.keyboard.press("Control+z")
    expect(film).to_be_visible(timeout=SLOW)
    film.get_by_role("button", name="Leave it").click()
    expect(film).to_have_count(0, timeout=SLOW)
    page.reload()
    checked(page)
    page.keyboard.press("9")
    expect(page.get_by_text("Left as they are")).to_be_visible(timeout=SLOW)
    expect(film).to_have_count(0)
    page.get_by_text("Left as they are").click()
    page.get_by_role("button", name="Look again").click()
    expect(film).to_be_visible(timeout=SLOW)


def test_limits_are_changed_and_go_along_to_the_next_job(page: Page, pictures: Path) -> None:
    bring(page, pictures / "lighthouse.png")
    checked(page)
    page.keyboard.press("9")
    page.get_by_text("What can be cut").click()
    expect(page.get_by_text("These are from memory")).to_be_visible()
    narrowest = page.get_by_label("Narrowest part")
    narrowest.fill("4")
    narrowest.press("Enter")
    checked(page, re.compile(r"[1-9]\d* to look at"))
    expect(page.get_by_text("These are yours")).to_be_visible()
    expect(page.get_by_role("region", name=re.compile("Hairs|Thin pieces|Narrow necks")).first).to_be_visible()
    page.get_by_role("link", name="Back to the shelf").click()
    bring(page, pictures / "lighthouse.png")
    checked(page, re.compile(r"[1-9]\d* to look at"))
    page.keyboard.press("9")
    expect(page.get_by_text("These are yours")).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="As before").click()
    expect(page.get_by_text("These are from memory")).to_be_visible(timeout=SLOW)


def test_a_sheet_is_cut_on_the_stage_line_by_line_and_weeded(page: Page, pictures: Path) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Check")
    page.get_by_role("button", name="The cutter").click()
    expect(page.get_by_text("All that was meant comes free.")).to_be_visible(timeout=SLOW)
    expect(page.get_by_text(re.compile("Every edge lies within 0.0[01]"))).to_be_visible()
    stage = page.get_by_role("region", name="The stand-in cutter").locator("canvas")
    stage.focus()
    clock = page.get_by_role("slider", name="How far it is")
    expect(clock).to_have_value("0")
    page.keyboard.press(".")
    after_one = float(clock.input_value())
    page.keyboard.press(",")
    assert after_one > float(clock.input_value()) == 0
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Again", exact=True)).to_be_visible(timeout=SLOW)
    page.keyboard.press("w")
    expect(page.get_by_role("button", name="Put the waste back")).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="To look at", exact=True).click()
    checked(page)


def test_files_of_every_kind_leave_the_house_and_it_is_remembered(page: Page, pictures: Path, tmp_path: Path) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    page.keyboard.press("0")
    expect(page.get_by_role("heading", name="Export", level=2)).to_be_visible()
    choose(page, "Kind of file", "PDF")
    name, data = saved(page, "Download PDF", tmp_path)
    assert name == "lighthouse.pdf" and len(pypdfium2.PdfDocument(data)) == 1
    choose(page, "Drawn as", "The picture itself, and a cut line around it")
    assert saved(page, "Download PDF", tmp_path)[0] == "lighthouse-pictured.pdf"
    choose(page, "Kind of file", "PNG, see-through")
    choose(page, "Drawn as", "Only the line around all")
    choose(page, "What", "A file for each layer")
    name, data = saved(page, "Download PNG files as a zip", tmp_path)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert len(archive.namelist()) == 6 and archive.namelist()[0].startswith("lighthouse-1-")
    choose(page, "What", "The picture without its background")
    assert saved(page, "Download PNG", tmp_path)[1].startswith(b"\x89PNG")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("img", name=re.compile("Page 1 of"))).to_be_visible(timeout=SLOW)
    page.keyboard.press("Escape")
    page.get_by_text("Taken along").click()
    expect(page.get_by_text("still so")).to_have_count(4)
    step(page, "Layers")
    build_as(page, "Flush")
    wait_ready(page)
    step(page, "Export")
    expect(page.get_by_text("changed since")).to_have_count(4, timeout=SLOW)
