"""What is cut: layers of pieces with windows, in millimetres from the page's upper left corner, y down.

A *ring* is a closed path. A piece is one outer ring, clockwise as seen, and the rings of its windows,
counter-clockwise; with the even-odd rule the windows are holes. All layers share one origin, the page's corner.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.path import Path
from bisectum.core.model.finding import Finding
from bisectum.core.model.stock import Stock
from bisectum.core.model.stroke import Strokes, placed, total_length


@dataclass(frozen=True, slots=True)
class Piece:
    """One connected part of a layer. outline: its outer ring; windows: holes in it."""

    outline: Path
    windows: tuple[Path, ...]

    @property
    def rings(self) -> tuple[Path, ...]:
        return (self.outline, *self.windows)

    def placed(self, matrix: NDArray[np.float64]) -> Piece:
        """Turned, mirrored and moved. matrix : (2, 3)."""
        return Piece(self.outline.placed(matrix), tuple(window.placed(matrix) for window in self.windows))

    def scaled(self, factor: float) -> Piece:
        """Of another size, about the page's corner."""
        return Piece(self.outline.scaled(factor), tuple(window.scaled(factor) for window in self.windows))

    @property
    def area(self) -> float:
        """mm² without the windows."""
        return sum(ring.signed_area for ring in self.rings)


@dataclass(frozen=True, slots=True)
class Hold:
    """A colour of an item that a layer is made of. colour: its key in the item's palette; x, y: a place in it, shares of the
    width of the item's picture."""

    item: str
    colour: str
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class Layer:
    """Everything cut from one stock. key: the palette colour it came from; rgb: the colour it is shown and cut in. id: given
    once the person has said something about it, else empty. holds: the colours of items it is made of. strokes: cut open,
    folded or drawn, none left out. stock: what it is cut from, where that was said. runs_under: the names of the layers above
    that its pieces run on under, the lowest first."""

    key: str
    name: str
    rgb: tuple[int, int, int]
    pieces: tuple[Piece, ...]
    id: str = ""
    holds: tuple[Hold, ...] = ()
    strokes: Strokes = ()
    stock: Stock | None = None
    runs_under: tuple[str, ...] = ()

    @property
    def rings(self) -> Iterator[Path]:
        return (ring for piece in self.pieces for ring in piece.rings)

    @property
    def node_count(self) -> int:
        return sum(len(ring.segments) for ring in self.rings)


@dataclass(frozen=True, slots=True)
class Artwork:
    """Layers in build order, the first lowest. width, height: the page, mm. findings: what the person should know of them.
    too_fine: areas that went to a neighbour, since the numbers of a file could not have held them. cloth: what it is put on,
    empty where nothing was said. room: left, top, right and bottom, what a backing adds to the page, mm."""

    layers: tuple[Layer, ...]
    width: float
    height: float
    build: str
    findings: tuple[Finding, ...] = ()
    too_fine: int = 0
    cloth: str = ""
    room: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)

    @property
    def piece_count(self) -> int:
        return sum(len(layer.pieces) for layer in self.layers)

    @property
    def node_count(self) -> int:
        return sum(layer.node_count for layer in self.layers)

    @property
    def cut_length(self) -> float:
        """mm of blade travel in the material, all layers."""
        return sum(ring.length for layer in self.layers for ring in layer.rings) + sum(
            total_length(layer.strokes, "cut") for layer in self.layers)

    @property
    def stroke_count(self) -> int:
        return sum(len(layer.strokes) for layer in self.layers)

    def with_room(self, room: tuple[float, float, float, float]) -> Artwork:
        """On a page that is larger on its left, upper, right and lower side, mm."""
        if not any(room):
            return self
        left, top, right, bottom = room
        shift = np.array([[1.0, 0.0, left], [0.0, 1.0, top]])
        width, height = self.width + left + right, self.height + top + bottom
        return replace(self, layers=self._placed(shift), width=width, height=height, room=room)

    def mirrored(self) -> Artwork:
        """Left for right, on the same page."""
        left, top, right, bottom = self.room
        flip = np.array([[-1.0, 0.0, self.width], [0.0, 1.0, 0.0]])
        return replace(self, layers=self._placed(flip), room=(right, top, left, bottom))

    def _placed(self, matrix: NDArray[np.float64]) -> tuple[Layer, ...]:
        return tuple(replace(layer, pieces=tuple(piece.placed(matrix) for piece in layer.pieces),
                             strokes=placed(layer.strokes, matrix)) for layer in self.layers)

    def check(self) -> None:
        """Raises: BrokenStructure saying which ring of which layer is wrong, and where."""
        if not (self.width > 0 and self.height > 0):
            raise BrokenStructure(f"A page has a size; this one is {self.width} × {self.height} mm.")
        for layer in self.layers:
            for stroke in layer.strokes:
                stroke.check()
            for piece in layer.pieces:
                for ring in piece.rings:
                    ring.check()
                if not piece.outline.signed_area > 0 or any(window.signed_area >= 0 for window in piece.windows):
                    x, y = map(float, piece.outline.segments[0, 0])
                    raise BrokenStructure(f"A ring of “{layer.name}” runs the wrong way round at {x:.3f}, {y:.3f} mm.", x=x, y=y)
