"""The ground of a picture: what is taken away as background, and how its colour runs over the picture."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure

GroundKind = Literal["transparent", "plain", "shaded", "kept", "not_plain", "cleared_all"]
"""How the background was told: by transparency; one colour; a soft gradient; kept on request; the border is not plain
so all was kept; nothing but background is there."""


@dataclass(frozen=True, slots=True)
class EnclosedSpot:
    """Background colour shut in by the subject. x, y: a pixel of it; area_px: its pixels."""

    x: int
    y: int
    area_px: int


@dataclass(frozen=True, slots=True)
class Ground:
    """mask : (H, W) bool, True where the background is.

    surface : (6, 4) float64, the ground's colour as premultiplied sRGB with alpha, 0..255, as a quadratic over the
    picture (terms of raster.surface). reach: the OKLab distance within which a pixel counts as ground. enclosed: spots
    of the ground's colour that the border does not reach; they stay in the picture.
    """

    mask: NDArray[np.bool_]
    surface: NDArray[np.float64]
    kind: GroundKind
    reach: float
    enclosed: tuple[EnclosedSpot, ...] = ()

    @property
    def share(self) -> float:
        """The part of the picture that is background, 0..1."""
        return float(self.mask.mean())

    @property
    def rgb(self) -> tuple[int, int, int]:
        """The ground's colour in the middle of the picture."""
        red, green, blue = (int(min(255, max(0, round(float(v))))) for v in self.surface[0, :3])
        return red, green, blue

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong."""
        if self.mask.ndim != 2 or self.mask.dtype != np.bool_:
            raise BrokenStructure(f"A ground's mask is (H, W) bool, not {self.mask.shape} {self.mask.dtype}.")
        if self.surface.shape != (6, 4) or not np.isfinite(self.surface).all():
            raise BrokenStructure("A ground's surface is (6, 4) and finite.")
        for spot in self.enclosed:
            if self.mask[spot.y, spot.x]:
                raise BrokenStructure(f"The enclosed spot at {spot.x}, {spot.y} is background already.")
