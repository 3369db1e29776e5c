"""Take the pictures of the main views, from the demo data, in Debian's Chromium.

Run from the project's root: make screenshots
"""

from __future__ import annotations

import json
import math
import re
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
OUT = ROOT / "docs" / "screenshots"
PORT = 8791
ADDRESS = f"http://127.0.0.1:{PORT}"
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def ready(page: Page) -> None:
    page.get_by_text("Cut lines are ready").wait_for(timeout=20_000)
    page.wait_for_timeout(700)


def shoot(page: Page, name: str) -> None:
    page.screenshot(path=OUT / f"{name}.png")


def step(page: Page, key: str) -> None:
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press(key)
    page.wait_for_timeout(500)


def open_job(page: Page, name: str) -> None:
    page.goto(ADDRESS)
    page.get_by_role("link", name=f"Open {name}").click()
    ready(page)


def walk_photographs(page: Page) -> None:
    open_job(page, "Enamel kettle for the tea tent")
    step(page, "3")
    shoot(page, "photo")
    open_job(page, "Barnacle the harbour dog")
    page.get_by_role("button", name="Try-outs side by side").click()
    page.get_by_text("16 of 16 made").wait_for(timeout=30_000)
    page.get_by_role("button", name="Try-out M").click()
    page.wait_for_timeout(500)
    shoot(page, "try-outs")


def walk_sheets(page: Page) -> None:
    open_job(page, "Enamel kettle for the tea tent")
    step(page, "3")
    page.get_by_role("combobox", name="It becomes").click()
    page.get_by_role("option", name="Tones, light to dark").click()
    page.wait_for_timeout(400)
    ready(page)
    step(page, "7")
    page.get_by_text("For other cloth").click()
    page.get_by_role("button", name="Reverse for the opposite cloth").click()
    page.get_by_role("combobox").filter(has_text="For Dark cloth").wait_for(timeout=20_000)
    page.wait_for_timeout(4000)
    shoot(page, "cloths")
    step(page, "8")
    page.get_by_text("Each sheet").wait_for(timeout=20_000)
    page.wait_for_timeout(800)
    shoot(page, "sheets")


def walk_check(page: Page) -> None:
    open_job(page, "Barnacle the harbour dog")
    page.get_by_role("button", name="Cut check").filter(has_text="to look at").wait_for(timeout=60_000)
    step(page, "9")
    page.keyboard.press("n")
    page.wait_for_timeout(500)
    shoot(page, "check")
    open_job(page, "Lighthouse for the harbour window")
    step(page, "9")
    page.get_by_role("button", name="The cutter").click()
    page.get_by_text("All that was meant comes free.").wait_for(timeout=60_000)
    page.get_by_role("combobox", name="Sheet").click()
    page.get_by_role("option").nth(2).click()
    page.get_by_text(re.compile(r"\d+ pieces?")).first.wait_for(timeout=60_000)
    page.wait_for_timeout(1500)
    page.get_by_role("slider", name="How far it is").fill("5")
    page.wait_for_timeout(500)
    shoot(page, "cutter")


def walk_drawings(page: Page) -> None:
    page.goto(ADDRESS)
    page.get_by_role("link", name="Open Lighthouse").wait_for()
    page.wait_for_function("() => [...document.querySelectorAll('.jobs .picture')].every((own) => own.querySelector('img'))")
    page.wait_for_timeout(800)
    shoot(page, "shelf")
    page.get_by_role("button", name="scan something").click()
    page.get_by_role("button", name="Printed mark").click()
    page.wait_for_timeout(800)
    shoot(page, "scan")
    page.keyboard.press("Escape")
    open_job(page, "Lighthouse for the harbour window")
    for key, name in (("1", "picture"), ("2", "background"), ("3", "colours"), ("0", "export")):
        step(page, key)
        shoot(page, name)
    step(page, "4")
    page.mouse.move(555, 170)
    for _ in range(3):
        page.mouse.wheel(0, -300)
    page.wait_for_timeout(600)
    shoot(page, "lines")
    step(page, "7")
    page.get_by_role("button", name="Show all").click()
    page.emulate_media(color_scheme="dark")
    page.get_by_role("combobox").filter(has_text="Made up").click()
    page.get_by_role("option", name="Spread, layers apart").click()
    page.wait_for_timeout(500)
    shoot(page, "dark")
    page.emulate_media(color_scheme="light")
    open_job(page, "Tide note for the kitchen wall")
    step(page, "3")
    shoot(page, "handwriting")
    open_job(page, "Lunch crate for the crew")
    step(page, "4")
    page.mouse.click(553, 416)
    page.wait_for_timeout(400)
    shoot(page, "folds")


def walk_pieces(page: Page) -> None:
    open_job(page, "Barnacle the harbour dog")
    step(page, "5")
    page.get_by_text("Point at one to light it up").wait_for(timeout=20_000)
    page.get_by_role("button", name="Ring several").click()
    page.mouse.move(666, 278)  # about an eye
    page.mouse.down()
    for turn in range(25):
        page.mouse.move(618 + 48 * math.cos(turn * math.tau / 24), 278 + 48 * math.sin(turn * math.tau / 24))
    page.mouse.up()
    page.wait_for_timeout(500)
    shoot(page, "pieces")


def walk_arrange(page: Page) -> None:
    open_job(page, "Badge for the harbour crew")
    step(page, "6")
    page.get_by_role("list", name="Items, the topmost first").get_by_role("listitem").nth(3).click()
    page.wait_for_timeout(700)
    shoot(page, "arrange")
    open_job(page, "Enamel kettle for the tea tent")
    step(page, "6")
    ways = page.get_by_role("group", name="Bring in")
    ways.get_by_role("button", name="Lettering").click()
    page.get_by_label("Words", exact=True).fill("Quillhaven")
    page.wait_for_timeout(1500)
    page.get_by_role("button", name="Nunito").click()
    page.get_by_role("option", name="Pacifico").click()
    page.wait_for_timeout(1500)
    ways.get_by_role("button", name="Border").click()
    page.get_by_role("button", name="Pick Border").wait_for()
    page.get_by_role("button", name="Pick Lettering").click()
    page.get_by_role("checkbox", name="Nothing below it").check()
    page.wait_for_timeout(1500)
    ready(page)
    page.get_by_text("What it does", exact=True).scroll_into_view_if_needed()
    page.wait_for_timeout(300)
    shoot(page, "lettering")


def main() -> None:
    OUT.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as data:
        server = subprocess.Popen(
            [Path(sys.executable).with_name("bisectum"), "serve", "--demo", "--port", str(PORT), "--data", data]
        )
        try:
            for _ in range(900):
                try:
                    jobs = json.load(urllib.request.urlopen(f"{ADDRESS}/api/jobs"))["jobs"]
                    if jobs and all(job["has_thumbnail"] for job in jobs):
                        break
                except OSError:
                    pass
                time.sleep(0.1)
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                walk_drawings(page)
                walk_pieces(page)
                walk_photographs(page)
                walk_sheets(page)
                walk_arrange(page)
                walk_check(page)
                browser.close()
        finally:
            server.terminate()
            server.wait()


if __name__ == "__main__":
    main()
