"""The stack of materials cut through along the seam.

Along a straight line across the artwork each layer is there between the crossings of its rings (even-odd). Where it is
there it lies on as many films as layers below it are there too.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import chords
from bisectum.core.model.artwork import Artwork, Layer

Axis = Literal["x", "y"]
CLOSENESS_MM = 0.02


@dataclass(frozen=True, slots=True)
class Bar:
    """A stretch of one layer under the seam: from start to stop along it (mm), lying on `below` films."""

    layer: int
    start: float
    stop: float
    below: int


class EdgeView:
    """Answers cuts through one artwork quickly: the rings are flattened once."""

    def __init__(self, artwork: Artwork) -> None:
        self._chords = [_chords(layer) for layer in artwork.layers]

    def cut(self, axis: Axis, at: float) -> list[Bar]:
        """Bars along an upright seam at x = `at` (axis "x") or a level one at y = `at` (axis "y"), lowest layer first."""
        spans = [_inside(edges, 0 if axis == "x" else 1, at) for edges in self._chords]
        bars: list[Bar] = []
        for layer, own in enumerate(spans):
            below = [edge for other in spans[:layer] for span in other for edge in span]
            for start, stop in own:
                cuts = sorted({start, stop, *(edge for edge in below if start < edge < stop)})
                for a, b in pairwise(cuts):
                    middle = (a + b) / 2
                    depth = sum(any(s <= middle <= e for s, e in other) for other in spans[:layer])
                    if bars and bars[-1].layer == layer and bars[-1].below == depth and bars[-1].stop == a:
                        bars[-1] = Bar(layer, bars[-1].start, b, depth)
                    else:
                        bars.append(Bar(layer, a, b, depth))
        return bars


def _chords(layer: Layer) -> NDArray[np.float64]:
    """All chords of a layer: (N, 4) x0, y0, x1, y1."""
    segments = [ring.segments for ring in layer.rings]
    return chords(np.concatenate(segments), CLOSENESS_MM)[0] if segments else np.empty((0, 4))


def _inside(edges: NDArray[np.float64], axis: int, at: float) -> list[tuple[float, float]]:
    first, second = edges[:, axis], edges[:, axis + 2]
    across = (first <= at) != (second <= at)
    if not across.any():
        return []
    share = (at - first[across]) / (second[across] - first[across])
    other = 1 - axis
    places = np.sort(edges[across, other] + share * (edges[across, other + 2] - edges[across, other]))
    return [(float(a), float(b)) for a, b in zip(places[::2], places[1::2], strict=False) if b - a > 1e-6]
