"""Lapped layers: each reaches under the layers above it by a set lap, and no further.

What is seen of a layer stays exactly as it is: its visible edges are the shared lines themselves, node for node. Only
where an upper layer covers it the edge is moved outwards, by the lap, within what lies above; there a new line is fitted.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import flatten, line_segments, signed_area
from bisectum.core.geom.outline import corners_of, fit_outline
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Piece
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.progress import SILENT, Progress
from bisectum.core.steps.layers.build import AT_ONCE, connected_faces, pieces_of_faces
from bisectum.core.units import RESOLUTION_MM

CHORDS_MM = 0.003  # how far the chords that are offset may lie from their curves
GRID_MM = 1e-6  # all chords lie on this grid, on which shapely's overlays hold for any input
ARC_CHORDS = 24  # chords of a quarter of a round corner
HIDDEN_MM = 0.01  # how far the fitted hidden edge may stray from the offset
HIDDEN_NOISE = 0.002  # px, deviation of its points, which are computed
CORNER = 0.5  # radians; hidden edges need no sharper eye

Place = tuple[int, int]


def lapped_pieces(
    planar: PlanarMap, own: NDArray[np.bool_], above: NDArray[np.bool_], lap: float, progress: Progress = SILENT
) -> tuple[Piece, ...]:
    """The pieces of a layer that reaches under others.

    own, above : (F + 1,) bool, the layer's faces and those of all layers above, the last for what lies beyond the
    picture. lap: mm. Raises: Cancelled.
    """
    left, right = planar.sides.T
    covered = (own[left] & above[right]) | (own[right] & above[left])
    if not covered.any():
        return pieces_of_faces(planar, own, False, progress)
    import shapely  # not before a lapped build is asked for

    chains = _Chains(planar, (own[left] != own[right]) & ~covered)
    mine, over = _area(chains, own, progress), _area(chains, above, progress)
    reach = shapely.intersection(shapely.buffer(mine, lap, quad_segs=ARC_CHORDS), over, grid_size=GRID_MM)
    whole = shapely.union(mine, shapely.union_all(_polygons(reach)), grid_size=GRID_MM)
    pieces = []
    for part in _polygons(whole):
        progress.raise_if_cancelled()
        if _lasts(part):
            outline = chains.ring(np.asarray(part.exterior.coords)[:-1], clockwise=True)
            windows = [chains.ring(np.asarray(hole.coords)[:-1], clockwise=False)
                       for hole in part.interiors if _lasts(shapely.Polygon(hole))]
            pieces.append(Piece(outline, tuple(windows)))
    return tuple(sorted(pieces, key=lambda piece: tuple(piece.outline.segments[:, 0].min(axis=0))))


def _lasts(polygon: Any) -> bool:
    """Whether something is left of an area when its outline has been fitted and rounded."""
    return bool(polygon.area > (HIDDEN_MM + RESOLUTION_MM) * polygon.length)


def _area(chains: _Chains, inside: NDArray[np.bool_], progress: Progress) -> Any:
    """Faces taken together as one shapely geometry, made of the chains' chords.

    Chords of neighbours may cross by as much as they stray from their curves, and an outline may touch itself at a
    junction; both is put right here, so that what is returned is valid.
    """
    import shapely

    group = connected_faces(chains.planar, inside)
    outlines: dict[int, list[Any]] = {}
    windows: dict[int, list[Any]] = {}
    for number, (face, loop) in enumerate(chains.planar.loops(inside)):
        if number % AT_ONCE == 0:
            progress.raise_if_cancelled()
        ring = chains.chords_of(loop)
        (outlines if _ring_area(ring) > 0 else windows).setdefault(int(group[face]), []).extend(_valid(ring))
    parts = []
    for number, solid in outlines.items():
        progress.raise_if_cancelled()
        whole, holes = (shapely.union_all(rings, grid_size=GRID_MM) for rings in (solid, windows.get(number, [])))
        parts += _polygons(shapely.difference(shapely.union_all(_polygons(whole)), shapely.union_all(_polygons(holes)),
                                              grid_size=GRID_MM))
    return shapely.union_all(_polygons(shapely.union_all(parts, grid_size=GRID_MM)))


def _valid(ring: NDArray[np.float64]) -> list[Any]:
    """A ring of points as polygons that do not cross themselves; points and lines that are left over go."""
    import shapely

    return _polygons(shapely.make_valid(shapely.Polygon(ring))) if len(ring) > 2 else []


def _polygons(geometry: Any) -> list[Any]:
    """What of a geometry has an area."""
    import shapely

    parts = shapely.get_parts(geometry)
    parts = shapely.get_parts(parts[shapely.get_dimensions(parts) == 2])  # of a collection a part may have parts
    return list(parts)


def _ring_area(ring: NDArray[np.float64]) -> float:
    x, y = ring.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2


class _Chains:
    """The chains of a map as chords, and the way back from chords to the chains they came from."""

    def __init__(self, planar: PlanarMap, visible: NDArray[np.bool_]) -> None:
        """visible : (C,) bool, the chains that are edges of the layer no upper one covers."""
        self.planar = planar
        self._chords: dict[int, NDArray[np.float64]] = {}
        self._at: dict[Place, list[tuple[int, int]]] = {}
        for number in np.flatnonzero(visible).tolist():
            for place, point in enumerate(_on_grid(self.chords(number))):
                self._at.setdefault(point, []).append((number, place))

    def chords(self, number: int) -> NDArray[np.float64]:
        """Points along a chain, both ends included."""
        if number not in self._chords:
            own = self.planar.chain(number)
            points = np.round(np.concatenate([flatten(own, CHORDS_MM), own[-1:, 3]]) / GRID_MM) * GRID_MM
            self._chords[number] = points[np.append(True, (points[1:] != points[:-1]).any(axis=1))]
        return self._chords[number]

    def chords_of(self, loop: list[int]) -> NDArray[np.float64]:
        """The ring of points along a loop of half-edges; its start is not repeated."""
        return np.concatenate([(self.chords(half >> 1)[::-1] if half & 1 else self.chords(half >> 1))[:-1] for half in loop])

    def ring(self, points: NDArray[np.float64], clockwise: bool) -> Path:
        """A ring of curves through a ring of points : (N, 2): whole visible chains as they are, the rest fitted."""
        area = _ring_area(points)
        if (area > 0) != clockwise:
            points, area = points[::-1], -area
        curves, straight = self._curves(points)
        if signed_area(curves) / area < 0.5:  # so thin that fitting lost it
            curves = line_segments(np.concatenate([points, points[:1]]))
            straight = np.ones(len(curves), bool)
        return Path(frozen(curves), frozen(straight))

    def _curves(self, points: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
        halves = self._halves(points)
        if not halves:
            return self._fitted(points, closed=True)
        parts = []
        for k, (half, start, length) in enumerate(halves):
            parts.append(self.planar.walk(half))
            following = halves[(k + 1) % len(halves)][1] + (len(points) if k + 1 == len(halves) else 0)
            hidden = points[np.arange(start + length, following + 1) % len(points)]
            if len(hidden) > 1:
                parts.append(self._fitted(hidden, closed=False))
        segments = np.concatenate([part[0] for part in parts])
        segments[:, 3] = np.roll(segments[:, 0], -1, axis=0)
        return segments, np.concatenate([part[1] for part in parts])

    def _halves(self, points: NDArray[np.float64]) -> list[tuple[int, int, int]]:
        """Half-edges that a ring of points runs along from end to end, each with its first index and its chords."""
        found: list[tuple[int, int, int]] = []
        count = len(points)
        places = [self._at.get(place, []) for place in _on_grid(points)]
        for start in range(count):
            for number, place in places[start]:
                last = len(self.chords(number)) - 1
                for half, first, step in ((2 * number, 0, 1), (2 * number + 1, last, -1)):
                    if place == first and last <= count and all(
                            (number, first + step * k) in places[(start + k) % count] for k in range(1, last + 1)):
                        found.append((half, start, last))
        # A closed chain starts and ends in the same point, and is found once each way at most.
        return sorted({half >> 1: (half, start, length) for half, start, length in found}.values(), key=lambda item: item[1])

    def _fitted(self, points: NDArray[np.float64], closed: bool) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
        """Curves through points of a hidden edge. Returns (S, 4, 2) and (S,) straight."""
        scale = self.planar.mm_per_px
        own = _spaced(points / scale, closed)
        room = 2 * len(own) + 16
        corners = np.empty(room, np.int64), np.empty((room, 2)), np.empty(room), np.empty((room, 10))
        curves, straight, worst = np.empty((room, 4, 2)), np.empty(room, bool), np.empty(1)
        if len(own) < 3:
            curves = line_segments(np.concatenate([points, points[:1]]) if closed else points)
            return curves, np.ones(len(curves), bool)
        found = corners_of(own, closed, HIDDEN_NOISE, CORNER, 1.0, *corners)
        tolerances = np.full(found + 1, max(0.02, HIDDEN_MM / scale))
        count = fit_outline(own, closed, found, *corners, HIDDEN_NOISE, True, tolerances, curves, straight, worst)
        fitted = curves[:count] * scale
        if not closed:
            fitted[0, 0], fitted[-1, 3] = points[0], points[-1]
        return fitted, straight[:count].copy()


def _on_grid(points: NDArray[np.float64]) -> list[Place]:
    """Points as whole numbers of the grid, which stay alike when shapely rounds them another way."""
    return [(x, y) for x, y in np.rint(points / GRID_MM).astype(np.int64).tolist()]


def _spaced(points: NDArray[np.float64], closed: bool) -> NDArray[np.float64]:
    """Points about a pixel apart along a polyline, its own kept where they are that far apart."""
    ring = np.concatenate([points, points[:1]]) if closed else points
    steps = np.hypot(*np.diff(ring, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    keep = np.concatenate([[True], steps > 1e-9])
    ring, along = ring[keep], along[keep]
    count = max(2, round(along[-1] / 0.8))
    wanted = np.linspace(0, along[-1], count + 1)
    spaced = np.stack([np.interp(wanted, along, ring[:, 0]), np.interp(wanted, along, ring[:, 1])], axis=1)
    return np.ascontiguousarray(spaced[:-1] if closed else spaced)
