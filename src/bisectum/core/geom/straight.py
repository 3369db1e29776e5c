"""Straight stretches of a measured outline: where it truly is straight, not just hardly bent.

Any smooth curve is straight to the noise over some length. A stretch is taken for a line only if two things hold. Its own
curvature is no more than the noise explains. And at both ends the outline goes on with a curvature that the stretch could
not hide: where a line ends curvature jumps, along a gentle curve it does not.

Both follow from least squares with Legendre polynomials P over a stretch of n points, length l and noise s. The standard
error of the coefficient of P_2 is s √(5 / n), and it adds the curvature 12 / l². A cubic part, as about a point of inflection,
that strays by d (root mean square) has the coefficient d √7 of P_3, and adds 60 / l² at both ends.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.local_fit import WINDOW, fit_line, fit_stretch, line_sums
from bisectum.core.raster.compiled import kernel, part

LEAST_NOISE = 0.012  # px; edges of clean pictures are off by so much
CERTAIN = 4.0  # standard errors beyond which something is no accident
MOST_HIDDEN = 2.0  # times what a cubic part hides: higher ones hide more
MIDDLE, END = 12.0 * np.sqrt(5.0), 60.0 * np.sqrt(7.0)  # see above
NEAR = 4.0  # px from a corner within which a line runs up to it; px beyond an end that are looked at first, then twice as many


@part("f8(f8[:,:], f8[:], i8, i8)")
def _curvature(points, s, low, high):  # type: ignore[no-untyped-def]
    """The mean curvature of a stretch, without its sign."""
    out = np.empty(5)
    if high - low < 3 or fit_stretch(points, s, low, high, 0.5 * (s[low] + s[high]), 2, out) < 0.0:
        return 0.0
    return abs(out[4])


@part("f8(f8[:], i8, i8, f8)")
def _standard_error(s, low, high, noise):  # type: ignore[no-untyped-def]
    """The standard error of a stretch's curvature."""
    length = s[high] - s[low]
    return MIDDLE * noise / (length * length * np.sqrt(high - low + 1.0))


@part("b1(f8[:,:], f8[:], i8, i8, f8, f8, f8)")
def _bends_beyond(points, s, at, last, most, hidden, noise):  # type: ignore[no-untyped-def]
    """Whether the outline beyond point `at`, up to point `last` and no farther than `most` px, bends by more than `hidden`."""
    reach = NEAR
    step = 1 if last > at else -1
    far = at
    while far != last and reach <= max(NEAR, most):
        while far != last and abs(s[far] - s[at]) < reach:
            far += step
        low, high = min(at, far), max(at, far)
        if high - low >= 3 and _curvature(points, s, low, high) - 2.0 * _standard_error(s, low, high, noise) > hidden:
            return True
        reach *= 2.0
    return False


@part("b1(f8[:,:], f8[:], i8, i8, i8, i8, f8, f8, b1, b1)")
def _is_line(points, s, a, b, low, high, noise, deviation, sharp_start, sharp_end):  # type: ignore[no-untyped-def]
    """Whether stretch a..b of low..high is a line, see above. sharp: the outline has a corner at low, at high."""
    noise = max(noise, LEAST_NOISE)
    length = s[b] - s[a]
    # At its ends a stretch reaches a little into the bends beside it.
    c, d = a, b
    while s[c] - s[a] < 0.1 * length:
        c += 1
    while s[b] - s[d] < 0.1 * length:
        d -= 1
    if d - c >= 3 and _curvature(points, s, c, d) > CERTAIN * _standard_error(s, c, d, noise):
        return False
    hidden = MOST_HIDDEN * END * deviation / (length * length)
    return ((s[a] - s[low] < NEAR and sharp_start) or _bends_beyond(points, s, a, low, length, hidden, noise)) and (
        (s[high] - s[b] < NEAR and sharp_end) or _bends_beyond(points, s, b, high, length, hidden, noise))


@part("i8(f8[:,:], f8[:], i8, i8, f8, i8[:,:]!)")
def _candidates(points, s, low, high, deviation, spans):  # type: ignore[no-untyped-def]
    """Stretches within low..high that a line fits to `deviation` (root mean square), each as long as it can be.

    spans : (N, 2) receives their first and last points. Returns how many there are.
    """
    sums = line_sums(points, s)
    count = 0
    j = low
    reached = low
    for i in range(low, high - WINDOW):
        j = max(j, i + WINDOW)
        rms = fit_line(sums, i, j)
        if rms < 0.0 or rms > deviation:
            continue
        while j < high:
            rms = fit_line(sums, i, j + 1)
            if rms < 0.0 or rms > deviation:
                break
            j += 1
        if j <= reached:  # it is part of the one before
            continue
        reached = j
        if count and s[spans[count - 1, 1]] - s[i] > 0.5 * (s[j] - s[i]):  # along a bend each point begins one: the longer
            if s[j] - s[i] <= s[spans[count - 1, 1]] - s[spans[count - 1, 0]]:
                continue
            count -= 1
        spans[count, 0], spans[count, 1] = i, j
        count += 1
    return count


@part("b1(i8[:,:], i8, i8, i8)")
def _is_apart(runs, used, a, b):  # type: ignore[no-untyped-def]
    apart = True
    for k in range(used):
        apart = apart and (a >= runs[k, 1] or b <= runs[k, 0])
    return apart


@kernel("i8(f8[:,:], f8[:], i8, i8, f8, b1, b1, i8[:,:]!)")
def find_straights(points, s, low, high, noise, sharp_start, sharp_end, runs):  # type: ignore[no-untyped-def]
    """Lines among points low..high, in order; of those that overlap the longest counts.

    points : (N, 2), s : (N,) arc lengths. noise: px. sharp_start, sharp_end: the outline has a corner
    there. runs : (M, 2) receives the first and last point of each, none more than M. Returns how many.
    """
    spans = np.empty((max(0, high - low) + 1, 2), np.int64)
    deviation = max(LEAST_NOISE, 1.5 * noise)
    count = _candidates(points, s, low, high, deviation, spans)
    used = 0
    while used < len(runs):
        best, k = 0.0, -1
        for i in range(count):
            length = s[spans[i, 1]] - s[spans[i, 0]]
            if length > best:
                best, k = length, i
        if k < 0:
            break
        a, b = spans[k, 0], spans[k, 1]
        spans[k, 1] = a  # done with
        if not _is_apart(runs, used, a, b) or not _is_line(
                points, s, a, b, low, high, noise, deviation, sharp_start, sharp_end):
            continue
        runs[used, 0], runs[used, 1] = a, b
        used += 1
    for k in range(used):  # put them in order
        for i in range(k, 0, -1):
            if runs[i, 0] < runs[i - 1, 0]:
                for c in range(2):
                    runs[i, c], runs[i - 1, c] = runs[i - 1, c], runs[i, c]
    return used


@part("f8(f8[:,:], f8[:], i8, i8, f8)")
def _bend_beyond(points, s, at, last, most):  # type: ignore[no-untyped-def]
    """The greatest curvature over one of a few lengths beyond point `at`."""
    reach, greatest = NEAR, 0.0
    step = 1 if last > at else -1
    far = at
    while far != last and reach <= most:
        while far != last and abs(s[far] - s[at]) < reach:
            far += step
        greatest = max(greatest, _curvature(points, s, min(at, far), max(at, far)))
        reach *= 2.0
    return greatest


@part("void(f8[:,:], f8[:], i8, i8, f8, i8[:]!, f8[:]!)")
def end_straight(points, s, low, high, noise, run, line):  # type: ignore[no-untyped-def]
    """Put both ends of a line where the outline begins to bend. run : (2,) its first and last point, moved inwards.

    A stretch that a line fits reaches into the bends beside it. Its middle gives the line; where points leave it by d, two
    standard deviations, a bend of curvature k began up to √(2 d / k) before: half of that is taken. line : (4,) receives a
    place and the direction.
    """
    a, b = run[0], run[1]
    inner = 0.15 * (s[b] - s[a])
    c, d = a, b
    while c < b and s[c] - s[a] < inner:
        c += 1
    while d > c and s[b] - s[d] < inner:
        d -= 1
    fit_stretch(points, s, c, d, s[c], 1, line)
    away = 2.0 * max(noise, LEAST_NOISE)
    for end in range(2):
        step = 1 if end == 0 else -1
        i = run[end]
        if i == (low if end == 0 else high):
            continue
        stop = c if end == 0 else d
        while i != stop and abs((points[i, 0] - line[0]) * line[3] - (points[i, 1] - line[1]) * line[2]) > away:
            i += step
        bend = _bend_beyond(points, s, i, low if end == 0 else high, s[b] - s[a])
        back = 0.5 * np.sqrt(2.0 * away / max(bend, 1e-9))
        reached = s[i]
        while i != stop and abs(s[i] - reached) < back:
            i += step
        run[end] = i
