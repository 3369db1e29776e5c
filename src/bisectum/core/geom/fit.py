"""Few cubic segments through many measured points, within a tolerance.

After P. J. Schneider, "An Algorithm for Automatically Fitting Digitized Curves", Graphics Gems, 1990: least squares for
the handle lengths, Newton's method for the parameters. Two things differ: a stretch that cannot be one segment is cut
at the farthest place a segment reaches, and the tolerance is then tightened as far as the same number of segments
allows, which evens them out.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_rows, copy_segments
from bisectum.core.geom.local_fit import steady_tangent
from bisectum.core.geom.polish import polish_curves
from bisectum.core.raster.bernstein import bernstein
from bisectum.core.raster.compiled import kernel, part

ROUNDS = 5
EVENINGS, LOOSE = 3, 0.5  # halvings of the tolerance that even segments out; px of tolerance from which none is worth it
PARTS = 16  # of its points, to one of which a segment's reach is told
MOST_SAMPLES = 48  # points looked at in one trial; the accepted segment is measured at all of them
TANGENT_REACH = 5.0


@part("f8(f8[:,:], i8, i8, i8, f8[:]!, f8[:,:])")
def _improve(points, low, high, stride, u, c):  # type: ignore[no-untyped-def]
    """One Newton step for every parameter. Returns the greatest squared distance before the step."""
    worst = 0.0
    k = 0
    i = low
    while True:
        t = u[k]
        o = 1.0 - t
        b0, b1, b2, b3 = bernstein(t)
        bx = b0 * c[0, 0] + b1 * c[1, 0] + b2 * c[2, 0] + b3 * c[3, 0]
        by = b0 * c[0, 1] + b1 * c[1, 1] + b2 * c[2, 1] + b3 * c[3, 1]
        dx, dy = bx - points[i, 0], by - points[i, 1]
        worst = max(worst, dx * dx + dy * dy)
        vx = 3 * (o * o * (c[1, 0] - c[0, 0]) + 2 * t * o * (c[2, 0] - c[1, 0]) + t * t * (c[3, 0] - c[2, 0]))
        vy = 3 * (o * o * (c[1, 1] - c[0, 1]) + 2 * t * o * (c[2, 1] - c[1, 1]) + t * t * (c[3, 1] - c[2, 1]))
        wx = 6 * (o * (c[2, 0] - 2 * c[1, 0] + c[0, 0]) + t * (c[3, 0] - 2 * c[2, 0] + c[1, 0]))
        wy = 6 * (o * (c[2, 1] - 2 * c[1, 1] + c[0, 1]) + t * (c[3, 1] - 2 * c[2, 1] + c[1, 1]))
        slope = vx * vx + vy * vy + dx * wx + dy * wy
        if slope > 1e-12 and 0.0 < t < 1.0:
            u[k] = min(1.0, max(0.0, t - (dx * vx + dy * vy) / slope))
        if i == high:
            break
        i = min(high, i + stride)
        k += 1
    return worst


@part("void(f8[:,:], i8, i8, i8, f8[:], f8, f8, f8, f8, f8[:,:]!)")
def _handles(points, low, high, stride, u, ax, ay, bx, by, c):  # type: ignore[no-untyped-def]
    """Set the handles of c along the tangents (ax, ay) forward and (bx, by) backward, by least squares."""
    c00, c01, c11, r0, r1 = 0.0, 0.0, 0.0, 0.0, 0.0
    k = 0
    i = low
    tangents = ax * bx + ay * by
    while True:
        t = u[k]
        b0, b1, b2, b3 = bernstein(t)
        px = points[i, 0] - c[0, 0] * (b0 + b1) - c[3, 0] * (b2 + b3)
        py = points[i, 1] - c[0, 1] * (b0 + b1) - c[3, 1] * (b2 + b3)
        c00 += b1 * b1
        c01 += b1 * b2 * tangents
        c11 += b2 * b2
        r0 += b1 * (ax * px + ay * py)
        r1 += b2 * (bx * px + by * py)
        if i == high:
            break
        i = min(high, i + stride)
        k += 1
    chord = np.sqrt((c[3, 0] - c[0, 0]) ** 2 + (c[3, 1] - c[0, 1]) ** 2)
    determinant = c00 * c11 - c01 * c01
    first, second = chord / 3, chord / 3
    if determinant > 1e-9:
        first, second = (r0 * c11 - r1 * c01) / determinant, (c00 * r1 - c01 * r0) / determinant
    shortest = 0.04 * chord
    # Handles that both reach past the middle along the chord would draw a loop.
    ahead = (ax * (c[3, 0] - c[0, 0]) + ay * (c[3, 1] - c[0, 1])) / max(1e-9, chord)
    back = (bx * (c[0, 0] - c[3, 0]) + by * (c[0, 1] - c[3, 1])) / max(1e-9, chord)
    longest, farthest = min(1.4, 1.0 / max(0.1, ahead)) * chord, min(1.4, 1.0 / max(0.1, back)) * chord
    if first < shortest or first > longest:
        first = min(longest, max(shortest, first))
        second = (r1 - c01 * first) / max(c11, 1e-9)
    if second < shortest or second > farthest:
        second = min(farthest, max(shortest, second))
        first = min(longest, max(shortest, (r0 - c01 * second) / max(c00, 1e-9)))
    c[1, 0], c[1, 1] = c[0, 0] + first * ax, c[0, 1] + first * ay
    c[2, 0], c[2, 1] = c[3, 0] + second * bx, c[3, 1] + second * by


@part("void(f8[:,:], i8, i8, i8, f8[:], f8[:,:]!)")
def _free_handles(points, low, high, stride, u, c):  # type: ignore[no-untyped-def]
    """Set both handles of c freely, by least squares; leaves them where that is not determined."""
    a11, a12, a22 = 0.0, 0.0, 0.0
    x1, x2, y1, y2 = 0.0, 0.0, 0.0, 0.0
    k = 0
    i = low
    while True:
        t = u[k]
        b0, b1, b2, b3 = bernstein(t)
        px, py = points[i, 0] - b0 * c[0, 0] - b3 * c[3, 0], points[i, 1] - b0 * c[0, 1] - b3 * c[3, 1]
        a11 += b1 * b1
        a12 += b1 * b2
        a22 += b2 * b2
        x1 += b1 * px
        x2 += b2 * px
        y1 += b1 * py
        y2 += b2 * py
        if i == high:
            break
        i = min(high, i + stride)
        k += 1
    determinant = a11 * a22 - a12 * a12
    if determinant > 1e-4:
        c[1, 0], c[2, 0] = (x1 * a22 - x2 * a12) / determinant, (a11 * x2 - a12 * x1) / determinant
        c[1, 1], c[2, 1] = (y1 * a22 - y2 * a12) / determinant, (a11 * y2 - a12 * y1) / determinant


@part("void(f8[:], i8, i8, i8, f8[:]!)")
def _spread_evenly(s, low, high, stride, u):  # type: ignore[no-untyped-def]
    """First guess of the parameters: as arc length is shared out."""
    whole = max(1e-12, s[high] - s[low])
    k = 0
    i = low
    while True:
        u[k] = (s[i] - s[low]) / whole
        if i == high:
            break
        i = min(high, i + stride)
        k += 1


@part("f8(f8[:,:], f8[:], i8, i8, i8, f8[:], f8[:], b1, f8, f8[:]!, f8[:,:]!)")
def _fit_rounds(points, s, low, high, stride, start, end, free, tolerance, u, c):  # type: ignore[no-untyped-def]
    """Handles and parameters by turns, at every so many points. Returns the greatest distance there."""
    _spread_evenly(s, low, high, stride, u)
    worst = 0.0
    limit = tolerance * tolerance
    good, hopeless = (0.3 * limit, 36.0 * limit) if tolerance < LOOSE else (limit, 9.0 * limit)
    for round_ in range(ROUNDS):
        if free and round_ > 0 and high - low >= 6 * stride:
            _free_handles(points, low, high, stride, u, c)
        else:
            _handles(points, low, high, stride, u, start[0], start[1], -end[0], -end[1], c)
        before, worst = worst, _improve(points, low, high, stride, u, c)
        if tolerance < LOOSE:
            worst = _improve(points, low, high, stride, u, c)
        if round_ >= 1 and (worst > hopeless or worst <= good):
            break
        if round_ >= 2 and worst - limit > (ROUNDS - 1 - round_) * (before - worst):
            break  # it will not come within the tolerance any more: each round gains less than the one before
    return np.sqrt(worst)


@kernel("f8(f8[:,:], f8[:], i8, i8, f8[:], f8[:], b1, f8, f8[:]!, f8[:,:]!)")
def fit_segment(points, s, low, high, start, end, free, tolerance, u, c):  # type: ignore[no-untyped-def]
    """One cubic from point low to point high. start, end : (2,) unit tangents, both pointing along the path.

    free: the tangents are only a first guess. u : scratch. Writes c : (4, 2) and returns the greatest distance.
    """
    c[0, 0], c[0, 1], c[3, 0], c[3, 1] = points[low, 0], points[low, 1], points[high, 0], points[high, 1]
    stride = max(1, (high - low) // MOST_SAMPLES)
    worst = _fit_rounds(points, s, low, high, stride, start, end, free, tolerance, u, c)
    if stride == 1 or worst > tolerance:
        return worst
    # What was fitted to a few is measured at all, and fitted to all only where it does not hold.
    _spread_evenly(s, low, high, 1, u)
    for _ in range(ROUNDS):
        worst = np.sqrt(_improve(points, low, high, 1, u, c))
    if worst > tolerance:
        worst = _fit_rounds(points, s, low, high, 1, start, end, free, tolerance, u, c)
    return worst


@part("i8(f8[:,:], f8[:], i8, i8, f8[:], f8[:], b1, b1, f8, f8[:]!, f8[:,:,:]!, f8[:]!)")
def _reach_by_reach(points, s, low, high, start, end, free_start, free_end, tolerance, u, out, worst):  # type: ignore[no-untyped-def]
    """Cubics from low to high, each as long as it can be. Writes out : (M, 4, 2). Returns how many."""
    used = 0
    from_ = low
    tangent = start.copy()
    local = np.empty(4)
    trial, best = np.empty((4, 2)), np.empty((4, 2))
    worst[0] = 0.0
    while True:
        free = free_start and free_end and from_ == low
        error = fit_segment(points, s, from_, high, tangent, end, free, tolerance, u, trial)
        if error <= tolerance or high - from_ <= 2:
            copy_rows(out[used], trial)
            worst[0] = max(worst[0], error)
            return used + 1
        reached, beyond = from_ + 1, high
        best_error = -1.0
        guess = min(high - 1, from_ + 8)
        while beyond - reached > max(1, (beyond - from_) // PARTS):
            steady_tangent(points, s, guess, low, high, TANGENT_REACH, local)
            error = fit_segment(points, s, from_, guess, tangent, local[2:4], False, tolerance, u, trial)
            if error <= tolerance:
                reached, best_error = guess, error
                copy_rows(best, trial)
                guess = min((reached + beyond) // 2, from_ + 2 * (reached - from_)) if beyond == high else (reached + beyond) // 2
            else:
                beyond = guess
                guess = (reached + beyond) // 2
            if guess <= reached:
                break
        if best_error < 0.0:
            reached = min(high - 1, from_ + 2)
            steady_tangent(points, s, reached, low, high, TANGENT_REACH, local)
            best_error = fit_segment(points, s, from_, reached, tangent, local[2:4], False, tolerance, u, best)
        steady_tangent(points, s, reached, low, high, TANGENT_REACH, local)
        copy_rows(out[used], best)
        used += 1
        worst[0] = max(worst[0], best_error)
        from_ = reached
        tangent[0], tangent[1] = local[2], local[3]


@kernel("i8(f8[:,:], f8[:], i8, i8, f8[:], f8[:], b1, b1, f8, f8[:]!, f8[:,:,:]!, f8[:,:,:]!, f8[:]!)")
def fit_curve(points, s, low, high, start, end, free_start, free_end, tolerance, u, out, spare, worst):  # type: ignore[no-untyped-def]
    """Cubics through points low..high with tangents start, end : (2,), which are only guesses where `free`.

    out, spare : (M, 4, 2) with room for high - low + 1 segments; worst : (1,) receives the greatest distance. Returns
    how many segments there are.
    """
    count = _reach_by_reach(points, s, low, high, start, end, free_start, free_end, tolerance, u, out, worst)
    if count > 24:
        return count
    tight, loose = 0.3 * tolerance, tolerance
    error = np.empty(1)
    for _ in range(EVENINGS if count > 1 and tolerance < LOOSE else 0):
        middle = 0.5 * (tight + loose)
        fewer = _reach_by_reach(points, s, low, high, start, end, free_start, free_end, middle, u, spare, error)
        if fewer <= count:
            count = fewer
            copy_segments(out, spare[:count])
            worst[0] = error[0]
            loose = middle
        else:
            tight = middle
    if tolerance < LOOSE:
        polish_curves(points, low, free_start, free_end, tolerance, out[:count], worst)
    return count
