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
from bisectum.core.geom.overlay.network import EPS_MM, SHORT, Curves, Network, extent
from bisectum.core.geom.overlay.rounds import hit_to_the_left, leaving_angles, leftmost, rounds, spread
from bisectum.core.raster.forest import groups_of

TRIES = (1.0, 3.0, 0.3, 10.0, 30.0)
CIRCLE_MM = 0.05  # the circle on which edges that leave a vertex are told apart; smaller where edges are short
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
    trusted = list(inputs)
    doubted = [replace(one, planar=False) for one in inputs]
    for curves, factor in ((trusted, 1.0), *((doubted, factor) for factor in TRIES)):
        found = _laid_over(curves, eps * factor)
        if found is not None:
            return found
    raise BrokenStructure("These lines could not be laid over each other.")


def _laid_over(inputs: list[Curves], eps: float) -> Overlay | None:
    """One try; None where the labels contradict each other."""
    network = Network(inputs, eps)
    if not network.settled:
        return None
    edges, change, members = _edges(network, len(inputs))
    ends, curves = network.ends[edges], network.curves[edges]
    around, spokes = _spokes(curves, ends, network.vertices.places, eps)
    faces = _faces(curves, ends, network.vertices.places, around, spokes, change, eps)
    if faces is None:
        return None
    right, labels = faces
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


def _spokes(
    curves: NDArray[np.float64], ends: NDArray[np.int32], vertices: NDArray[np.float64], eps: float
) -> tuple[NDArray[np.int64], NDArray[np.int32]]:
    """The half-edges that leave each vertex, in clockwise order. Returns (V + 1,) and (2 E,)."""
    chord = np.hypot(*(curves[:, 3] - curves[:, 0]).T)
    shortest = np.full(len(vertices), np.inf)
    for k in (0, 1):
        np.minimum.at(shortest, ends[:, k], chord)
    radius = np.maximum(np.minimum(CIRCLE_MM, 0.3 * shortest), 1.5 * eps)
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
    spokes: NDArray[np.int32], change: NDArray[np.int32], eps: float,
) -> tuple[NDArray[np.int64], NDArray[np.int32]] | None:
    """The face at the right of each half-edge : (2 E,), and the labels of all faces : (F, I). None where labels disagree."""
    halves = 2 * len(curves)
    number = np.full(halves, -1, np.int64)
    count = rounds(following(ends, around, spokes), np.arange(halves), number)
    group = groups_of(np.ascontiguousarray(ends), len(vertices))[ends[:, 0]]
    parts, part_of = np.unique(group, return_inverse=True)
    edges_of, vertices_of = np.bincount(part_of, minlength=len(parts)), np.zeros(len(parts), np.int64)
    used = np.unique(ends)
    part_of_vertex = np.zeros(len(vertices), np.int64)
    part_of_vertex[ends.ravel()] = np.repeat(part_of, 2)
    np.add.at(vertices_of, part_of_vertex[used], 1)
    part_of_round = np.empty(count, np.int64)
    part_of_round[number] = np.repeat(part_of, 2)
    if (np.bincount(part_of_round, minlength=len(parts)) != edges_of - vertices_of + 2).any():
        return None  # by Euler: the order about some vertex fits no plane
    areas = np.zeros(count)
    shares = area_shares(curves)
    np.add.at(areas, number, np.stack([shares, -shares], axis=1).ravel())
    order = np.lexsort((areas, part_of_round))  # seen from outside a part has the area of all its faces, below zero
    outer = order[np.searchsorted(part_of_round[order], np.arange(len(parts)))]
    tips = np.empty((len(curves), 2))
    leftmost(np.ascontiguousarray(curves), tips)
    order = np.lexsort((tips[:, 1], tips[:, 0], part_of))
    places = tips[order[np.searchsorted(part_of[order], np.arange(len(parts)))]]
    hits = _hits(curves, part_of.astype(np.int32), places - [0.0, ASIDE * eps])
    face = np.full(count, -1, np.int64)
    inner = np.ones(count, bool)
    inner[outer] = False
    face[inner] = 1 + np.arange(inner.sum())
    beside = number[np.where(hits[:, 1] == 1, 2 * hits[:, 0] + 1, 2 * hits[:, 0])] if len(parts) else np.empty(0, np.int64)
    container = np.where(hits[:, 0] >= 0, beside, -1)
    for start in outer.tolist():
        way = []
        at = start
        while face[at] < 0:  # the outer round of a part lies in a face of another one, or beyond all
            way.append(at)
            at = int(container[part_of_round[at]])
            if at < 0 or len(way) > len(parts):
                break
        face[way] = 0 if at < 0 else face[at]
    right = face[number]
    first = np.concatenate([[0], np.cumsum(np.bincount(right, minlength=inner.sum() + 1))])
    labels, known = np.zeros((len(first) - 1, change.shape[1]), np.int32), np.zeros(len(first) - 1, bool)
    known[0] = True
    wrong = spread(first, np.argsort(right, kind="stable"), right, change, np.zeros(1, np.int64), labels, known,
                   np.empty(len(first) + 1, np.int64))
    return None if wrong or not known.all() else (right, labels)


def _hits(curves: NDArray[np.float64], part_of: NDArray[np.int32], places: NDArray[np.float64]) -> NDArray[np.int64]:
    """What a ray to the left from a place of each part meets first, see hit_to_the_left. Returns (P, 2)."""
    hits = np.empty((len(places), 2), np.int64)
    strips = max(1, min(len(places), 4096))
    room = 4 * len(curves) + strips
    while room:
        members = np.empty(room, np.int32)
        room = hit_to_the_left(np.ascontiguousarray(curves), part_of, places, np.arange(len(places), dtype=np.int32), hits,
                               np.zeros(strips + 1, np.int64), members)
    return hits
