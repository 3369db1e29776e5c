"""Whether a press is lost: pairs of controls of every tray, pressed before the server has answered, against the same done slowly.

Each control that changes the job by itself is pressed before each other one. Run: make presses, with COUNT=n for so many pairs of
a tray, drawn by chance; SECONDS is how long each answer is held back; PART=2/3 takes the second third of the pairs, for several
processes beside each other. A pair that is lost is told at once.
"""

from __future__ import annotations

import json
import os
import random
import re
import sys
import tempfile
from pathlib import Path
from typing import Any

from playwright.sync_api import Error, Locator, Page, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.walks.conftest import ARGUMENTS, CHROMIUM, Server  # noqa: E402

TRAYS = ("Picture", "Background", "Colours", "Lines", "Pieces", "Arrange", "Layers", "Sheets")
KINDS = {"button": "button:not([aria-haspopup]):not([aria-expanded])", "checkbox": "input[type=checkbox]",
         "number": "input[role=spinbutton]"}
# What leaves the tray or the job; and spots ("12 maybe"), whose numbers mean others after every answer.
NOT_PRESSED = re.compile("Undo|Redo|Download|Stop|Choose|Open|Bring|Take .* out|Picture|Scan|Rename|Delete|Try-outs|maybe", re.I)
TOLD_EVERY = 25  # pairs
BRINGS_IN = ("Lettering", "Shape", "Border", "Duplicate")
NAME = "(e) => e.getAttribute('aria-label') || e.labels?.[0]?.innerText || e.innerText || ''"
HELD = """const ask = window.fetch;
window.fetch = async (...asked) => {
  const answer = await ask(...asked);
  const isChange = (asked[1]?.method ?? "GET") !== "GET";
  if (window.heldMs && isChange) await new Promise((done) => setTimeout(done, window.heldMs));
  return answer;
};"""
SETTLED = "() => / · saved/.test(document.body.innerText)"
RESTS_MS = 300  # between two looks that find everything kept and worked out
Control = tuple[str, str]


class Bench:
    """A job with a drawing and lettering on it, and ways to press its controls."""

    def __init__(self, page: Page, address: str, held_s: float) -> None:
        self.page, self.held_s = page, held_s
        self.typed: dict[Control, str] = {}
        page.add_init_script(HELD)
        page.goto(address)
        page.locator("input[type=file]").set_input_files(ROOT / "demo/pictures/berth-sign.png")
        self.settle()
        self.place = f"{address}/api/jobs/{page.url.rsplit('/', 1)[1]}"
        self.open("Arrange")
        page.get_by_role("group", name="Bring in").get_by_role("button", name="Lettering").click()
        self.settle()
        self.base = self.kept()

    def kept(self) -> dict[str, Any]:
        return dict(self.page.request.get(self.place).json())

    def settle(self) -> None:
        """Wait until everything is kept and worked out."""
        looks = 0
        for _ in range(300):
            self.page.wait_for_timeout(RESTS_MS)
            looks = looks + 1 if self.page.evaluate(SETTLED) else 0
            if looks == 2:
                return
        raise RuntimeError("The page did not come to rest")

    def back(self, tray: str) -> None:
        """The job as it was at first, opened anew."""
        while (now := self.kept())["document"] != self.base["document"]:
            self.page.request.post(f"{self.place}/undo", data={"revision": now["revision"]})
        self.page.reload()
        self.settle()
        self.open(tray)

    def open(self, tray: str) -> None:
        self.page.get_by_role("navigation").get_by_role("button", name=re.compile(f"^{tray}")).click()
        if tray == "Arrange" and len(self.kept()["document"]["items"]) > 1:
            self.page.get_by_role("button", name="Pick Lettering").click()
            self.page.get_by_label("Words", exact=True).wait_for()
        self.page.evaluate("document.querySelectorAll('.tray details').forEach((fold) => (fold.open = true))")

    def there(self) -> list[Control]:
        """Controls of the tray that can be pressed, by their kind and name."""
        found: list[Control] = []
        for kind, which in KINDS.items():
            for one in self.page.locator(".tray").locator(which).all():
                name = one.evaluate(NAME).strip()
                if name and one.is_enabled() and one.is_visible() and not NOT_PRESSED.search(name):
                    found.append((kind, name))
        return [one for one in dict.fromkeys(found) if found.count(one) == 1]

    def at(self, control: Control) -> Locator:
        kind, name = control
        role = {"button": "button", "checkbox": "checkbox", "number": "spinbutton"}[kind]
        return self.page.locator(".tray").get_by_role(role, name=name, exact=True)  # type: ignore[arg-type]

    def press(self, control: Control) -> None:
        own = self.at(control)
        if control[0] != "number":
            own.click(timeout=3000)
            return
        if control not in self.typed:
            shown = re.sub(r"[^\d.]", "", own.input_value(timeout=3000)) or "1"
            other = float(shown) * (1.2 + 0.01 * len(self.typed))  # not all alike: a height may follow from a width
            self.typed[control] = f"{other:.1f}" if "." in shown else str(round(other) + 1)
        own.fill(self.typed[control])
        own.press("Enter")

    def changing(self, tray: str) -> list[Control]:
        """Those that change the job by themselves."""
        self.back(tray)
        found = []
        for control in self.there():
            try:
                self.press(control)
            except Error:
                self.back(tray)
                continue
            self.settle()
            if self.kept()["document"] != self.base["document"]:
                found.append(control)
            self.back(tray)
        return found

    def both(self, tray: str, first: Control, second: Control, is_quick: bool) -> dict[str, Any] | None:
        """What the job is after both; None where the second is there no more after the first."""
        self.back(tray)
        self.page.evaluate(f"window.heldMs = {1000 * self.held_s if is_quick else 0}")
        try:
            self.press(first)
            if not is_quick:
                self.settle()
            self.press(second)
        except Error:
            return None
        self.settle()
        return without_names(self.kept()["document"])


def without_names(document: dict[str, Any]) -> dict[str, Any]:
    """A job in which layers are told apart by what they hold: which of them was named first says nothing."""
    layers = document["make"]["layers"]
    records = sorted(layers["records"], key=lambda record: json.dumps(record["anchors"]))
    number = {record["id"]: f"layer {place}" for place, record in enumerate(records)}
    layers["records"] = [record | {"id": number[record["id"]]} for record in records]
    layers["order"] = [number[name] for name in layers["order"] if name in number]
    return document


def main() -> None:
    count, held_s = int(os.environ.get("COUNT", "1000")), float(os.environ.get("SECONDS", "1"))
    part, parts = (int(number) for number in os.environ.get("PART", "1/1").split("/"))
    trays = [name for name in TRAYS if name in sys.argv[1:]] or list(TRAYS)
    chance = random.Random(1)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder))
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        bench = Bench(browser.new_page(viewport={"width": 1280, "height": 1600}), server.address, held_s)
        print(f"{'tray':12} {'controls':>8} {'pairs':>6} {'lost':>5}", flush=True)
        for tray in trays:
            controls = bench.changing(tray)
            # What is pressed right after something was brought in is about what was picked before: another thing than later.
            pairs = [(one, two) for one in controls for two in controls if one != two and one[1] not in BRINGS_IN]
            pairs = chance.sample(pairs, min(count, len(pairs)))[part - 1 :: parts]
            tried, lost = 0, []
            for one, two in pairs:
                slow, quick = bench.both(tray, one, two, False), bench.both(tray, one, two, True)
                if slow is not None and quick is not None:
                    tried += 1
                    if tried % TOLD_EVERY == 0:
                        print(f"{tray}: {tried} of {len(pairs)}", file=sys.stderr, flush=True)
                    if slow != quick:
                        lost.append(f"{one[1]}, then {two[1]}")
                        print(f"lost: {lost[-1]}", file=sys.stderr, flush=True)
            print(f"{tray:12} {len(controls):8} {tried:6} {len(lost):5}", *lost[:6], sep="  ", flush=True)
        browser.close()
        server.process.terminate()


if __name__ == "__main__":
    main()
