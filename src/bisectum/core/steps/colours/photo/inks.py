"""Inks a person would choose: few colours that stand for all of a photograph, chosen by what is seen and not by area alone.

A colour counts less the more of its like there is, so that green eyes earn an ink before a second shade of fur does. Of the
colours those are chosen from which the rest is least far away: the facility location problem (C. ReVelle, R. Swain, "Central
Facilities Location", 1970), greedily and then by exchanges. No two inks look alike.

>>> choose_inks(shades, 5, taste="rare").rgb  # small colours before large ones
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.model.ink_choice import TASTES, InkChoice, Taste
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.raster.din99o import din99o, lab_image
from bisectum.core.steps.colours.photo.shades import Shades, apart, likeness

BY_AREA: dict[Taste, float] = {"balanced": 0.5, "rare": 0.25, "large": 1.0}  # 1: a colour counts by its area; 0: by being rare
UNSURE = 0.4  # of a colour whose borders are all soft
FAR = 28.0  # DIN99o from which it hardly matters how much farther an ink is
DARK_FROM, DARK_GAP, DARK_MM2 = 3, 22.0, 4.0  # inks, of which the darkest colour is one; how much darker than the rest, how large
LEAST_APART = 8.0  # CIEDE2000: nobody buys two inks for less


@dataclass(frozen=True, slots=True)
class Inks:
    """rgb : (K, 3) uint8, what each ink looks like; shades : (N, 3) float64, DIN99o, the colours; owner : (N,), the ink that
    stands for each."""

    rgb: NDArray[np.uint8]
    shades: NDArray[np.float64]
    owner: NDArray[np.int64]

    def check(self) -> None:
        """Raises: BrokenStructure where an ink stands for no colour, or a colour has none."""
        if set(self.owner.tolist()) != set(range(len(self.rgb))) or len(self.owner) != len(self.shades):
            raise BrokenStructure("Every ink stands for a colour, and every colour has one ink.")


def choose_inks(shades: Shades, count: int, pins: NDArray[np.uint8] | None = None, taste: Taste = "balanced") -> Inks:
    """At most `count` inks. pins : (P, 3), sRGB, colours that must be among them, which come first; taste: what counts more."""
    pinned = np.empty((0, 3), np.uint8) if pins is None else pins
    rgb = np.concatenate([pinned, shades.rgb])
    colours = din99o(lab_image(rgb[None]))[0].astype(float)
    colours[len(pinned) :] = shades.colours
    weight = np.append(np.zeros(len(pinned)), _weight(shades, taste))
    away = apart(colours, colours)
    away[len(pinned) :, len(pinned) :] = shades.away
    lab = cielab(rgb)
    alike = ciede2000(lab[:, None], lab[None]) < LEAST_APART
    area = np.append(np.zeros(len(pinned)), shades.area)
    chosen = _chosen(away, weight, alike, count, _first(colours, area, alike, len(pinned), count))
    owner = away[:, chosen].argmin(axis=1)
    owner[chosen] = np.arange(len(chosen))
    return Inks(rgb[chosen], colours, owner)


def ink_choices(shades: Shades, count: int, pins: NDArray[np.uint8], taken: Taste = "balanced") -> tuple[InkChoice, ...]:
    """What each taste would choose, the darkest ink first, without those that look like another one. pins : (P, 3), sRGB,
    colours that must be among them; taken: the taste that is there in any case."""
    found: dict[Taste, NDArray[np.uint8]] = {}
    for taste in sorted(TASTES, key=lambda own: own != taken):
        rgb = choose_inks(shades, count, pins, taste).rgb
        if not any(_look_alike(rgb, other) for other in found.values()):
            found[taste] = rgb[np.argsort(cielab(rgb)[:, 0], kind="stable")]
    return tuple(InkChoice(taste, tuple((int(r), int(g), int(b)) for r, g, b in found[taste])) for taste in TASTES
                 if taste in found)


def _look_alike(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> bool:
    """Whether each colour of either palette has one like it in the other. one : (N, 3); other : (M, 3)."""
    alike = ciede2000(cielab(one)[:, None], cielab(other)[None]) < LEAST_APART
    return bool(alike.any(axis=0).all() and alike.any(axis=1).all())


def _weight(shades: Shades, taste: Taste) -> NDArray[np.float64]:
    like = likeness(shades.colours) @ shades.area
    own = shades.area * np.maximum(like, 1e-3) ** (BY_AREA[taste] - 1)
    return np.asarray(own * (UNSURE + (1 - UNSURE) * shades.sure))


def _first(
    colours: NDArray[np.float64], area: NDArray[np.float64], alike: NDArray[np.bool_], pinned: int, count: int
) -> list[int]:
    """What is chosen whatever else is: pins, and the darkest colour where there are inks enough and no pin is like it."""
    first = list(range(pinned))
    if count >= max(DARK_FROM, pinned + 1):
        light = np.where(area >= DARK_MM2, colours[:, 0], np.inf)
        darkest = int(light.argmin())
        is_new = not alike[darkest, :pinned].any()
        if is_new and light[darkest] < np.average(colours[:, 0], weights=area + 1e-9) - DARK_GAP:
            first.append(darkest)
    return first


def _chosen(
    away: NDArray[np.float64], weight: NDArray[np.float64], alike: NDArray[np.bool_], count: int, first: list[int]
) -> list[int]:
    """Which colours are inks: those from which the others, by their weight, are least far away. away : (N, N); alike : (N, N),
    which are not chosen together."""
    cost = weight[:, None] * (away**2 / (1 + (away / FAR) ** 2))
    able = weight > 0
    chosen = list(first)
    now = cost[:, chosen].min(axis=1) if chosen else np.full(len(weight), cost.max() + 1)
    while len(chosen) < count:
        free = able & ~alike[chosen].any(axis=0)
        if not free.any():
            break
        total = np.where(free, np.minimum(now[:, None], cost).sum(axis=0), np.inf)
        order = np.argsort(total, kind="stable")[: int(free.sum())].tolist()
        room = min(count - len(chosen), _room(alike, free))
        best = next((own for own in order if 1 + _room(alike, free & ~alike[own]) >= room), order[0])
        chosen.append(best)
        now = np.minimum(now, cost[:, best])
    least = float(cost[:, chosen].min(axis=1).sum())
    while move := _exchange(cost, able, alike, chosen, len(first), least):
        at, new, least = move
        chosen[at] = new
    return chosen


def _room(alike: NDArray[np.bool_], free: NDArray[np.bool_]) -> int:
    """How many of these colours can be chosen together: those first that are like the fewest. alike : (N, N); free : (N,)."""
    free, count = free.copy(), 0
    while free.any():
        own = int(np.where(free, alike[:, free].sum(axis=1), len(free) + 1).argmin())
        free &= ~alike[own]
        count += 1
    return count


def _exchange(
    cost: NDArray[np.float64], able: NDArray[np.bool_], alike: NDArray[np.bool_], chosen: list[int], fixed: int, least: float
) -> tuple[int, int, float] | None:
    """The best exchange of one that is chosen for one that is not, if any gains: its place, the new one, what all costs then."""
    found = None
    for at in range(fixed, len(chosen)):
        rest = chosen[:at] + chosen[at + 1 :]
        now = cost[:, rest].min(axis=1) if rest else np.full(len(cost), np.inf)
        total = np.where(able, np.minimum(now[:, None], cost).sum(axis=0), np.inf)
        total[[chosen[at]]] = np.inf
        total[alike[rest].any(axis=0)] = np.inf
        best = int(total.argmin())
        if total[best] < least - 1e-9:
            found, least = (at, best, float(total[best])), float(total[best])
    return found
