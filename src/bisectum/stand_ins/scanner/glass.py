"""What lies on the scanner's glass. Lengths in mm, from the glass's upper left corner, y down."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

WIDTH_MM, HEIGHT_MM = 216.0, 297.0
BETWEEN_MM = 8.0
ASKEW_DEG = (0.5, -0.4, 0.3, -0.6)  # nobody lays paper down straight


@dataclass(frozen=True, slots=True, eq=False)
class Original:
    """pixels : (H, W, 3) uint8, sRGB, of what is on the paper. mm_per_px: their size there. x, y: its upper left corner before it
    is turned about its middle by turn_deg, clockwise. own: put there by the person."""

    name: str
    pixels: NDArray[np.uint8]
    mm_per_px: float
    x: float = 0.0
    y: float = 0.0
    turn_deg: float = 0.0
    own: bool = False

    @property
    def width(self) -> float:
        return self.pixels.shape[1] * self.mm_per_px

    @property
    def height(self) -> float:
        return self.pixels.shape[0] * self.mm_per_px


def laid(originals: Iterable[Original]) -> tuple[Original, ...]:
    """Lay originals down in rows, a little askew, as long as there is room. What is larger than the glass is a print that fits
    on it. Returns those that lie there."""
    result: list[Original] = []
    x = y = BETWEEN_MM
    row = 0.0
    for one in originals:
        fit = min(1.0, (WIDTH_MM - 2 * BETWEEN_MM) / one.width, (HEIGHT_MM - 2 * BETWEEN_MM) / one.height)
        width, height = one.width * fit, one.height * fit
        if x + width > WIDTH_MM - BETWEEN_MM:
            x, y, row = BETWEEN_MM, y + row + BETWEEN_MM, 0.0
        if y + height > HEIGHT_MM - BETWEEN_MM / 2:
            continue
        turn = ASKEW_DEG[len(result) % len(ASKEW_DEG)]
        result.append(Original(one.name, one.pixels, one.mm_per_px * fit, x, y, turn, one.own))
        x, row = x + width + BETWEEN_MM, max(row, height)
    return tuple(result)
