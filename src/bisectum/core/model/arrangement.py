"""All items of a make as one planar map on one page.

Labels of the make are numbered through: the labels of the first item, then those of the second, and so on. `members`
says which item and which colour each of them is. Lengths are mm from the page's upper left corner, y down.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.model.finding import Finding
from bisectum.core.model.palette import Colour
from bisectum.core.model.picture import frozen
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.stroke import Strokes, placed
from bisectum.core.raster.inner import inner_places

GLANCE_PX = 240  # along the longer side: where a place lies need not be known better


@dataclass(frozen=True, slots=True)
class Glance:
    """An item's labels seen from afar. labels : (H, W) uint8; places: where marks lie on them."""

    labels: NDArray[np.uint8]
    places: Placement

    @classmethod
    def plain(cls) -> Glance:
        """Of an item of one colour all over."""
        return cls(np.ones((1, 1), np.uint8), Placement.plain(1.0))

    @property
    def is_plain(self) -> bool:
        return self.labels.size == 1

    @classmethod
    def of(cls, labels: NDArray[np.uint8], places: Placement) -> Glance:
        """labels : (H, W) uint8 of full size; places: where marks lie on them."""
        every = max(1, math.ceil(max(labels.shape) / GLANCE_PX))
        return cls(np.ascontiguousarray(labels[::every, ::every]), places.scaled(1 / every))

    def label_at(self, x: float, y: float) -> int:
        """The label at a place, shares of the width of the item's picture; 0 beside it."""
        column, row = np.floor(self.places.to_px(np.array([x, y]))[0]).astype(int)
        height, width = self.labels.shape
        return int(self.labels[row, column]) if 0 <= row < height and 0 <= column < width else 0

    def insides(self, count: int) -> NDArray[np.float64]:
        """For each of the first labels a place inside it. Returns (count, 2) float64, shares; the middle for one not seen."""
        found = self.places.to_shares(inner_places(self.labels, count))
        middle = self.places.to_shares(np.array(self.labels.shape[::-1]) / 2)
        return np.where(np.isnan(found), middle, found)


@dataclass(frozen=True, slots=True)
class Member:
    """What a label of the make is: a colour of an item, there the label `number`. at: a place inside it, shares of the width
    of its picture. filled: the area within the outlines of all that has it in its item, windows filled in, mm²."""

    item: str
    number: int
    colour: Colour
    at: tuple[float, float]
    filled: float


@dataclass(frozen=True, slots=True)
class Frame:
    """Where an item lies. matrix : (2, 3) float64, from mm of its own map to mm on the page; box: its left, top, right and
    bottom edge on the page, mm, by what its width measures; size: width and height of that before it is turned. glance: its
    labels."""

    item: str
    glance: Glance
    matrix: NDArray[np.float64]
    box: tuple[float, float, float, float]
    size: tuple[float, float]


@dataclass(frozen=True, slots=True)
class Arrangement:
    """planar: the whole make, its labels 1.. being members[0..]: of each face the topmost one. frames: one for each item, lowest
    first; width, height: the page, mm. stack : (F, I) int64, the labels that lie on each face, one column for each item, 0 for
    none. origin: the page's upper left corner on the table, where places are told from. findings: what no part could be
    done with. strokes: of all items, mm on the page, with the labels of the make."""

    planar: PlanarMap
    members: tuple[Member, ...]
    frames: tuple[Frame, ...]
    width: float
    height: float
    stack: NDArray[np.int64]
    origin: tuple[float, float] = (0.0, 0.0)
    findings: tuple[Finding, ...] = ()
    strokes: Strokes = ()

    def frame(self, item: str) -> Frame:
        """Raises: KeyError."""
        for frame in self.frames:
            if frame.item == item:
                return frame
        raise KeyError(item)

    def with_room(self, room: tuple[float, float, float, float]) -> Arrangement:
        """On a page that is larger on its left, upper, right and lower side, mm."""
        left, top, right, bottom = room
        if not any(room):
            return self
        shift = np.array([left, top])
        width, height = self.width + left + right, self.height + top + bottom
        frames = tuple(replace(frame, matrix=frozen(frame.matrix + np.column_stack([np.zeros((2, 2)), shift])),
                               box=(frame.box[0] + left, frame.box[1] + top, frame.box[2] + left, frame.box[3] + top))
                       for frame in self.frames)
        planar = replace(self.planar, segments=frozen(self.planar.segments + shift), width=width, height=height,
                         junctions=frozen(self.planar.junctions + shift))
        return replace(self, planar=planar, frames=frames, width=width, height=height,
                       origin=(self.origin[0] - left, self.origin[1] - top),
                       strokes=placed(self.strokes, np.column_stack([np.eye(2), shift])))

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong."""
        if int(self.planar.face_labels.max(initial=0)) > len(self.members):
            raise BrokenStructure("A face of the make has a label that is no colour of any item.")
        if not (self.width > 0 and self.height > 0):
            raise BrokenStructure(f"A page has a size; this one is {self.width} × {self.height} mm.")
        if self.stack.shape != (len(self.planar.face_labels), len(self.frames)):
            raise BrokenStructure("Every face of the make has a label for each item, or 0.")
        topmost = np.zeros(len(self.stack), np.int64)
        for column in self.stack.T:
            topmost = np.where(column > 0, column, topmost)
        if (topmost != self.planar.face_labels).any():
            raise BrokenStructure("A face of the make does not show what lies on top.")
        for stroke in self.strokes:
            stroke.check()
        self.planar.check()
