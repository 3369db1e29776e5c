"""What machines that know no curves are given: an artwork's lines as points, and what they are held against.

Lines are in the order of the layers: of each the rings of its pieces, then its strokes. mm, y down, from the page's corner.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.errors import ComputationError
from bisectum.core.formats.uses import USES
from bisectum.core.geom.bezier import flatten
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.stroke import Role

CHORD_MM = 0.01  # how far a chord may lie off its curve
CUT_SPOT = "Cut line"  # what the spot colour of cut lines is called where nothing is said
Use = Role
"""What a machine does along a line."""
Form = Literal["polylines", "curves"]
"""How a DXF has curves: as chords within a bound, or exactly."""


@dataclass(frozen=True, slots=True, eq=False)
class Line:
    """A line of a layer. layer: its number; use: what is done along it; path: it itself; is_ring: it bounds a piece."""

    layer: int
    use: Use
    path: Path
    is_ring: bool

    def points(self, chord: float = CHORD_MM) -> NDArray[np.float64]:
        """(N, 2); of a closed line its first point comes last again."""
        own = flatten(self.path.segments, chord)
        last = own[:1] if self.path.closed else self.path.segments[-1:, 3]
        return np.concatenate([own, last])


def lines_of(artwork: Artwork) -> Iterator[Line]:
    """All lines of an artwork that are cut, folded or drawn."""
    for number, layer in enumerate(artwork.layers):
        yield from (Line(number, "cut", ring, True) for ring in layer.rings)
        for role in USES:
            yield from (Line(number, role, stroke.path, False) for stroke in layer.strokes if stroke.role == role)


def compare(found: Sequence[tuple[int, Use, NDArray[np.float64]]], artwork: Artwork, bound: float) -> None:
    """Hold what was read back against what was meant. found: layer, use and points : (N, 2) of each line, in the order of
    `lines_of`, mm as there. bound: how far a line may lie off, mm.

    Raises: ComputationError naming what differs.
    """
    wanted = list(lines_of(artwork))
    if len(found) != len(wanted):
        raise differs("number of lines", f"{len(found)} instead of {len(wanted)}")
    for (layer, use, points), line in zip(found, wanted, strict=True):
        name = artwork.layers[line.layer].name
        if (layer, use) != (line.layer, line.use):
            raise differs(f"place of a line of “{name}”", f"{use} in layer {layer + 1}")
        closed = bool(np.hypot(*(points[0] - points[-1])) <= 1e-6)
        if closed != line.path.closed:
            raise differs(f"closing of a line of “{name}”", "closed" if closed else "open")
        wanted_points = line.points(CHORD_MM / 4)
        # Each has to lie on the other, so that no stretch is left out. Both are indexed: rings have thousands of places.
        for one, other in ((points, wanted_points), (wanted_points, points)):
            course = shapely.LineString(other)
            shapely.prepare(course)
            off = ~shapely.dwithin(course, shapely.points(one), bound)
            if off.any():
                far = float(shapely.distance(course, shapely.points(one[off][:200])).max())
                raise differs(f"course of a line of “{name}”", f"{far:.3f} mm off")
        if line.is_ring:
            area, wanted_area = abs(_area(points)), abs(line.path.signed_area)
            if abs(area - wanted_area) > bound * line.path.length + bound**2:
                raise differs(f"area of a piece of “{name}”", f"{area:.3f} mm² instead of {wanted_area:.3f} mm²")


def _area(points: NDArray[np.float64]) -> float:
    x, y = points.T
    return float(np.dot(x[:-1], y[1:]) - np.dot(x[1:], y[:-1])) / 2


def differs(what: str, found: str) -> ComputationError:
    return ComputationError(f"The file was not handed over, because the {what} in it came out as {found}. Please report this.",
                            code="file_differs", what=what, found=found)
