"""Curves cut at all places where they meet, so that none crosses another: the first half of an overlay.

Every *row* is a range of an input's segment between two vertices. Rows that run together are one edge: the first of them
leads, the others follow it. Vertices never move, and none is nearer to another one than eps, so cutting comes to an end.
A row's ends lie on its vertices; what is not touched stays bit for bit.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.overlay.meeting import cross_pairs, project_pairs, run_together
from bisectum.core.geom.overlay.vertices import Vertices

EPS_MM = 5e-4  # what lies within this is one; a tenth of what a hobby cutter can place
SHORT = 20  # times eps: shorter rows are drawn straight, since their handles say nothing any more
TOGETHER = 2  # times eps: rows with the same ends that run within this are one edge
AGAIN, MOST_AGAIN = 1, 3  # times eps: a segment comes back to a vertex after so long a way, and only so often
KNOT = 5  # times eps: the radius of a place where all is one vertex
LOOP = 4  # times eps: rounds that are smaller come to nothing
MOST_TURN = 2.8  # radians: a cubic that turns more may meet itself, and is looked at in three parts
ROUNDS, PATIENCE = 40, 3

Pairs = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Curves:
    """One input. segments : (S, 4, 2) float64, mm; straight : (S,) bool; change : (S,) int32, the value on a segment's left
    less the one on its right, as it is walked, y down. planar: no segment crosses another one."""

    segments: NDArray[np.float64]
    straight: NDArray[np.bool_]
    change: NDArray[np.int32]
    planar: bool


class Network:
    """The rows, cut until they meet at vertices only."""

    def __init__(self, inputs: list[Curves], eps: float, knots: NDArray[np.float64] | None = None) -> None:
        """knots : (K, 2), places about which all within KNOT eps is one vertex: where lines lie too close to be told apart."""
        self.eps = eps
        self._knots = np.empty((0, 2)) if knots is None else knots
        self.segments = np.concatenate([one.segments for one in inputs]) if inputs else np.empty((0, 4, 2))
        self.straight = np.concatenate([one.straight for one in inputs]) if inputs else np.empty(0, bool)
        self.change = np.concatenate([one.change for one in inputs]) if inputs else np.empty(0, np.int32)
        self.input_of = np.repeat(np.arange(len(inputs)), [len(one.segments) for one in inputs])
        self.is_planar = np.array([one.planar for one in inputs], bool)
        self.vertices = Vertices(eps)
        self.vertices.at(self._knots)
        self.source = np.empty(0, np.int64)
        self.t0, self.t1 = np.empty(0), np.empty(0)
        self.ends = np.empty((0, 2), np.int32)
        self.curves = np.empty((0, 4, 2))
        self.leader = np.empty(0, np.int64)  # itself for one that leads, -1 for one that is no more
        self.touched = np.empty(0, bool)
        self._boxes, self._points = np.empty(0, object), np.empty(0, object)  # shapely's, of rows and vertices
        self._goes_on = False  # cutting takes longer than it should
        self._cuts: dict[tuple[int, int], list[float]] = {}  # where segments were led through vertices
        self.settled = False
        self.met = False
        """Whether anything met anything, but where it was joined already."""
        self._begin()
        self._cut_all()

    # Rows

    def _begin(self) -> None:
        """Whole segments between their ends; those that turn much, and those that come back to where they began, in parts."""
        if not len(self.segments):
            return
        start = self._at(self.segments[:, [0, 3]].reshape(-1, 2)).reshape(-1, 2)
        self.met = bool((self.vertices.places[start] != self.segments[:, [0, 3]]).any())
        comes_back = start[:, 0] == start[:, 1]
        tiny = comes_back & (extent(self.segments) < (2 * KNOT if len(self._knots) else LOOP) * self.eps)
        in_parts = (turns_of(self.segments) > MOST_TURN) & ~self.straight | comes_back
        source = np.flatnonzero(~tiny)
        rows = self._add(source, np.zeros(len(source)), np.ones(len(source)), start[source])
        cut = rows[in_parts[source]]
        if len(cut):
            t = np.tile([1 / 3, 2 / 3], len(cut))
            places = points_on(self.curves[np.repeat(cut, 2)], t)
            self._split(np.repeat(cut, 2), t, self._at(places))

    def _at(self, points: NDArray[np.float64]) -> NDArray[np.int32]:
        """The vertices of places : (N, 2)."""
        which = self.vertices.at(points)
        for number, knot in enumerate(self._knots):
            near = np.hypot(*(points - knot).T) < KNOT * self.eps
            which[near] = self.vertices.at(self._knots[number : number + 1])[0]
        return which

    def _add(
        self, source: NDArray[np.int64], t0: NDArray[np.float64], t1: NDArray[np.float64], ends: NDArray[np.int32]
    ) -> NDArray[np.int64]:
        """New rows that lead. Returns their numbers."""
        first = len(self.source)
        curves, touched = self._drawn(source, t0, t1, ends)
        numbers = np.arange(first, first + len(source))
        self.source = np.concatenate([self.source, source])
        self.t0, self.t1 = np.concatenate([self.t0, t0]), np.concatenate([self.t1, t1])
        self.ends = np.concatenate([self.ends, ends])
        self.curves = np.concatenate([self.curves, curves])
        self.leader = np.concatenate([self.leader, numbers])
        self.touched = np.concatenate([self.touched, touched])
        about = KNOT * self.eps if len(self._knots) else self.eps
        self._boxes = np.concatenate([self._boxes, boxes_of(curves, about)])
        return numbers

    def _drawn(
        self, source: NDArray[np.int64], t0: NDArray[np.float64], t1: NDArray[np.float64], ends: NDArray[np.int32]
    ) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
        """The curves of ranges of segments, their ends on vertices; and which of them differ from their segment."""
        whole = (t0 == 0.0) & (t1 == 1.0)
        curves = self.segments[source].copy()
        parts = np.flatnonzero(~whole)
        curves[parts] = stretch_of(curves[parts], t0[parts], t1[parts])
        places = self.vertices.places[ends]
        shift = places - curves[:, [0, 3]]
        touched = ~whole | shift.any(axis=(1, 2))
        line = touched & (self.straight[source] | (extent(curves) < SHORT * self.eps))
        moved = np.flatnonzero(touched)
        curves[moved, 1] += shift[moved, 0]
        curves[moved, 2] += shift[moved, 1]
        curves[moved, 0], curves[moved, 3] = places[moved, 0], places[moved, 1]
        way = (curves[line, 3] - curves[line, 0]) / 3
        curves[line, 1], curves[line, 2] = curves[line, 0] + way, curves[line, 0] + 2 * way
        return curves, touched

    def leaders(self) -> NDArray[np.int64]:
        return np.flatnonzero(self.leader == np.arange(len(self.leader)))

    # Cutting

    def _cut_all(self) -> None:
        new_to_vertices, new_to_curves = self.leaders(), self.leaders()
        seen_vertices = 0
        for turn in range(ROUNDS):
            self._goes_on = turn >= PATIENCE
            fresh, seen_vertices = self._cut_at_vertices(new_to_vertices, seen_vertices)
            new_to_curves = np.concatenate([new_to_curves, fresh])
            self._join_together(new_to_curves)
            new_to_curves = new_to_curves[self.leader[new_to_curves] == new_to_curves]
            new_to_vertices = self._cut_at_crossings(new_to_curves)
            new_to_curves = new_to_vertices
            self.met |= bool(len(fresh) or len(new_to_vertices))
            if not len(new_to_vertices) and seen_vertices == self.vertices.count:
                self.settled = True
                return

    def _cut_at_vertices(self, new: NDArray[np.int64], seen: int) -> tuple[NDArray[np.int64], int]:
        """Cut rows where a vertex lies within eps of them. new: rows to be held against all vertices; the others against
        those from number `seen` on. Returns new rows, and how many vertices have been seen."""
        made: list[NDArray[np.int64]] = []
        for turn in range(ROUNDS):
            self._goes_on |= turn >= PATIENCE
            pairs = self._near_vertices(new, seen)
            seen = self.vertices.count
            found = np.empty((len(pairs), 2))
            reach = KNOT * self.eps if len(self._knots) else self.eps
            project_pairs(self.curves, self.vertices.places, pairs, reach, found)
            near = (found[:, 0] >= 0) & ((found[:, 1] <= self.eps) | (pairs[:, 1] < len(self._knots)))
            new = self._split(pairs[near, 0], found[near, 0], pairs[near, 1].astype(np.int32))
            if not len(new):
                break
            made.append(new)
        return np.concatenate(made) if made else np.empty(0, np.int64), seen

    def _near_vertices(self, new: NDArray[np.int64], seen: int) -> Pairs:
        """Rows and vertices whose boxes are within eps, neither an end of the other. Returns (M, 2), in order."""
        import shapely  # takes its time to load

        fresh = shapely.points(self.vertices.places[len(self._points) :])
        points = self._points = np.concatenate([self._points, fresh])
        rows = self.leaders()
        boxes = self._boxes[rows]
        is_new = np.isin(rows, new)
        which: list[Any] = []
        for some, first in ((is_new, 0), (~is_new, seen)):
            chosen = rows[some]
            if len(chosen) and first < len(points):
                if len(chosen) < len(points) - first:
                    row, point = shapely.STRtree(points[first:]).query(boxes[some])
                else:
                    point, row = shapely.STRtree(boxes[some]).query(points[first:])
                which.append(np.stack([chosen[row], point + first], axis=1))
        pairs = np.concatenate(which) if which else np.empty((0, 2), np.int64)
        pairs = pairs[(self.ends[pairs[:, 0]] != pairs[:, 1:]).all(axis=1)]
        return np.ascontiguousarray(pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))])

    def _cut_at_crossings(self, new: NDArray[np.int64]) -> NDArray[np.int64]:
        """Cut rows where they cross others. new: the rows not yet held against all. Returns new rows."""
        pairs = self._overlapping(new)
        room = len(pairs) // 2 + 64
        while True:
            owner, found = np.empty(room, np.int64), np.empty((room, 2))
            count = cross_pairs(self.curves, self.ends, self.vertices.places, pairs, self.eps, owner, found)
            if count <= room:
                break
            room = count
        owner, found = owner[:count], found[:count]
        one, other = pairs[owner].T
        places = (points_on(self.curves[one], found[:, 0]) + points_on(self.curves[other], found[:, 1])) / 2
        vertex = self._at(places)
        return self._split(np.concatenate([one, other]), found.T.ravel(), np.concatenate([vertex, vertex]))

    def _overlapping(self, new: NDArray[np.int64]) -> Pairs:
        """Rows whose boxes overlap, but for untouched ones of an input that crosses itself nowhere. Returns (M, 2), in order."""
        import shapely

        rows = self.leaders()
        boxes = self._boxes[rows]
        number = np.searchsorted(rows, new)
        one, other = shapely.STRtree(boxes).query(boxes[number])
        one, other = new[one], rows[other]
        is_new = np.zeros(len(self.source), bool)
        is_new[new] = True
        owner = self.input_of[self.source]
        sound = ~self.touched & self.is_planar[owner]
        wanted = ((one < other) | ~is_new[other]) & ~(sound[one] & sound[other] & (owner[one] == owner[other])) & (one != other)
        pairs = np.sort(np.stack([one[wanted], other[wanted]], axis=1), axis=1)
        return np.ascontiguousarray(pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))])

    def _split(self, rows: NDArray[np.int64], t: NDArray[np.float64], vertex: NDArray[np.int32]) -> NDArray[np.int64]:
        """Cut rows at t, and those that follow them, where they are to run through vertices. Returns the new rows that lead."""
        inner = (self.ends[rows] != vertex[:, None]).all(axis=1)
        rows, t, vertex = rows[inner], t[inner], vertex[inner]
        if self._goes_on:
            new = ~self._is_cut_there(rows, t, vertex)
            rows, t, vertex = rows[new], t[new], vertex[new]
        order = np.lexsort((t, vertex, rows))
        rows, t, vertex = rows[order], t[order], vertex[order]
        once = np.append(True, (rows[1:] != rows[:-1]) | (vertex[1:] != vertex[:-1])) if len(rows) else np.zeros(0, bool)
        rows, t, vertex = rows[once], t[once], vertex[once]
        order = np.lexsort((t, rows))
        rows, t, vertex = rows[order], t[order], vertex[order]
        if not len(rows):
            return np.empty(0, np.int64)
        led = self._followers(rows)
        made, parents, ranks = self._children(rows, t, vertex)
        if len(led[0]):
            self._split_followers(led, rows, vertex, made, parents, ranks)
        return made

    def _is_cut_there(self, rows: NDArray[np.int64], t: NDArray[np.float64], vertex: NDArray[np.int32]) -> NDArray[np.bool_]:
        """Whether the segment that a row is part of runs through the vertex already, right beside this place.

        A row whose ends were moved onto two vertices in turn would be cut for ever.
        """
        source, at = self.source[rows], self.t0[rows] + t * (self.t1[rows] - self.t0[rows])
        near = AGAIN * self.eps / np.maximum(extent(self.segments[source]), self.eps)
        known = np.zeros(len(rows), bool)
        for k, (name, place) in enumerate(zip(zip(source.tolist(), vertex.tolist(), strict=True), at.tolist(), strict=True)):
            before = self._cuts.get(name)
            if before is None:
                self._cuts[name] = [place]
            elif len(before) > MOST_AGAIN or any(abs(one - place) < near[k] for one in before):
                known[k] = True
            else:
                before.append(place)
        return known

    def _children(
        self, rows: NDArray[np.int64], t: NDArray[np.float64], vertex: NDArray[np.int32]
    ) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
        """The parts of rows between their cuts, in order. Returns the new rows, for each the row it was, and its place."""
        parents, cuts = np.unique(rows, return_counts=True)
        parent = np.repeat(parents, cuts + 1)
        begin = np.concatenate([[0], np.cumsum(cuts + 1)[:-1]])
        rank = np.arange(len(parent)) - np.repeat(begin, cuts + 1)
        is_first, is_last = rank == 0, rank == np.repeat(cuts, cuts + 1)
        low, high = self.t0[parent].copy(), self.t1[parent].copy()
        ends = self.ends[parent].copy()
        at = self.t0[rows] + t * (self.t1[rows] - self.t0[rows])
        low[~is_first], high[~is_last] = at, at
        ends[~is_first, 0], ends[~is_last, 1] = vertex, vertex
        made = self._add(self.source[parent], low, high, ends)
        self.leader[parents] = -1
        return made, parent, rank

    def _followers(self, rows: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The rows that follow one of these, and whom."""
        is_cut = np.zeros(len(self.source) + 1, bool)
        is_cut[rows] = True
        follows = np.flatnonzero((self.leader != np.arange(len(self.leader))) & is_cut[self.leader])
        return follows, self.leader[follows]

    def _split_followers(
        self, led: tuple[NDArray[np.int64], NDArray[np.int64]], rows: NDArray[np.int64], vertex: NDArray[np.int32],
        made: NDArray[np.int64], parents: NDArray[np.int64], ranks: NDArray[np.int64],
    ) -> None:
        """Cut rows as those they follow have been cut, where they come nearest to the same vertices."""
        follower, leader = led
        begin = np.searchsorted(rows, leader)
        cuts = np.searchsorted(rows, leader, side="right") - begin
        mine = np.repeat(np.arange(len(follower)), cuts)
        at = np.repeat(begin, cuts) + np.arange(len(mine)) - np.repeat(np.cumsum(cuts) - cuts, cuts)
        own_rows, own_vertex = follower[mine], vertex[at]
        found = np.empty((len(mine), 2))
        reach = 4 * TOGETHER * self.eps
        project_pairs(self.curves, self.vertices.places, np.stack([own_rows, own_vertex.astype(np.int64)], axis=1), reach, found)
        forward = self.ends[own_rows, 0] == self.ends[leader[mine], 0]
        rank = at - np.repeat(begin, cuts)
        rank = np.where(forward, rank, cuts[mine] - 1 - rank)
        t = np.where(found[:, 0] >= 0, found[:, 0], (rank + 1) / (cuts[mine] + 1))
        order = np.lexsort((rank, own_rows))
        own_rows, own_vertex, t = own_rows[order], own_vertex[order], t[order]
        t = _rising(own_rows, t)
        children, parent, place = self._children(own_rows, t, own_vertex)
        lead_of = dict(zip(follower.tolist(), leader.tolist(), strict=True))
        lead = np.array([lead_of[row] for row in parent.tolist()], np.int64)
        same_way = self.ends[parent, 0] == self.ends[lead, 0]
        count = np.bincount(parent, minlength=len(self.source))[parent]
        place = np.where(same_way, place, count - 1 - place)
        first_child = np.full(len(self.source), -1, np.int64)
        first_child[parents[ranks == 0]] = made[ranks == 0]
        self.leader[children] = first_child[lead] + place

    # Joining

    def _join_together(self, new: NDArray[np.int64]) -> None:
        """Let rows with the same ends that run together follow the first of them."""
        rows = self.leaders()
        ends = np.sort(self.ends[rows], axis=1).astype(np.int64)
        key = ends[:, 0] * max(1, self.vertices.count) + ends[:, 1]
        order = np.lexsort((rows, key))
        rows, key = rows[order], key[order]
        is_new = np.isin(rows, new)
        while len(rows):
            _, group, count = np.unique(key, return_inverse=True, return_counts=True)
            fresh = np.bincount(group, weights=is_new) > 0
            keep = (count > 1)[group] & fresh[group]
            rows, key, is_new = rows[keep], key[keep], is_new[keep]
            if not len(rows):
                return
            is_first = np.append(True, key[1:] != key[:-1])
            lead = rows[np.flatnonzero(is_first)[np.cumsum(is_first) - 1]]
            pairs = np.ascontiguousarray(np.stack([lead, rows], axis=1)[~is_first])
            together = np.empty(len(pairs), bool)
            run_together(self.curves, pairs, TOGETHER * self.eps, together)
            leads = np.arange(len(self.source))
            leads[pairs[together, 1]] = pairs[together, 0]
            live = self.leader >= 0
            self.leader[live] = leads[self.leader[live]]
            rest = ~is_first
            rest[rest] = ~together
            rows, key, is_new = rows[rest], key[rest], is_new[rest]


def boxes_of(curves: NDArray[np.float64], about: float) -> Any:
    """shapely's boxes about cubics : (N, 4, 2). Returns (N,) object."""
    import shapely

    low = np.minimum(np.minimum(curves[:, 0], curves[:, 1]), np.minimum(curves[:, 2], curves[:, 3])) - about
    high = np.maximum(np.maximum(curves[:, 0], curves[:, 1]), np.maximum(curves[:, 2], curves[:, 3])) + about
    return shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])


def extent(curves: NDArray[np.float64]) -> NDArray[np.float64]:
    """The longer side of the box about each cubic's places : (N, 4, 2). Returns (N,)."""
    low = np.minimum(np.minimum(curves[:, 0], curves[:, 1]), np.minimum(curves[:, 2], curves[:, 3]))
    high = np.maximum(np.maximum(curves[:, 0], curves[:, 1]), np.maximum(curves[:, 2], curves[:, 3]))
    return np.asarray((high - low).max(axis=1)) if len(curves) else np.empty(0)


def stretch_of(curves: NDArray[np.float64], t0: NDArray[np.float64], t1: NDArray[np.float64]) -> NDArray[np.float64]:
    """The ranges t0 to t1 : (N,) of cubics : (N, 4, 2), by their blossoms (L. Ramshaw)."""
    rows = []
    for a, b, c in ((t0, t0, t0), (t0, t0, t1), (t0, t1, t1), (t1, t1, t1)):
        level = curves
        for t in (a, b, c):
            level = level[:, :-1] + (level[:, 1:] - level[:, :-1]) * t[:, None, None]
        rows.append(level[:, 0])
    result = np.stack(rows, axis=1)
    result[t0 == 0, 0], result[t1 == 1, 3] = curves[t0 == 0, 0], curves[t1 == 1, 3]
    return result


def points_on(curves: NDArray[np.float64], t: NDArray[np.float64]) -> NDArray[np.float64]:
    """The place of each cubic (N, 4, 2) at its own t : (N,). Returns (N, 2)."""
    o, t = (1 - t)[:, None], t[:, None]
    return o**3 * curves[:, 0] + 3 * o**2 * t * curves[:, 1] + 3 * o * t**2 * curves[:, 2] + t**3 * curves[:, 3]


def turns_of(segments: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how much the control polygons of segments (S, 4, 2) turn in all, radians."""
    legs = np.diff(segments, axis=1)
    size = np.hypot(legs[..., 0], legs[..., 1])
    legs = np.where(size[..., None] > 1e-9, legs, np.nan)
    # A leg without length turns as the next one does.
    legs[:, 0] = np.where(np.isnan(legs[:, 0]), legs[:, 1], legs[:, 0])
    legs[:, 2] = np.where(np.isnan(legs[:, 2]), legs[:, 1], legs[:, 2])
    legs[:, 1] = np.where(np.isnan(legs[:, 1]), legs[:, 0], legs[:, 1])
    angle = np.arctan2(legs[..., 1], legs[..., 0])
    turn = np.abs((np.diff(angle, axis=1) + np.pi) % (2 * np.pi) - np.pi)
    return np.asarray(np.nan_to_num(turn).sum(axis=1))


def _rising(rows: NDArray[np.int64], t: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values that do not fall within one row; rows come in order."""
    begin = np.append(True, rows[1:] != rows[:-1])
    group = np.cumsum(begin) - 1
    return np.asarray(np.maximum.accumulate(t + 2.0 * group) - 2.0 * group).clip(0.0, 1.0)
