"""A picture: a raster brought in, as the core sees it.

Axis order is (row, column), row 0 on top. Colours are sRGB as coded with straight alpha; a fully transparent pixel's
colour means nothing.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.model.placement import Placement

Measured = Literal["artwork", "picture"]


def frozen(array: NDArray) -> NDArray:
    """The array, or a copy where somebody could still write into it, marked read-only. Any shape (…)."""
    if not array.flags.writeable:
        return array
    result = array.copy()
    result.flags.writeable = False
    return result


@dataclass(frozen=True, slots=True)
class Picture:
    """rgba : (H, W, 4) uint8, straight alpha, sRGB.

    natural_mm_per_px: the size of a pixel by the file's own word. width_mm: the finished width wanted, or None for the
    natural size; `measured` says of what: the bounds of what is cut, or the picture's whole frame. reduction: how many
    pixels of the file one pixel here stands for, along a side (more than 1 in previews). placement: where marks lie, which
    are kept as shares of the picture that came in; None where it is worked on as it came. enlarged: how many pixels here, along
    a side, were made of one.
    """

    rgba: NDArray[np.uint8]
    natural_mm_per_px: float
    width_mm: float | None = None
    measured: Measured = "artwork"
    reduction: float = 1.0
    placement: Placement | None = None
    enlarged: int = 1

    @property
    def places(self) -> Placement:
        return self.placement or Placement.plain(self.width)

    @property
    def height(self) -> int:
        return int(self.rgba.shape[0])

    @property
    def width(self) -> int:
        return int(self.rgba.shape[1])

    def without(self, cleared: NDArray[np.uint8] | None) -> Picture:
        """With other pixels, where there are any: those without the ground. cleared : (H, W, 4) uint8."""
        return self if cleared is None else replace(self, rgba=cleared)

    def mm_per_px(self, artwork_width_px: float) -> float:
        """The finished size of a pixel, when what is cut is `artwork_width_px` pixels wide."""
        if self.width_mm is None:
            return self.natural_mm_per_px
        across = self.width if self.measured == "picture" else artwork_width_px
        return self.width_mm / max(across, 1.0)

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong."""
        if self.rgba.ndim != 3 or self.rgba.shape[2] != 4 or self.rgba.dtype != np.uint8:
            raise BrokenStructure(f"A picture is (H, W, 4) uint8, not {self.rgba.shape} {self.rgba.dtype}.")
        if 0 in self.rgba.shape:
            raise BrokenStructure(f"A picture has pixels; this one is {self.rgba.shape}.")
        if not self.natural_mm_per_px > 0 or (self.width_mm is not None and not self.width_mm > 0):
            raise BrokenStructure("A picture's sizes are above zero.")
        self.places.check()
