"""Few segments through the points of a stroke: one straight line, an arc, or a smooth curve, whichever explains them first."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import line_segments
from bisectum.core.geom.ellipse import fit_ellipse
from bisectum.core.geom.local_fit import arc_lengths
from bisectum.core.geom.outline import fit_outline
from bisectum.core.steps.lines.strokes.centred import Points

Curve = tuple[NDArray[np.float64], NDArray[np.bool_]]
"""(S, 4, 2) segments, each starting where the last ended, px, and (S,) which are straight."""
NOISE = 0.12  # px that points in the middle of ink err by
SAGITTA = 3.0  # times the noise, that a straight line may seem to bend by
ARC = 3.5  # times the noise, that points may lie beside an arc
MOST_ARC = math.radians(340)


def fitted_stroke(points: Points, closed: bool, tolerance: float, sure: NDArray[np.bool_] | None = None) -> Curve:
    """points : (N, 2), px, in order; of a closed stroke the last is the first. tolerance: how far the stroke may stray from them,
    px. sure : (N,), of a dashed one the points that lie in ink: its ends are then only how far it goes, else they are exact."""
    if closed:
        return _closed(points[:-1], tolerance)
    if len(points) < 3:
        return line_segments(points[[0, -1]]), np.ones(1, bool)
    inner = points[1:-1] if sure is None else points[1:-1][sure[1:-1]]
    if len(inner) < 3:
        inner = points
    line = _straight(points, inner, tolerance, sure is None)
    if line is not None:
        return line
    arc = _arc(points, inner, tolerance)
    return arc if arc is not None else _smooth(points, tolerance)


def _straight(points: Points, inner: Points, tolerance: float, fixed: bool) -> Curve | None:
    middle = inner.mean(axis=0)
    _, _, axes = np.linalg.svd(inner - middle, full_matrices=False)
    along, across = (inner - middle) @ axes[0], (inner - middle) @ np.array([-axes[0, 1], axes[0, 0]])
    bend = np.polyfit(along, across, 2)[0] * (np.ptp(along) / 2) ** 2 if len(inner) > 4 else 0.0
    rms = float(np.sqrt((across**2).mean()))
    if abs(bend) > max(SAGITTA * NOISE, min(tolerance, 1.0)) or rms > max(2 * NOISE, 0.6 * tolerance):
        return None
    ends = points[[0, -1]]
    if not fixed:
        ends = middle + ((ends - middle) @ axes[0])[:, None] * axes[0]
    return line_segments(ends), np.ones(1, bool)


def _arc(points: Points, inner: Points, tolerance: float) -> Curve | None:
    """A circular arc through the inner points (I. Kåsa 1976), its ends where all points end."""
    middle = inner.mean(axis=0)
    local = inner - middle
    design = np.column_stack([2 * local, np.ones(len(local))])
    solved, *_ = np.linalg.lstsq(design, (local**2).sum(axis=1), rcond=None)
    centre = middle + solved[:2]
    radius = math.sqrt(max(float(solved[2] + solved[:2] @ solved[:2]), 1e-9))
    away = np.hypot(*(inner - centre).T) - radius
    if float(np.sqrt((away**2).mean())) > 1.5 * NOISE or float(np.abs(away).max()) > max(ARC * NOISE, tolerance):
        return None
    angles = np.unwrap(np.arctan2(points[:, 1] - centre[1], points[:, 0] - centre[0]))
    start, stop = float(angles[0]), float(angles[-1])
    if abs(stop - start) > MOST_ARC or abs(stop - start) < 1e-6:
        return None
    count = max(1, math.ceil(abs(stop - start) / (math.pi / 2) - 1e-9))
    marks = np.linspace(start, stop, count + 1)
    handle = 4 / 3 * math.tan((stop - start) / count / 4) * radius
    place = centre + radius * np.stack([np.cos(marks), np.sin(marks)], axis=1)
    along = handle * np.stack([-np.sin(marks), np.cos(marks)], axis=1)
    segments = np.stack([place[:-1], place[:-1] + along[:-1], place[1:] - along[1:], place[1:]], axis=1)
    return segments, np.zeros(count, bool)


def _smooth(points: Points, tolerance: float) -> Curve:
    even = _evenly(points)
    room = 2 * len(even) + 16
    none = np.empty(room, np.int64), np.empty((room, 2)), np.empty(room), np.empty((room, 10))
    curves, straight, worst = np.empty((room, 4, 2)), np.empty(room, bool), np.empty(1)
    count = fit_outline(even, False, 0, *none, NOISE, False, np.full(1, tolerance + 3 * NOISE), curves, straight, worst)
    return curves[:count].copy(), straight[:count].copy()


def _closed(points: Points, tolerance: float) -> Curve:
    ellipse = fit_ellipse(points) if len(points) >= 16 else None
    if ellipse is not None and ellipse.b > 2:
        away = ellipse.distances(points)
        if float(np.sqrt((away**2).mean())) < 1.5 * NOISE and float(away.max()) < max(ARC * NOISE, tolerance):
            return ellipse.segments(4, _turns_right(points)), np.zeros(4, bool)
    even = _evenly(np.concatenate([points, points[:1]]))[:-1]
    room = 2 * len(even) + 16
    none = np.empty(room, np.int64), np.empty((room, 2)), np.empty(room), np.empty((room, 10))
    curves, straight, worst = np.empty((room, 4, 2)), np.empty(room, bool), np.empty(1)
    count = fit_outline(even, True, 0, *none, NOISE, False, np.full(1, tolerance + 3 * NOISE), curves, straight, worst)
    found = curves[:count].copy()
    found[-1, 3] = found[0, 0]
    return found, straight[:count].copy()


def _turns_right(points: Points) -> bool:
    x, y = points.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) > 0


def _evenly(points: Points) -> Points:
    """Points about a pixel apart along a run, its ends kept."""
    along = arc_lengths(np.ascontiguousarray(points))
    keep = np.append(True, np.diff(along) > 1e-9)
    points, along = points[keep], along[keep]
    wanted = np.linspace(0, along[-1], max(4, round(along[-1])) + 1)
    return np.ascontiguousarray(np.stack([np.interp(wanted, along, points[:, k]) for k in (0, 1)], axis=1))
