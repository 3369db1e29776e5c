"""Around each vertex, along each face: the order of edges at vertices, the rounds about faces, and what lies in what.

A *half-edge* is an edge in one direction: 2e forward, 2e + 1 backward; its face is the one to its right, y down.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.bernstein import bernstein
from bisectum.core.raster.compiled import kernel, part

STEPS = 24  # looks along a curve for the place where it leaves a circle, before it is made exact

HALVINGS = 26


@part("UniTuple(f8, 2)(f8[:,:], f8)")
def _place(p, t):  # type: ignore[no-untyped-def]
    w0, w1, w2, w3 = bernstein(t)
    return (w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0],
            w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1])


@kernel("void(f8[:,:,:], i4[:,:], f8[:], f8[:]!)")
def leaving_angles(curves, ends, radius, angles):  # type: ignore[no-untyped-def]
    """The direction in which each half-edge leaves a circle about its vertex; where it ends within it, that of its end.

    curves : (E, 4, 2); ends : (E, 2); radius : (V,). angles : (2 E,), radians clockwise as seen from level to the right.
    """
    for half in range(2 * len(curves)):
        p, back = curves[half >> 1], half & 1
        own = 3 if back else 0
        x, y, reach = p[own, 0], p[own, 1], radius[ends[half >> 1, back]]
        low, high = 0.0, 1.0
        for k in range(1, STEPS + 1):
            # Steps are short at first: a circle may be left near the vertex and entered again.
            t = (k / STEPS) ** 3
            px, py = _place(p, 1.0 - t if back else t)
            if (px - x) ** 2 + (py - y) ** 2 >= reach * reach:
                high = t
                break
            low = t
        for _ in range(HALVINGS):
            t = 0.5 * (low + high)
            px, py = _place(p, 1.0 - t if back else t)
            if (px - x) ** 2 + (py - y) ** 2 >= reach * reach:
                high = t
            else:
                low = t
        px, py = _place(p, 1.0 - high if back else high)
        angles[half] = np.arctan2(py - y, px - x)


@kernel("i8(i8[:], i8[:], i8[:]!)")
def rounds(following, halves, number):  # type: ignore[no-untyped-def]
    """Number the rounds that half-edges form. following : (2 E,); halves: where to begin, in order. Returns how many."""
    count = 0
    for k in range(len(halves)):
        half = halves[k]
        if number[half] >= 0:
            continue
        while number[half] < 0:
            number[half] = count
            half = following[half]
        count += 1
    return count


@kernel("void(f8[:,:,:], f8[:,:]!)")
def leftmost(curves, places):  # type: ignore[no-untyped-def]
    """The place of each curve (E, 4, 2) that lies farthest to the left. places : (E, 2) is written."""
    for e in range(len(curves)):
        p = curves[e]
        own = 0 if p[0, 0] <= p[3, 0] else 3
        places[e, 0], places[e, 1] = p[own, 0], p[own, 1]
        if min(p[1, 0], p[2, 0]) >= places[e, 0]:
            continue
        a = -p[0, 0] + 3.0 * p[1, 0] - 3.0 * p[2, 0] + p[3, 0]
        b, c = 2.0 * (p[0, 0] - 2.0 * p[1, 0] + p[2, 0]), p[1, 0] - p[0, 0]
        root = b * b - 4.0 * a * c
        if root < 0.0:
            continue
        q = -0.5 * (b + (np.sqrt(root) if b >= 0.0 else -np.sqrt(root)))
        for k in range(2):
            t = -1.0
            if k == 0 and a != 0.0:
                t = q / a
            elif k == 1 and q != 0.0:
                t = c / q
            if 0.0 < t < 1.0:
                x, y = _place(p, t)
                if x < places[e, 0]:
                    places[e, 0], places[e, 1] = x, y


@part("UniTuple(f8, 2)(f8[:,:], f8, f8)")
def _left_of(p, x, y):  # type: ignore[no-untyped-def]
    """Where a curve crosses the level y farthest to the right, but left of x, and 1 if it runs down there; minus infinity
    where it does not."""
    best, down = -np.inf, 0.0
    # The curve in stretches that only rise or only fall.
    a = -p[0, 1] + 3.0 * p[1, 1] - 3.0 * p[2, 1] + p[3, 1]
    b, c = 2.0 * (p[0, 1] - 2.0 * p[1, 1] + p[2, 1]), p[1, 1] - p[0, 1]
    t0, root = 0.0, b * b - 4.0 * a * c
    first, second = 2.0, 2.0
    if root > 0.0:
        q = -0.5 * (b + (np.sqrt(root) if b >= 0.0 else -np.sqrt(root)))
        one = q / a if a != 0.0 else 2.0
        other = c / q if q != 0.0 else 2.0
        first, second = min(one, other), max(one, other)
    for k in range(3):
        t1 = 1.0
        if k == 0 and 0.0 < first < 1.0:
            t1 = first
        elif k <= 1 and 0.0 < second < 1.0:
            t1 = second
        if t1 <= t0:
            continue
        y0, y1 = _place(p, t0)[1], _place(p, t1)[1]
        if t0 == 0.0:
            y0 = p[0, 1]
        if t1 == 1.0:
            y1 = p[3, 1]
        if (y0 < y) != (y1 < y):
            low, high = t0, t1
            for _ in range(60):
                t = 0.5 * (low + high)
                if (_place(p, t)[1] < y) == (y0 < y):
                    low = t
                else:
                    high = t
            at = _place(p, 0.5 * (low + high))[0]
            if at < x and at > best:
                best, down = at, 1.0 if y1 > y0 else 0.0
        t0 = t1
    return best, down


@kernel("i8(f8[:,:,:], i4[:], f8[:,:], i4[:], i8[:,:]!, i8[:]!, i4[:]!)")
def hit_to_the_left(curves, parts, places, own, hits, first, members):  # type: ignore[no-untyped-def]
    """The edge that a ray to the left from each place meets first, of another part of the net than its own.

    curves : (E, 4, 2); parts : (E,); places : (N, 2); own : (N,) the part of each. hits : (N, 2) is written: the edge, or -1;
    and 1 where it runs down at that place, else 0. first : (strips + 1,), zeros, members : (M,): room for the edges of level
    strips; returns how large M must be where it is too small, else 0.
    """
    reach = np.empty((len(curves), 3))
    low, high = np.inf, -np.inf
    for e in range(len(curves)):
        p = curves[e]
        reach[e, 0] = min(p[0, 1], p[1, 1], p[2, 1], p[3, 1])
        reach[e, 1] = max(p[0, 1], p[1, 1], p[2, 1], p[3, 1])
        reach[e, 2] = min(p[0, 0], p[1, 0], p[2, 0], p[3, 0])
        low, high = min(low, reach[e, 0]), max(high, reach[e, 1])
    strips = len(first) - 1
    tall = max((high - low) / strips, 1e-9)
    for turn in range(2):  # count the edges of each strip, then write them down
        for e in range(len(curves)):
            for strip in range(int((reach[e, 0] - low) / tall), min(strips - 1, int((reach[e, 1] - low) / tall)) + 1):
                if turn == 0:
                    first[strip + 1] += 1
                elif first[strip] < len(members):
                    members[first[strip]] = e
                    first[strip] += 1
        if turn == 0:
            for strip in range(strips):
                first[strip + 1] += first[strip]
            if first[strips] > len(members):
                return first[strips]
    for n in range(len(places)):
        x, y = places[n, 0], places[n, 1]
        best, hits[n, 0], hits[n, 1] = -np.inf, -1, 0
        strip = int((y - low) / tall)
        if strip < 0 or strip >= strips:
            continue
        for k in range(first[strip - 1] if strip else 0, first[strip]):
            e = members[k]
            if parts[e] == own[n] or reach[e, 0] > y or reach[e, 1] < y or reach[e, 2] >= x:
                continue
            at, down = _left_of(curves[e], x, y)
            if at > best:
                best, hits[n, 0], hits[n, 1] = at, e, int(down)
    return 0


@kernel("i8(i8[:], i8[:], i8[:], i4[:,:], i8[:]!, i4[:,:]!, b1[:]!, i8[:]!)")
def spread(first, halves, right, change, order, labels, known, waiting):  # type: ignore[no-untyped-def]
    """Labels of all faces from those known, over their edges: the left one is the right one and the edge's change.

    first : (F + 1,), halves : (2 E,): the half-edges of each face; right : (2 E,) face of each; change : (E, I); order: faces to
    begin with. labels : (F, I), known : (F,) are written. Returns at how many edges the labels contradict each other.
    """
    for k in range(len(order)):
        used = 1
        waiting[0] = order[k]
        while used:
            used -= 1
            face = waiting[used]
            for at in range(first[face], first[face + 1]):
                half = halves[at]
                other = right[half ^ 1]
                if known[other]:
                    continue
                # Of a half-edge that runs forward the other face is the left one.
                sign = 1 if half & 1 == 0 else -1
                for i in range(change.shape[1]):
                    labels[other, i] = labels[face, i] + sign * change[half >> 1, i]
                known[other] = True
                waiting[used] = other
                used += 1
    wrong = 0
    for e in range(len(change)):
        for i in range(change.shape[1]):
            if labels[right[2 * e + 1], i] - labels[right[2 * e], i] != change[e, i]:
                wrong += 1
                break
    return wrong
