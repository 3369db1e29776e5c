"""What was found on a page of ink beside the ink itself."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure


@dataclass(frozen=True, slots=True)
class Page:
    """rules: how many rules and margin lines were taken away. specks : (N, 3) float64, of each dark spot that is no writing the
    middle and the radius about it, px of the label map; kept : (N,) bool, whether it stays. pen: width of the pen, px."""

    rules: int
    specks: NDArray[np.float64]
    kept: NDArray[np.bool_]
    pen: float

    def check(self) -> None:
        """Raises: BrokenStructure where its lists differ in length or the pen has no width."""
        if self.specks.shape != (len(self.kept), 3):
            raise BrokenStructure("Every speck of a page has a place, a radius and a word on whether it stays.")
        if not self.pen > 0:
            raise BrokenStructure("A pen has a width.")
