"""Curves laid over each other: one plane net whose faces know in which face of each input they lie.

Curves stay curves. They are cut where they meet (`network.py`), and what runs together becomes one edge. Each input says what
changes across its segments: for a planar map the number of the face, for rings the winding number. Along an edge these
changes add up, so the labels of all faces follow from one of them, and every other edge proves them.

Where labels contradict each other, a crossing was missed; then all is done again, with no input taken at its word, and with
other distances within which things are one. So whatever comes in, a sound net comes out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.geom.bezier import area_shares
from bisectum.core.geom.overlay.crossed import crossings_left
from bisectum.core.geom.overlay.network import EPS_MM, KNOT, SHORT, Curves, Network, extent
from bisectum.core.geom.overlay.rounds import hit_to_the_left, leaving_angles, leftmost, rounds, spread
from bisectum.core.raster.forest import groups_of

TRIES = (1.0, 0.3, 0.1, 3.0, 0.03, 10.0)
CIRCLE_MM = 0.05  # the circle on which edges that leave a vertex are told apart; smaller where edges are short
CIRCLES = ((0.3, 1.5), (0.3, 0.0), (0.9, 0.0), (0.1, 0.0), (0.3, 2.5))  # share of the shortest edge; at least so many eps
KNOTTED, MOST_KNOTS = 4, 12  # tries, each with more knots where lines still cross; so many at once
MOST_TRIED = 200  # vertices at which another circle is tried
ASIDE = 0.0618  # of eps: rays run this far beside vertices, so that they meet none


@dataclass(frozen=True, slots=True)
class Overlay:
    """curves : (E, 4, 2) float64, mm; straight : (E,) bool; ends : (E, 2) int32 into vertices : (V, 2).

    left, right : (E,) int32, the faces beside each edge as it is walked, y down; face 0 is the one outside. labels :
    (F, I) int32, the face of each input, or its winding number, that a face lies in. around : (V + 1,), spokes : (2 E,) int32:
    the half-edges that leave each vertex, clockwise as seen. segments, is_straight: of all inputs, one after the other; member
    ranges: edge `member_of` runs along segment `member` from t0 to t1, forward or not; the first of an edge is its own.
    """

    curves: NDArray[np.float64]
    straight: NDArray[np.bool_]
    ends: NDArray[np.int32]
    vertices: NDArray[np.float64]
    left: NDArray[np.int32]
    right: NDArray[np.int32]
    labels: NDArray[np.int32]
    around: NDArray[np.int64]
    spokes: NDArray[np.int32]
    segments: NDArray[np.float64]
    is_straight: NDArray[np.bool_]
    member_of: NDArray[np.int64]
    member: NDArray[np.int64]
    t0: NDArray[np.float64]
    t1: NDArray[np.float64]
    forward: NDArray[np.bool_]
    eps: float

    @property
    def face_count(self) -> int:
        return len(self.labels)

    def areas(self) -> NDArray[np.float64]:
        """The area of each face, mm²; that of face 0 is the area of all others, below zero. (F,)."""
        shares = area_shares(self.curves)
        result = np.zeros(self.face_count)
        np.add.at(result, self.right, shares)
        np.subtract.at(result, self.left, shares)
        return result

    def check(self) -> None:
        """Raises: BrokenStructure where an edge does not end on its vertices, or the labels beside it do not differ."""
        loose = np.flatnonzero((self.curves[:, [0, 3]] != self.vertices[self.ends]).any(axis=(1, 2)))
        if len(loose):
            x, y = map(float, self.curves[loose[0], 0])
            raise BrokenStructure(f"A line does not end on its vertex at {x:.3f}, {y:.3f} mm.", x=x, y=y)
        same = np.flatnonzero((self.labels[self.left] == self.labels[self.right]).all(axis=1))
        if len(same):
            x, y = map(float, self.curves[same[0], 0])
            raise BrokenStructure(f"A line parts nothing at {x:.3f}, {y:.3f} mm.", x=x, y=y)


def overlay(inputs: Sequence[Curves], eps: float = EPS_MM) -> Overlay:
    """All inputs laid over each other. eps: mm within which places are one, and lines that run together.

    Labels are 0 outside. Raises: BrokenStructure if no distance gives a sound net, which no input is known to do.
    """
    doubted = [replace(one, planar=False) for one in inputs]
    first = [(list(inputs), 1.0)] if any(one.planar for one in inputs) else []
    for curves, factor in (*first, *((doubted, factor) for factor in TRIES)):
        found = _untied(curves, eps * factor)
        if found is not None:
            return found
    raise BrokenStructure("These lines could not be laid over each other.")


def _untied(inputs: list[Curves], eps: float) -> Overlay | None:
    """All inputs laid over each other, and where that leaves crossings all that lies there made one vertex; None where even that
    does not do."""
    knots = np.empty((0, 2))
    for _ in range(KNOTTED):
        network = Network(inputs, eps, knots)
        found = _of_network(network, inputs, eps)
        if found is not None or not network.settled:
            return found
        edges = network.leaders()
        left = crossings_left(network.curves[edges], network.ends[edges], network.vertices.places, eps)
        if not 0 < len(left) <= MOST_KNOTS:
            return None  # all lies too close together for this eps
        knots = _apart(np.concatenate([knots, left]), KNOT * eps)
    return None


def _apart(places: NDArray[np.float64], distance: float) -> NDArray[np.float64]:
    """Of places : (N, 2) the first ones, none nearer than a distance to another."""
    kept: list[NDArray[np.float64]] = []
    for place in places:
        if all(np.hypot(*(place - other)) >= distance for other in kept):
            kept.append(place)
    return np.array(kept)


def _of_network(network: Network, inputs: list[Curves], eps: float) -> Overlay | None:
    """One try; None where the labels contradict each other."""
    if not network.settled:
        return None
    edges, change, members = _edges(network, len(inputs))
    ends, curves = network.ends[edges], network.curves[edges]
    order = _planar_order(curves, ends, network.vertices.places, eps)
    faces = None if order is None else _faces(curves, ends, network.vertices.places, *order, change, eps)
    if order is None or faces is None:
        return None
    (around, spokes, _, _), (right, labels) = order, faces
    source = network.source[edges]
    short = extent(curves) < SHORT * eps
    member_of, rows, forward = members
    return Overlay(
        curves, network.straight[source] | (network.touched[edges] & short), ends, network.vertices.places.copy(),
        right[1::2].astype(np.int32), right[::2].astype(np.int32), labels, around, spokes, network.segments, network.straight,
        member_of, network.source[rows], network.t0[rows], network.t1[rows], forward, eps)


def _edges(
    network: Network, inputs: int
) -> tuple[NDArray[np.int64], NDArray[np.int32], tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.bool_]]]:
    """The rows that lead, but for those at which nothing changes. Returns them, what changes : (E, I), and the rows of each
    edge: (its edge, the row, whether it runs the same way), the leading one first."""
    leaders = network.leaders()
    rows = np.flatnonzero(network.leader >= 0)
    edge = np.searchsorted(leaders, network.leader[rows])
    forward = network.ends[rows, 0] == network.ends[network.leader[rows], 0]
    source = network.source[rows]
    change = np.zeros((len(leaders), max(1, inputs)), np.int32)
    np.add.at(change, (edge, network.input_of[source]), np.where(forward, 1, -1) * network.change[source])
    lasting = np.asarray(change.any(axis=1))
    number = np.cumsum(lasting) - 1
    keep = lasting[edge]
    rows, edge, forward = rows[keep], number[edge[keep]], forward[keep]
    order = np.lexsort((rows, network.leader[rows] != rows, edge))
    return leaders[lasting], change[lasting], (edge[order], rows[order], forward[order])


@dataclass(frozen=True, slots=True)
class _Parts:
    """What hangs together in the net. of_edge : (E,) the part of each; rounds: how many each must have, by Euler."""

    of_edge: NDArray[np.int64]
    rounds: NDArray[np.int64]

    @classmethod
    def of(cls, ends: NDArray[np.int32], vertices: int) -> _Parts:
        group = groups_of(np.ascontiguousarray(ends), vertices)[ends[:, 0]]
        names, of_edge = np.unique(group, return_inverse=True)
        of_vertex = np.zeros(vertices, np.int64)
        of_vertex[ends.ravel()] = np.repeat(of_edge, 2)
        used = np.bincount(of_vertex[np.unique(ends)], minlength=len(names))
        return cls(of_edge, np.bincount(of_edge, minlength=len(names)) - used + 2)


Order = tuple[NDArray[np.int64], NDArray[np.int32], NDArray[np.int64], _Parts]
"""(V + 1,) and (2 E,), the half-edges that leave each vertex, clockwise; (2 E,) the round of each; and the parts of the net."""


def _planar_order(
    curves: NDArray[np.float64], ends: NDArray[np.int32], vertices: NDArray[np.float64], eps: float
) -> Order | None:
    """The half-edges about each vertex in an order that fits a plane; None where none is found.

    Edges that leave a vertex are told apart on a small circle about it. Where edges are hardly longer than eps that may deceive:
    then the vertices about which other circles say otherwise are tried, one by one, and what gives more rounds is kept, as
    an order that fits a plane has the most (by Euler's formula, genus 0).
    """
    parts = _Parts.of(ends, len(vertices))
    wanted = int(parts.rounds.sum())
    around, spokes = _spokes(curves, ends, vertices, eps, *CIRCLES[0])
    count, number = _rounds(ends, around, spokes)
    for circle in CIRCLES[1:]:
        if count >= wanted:
            break
        other = _spokes(curves, ends, vertices, eps, *circle)[1]
        differ = np.unique(np.searchsorted(around, np.flatnonzero(other != spokes), side="right") - 1)
        for vertex in differ[:MOST_TRIED].tolist():
            own = slice(around[vertex], around[vertex + 1])
            tried = spokes.copy()
            tried[own] = other[own]
            more, its = _rounds(ends, around, tried)
            if more > count:
                count, number, spokes = more, its, tried
    of_round = np.zeros(count, np.int64)
    of_round[number] = np.repeat(parts.of_edge, 2)
    fits = (np.bincount(of_round, minlength=len(parts.rounds)) == parts.rounds).all()
    return (around, spokes, number, parts) if fits else None


def _rounds(
    ends: NDArray[np.int32], around: NDArray[np.int64], spokes: NDArray[np.int32]
) -> tuple[int, NDArray[np.int64]]:
    """How many rounds the half-edges form, and the one of each : (2 E,)."""
    number = np.full(len(spokes), -1, np.int64)
    return rounds(following(ends, around, spokes), np.arange(len(spokes)), number), number


def _spokes(
    curves: NDArray[np.float64], ends: NDArray[np.int32], vertices: NDArray[np.float64], eps: float, share: float, least: float,
) -> tuple[NDArray[np.int64], NDArray[np.int32]]:
    """The half-edges that leave each vertex, in clockwise order. Returns (V + 1,) and (2 E,).

    share, least: the circle's radius, of the shortest edge there, but no less than so many eps.
    """
    chord = np.hypot(*(curves[:, 3] - curves[:, 0]).T)
    shortest = np.full(len(vertices), np.inf)
    for k in (0, 1):
        np.minimum.at(shortest, ends[:, k], chord)
    radius = np.maximum(np.minimum(CIRCLE_MM, share * shortest), least * eps)
    angles = np.empty(2 * len(curves))
    leaving_angles(np.ascontiguousarray(curves), np.ascontiguousarray(ends), radius, angles)
    origin = ends.ravel()
    spokes = np.lexsort((np.arange(len(angles)), angles, origin)).astype(np.int32)
    return np.searchsorted(origin[spokes], np.arange(len(vertices) + 1)), spokes


def following(ends: NDArray[np.int32], around: NDArray[np.int64], spokes: NDArray[np.int32]) -> NDArray[np.int64]:
    """For each half-edge the one that goes on about the face at its right: the next to turn right where it arrives. (2 E,)."""
    place = np.empty(len(spokes), np.int64)
    place[spokes] = np.arange(len(spokes))
    origin = ends.ravel()
    back = np.arange(len(spokes)) ^ 1
    vertex = origin[back]
    before = place[back] - 1
    before = np.where(before < around[vertex], around[vertex + 1] - 1, before)
    return spokes[before].astype(np.int64)


def _faces(
    curves: NDArray[np.float64], ends: NDArray[np.int32], vertices: NDArray[np.float64], around: NDArray[np.int64],
    spokes: NDArray[np.int32], number: NDArray[np.int64], parts: _Parts, change: NDArray[np.int32], eps: float,
) -> tuple[NDArray[np.int64], NDArray[np.int32]] | None:
    """The face at the right of each half-edge : (2 E,), and the labels of all faces : (F, I). None where labels disagree."""
    count, part_of = int(parts.rounds.sum()), parts.of_edge
    part_of_round = np.empty(count, np.int64)
    part_of_round[number] = np.repeat(part_of, 2)
    areas = np.zeros(count)
    shares = area_shares(curves)
    np.add.at(areas, number, np.stack([shares, -shares], axis=1).ravel())
    order = np.lexsort((areas, part_of_round))  # seen from outside a part has the area of all its faces, below zero
    outer = order[np.searchsorted(part_of_round[order], np.arange(len(parts.rounds)))]
    tips = np.empty((len(curves), 2))
    leftmost(np.ascontiguousarray(curves), tips)
    order = np.lexsort((tips[:, 1], tips[:, 0], part_of))
    places = tips[order[np.searchsorted(part_of[order], np.arange(len(parts.rounds)))]]
    hits = edges_to_the_left(curves, part_of.astype(np.int32), places - [0.0, ASIDE * eps])
    face = np.full(count, -1, np.int64)
    inner = np.ones(count, bool)
    inner[outer] = False
    face[inner] = 1 + np.arange(inner.sum())
    beside = number[np.where(hits[:, 1] == 1, 2 * hits[:, 0] + 1, 2 * hits[:, 0])] if len(hits) else np.empty(0, np.int64)
    container = np.where(hits[:, 0] >= 0, beside, -1)
    for start in outer.tolist():
        way = []
        at = start
        while face[at] < 0:  # the outer round of a part lies in a face of another one, or beyond all
            way.append(at)
            at = int(container[part_of_round[at]])
            if at < 0 or len(way) > len(hits):
                break
        face[way] = 0 if at < 0 else face[at]
    right = face[number]
    first = np.concatenate([[0], np.cumsum(np.bincount(right, minlength=inner.sum() + 1))])
    labels, known = np.zeros((len(first) - 1, change.shape[1]), np.int32), np.zeros(len(first) - 1, bool)
    known[0] = True
    wrong = spread(first, np.argsort(right, kind="stable"), right, change, np.zeros(1, np.int64), labels, known,
                   np.empty(len(first) + 1, np.int64))
    return None if wrong or not known.all() else (right, labels)


def edges_to_the_left(curves: NDArray[np.float64], part_of: NDArray[np.int32], places: NDArray[np.float64]) -> NDArray[np.int64]:
    """What a ray to the left from a place of each part meets first, see hit_to_the_left. Returns (P, 2)."""
    hits = np.empty((len(places), 2), np.int64)
    strips = max(1, min(len(places), 4096))
    room = 4 * len(curves) + strips
    while room:
        members = np.empty(room, np.int32)
        room = hit_to_the_left(np.ascontiguousarray(curves), part_of, places, np.arange(len(places), dtype=np.int32), hits,
                               np.zeros(strips + 1, np.int64), members)
    return hits
