"""How well the ground is taken away, on composites with known masks, beside GrabCut from a border frame.

IoU: intersection over union of the subject. F: of the outlines within 2 px. Run: make background.
"""

from __future__ import annotations

import statistics
import sys
import time
from pathlib import Path
from typing import cast

import cv2
import numpy as np
from numpy.typing import NDArray

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bisectum.core.model.ground import Ground  # noqa: E402
from bisectum.core.model.picture import Picture  # noqa: E402
from bisectum.core.raster.colour import oklab  # noqa: E402
from bisectum.core.steps.background.settings import BackgroundSettings, Touch  # noqa: E402
from bisectum.core.steps.background.step import cleared_picture, find_background  # noqa: E402
from tests.support.composites import Composite, composites, outline_f, overlap  # noqa: E402
from tests.support.scenes import BLURS, before_photo, is_kept, wall  # noqa: E402

MOST_STROKES = 3
FRAME = 0.04


def picture_of(composite: Composite) -> Picture:
    return Picture(np.dstack([composite.rgb, np.full(composite.rgb.shape[:2], 255, np.uint8)]), 0.1)


def stroke_for(composite: Composite, found: NDArray[np.bool_]) -> Touch:
    """What a person would draw: a short line through the middle of the largest wrong area."""
    wrong = composite.mask ^ found
    _, parts, stats, _ = cv2.connectedComponentsWithStats(wrong.astype(np.uint8))
    worst = parts == 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))
    depth = cv2.distanceTransform(worst.astype(np.uint8), cv2.DIST_L2, 3)
    y, x = np.unravel_index(int(depth.argmax()), depth.shape)
    rows, columns = np.nonzero(depth > 0.5 * depth.max())
    far = int(np.argmax((rows - y) ** 2 + (columns - x) ** 2))
    width = composite.rgb.shape[1]
    ends = (((x + 0.5) / width, (y + 0.5) / width), ((columns[far] + 0.5) / width, (rows[far] + 0.5) / width))
    line = np.linspace(*np.array(ends), 12)
    inside = worst[(line[:, 1] * width).astype(int), (line[:, 0] * width).astype(int)]
    points = tuple(map(tuple, line[: max(1, int(np.argmin(inside)) if not inside.all() else len(line))].tolist()))
    return Touch(kind="keep" if composite.mask[y, x] else "drop", points=points, width=max(0.004, min(0.02, depth.max() / width)))


def fuzz_left(composite: Composite, ground: Ground) -> float:
    """The part of the outline's pixels whose colour is off the subject's by more than 0.06 OKLab; NaN where none was kept."""
    picture = picture_of(composite)
    cleared = cleared_picture(picture, ground)
    solid = cleared[..., 3] > 127
    inner = cv2.erode(solid.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    edge = solid & ~inner & (composite.coverage > 0)
    if not edge.any():
        return float("nan")
    asked = oklab(np.clip(composite.filling[edge], 0, 255))
    return float((np.linalg.norm(oklab(cleared[edge][:, :3]) - asked, axis=1) > 0.06).mean())


def reference(composite: Composite) -> tuple[NDArray[np.bool_], float]:
    began = time.perf_counter()
    height, width = composite.rgb.shape[:2]
    inset = round(FRAME * width)
    marks = np.zeros((height, width), np.uint8)
    cv2.setRNGSeed(1)
    cv2.grabCut(np.ascontiguousarray(composite.rgb[..., ::-1]), marks, (inset, inset, width - 2 * inset, height - 2 * inset),
                np.zeros((1, 65)), np.zeros((1, 65)), 5, cv2.GC_INIT_WITH_RECT)
    return (marks & 1) == 1, time.perf_counter() - began


def show_scenes() -> None:
    """Walls with shadows, and sharp subjects before photographs: the third that is kept unseen apart from the others."""
    print(f"\n{'scenes':<34}{'IoU median':>11}{'least':>8}{'≥ .95':>8}{'≤ 2 strokes: median':>21}{'≥ .98':>8}"
          f"{'seconds, most':>15}")
    kinds = {"walls with shadows": [(number, wall(number)) for number in range(36)]}
    for blur in BLURS:
        kinds[f"before a photograph, blur {blur:g}"] = [(number, before_photo(number, blur)) for number in range(24)]
    for kind, scenes in kinds.items():
        for kept in (False, True):
            rows = [_with_two_strokes(scene) for number, scene in scenes if is_kept(number) == kept]
            first, after, seconds = (np.array(column) for column in zip(*rows, strict=True))
            name = kind + (", unseen" if kept else "")
            print(f"{name:<34}{np.median(first):11.3f}{first.min():8.3f}{np.mean(first >= 0.95):8.0%}"
                  f"{np.median(after):21.3f}{np.mean(after >= 0.98):8.0%}{seconds.max():15.2f}")


def _with_two_strokes(scene: Composite) -> tuple[float, float, float]:
    """IoU of the first result, or of the best cut-out where all was kept; after up to two strokes; seconds to the first."""
    picture = picture_of(scene)
    memory: dict[str, object] = {}
    began = time.perf_counter()
    ground = find_background(picture, BackgroundSettings(enclosed="all"), memory=memory)
    seconds = time.perf_counter() - began
    if ground.kind == "not_plain":  # a person takes the best one by a press
        offered = [find_background(picture, BackgroundSettings(mode="subject", cutout=one.name), memory=memory)
                   for one in ground.cutouts]
        ground = max(offered or [ground], key=lambda one: overlap(~one.mask, scene.mask))
    settings = BackgroundSettings(enclosed="all", **({"mode": "subject", "cutout": ground.cutout} if ground.cutout else {}))
    found = cleared_picture(picture, ground)[..., 3] > 127
    first = after = overlap(found, scene.mask)
    touches: tuple[Touch, ...] = ()
    while after < 0.98 and len(touches) < 2:
        touches += (stroke_for(scene, found),)
        ground = find_background(picture, cast(BackgroundSettings, settings.with_fields({"touches": touches})), memory=memory)
        found = cleared_picture(picture, ground)[..., 3] > 127
        after = overlap(found, scene.mask)
    return first, after, seconds


def main(details: bool) -> None:
    rows: dict[str, list[tuple[float, ...]]] = {}
    holes, false = [0, 0], [0, 0]
    for composite in composites():
        picture = picture_of(composite)
        began = time.perf_counter()
        offered = find_background(picture, BackgroundSettings())
        seconds = time.perf_counter() - began
        memory: dict[str, object] = {}
        ground = find_background(picture, BackgroundSettings(enclosed="all"), memory=memory)
        if composite.kind != "photo":
            holes[0] += composite.holes
            there = [spot for spot in offered.enclosed if not composite.mask[spot.y, spot.x]]
            holes[1] += min(composite.holes, len(there))
            false[0] += 1
            false[1] += len(offered.enclosed) - len(there) > 0
        fuzz = fuzz_left(composite, ground)
        found = cleared_picture(picture, ground)[..., 3] > 127
        by_itself, f = overlap(found, composite.mask), outline_f(found, composite.mask)
        touches: tuple[Touch, ...] = ()
        with_strokes, stroke_seconds = by_itself, 0.0
        while with_strokes < 0.98 and len(touches) < MOST_STROKES:
            touches += (stroke_for(composite, found),)
            began = time.perf_counter()
            mended = find_background(picture, BackgroundSettings(touches=touches, enclosed="all"), memory=memory)
            found = cleared_picture(picture, mended)[..., 3] > 127
            stroke_seconds = max(stroke_seconds, time.perf_counter() - began)
            with_strokes = overlap(found, composite.mask)
        plain, plain_seconds = reference(composite)
        rows.setdefault(composite.kind, []).append(
            (by_itself, f, with_strokes, seconds / plain_seconds, overlap(plain, composite.mask), stroke_seconds, fuzz))
        if details:
            print(f"{composite.name:<12}{ground.kind:<12}{ground.cutout or '':<9} IoU {by_itself:.3f} F {f:.3f} "
                  f"strokes {len(touches)} → {with_strokes:.3f}  GrabCut {rows[composite.kind][-1][4]:.3f}  {seconds:.2f} s, "
                  f"stroke {stroke_seconds:.2f} s, GrabCut {plain_seconds:.2f} s")
    print(f"\n{'ground':<10}{'IoU median':>11}{'IoU ≥ .99':>11}{'IoU ≥ .95':>11}{'F ≥ .97':>9}{'≤ 3 strokes ≥ .98':>19}"
          f"{'GrabCut IoU':>13}{'time ÷ its':>12}{'stroke s':>10}{'fuzz':>9}")
    for kind, values in rows.items():
        iou, f, stroked, ratio, plain, stroke_time, fuzz = (np.array(column) for column in zip(*values, strict=True))
        print(f"{kind:<10}{np.median(iou):11.3f}{np.mean(iou >= 0.99):11.0%}{np.mean(iou >= 0.95):11.0%}{np.mean(f >= 0.97):9.0%}"
              f"{np.mean(stroked >= 0.98):19.0%}{np.median(plain):13.3f}{statistics.median(ratio):12.2f}{max(stroke_time):10.2f}"
              f"{np.nanmean(fuzz):9.1%}")
    show_scenes()
    print(f"enclosed ground offered: {holes[1]} of {holes[0]}; drawings with something falsely offered: {false[1]} of {false[0]}")


if __name__ == "__main__":
    main("--details" in sys.argv)
