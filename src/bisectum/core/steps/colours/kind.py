"""What kind of picture it is, told from a small version of it, each time with the reason."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.kind import Reason, Told
from bisectum.core.model.words import words_of
from bisectum.core.raster.ink.amount import RULE_WIDTH, Ink, ink_of, stroke_width
from bisectum.core.raster.ink.paper import darkness
from bisectum.core.raster.ink.rules import ON_RULE, near_rules
from bisectum.core.raster.resample import reduce_to
from bisectum.core.raster.thinning import pen_width
from bisectum.core.steps.colours.ink.parts import parts_of

LOOKED_AT_PX = 400_000
PAPER, MOST_INK, LEAST_INK = 0.7, 0.3, 0.002  # shares of a page
SHADE = 0.4  # of the light of a page falls on its darkest part
ONE_HUE = 0.02  # that shares of red and green may differ by on one paper
ALIKE, ONE_INK = 0.16, 0.85  # darkness that a pixel of ink may differ by from that of its ink, and the share that does not
THIN, BROAD, MOST_BROAD = 40, 1.6, 0.12  # widths of the pen across the page; times that width; share of the ink so broad
FEWEST_PARTS, IN_LINES, WIDEST = 8, 0.75, 0.45  # of writing: letters or words, their share on lines, their width
SAME_HEIGHT = 2.5  # times the usual height
STEP, RUN, LEVEL = 8, 12, 0.45  # levels that make an edge, px of a level one, and their share in a screenshot
LONG = 0.5  # of its width or height
SUDDEN, ACROSS, FACES = 0.05, 12, 0.1  # share of the light, px beyond a stroke's width, and share of the strokes' length
DARKEST = 8.0  # levels: below them a share of the light says nothing
STILL = 0.5  # levels of noise of what no camera saw


def kind_of_page(rgba: NDArray[np.uint8]) -> Told | None:
    """Handwriting, or a line drawing; None where it is no page of ink. rgba : (H, W, 4) uint8, straight alpha."""
    small, _ = reduce_to(rgba, LOOKED_AT_PX)
    ink = _page_of_ink(small)
    if ink is None:
        return None
    reason = _writing(ink, small.shape[1])
    if reason is None:
        return None if _has_grey_faces(small, ink) else Told("line-drawing", "thin_strokes")
    still = _noise(small) < STILL
    return Told("screenshot", "level_edges") if still and _is_of_frames(rgba) else Told("handwriting", reason)


def kind_of_colours(rgba: NDArray[np.uint8], soft: bool) -> Told:
    """What is no page of ink. rgba : (H, W, 4) uint8; soft: it has hardly any flat places, as photographs have."""
    if soft:
        return Told("photo", "soft")
    if (rgba[..., 3] == 255).all() and _noise(rgba) < STILL and _is_of_frames(rgba):
        return Told("screenshot", "level_edges")
    return Told("clip-art", "flat")


def _page_of_ink(rgba: NDArray[np.uint8]) -> Ink | None:
    """The ink of a page that holds nothing but thin strokes of one ink on paper, else None."""
    dark = darkness(rgba)
    ink = ink_of(dark) if _is_one_paper(rgba[..., :3] / np.clip(1.0 - dark, 0.05, None)) else None
    if ink is None:
        return None
    mask = ink.amount > 0.5
    share = float(mask.mean())
    if not LEAST_INK < share < MOST_INK or float((ink.amount < 0.2).mean()) < PAPER:
        return None
    vector = ink.vector.astype(np.float32)
    along = dark @ (vector / (vector @ vector))  # on a rule the amount says only what lies on it
    amount = np.where(near_rules(ink.rules, mask.shape, RULE_WIDTH), np.maximum(ink.amount, along), ink.amount)
    rest = np.abs(dark[mask] - amount[mask][:, None] * vector).max(axis=1)
    if float((rest < ALIKE).mean()) < ONE_INK:
        return None
    pen = pen_width(ink.amount)
    away = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
    broad = float((away > BROAD * pen / 2 + 1).sum()) / max(1, int(mask.sum()))
    return ink if pen * THIN < max(mask.shape) and broad < MOST_BROAD else None


def _is_one_paper(paper: NDArray[np.floating]) -> bool:
    """Whether the paper is of one hue all over, in light that may differ. paper : (H, W, 3), levels."""
    light = np.maximum(paper.sum(axis=2), 1.0)
    darkest, lightest = np.quantile(light, (0.05, 0.95))
    hues = paper[..., :2] / light[..., None]
    apart = np.abs(hues - np.median(hues, axis=(0, 1))).max(axis=2)
    return bool(darkest > SHADE * lightest and float(np.quantile(apart, 0.95)) < ONE_HUE)


def _has_grey_faces(rgba: NDArray[np.uint8], ink: Ink) -> bool:
    """Whether the paper changes at once, beside strokes or across one: light on paper changes softly, a drawn grey does not.

    rgba : (H, W, 4) uint8. Says yes where such edges are as long as a tenth of the strokes.
    """
    mask = ink.amount > 0.5
    pen = stroke_width(mask)
    drawn = (ink.amount > 0.2) | near_rules(ink.rules, mask.shape, RULE_WIDTH)
    bare = cv2.dilate(drawn.astype(np.uint8), np.ones((5, 5), np.uint8)) == 0
    light = np.log(rgba[..., :3].astype(np.float32) + DARKEST).mean(axis=2)
    share = cv2.blur(bare.astype(np.float32), (3, 3))
    calm = cv2.blur(np.where(bare, light, 0.0).astype(np.float32), (3, 3)) / np.maximum(share, 1e-6)
    side = int(pen) + ACROSS
    window = np.ones((side, side), np.uint8)
    lightest = cv2.dilate(np.where(bare, calm, -99.0).astype(np.float32), window)
    darkest = cv2.erode(np.where(bare, calm, 99.0).astype(np.float32), window)
    edges = float((lightest - darkest > SUDDEN).sum()) / side
    return edges > FACES * float(mask.sum()) / pen


def _writing(ink: Ink, width: int) -> Reason | None:
    """By what ink on a page is told to be writing, or None where it is a drawing."""
    mask = ink.amount > 0.5
    parts = parts_of(ink.amount, stroke_width(mask), ink.rules, near_rules(ink.rules, mask.shape, ON_RULE))
    kept = np.flatnonzero(parts.kept)
    boxes, areas = parts.boxes[kept], parts.areas[kept]
    if len(kept) < FEWEST_PARTS:
        return None
    slopes = [rule.slope for rule in ink.rules if rule.level]
    words = words_of(boxes, float(np.median(slopes)) if slopes else None)
    wide, high = boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]
    apt = (words.lines >= 0) & (wide < WIDEST * width) & (high < SAME_HEIGHT * words.height)
    counts = np.bincount(words.lines[apt], minlength=len(words.lines) + 1)
    apt &= counts[np.maximum(words.lines, 0)] >= 3
    if float(areas[apt].sum()) < IN_LINES * float(areas.sum()):
        return None
    return "ruled" if len(slopes) >= 3 else "text_lines"


def _noise(rgba: NDArray[np.uint8]) -> float:
    """The unrest of most of the picture, levels: the median of what a pixel differs by from the mean of those beside it."""
    light = rgba[..., 1].astype(np.float32)
    return float(np.quantile(np.abs(light - cv2.blur(light, (3, 3))), 0.6))


def _is_of_frames(rgba: NDArray[np.uint8]) -> bool:
    """Whether most edges are level or upright to the pixel, and some of both go on over half of the picture."""
    light = rgba[..., :3].astype(np.int16)
    across = (np.abs(np.diff(light, axis=1)).max(axis=2) > STEP).astype(np.uint8)
    down = (np.abs(np.diff(light, axis=0)).max(axis=2) > STEP).astype(np.uint8)
    upright = cv2.morphologyEx(across, cv2.MORPH_OPEN, np.ones((RUN, 1), np.uint8))
    level = cv2.morphologyEx(down, cv2.MORPH_OPEN, np.ones((1, RUN), np.uint8))
    share = (int(upright.sum()) + int(level.sum())) / max(1, int(across.sum()) + int(down.sum()))
    return share > LEVEL and upright.mean(axis=0).max() > LONG and level.mean(axis=1).max() > LONG
