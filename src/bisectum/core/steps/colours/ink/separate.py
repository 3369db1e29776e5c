"""A page of ink as one colour: the paper evened out, rules taken away, specks told from writing.

Edges of ink lie where its amount is one half; `LabelMap.scores` carries that to the Lines step, which places them between pixels.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.model.finding import Finding
from bisectum.core.model.page import Page
from bisectum.core.model.picture import Picture, frozen
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.ink.amount import Ink, ink_of, stroke_width
from bisectum.core.raster.ink.evened import evened
from bisectum.core.raster.ink.paper import darkness
from bisectum.core.raster.ink.rules import ON_RULE, near_rules
from bisectum.core.raster.resample import reduce_to
from bisectum.core.steps.colours.by_hand import Entry
from bisectum.core.steps.colours.ink.parts import Parts, parts_of
from bisectum.core.steps.colours.settings import ColoursSettings
from bisectum.core.steps.colours.sift import Separation

MOST_PX = 5_000_000  # of the page that is worked on: a pen's stroke is several pixels wide then
MOST_INK = 0.4  # of a page: more is no writing
SMOOTHER = 0.22  # of the pen's width: how far wobbles are evened out on request
MOST_SPECKS = 400  # that are offered one by one, the largest


def separate_ink(
    picture: Picture, cleared: NDArray[np.bool_] | None, settings: ColoursSettings, written: bool = True,
    progress: Progress = SILENT,
) -> Separation:
    """cleared : (H, W) bool, what somebody has taken away by hand, or None. written: it is handwriting; of a drawing no line is
    a rule, and no dot a speck.

    Raises: SettingsError where there is no ink, only rules, or too much of it; Cancelled.
    """
    rgba, factor = reduce_to(picture.rgba, MOST_PX)
    dark = darkness(rgba)
    if cleared is not None and cleared.any():
        dark[_reduced(cleared, rgba.shape[0], rgba.shape[1])] = 0.0
    progress.report(0.2)
    progress.raise_if_cancelled()
    ink = ink_of(dark, settings.take_rules and written)
    if ink is None:
        raise SettingsError("There is no writing on this page that is darker than its paper: bring in a sharper picture, or "
                            "choose another kind of picture.", code="no_ink")
    if float((ink.amount > 0.5).mean()) > MOST_INK:
        raise SettingsError(f"More than {MOST_INK:.0%} of this page is dark, so it is no writing: choose another kind of "
                            "picture, or crop it.", code="too_much_ink", most=round(100 * MOST_INK))
    progress.report(0.5)
    progress.raise_if_cancelled()
    pen = stroke_width(ink.amount > 0.5)
    amount = evened(ink, pen)
    parts = parts_of(amount, pen, ink.rules, near_rules(ink.rules, amount.shape, ON_RULE), written)
    if not parts.kept.any():
        raise SettingsError("Only the rules of the page are on this picture, and no writing.", code="only_rules")
    page = _page(parts, np.unique(parts.numbers[ink.amount > 0.5]), picture, settings, factor, len(ink.rules), pen)
    amount = _of_writing(amount, parts, page)
    if settings.hand == "smoother":
        amount = np.asarray(cv2.GaussianBlur(amount, (0, 0), SMOOTHER * pen), np.float32)
    if settings.bolder_mm > 0:
        amount = _bolder(amount, settings.bolder_mm / _mm_per_px(amount, picture, factor))
    return _separation(amount, ink, page, factor, settings)


def _reduced(mask: NDArray[np.bool_], height: int, width: int) -> NDArray[np.bool_]:
    return np.asarray(cv2.resize(mask.astype(np.uint8), (width, height), interpolation=cv2.INTER_NEAREST)) > 0


def _page(
    parts: Parts, dark: NDArray[np.int32], picture: Picture, settings: ColoursSettings, factor: float, rules: int, pen: float
) -> Page:
    """What lies beside the writing, the largest first, and what of it somebody wants to keep. dark: which parts are as dark as
    the usual ink; a faint one beside the writing is paper."""
    specks = np.setdiff1d(dark, np.append(0, np.flatnonzero(parts.kept)))
    specks = specks[np.argsort(-parts.areas[specks], kind="stable")][:MOST_SPECKS]
    boxes = parts.boxes[specks]
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    radii = np.hypot(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]) / 2
    kept = np.full(len(specks), settings.specks == "keep")
    places = picture.places.scaled(1 / factor)
    for x, y in settings.other_specks:
        if len(specks):
            away = np.hypot(*(middles - places.to_px(np.array([x, y]))[0]).T) - radii
            nearest = int(away.argmin())
            if away[nearest] < 2 * pen:
                kept[nearest] = settings.specks != "keep"
    numbered = np.column_stack([middles, radii, specks]) if len(specks) else np.empty((0, 4))
    parts.kept[specks[kept]] = True
    return Page(rules, frozen(numbered[:, :3].copy()), frozen(kept), pen)


def _of_writing(amount: NDArray[np.float32], parts: Parts, page: Page) -> NDArray[np.float32]:
    """The amount of ink without what goes, and without its soft rim."""
    gone = ~parts.kept[parts.numbers] & (parts.numbers > 0)
    if not gone.any():
        return amount
    rim = cv2.dilate(gone.astype(np.uint8), np.ones((3, 3), np.uint8), iterations=2) > 0
    stays = cv2.dilate((parts.kept[parts.numbers]).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    return np.where(rim & ~stays, 0.0, np.where(gone, 0.0, amount)).astype(np.float32)


def _mm_per_px(amount: NDArray[np.float32], picture: Picture, factor: float) -> float:
    columns = np.flatnonzero((amount > 0.5).any(axis=0))
    return picture.mm_per_px((columns[-1] - columns[0] + 1) * factor) * factor


def _bolder(amount: NDArray[np.float32], more: float) -> NDArray[np.float32]:
    """With edges moved outwards by `more` pixels: by the distance from the edge, which the amount tells to a part of a pixel."""
    mask = (amount > 0.5).astype(np.uint8)
    away = cv2.distanceTransform(mask, cv2.DIST_L2, 5) - cv2.distanceTransform(1 - mask, cv2.DIST_L2, 5)
    beyond = away - np.sign(away) * 0.5
    near = np.abs(away) <= 1.0
    beyond[near] = (amount[near] - 0.5) * 2.0
    smooth = cv2.GaussianBlur(np.asarray(beyond, np.float32), (0, 0), 0.7)
    return np.clip((smooth + more) / 4.0 + 0.5, 0.0, 1.0)


def _separation(
    amount: NDArray[np.float32], ink: Ink, page: Page, factor: float, settings: ColoursSettings
) -> Separation:
    labels = (amount > 0.5).astype(np.uint8)
    scores = np.stack([0.5 - amount, amount - 0.5]).astype(np.float32)
    rgb = tuple(int(value) for value in np.clip(np.rint(255 * (1 - ink.vector)), 0, 255))
    entry = Entry((rgb[0], rgb[1], rgb[2]))
    if settings.pins:
        pin = settings.pins[0]
        entry = Entry(rgb_of(pin.colour), name=pin.name)
    findings = [Finding("rules_taken", details={"count": page.rules})] if page.rules else []
    return Separation(frozen(labels), (entry,), "ink", 1, tuple(findings), factor, False, frozen(scores), page=page)
