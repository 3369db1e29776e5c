"""How much work a result is: to cut and to weed. Common practice, no source: nobody has timed it; the figures are told."""

from __future__ import annotations

from dataclasses import dataclass

from bisectum.core.model.artwork import Artwork

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
    pieces = artwork.piece_count
    windows = sum(len(piece.windows) for layer in artwork.layers for piece in layer.pieces)
    length = artwork.cut_length
    rings = pieces + windows
    return Work(len(artwork.layers), pieces, windows, artwork.node_count, length, length / BLADE_MM_PER_S + LIFT_S * rings,
                WEED_S * rings + WEED_S_PER_MM * length)
