"""The pieces of a picture: its map after the rules and the changes by hand, and what went on the way."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.model.finding import Finding
from bisectum.core.model.planar_map import PlanarMap

Reason = Literal["small", "small_window", "thin", "not_largest", "dropped", "closed", "lifted"]
Suggested = Literal["ground_left", "frame", "specks"]


@dataclass(frozen=True, slots=True)
class Gone:
    """A piece or a window that is not there any more. label: what it was, 0 for a window; area: mm² of the map; at: a place in
    it, mm; segments : (S, 4, 2), straight : (S,): its outlines. change: the number of the change by hand that took it, or
    -1."""

    label: int
    area: float
    at: tuple[float, float]
    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]
    reason: Reason
    change: int = -1


@dataclass(frozen=True, slots=True)
class Suggestion:
    """What might be done, and is not. places : (N, 2), mm, one in each piece that it concerns."""

    kind: Suggested
    places: NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class PieceMap:
    """planar: what is there. gone: what is not. kept: places : (N, 2), mm, of small pieces that tell. scale: mm of the finished
    size to a mm of the map; box: left, top, right and bottom of what the width measures, mm, None where nothing is left.
    lifted: maps of what has become an item, by its id. missed: numbers of changes by hand that found nothing. bridges : (B, 2,
    2), the ends of those that a rule made. marks : (N, 2), mm, where rules on widths did something; in a preview where they
    may. least: area of the smallest piece and window that the rules let stay, mm². shape: equal for maps whose faces are the
    same and whose lines differ in size only."""

    planar: PlanarMap
    gone: tuple[Gone, ...]
    kept: NDArray[np.float64]
    scale: float
    box: tuple[float, float, float, float] | None
    findings: tuple[Finding, ...]
    suggestions: tuple[Suggestion, ...]
    bridges: NDArray[np.float64]
    marks: NDArray[np.float64]
    missed: tuple[int, ...] = ()
    lifted: Mapping[str, PlanarMap] = field(default_factory=dict)
    shape: str = ""
    least: tuple[float, float] = (0.0, 0.0)

    @classmethod
    def none(cls, planar: PlanarMap) -> PieceMap:
        """Of a map without a piece."""
        nowhere = np.empty((0, 2))
        return cls(planar, (), nowhere, 1.0, None, (), (), np.empty((0, 2, 2)), nowhere)

    def check(self) -> None:
        """Raises: BrokenStructure where a label is no colour, or a size is none."""
        if int(self.planar.face_labels.max(initial=0)) > len(self.planar.palette.colours):
            raise BrokenStructure("A piece has a label that is no colour.")
        if not self.scale > 0:
            raise BrokenStructure("Pieces have a size.")
        self.planar.check()
