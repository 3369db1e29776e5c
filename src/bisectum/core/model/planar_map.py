"""Cut lines as one planar map: every line between two areas is there once, and both areas use it.

A *chain* runs between two junctions, or closes on itself, and has one face on its left and one on its right (as it is
walked, y down). A *half-edge* is a chain in one direction: 2c forward, 2c + 1 backward; its face is the one to its
right. A *loop* is a round of half-edges of one face: the outer one runs clockwise as seen, the ones around windows
counter-clockwise. Face -1 is what lies beyond the picture. Coordinates are millimetres from the picture's upper left
corner, y down.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import area_shares, reversed_segments
from bisectum.core.geom.overlay.crossed import deep_crossings
from bisectum.core.geom.overlay.network import EPS_MM
from bisectum.core.model.palette import Palette


@dataclass(frozen=True, slots=True)
class Fault:
    """A place where a planar map is broken: what is wrong, the chains or faces concerned, and where (mm)."""

    kind: str
    members: tuple[int, ...]
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class PlanarMap:
    """segments : (S, 4, 2) float64, chain after chain; straight : (S,) bool.

    first : (C + 1,) int64, where each chain starts in `segments`; sides : (C, 2) int32, faces left and right;
    ends : (C, 2) int32, junctions or -1; junctions : (J, 2) float64 x, y; spoke_first : (J + 1,) int64, where the
    half-edges that leave each junction begin in spokes : (H,) int32, in clockwise order; face_labels : (F,) uint16, 0 for
    background. deviation: greatest distance of a line from the edge it was measured on, mm. width, height: the picture, mm.
    repaired : (K, 2), mm, where lines are drawn more closely so that none cross. left_out: numbers of the corrections by hand
    that could not be made.
    """

    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]
    first: NDArray[np.int64]
    sides: NDArray[np.int32]
    ends: NDArray[np.int32]
    junctions: NDArray[np.float64]
    spoke_first: NDArray[np.int64]
    spokes: NDArray[np.int32]
    face_labels: NDArray[np.uint16]
    palette: Palette
    mm_per_px: float
    width: float
    height: float
    deviation: float
    repaired: NDArray[np.float64] = field(default_factory=lambda: np.zeros((0, 2)))
    left_out: tuple[int, ...] = ()

    @classmethod
    def empty(cls, **size: Any) -> PlanarMap:
        """A map without a line. size: palette, mm_per_px, width, height and deviation."""
        none = np.zeros(0, np.int32)
        return cls(
            segments=np.zeros((0, 4, 2)), straight=np.zeros(0, bool), first=np.zeros(1, np.int64), sides=none.reshape(0, 2),
            ends=none.reshape(0, 2), junctions=np.zeros((0, 2)), spoke_first=np.zeros(1, np.int64), spokes=none,
            face_labels=np.zeros(0, np.uint16), **size)

    @property
    def chain_count(self) -> int:
        return len(self.first) - 1

    def chain(self, number: int) -> NDArray[np.float64]:
        return self.segments[self.first[number] : self.first[number + 1]]

    def walk(self, half: int) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
        """Segments of a half-edge in its direction, and which of them are straight."""
        number = half >> 1
        own = slice(self.first[number], self.first[number + 1])
        if half & 1:
            return reversed_segments(self.segments[own]), self.straight[own][::-1]
        return self.segments[own], self.straight[own]

    def half_areas(self) -> NDArray[np.float64]:
        """What each half-edge adds to the area within a loop it is part of, mm²; (2 C,)."""
        owners = np.repeat(np.arange(self.chain_count), np.diff(self.first))
        areas = np.zeros(self.chain_count)
        np.add.at(areas, owners, area_shares(self.segments))
        return np.stack([areas, -areas], axis=1).ravel()

    def right_face(self, half: int) -> int:
        return int(self.sides[half >> 1, 1 - (half & 1)])

    def loops(self, inside: NDArray[np.bool_] | None = None) -> Iterator[tuple[int, list[int]]]:
        """Rounds of half-edges with a face at their right hand, as (face, half-edges).

        inside : (F + 1,) bool, the last for face -1: the rounds about all those faces taken together; the face given is
        then one of them. Without it, the rounds of every face by itself, -1 among them.
        """
        seen = np.zeros(2 * self.chain_count, bool)
        spokes = self.spokes.tolist()
        junction_of, place_of = np.empty((2, 2 * self.chain_count), np.int64)
        junction_of[self.spokes] = np.repeat(np.arange(len(self.junctions)), np.diff(self.spoke_first))
        place_of[self.spokes] = np.arange(len(spokes))
        right = self.sides[:, ::-1].ravel()
        wanted = np.ones(len(right), bool) if inside is None else inside[right] & ~inside[self.sides.ravel()]
        for start in np.flatnonzero(wanted).tolist():
            if seen[start]:
                continue
            face = int(right[start])
            loop = [start]
            seen[start] = True
            half = start
            while self.ends[half >> 1, 0] >= 0:
                low, high = self.spoke_first[junction_of[half ^ 1] : junction_of[half ^ 1] + 2].tolist()
                back = int(place_of[half ^ 1]) - low
                for turn in range(1, high - low + 1):  # the next to turn right, last the way back
                    following = spokes[low + (back - turn) % (high - low)]
                    if inside is None or wanted[following]:
                        break
                if following == start:
                    break
                half = following
                seen[half] = True
                loop.append(half)
            yield face, loop

    def faults(self) -> Iterator[Fault]:
        """All places where the map is broken."""
        yield from self._loose_ends()
        yield from self._faces()
        yield from self._crossings()

    def check(self) -> None:
        """Raises: BrokenStructure naming the first fault and its place."""
        fault = next(self.faults(), None)
        if fault is not None:
            raise BrokenStructure(
                f"The cut lines are broken ({fault.kind}) at {fault.x:.3f}, {fault.y:.3f} mm.", fault=fault.kind,
                members=list(fault.members), x=fault.x, y=fault.y,
            )

    def _loose_ends(self) -> Iterator[Fault]:
        for number in range(self.chain_count):
            own = self.chain(number)
            if not len(own):
                yield Fault("empty_chain", (number,), 0.0, 0.0)
                continue
            gaps = np.flatnonzero((own[1:, 0] != own[:-1, 3]).any(axis=1))
            for gap in gaps:
                yield Fault("gap", (number,), *map(float, own[gap, 3]))
            start, stop = self.ends[number]
            wanted = (own[-1, 3], own[0, 0]) if start < 0 else (self.junctions[start], self.junctions[stop])
            for place, end in zip((own[0, 0], own[-1, 3]), wanted, strict=True):
                if not np.array_equal(place, end):
                    yield Fault("loose_end", (number,), *map(float, place))

    def _faces(self) -> Iterator[Fault]:
        outer = np.zeros(len(self.face_labels) + 1, int)
        areas = self.half_areas()
        for face, loop in self.loops():
            others = {self.right_face(half) for half in loop} - {face}
            if others:
                yield Fault("mixed_loop", (face, *others), *map(float, self.walk(loop[0])[0][0, 0]))
            if areas[loop].sum() > 0:
                outer[face] += 1
        for face in np.flatnonzero(outer[:-1] != 1).tolist():
            yield Fault("face_without_outline" if outer[face] == 0 else "face_in_parts", (int(face),), 0.0, 0.0)

    def _crossings(self) -> Iterator[Fault]:
        if not self.chain_count:
            return
        owners = np.repeat(np.arange(self.chain_count), np.diff(self.first))
        for one, other, x, y in deep_crossings(self.segments, owners, EPS_MM):
            yield Fault("crossing" if one != other else "self_crossing", (one, other), x, y)
