"""The separated picture: for every pixel the colour, hence the layer, it belongs to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.model.palette import Palette


@dataclass(frozen=True, slots=True)
class LabelMap:
    """labels : (H, W) uint8; 0 is background, i + 1 is palette.colours[i].

    mm_per_px: finished size of a pixel. absorbed: how many specks went to their neighbours. notes: what the person
    should know, as (code, values). compressed: the picture has the unrest of lossy compression.
    """

    labels: NDArray[np.uint8]
    palette: Palette
    mm_per_px: float
    absorbed: int = 0
    notes: tuple[tuple[str, dict[str, object]], ...] = ()
    compressed: bool = False

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong and where."""
        if self.labels.ndim != 2 or self.labels.dtype != np.uint8:
            raise BrokenStructure(f"Labels are (H, W) uint8, not {self.labels.shape} {self.labels.dtype}.")
        stray = np.argwhere(self.labels > len(self.palette.colours))
        if len(stray):
            y, x = stray[0]
            raise BrokenStructure(f"The label at {x}, {y} names no colour of the palette.", x=int(x), y=int(y))
        if not self.mm_per_px > 0:
            raise BrokenStructure("The size of a pixel is above zero.")
        self.palette.check()
