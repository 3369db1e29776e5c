"""A path of cubic segments, closed or open, and the pen that draws it.

Whoever writes a file, paints or measures implements `Pen`; the path tells it where to go. So there is one way to walk
along a path, whatever comes of it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import lengths, signed_area


class Pen(Protocol):
    """Where a path goes, in absolute coordinates. A path begins with move_to and ends with close_path or end_path."""

    def move_to(self, x: float, y: float) -> None: ...

    def line_to(self, x: float, y: float) -> None: ...

    def curve_to(self, x1: float, y1: float, x2: float, y2: float, x: float, y: float) -> None:
        """A cubic with the handles 1 and 2."""

    def close_path(self) -> None:
        """Back to where the path began, in a straight line if it is not there already."""

    def end_path(self) -> None:
        """The path stays open."""


@dataclass(frozen=True, slots=True)
class Path:
    """segments : (S, 4, 2) float64, each starting where the last ended; straight : (S,) bool; closed: the last segment ends
    where the first one starts."""

    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]
    closed: bool = True

    @property
    def signed_area(self) -> float:
        """Of a closed path, above zero when it runs clockwise as seen, y down."""
        return signed_area(self.segments)

    @property
    def length(self) -> float:
        return float(lengths(self.segments).sum())

    def scaled(self, factor: float) -> Path:
        """Of another size, about 0, 0."""
        segments = self.segments * factor
        segments.flags.writeable = False
        return Path(segments, self.straight, self.closed)

    def placed(self, matrix: NDArray[np.float64]) -> Path:
        """Turned, mirrored and moved. matrix : (2, 3). A closed path that is mirrored is walked the other way round, so that it
        runs as it did."""
        segments, straight = self.segments @ matrix[:, :2].T + matrix[:, 2], self.straight
        if self.closed and np.linalg.det(matrix[:, :2]) < 0:
            segments, straight = segments[::-1, ::-1], straight[::-1]
        segments = np.ascontiguousarray(segments)
        segments.flags.writeable = False
        return Path(segments, straight, self.closed)

    def rounded(self, decimals: int) -> Path:
        """To so many decimals, without the segments that this makes nothing of."""
        places = np.round(self.segments * 10**decimals) / 10**decimals + 0.0  # no minus zero
        lasting = (places[:, 0] != places[:, 3]).any(axis=1)
        lasting |= ~self.straight & (places[:, 1:3] != places[:, :1]).any(axis=(1, 2))
        return Path(places[lasting], self.straight[lasting], self.closed)

    def draw(self, pen: Pen) -> None:
        """Lead a pen along the path; nothing is drawn where there are no segments."""
        if not len(self.segments):
            return
        rows = self.segments.reshape(-1, 8).tolist()
        pen.move_to(rows[0][0], rows[0][1])
        last = len(rows) - 1
        for number, (row, line) in enumerate(zip(rows, self.straight.tolist(), strict=True)):
            if not line:
                pen.curve_to(*row[2:])
            elif number < last or not self.closed:  # closing draws the last line
                pen.line_to(row[6], row[7])
        if self.closed:
            pen.close_path()
        else:
            pen.end_path()

    def check(self) -> None:
        """Raises: BrokenStructure where a segment does not start where the last one ended."""
        if not len(self.segments):
            raise BrokenStructure("A path has no segments.")
        starts, ends = self.segments[:, 0], np.roll(self.segments[:, 3], 1, axis=0)
        gaps = (starts != ends).any(axis=1)
        if not self.closed:
            gaps[0] = False
        if gaps.any():
            x, y = map(float, starts[int(np.flatnonzero(gaps)[0])])
            raise BrokenStructure(f"A path is broken at {x:.3f}, {y:.3f}.", x=x, y=y)
