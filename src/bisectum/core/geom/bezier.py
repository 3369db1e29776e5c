"""Cubic Bézier segments in bulk. segments : (S, 4, 2) float64, control points x, y; y runs down.

A straight segment is a cubic with its handles at the thirds, so every formula here holds for it too.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.bernstein import bernstein_of
from bisectum.core.raster.compiled import kernel

Segments = NDArray[np.float64]

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(10)
LOOKS = np.linspace(0.0, 1.0, 17)  # places on a segment that stand for all of it


def line_segments(points: NDArray[np.float64]) -> Segments:
    """The straight segments along points : (N, 2). Returns (N - 1, 4, 2)."""
    start, end = points[:-1], points[1:]
    return np.stack([start, start + (end - start) / 3, start + (end - start) * (2 / 3), end], axis=1)


def reversed_segments(segments: Segments) -> Segments:
    """The same path walked backwards."""
    return segments[::-1, ::-1]


def points_at(segments: Segments, t: NDArray[np.float64]) -> NDArray[np.float64]:
    """Points of every segment at t : (T,). Returns (S, T, 2)."""
    return np.einsum("kt,skd->std", bernstein_of(t), segments)


def split_at(curve: NDArray[np.float64], t: float) -> Segments:
    """Both parts of one segment, cut at parameter t (P. de Casteljau). curve : (4, 2). Returns (2, 4, 2)."""
    rows = [curve]
    while len(rows[-1]) > 1:
        rows.append(rows[-1][:-1] + (rows[-1][1:] - rows[-1][:-1]) * t)
    return np.stack([np.stack([row[0] for row in rows]), np.stack([row[-1] for row in rows[::-1]])])


@kernel("void(f8[:,:,:], f8[:]!)")
def _area_shares(segments, shares):  # type: ignore[no-untyped-def]
    for s in range(len(segments)):
        p = segments[s]
        total = 0.0
        for i, j, weight in ((0, 1, 6.0), (0, 2, 3.0), (0, 3, 1.0), (1, 2, 3.0), (1, 3, 3.0), (2, 3, 6.0)):
            total += weight * (p[i, 0] * p[j, 1] - p[i, 1] * p[j, 0])
        shares[s] = total / 20.0


def area_shares(segments: Segments) -> NDArray[np.float64]:
    """What each segment adds to the area within the closed path it is part of; (S,).

    Green's theorem for a cubic: ½∮(x dy − y dx) of the Bernstein form.
    """
    shares = np.empty(len(segments))
    _area_shares(np.ascontiguousarray(segments), shares)
    return shares


def signed_area(segments: Segments) -> float:
    """Area within a closed path, exactly; above zero when it runs clockwise as seen (y down)."""
    return float(area_shares(segments).sum())


def bounds(segments: Segments) -> tuple[float, float, float, float]:
    """The tight box around segments: left, top, right, bottom."""
    low, high = segments[:, (0, 3)].min(axis=(0, 1)), segments[:, (0, 3)].max(axis=(0, 1))
    p0, p1, p2, p3 = (segments[:, k] for k in range(4))
    a, b, c = -p0 + 3 * p1 - 3 * p2 + p3, 2 * (p0 - 2 * p1 + p2), p1 - p0
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        root = np.sqrt(np.maximum(b * b - 4 * a * c, 0))
        candidates = np.stack([(-b + root) / (2 * a), (-b - root) / (2 * a), -c / b], axis=-1)  # (S, 2, 3)
    candidates = np.where((candidates > 0) & (candidates < 1), candidates, 0.0)
    for axis in (0, 1):
        values = np.einsum("ksn,sk->sn", bernstein_of(candidates[:, axis]), segments[:, :, axis])
        low[axis], high[axis] = min(low[axis], values.min()), max(high[axis], values.max())
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def chords_needed(segments: Segments, tolerance: float) -> NDArray[np.int64]:
    """Chords per segment so that none is further than `tolerance` from its curve.

    T. Sederberg's bound: a curve stays within |largest second difference| · n(n-1)/8 / chords² of its chords (degree
    n = 3).
    """
    second = np.abs(np.diff(segments, n=2, axis=1)).max(axis=(1, 2)) if len(segments) else np.zeros(0)
    return np.maximum(1, np.ceil(np.sqrt(0.75 * np.sqrt(2.0) * second / tolerance))).astype(np.int64)


def flatten(segments: Segments, tolerance: float) -> NDArray[np.float64]:
    """Points along a path of joined segments, none of its curves further than `tolerance` from the chords.

    Returns (N, 2): the start of every segment and points between; the very last end is not repeated for closed paths,
    nor given for open ones.
    """
    counts = chords_needed(segments, tolerance)
    if (counts == 1).all():
        return segments[:, 0].copy()
    which = np.repeat(np.arange(len(segments)), counts)
    t = (np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[which]
    return np.einsum("nk,nkd->nd", bernstein_of(t, axis=1), segments[which])


def chords(segments: Segments, tolerance: float) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """All segments as chords, none further than `tolerance` from its curve; joined segments give joined chords.

    Returns (N, 4): x0, y0, x1, y1, and (N,): the segment each belongs to.
    """
    counts = chords_needed(segments, tolerance)
    which = np.repeat(np.arange(len(segments)), counts)
    starts = flatten(segments, tolerance)
    ends = np.roll(starts, -1, axis=0)
    last = np.cumsum(counts) - 1
    ends[last] = segments[:, 3]
    return np.concatenate([starts, ends], axis=1), which


def derivatives(curves: NDArray[np.float64], t: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """First and second derivatives of cubics (N, 4, 2) at t : (T,) or (N, T). Returns (N, T, 2) each."""
    t = np.broadcast_to(t, (len(curves), t.shape[-1]))[..., None]
    d = 3 * np.diff(curves, axis=1)
    e = 2 * np.diff(d, axis=1)
    o = 1 - t
    return (o**2 * d[:, None, 0] + 2 * o * t * d[:, None, 1] + t**2 * d[:, None, 2],
            o * e[:, None, 0] + t * e[:, None, 1])


def lengths(segments: Segments) -> NDArray[np.float64]:
    """Arc length of each segment by Gauss-Legendre quadrature of ten points."""
    velocity, _ = derivatives(segments, (_NODES + 1) / 2)
    return np.hypot(velocity[..., 0], velocity[..., 1]) @ _WEIGHTS / 2
