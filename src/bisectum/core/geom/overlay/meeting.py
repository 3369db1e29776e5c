"""Where cubics meet: crossings of two of them, and the nearest place on one.

Both halve curves until what is left is as good as straight, and leave out at once what lies too far apart (the subdivision of
T. Sederberg, Computer Aided Geometric Design, chapter 7). A crossing is then made exact by Newton's method.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_rows
from bisectum.core.raster.bernstein import bernstein
from bisectum.core.raster.compiled import kernel, part

FLAT = 2e-6  # mm: what strays less from its chord is straight
MARGIN = 1e-8  # mm about every box, or crossings that lie just on a cut of both curves get lost
DEPTH = 160  # halves that wait to be looked at; a cubic is straight after some twenty halvings
MOST = 12  # crossings of two cubics; there are never more than nine


@part("f8(f8[:,:])")
def bend_of(p):  # type: ignore[no-untyped-def]
    """How far a cubic (4, 2) strays from its chord walked evenly, at most."""
    worst = 0.0
    for c in range(2):
        worst = max(worst, abs(p[1, c] - (2.0 * p[0, c] + p[3, c]) / 3.0), abs(p[2, c] - (p[0, c] + 2.0 * p[3, c]) / 3.0))
    return worst


@part("void(f8[:,:], f8[:,:]!, f8[:,:]!)")
def halve(p, first, second):  # type: ignore[no-untyped-def]
    """Both halves of a cubic (P. de Casteljau). `first` or `second` may be `p` itself."""
    for c in range(2):
        a, b, d, e = p[0, c], p[1, c], p[2, c], p[3, c]
        ab, bd, de = 0.5 * (a + b), 0.5 * (b + d), 0.5 * (d + e)
        abd, bde = 0.5 * (ab + bd), 0.5 * (bd + de)
        middle = 0.5 * (abd + bde)
        first[0, c], first[1, c], first[2, c], first[3, c] = a, ab, abd, middle
        second[0, c], second[1, c], second[2, c], second[3, c] = middle, bde, de, e


@part("b1(f8[:,:], f8[:,:])")
def _apart(p, q):  # type: ignore[no-untyped-def]
    for c in range(2):
        if (min(p[0, c], p[1, c], p[2, c], p[3, c]) > max(q[0, c], q[1, c], q[2, c], q[3, c]) + MARGIN
                or min(q[0, c], q[1, c], q[2, c], q[3, c]) > max(p[0, c], p[1, c], p[2, c], p[3, c]) + MARGIN):
            return True
    return False


@part("b1(f8[:,:], f8, f8, f8)")
def _within(p, x, y, reach):  # type: ignore[no-untyped-def]
    """Whether all of a cubic lies within `reach` of a place: its four places do."""
    farthest = 0.0
    for k in range(4):
        farthest = max(farthest, (p[k, 0] - x) ** 2 + (p[k, 1] - y) ** 2)
    return farthest <= reach * reach


@part("UniTuple(f8, 4)(f8[:,:], f8)")
def _place_and_way(p, t):  # type: ignore[no-untyped-def]
    w0, w1, w2, w3 = bernstein(t)
    o = 1.0 - t
    v0, v1, v2 = 3.0 * o * o, 6.0 * o * t, 3.0 * t * t
    return (w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0],
            w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1],
            v0 * (p[1, 0] - p[0, 0]) + v1 * (p[2, 0] - p[1, 0]) + v2 * (p[3, 0] - p[2, 0]),
            v0 * (p[1, 1] - p[0, 1]) + v1 * (p[2, 1] - p[1, 1]) + v2 * (p[3, 1] - p[2, 1]))


@part("UniTuple(f8, 2)(f8[:,:], f8[:,:], f8, f8)")
def _exact(p, q, t, u):  # type: ignore[no-untyped-def]
    """A crossing by Newton's method from a place nearby, which is kept where that leads away from it."""
    t0, u0 = t, u
    for _ in range(6):
        px, py, ax, ay = _place_and_way(p, t)
        qx, qy, bx, by = _place_and_way(q, u)
        dx, dy = qx - px, qy - py
        turn = ax * by - ay * bx
        if abs(turn) < 1e-12 * np.sqrt((ax * ax + ay * ay) * (bx * bx + by * by)):
            break
        dt, du = (dx * by - dy * bx) / turn, (dx * ay - dy * ax) / turn
        t, u = t + dt, u + du
        if abs(dt) + abs(du) < 1e-14:
            break
    if abs(t - t0) > 1e-3 or abs(u - u0) > 1e-3 or not (0.0 <= t <= 1.0 and 0.0 <= u <= 1.0):
        return t0, u0
    return t, u


@part("b1(f8[:,:], f8[:,:], f8[:,:], i8, f8)")
def _about_shared(a, b, shared, shares, near):  # type: ignore[no-untyped-def]
    """Whether two pieces lie within `near` of one of the first `shares` places in `shared`."""
    known = False
    for k in range(shares):
        known |= _within(a, shared[k, 0], shared[k, 1], near) and _within(b, shared[k, 0], shared[k, 1], near)
    return known


@part("i8(f8[:,:], f8[:,:], f8[:,:], i8, f8, f8[:,:]!, f8[:,:,:]!, f8[:,:]!)")
def crossings_of(p, q, shared, shares, near, found, curves, ranges):  # type: ignore[no-untyped-def]
    """Crossings of two cubics, but none within `near` of the first `shares` places in `shared`, where both end.

    Writes t on p and u on q into found (MOST, 2); returns how many. curves (2 DEPTH, 4, 2), ranges (DEPTH, 4): room to work.
    """
    copy_rows(curves[0], p)
    copy_rows(curves[1], q)
    ranges[0, 0], ranges[0, 1], ranges[0, 2], ranges[0, 3] = 0.0, 1.0, 0.0, 1.0
    waiting, count = 1, 0
    while waiting > 0:
        waiting -= 1
        a, b = curves[2 * waiting], curves[2 * waiting + 1]
        if _apart(a, b):
            continue
        if _about_shared(a, b, shared, shares, near):
            continue
        t0, t1, u0, u1 = ranges[waiting, 0], ranges[waiting, 1], ranges[waiting, 2], ranges[waiting, 3]
        bend_a, bend_b = bend_of(a), bend_of(b)
        if bend_a <= FLAT and bend_b <= FLAT:
            ax, ay, bx, by = a[3, 0] - a[0, 0], a[3, 1] - a[0, 1], b[3, 0] - b[0, 0], b[3, 1] - b[0, 1]
            turn = ax * by - ay * bx
            if turn == 0.0:
                continue
            dx, dy = b[0, 0] - a[0, 0], b[0, 1] - a[0, 1]
            s, v = (dx * by - dy * bx) / turn, (dx * ay - dy * ax) / turn
            # Either piece strays from its chord by FLAT; past their ends they are the business of the next ones.
            over_a = 2.0 * FLAT / max(np.sqrt(ax * ax + ay * ay), FLAT)
            over_b = 2.0 * FLAT / max(np.sqrt(bx * bx + by * by), FLAT)
            if not (-over_a <= s <= 1.0 + over_a and -over_b <= v <= 1.0 + over_b):
                continue
            s, v = min(1.0, max(0.0, s)), min(1.0, max(0.0, v))
            t, u = _exact(p, q, t0 + s * (t1 - t0), u0 + v * (u1 - u0))
            x, y, _, _ = _place_and_way(p, t)
            known = False
            for k in range(shares):
                known |= (x - shared[k, 0]) ** 2 + (y - shared[k, 1]) ** 2 <= near * near
            for k in range(count):
                ox, oy, _, _ = _place_and_way(p, found[k, 0])
                known |= (x - ox) ** 2 + (y - oy) ** 2 < 0.25 * near * near
            if not known and count < MOST:
                found[count, 0], found[count, 1] = t, u
                count += 1
            continue
        if waiting + 2 > DEPTH:
            continue
        if bend_a >= bend_b:
            middle = 0.5 * (t0 + t1)
            copy_rows(curves[2 * waiting + 3], b)
            halve(a, curves[2 * waiting], curves[2 * waiting + 2])
            ranges[waiting, 1] = middle
            ranges[waiting + 1, 0], ranges[waiting + 1, 1], ranges[waiting + 1, 2], ranges[waiting + 1, 3] = middle, t1, u0, u1
        else:
            middle = 0.5 * (u0 + u1)
            copy_rows(curves[2 * waiting + 2], a)
            halve(b, curves[2 * waiting + 1], curves[2 * waiting + 3])
            ranges[waiting, 3] = middle
            ranges[waiting + 1, 0], ranges[waiting + 1, 1], ranges[waiting + 1, 2], ranges[waiting + 1, 3] = t0, t1, middle, u1
        waiting += 2
    return count


@part("UniTuple(f8, 2)(f8[:,:], f8, f8, f8, f8[:,:,:]!, f8[:,:]!)")
def nearest_on(p, x, y, reach, curves, ranges):  # type: ignore[no-untyped-def]
    """The nearest place of a cubic to x, y, if it lies within `reach`: its t and distance, or -1 and `reach`.

    curves (2 DEPTH, 4, 2), ranges (DEPTH, 4): room to work.
    """
    best, where = reach, -1.0
    copy_rows(curves[0], p)
    ranges[0, 0], ranges[0, 1] = 0.0, 1.0
    waiting = 1
    while waiting > 0:
        waiting -= 1
        a = curves[waiting]
        away = 0.0
        for c in range(2):
            place = x if c == 0 else y
            low, high = min(a[0, c], a[1, c], a[2, c], a[3, c]), max(a[0, c], a[1, c], a[2, c], a[3, c])
            gap = max(low - place, place - high, 0.0)
            away += gap * gap
        if away > best * best:
            continue
        t0, t1 = ranges[waiting, 0], ranges[waiting, 1]
        if bend_of(a) <= FLAT or waiting + 2 > 2 * DEPTH:
            ax, ay = a[3, 0] - a[0, 0], a[3, 1] - a[0, 1]
            along = ((x - a[0, 0]) * ax + (y - a[0, 1]) * ay) / max(ax * ax + ay * ay, 1e-300)
            along = min(1.0, max(0.0, along))
            distance = np.sqrt((a[0, 0] + along * ax - x) ** 2 + (a[0, 1] + along * ay - y) ** 2)
            if distance < best or (distance == best and where < 0.0):
                best, where = distance, t0 + along * (t1 - t0)
            continue
        middle = 0.5 * (t0 + t1)
        halve(a, curves[waiting], curves[waiting + 1])
        ranges[waiting, 1] = middle
        ranges[waiting + 1, 0], ranges[waiting + 1, 1] = middle, t1
        waiting += 2
    return where, best


@kernel("i8(f8[:,:,:], i4[:,:], f8[:,:], i8[:,:], f8, i8[:]!, f8[:,:]!)")
def cross_pairs(curves, ends, vertices, pairs, near, owner, found):  # type: ignore[no-untyped-def]
    """Crossings of pairs of curves, none within `near` of vertices that both end at.

    curves : (N, 4, 2); ends : (N, 2) into vertices : (V, 2); pairs : (M, 2). owner : (K,) the pair, found : (K, 2) t and u
    are written. Returns how many there are; only the first K are written.
    """
    stack, ranges, own = np.empty((2 * DEPTH, 4, 2)), np.empty((2 * DEPTH, 4)), np.empty((MOST, 2))
    shared = np.empty((2, 2))
    used = 0
    for m in range(len(pairs)):
        i, j = pairs[m, 0], pairs[m, 1]
        shares = 0
        for k in range(2):
            if ends[i, k] == ends[j, 0] or ends[i, k] == ends[j, 1]:
                shared[shares, 0], shared[shares, 1] = vertices[ends[i, k], 0], vertices[ends[i, k], 1]
                shares += 1
        for k in range(crossings_of(curves[i], curves[j], shared, shares, near, own, stack, ranges)):
            if used < len(owner):
                owner[used] = m
                found[used, 0], found[used, 1] = own[k, 0], own[k, 1]
            used += 1
    return used


@kernel("void(f8[:,:,:], f8[:,:], i8[:,:], f8, f8[:,:]!)")
def project_pairs(curves, places, pairs, reach, found):  # type: ignore[no-untyped-def]
    """For each pair of a curve (N, 4, 2) and a place (V, 2): t and distance of the nearest place of the curve, t = -1 where
    none lies within `reach`. found : (M, 2) is written."""
    stack, ranges = np.empty((2 * DEPTH, 4, 2)), np.empty((2 * DEPTH, 4))
    for m in range(len(pairs)):
        place = places[pairs[m, 1]]
        found[m, 0], found[m, 1] = nearest_on(curves[pairs[m, 0]], place[0], place[1], reach, stack, ranges)


@kernel("void(f8[:,:,:], i8[:,:], f8, b1[:]!)")
def run_together(curves, pairs, within, together):  # type: ignore[no-untyped-def]
    """Which pairs of curves with the same ends lie within `within` of each other all along. together : (M,) is written."""
    stack, ranges = np.empty((2 * DEPTH, 4, 2)), np.empty((2 * DEPTH, 4))
    for m in range(len(pairs)):
        together[m] = True
        for turn in range(2):
            p, q = curves[pairs[m, turn]], curves[pairs[m, 1 - turn]]
            for k in range(1, 8):
                x, y, _, _ = _place_and_way(p, k / 8.0)
                if nearest_on(q, x, y, within, stack, ranges)[0] < 0.0:
                    together[m] = False
                    break
            if not together[m]:
                break
