"""What is to be looked at before cutting, with what a repair needs to know of it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.finding import Finding

NOWHERE = np.empty((0, 2))


@dataclass(frozen=True, slots=True, eq=False)
class Flaw:
    """finding: at is mm on the page. layer: its number, -1 for the make. line : (N, 2), mm: the middle of a narrow place,
    from end to end. area: of the piece or window that it is about, mm²."""

    finding: Finding
    layer: int = -1
    line: NDArray[np.float64] = field(default_factory=lambda: NOWHERE)
    area: float = 0.0
