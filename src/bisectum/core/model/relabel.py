"""From an overlay to a planar map: each face gets a label, and lines between equal labels go.

This is how everything is put together. Welding is nothing else: equal labels side by side melt.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import lengths
from bisectum.core.geom.overlay.network import stretch_of
from bisectum.core.geom.overlay.overlay import Overlay
from bisectum.core.geom.overlay.runs import join_runs, trace_chains
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.raster.forest import groups_of
from bisectum.core.units import RESOLUTION_MM


def relabel(over: Overlay, values: NDArray[Any], **of_map: Any) -> PlanarMap:
    """The planar map of an overlay whose faces have these labels.

    values : (F,), 0 for what is not cut; that of the open page, face 0, is 0. of_map: the fields of PlanarMap that are no lines
    and no faces: palette, mm_per_px, width, height, deviation.
    """
    values = np.asarray(values)
    lasting = np.flatnonzero(values[over.left] != values[over.right])
    face_of, labels = _faces(over, values)
    ends = np.ascontiguousarray(over.ends[lasting])
    around, spokes = _spokes(over, lasting)
    halves, first = _chains(ends, around, spokes)
    is_round = np.diff(around)[ends.ravel()[halves[first[:-1]]]] == 2
    segments, straight, chain_first = _drawn(over, lasting, halves, first, is_round)
    edge, back = lasting[halves[first[:-1]] >> 1], halves[first[:-1]] & 1
    left, right = face_of[over.left[edge]], face_of[over.right[edge]]
    sides = np.where((back == 1)[:, None], np.stack([right, left], axis=1), np.stack([left, right], axis=1))
    starts, stops = ends.ravel()[halves[first[:-1]]], ends.ravel()[halves[first[1:] - 1] ^ 1]
    junctions = np.unique(np.concatenate([starts[~is_round], stops[~is_round]]))
    chain_ends = np.where(is_round[:, None], -1, np.searchsorted(junctions, np.stack([starts, stops], axis=1)))
    half_of = np.full(2 * len(lasting), -1, np.int64)  # of the first half-edge of a chain, either way, the chain's
    chains = np.arange(len(first) - 1)
    half_of[halves[first[:-1]]], half_of[halves[first[1:] - 1] ^ 1] = 2 * chains, 2 * chains + 1
    own = [half_of[spokes[around[j] : around[j + 1]]] for j in junctions.tolist()]
    return PlanarMap(
        segments=frozen(segments), straight=frozen(straight), first=frozen(chain_first), sides=frozen(sides.astype(np.int32)),
        ends=frozen(chain_ends.astype(np.int32)), junctions=frozen(over.vertices[junctions]),
        spoke_first=frozen(np.concatenate([[0], np.cumsum([len(one) for one in own])]).astype(np.int64)),
        spokes=frozen((np.concatenate(own) if own else np.empty(0)).astype(np.int32)), face_labels=frozen(labels), **of_map)


def _faces(over: Overlay, values: NDArray[Any]) -> tuple[NDArray[np.int64], NDArray[np.uint16]]:
    """The face of the new map that each face of the overlay becomes part of, -1 for the open page; and the labels of those."""
    same = values[over.left] == values[over.right]
    group = groups_of(np.stack([over.left, over.right], axis=1)[same], over.face_count)
    groups = np.unique(group[group != group[0]])
    face = np.searchsorted(groups, group)
    return np.where(group == group[0], -1, face), values[groups].astype(np.uint16)


def _spokes(over: Overlay, lasting: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int32]]:
    """What is left of the half-edges about each vertex, edges numbered anew."""
    number = np.full(len(over.curves), -1, np.int64)
    number[lasting] = np.arange(len(lasting))
    stays = number[over.spokes >> 1] >= 0
    counts = np.concatenate([[0], np.cumsum(stays)])
    spokes = 2 * number[over.spokes >> 1] + (over.spokes & 1)
    return counts[over.around], spokes[stays].astype(np.int32)


def _chains(
    ends: NDArray[np.int32], around: NDArray[np.int64], spokes: NDArray[np.int32]
) -> tuple[NDArray[np.int32], NDArray[np.int64]]:
    """The half-edges of all chains, one after the other, and where each begins."""
    count = len(ends)
    halves, first = np.empty(count, np.int32), np.zeros(count + 1, np.int64)
    chains = trace_chains(ends, around, spokes, np.arange(count), np.zeros(count, bool), halves, first)
    return halves, first[: chains + 1]


def _drawn(
    over: Overlay, lasting: NDArray[np.int64], halves: NDArray[np.int32], first: NDArray[np.int64], is_round: NDArray[np.bool_]
) -> tuple[NDArray[np.float64], NDArray[np.bool_], NDArray[np.int64]]:
    """The segments of all chains, as few as there can be: (S, 4, 2), (S,) straight, and where each chain begins in them."""
    number = np.full(len(over.curves), -1, np.int64)
    number[lasting] = np.arange(len(lasting))
    keep = number[over.member_of] >= 0
    member_first = np.searchsorted(number[over.member_of[keep]], np.arange(len(lasting) + 1))
    member, t0, t1, forward = over.member[keep], over.t0[keep], over.t1[keep], over.forward[keep]
    room = len(halves)
    runs, count, source = np.empty(room, np.int64), np.empty(room, np.int32), np.empty(room, np.int32)
    ranges, chain_first = np.empty((room, 2)), np.zeros(len(first), np.int64)
    used = join_runs(halves, first, is_round, member_first, member, t0, t1, forward, runs, count, source, ranges, chain_first)
    runs, count, source, ranges = runs[:used], count[:used], source[:used], ranges[:used]
    begin, end = halves[runs], halves[runs + count - 1]
    segments = over.curves[lasting[begin >> 1]].copy()
    back = begin & 1 == 1
    segments[back] = segments[back, ::-1]
    straight = over.straight[lasting[begin >> 1]].copy()
    several = np.flatnonzero(count > 1)
    segments[several] = _stretches(over, source[several], ranges[several], over.vertices[over.ends[lasting]].reshape(-1, 2),
                                   begin[several], end[several])
    straight[several] = over.is_straight[source[several]]
    return segments, straight, chain_first


def _stretches(
    over: Overlay, source: NDArray[np.int32], ranges: NDArray[np.float64], origins: NDArray[np.float64],
    begin: NDArray[np.int32], end: NDArray[np.int32],
) -> NDArray[np.float64]:
    """Stretches of segments as they are walked, from the vertex where `begin` leaves to the one where `end` arrives."""
    low, high = ranges.min(axis=1), ranges.max(axis=1)
    whole = (low == 0) & (high == 1)
    result = np.where(whole[:, None, None], over.segments[source], stretch_of(over.segments[source], low, high))
    back = ranges[:, 0] > ranges[:, 1]
    result[back] = result[back, ::-1]
    wanted = np.stack([origins[begin], origins[end ^ 1]], axis=1)
    shift = wanted - result[:, [0, 3]]
    moved = shift.any(axis=(1, 2))
    result[moved, 1] += shift[moved, 0]
    result[moved, 2] += shift[moved, 1]
    result[:, 0], result[:, 3] = wanted[:, 0], wanted[:, 1]
    return result


def faces_of(over: Overlay, number: int, planar: PlanarMap) -> NDArray[np.int64]:
    """The face of the planar map that was input `number` in which each face of an overlay lies, -1 beyond it. (F,).

    Where lines of that map crossed each other, the area between them lies in no face of it; that is -1, too.
    """
    face = over.labels[:, number].astype(np.int64) - 1
    return np.where((face >= 0) & (face < len(planar.face_labels)), face, -1)


def labels_from(over: Overlay, number: int, planar: PlanarMap) -> NDArray[np.int64]:
    """The label that each face of an overlay has in the planar map that was its input `number`; 0 beyond it. (F,)."""
    return np.append(planar.face_labels, 0).astype(np.int64)[faces_of(over, number, planar)]


def without_slivers(over: Overlay, values: NDArray[Any], speck: float = 0.0) -> NDArray[np.int64]:
    """Labels of faces so that none is thinner than a file can say, nor smaller than `speck` (mm²).

    Different drawings of one curve lie a little apart, and leave such faces.
    """
    size = lengths(over.curves)
    border = np.zeros(over.face_count)
    np.add.at(border, over.left, size)
    np.add.at(border, over.right, size)
    return given_away(over, values, over.areas() < np.maximum(RESOLUTION_MM / 2 * border, speck))


def given_away(over: Overlay, values: NDArray[Any], gone: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Labels of faces, those that are to go given to the neighbour they have most border with, the smallest first.

    gone : (F,) bool. One that stays is taken before one that goes itself. Face 0, the open page, stays.
    """
    values = np.asarray(values, np.int64).copy()
    size, areas = lengths(over.curves), over.areas()
    going = np.flatnonzero(gone & (np.arange(over.face_count) > 0))
    for face in going[np.argsort(areas[going], kind="stable")].tolist():
        at = np.flatnonzero((over.left == face) | (over.right == face))
        other = np.where(over.left[at] == face, over.right[at], over.left[at])
        faces, which = np.unique(other, return_inverse=True)
        weight = np.bincount(which, weights=size[at]) * np.where(gone[faces], 1e-6, 1.0)
        values[face] = values[faces[int(np.argmax(weight))]]
    return values
