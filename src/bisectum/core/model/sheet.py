"""Sheets: what is loaded into the machine, each of one stock, with its pieces where they are cut.

A *carrier* is what holds the material: a mat, a roll, a card. Its usable area is smaller than itself. A *part* is what stays
together when pieces are laid out: pieces and strokes of one layer. Lengths are mm from the carrier's upper left corner, y down.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import bounds
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork, Layer, Piece
from bisectum.core.model.stock import StockKind
from bisectum.core.model.stroke import Stroke, Strokes, placed
from bisectum.core.raster.colour import hex_of

CarrierKind = Literal["mat", "roll", "card"]
CARRIER_KINDS: tuple[CarrierKind, ...] = get_args(CarrierKind)
SLACK_MM = 1e-3
MARKS = "Register marks"
WASTE = "Weeding cuts"


@dataclass(frozen=True, slots=True)
class Area:
    """A rectangle on a carrier, mm."""

    left: float
    top: float
    width: float
    height: float

    @property
    def middle(self) -> tuple[float, float]:
        return self.left + self.width / 2, self.top + self.height / 2

    @property
    def is_empty(self) -> bool:
        return not (self.width > 0 and self.height > 0)

    def holds(self, box: tuple[float, float, float, float], slack: float = SLACK_MM) -> bool:
        """Whether a box (left, top, right, bottom) lies in it."""
        return (box[0] >= self.left - slack and box[1] >= self.top - slack
                and box[2] <= self.left + self.width + slack and box[3] <= self.top + self.height + slack)


@dataclass(frozen=True, slots=True, eq=False)
class Part:
    """What stays together. layer: its number in the artwork; copy: 0 for the first; at: a place in it, shares of the page's
    width. pieces, strokes: mm on the page. item: the id of the item it is of, empty where that does not matter."""

    layer: int
    copy: int
    at: tuple[float, float]
    pieces: tuple[Piece, ...]
    strokes: Strokes = ()
    item: str = ""

    @property
    def original(self) -> tuple[int, int]:
        """The same for all copies of one part, which share what they are made of, and for no others."""
        return id(self.pieces), id(self.strokes) if self.strokes else 0

    @property
    def segments(self) -> NDArray[np.float64]:
        """All its outer rings and strokes. (S, 4, 2)."""
        return np.concatenate([*(piece.outline.segments for piece in self.pieces), *(stroke.segments for stroke in self.strokes)])


@dataclass(frozen=True, slots=True)
class Laid:
    """Where a part lies. part: its number; turn: degrees clockwise as seen, about the page's corner, before it is moved by x, y.
    by_hand: a person put it there."""

    part: int
    x: float
    y: float
    turn: float = 0.0
    by_hand: bool = False

    @property
    def matrix(self) -> NDArray[np.float64]:
        """(2, 3), from the page to the carrier."""
        angle = math.radians(self.turn)
        c, s = np.round([math.cos(angle), math.sin(angle)], 15)
        return np.array([[c, -s, self.x], [s, c, self.y]])


@dataclass(frozen=True, slots=True, eq=False)
class Sheet:
    """One load of the machine. width, height: of the carrier; of a roll the length that is used. stock, kind, rgb: what it is cut
    from; layers: numbers of the layers on it. mirrored: it is cut flipped; what is laid tells where things are before that.
    marks: cut on every sheet at the same place; waste: cuts that only help weeding. tile: the number of the part of a make
    that was split, from 0, else -1. clashes: numbers of `laid` that overlap others or leave the usable area."""

    carrier: str
    width: float
    height: float
    usable: Area
    stock: str
    stock_id: str
    kind: StockKind
    rgb: tuple[int, int, int]
    layers: tuple[int, ...]
    laid: tuple[Laid, ...]
    mirrored: bool = False
    marks: tuple[Path, ...] = ()
    waste: tuple[Path, ...] = ()
    tile: int = -1
    clashes: tuple[int, ...] = ()

    @property
    def flip(self) -> NDArray[np.float64]:
        """(2, 3), from what was laid to what is cut."""
        if not self.mirrored:
            return np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
        return np.array([[-1.0, 0.0, self.width], [0.0, 1.0, 0.0]])


@dataclass(frozen=True, slots=True)
class Used:
    """What sheets of one stock take. sheets: how many; area_mm2: of what is cut; taken_mm2: of the material that is gone;
    length_mm: of a roll; waste: the share of what is taken that is no piece."""

    stock: str
    stock_id: str
    kind: StockKind
    rgb: tuple[int, int, int]
    sheets: int
    area_mm2: float
    taken_mm2: float
    length_mm: float
    waste: float


@dataclass(frozen=True, slots=True, eq=False)
class SheetPlan:
    """All sheets of a make. artwork: what they are cut from; parts: all parts and copies of them; left_over: numbers of parts
    that no sheet could take."""

    artwork: Artwork
    parts: tuple[Part, ...]
    sheets: tuple[Sheet, ...]
    used: tuple[Used, ...] = ()
    left_over: tuple[int, ...] = ()

    def drawn(self, number: int) -> Artwork:
        """A sheet as the artwork that a file holds, mirrored where it is cut so."""
        sheet = self.sheets[number]
        layers = []
        for layer in sheet.layers:
            own = [(self.parts[laid.part], join(sheet.flip, laid.matrix)) for laid in sheet.laid
                   if self.parts[laid.part].layer == layer]
            pieces = tuple(piece.placed(matrix) for part, matrix in own for piece in part.pieces)
            strokes = tuple(stroke for part, matrix in own for stroke in placed(part.strokes, matrix))
            layers.append(replace(self.artwork.layers[layer], pieces=pieces, strokes=strokes))
        return replace(self.artwork, layers=(*layers, *_of_marks(sheet)), width=sheet.width, height=sheet.height, findings=(),
                       room=(0.0, 0.0, 0.0, 0.0))

    def check(self) -> None:
        """Raises: BrokenStructure where a sheet has a part that is not there or twice, or something lies off its usable area."""
        seen: set[int] = set()
        for sheet in self.sheets:
            for number, laid in enumerate(sheet.laid):
                if not 0 <= laid.part < len(self.parts) or laid.part in seen:
                    raise BrokenStructure("A sheet holds a part that is not there, or lies on another sheet too.")
                seen.add(laid.part)
                segments = self.parts[laid.part].segments @ laid.matrix[:, :2].T + laid.matrix[:, 2]
                if number not in sheet.clashes and not sheet.usable.holds(bounds(segments), 0.01):
                    x, y = map(float, segments[0, 0])
                    raise BrokenStructure(f"A piece lies off the usable area at {x:.2f}, {y:.2f} mm.", x=x, y=y)
        if len(seen) + len(self.left_over) != len(self.parts):
            raise BrokenStructure("A part lies on no sheet, and is not told to be left over.")


def join(second: NDArray[np.float64], first: NDArray[np.float64]) -> NDArray[np.float64]:
    """One (2, 3) matrix for two, one after the other."""
    turned: NDArray[np.float64] = second[:, :2] @ first
    turned[:, 2] += second[:, 2]
    return turned


def _of_marks(sheet: Sheet) -> tuple[Layer, ...]:
    """Marks and weeding cuts as layers of their own behind the others. They are lines, never areas."""
    found = []
    for name, paths in ((MARKS, sheet.marks), (WASTE, sheet.waste)):
        flipped = [path.placed(sheet.flip) for path in paths]
        strokes = tuple(Stroke(path.segments, path.straight, "cut", "cut", 0.1, (float(path.segments[0, 0, 0]),
                               float(path.segments[0, 0, 1]))) for path in flipped)
        if strokes:
            found.append(Layer(hex_of(sheet.rgb), name, sheet.rgb, (), strokes=strokes))
    return tuple(found)
