"""Lines and parabolas through a stretch of a polyline, by least squares over its arc length."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel, part

WINDOW = 6  # points that tell how far they stray from a line or a parabola through them
EXACT = 1e-6  # px


@kernel("f8[:](f8[:,:])")
def arc_lengths(points):  # type: ignore[no-untyped-def]
    """Arc length from the first point to each. points : (N, 2). Returns (N,) float64."""
    result = np.zeros(len(points))
    for i in range(1, len(points)):
        step_x, step_y = points[i, 0] - points[i - 1, 0], points[i, 1] - points[i - 1, 1]
        result[i] = result[i - 1] + np.sqrt(step_x * step_x + step_y * step_y)
    return result


@kernel("f8(f8[:,:], f8[:], i8, i8, f8, i8, f8[:]!)")
def fit_stretch(points, s, low, high, origin, degree, out):  # type: ignore[no-untyped-def]
    """Fit x(s), y(s) of degree 1 or 2 to points low..high (both included).

    out : (4,) receives the place at arc length `origin` and the unit tangent there; (5,) the curvature too, above zero
    where it turns clockwise as seen. Returns the root mean square of the
    residuals; a negative number where there are too few points.
    """
    n = high - low + 1
    if n < degree + 1:
        return -1.0
    m1, m2, m3, m4 = 0.0, 0.0, 0.0, 0.0
    x0, x1, x2, y0, y1, y2 = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for i in range(low, high + 1):
        t = s[i] - origin
        x, y = points[i, 0], points[i, 1]
        m1 += t
        m2 += t * t
        m3 += t * t * t
        m4 += t * t * t * t
        x0 += x
        x1 += x * t
        x2 += x * t * t
        y0 += y
        y1 += y * t
        y2 += y * t * t
    if degree == 1:
        determinant = n * m2 - m1 * m1
        if determinant <= 1e-12:
            return -1.0
        ax, bx, cx = (x0 * m2 - x1 * m1) / determinant, (n * x1 - m1 * x0) / determinant, 0.0
        ay, by, cy = (y0 * m2 - y1 * m1) / determinant, (n * y1 - m1 * y0) / determinant, 0.0
    else:
        c00, c01, c02 = m2 * m4 - m3 * m3, m2 * m3 - m1 * m4, m1 * m3 - m2 * m2
        determinant = n * c00 + m1 * c01 + m2 * c02
        if abs(determinant) <= 1e-9:
            return -1.0
        c11, c12, c22 = n * m4 - m2 * m2, m1 * m2 - n * m3, n * m2 - m1 * m1
        ax, ay = (c00 * x0 + c01 * x1 + c02 * x2) / determinant, (c00 * y0 + c01 * y1 + c02 * y2) / determinant
        bx, by = (c01 * x0 + c11 * x1 + c12 * x2) / determinant, (c01 * y0 + c11 * y1 + c12 * y2) / determinant
        cx, cy = (c02 * x0 + c12 * x1 + c22 * x2) / determinant, (c02 * y0 + c12 * y1 + c22 * y2) / determinant
    size = np.sqrt(bx * bx + by * by)
    if size < 1e-9:
        return -1.0
    out[0], out[1], out[2], out[3] = ax, ay, bx / size, by / size
    if len(out) > 4:
        out[4] = 2.0 * (bx * cy - by * cx) / size**3
    total = 0.0
    for i in range(low, high + 1):
        t = s[i] - origin
        ex, ey = points[i, 0] - ax - bx * t - cx * t * t, points[i, 1] - ay - by * t - cy * t * t
        # Only what is across the curve counts: along it, arc length is a guess.
        across = (ex * (by + 2 * cy * t) - ey * (bx + 2 * cx * t)) / max(
            1e-9, np.sqrt((bx + 2 * cx * t) ** 2 + (by + 2 * cy * t) ** 2))
        total += across * across
    return np.sqrt(total / n)


@kernel("f8[:,:](f8[:,:], f8[:])")
def line_sums(points, s):  # type: ignore[no-untyped-def]
    """What fit_line takes, so that a line through any stretch costs the same. points : (N, 2), s : (N,).

    Returns (N + 1, 9) float64: sums over the points before each of t, t², x, y, xt, yt, x², xy, y², with t, x, y counted
    from the first point.
    """
    result = np.zeros((len(points) + 1, 9))
    for i in range(len(points)):
        t, x, y = s[i] - s[0], points[i, 0] - points[0, 0], points[i, 1] - points[0, 1]
        for k, value in enumerate((t, t * t, x, y, x * t, y * t, x * x, x * y, y * y)):
            result[i + 1, k] = result[i, k] + value
    return result


@kernel("f8(f8[:,:], i8, i8)")
def fit_line(sums, low, high):  # type: ignore[no-untyped-def]
    """What fit_stretch returns for degree 1, from line_sums. sums : as line_sums makes them, (N + 1, K)."""
    n = high - low + 1
    if n < 2:
        return -1.0
    m1, m2 = sums[high + 1, 0] - sums[low, 0], sums[high + 1, 1] - sums[low, 1]
    x0, y0 = sums[high + 1, 2] - sums[low, 2], sums[high + 1, 3] - sums[low, 3]
    x1, y1 = sums[high + 1, 4] - sums[low, 4], sums[high + 1, 5] - sums[low, 5]
    xx, yy = sums[high + 1, 6] - sums[low, 6], sums[high + 1, 8] - sums[low, 8]
    xy = sums[high + 1, 7] - sums[low, 7]
    bx, by = n * x1 - m1 * x0, n * y1 - m1 * y0
    size = np.sqrt(bx * bx + by * by)
    if n * m2 - m1 * m1 <= 1e-12 or size < 1e-9:
        return -1.0
    # Off the line through the middle: along it, arc length is a guess.
    nx, ny = by / size, -bx / size
    total = nx * nx * (xx - x0 * x0 / n) + 2.0 * nx * ny * (xy - x0 * y0 / n) + ny * ny * (yy - y0 * y0 / n)
    return np.sqrt(max(0.0, total) / n)


@part("i8(f8[:], i8, f8)")
def index_before(s, i, away):  # type: ignore[no-untyped-def]
    """The last index at least `away` before point i, or 0."""
    j = i
    while j > 0 and s[i] - s[j] < away:
        j -= 1
    return j


@part("i8(f8[:], i8, f8)")
def index_after(s, i, away):  # type: ignore[no-untyped-def]
    """The first index at least `away` behind point i, or the last."""
    j = i
    while j < len(s) - 1 and s[j] - s[i] < away:
        j += 1
    return j


@kernel("f8(f8[:,:], f8[:], i8, i8, i8, f8, f8[:]!)")
def tangent_at(points, s, i, low, high, reach, out):  # type: ignore[no-untyped-def]
    """Unit tangent at point i from a parabola over `reach` to both sides, within low..high. Returns the residual.

    points : (N, 2); s : (N,) arc lengths; out : (2,) receives the tangent.
    """
    a, b = i, i
    while a > low and s[i] - s[a] < reach:
        a -= 1
    while b < high and s[b] - s[i] < reach:
        b += 1
    rms = fit_stretch(points, s, a, b, s[i], 2 if b - a >= 4 else 1, out)
    if rms < 0.0:
        dx, dy = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
        size = max(1e-12, np.sqrt(dx * dx + dy * dy))
        out[0], out[1], out[2], out[3] = points[i, 0], points[i, 1], dx / size, dy / size
        return 0.0
    return rms


@kernel("f8(f8[:,:], f8[:], i8, i8, i8, f8, f8[:]!)")
def steady_tangent(points, s, i, low, high, reach, out):  # type: ignore[no-untyped-def]
    """As tangent_at, from the longest parabola that holds: the reach is doubled as long as the residual does not grow.
    points : (N, 2); s : (N,); out : (2,).

    The error of a tangent falls with the reach to the power of 3/2, and a long segment carries it far.
    """
    longer = np.empty(4)
    rms = _unbiased(tangent_at(points, s, i, low, high, reach, out), 2.0 * reach)
    while s[i] - s[low] > reach or s[high] - s[i] > reach:
        reach *= 2.0
        wider = _unbiased(tangent_at(points, s, i, low, high, reach, longer), 2.0 * reach)
        if wider > rms + EXACT:
            break
        for k in range(4):
            out[k] = longer[k]
        rms = wider
    return rms


@part("f8(f8, f8)")
def _unbiased(rms, count):  # type: ignore[no-untyped-def]
    """A deviation from the residuals of a parabola through so many points."""
    return rms * np.sqrt(count / max(1.0, count - 3.0))


@kernel("i8(f8[:,:], f8[:], f8[:]!)")
def _residuals(points, s, values):  # type: ignore[no-untyped-def]
    """Residuals of local parabolas through WINDOW points each. Returns how many there are."""
    used, out = 0, np.empty(4)
    for k in range(len(values)):
        rms = fit_stretch(points, s, k * WINDOW, (k + 1) * WINDOW - 1, s[k * WINDOW + WINDOW // 2], 2, out)
        if rms >= 0.0:
            values[used] = rms
            used += 1
    return used


def noise_of(points: NDArray[np.float64], s: NDArray[np.float64]) -> float:
    """Typical deviation of points from local parabolas: the 30th percentile over windows of WINDOW points.

    points : (N, 2), s : (N,) arc lengths. Windows without any say nothing where most have some: a level edge has none, though
    slanting ones of the same picture be stairs. Where few have some, they are those about corners. Returns -1 where none has.
    """
    values = np.empty(len(points) // WINDOW)
    values = np.sort(values[: _residuals(points, s, values)])
    exact = int(np.searchsorted(values, EXACT))
    if exact == len(values):
        return -1.0
    if 4 * exact <= len(values):
        values = values[exact:]
    return float(values[(3 * len(values)) // 10]) * math.sqrt(WINDOW / (WINDOW - 3.0))


@part("i8(f8[:,:], i8, i8, f8, f8)")
def nearest_from(points, i, step, x, y):  # type: ignore[no-untyped-def]
    """The index, going from point i by `step` as long as it gets nearer, of the point nearest to (x, y).

    It may leave 0..N - 1 and then counts on around the closed chain.
    """
    n = len(points)
    best = (points[i % n, 0] - x) ** 2 + (points[i % n, 1] - y) ** 2
    while True:
        j = (i + step) % n
        away = (points[j, 0] - x) ** 2 + (points[j, 1] - y) ** 2
        if away >= best:
            return i
        i += step
        best = away
