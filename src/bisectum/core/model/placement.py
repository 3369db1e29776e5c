"""Where places of the picture that came in lie in the picture worked on.

Whatever a person marks is kept as shares of the width of the picture that came in, from its upper left corner, y down.
So cropping, turning, straightening or enlarging it later leaves every mark on its place.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure


@dataclass(frozen=True, slots=True)
class Placement:
    """matrix : (2, 3) float64, from shares (x, y, 1) to px of the picture worked on; turns, flips and scales only."""

    matrix: NDArray[np.float64]

    @classmethod
    def plain(cls, width_px: float) -> Placement:
        """Of a picture that is worked on as it came in."""
        return cls(np.array([[width_px, 0.0, 0.0], [0.0, width_px, 0.0]]))

    @property
    def scale(self) -> float:
        """px to a share of one."""
        return math.sqrt(abs(float(np.linalg.det(self.matrix[:, :2]))))

    def to_px(self, shares: NDArray[np.float64]) -> NDArray[np.float64]:
        """(N, 2) shares to (N, 2) px."""
        return np.asarray(shares, np.float64).reshape(-1, 2) @ self.matrix[:, :2].T + self.matrix[:, 2]

    def to_shares(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(N, 2) px to (N, 2) shares."""
        return (np.asarray(points, np.float64).reshape(-1, 2) - self.matrix[:, 2]) @ np.linalg.inv(self.matrix[:, :2]).T

    def scaled(self, factor: float) -> Placement:
        """For a picture `factor` times as large."""
        return Placement(self.matrix * factor)

    def then(self, matrix: NDArray[np.float64]) -> Placement:
        """With another (2, 3) step after it, from px to px."""
        whole = np.vstack([matrix, [0.0, 0.0, 1.0]]) @ np.vstack([self.matrix, [0.0, 0.0, 1.0]])
        return Placement(whole[:2])

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong."""
        if self.matrix.shape != (2, 3) or not np.isfinite(self.matrix).all():
            raise BrokenStructure("A placement is a finite (2, 3) matrix.")
        a, b = self.matrix[:, 0], self.matrix[:, 1]
        if abs(float(a @ b)) > 1e-6 * float(a @ a) or abs(float(a @ a - b @ b)) > 1e-6 * float(a @ a):
            raise BrokenStructure("A placement turns, flips and scales; this one shears.")
