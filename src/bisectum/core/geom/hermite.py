"""Cubics through many places with their ends and end directions given: many at once, by the lengths of their handles."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import LOOKS
from bisectum.core.geom.joint import SMOOTH
from bisectum.core.raster.bernstein import bernstein, bernstein_of
from bisectum.core.raster.compiled import kernel, part

TURNS = 7  # of the method of Gauss and Newton, which comes to rest in four or five
LONGEST = 3.0  # times the chord: no handle is longer


def directions(segments: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Unit vectors in which segments (N, 4, 2) begin and end; without a handle towards the next place.

    Returns (N, 2) each.
    """
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
    result, away = np.empty((len(wanted), 4, 2)), np.empty(len(wanted))
    t = np.tile(np.linspace(0, 1, wanted.shape[1]), (len(wanted), 1)) if t is None else t.copy()
    _fit(np.ascontiguousarray(wanted), np.ascontiguousarray(start), np.ascontiguousarray(end), np.ascontiguousarray(reach), t,
         result, away)
    return result, away


@part("UniTuple(f8, 6)(f8[:,:], f8)")
def _place_way_bend(p, t):  # type: ignore[no-untyped-def]
    o = 1.0 - t
    w0, w1, w2, w3 = bernstein(t)
    x = w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0]
    y = w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1]
    v0, v1, v2 = 3.0 * o * o, 6.0 * o * t, 3.0 * t * t
    vx = v0 * (p[1, 0] - p[0, 0]) + v1 * (p[2, 0] - p[1, 0]) + v2 * (p[3, 0] - p[2, 0])
    vy = v0 * (p[1, 1] - p[0, 1]) + v1 * (p[2, 1] - p[1, 1]) + v2 * (p[3, 1] - p[2, 1])
    ax = 6.0 * (o * (p[2, 0] - 2.0 * p[1, 0] + p[0, 0]) + t * (p[3, 0] - 2.0 * p[2, 0] + p[1, 0]))
    ay = 6.0 * (o * (p[2, 1] - 2.0 * p[1, 1] + p[0, 1]) + t * (p[3, 1] - 2.0 * p[2, 1] + p[1, 1]))
    return x, y, vx, vy, ax, ay


@kernel("void(f8[:,:,:], f8[:,:], f8[:,:], f8[:,:], f8[:,:]!, f8[:,:,:]!, f8[:]!)")
def _fit(wanted, start, end, reach, t, result, away):  # type: ignore[no-untyped-def]
    looks = wanted.shape[1]
    for n in range(len(wanted)):
        p = result[n]
        for c in range(2):
            p[0, c], p[3, c] = wanted[n, 0, c], wanted[n, looks - 1, c]
        longest = LONGEST * np.sqrt((p[3, 0] - p[0, 0]) ** 2 + (p[3, 1] - p[0, 1]) ** 2) + 1e-9
        ra = min(max(reach[n, 0], 0.003 * longest), longest)
        rb = min(max(reach[n, 1], 0.003 * longest), longest)
        sx, sy, ex, ey = start[n, 0], start[n, 1], end[n, 0], end[n, 1]
        for turn in range(TURNS + 1):
            p[1, 0], p[1, 1] = p[0, 0] + ra * sx, p[0, 1] + ra * sy
            p[2, 0], p[2, 1] = p[3, 0] - rb * ex, p[3, 1] - rb * ey
            aa, bb, ab, fa, fb, worst = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
            for k in range(1, looks - 1):
                u = t[n, k]
                for _ in range(2):  # to the nearest place
                    x, y, vx, vy, ax, ay = _place_way_bend(p, u)
                    gx, gy = x - wanted[n, k, 0], y - wanted[n, k, 1]
                    bend = vx * vx + vy * vy + gx * ax + gy * ay
                    if bend > 1e-12:
                        u = min(1.0, max(0.0, u - (gx * vx + gy * vy) / bend))
                t[n, k] = u
                x, y, vx, vy, ax, ay = _place_way_bend(p, u)
                gx, gy = x - wanted[n, k, 0], y - wanted[n, k, 1]
                worst = max(worst, gx * gx + gy * gy)
                size = max(np.sqrt(vx * vx + vy * vy), 1e-300)
                nx, ny = vy / size, -vx / size
                off = gx * nx + gy * ny
                ja = 3.0 * u * (1.0 - u) ** 2 * (sx * nx + sy * ny)
                jb = -3.0 * u * u * (1.0 - u) * (ex * nx + ey * ny)
                aa, bb, ab = aa + ja * ja, bb + jb * jb, ab + ja * jb
                fa, fb = fa + ja * off, fb + jb * off
            away[n] = np.sqrt(worst)
            if turn == TURNS:
                break
            # A little weight on staying keeps handles of flat curves, on which nothing depends, where they are.
            weight = 1e-9 * max(aa + bb, 1e-30)
            aa, bb = aa + weight, bb + weight
            det = max(aa * bb - ab * ab, 1e-300)
            da, db = (bb * fa - ab * fb) / det, (aa * fb - ab * fa) / det
            ra = min(max(ra - min(max(da, -0.5 * ra), 0.5 * ra), 0.003 * longest), longest)
            rb = min(max(rb - min(max(db, -0.5 * rb), 0.5 * rb), 0.003 * longest), longest)


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


def _evenly(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Of the places along joined curves (K, T, 2) some, about evenly along the way. Returns (T, 2)."""
    path = np.concatenate([points[:, :-1].reshape(-1, 2), points[-1, -1:]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    # Only places that are on the curves, none between them: chords would pull the fit inwards.
    nearest = np.searchsorted(along, along[-1] * LOOKS)
    return path[np.clip(nearest, 0, len(path) - 1)]
