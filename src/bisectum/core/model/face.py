"""A person's face in a photograph: where its eyes, brows, nose and mouth are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure

POINTS = 468
# Numbers of points around each part, in the order that the network for points gives them.
OVAL = (10, 338, 297, 332, 284, 251, 389, 356, 454, 323, 361, 288, 397, 365, 379, 378, 400, 377, 152, 148, 176, 149, 150, 136,
        172, 58, 132, 93, 234, 127, 162, 21, 54, 103, 67, 109)
EYES = ((33, 7, 163, 144, 145, 153, 154, 155, 133, 173, 157, 158, 159, 160, 161, 246),
        (263, 249, 390, 373, 374, 380, 381, 382, 362, 398, 384, 385, 386, 387, 388, 466))
BROWS = ((70, 63, 105, 66, 107, 55, 65, 52, 53, 46), (300, 293, 334, 296, 336, 285, 295, 282, 283, 276))
NOSTRILS = ((98, 97, 99, 60, 75, 240), (327, 326, 328, 290, 305, 460))
MOUTH = (61, 146, 91, 181, 84, 17, 314, 405, 321, 375, 291, 409, 270, 269, 267, 0, 37, 39, 40, 185)
TURNED_AWAY = 0.35  # of the other eye's width: what is narrower is hidden by the nose, and its points hang in the air


@dataclass(frozen=True, slots=True)
class Face:
    """points : (468, 2) float64, px of the picture. likely: 0 to 1, that it is a face at all; dismissed: somebody said that it is
    none."""

    points: NDArray[np.float64]
    likely: float
    dismissed: bool = False

    @property
    def oval(self) -> NDArray[np.float64]:
        """(36, 2) px, around the face from brow to chin."""
        return self.points[list(OVAL)]

    @property
    def box(self) -> NDArray[np.float64]:
        """(2, 2) px, the upper left and the lower right corner of what holds the oval."""
        return np.stack([self.oval.min(axis=0), self.oval.max(axis=0)])

    @property
    def width(self) -> float:
        """From cheek to cheek, px."""
        return float(np.ptp(self.points[:, 0]))

    def features(self) -> list[NDArray[np.float64]]:
        """Eyes, brows, nostrils and mouth, each as (N, 2) px around it; of a face in profile only the side that is seen."""
        across = [float(np.ptp(self.points[list(eye), 0])) for eye in EYES]
        seen = [side for side in (0, 1) if across[side] >= TURNED_AWAY * max(across)]
        parts = [*(EYES[side] for side in seen), *(BROWS[side] for side in seen), *NOSTRILS, MOUTH]
        return [self.points[list(part)] for part in parts]

    def holds(self, x: float, y: float) -> bool:
        """Whether a place, px, lies in the box about the face."""
        low, high = self.box
        return bool(low[0] <= x <= high[0] and low[1] <= y <= high[1])

    def check(self) -> None:
        """Raises: BrokenStructure where a point is missing or no number."""
        if self.points.shape != (POINTS, 2) or not np.isfinite(self.points).all():
            raise BrokenStructure(f"A face has {POINTS} points.")
