"""One span between two corners: a line, or straight stretches and cubics that join smoothly.

A stretch that is straight to the noise is kept as a line with a node at each of its ends, and the curves beside it take
its direction, so lines run into curves without a bend.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_row
from bisectum.core.geom.fit import fit_curve
from bisectum.core.geom.local_fit import WINDOW, arc_lengths, fit_stretch, tangent_at
from bisectum.core.geom.straight import CERTAIN, LEAST_NOISE, NEAR, end_straight, find_straights
from bisectum.core.raster.compiled import kernel, part


@kernel("f8(f8[:,:], i8, i8)")
def farthest_from_chord(points, low, high):  # type: ignore[no-untyped-def]
    """Greatest distance of points low..high from the straight line between those two. points : (N, 2)."""
    dx, dy = points[high, 0] - points[low, 0], points[high, 1] - points[low, 1]
    size = np.sqrt(dx * dx + dy * dy)
    worst = 0.0
    for i in range(low + 1, high):
        ex, ey = points[i, 0] - points[low, 0], points[i, 1] - points[low, 1]
        if size < 1e-9:
            worst = max(worst, np.sqrt(ex * ex + ey * ey))
            continue
        along = (ex * dx + ey * dy) / size
        away = abs(ex * dy - ey * dx) / size
        if along < 0.0:
            away = np.sqrt(ex * ex + ey * ey)
        elif along > size:
            away = np.sqrt((points[i, 0] - points[high, 0]) ** 2 + (points[i, 1] - points[high, 1]) ** 2)
        worst = max(worst, away)
    return worst


@part("void(f8[:,:], i8, i8, f8[:,:,:]!, b1[:]!, i8)")
def put_line(points, low, high, out, straight, place):  # type: ignore[no-untyped-def]
    """Write the straight segment from point low to point high at out[place], handles at the thirds."""
    for axis in range(2):
        a, b = points[low, axis], points[high, axis]
        out[place, 0, axis], out[place, 3, axis] = a, b
        out[place, 1, axis], out[place, 2, axis] = a + (b - a) / 3, a + (b - a) * (2.0 / 3.0)
    straight[place] = True


@part("i8(f8[:,:]!, f8[:], f8, b1, b1, i8[:,:]!)")
def _straights(points, s, noise, sharp_start, sharp_end, runs):  # type: ignore[no-untyped-def]
    """Straight stretches of a span in order. runs : (M, 2) receives first and last point of each.

    Their end points are moved onto the line fitted to the stretch. Returns how many.
    """
    last = len(points) - 1
    line = np.empty(4)
    kept = 0
    count = find_straights(points, s, 0, last, noise, sharp_start, sharp_end, runs)
    for k in range(count):
        fit_stretch(points, s, runs[k, 0], runs[k, 1], s[runs[k, 0]], 1, line)
        on = CERTAIN * max(noise, LEAST_NOISE)
        if s[runs[k, 0]] < NEAR and abs((points[0, 0] - line[0]) * line[3] - (points[0, 1] - line[1]) * line[2]) < on:
            runs[k, 0] = 0
        if s[last] - s[runs[k, 1]] < NEAR and abs(
                (points[last, 0] - line[0]) * line[3] - (points[last, 1] - line[1]) * line[2]) < on:
            runs[k, 1] = last
        end_straight(points, s, 0, last, noise, runs[k], line)
        a, b = runs[k, 0], runs[k, 1]
        if b - a < 2:  # all of it bends
            continue
        for i in (a, b):
            if i != 0 and i != last:
                along = (points[i, 0] - line[0]) * line[2] + (points[i, 1] - line[1]) * line[3]
                points[i, 0], points[i, 1] = line[0] + along * line[2], line[1] + along * line[3]
        runs[kept, 0], runs[kept, 1] = a, b
        kept += 1
    return kept


@part("b1(f8[:,:]!, f8[:], i8[:,:], i8)")
def _meet(points, s, runs, k):  # type: ignore[no-untyped-def]
    """Let stretches k and k + 1 meet in one node, where they nearly touch. Moves both inner ends there."""
    b, c = runs[k, 1], runs[k + 1, 0]
    if s[c] - s[b] > 5.0:
        return False
    ux, uy = points[b, 0] - points[runs[k, 0], 0], points[b, 1] - points[runs[k, 0], 1]
    vx, vy = points[runs[k + 1, 1], 0] - points[c, 0], points[runs[k + 1, 1], 1] - points[c, 1]
    cross = ux * vy - uy * vx
    if abs(cross) < 0.02 * np.sqrt((ux * ux + uy * uy) * (vx * vx + vy * vy)):
        return False
    along = ((points[c, 0] - points[b, 0]) * vy - (points[c, 1] - points[b, 1]) * vx) / cross
    x, y = points[b, 0] + along * ux, points[b, 1] + along * uy
    if np.sqrt((x - points[b, 0]) ** 2 + (y - points[b, 1]) ** 2) > 5.0 or np.sqrt(
            (x - points[c, 0]) ** 2 + (y - points[c, 1]) ** 2) > 5.0:
        return False
    points[b, 0], points[b, 1], points[c, 0], points[c, 1] = x, y, x, y
    return True


@part("void(f8[:,:], i8, i8, f8[:]!)")
def _direction(points, low, high, out):  # type: ignore[no-untyped-def]
    dx, dy = points[high, 0] - points[low, 0], points[high, 1] - points[low, 1]
    size = max(1e-12, np.sqrt(dx * dx + dy * dy))
    out[0], out[1] = dx / size, dy / size


@part("i8(f8[:,:]!, f8[:], f8[:], b1, b1, b1, b1, f8, b1, f8, f8[:,:,:]!, b1[:]!, f8[:]!)")
def fit_span(points, start, end, free_start, free_end, sharp_start, sharp_end, noise, refined, tolerance, out, straight, worst):  # type: ignore[no-untyped-def]
    """Segments through points : (N, 2), both ends kept. start, end : (2,) tangents, zero where not known.

    free_start, free_end: that tangent is a guess, not a bond. sharp_start, sharp_end: see find_straights.

    refined: the points lie on the edge to a few hundredths; then lines are told from slight bends. Writes
    out : (M, 4, 2), straight : (M,), M ≥ N + 1; worst : (1,) is raised to the greatest distance. Returns how many.
    """
    n = len(points)
    # A line must hold to the noise, not just to the tolerance: one curve costs no more nodes and keeps round things round.
    slack = CERTAIN * max(noise, LEAST_NOISE) if refined else 0.5
    chord = farthest_from_chord(points, 0, n - 1)
    if (n <= 3 and chord <= max(slack, 0.5 * tolerance)) or (chord <= slack and ((free_start and free_end) or n <= 4)):
        put_line(points, 0, n - 1, out, straight, 0)
        worst[0] = max(worst[0], chord)
        return 1
    s = arc_lengths(points)
    runs = np.empty((n // WINDOW + 1, 2), np.int64)
    count = _straights(points, s, noise, sharp_start, sharp_end, runs) if refined and noise < 0.12 else 0
    u = np.empty(n + 2)
    spare = np.empty((n + 1, 4, 2))
    error = np.zeros(1)
    local, first, second = np.empty(4), np.empty(2), np.empty(2)
    used = 0
    at = 0
    for k in range(count + 1):
        low, high = at, (runs[k, 0] if k < count else n - 1)
        meets = 0 < k < count and _meet(points, s, runs, k - 1)
        if meets and used and straight[used - 1]:
            put_line(points, runs[k - 1, 0], runs[k - 1, 1], out, straight, used - 1)
        if high > low and not meets:
            loose_start, loose_end = k == 0 and free_start, k == count and free_end
            if k > 0:
                _direction(points, runs[k - 1, 0], runs[k - 1, 1], first)
            elif start[0] == 0.0 and start[1] == 0.0:
                tangent_at(points, s, low, low, high, 5.0, local)
                copy_row(first, local[2:4])
            else:
                copy_row(first, start)
            if k < count:
                _direction(points, runs[k, 0], runs[k, 1], second)
            elif end[0] == 0.0 and end[1] == 0.0:
                tangent_at(points, s, high, low, high, 5.0, local)
                copy_row(second, local[2:4])
            else:
                copy_row(second, end)
            added = fit_curve(points, s, low, high, first, second, loose_start, loose_end, tolerance, u, out[used:], spare, error)
            for i in range(added):
                straight[used + i] = False
            used += added
            worst[0] = max(worst[0], error[0])
        if k < count:
            put_line(points, runs[k, 0], runs[k, 1], out, straight, used)
            worst[0] = max(worst[0], farthest_from_chord(points, runs[k, 0], runs[k, 1]))
            used += 1
            at = runs[k, 1]
    return used
