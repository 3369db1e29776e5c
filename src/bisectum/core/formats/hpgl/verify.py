"""Read HPGL back, and hold it against what was meant."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import InputError
from bisectum.core.formats.hpgl.write import BOUND_MM, UNITS_PER_MM
from bisectum.core.formats.lines import compare, differs
from bisectum.core.formats.uses import USES
from bisectum.core.model.artwork import Artwork

_WORD = re.compile(r"([A-Z]{2})([-0-9,]*);\s*")


def read_hpgl(text: str) -> list[tuple[int, NDArray[np.float64]]]:
    """The pen and the places of each line, mm, y up. Raises: InputError for anything else than IN, SP, PU and PD."""
    found: list[tuple[int, list[tuple[float, float]]]] = []
    pen, place, at = 0, (0.0, 0.0), 0
    while at < len(text):
        word = _WORD.match(text, at)
        if word is None:
            raise InputError(f"This is no HPGL that could be followed, from “{text[at : at + 20]}” on.", code="hpgl_unreadable")
        at = word.end()
        told = word.group(2).split(",") if word.group(2) and word.group(1) != "SP" else []
        numbers = [int(number) / UNITS_PER_MM for number in told]
        places = list(zip(numbers[::2], numbers[1::2], strict=True))
        if word.group(1) == "SP":
            pen = int(word.group(2) or 0)
        elif word.group(1) == "PU" and places:
            place = places[-1]
            found.append((pen, [place]))
        elif word.group(1) == "PD":
            found[-1][1].extend(places)
        elif word.group(1) not in ("IN", "PU"):
            raise InputError(f"The word {word.group(1)} is not known here.", code="hpgl_unreadable")
    return [(number, np.array(line)) for number, line in found]


def verify_hpgl(text: str, artwork: Artwork) -> None:
    """Raises: ComputationError naming what differs."""
    uses = [(layer, use) for layer in range(len(artwork.layers)) for use in USES]
    found = []
    for pen, points in read_hpgl(text):
        if not 0 < pen <= len(uses):
            raise differs("pen of a line", str(pen))
        found.append((*uses[pen - 1], points * [1, -1] + [0, artwork.height]))
    compare(found, artwork, BOUND_MM)
