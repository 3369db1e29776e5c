"""Pages of ink and drawings in strokes: what kind they are taken for, and how near ink, folds and middle lines come to the truth.

Run from the project's root: make strokes. Tables named "kept" are of what was never looked at while anything was tuned.
"""

from __future__ import annotations

import io
import sys
import time
from collections import Counter
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bisectum.core.course import CourseSettings, Source
from bisectum.core.geom.bezier import flatten
from bisectum.core.job import new_document
from bisectum.core.make import run_make
from bisectum.core.model.ground import page_ground
from bisectum.core.model.picture import Picture
from bisectum.core.model.words import words_of
from bisectum.core.raster.ink.amount import ink_of, stroke_width
from bisectum.core.raster.ink.evened import evened
from bisectum.core.raster.ink.paper import darkness
from bisectum.core.raster.ink.rules import ON_RULE, near_rules
from bisectum.core.raster.thinning import pen_width
from bisectum.core.steps.background.settings import BackgroundSettings
from bisectum.core.steps.background.step import find_background
from bisectum.core.steps.colours.ink.parts import parts_of
from bisectum.core.steps.colours.kind import kind_of_page
from bisectum.core.steps.colours.settings import ColoursSettings
from bisectum.core.steps.colours.step import look_at
from bisectum.core.steps.lines.strokes.drawn_graph import drawn_graph
from bisectum.core.steps.lines.strokes.reading import read_strokes
from tests.support.cards import card
from tests.support.plans import far, pen_drawing, plan
from tests.support.screens import screen
from tests.support.strangers import cropped, icon_bodies, icon_picture, shipped

TUNED, KEPT = range(0, 12), range(100, 112)
PHOTOS = ("astronaut", "chelsea", "coffee", "china", "flower", "rocket", "retina", "moon", "grass", "gravel")
KINDS = ("clip-art", "photo", "line-drawing", "handwriting", "screenshot")
MM_PER_PX = 25.4 / 300


def opaque(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.dstack([rgb[..., :3], np.full(rgb.shape[:2], 255, np.uint8)])


def of_kind(kind: str) -> Iterator[NDArray[np.uint8]]:
    """Twenty pictures of a kind."""
    rng = np.random.default_rng(11)
    if kind == "clip-art":
        for _, body in icon_bodies(20):
            icon = icon_picture(body)
            white = 255 - (255 - icon[..., :3].astype(int)) * icon[..., 3:] // 255
            yield opaque(white.astype(np.uint8))
    elif kind == "photo":
        for name in PHOTOS:
            yield shipped(name)
            yield cropped(shipped(name), rng)
    elif kind == "line-drawing":
        yield from (opaque(pen_drawing(k).rgb) for k in range(10))
        yield from (opaque(plan(k).rgb) for k in range(10))
    elif kind == "handwriting":
        yield from (opaque(card(k).rgb) for k in range(20))
    else:
        yield from (screen(k) for k in range(20))


def kinds() -> None:
    print("\nkinds, told by themselves; rows: what it is, columns: what it was taken for")
    print(f"{'':14}" + "".join(f"{kind:>14}" for kind in KINDS))
    for kind in KINDS:
        told: Counter[str] = Counter()
        for rgba in of_kind(kind):
            picture = Picture(np.ascontiguousarray(rgba), 0.1)
            page = kind_of_page(picture.rgba)
            handwritten = page is not None and page.kind == "handwriting"
            ground = page_ground(rgba.shape[:2]) if handwritten else find_background(picture, BackgroundSettings())
            told[look_at(picture.without(ground.cleared), ground, ColoursSettings(), page).told.kind] += 1
        print(f"{kind:14}" + "".join(f"{told[other]:14}" for other in KINDS))


def cards(numbers: range, name: str, faintest: float = 1.0) -> None:
    overlaps, left, dots, kept_dots, false, words, right = [], [], 0, 0, [], 0, 0
    for number in numbers:
        one = card(number, faintest=faintest)
        ink = ink_of(darkness(opaque(one.rgb)))
        assert ink is not None
        pen = stroke_width(ink.amount > 0.5)
        parts = parts_of(evened(ink, pen), pen, ink.rules, near_rules(ink.rules, ink.amount.shape, ON_RULE))
        found = parts.kept[parts.numbers]
        overlaps.append((found & one.ink).sum() / (found | one.ink).sum())
        away = one.rules & ~(cv2.dilate(one.ink.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0)
        left.append((found & away).sum() / max(1, away.sum()))
        count, own, stats, _ = cv2.connectedComponentsWithStats(one.ink.astype(np.uint8), connectivity=8)
        true_pen = stroke_width(one.ink)
        small = [k for k in range(1, count) if 4 <= stats[k, 4] < 2.5 * true_pen**2]
        dots += len(small)
        kept_dots += sum(bool(found[own == k].mean() > 0.5) for k in small)
        ids = np.flatnonzero(parts.kept)
        false.append(sum(bool(one.ink[parts.numbers == k].mean() < 0.3) for k in ids))
        slopes = [rule.slope for rule in ink.rules if rule.level]
        told = words_of(parts.boxes[ids], float(np.median(slopes)) if slopes else None)
        true = np.array([np.bincount(one.words[parts.numbers == k]).argmax() for k in ids])
        for word in np.unique(true[true > 0]):
            groups = np.unique(told.words[true == word])
            words += 1
            right += len(groups) == 1 and groups[0] >= 0 and bool((true[told.words == groups[0]] == word).all())
    print(f"cards, {name:6} IoU median {np.median(overlaps):.3f} least {min(overlaps):.3f} · rules left {np.mean(left):.4f} · "
          f"dots {kept_dots} of {dots} · false pieces at most {max(false)} · "
          f"words {right} of {words} ({100 * right / words:.1f} %)")


def dense(segments: NDArray[np.float64]) -> NDArray[np.float64]:
    points = np.concatenate([flatten(segments, 0.02), segments[-1:, 3]])
    return np.concatenate([np.linspace(one, other, 8) for one, other in pairwise(points)])


def plans(numbers: range, name: str) -> None:
    straight, curved, totals, cuts, nodes, wrong = 0, 0, [0, 0], [], 0, 0
    for number in numbers:
        known = plan(number)
        ink = ink_of(darkness(opaque(known.rgb)), with_rules=False)
        assert ink is not None
        reading = read_strokes(ink.amount, pen_width(ink.amount), "auto", 28.0, 0.1 / MM_PER_PX)
        cuts += [far(dense(segments), known.cuts).max() * MM_PER_PX for segments, _ in reading.rings]
        wrong += len(reading.rings) != 3
        nodes += sorted(len(segments) for segments, _ in reading.rings) == [4, 4, 20]
        folds = [dense(part.curve[0]) for part in reading.parts if part.role == "score" and part.curve is not None]
        for line in known.straight:
            off = min((far(own, [line]).max() for own in folds), default=9.0) * MM_PER_PX
            straight += bool(off <= 0.05)
        for line in known.curved:
            inner = [own[8:-8] if len(own) > 24 else own for own in folds]  # how far it goes is another matter
            curved += bool(min((far(own, [line]).max() for own in inner), default=9.0) * MM_PER_PX <= 0.1)
        totals[0] += len(known.straight)
        totals[1] += len(known.curved)
    print(f"plans, {name:6} straight folds within .05 mm {straight} of {totals[0]} · curved within .1 mm {curved} of "
          f"{totals[1]} · cut lines off by mm: median {np.median(cuts):.4f}, most {max(cuts):.3f} · "
          f"nodes as drawn {nodes} of {len(numbers)} · "
          f"outlines missing in {wrong}")


def pens(numbers: range, name: str) -> None:
    means, short = [], []
    for number in numbers:
        known = pen_drawing(number)
        ink = ink_of(darkness(opaque(known.rgb)), with_rules=False)
        assert ink is not None
        pen = pen_width(ink.amount)
        graph = drawn_graph(ink.amount, pen, 28.0)
        means.append(far(np.concatenate([line.points for line in graph.lines]), known.strokes).mean())
        short.append(sum(-1 in line.ends and line.length < 2 * pen for line in graph.lines))
    print(f"pens,  {name:6} middle lines off by px: mean {np.mean(means):.3f}, worst drawing {max(means):.3f} · spurs a drawing "
          f"{np.mean(short):.2f}")


def speed() -> None:
    print("\nwhole makes, s (median of three, warm)")
    for name, rgb in (("card of 300 dpi A6", card(5, 1748, 1240).rgb), ("plan of 2 MP", plan(3, 1640, 1230).rgb)):
        buffer = io.BytesIO()
        Image.fromarray(rgb).save(buffer, "PNG")
        took = []
        for _ in range(4):
            began = time.perf_counter()
            document = new_document("0" * 64, "", name, CourseSettings())
            made = run_make({"0" * 64: Source(opaque(rgb), MM_PER_PX, "0" * 64)}, document, {})
            took.append(time.perf_counter() - began)
        print(f"{name:20} {np.median(took[1:]):.2f} · {made.artwork.piece_count} pieces, {made.artwork.node_count} nodes, "
              f"{made.artwork.stroke_count} strokes")


def main() -> None:
    kinds()
    print()
    for numbers, name in ((TUNED, "tuned"), (KEPT, "kept")):
        cards(numbers, name)
        plans(numbers, name)
        pens(numbers, name)
        cards(numbers, f"{name}, pressed less, down to .35", 0.35)
    speed()


if __name__ == "__main__":
    main()
