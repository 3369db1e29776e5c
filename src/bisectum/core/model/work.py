"""How much work a result is: to cut and to weed. Common practice, no source: nobody has timed it; the figures are told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.stroke import total_length

BLADE_MM_PER_S = 25.0
LIFT_S = 0.4  # for each ring: lifting and lowering the blade
WEED_S, WEED_S_PER_MM = 2.0, 0.01  # for each piece and window, and for each mm of its edge


@dataclass(frozen=True, slots=True)
class Work:
    """cut_s, weed_s: seconds at the machine and by hand."""

    layers: int
    pieces: int
    windows: int
    nodes: int
    cut_mm: float
    cut_s: float
    weed_s: float

    @property
    def minutes(self) -> float:
        return (self.cut_s + self.weed_s) / 60


def work_of(artwork: Artwork) -> Work:
    """How long all its layers take to cut and to weed."""
    return work_of_layers(artwork.layers)


def work_of_layers(layers: Sequence[Layer]) -> Work:
    """The same of some layers. cut_s = cut_mm / 25 + 0.4 · rings; weed_s = 2 · rings + 0.01 · cut_mm."""
    pieces = sum(len(layer.pieces) for layer in layers)
    windows = sum(len(piece.windows) for layer in layers for piece in layer.pieces)
    length = sum(ring.length for layer in layers for ring in layer.rings)
    length += sum(total_length(layer.strokes, "cut") for layer in layers)
    rings = pieces + windows
    return Work(len(layers), pieces, windows, sum(layer.node_count for layer in layers), length,
                length / BLADE_MM_PER_S + LIFT_S * rings, WEED_S * rings + WEED_S_PER_MM * length)
