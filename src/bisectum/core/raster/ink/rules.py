"""Rules and margin lines of a card: found as ridges that go on across the page, followed where they bend.

Their direction is that in which a projection of the ridges has the sharpest peaks (cf. the Radon transform); each is then
followed by dynamic programming, and its section measured as a low quantile along it, so that ink that crosses does not count.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure

STEEPEST = 5.5  # degrees that rules are turned by at most
STEP_DEG = 0.25
LEAST_LONG = 0.45  # of the page's width that a rule is seen on
STRAY = 10  # px a rule may stray from a straight line, at a width of 1000
STRIDE, PLACES = 4, 250  # px between two places on a rule at least, and how many there are at most
QUANTILE = 0.3  # of the darkness along a rule: what is darker may be ink upon it
REACH = 8  # px to both sides of its middle that its section is measured at
FAINTEST = 3.0  # times the noise
LEAST_SEEN = 0.25  # of it within five rows
RUNS = 20  # parts of the width, of which a rule is dark on a whole one
TURN = 0.15  # what a step to the side costs, of a place on the rule
ON_RULE = 2  # px about a rule's middle that it runs over
FINE = 4  # places of a section on a pixel


@dataclass(frozen=True, slots=True)
class Rule:
    """places : (N,) float64, where the middle of the rule lies, one for each column (of a level one) or row (of an upright
    one), px; level: whether it runs across."""

    places: NDArray[np.float64]
    level: bool

    @property
    def slope(self) -> float:
        """How much it rises on a pixel."""
        return float(np.polyfit(np.arange(len(self.places)), self.places, 1)[0])

    def check(self) -> None:
        """Raises: BrokenStructure where a place is no number."""
        if not np.isfinite(self.places).all():
            raise BrokenStructure("A rule is broken: a place of it is no number.")


def find_rules(dark: NDArray[np.float32]) -> list[Rule]:
    """The rules of a page. dark : (H, W), 0 for paper."""
    level = [Rule(places, True) for places in _level(dark)]
    return level + [Rule(places, False) for places in _level(np.ascontiguousarray(dark.T))]


def _level(dark: NDArray[np.float32]) -> list[NDArray[np.float64]]:
    width = dark.shape[1]
    beside = max(3, round(width / 160))
    ridge = _ridge(dark, beside)
    noise = float(np.median(np.abs(ridge - np.median(ridge)))) * 1.48
    faintest = max(0.02, FAINTEST * noise)
    slope = _slope(ridge, faintest)
    # Along the slope a rule is dark all the way; letters never are, so what is dark on so long a way is a rule.
    rise = np.rint(slope * (np.arange(width) - width / 2)).astype(int)
    room = int(np.abs(rise).max()) + 1
    upright = _sheared(dark, rise, room)
    long = np.ones((1, max(15, width // RUNS)), np.uint8)
    lasting = cv2.morphologyEx(cv2.dilate(upright, np.ones((3, 1), np.uint8)), cv2.MORPH_OPEN, long)
    padded = cv2.copyMakeBorder(lasting, beside, beside, 0, 0, cv2.BORDER_REPLICATE)
    ridge = np.clip(lasting - np.maximum(padded[: -2 * beside], padded[2 * beside :]), 0.0, None)
    seen = (ridge > faintest).mean(axis=1)
    wide = np.convolve(seen, np.ones(5), "same")
    stray = max(3, round(STRAY * width / 1000))
    found: list[NDArray[np.float64]] = []
    tried = np.zeros(len(wide), bool)
    for place in np.argsort(-wide, kind="stable"):
        if wide[place] < LEAST_SEEN:
            break
        if tried[place]:
            continue
        tried[max(0, place - 2 * beside) : place + 2 * beside + 1] = True
        path = _followed(ridge, faintest, int(place), stray)
        if path is not None and not any(np.abs(path - other).mean() < beside for other in found):
            found.append(path)
    return [path + rise - room for path in found]


def _ridge(dark: NDArray[np.float32], beside: int) -> NDArray[np.float32]:
    """How much darker a place is than what lies above and below it."""
    smooth = cv2.blur(dark, (2 * beside + 1, 1))
    padded = cv2.copyMakeBorder(smooth, beside, beside, 0, 0, cv2.BORDER_REPLICATE)
    return np.asarray(smooth - np.maximum(padded[: -2 * beside], padded[2 * beside :]), np.float32)


def _slope(ridge: NDArray[np.float32], faintest: float) -> float:
    """How much the rules rise on a pixel: where a projection along them has the sharpest peaks."""
    above, below = np.roll(ridge, 1, axis=0), np.roll(ridge, -1, axis=0)
    peak = (ridge > faintest) & (ridge >= above) & (ridge > below)
    rows, columns = np.nonzero(peak[:, ::STRIDE])
    height, width = ridge.shape
    room = int(np.tan(np.radians(STEEPEST)) * width / 2) + 2
    best, slope = -1.0, 0.0
    for angle in np.arange(-STEEPEST, STEEPEST + STEP_DEG / 2, STEP_DEG):
        tilt = float(np.tan(np.radians(angle)))
        rises = np.rint(rows - tilt * (columns * STRIDE - width / 2)).astype(int) + room
        wide = np.convolve(np.bincount(rises, minlength=height + 2 * room), np.ones(5), "same")
        sharp = float((wide**3).sum())
        if sharp > best:
            best, slope = sharp, tilt
    return slope


def _sheared(values: NDArray[np.float32], rise: NDArray[np.int64], room: int) -> NDArray[np.float32]:
    """Each column moved up by its rise, with `room` rows more at both ends."""
    rows = np.clip(np.arange(-room, values.shape[0] + room)[:, None] + rise, 0, values.shape[0] - 1)
    return np.take_along_axis(values, rows, axis=0)


def _followed(ridge: NDArray[np.float32], faintest: float, place: int, stray: int) -> NDArray[np.float64] | None:
    """The middle of a level rule near row `place` in every column, or None where none goes on there."""
    height, width = ridge.shape
    stride = max(STRIDE, width // PLACES)
    at = np.arange(stride // 2, width, stride)
    low, high = max(0, place - stray), min(height, place + stray + 1)
    band = ridge[low:high, at].T
    level = max(float(np.median(band.max(axis=1))), faintest)
    worth = np.minimum(band / level, 1.0)
    total, came = worth[0].copy(), np.zeros(worth.shape, np.int8)
    for k in range(1, len(at)):
        choices = np.stack([np.append(-9.0, total[:-1]) - TURN, total, np.append(total[1:], -9.0) - TURN])
        came[k] = choices.argmax(axis=0)
        total = choices.max(axis=0) + worth[k]
    track = np.empty(len(at), int)
    track[-1] = int(total.argmax())
    for k in range(len(at) - 1, 0, -1):
        track[k - 1] = min(max(0, track[k] + int(came[k, track[k]]) - 1), high - low - 1)
    near = worth[np.arange(len(at)), track] > 0.3
    if near.mean() < LEAST_LONG:
        return None
    return _smoothed(np.where(near, track + float(low), np.nan), at, width)


def _smoothed(rows: NDArray[np.float64], at: NDArray[np.int64], width: int) -> NDArray[np.float64]:
    """Places for every column from those that were seen: a running mean over a fiftieth of the page."""
    seen = ~np.isnan(rows)
    whole = np.interp(np.arange(width), at[seen], rows[seen])
    half = max(2, width // 100)
    kernel = np.ones(2 * half + 1) / (2 * half + 1)
    slope = np.polyfit(np.arange(width), whole, 1)
    rest = whole - np.polyval(slope, np.arange(width))
    return np.asarray(np.convolve(np.pad(rest, half, mode="edge"), kernel, "valid") + np.polyval(slope, np.arange(width)))


def near_rules(rules: list[Rule], shape: tuple[int, ...], reach: int) -> NDArray[np.bool_]:
    """Pixels within `reach` of the middle of a rule. Returns (H, W) bool, of `shape`."""
    near = np.zeros(shape, bool)
    for rule in rules:
        view = near if rule.level else near.T
        at = np.arange(view.shape[1])
        for shift in range(-reach, reach + 1):
            view[np.clip(np.rint(rule.places).astype(int) + shift, 0, view.shape[0] - 1), at] = True
    return near


def covered_by(rules: list[Rule], amount: NDArray[np.float32]) -> NDArray[np.float32]:
    """How dark the rules are at each pixel. amount : (H, W), 1 for ink. Returns (H, W) float32."""
    result = np.zeros_like(amount)
    for level in (True, False):
        own = [rule for rule in rules if rule.level == level]
        if own:
            view, field = (amount, result) if level else (amount.T, result.T)
            for rule in own:
                _put_section(rule.places, view, field)
    return result


def _put_section(places: NDArray[np.float64], amount: NDArray[np.float32], out: NDArray[np.float32]) -> None:
    """Measure the section of a rule, in parts of the page since it may fade, and put it where it is the darker one."""
    height, width = amount.shape
    columns = np.arange(width)
    offsets = np.arange(-REACH, REACH + 1)
    rows = np.floor(places)[:, None].astype(int) + offsets
    inside = (rows >= 0) & (rows < height)
    rows = np.clip(rows, 0, height - 1)
    values = amount[rows, columns[:, None]]
    away = rows - places[:, None]
    slots = np.clip(np.rint((away + REACH) * FINE).astype(int), 0, 2 * REACH * FINE)
    parts = max(1, width // 200)
    for part in range(parts):
        own = slice(part * width // parts, (part + 1) * width // parts)
        section = _low_values(slots[own][inside[own]], values[own][inside[own]])
        ground = np.interp(away[own], np.arange(len(section)) / FINE - REACH, section)
        ground = np.where(inside[own], ground, 0.0).astype(np.float32)
        here = (rows[own], np.broadcast_to(columns[own][:, None], rows[own].shape))
        np.maximum.at(out, here, ground)


def _low_values(slots: NDArray[np.int64], values: NDArray[np.float32]) -> NDArray[np.float64]:
    """A low quantile of the values at each place of a section, less that far from it: ink that crosses is darker."""
    count = 2 * REACH * FINE + 1
    order = np.lexsort((values, slots))
    slots, values = slots[order], values[order]
    first, last = np.searchsorted(slots, np.arange(count)), np.searchsorted(slots, np.arange(count), side="right")
    there = last > first
    result = np.full(count, np.nan)
    result[there] = values[(first + (QUANTILE * (last - first)).astype(int))[there]]
    known = np.flatnonzero(there)
    result = np.interp(np.arange(count), known, result[known]) if len(known) else np.zeros(count)
    paper = min(float(np.median(result[: FINE * 2])), float(np.median(result[-FINE * 2 :])))
    return np.clip(result - paper, 0.0, None)
