"""Stocks: the materials a person has, and which of them is nearest to a layer's colour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from bisectum.core.errors import BrokenStructure
from bisectum.core.raster.colour import hex_of
from bisectum.core.raster.difference import Nearness, ciede2000, cielab, nearness

StockKind = Literal["adhesive vinyl", "heat-transfer vinyl", "flock", "card", "other"]
KINDS: tuple[StockKind, ...] = get_args(StockKind)
PRESSED: tuple[StockKind, ...] = ("heat-transfer vinyl", "flock")  # film that is pressed onto cloth
NO_DIFFERENCE = 0.5  # CIEDE2000
LONGEST_NAME = 80
LARGEST_MM = 100_000.0


@dataclass(frozen=True, slots=True)
class Stock:
    """A material. width_mm, height_mm: of a sheet; a roll has the length that is on it. finish: such as matt or glossy.
    patterned: pieces of it are not turned. id: given once by the drawer, empty before."""

    name: str
    kind: StockKind
    rgb: tuple[int, int, int]
    width_mm: float
    height_mm: float
    on_hand: bool = True
    finish: str = ""
    patterned: bool = False
    id: str = ""

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong."""
        if not self.name.strip() or len(self.name) > LONGEST_NAME:
            raise BrokenStructure(f"A stock has a name of 1 to {LONGEST_NAME} characters.")
        if self.kind not in KINDS:
            raise BrokenStructure(f"“{self.kind}” is no kind of stock.")
        if not (0 < self.width_mm <= LARGEST_MM and 0 < self.height_mm <= LARGEST_MM):
            raise BrokenStructure(f"The size of {self.name} is above zero and at most {LARGEST_MM:.0f} mm.")

    @property
    def colour(self) -> str:
        return hex_of(self.rgb)


@dataclass(frozen=True, slots=True)
class Match:
    """The stock nearest to a colour. number: of the stock; difference: CIEDE2000; word: what that means."""

    number: int
    difference: float
    word: Nearness


def match(rgb: tuple[int, int, int], stocks: Sequence[Stock], kind: StockKind | None = None) -> Match | None:
    """The nearest stock of a kind, or of any; what is on hand before what is not, where both look the same."""
    numbers = [number for number, stock in enumerate(stocks) if kind is None or stock.kind == kind]
    if not numbers:
        return None
    colours = cielab(np.array([stocks[number].rgb for number in numbers], np.uint8))
    apart = ciede2000(cielab(np.array(rgb, np.uint8)), colours)
    # So little a difference is less than having to buy it.
    alike = np.flatnonzero(apart <= apart.min() + NO_DIFFERENCE).tolist()
    best = min(alike, key=lambda i: (not stocks[numbers[i]].on_hand, float(apart[i])))
    return Match(numbers[best], float(apart[best]), nearness(float(apart[best])))
