"""What is cut: layers of pieces with windows, in millimetres from the page's upper left corner, y down.

A *ring* is a closed path of cubic segments. A piece is one outer ring, clockwise as seen, and the rings of its windows,
counter-clockwise; with the even-odd rule the windows are holes. All layers share one origin, the page's corner.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import lengths, signed_area


@dataclass(frozen=True, slots=True)
class Ring:
    """segments : (S, 4, 2) float64, each starting where the last ended; straight : (S,) bool."""

    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]

    @property
    def signed_area(self) -> float:
        """mm², above zero when the ring runs clockwise as seen."""
        return signed_area(self.segments)

    @property
    def length(self) -> float:
        """Length of the cut, mm."""
        return float(lengths(self.segments).sum())


@dataclass(frozen=True, slots=True)
class Piece:
    """One connected part of a layer. outline: its outer ring; windows: holes in it."""

    outline: Ring
    windows: tuple[Ring, ...]

    @property
    def rings(self) -> tuple[Ring, ...]:
        return (self.outline, *self.windows)

    @property
    def area(self) -> float:
        """mm² without the windows."""
        return sum(ring.signed_area for ring in self.rings)


@dataclass(frozen=True, slots=True)
class Layer:
    """Everything cut from one stock. key: the palette colour it came from; rgb: the colour it is shown and cut in."""

    key: str
    name: str
    rgb: tuple[int, int, int]
    pieces: tuple[Piece, ...]

    @property
    def rings(self) -> Iterator[Ring]:
        return (ring for piece in self.pieces for ring in piece.rings)

    @property
    def node_count(self) -> int:
        return sum(len(ring.segments) for ring in self.rings)


@dataclass(frozen=True, slots=True)
class Artwork:
    """Layers in build order, the first lowest. width, height: the page, mm. picture_x, picture_y, picture_width,
    picture_height: where the picture's frame lies on the page, mm. too_fine: areas that went to a neighbour, since the
    numbers of a file could not have held them."""

    layers: tuple[Layer, ...]
    width: float
    height: float
    picture_x: float
    picture_y: float
    picture_width: float
    picture_height: float
    build: str
    too_fine: int = 0

    @property
    def piece_count(self) -> int:
        return sum(len(layer.pieces) for layer in self.layers)

    @property
    def node_count(self) -> int:
        return sum(layer.node_count for layer in self.layers)

    @property
    def cut_length(self) -> float:
        """mm of blade travel in the material, all layers."""
        return sum(ring.length for layer in self.layers for ring in layer.rings)

    def check(self) -> None:
        """Raises: BrokenStructure saying which ring of which layer is wrong, and where."""
        if not (self.width > 0 and self.height > 0):
            raise BrokenStructure(f"A page has a size; this one is {self.width} × {self.height} mm.")
        for layer in self.layers:
            for piece in layer.pieces:
                for ring in piece.rings:
                    _check_ring(ring, layer.name)
                if not piece.outline.signed_area > 0 or any(window.signed_area >= 0 for window in piece.windows):
                    x, y = map(float, piece.outline.segments[0, 0])
                    raise BrokenStructure(f"A ring of “{layer.name}” runs the wrong way round at {x:.3f}, {y:.3f} mm.", x=x, y=y)


def _check_ring(ring: Ring, name: str) -> None:
    ends = np.roll(ring.segments[:, 3], 1, axis=0)
    gaps = np.flatnonzero((ends != ring.segments[:, 0]).any(axis=1))
    if not len(ring.segments) or len(gaps):
        x, y = map(float, ring.segments[gaps[0], 0]) if len(gaps) else (0.0, 0.0)
        raise BrokenStructure(f"A cut line of “{name}” is not closed at {x:.3f}, {y:.3f} mm.", x=x, y=y)
