"""The cut check: whether narrow places are found and tips are left alone, what repairs leave, how long it takes; and what the
stand-in cutter frees of the files.

Run from the project's root: make check. Sets named "kept" were never looked at while anything was tuned.
"""

from __future__ import annotations

import statistics
import sys
import time
from collections import Counter
from dataclasses import replace
from pathlib import Path

import numpy as np
import shapely

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bisectum.core.check import CutCheck, check_make
from bisectum.core.course import CourseSettings, Source
from bisectum.core.formats.exporters import export
from bisectum.core.job import JobDocument, new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.shapes_of import polygon_of
from bisectum.core.steps.check.narrow import narrow_places
from bisectum.core.steps.check.settings import CheckSettings
from bisectum.core.steps.check.step import check_artwork
from bisectum.core.steps.sheets.step import Desk
from bisectum.services.bench import Bench, Edits, Repairing
from bisectum.services.decode import decode
from bisectum.stand_ins.cutter.compare import differences
from bisectum.stand_ins.cutter.cutter import cut
from bisectum.stand_ins.cutter.machine import MACHINES
from tests.support.mats import artwork, mixed
from tests.support.narrow import decoys, necked
from tests.support.strangers import strangers

TUNED, KEPT = (20, 21, 22), (201, 202)
DIGEST = "1" * 64
PICTURES = Path(__file__).resolve().parents[1] / "demo/pictures"
WIDTH = 150.0


def narrow(seeds: tuple[int, ...]) -> str:
    """Of shapes made for it: how many are found, how far off the width is at most, how many tips are called."""
    found, off, called, count, tips = 0, 0.0, 0, 0, 0
    for seed in seeds:
        rng = np.random.default_rng(seed)
        for made in necked(rng):
            places = narrow_places(made.rings, 1.6)
            count += 1
            if places and abs(places[0].width - (made.width or 0)) < 0.03:
                found += 1
                off = max(off, abs(places[0].width - (made.width or 0)))
        for made in decoys(rng):
            tips += 1
            called += bool(narrow_places(made.rings, 1.6))
    return (f"{100 * found / count:.1f} % of {count} found, at most {off:.3f} mm off; "
            f"{100 * called / tips:.1f} % of {tips} decoys called")


def by_opening(make: Artwork, width: float) -> list[shapely.Geometry]:
    """What a general-purpose library gives: the shape less its opening, by shapely's buffers."""
    found = []
    for layer in make.layers:
        for piece in layer.pieces:
            shape = polygon_of(piece, 0.01)
            found.append(shape - shape.buffer(-width / 2).buffer(width / 2))
    return found


def made(rgba: np.ndarray, document: JobDocument, cache: dict[str, object]) -> tuple[MakeResult, CutCheck]:
    result = run_make({DIGEST: Source(rgba, 0.2, DIGEST)}, document, cache)
    make = document.make
    return result, check_make(document, result, Desk(make.sheets, make.layers.material, None, {}))  # type: ignore[arg-type]


def repairs(name: str, rgba: np.ndarray) -> tuple[Counter[str], Counter[str], Counter[str]]:
    """For each kind: findings with a repair, left of them after all repairs of the kind, and new ones of other kinds."""
    document = new_document(DIGEST, "a.png", name, CourseSettings()).with_step("picture-1", "picture", {"width_mm": WIDTH})
    cache: dict[str, object] = {}
    _, check = made(rgba, document, cache)
    before = Counter(one.finding.code for one in check.findings if one.finding.severity != "note")
    had, left, new = Counter[str](), Counter[str](), Counter[str]()
    for code in before:
        edits = [edit for one in check.findings if one.finding.code == code and one.repairs for edit in one.repairs[0].edits]
        if not edits or code == "much_work":
            continue
        changes = [Repairing(edit.item, edit.step, Edits(edit.settings, edit.add)) for edit in edits[:1900]]
        changed = Bench.repaired(document, changes)
        _, again = made(rgba, changed, cache)
        after = Counter(one.finding.code for one in again.findings if one.finding.severity != "note")
        had[code] += before[code]
        left[code] += after[code]
        new[code] += sum((after - before).values())
    return had, left, new


def freed(name: str, rgba: np.ndarray) -> tuple[int, float, int]:
    """Of the files of all layers: how many pieces, how far edges lie off at most, how many things differ."""
    document = new_document(DIGEST, "a.png", name, CourseSettings()).with_step("picture-1", "picture", {"width_mm": WIDTH})
    result = run_make({DIGEST: Source(rgba, 0.2, DIGEST)}, document, {})
    pieces, farthest, differ = 0, 0.0, 0
    for layer in result.artwork.layers:
        own = replace(result.artwork, layers=(layer,))
        done = cut(export("svg", own, name), MACHINES["adhesive vinyl"])
        found, away = differences(done.freed, [polygon_of(piece, 0.001) for piece in layer.pieces])
        pieces, farthest, differ = pieces + len(layer.pieces), max(farthest, away), differ + len(found)
    return pieces, farthest, differ


def large(segments: int) -> Artwork:
    """Letters and shapes, as many as it takes."""
    pieces: list[object] = []
    while sum(len(ring.segments) for piece in pieces for ring in piece.rings) < segments:  # type: ignore[attr-defined]
        shift = np.array([[1.0, 0, 400 * (len(pieces) % 7)], [0, 1.0, 60 * (len(pieces) // 7)]])
        pieces += [piece.placed(shift) for piece in mixed(40, len(pieces))]
    layer = Layer("#26323d", "All", (38, 50, 61), tuple(pieces))  # type: ignore[arg-type]
    return replace(artwork((), size=(4000, 4000)), layers=(layer,))


def main() -> None:
    print("narrow places, tuned:", narrow(TUNED))
    print("narrow places, kept :", narrow(KEPT))
    for segments in (5_000, 50_000):
        make = large(segments)
        check_artwork(make, lambda _: "adhesive vinyl", CheckSettings())
        began = time.perf_counter()
        check_artwork(make, lambda _: "adhesive vinyl", CheckSettings())
        ours = time.perf_counter() - began
        began = time.perf_counter()
        by_opening(make, 0.8)
        theirs = time.perf_counter() - began
        print(f"check of {make.node_count} segments: {ours:.2f} s, {ours / theirs:.2f} of an opening by shapely, which tells no "
              "tip from a hair")
    sets: dict[str, list[tuple[str, np.ndarray]]] = {"demo": [], "tuned": [], "kept": []}
    for path in sorted(PICTURES.glob("*")):
        if path.suffix in (".png", ".jpg"):
            sets["demo"].append((path.name, decode(path.read_bytes())[0].rgba))
    for stranger in strangers():
        sets["kept" if stranger.kept else "tuned"].append((stranger.name, stranger.load()))
    for title, pictures in sets.items():
        had, left, new = Counter[str](), Counter[str](), Counter[str]()
        cuts, failed = [], []
        for name, rgba in pictures:
            if max(rgba.shape[:2]) > 1500:
                continue
            try:
                for whole, own in zip((had, left, new), repairs(name, rgba), strict=True):
                    whole.update(own)
                cuts.append(freed(name, rgba))
            except Exception as error:
                failed.append(f"{name}: {error}")
        told = ", ".join(f"{code} {had[code]} → {left[code]} (+{new[code]})" for code in had)
        print(f"{title}: repairs, before → left (new of other kinds): {told}")
        print(f"{title}: freed of {len(cuts)} pictures, {sum(one[0] for one in cuts)} pieces: farthest "
              f"{max(one[1] for one in cuts):.4f} mm, median {statistics.median(one[1] for one in cuts):.4f}, other than meant "
              f"{sum(one[2] for one in cuts)}; failed {failed}")


if __name__ == "__main__":
    main()
