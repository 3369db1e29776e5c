"""Walks with several pictures, slow networks, two tabs, and a server that goes away."""

from __future__ import annotations

import re
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, Route, expect

from bisectum.core.formats.svg.read import read_svg
from tests.walks.conftest import Server
from tests.walks.test_walk import bring, build_as, set_number, step, wait_ready


def kept(page: Page) -> dict[str, Any]:
    """The job as the server keeps it."""
    return page.evaluate("fetch('/api' + location.pathname).then((r) => r.json())")


def history(page: Page) -> list[dict[str, Any]]:
    return page.evaluate("fetch('/api' + location.pathname + '/history').then((r) => r.json())")


def becomes(page: Page, true: Callable[[], bool]) -> None:
    """Wait until something holds that the page does not show."""
    for _ in range(200):
        if true():
            return
        page.wait_for_timeout(100)
    assert true()


def lines_of(page: Page, item: int = 0) -> dict[str, Any]:
    return kept(page)["document"]["items"][item]["course"]["lines"]


def choose_another(page: Page, path: Path) -> None:
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in another picture").first.click()
    chooser.value.set_files(path)
    expect(page.get_by_role("group", name="Items of this job").get_by_role("button", pressed=True)).to_be_visible()
    wait_ready(page)


def test_two_pictures_in_one_job_each_with_its_own_course(page: Page, pictures: Path, server: Server) -> None:
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    choose_another(page, pictures / "berth-sign.png")
    strip = page.get_by_role("group", name="Items of this job")
    expect(strip.get_by_role("button", name="Open berth sign")).to_have_attribute("aria-pressed", "true")

    # Each has its own settings; both are in the made-up view, and in the file.
    step(page, "Colours")
    expect(page.get_by_text("3 found.")).to_be_visible()
    set_number(page, "How many", "1")
    expect(page.get_by_text("2 found. As many as you asked for, and paper that is shut in")).to_be_visible()
    strip.get_by_role("button", name="Open lighthouse").click()
    expect(page.get_by_text("6 found.")).to_be_visible()
    step(page, "Picture")
    set_number(page, "Finished width", "100")
    wait_ready(page)
    step(page, "Arrange")
    expect(page.get_by_text("100.0 × 145.0 mm", exact=True)).to_be_visible()
    page.get_by_role("button", name="Move berth sign down").click()
    wait_ready(page)
    set_number(page, "Room between pictures", "25")
    expect(page.get_by_role("button", name="Undo: Room between pictures")).to_be_enabled()
    wait_ready(page)
    result = page.evaluate("fetch('/api' + location.pathname + '/result').then((r) => r.json())")
    sign, tower = result["items"]
    assert (sign["id"], tower["id"]) == ("picture-2", "picture-1")
    assert abs(result["width_mm"] - sign["size"][0] - tower["size"][0] - 25) < 1e-6
    step(page, "Layers")
    page.get_by_label("Name of Red").fill("Buoy red")
    page.get_by_label("Name of Red").press("Enter")
    expect(page.get_by_label("Name of Buoy red")).to_be_visible()
    page.get_by_role("button", name=re.compile("Finished size")).click()
    dialog = page.get_by_role("dialog")
    page.wait_for_timeout(500)  # once it has come in, the dialog takes the focus itself
    dialog.get_by_role("spinbutton", name="Width").fill("300")
    dialog.get_by_role("spinbutton", name="Width").press("Enter")
    dialog.get_by_role("button", name="Done").click()
    expect(page.get_by_role("button", name=re.compile(r"Finished size 300\.0 ×"))).to_be_visible()
    wait_ready(page)
    page.get_by_role("button", name="Export", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Download SVG").click()
    drawing = read_svg(Path(download.value.path()).read_text())
    assert abs(drawing.width_mm - 300) < 1e-3 and "Buoy red" in {layer.title for layer in drawing.layers}

    # A reload and a server that is killed change nothing; taking one out is asked first, and undone.
    server.kill()
    server.start()
    page.reload()
    wait_ready(page)
    step(page, "Arrange")
    page.get_by_role("button", name="Take berth sign out").click()
    page.get_by_role("dialog").get_by_role("button", name="Take it out").click()
    expect(page.get_by_text("Bring in what belongs to the make")).to_be_visible()
    wait_ready(page)
    page.get_by_role("button", name="Undo: An item taken out").click()
    expect(page.get_by_role("list", name="Items, the topmost first").get_by_role("listitem")).to_have_count(2)
    wait_ready(page)
    page.get_by_role("link", name="Back to the shelf").click()
    expect(page.get_by_text(re.compile("2 pictures")).first).to_be_visible()


def test_several_pictures_dropped_at_once_become_one_job(page: Page, pictures: Path) -> None:
    page.locator("input[type=file]").set_input_files([pictures / "berth-sign.png", pictures / "lighthouse.png"])
    page.get_by_role("dialog").get_by_role("button", name="One job of all").click()
    wait_ready(page)
    step(page, "Arrange")
    expect(page.get_by_role("list", name="Items, the topmost first").get_by_role("listitem")).to_have_count(2)


def test_quick_changes_by_key_are_all_kept_while_the_network_is_slow(page: Page, pictures: Path) -> None:
    bring(page, pictures / "berth-sign.png")
    wait_ready(page)
    step(page, "Lines")
    before = lines_of(page)["closeness_mm"]

    def slowly(route: Route) -> None:
        time.sleep(0.4)
        route.continue_()

    page.route(re.compile("/steps/"), slowly)
    handle = page.locator(".slider .p-slider-handle").first
    handle.focus()
    changes = 5
    for _ in range(changes):
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(60)
    step(page, "Background")
    page.locator("summary").get_by_text("Outline").click()
    tick = page.get_by_role("checkbox", name=re.compile("Fuzz"))
    tick.click()
    tick.click()
    tick.click()
    expect(tick).not_to_be_checked()
    expect(page.get_by_text("waiting")).to_have_count(0)
    becomes(page, lambda: not kept(page)["document"]["items"][0]["course"]["background"]["halo"])
    wait_ready(page)
    assert lines_of(page)["closeness_mm"] > before
    what = [list(change["values"]) for change in history(page)]
    assert what.count(["halo"]) == 3 and ["closeness_mm"] in what


def test_two_tabs_on_one_job(page: Page, pictures: Path) -> None:
    bring(page, pictures / "berth-sign.png")
    wait_ready(page)
    other = page.context.new_page()
    other.goto(page.url)
    wait_ready(other)
    # One follows what the other does.
    step(other, "Lines")
    set_number(other, "Closeness", "0.35")
    step(page, "Lines")
    closeness = page.get_by_label("Closeness", exact=True).and_(page.locator("input[role=spinbutton]"))
    expect(closeness).to_have_value(re.compile("0.35"))
    # From here on neither hears of the other.
    for tab in (page, other):
        tab.route(re.compile("/progress$"), lambda route: route.abort())
        tab.reload()
        wait_ready(tab)
    for tab in (page, other):
        step(tab, "Lines")
    set_number(page, "Closeness", "0.3")
    wait_ready(page)
    # The other tab has not heard of it. What touches something else is made on the newest state.
    set_number(other, "Corners", "40")
    wait_ready(other)
    closeness = other.get_by_label("Closeness", exact=True).and_(other.locator("input[role=spinbutton]"))
    expect(closeness).to_have_value(re.compile("0.3"))
    becomes(page, lambda: (lines_of(page)["closeness_mm"], lines_of(page)["corner_deg"]) == (0.3, 40))
    # What touches the same is refused, and said so.
    set_number(page, "Corners", "50")
    expect(page.get_by_role("alert")).to_contain_text("changed in another window")
    assert lines_of(page)["corner_deg"] == 40
    page.get_by_role("button", name="Close", exact=True).first.click()
    set_number(page, "Corners", "50")
    becomes(page, lambda: lines_of(page)["corner_deg"] == 50)
    # Whichever tab works, the other one does not stay at work for ever.
    set_number(other, "Fewer nodes", "0.5")
    set_number(page, "Closeness", "0.2")
    for tab in (page, other):
        expect(tab.get_by_text(re.compile("Working"))).to_have_count(0, timeout=15_000)
    other.close()


def test_changes_wait_for_a_server_that_was_killed(page: Page, pictures: Path, server: Server) -> None:
    bring(page, pictures / "berth-sign.png")
    wait_ready(page)
    step(page, "Lines")
    set_number(page, "Closeness", "0.25")
    server.kill()
    set_number(page, "Corners", "44")
    step(page, "Layers")
    build_as(page, "Flush")
    expect(page.get_by_text(re.compile("changes? waits? here"))).to_be_visible()
    server.start()
    wait_ready(page)
    expect(page.get_by_text(re.compile("changes? waits? here"))).to_have_count(0)
    becomes(page, lambda: len(history(page)) == 4)
    job = kept(page)["document"]
    lines = job["items"][0]["course"]["lines"]
    assert (lines["closeness_mm"], lines["corner_deg"], job["make"]["layers"]["build"]) == (0.25, 44, "flush")
    assert len(history(page)) == 4


def test_a_server_that_dies_again_and_again_loses_nothing_and_does_it_once(page: Page, pictures: Path, server: Server) -> None:
    """Killed while a name, a shape, another and an undo are on their way; the page is loaded anew, too."""
    bring(page, pictures / "berth-sign.png")
    wait_ready(page)
    shape = page.get_by_role("group", name="Bring in").get_by_role("button", name="Shape")
    words = page.get_by_text(re.compile("changes? waits? here"))
    for round in range(5):
        step(page, "Arrange")
        if round % 2 == 0:
            server.kill()
        page.get_by_label("Name of the job").fill(f"Sign {round}")
        page.keyboard.press("Enter")
        shape.click()
        if round % 2:
            page.wait_for_timeout(40 * round)
            server.kill()
        shape.click()
        page.get_by_role("button", name="Undo").click()
        if round % 2 == 0:
            expect(words).to_be_visible()
        server.start()
        if round > 2:
            page.reload()
        expect(words).to_have_count(0)
        wait_ready(page)
        document = kept(page)["document"]
        assert (document["name"], len(document["items"])) == (f"Sign {round}", round + 2)
    assert [change["what"] for change in history(page)] == ["brought_in", *(["renamed", "added_shape"] * 5), "added_shape"]
    assert [change["done"] for change in history(page)] == [True] * 11 + [False]
