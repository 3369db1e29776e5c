"""What the screen costs: size of the script, time to the first view, frames while a drawing of many nodes is panned and zoomed.

Run: make bench, or bench/front_end.py. Measured in Debian's Chromium without a graphics card, so frames are the worst case.
Budget: 300 kB of script, 1 s, 60 frames a second at 30,000 nodes.
"""

from __future__ import annotations

import gzip
import re
import statistics
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from PIL import Image
from playwright.sync_api import Browser, Page, expect, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))
BUDGET_KB, BUDGET_S, BUDGET_FRAMES = 300, 1.0, 60
ROUNDS = 5
SETTLED_S = 8  # until the processes that compute have started beside it
VIEWS = ("Made up", "Cut lines", "Colours", "Picture")
PAN = """async () => {
  const canvas = document.querySelector('.stage canvas'), box = canvas.getBoundingClientRect();
  const at = (x, y, type) => canvas.dispatchEvent(new PointerEvent(type,
    {clientX: box.left + x, clientY: box.top + y, button: 0, buttons: 1, pointerId: 7}));
  const frame = () => new Promise((next) => requestAnimationFrame(next));
  const gaps = [];
  at(400, 300, 'pointerdown');
  let before = await frame();
  for (let i = 0; i < 150; i++) {
    at(400 + 120 * Math.sin(i / 12), 300 + 60 * Math.cos(i / 9), 'pointermove');
    const now = await frame();
    gaps.push(now - before);
    before = now;
  }
  at(400, 300, 'pointerup');
  return gaps.slice(5);
}"""


def script_kb(page: Page) -> tuple[float, float]:
    """kB of script, packed: what the first view loads, and all there is."""
    names = page.evaluate("JSON.stringify(performance.getEntriesByType('resource').map((one) => one.name))")
    loaded = set(re.findall(r"assets/[\w.-]+\.js", names))
    scripts = (ROOT / "web/dist/assets").glob("*.js")
    size = {f"assets/{path.name}": len(gzip.compress(path.read_bytes())) / 1000 for path in scripts}
    return sum(size[name] for name in loaded), sum(size.values())


def first_view(browser: Browser, address: str) -> float:
    """Seconds from an empty cache to the shelf, the median."""
    seconds = []
    for _ in range(ROUNDS):
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        page = context.new_page()
        page.goto(address)
        page.get_by_role("heading", name="Your shelf").wait_for()
        seconds.append(page.evaluate("performance.now()") / 1000)
        context.close()
    return statistics.median(seconds)


def drawn_nodes(page: Page) -> int:
    """A photograph of gravel, as finely as it goes. Returns its nodes."""
    from tests.support.strangers import shipped

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "gravel.png"
        Image.fromarray(shipped("gravel")[:, :, :3]).save(path)
        page.locator("input[type=file]").set_input_files(path)
        expect(page.get_by_text("Cut lines are ready")).to_be_visible(timeout=120_000)
    job = int(page.url.rsplit("/", 1)[1])

    def ask(path: str, body: dict[str, Any] | None = None) -> dict[str, Any]:
        fields = {"method": "PUT", "body": body} if body else {}
        return dict(page.evaluate("""async ([path, fields]) => (await fetch(path, fields.body ? {method: fields.method,
            body: JSON.stringify(fields.body), headers: {'Content-Type': 'application/json'}} : {})).json()""", [path, fields]))

    item = ask(f"/api/jobs/{job}")["document"]["items"][0]["id"]
    fine = {"treatment": "lightness", "count": 8, "fine_mm": 0.1, "smallest_width_mm": 0}
    for name, settings in (("picture", {"width_mm": 280}), ("colours", fine), ("pieces", {"smallest_mm2": 0})):
        revision = ask(f"/api/jobs/{job}")["revision"]
        ask(f"/api/jobs/{job}/items/{item}/steps/{name}", {"revision": revision, "settings": settings})
    result = ask(f"/api/jobs/{job}/result")
    page.reload()
    expect(page.get_by_text("Cut lines are ready")).to_be_visible(timeout=120_000)
    return sum(layer["nodes"] for layer in result["layers"])


def frames(page: Page, view: str) -> tuple[float, float]:
    """Frames a second while the stage is dragged about: the mean, and that of the slowest twentieth."""
    for side in ("Left of the seam", "Right of the seam"):
        page.get_by_role("combobox", name=side).click()
        page.get_by_role("option", name=view, exact=True).last.click()
        page.wait_for_timeout(300)  # the list fades out
    page.wait_for_timeout(600)
    gaps = sorted(page.evaluate(PAN))
    slow = gaps[-max(1, len(gaps) // 20) :]
    return 1000 / statistics.mean(gaps), 1000 / statistics.mean(slow)


def main() -> None:
    from tests.walks.conftest import ARGUMENTS, CHROMIUM, Server

    with tempfile.TemporaryDirectory() as data, sync_playwright() as playwright:
        server = Server(Path(data))
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        try:
            time.sleep(SETTLED_S)
            print(f"first view: {first_view(browser, server.address):.2f} s (budget {BUDGET_S:.1f})")
            page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
            page.goto(server.address)
            page.get_by_role("heading", name="Your shelf").wait_for()
            first, whole = script_kb(page)
            print(f"script, packed: {first:.0f} kB for the first view, {whole:.0f} kB in all (budget {BUDGET_KB})")
            print(f"{drawn_nodes(page)} nodes (budget {BUDGET_FRAMES} frames a second while panning)")
            for view in VIEWS:
                mean, slow = frames(page, view)
                print(f"  {view:12} {mean:5.0f} frames a second, {slow:4.0f} in the slowest twentieth")
        finally:
            browser.close()
            server.process.terminate()
            server.process.wait()


if __name__ == "__main__":
    main()
