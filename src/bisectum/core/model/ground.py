"""The ground of a picture: what is taken away as background, and how its colour runs over the picture."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure

GroundKind = Literal["transparent", "plain", "shaded", "subject", "by_hand", "kept", "not_plain", "cleared_all", "page"]
"""How the background was told: by transparency; one colour; a soft gradient; all around a photograph's subject; changed by
hand; kept on request; the border is not plain and no subject stands out, so all was kept; nothing but background is
there; the paper of a page of ink, which goes when the ink is told from it."""


@dataclass(frozen=True, slots=True)
class EnclosedSpot:
    """Background colour shut in by the subject.

    x, y: a pixel of it; area_px: its pixels; box: left, top, right, bottom; likelihood: 0 to 1 that it is background; taken:
    whether it goes.
    """

    x: int
    y: int
    area_px: int
    box: tuple[int, int, int, int] = (0, 0, 1, 1)
    likelihood: float = 0.5
    taken: bool = False

    def with_taken(self, taken: bool) -> EnclosedSpot:
        return replace(self, taken=taken)


CutoutName = Literal["whole", "closer", "contrast"]
"""How a subject was found: by networks that look at the whole picture; by those and a closer look; by what stands out in its
colours, or is in focus."""


@dataclass(frozen=True, slots=True)
class Cutout:
    """A way to cut the subject out of a photograph. mask : (h, w) bool, of a small picture, True where the subject is; fine: the
    same more finely, of a larger picture, if it is known."""

    name: CutoutName
    mask: NDArray[np.bool_]
    fine: NDArray[np.bool_] | None = None


@dataclass(frozen=True, slots=True)
class Ground:
    """mask : (H, W) bool, True where the background is.

    surface : (6, 4) float64, the ground's colour as premultiplied sRGB with alpha, 0..255, as a quadratic over the
    picture (terms of raster.surface). reach: the OKLab distance within which a pixel counts as ground. enclosed: spots
    of the ground's colour that the border does not reach. runner_up: the mode that is next best. cleared : (H, W, 4) uint8,
    straight alpha, the picture without its ground, which the later steps go on with; None where they go by its colours.
    outside: touches beside the picture. found: how it was told before
    anything was done by hand. has_shadow: shadow cast on it went with it. one_colour: all that is drawn on it has one, so what
    that shuts in goes by itself. cutouts: ways to cut a subject out that may be chosen; cutout: the one that was made.
    """

    mask: NDArray[np.bool_]
    surface: NDArray[np.float64]
    kind: GroundKind
    reach: float
    enclosed: tuple[EnclosedSpot, ...] = ()
    runner_up: str | None = None
    cleared: NDArray[np.uint8] | None = None
    outside: int = 0
    found: GroundKind | None = None
    has_shadow: bool = False
    one_colour: bool = False
    cutouts: tuple[Cutout, ...] = ()
    cutout: CutoutName | None = None

    @property
    def share(self) -> float:
        """The part of the picture that is background, 0..1."""
        return float(self.mask.mean())

    @property
    def rgb(self) -> tuple[int, int, int]:
        """The ground's colour in the middle of the picture."""
        red, green, blue = (int(min(255, max(0, round(float(v))))) for v in self.surface[0, :3])
        return red, green, blue

    @property
    def has_colour(self) -> bool:
        """Whether the ground is told from the subject by its colour, not by transparency."""
        return self.cleared is None and self.kind not in ("transparent", "kept", "not_plain", "page")

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong."""
        if self.mask.ndim != 2 or self.mask.dtype != np.bool_:
            raise BrokenStructure(f"A ground's mask is (H, W) bool, not {self.mask.shape} {self.mask.dtype}.")
        if self.surface.shape != (6, 4) or not np.isfinite(self.surface).all():
            raise BrokenStructure("A ground's surface is (6, 4) and finite.")
        if self.cleared is not None and ((self.cleared[..., 3] < 128) != self.mask).any():
            y, x = np.argwhere((self.cleared[..., 3] < 128) != self.mask)[0]
            raise BrokenStructure(f"The ground's mask and its transparency differ at {x}, {y}.")
        for spot in self.enclosed:
            if bool(self.mask[spot.y, spot.x]) != spot.taken:
                raise BrokenStructure(f"The enclosed spot at {spot.x}, {spot.y} is not what it says.")


def page_ground(shape: tuple[int, int]) -> Ground:
    """The ground of a page of ink: nothing is taken away before its ink is told. shape: rows and columns of the picture."""
    surface = np.zeros((6, 4))
    surface[0] = 255.0
    return Ground(np.zeros(shape, bool), surface, "page", 0.0, found="page")
