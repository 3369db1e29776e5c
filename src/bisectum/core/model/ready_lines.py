"""Lines that come in ready: paths of a vector file, in mm at their real size, y down."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure


@dataclass(frozen=True, slots=True)
class ReadyPath:
    """segments : (S, 4, 2) float64, runs one after the other, each segment of a run starting where the last ended; straight :
    (S,); first : (R + 1,) int64, where each run begins. colour: "#rrggbb"; filled: by it; even_odd: by that rule, else by
    winding. group: what the layer or the nearest group is called in which it lies."""

    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]
    first: NDArray[np.int64]
    colour: str
    filled: bool = False
    even_odd: bool = False
    group: str = ""

    def runs(self) -> Iterator[tuple[NDArray[np.float64], NDArray[np.bool_], bool]]:
        """Segments of each run, which of them are straight, and whether it is filled."""
        for low, high in zip(self.first[:-1], self.first[1:], strict=True):
            yield self.segments[low:high], self.straight[low:high], self.filled


@dataclass(frozen=True, slots=True)
class ReadyLines:
    """paths: the lowest first. sized: whether the file says what its numbers are; if not they are taken for mm, or in SVG for
    pixels of 1/96 inch. page: its width and height, mm, where the file has one."""

    paths: tuple[ReadyPath, ...]
    sized: bool
    page: tuple[float, float] | None = None

    @property
    def segment_count(self) -> int:
        return sum(len(path.segments) for path in self.paths)

    def check(self) -> None:
        """Raises: BrokenStructure where a run is broken or a place is no number."""
        for number, path in enumerate(self.paths):
            if not np.isfinite(path.segments).all():
                raise BrokenStructure(f"Path {number} has a place that is no number.")
            for low, high in zip(path.first[:-1], path.first[1:], strict=True):
                run = path.segments[low:high]
                if (run[1:, 0] != run[:-1, 3]).any():
                    raise BrokenStructure(f"A run of path {number} is broken.")
