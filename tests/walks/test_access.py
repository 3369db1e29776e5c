"""For everybody: every view by axe's rules, the whole way by keys alone, small windows, lamplight, fingers."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from bisectum.core.formats.svg.read import read_svg
from tests.walks.conftest import Server
from tests.walks.test_several import becomes, kept
from tests.walks.test_walk import bring, step, wait_ready

AXE = Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js"
STEPS = ("Picture", "Background", "Colours", "Lines", "Pieces", "Arrange", "Layers", "Sheets", "Check", "Export")
SLOW = 40_000


def faults(page: Page) -> list[str]:
    """What breaks a rule of axe-core on the page as it stands."""
    page.wait_for_timeout(350)  # whatever fades in is there
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")["violations"]
    return [f"{one['id']}: {node['html'][:120]}" for one in found for node in one["nodes"]]


@pytest.fixture(params=["light", "dark"])
def lit(browser: Browser, server: Server, request: pytest.FixtureRequest) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, color_scheme=request.param, reduced_motion="reduce")
    page = context.new_page()
    page.goto(server.address)
    yield page
    context.close()


def test_every_view_and_dialog_keeps_to_the_rules(lit: Page, pictures: Path) -> None:
    """axe-core, an independent checker of WCAG, by day and by lamplight."""
    page = lit
    assert faults(page) == []
    page.get_by_role("button", name="scan something").click()
    page.get_by_role("button", name="Tide note").click()
    assert faults(page) == []
    page.keyboard.press("Escape")
    bring(page, pictures / "kettle.jpg")
    wait_ready(page)
    for name in STEPS:
        step(page, name)
        page.evaluate("document.querySelectorAll('.tray details').forEach((fold) => (fold.open = true))")
        if name == "Check":
            expect(page.get_by_text(re.compile(r"places? to look at|Nothing to look at")).first).to_be_visible(timeout=SLOW)
        assert faults(page) == [], name
    for opening in ("Finished size", "History", "Keys and how"):
        page.get_by_role("button", name=re.compile(opening)).first.click()
        assert faults(page) == [], opening
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    step(page, "Layers")
    page.get_by_role("button", name="Open the drawer").click()
    assert faults(page) == []
    page.keyboard.press("Escape")
    step(page, "Colours")
    page.get_by_role("button", name="Try-outs side by side").click()
    expect(page.get_by_role("button", name=re.compile("^Try-out A"))).to_be_enabled(timeout=SLOW)
    assert faults(page) == []
    page.goto(page.url.split("/jobs")[0] + "/how-it-goes")
    assert faults(page) == []


def focus_by_tab(page: Page, name: str, most: int = 120) -> None:
    """Go on from control to control until one is called so. Focus is always somewhere that is seen."""
    for _ in range(most):
        page.keyboard.press("Tab")
        said = page.evaluate("""() => { const at = document.activeElement; const box = at.getBoundingClientRect();
            return at === document.body ? null : [at.getAttribute('aria-label') ?? at.innerText, box.width * box.height]; }""")
        if said and said[0].strip().startswith(name):
            assert said[1] > 0
            return
    raise AssertionError(f"“{name}” cannot be reached by Tab")


def test_the_whole_way_by_keys_alone(page: Page, pictures: Path, tmp_path: Path) -> None:
    """From the open job to the file, with a stroke and a box that are drawn by keys; the mouse is never touched."""
    bring(page, pictures / "lighthouse.png")  # a file chooser is the system's own
    wait_ready(page)
    page.keyboard.press("2")
    expect(page.get_by_role("heading", name="Background", level=2)).to_be_visible()
    focus_by_tab(page, "Drop stroke")
    page.keyboard.press("Enter")
    page.keyboard.press("c")
    expect(page.get_by_text("Arrows move by 1 mm")).to_be_visible()
    for _ in range(4):
        page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Enter")  # a stroke of 30 mm through the tower's foot
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Enter")
    becomes(page, lambda: len(kept(page)["document"]["items"][0]["course"]["background"]["touches"]) == 1)
    (touch,) = kept(page)["document"]["items"][0]["course"]["background"]["touches"]
    (left, y), *_, (right, end) = touch["points"]
    assert touch["kind"] == "drop" and y == end and right > left
    page.keyboard.press("Escape")
    page.keyboard.press("c")
    page.keyboard.press("Control+z")
    wait_ready(page)
    page.keyboard.press("1")
    focus_by_tab(page, "Crop")
    page.keyboard.press("Enter")
    page.keyboard.press("c")
    for key in ("Shift+ArrowUp", "Shift+ArrowLeft"):
        for _ in range(6):
            page.keyboard.press(key)
    page.keyboard.press("Enter")
    for key in ("Shift+ArrowDown", "Shift+ArrowRight"):
        for _ in range(11):
            page.keyboard.press(key)
    page.keyboard.press("Enter")
    becomes(page, lambda: kept(page)["document"]["items"][0]["course"]["picture"]["crop"] is not None)
    wait_ready(page)
    crop = kept(page)["document"]["items"][0]["course"]["picture"]["crop"]
    assert crop["width"] == pytest.approx(crop["height"], rel=1e-4)  # 110 mm both ways
    page.keyboard.press("c")
    page.keyboard.press("0")
    expect(page.get_by_role("heading", name="Export", level=2)).to_be_visible()
    focus_by_tab(page, "Download")
    with page.expect_download(timeout=SLOW) as coming:
        page.keyboard.press("Enter")
    coming.value.save_as(tmp_path / "out.svg")
    assert len(read_svg((tmp_path / "out.svg").read_text()).layers) >= 3


def test_a_small_window_and_large_letters(page: Page, pictures: Path) -> None:
    """1024 px wide, and a window of 1280 px at 200 %: nothing lies beyond the edge, every step can be opened."""
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    for width, height in ((1024, 768), (640, 400)):
        page.set_viewport_size({"width": width, "height": height})
        for name in STEPS:
            step(page, name)
            assert page.evaluate("document.documentElement.scrollWidth") <= width, (name, width)
            tray = page.get_by_role("complementary").bounding_box()
            assert tray and tray["x"] + tray["width"] <= width + 1 and tray["height"] > 150, (name, width)
    page.set_viewport_size({"width": 1280, "height": 800})


def test_two_fingers_move_and_stretch(browser: Browser, server: Server, pictures: Path) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, has_touch=True)
    page = context.new_page()
    page.goto(server.address)
    bring(page, pictures / "lighthouse.png")
    wait_ready(page)
    step(page, "Background")
    page.get_by_role("button", name="Drop stroke").click()
    touch = context.new_cdp_session(page)

    def fingers(kind: str, *places: tuple[float, float]) -> None:
        points = [{"x": x, "y": y, "id": number} for number, (x, y) in enumerate(places)]
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    expect(page.get_by_text("100 %")).to_be_visible()
    fingers("touchStart", (480, 400))
    fingers("touchStart", (480, 400), (680, 400))
    for reach in (20, 60, 100):
        fingers("touchMove", (480 - reach, 400), (680 + reach, 400))
    fingers("touchEnd")
    expect(page.get_by_text("200 %")).to_be_visible()
    page.wait_for_timeout(500)
    assert kept(page)["document"]["items"][0]["course"]["background"]["touches"] == []  # what one finger had begun is dropped
    context.close()
