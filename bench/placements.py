"""Whether every make of items that lie on each other anyhow reaches a file: lettering, masks and shapes over tones of photographs
and over drawings, at random places, in every build.

Every third is kept unseen while anything is tuned. Run: make placements [COUNT=3000].
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bisectum.core.check import check_make  # noqa: E402
from bisectum.core.course import CourseSettings, Source  # noqa: E402
from bisectum.core.formats.exporters import export  # noqa: E402
from bisectum.core.job import JobDocument, new_document  # noqa: E402
from bisectum.core.make import run_make  # noqa: E402
from bisectum.core.steps.sheets.step import Desk  # noqa: E402
from bisectum.services.fonts import SHIPPED, shipped_files  # noqa: E402
from tests.support.strangers import icon_bodies, icon_picture, resized, shipped  # noqa: E402

FONTS = {font.id: shipped_files(font.id) for font in SHIPPED}
WORDS = ("Tea", "Rosa & Bo", "Quillhaven", "8", "Open day", "O")
PARTS = ("adds", "cuts", "keeps", "melts")
ASKED_FOR = ("all_taken_away", "nothing_left", "all_hidden", "all_too_fine", "nothing_in_item", "all_too_small", "no_outline")
ASKED_FOR = ("all_taken_away", "nothing_left", "all_hidden", "all_too_fine", "nothing_in_item", "all_too_small", "no_outline")
BUILDS = ("auto", "whole", "lapped", "flush", "stacked")
TREATMENTS = ("colours", "lightness", "dark", "line_shade", "stencil", "silhouette")


def pictures() -> dict[str, Any]:
    found = {name: resized(shipped(name), 60_000) for name in ("chelsea", "coffee", "astronaut", "coins", "horse")}
    return found | {name: icon_picture(body, 200) for name, body in icon_bodies(6)}


def placed(rng: np.random.Generator, name: str) -> JobDocument:
    """A picture with one to three items over it."""
    course = CourseSettings.model_validate({"picture": {"width_mm": 100.0}, "colours": {
        "kind": "auto", "treatment": str(rng.choice(TREATMENTS)), "count": None}})
    document = new_document(name, "a.png", "Placed", course).with_item("picture-1", place={"x_mm": 50.0, "y_mm": 50.0})
    for _ in range(int(rng.integers(1, 4))):
        turn = float(rng.choice([0, 0, rng.uniform(0, 360)]))
        place = {"x_mm": float(rng.uniform(-10, 110)), "y_mm": float(rng.uniform(-10, 110)), "turn_deg": turn}
        part: dict[str, Any] = {"kind": str(rng.choice(PARTS, p=[0.45, 0.3, 0.2, 0.05]))}
        if rng.random() < 0.3:
            part["clear_mm"] = float(rng.uniform(0.3, 3))
        kind, made = lettering(rng) if rng.random() < 0.5 else shape(rng)
        if part["kind"] == "melts":
            part["kind"] = "adds"
        document = document.with_made(kind, kind, {"made": made, "place": place, "part": part})
    return document.with_make_step("layers", {"build": str(rng.choice(BUILDS)), "lap_mm": float(rng.uniform(0.2, 1.5))})


def lettering(rng: np.random.Generator) -> tuple[str, dict[str, Any]]:
    font = str(rng.choice(list(FONTS)))
    return "lettering", {"text": str(rng.choice(WORDS)), "font": font, "capital_mm": float(rng.uniform(8, 40))}


def shape(rng: np.random.Generator) -> tuple[str, dict[str, Any]]:
    across, down = rng.uniform(8, 90, 2)
    form = str(rng.choice(["rectangle", "ellipse", "star", "heart"]))
    return "shape", {"form": form, "width_mm": float(across), "height_mm": float(down)}


def main(count: int) -> None:
    sources = {f"{number:064x}": Source(rgba, 0.2, f"{number:064x}") for number, rgba in enumerate(pictures().values())}
    cache: dict[str, Any] = {}
    refused: dict[bool, list[str]] = {False: [], True: []}
    tried = {False: 0, True: 0}
    for number in range(count):
        rng, kept = np.random.default_rng(number), number % 3 == 2
        document = placed(rng, str(rng.choice(list(sources))))
        trouble = refusal(sources, document, cache)
        tried[kept] += trouble is None or not trouble.startswith("nothing")
        if trouble and not trouble.startswith("nothing"):
            refused[kept].append(f"{number}: {trouble}")
            print("  " + refused[kept][-1], flush=True)
    for kept in (False, True):
        print(f"{'unseen' if kept else 'tuned'}: {tried[kept]} makes, {len(refused[kept])} refused")


def refusal(sources: dict[str, Source], document: JobDocument, cache: dict[str, Any]) -> str | None:
    """Why a make does not reach a file; None where it does. "nothing …" where what was asked leaves nothing of it."""
    try:
        result = run_make(sources, document, cache, fonts=FONTS)
        result.arrangement.check()
        result.artwork.check()
        export("svg", result.artwork, "placed")
        check_make(document, result, Desk(document.make.sheets, document.make.layers.material, None, {}))  # type: ignore[arg-type]
    except Exception as error:
        code = getattr(error, "code", "")
        if code in ASKED_FOR:
            return f"nothing is left ({code})"
        return f"{type(error).__name__} {code}: {str(error)[:150]}"
    return None


if __name__ == "__main__":
    main(int(next((word for word in sys.argv[1:] if word.isdigit()), 3000)))
