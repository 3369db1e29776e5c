"""A whole chain of measured points as segments: corners first, then the spans between them."""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_row, copy_rows
from bisectum.core.geom.corners import find_corners
from bisectum.core.geom.local_fit import WINDOW, arc_lengths, steady_tangent
from bisectum.core.geom.span import fit_span, put_line
from bisectum.core.geom.straight import end_straight, find_straights
from bisectum.core.raster.compiled import kernel, part

BENDS = 40  # into so many parts a closed chain is divided; a bend is looked at over one to each side


@kernel("void(f8[:,:], i8, b1, f8, f8, f8[:,:], f8[:]!)")
def widen(points, count, closed, share, most, places, radii):  # type: ignore[no-untyped-def]
    """Spoil points about corners farther: by a share of the way to the nearer of its neighbours, but no farther than `most`.

    points : (N, 2); places : (count, 2), radii : (count,), of the corners.
    """
    for k in range(count):
        if radii[k] <= 0.0:
            continue
        nearest = 1e9
        for other in range(k - 1, k + 2, 2):
            inner = closed or 0 <= other < count
            place = places[other % count] if inner else points[0 if other < 0 else len(points) - 1]
            away = (place[0] - places[k, 0]) ** 2 + (place[1] - places[k, 1]) ** 2
            if not closed or count > 1:
                nearest = min(nearest, away)
        radii[k] = max(radii[k], min(most, share * np.sqrt(nearest)))


@part("i8(f8[:,:], i8, i8, f8[:,:], i8[:], f8[:], b1, f8[:,:]!)")
def _span_points(points, k, count, places, indices, radii, closed, out):  # type: ignore[no-untyped-def]
    """Points of the span from corner k to the next: both corners' places, and what lies clear of them between.

    For an open chain corners -1 and count are its ends. Returns how many there are.
    """
    n = len(points)
    if closed:
        here, there = k, (k + 1) % count
        low, high = indices[here] + 1, indices[there] + (n if k == count - 1 else 0)
    else:
        here, there = k, k + 1
        low = indices[here] + 1 if k >= 0 else 1
        high = indices[there] if there < count else n - 1
    first = places[here] if (closed or k >= 0) else points[0]
    last = places[there] if (closed or there < count) else points[n - 1]
    first_radius = radii[here] if (closed or k >= 0) else 0.0
    last_radius = radii[there] if (closed or there < count) else 0.0
    out[0, 0], out[0, 1] = first[0], first[1]
    used = 1
    # Both ends of a short edge spoil what points there are, and some that lie beside both.
    if (first[0] - last[0]) ** 2 + (first[1] - last[1]) ** 2 < (first_radius + last_radius) ** 2 and high <= low:
        high = low - 2
    for i in range(max(0, low - 1), min(high + 1, 2 * n)):
        x, y = points[i % n, 0], points[i % n, 1]
        if not closed and (i == 0 or i == n - 1):
            continue
        if (x - first[0]) ** 2 + (y - first[1]) ** 2 < first_radius**2 and i <= low + 6 + 1.5 * first_radius:
            continue
        if (x - last[0]) ** 2 + (y - last[1]) ** 2 < last_radius**2 and i >= high - 6 - 1.5 * last_radius:
            continue
        out[used, 0], out[used, 1] = x, y
        used += 1
    out[used, 0], out[used, 1] = last[0], last[1]
    return used + 1


@part("i8(f8[:,:])")
def _sharpest_bend(points):  # type: ignore[no-untyped-def]
    """The point of a closed chain about which it turns most: segments that begin there are the longest on both sides."""
    n = len(points)
    away = max(3, n // BENDS)
    sharpest, place = -1.0, 0
    for i in range(n):
        a, b = (i - away) % n, (i + away) % n
        ux, uy = points[i, 0] - points[a, 0], points[i, 1] - points[a, 1]
        vx, vy = points[b, 0] - points[i, 0], points[b, 1] - points[i, 1]
        turn = abs(np.arctan2(ux * vy - uy * vx, ux * vx + uy * vy))
        if turn > sharpest:
            sharpest, place = turn, i
    return place


@part("b1(f8[:,:], f8, b1, f8[:,:]!, f8[:]!)")
def _open_round(points, noise, refined, span, tangent):  # type: ignore[no-untyped-def]
    """Open a closed chain without corners, at a straight stretch if there is one. Returns whether there is.

    span : (N + 1, 2) receives its points from there on, and tangent : (4,) the place and the direction."""
    n = len(points)
    triple = np.empty((3 * n, 2))
    for i in range(3 * n):
        copy_row(triple[i], points[i % n])
    s = arc_lengths(triple)
    found = np.empty((n // WINDOW + 1, 2), np.int64)
    begin, best = n, 0.0
    if refined and noise < 0.12:
        count = find_straights(triple, s, n // 2, n // 2 + 2 * n, noise, False, False, found)
        for k in range(count):
            if s[found[k, 1]] - s[found[k, 0]] > best:
                best = s[found[k, 1]] - s[found[k, 0]]
                end_straight(triple, s, 0, len(s) - 1, noise, found[k], tangent)
                begin = found[k, 0]
                along = (triple[begin, 0] - tangent[0]) * tangent[2] + (triple[begin, 1] - tangent[1]) * tangent[3]
                tangent[0], tangent[1] = tangent[0] + along * tangent[2], tangent[1] + along * tangent[3]
    if best == 0.0:
        begin = n + _sharpest_bend(points)
        steady_tangent(triple, s, begin, 0, 3 * n - 1, 6.0, tangent)
    begin = n + (begin - n) % n
    copy_rows(span, triple[begin : begin + n + 1])
    span[0, 0], span[0, 1], span[n, 0], span[n, 1] = tangent[0], tangent[1], tangent[0], tangent[1]
    return best > 0.0


@kernel("i8(f8[:,:], b1, f8, f8, f8, i8[:]!, f8[:,:]!, f8[:]!, f8[:,:]!)")
def corners_of(points, closed, noise, least, farthest, indices, places, radii, sides):  # type: ignore[no-untyped-def]
    """Corners of a chain, as find_corners gives them, with room for N + 1. points : (N, 2)."""
    n = len(points)
    if n < 3:
        return 0
    if not closed:
        return find_corners(points, arc_lengths(points), 1, n - 2, noise, least, farthest, indices, places, radii, sides)
    around = np.empty((3 * n, 2))
    for i in range(3 * n):
        copy_row(around[i], points[i % n])
    many, spots, reach, ways = np.empty(3 * n, np.int64), np.empty((3 * n, 2)), np.empty(3 * n), np.empty((3 * n, 10))
    count = find_corners(around, arc_lengths(around), n, 2 * n - 1, noise, least, farthest, many, spots, reach, ways)
    for i in range(count):
        indices[i], radii[i] = many[i] - n, reach[i]
        copy_row(places[i], spots[i])
        copy_row(sides[i], ways[i])
    return count


@kernel("i8(f8[:,:], b1, i8, i8[:], f8[:,:], f8[:], f8[:,:], f8, b1, f8[:], f8[:,:,:]!, b1[:]!, f8[:]!)")
def fit_outline(points, closed, count, indices, places, radii, sides, noise, refined, tolerances, out, straight, worst):  # type: ignore[no-untyped-def]
    """Segments through a chain. points : (N, 2); an open chain's first and last point are its fixed ends.

    count, indices, places, radii, sides: its corners, see corners_of; one of radius 0 is a node on a smooth stretch, whose
    tangents bind. noise: deviation of the points, px; refined: see fit_span; tolerances : (count + 1,) px, of the span
    before the first corner, which a closed chain with corners has not, and of those behind each.

    Writes out : (M, 4, 2) and straight : (M,) with M ≥ 2 N + 4, and worst : (1,) the greatest distance of a point from its
    curve. Returns how many segments there are.
    """
    n = len(points)
    worst[0] = 0.0
    if n < 2:
        return 0
    if n == 2 and not closed:
        put_line(points, 0, 1, out, straight, 0)
        return 1
    if closed and count == 0:
        span, tangent = np.empty((n + 1, 2)), np.empty(4)
        at_line = _open_round(points, noise, refined, span, tangent)
        return fit_span(span, tangent[2:], tangent[2:], False, False, at_line, False, noise, refined, tolerances[0], out,
                        straight, worst)
    first, second = np.empty(2), np.empty(2)
    space = np.empty((2 * n + 4, 2))
    used = 0
    for k in range(0 if closed else -1, count):
        m = _span_points(points, k, count, places, indices, radii, closed, space)
        following = (k + 1) % count if closed else k + 1
        for c in range(2):  # zero: a tangent nobody knows yet, at the ends of an open chain
            first[c] = sides[k, 2 + c] if closed or k >= 0 else 0.0
            second[c] = sides[following, c] if following < count else 0.0
        free_start = not (closed or k >= 0) or radii[k] > 0.0
        free_end = following >= count or radii[following] > 0.0
        used += fit_span(space[:m], first, second, free_start, free_end, True, True, noise, refined, tolerances[k + 1],
                         out[used:], straight[used:], worst)
    return used
