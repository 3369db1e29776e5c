"""Open and closed lines that are no outlines of pieces: folded, drawn with a pen, or cut without parting anything.

They lie beside the planar map, never in it: no face ends at them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import lengths
from bisectum.core.geom.path import Path
from bisectum.core.model.picture import frozen

Role = Literal["cut", "score", "draw", "leave"]
"""Cut open, without an area; folded along; drawn with a pen; left out."""


@dataclass(frozen=True, slots=True)
class Stroke:
    """segments : (S, 4, 2) float64, each starting where the last ended, mm; straight : (S,) bool. label: the colour of its item
    it belongs to, as in a label map. width: of the pen it was drawn with, mm. read: the role it was taken for before anybody
    said otherwise. at: a place on it, mm. outline: it is a part of the outline of a piece, which the map has; here it only
    stands for it where its role is changed."""

    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]
    role: Role
    read: Role
    width: float
    at: tuple[float, float]
    label: int = 1
    outline: bool = False

    @property
    def path(self) -> Path:
        closed = bool((self.segments[0, 0] == self.segments[-1, 3]).all()) and len(self.segments) > 1
        return Path(self.segments, self.straight, closed)

    def placed(self, matrix: NDArray[np.float64]) -> Stroke:
        """Turned, mirrored, sized and moved. matrix : (2, 3)."""
        scale = float(np.sqrt(abs(np.linalg.det(matrix[:, :2]))))
        x, y = matrix[:, :2] @ np.array(self.at) + matrix[:, 2]
        return replace(self, segments=frozen(self.segments @ matrix[:, :2].T + matrix[:, 2]), width=self.width * scale,
                       at=(float(x), float(y)))

    def check(self) -> None:
        """Raises: BrokenStructure where it is broken, or no number."""
        self.path.check()
        if not np.isfinite(self.segments).all():
            raise BrokenStructure("A stroke has a place that is no number.")


Strokes = tuple[Stroke, ...]


def placed(strokes: Strokes, matrix: NDArray[np.float64], first_label: int = 0) -> Strokes:
    """matrix : (2, 3), from where they are; first_label: is added to their labels."""
    return tuple(replace(stroke.placed(matrix), label=stroke.label + first_label) for stroke in strokes)


def total_length(strokes: Strokes, *roles: Role) -> float:
    """mm of those with one of these roles."""
    return float(sum(lengths(stroke.segments).sum() for stroke in strokes if stroke.role in roles))
