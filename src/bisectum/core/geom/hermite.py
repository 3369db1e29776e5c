"""Cubics through many places with their ends and end directions given: many at once, by the lengths of their handles."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.bernstein import bernstein_of

TURNS = 7  # of the method of Gauss and Newton, which comes to rest in four or five
LONGEST = 3.0  # times the chord: no handle is longer


def directions(segments: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Unit vectors in which segments (N, 4, 2) begin and end; a handle without length gives way to the next place. (N, 2) each."""
    result = []
    for places in (segments - segments[:, :1], (segments - segments[:, 3:])[:, ::-1] * -1):
        size = np.hypot(places[..., 0], places[..., 1])
        far = np.argmax(size > 1e-9, axis=1)
        way = places[np.arange(len(places)), far]
        result.append(way / np.maximum(size[np.arange(len(places)), far], 1e-300)[:, None])
    return result[0], result[1]


def left_of(way: NDArray[np.float64]) -> NDArray[np.float64]:
    """The direction to the left of directions (..., 2), y down."""
    return np.stack([way[..., 1], -way[..., 0]], axis=-1)


def derivatives(curves: NDArray[np.float64], t: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """First and second derivatives of cubics (N, 4, 2) at t : (T,) or (N, T). Returns (N, T, 2) each."""
    t = np.broadcast_to(t, (len(curves), t.shape[-1]))[..., None]
    d = 3 * np.diff(curves, axis=1)
    e = 2 * np.diff(d, axis=1)
    o = 1 - t
    return (o**2 * d[:, None, 0] + 2 * o * t * d[:, None, 1] + t**2 * d[:, None, 2],
            o * e[:, None, 0] + t * e[:, None, 1])


def fit_handles(
    wanted: NDArray[np.float64], start: NDArray[np.float64], end: NDArray[np.float64], reach: NDArray[np.float64],
    t: NDArray[np.float64] | None = None,
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The cubics nearest to rows of places : (N, T, 2), from the first to the last of each.

    start, end : (N, 2) unit vectors, the directions there; reach : (N, 2), lengths of the handles to begin with; t : (N, T),
    where the places lie about, evenly if it is not said. Returns (N, 4, 2), and how far each lies off its places : (N,).
    Least squares of the distances along the normals (Gauss and Newton), the places on the curve brought nearest to the
    wanted ones after each step.
    """
    if not len(wanted):
        return np.empty((0, 4, 2)), np.empty(0)
    p0, p3 = wanted[:, 0], wanted[:, -1]
    longest = LONGEST * np.hypot(*(p3 - p0).T)[:, None] + 1e-9
    reach = np.clip(reach, 0.003 * longest, longest)
    t = np.tile(np.linspace(0, 1, wanted.shape[1]), (len(wanted), 1)) if t is None else t
    for turn in range(TURNS + 1):
        result = np.stack([p0, p0 + reach[:, :1] * start, p3 - reach[:, 1:] * end, p3], axis=1)
        t = _nearest(result, wanted, t)
        gap = _at(result, t) - wanted
        if turn < TURNS:
            reach = _better(result, t, gap, start, end, reach, longest)
    return result, np.asarray(np.hypot(gap[..., 0], gap[..., 1]).max(axis=1))


def _nearest(curves: NDArray[np.float64], wanted: NDArray[np.float64], t: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values of t : (N, T) brought nearer to where the curves are nearest to the wanted places, by Newton's method."""
    for _ in range(2):
        gap = _at(curves, t) - wanted
        v, a = derivatives(curves, t)
        slope = (gap * v).sum(axis=-1)
        bend = (v * v).sum(axis=-1) + (gap * a).sum(axis=-1)
        t = np.clip(t - np.where(bend > 1e-12, slope / np.where(bend > 1e-12, bend, 1), 0), 0, 1)
        t[:, 0], t[:, -1] = 0, 1
    return t


def _better(
    curves: NDArray[np.float64], t: NDArray[np.float64], gap: NDArray[np.float64], start: NDArray[np.float64],
    end: NDArray[np.float64], reach: NDArray[np.float64], longest: NDArray[np.float64],
) -> NDArray[np.float64]:
    """Lengths of the handles after one step."""
    v, _ = derivatives(curves, t)
    normal = left_of(v / np.maximum(np.hypot(v[..., 0], v[..., 1]), 1e-300)[..., None])
    off = (gap * normal).sum(axis=-1)
    one = (3 * t * (1 - t) ** 2)[..., None] * start[:, None]
    two = -(3 * t**2 * (1 - t))[..., None] * end[:, None]
    ja, jb = (one * normal).sum(axis=-1), (two * normal).sum(axis=-1)
    # A little weight on staying keeps handles of flat curves, on which nothing depends, where they are.
    weight = 1e-9 * np.maximum((ja * ja + jb * jb).sum(axis=1), 1e-30)
    aa, bb, ab = (ja * ja).sum(axis=1) + weight, (jb * jb).sum(axis=1) + weight, (ja * jb).sum(axis=1)
    ra, rb = (ja * off).sum(axis=1), (jb * off).sum(axis=1)
    det = np.maximum(aa * bb - ab * ab, 1e-300)
    step = np.stack([(bb * ra - ab * rb) / det, (aa * rb - ab * ra) / det], axis=1)
    return np.asarray(np.clip(reach - np.clip(step, -0.5 * reach, 0.5 * reach + 1e-9), 0, longest))


def _at(curves: NDArray[np.float64], t: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places of cubics (N, 4, 2) at t : (N, T). Returns (N, T, 2)."""
    return np.asarray(np.einsum("snk,skd->snd", bernstein_of(t, axis=2), curves))


def fewer_curves(
    segments: NDArray[np.float64], straight: NDArray[np.bool_], may_join: NDArray[np.bool_], most: float
) -> tuple[NDArray[np.float64], NDArray[np.bool_], NDArray[np.int64]]:
    """Neighbours that one cubic draws within `most` (mm) of both, joined, again and again.

    segments : (S, 4, 2), straight : (S,), may_join : (S,): whether a segment may be joined with the next one. Returns those
    that are left, and of each the number of the first it is made of.
    """
    made_of = np.arange(len(segments) + 1)  # from which to which of the first ones
    points = np.einsum("kt,skd->std", bernstein_of(np.linspace(0, 1, 9)), segments)
    tried = np.zeros(len(segments), bool)
    while len(segments) > 1:
        start, end = directions(segments)
        smooth = (end[:-1] * start[1:]).sum(axis=1) > np.cos(SMOOTH)
        joins = np.flatnonzero(may_join[:-1] & smooth & ~straight[:-1] & ~straight[1:] & ~tried[:-1])
        if len(joins):  # those that have no neighbour in common
            free = np.ones(len(segments) + 1, bool)
            chosen = []
            for k in joins.tolist():
                if free[k] and free[k + 1]:
                    free[k] = free[k + 1] = False
                    chosen.append(k)
            joins = np.array(chosen)
        if not len(joins):
            break
        wanted = np.stack([_evenly(points[made_of[k] : made_of[k + 2]]) for k in joins.tolist()])
        length = np.hypot(*np.diff(wanted, axis=1).transpose(2, 0, 1)).sum(axis=1)
        fitted, away = fit_handles(wanted, start[joins], end[joins + 1], np.stack([length, length], axis=1) / 3)
        good = joins[away <= most]
        tried[joins] = True
        segments, straight = segments.copy(), straight.copy()
        segments[good] = fitted[away <= most]
        keep = np.ones(len(segments), bool)
        keep[good + 1] = False
        may_join = may_join.copy()
        may_join[good] = may_join[good + 1]
        tried[good] = False
        tried[np.maximum(good - 1, 0)] = False
        segments, straight, may_join, tried = segments[keep], straight[keep], may_join[keep], tried[keep]
        made_of = np.append(made_of[:-1][keep], made_of[-1])
    return segments, straight, made_of[:-1]


SMOOTH = 0.02  # radians: joints that turn less are none
LOOKS = 33


def _evenly(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Of the places along joined curves (K, T, 2) some, about evenly along the way. Returns (LOOKS, 2)."""
    path = np.concatenate([points[:, :-1].reshape(-1, 2), points[-1, -1:]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    # Only places that are on the curves, none between them: chords would pull the fit inwards.
    nearest = np.searchsorted(along, np.linspace(0, along[-1], LOOKS))
    return path[np.clip(nearest, 0, len(path) - 1)]
