"""The largest discs that touch an outline from one side: how wide a shape, or a gap, is at each place of its outline.

A disc that touches a place p with the normal n there, and goes through x, has the radius |x - p|² / (2 n·(x - p)). The
smallest of these over all of the outline is the one disc with nothing inside: a point of the medial axis (H. Blum, "A
Transformation for Extracting New Descriptors of Shape", 1967; by shrinking discs: J. Ma, S. W. Bae, S. Choi, "3D Medial Axis
Point Approximation Using Nearest Neighbors and the Normal Field", 2012). Here x runs over whole chords, not only over
samples, so widths are exact between straight sides. """

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import chords
from bisectum.core.geom.path import Path
from bisectum.core.raster.compiled import kernel, part

CHORD_MM = 0.002
FAN_DEG = 8.0  # between two normals at a corner that points inwards
TURNED = 1.2  # radians: what has turned by less is no other side


@dataclass(frozen=True, slots=True, eq=False)
class Outline:
    """Closed rings as short chords, the material to the right of the way as seen (y down). starts, ends : (N, 2), mm; ring :
    (N,) int64, the number of the ring of each chord; first : (R + 1,) int64, where the chords of each ring begin. near : (N,)
    bool, whether another side is so near that it is worth looking."""

    starts: NDArray[np.float64]
    ends: NDArray[np.float64]
    ring: NDArray[np.int64]
    first: NDArray[np.int64]
    near: NDArray[np.bool_]

    @property
    def lengths(self) -> NDArray[np.float64]:
        return np.hypot(*(self.ends - self.starts).T)


def outline_of(rings: Sequence[Path], width: float, parts: int) -> Outline:
    """Chords no longer than a width (mm), and no longer than one of so many parts of it where another side is as near as that."""
    segments = np.concatenate([np.empty((0, 4, 2)), *(path.segments for path in rings)])
    ring_of = np.repeat(np.arange(len(rings)), [len(path.segments) for path in rings])
    whole, segment = chords(segments, CHORD_MM)
    pairs = whole.reshape(-1, 2, 2)
    long = np.hypot(*(pairs[:, 1] - pairs[:, 0]).T)
    pairs, ring = pairs[long > 1e-9], ring_of[segment[long > 1e-9]].astype(np.int64)
    every = np.ones(len(pairs), bool)
    coarse = _divided(pairs[:, 0], pairs[:, 1], ring, len(rings), np.full(len(pairs), width), every)
    near = _near_another(coarse, width)
    return _divided(coarse.starts, coarse.ends, coarse.ring, len(rings), np.where(near, width / parts, np.inf), near)


def _divided(
    starts: NDArray[np.float64], ends: NDArray[np.float64], ring: NDArray[np.int64], rings: int, longest: NDArray[np.float64],
    near: NDArray[np.bool_],
) -> Outline:
    """Chords cut so that none is longer than is said for it. longest : (N,), mm."""
    count = np.maximum(1, np.ceil(np.hypot(*(ends - starts).T) / longest)).astype(np.int64)
    part = np.repeat(np.arange(len(starts)), count)
    nth = np.arange(len(part)) - np.repeat(np.cumsum(count) - count, count)
    way = (ends - starts)[part] / count[part, None]
    begins = starts[part] + way * nth[:, None]
    first = np.searchsorted(ring[part], np.arange(rings + 1)).astype(np.int64)
    return Outline(begins, begins + way, ring[part], first, near[part])


def _before(outline: Outline) -> NDArray[np.int64]:
    """The chord before each on its ring. (N,)."""
    before = np.arange(len(outline.starts)) - 1
    has = np.diff(outline.first) > 0
    before[outline.first[:-1][has]] = outline.first[1:][has] - 1
    return before


def _near_another(outline: Outline, width: float) -> NDArray[np.bool_]:
    """Chords to which another side comes as near as a width (mm): of another ring, or of the same one after a turn. (N,)."""
    near = np.zeros(len(outline.starts), bool)
    if len(near):
        way = outline.ends - outline.starts
        before = _before(outline)
        turn = np.abs(np.arctan2(way[before, 0] * way[:, 1] - way[before, 1] * way[:, 0], (way[before] * way).sum(axis=1)))
        turned = np.cumsum(turn)
        middles = (outline.starts + outline.ends) / 2
        reach = width + float(outline.lengths.max())
        cells = np.floor((middles - middles.min(axis=0)) / reach).astype(np.int64)
        wide = int(cells[:, 0].max()) + 1
        name = cells[:, 1] * wide + cells[:, 0]
        order = np.argsort(name, kind="stable").astype(np.int64)
        whole = np.bincount(outline.ring, turn, len(outline.first) - 1)
        _look_around(middles, outline.ring, turned, whole, order, name[order], cells, wide, reach, near)
    return near


@part("i8(i8[:], i8)")
def _first_from(name, wanted):  # type: ignore[no-untyped-def]
    """The first of rising numbers that is no less than one."""
    low, high = 0, len(name)
    while low < high:
        half = (low + high) // 2
        if name[half] < wanted:
            low = half + 1
        else:
            high = half
    return low


@kernel("void(f8[:,:], i8[:], f8[:], f8[:], i8[:], i8[:], i8[:,:], i8, f8, b1[:]!)")
def _look_around(middles, ring, turned, whole, order, name, cells, wide, reach, near):  # type: ignore[no-untyped-def]
    """turned : (N,), by how much the outline has turned up to each chord; whole : (R,), the same all around each ring."""
    count = len(order)
    for i in range(len(middles)):
        for row in range(cells[i, 1] - 1, cells[i, 1] + 2):
            if near[i] or row < 0:
                continue
            left, right = cells[i, 0] - 1, cells[i, 0] + 1
            if left < 0:
                left = 0
            if right > wide - 1:
                right = wide - 1
            for k in range(_first_from(name, row * wide + left), count):
                if name[k] > row * wide + right:
                    break
                j = order[k]
                dx, dy = middles[j, 0] - middles[i, 0], middles[j, 1] - middles[i, 1]
                if dx * dx + dy * dy > reach * reach:
                    continue
                if ring[i] == ring[j]:
                    turn = abs(turned[i] - turned[j])
                    if min(turn, whole[ring[i]] - turn) < TURNED:
                        continue
                near[i] = True
                break


@dataclass(frozen=True, slots=True, eq=False)
class Discs:
    """Of each place looked at, along the rings: at, normal : (P, 2); chord : (P,) int64, the one it is on; is_middle : (P,)
    bool, it is a chord's middle, else a corner. radius : (P,) mm, infinite for none within reach; touched : (P,) int64, the
    chord that the disc touches, -1 for none; touch : (P, 2), where."""

    at: NDArray[np.float64]
    normal: NDArray[np.float64]
    chord: NDArray[np.int64]
    is_middle: NDArray[np.bool_]
    radius: NDArray[np.float64]
    touched: NDArray[np.int64]
    touch: NDArray[np.float64]

    @property
    def width(self) -> NDArray[np.float64]:
        """(P,), mm between the place and where its disc touches, infinite for none."""
        return np.where(self.touched >= 0, np.hypot(*(self.touch - self.at).T), np.inf)

    @property
    def middle(self) -> NDArray[np.float64]:
        """(P, 2), of the discs; the places themselves for none."""
        return self.at + self.normal * np.where(self.touched >= 0, self.radius, 0.0)[:, None]


def discs_of(outline: Outline, reach: float, inside: bool) -> Discs:
    """The discs on the material's side, or on the other. reach: larger discs are not looked for, mm."""
    way = (outline.ends - outline.starts) / np.maximum(outline.lengths, 1e-12)[:, None]
    normal = np.stack([-way[:, 1], way[:, 0]], axis=1) * (1 if inside else -1)
    places, normals, chord, is_middle = _places(outline, way, normal, inside)
    radius, touched, touch = np.empty(len(places)), np.empty(len(places), np.int64), np.zeros((len(places), 2))
    if len(places):
        middles = (outline.starts + outline.ends) / 2
        # What a disc touches is in the next cell at most.
        low, size = middles.min(axis=0), 2 * reach + float(outline.lengths.max())
        cells = np.floor((middles - low) / size).astype(np.int64)
        wide = int(cells[:, 0].max()) + 1
        name = cells[:, 1] * wide + cells[:, 0]
        order = np.argsort(name, kind="stable").astype(np.int64)
        own = np.floor((places - low) / size).astype(np.int64)
        _shrink(outline.starts, outline.ends, order, name[order], wide, places, normals, own, reach, outline.near[chord], radius,
                touched, touch)
    return Discs(places, normals, chord, is_middle, radius, touched, touch)


def _places(
    outline: Outline, way: NDArray[np.float64], normal: NDArray[np.float64], inside: bool
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.int64], NDArray[np.bool_]]:
    """The middles of all chords, and before each the normals between it and the chord before where the corner points into what is
    looked at. In the order of the rings."""
    count, before = len(way), _before(outline)
    turn = np.arctan2(way[before, 0] * way[:, 1] - way[before, 1] * way[:, 0], (way[before] * way).sum(axis=1))
    opens = np.where(outline.near, -turn if inside else turn, 0.0)  # turning right goes round the material
    fans = np.where(opens > np.radians(FAN_DEG) / 2, np.ceil(opens / np.radians(FAN_DEG)) + 1, 0).astype(np.int64)
    chord = np.repeat(np.arange(count), fans + 1)
    nth = np.arange(len(chord)) - np.repeat(np.cumsum(fans + 1) - fans - 1, fans + 1)
    is_middle = nth == fans[chord]
    share = np.where(is_middle, 0.0, nth / np.maximum(1, fans[chord] - 1))
    normals = normal[chord]
    fan = np.flatnonzero(~is_middle)
    from_before = normal[before[chord[fan]]]
    base = np.arctan2(from_before[:, 1], from_before[:, 0]) + turn[chord[fan]] * share[fan]
    normals[fan] = np.stack([np.cos(base), np.sin(base)], axis=1)
    places = np.where(is_middle[:, None], (outline.starts + outline.ends)[chord] / 2, outline.starts[chord])
    return np.ascontiguousarray(places), np.ascontiguousarray(normals), chord.astype(np.int64), is_middle


@kernel("void(f8[:,:], f8[:,:], i8[:], i8[:], i8, f8[:,:], f8[:,:], i8[:,:], f8, b1[:], f8[:]!, i8[:]!, f8[:,:]!)")
def _shrink(starts, ends, order, name, wide, places, normals, own, reach, near, radius, touched, touch):  # type: ignore[no-untyped-def]
    """For each place the smallest disc with a chord on its rim. order, name : (N,), by cells; own : (P, 2), cells of places."""
    count = len(order)
    for p in range(len(places)):
        x, y, nx, ny = places[p, 0], places[p, 1], normals[p, 0], normals[p, 1]
        best, which, bx, by = reach, -1, 0.0, 0.0
        for row in range(own[p, 1] - 1, own[p, 1] + 2):
            if row < 0 or not near[p]:
                continue
            left, right = own[p, 0] - 1, own[p, 0] + 1
            if left < 0:
                left = 0
            if right > wide - 1:
                right = wide - 1
            if left > right:
                continue
            last = row * wide + right
            for k in range(_first_from(name, row * wide + left), count):
                if name[k] > last:
                    break
                j = order[k]
                ux, uy = starts[j, 0] - x, starts[j, 1] - y
                dx, dy = ends[j, 0] - starts[j, 0], ends[j, 1] - starts[j, 1]
                nu, nd = nx * ux + ny * uy, nx * dx + ny * dy
                if nu <= 1e-9 and nu + nd <= 1e-9:
                    continue
                uu, ud, dd = ux * ux + uy * uy, ux * dx + uy * dy, dx * dx + dy * dy
                a, b, c = dd * nd, dd * nu, 2.0 * ud * nu - uu * nd
                for choice in range(4):
                    t = 0.0
                    if choice == 1:
                        t = 1.0
                    elif choice > 1:
                        if abs(a) < 1e-12 * dd:
                            if choice == 3 or abs(b) < 1e-300:
                                continue
                            t = -c / (2.0 * b)
                        else:
                            root = b * b - a * c
                            if root < 0.0:
                                continue
                            t = (-b + (root**0.5 if choice == 2 else -(root**0.5))) / a
                        if t <= 0.0 or t >= 1.0:
                            continue
                    down = nu + t * nd
                    if down <= 1e-9:
                        continue
                    r = (uu + 2.0 * t * ud + t * t * dd) / (2.0 * down)
                    if r < best:
                        best, which, bx, by = r, j, x + ux + t * dx, y + uy + t * dy
        radius[p] = best if which >= 0 else np.inf
        touched[p], touch[p, 0], touch[p, 1] = which, bx, by
