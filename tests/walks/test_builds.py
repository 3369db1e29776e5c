"""Walks from a picture to its files in every build, and a typed size that holds."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from bisectum.core.formats.svg.read import read_svg
from tests.support.strangers import shipped, strangers
from tests.walks.test_walk import DEMO, bring, build_as, step, wait_ready

STRANGERS = ("coffee", "icon about")


@pytest.mark.parametrize("source", ["kettle.jpg", *STRANGERS])
def test_every_picture_reaches_a_file_in_every_build(page: Page, tmp_path: Path, source: str) -> None:
    """The demo's own at full size, and pictures that nobody made for this: photographs, a scanned page, an icon."""
    path = DEMO / source
    if source in STRANGERS:
        path = tmp_path / f"{source.replace(' ', '-')}.png"
        rgba = next(stranger for stranger in strangers(24) if stranger.name == source).load()
        Image.fromarray(rgba).save(path)
    bring(page, path)
    wait_ready(page)
    film: dict[str, float] = {}
    for build in ("Flush", "Lapped", "Whole", "Stacked"):
        step(page, "Layers")
        build_as(page, build)
        wait_ready(page)
        page.get_by_role("button", name="Export", exact=True).click()
        with page.expect_download() as download:
            page.get_by_role("button", name="Download SVG").click()
        drawing = read_svg(Path(download.value.path()).read_text())
        film[build] = sum(sum(layer.areas) for layer in drawing.layers)
        assert all(area > 0 for layer in drawing.layers for area in layer.areas)
    assert 0 < film["Flush"] <= 1.001 * film["Lapped"] and film["Lapped"] <= 1.001 * film["Whole"] <= 1.01 * film["Stacked"]


def test_a_typed_width_is_what_it_becomes(page: Page, tmp_path: Path) -> None:
    """The height, which still shows what it was, rounded, when it is passed by, undoes nothing."""
    Image.fromarray(shipped("chelsea")[..., :3]).save(tmp_path / "cat.png")
    bring(page, tmp_path / "cat.png")
    wait_ready(page)
    page.get_by_role("button", name=re.compile("^Finished size")).click()
    dialog = page.get_by_role("dialog")
    page.wait_for_timeout(500)  # once it has come in, the dialog takes the focus itself
    sent: list[str] = []
    page.on("request", lambda request: sent.append(request.post_data or "") if request.method == "PUT" else None)
    dialog.get_by_role("spinbutton", name="Width").click()
    page.keyboard.press("Control+a")
    page.keyboard.type("150")
    page.keyboard.press("Tab")
    dialog.get_by_role("button", name="Done").click()
    expect(page.get_by_role("button", name=re.compile(r"^Finished size 150\.0 ×"))).to_be_visible(timeout=40_000)
    wait_ready(page)
    assert len(sent) == 1 and '"width_mm":150' in sent[0]
