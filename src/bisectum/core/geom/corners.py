"""Corners of a polyline measured along an edge: where two smooth sides meet at an angle.

A bend in the chords proposes a corner; lines or parabolas fitted to both sides, leaving out the rounded places next to
it, decide. The corner is put where the two sides, carried on, meet.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_row
from bisectum.core.geom.local_fit import fit_stretch, index_after, index_before, nearest_from
from bisectum.core.raster.compiled import kernel, part

SPOILT = 1.9  # px about a corner or a junction within which a place sees more than one side
SKIP = 1.4  # px next to a corner that its own rounding spoils
LONGEST_SIDE = 12.0  # px of side that are tried first, then a third less each time


@part("void(f8[:,:], f8[:], f8, f8[:]!)")
def _bends(points, s, noise, bends):  # type: ignore[no-untyped-def]
    """The angle in radians between the chords before and behind each point; a gap beside it is one chord."""
    outer = 2.6 if noise < 0.12 else 6.5
    for i in range(len(points)):
        a, b = index_before(s, i, outer), index_before(s, i, 0.7)
        c, d = index_after(s, i, 0.7), index_after(s, i, outer)
        if s[b] - s[a] < 0.9:
            b = i
        if s[d] - s[c] < 0.9:
            c = i
        bends[i] = 0.0
        if s[b] - s[a] < 0.9 or s[d] - s[c] < 0.9:
            continue
        ux, uy = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
        vx, vy = points[d, 0] - points[c, 0], points[d, 1] - points[c, 1]
        bends[i] = abs(np.arctan2(ux * vy - uy * vx, ux * vx + uy * vy))


@part("b1(f8[:,:], f8[:], i8, f8, f8, f8, b1, f8[:]!)")
def _side(points, s, i, limit, skip, noise, before, out):  # type: ignore[no-untyped-def]
    """Fit the side before or behind point i, no further than arc length `limit`. out: as fit_stretch, at s[i].

    The longest stretch that is a line or a parabola to the noise; failing that, the best of the short ones.
    """
    straight, bent = max(0.02, 1.7 * noise), max(0.03, 2.0 * noise)
    near = index_before(s, i, skip) if before else index_after(s, i, skip)
    room = abs(s[near] - limit) + 1e-9 if (s[near] > limit) == before else 0.0
    smallest = 1e9
    kept = out.copy()
    wanted, is_last = LONGEST_SIDE, False
    while not is_last:
        is_last = wanted < 2.0 * SKIP
        length = room if is_last else wanted
        wanted *= 2.0 / 3.0
        if length > room:
            continue
        far = index_before(s, near, length) if before else index_after(s, near, length)
        if abs(s[far] - s[near]) > room:
            far += 1 if before else -1
        low, high = (far, near) if before else (near, far)
        rms = fit_stretch(points, s, low, high, s[i], 1, out)
        if 0.0 <= rms <= straight:
            return True
        if 0.0 <= rms < smallest:
            smallest = rms
            copy_row(kept, out)
        if high - low >= 4:
            rms = fit_stretch(points, s, low, high, s[i], 2, out)
            if 0.0 <= rms <= bent:
                return True
    if smallest == 1e9 and skip == SKIP:
        # An edge of a few pixels up to a junction: even the places next to the corner must do.
        near = index_before(s, i, 0.5 * skip) if before else index_after(s, i, 0.5 * skip)
        far = near
        while 0 < far < len(s) - 1 and abs(s[far] - s[near]) < 2.0 * skip and (s[far] - limit > 0.0) == before:
            far += -1 if before else 1
        rms = fit_stretch(points, s, min(far, near), max(far, near), s[i], 1, out)
        return 0.0 <= rms < 0.25 and abs(s[far] - s[near]) > 1.0
    copy_row(out, kept)
    return smallest < 0.25


@part("b1(f8[:], f8[:], f8[:]!)")
def _meeting(left, right, out):  # type: ignore[no-untyped-def]
    """Where two sides, carried on as parabolas, meet (Newton's method).

    left, right : (5,). out : (6,) receives the place and both directions there.
    """
    t, u, apart = 0.0, 0.0, 0.0
    for _ in range(8):
        lx, ly = left[2] - left[3] * left[4] * t, left[3] + left[2] * left[4] * t  # directions at t and u
        rx, ry = right[2] - right[3] * right[4] * u, right[3] + right[2] * right[4] * u
        bend, turn = 0.5 * left[4] * t * t, 0.5 * right[4] * u * u
        dx = right[0] + right[2] * u - right[3] * turn - left[0] - left[2] * t + left[3] * bend
        dy = right[1] + right[3] * u + right[2] * turn - left[1] - left[3] * t - left[2] * bend
        cross = lx * ry - ly * rx
        if abs(cross) < 0.03 or abs(t) > 60.0 or abs(u) > 60.0:
            return False
        t += (dx * ry - dy * rx) / cross
        u += (dx * ly - dy * lx) / cross
        apart = dx * dx + dy * dy
        if apart < 1e-12:
            break
    if apart > 1e-4:
        return False
    bend = 0.5 * left[4] * t * t
    out[0], out[1] = left[0] + left[2] * t - left[3] * bend, left[1] + left[3] * t + left[2] * bend
    lx, ly = left[2] - left[3] * left[4] * t, left[3] + left[2] * left[4] * t
    rx, ry = right[2] - right[3] * right[4] * u, right[3] + right[2] * right[4] * u
    size, other = np.sqrt(lx * lx + ly * ly), np.sqrt(rx * rx + ry * ry)
    out[2], out[3], out[4], out[5] = lx / size, ly / size, rx / other, ry / other
    return True


@part("f8(f8[:,:], f8[:], i8, f8, f8, f8, f8[:]!, f8[:]!)")
def _angle_at(points, s, i, start, stop, noise, left, right):  # type: ignore[no-untyped-def]
    """Fit the sides before and behind point i, no farther than `start` and `stop`. Returns the angle between, 0 without both."""
    skip = SKIP
    angle = 0.0
    for round_ in range(2):
        if not (_side(points, s, i, start, skip, noise, True, left)
                and _side(points, s, i, stop, skip, noise, False, right)):
            return 0.0
        angle = abs(np.arctan2(left[2] * right[3] - left[3] * right[2], left[2] * right[2] + left[3] * right[3]))
        sharp = min(4.0, max(SKIP, 1.1 / max(0.05, np.tan((np.pi - angle) / 2))))
        if round_ == 1 or sharp <= skip + 0.2:
            break
        skip = sharp
    return angle


@part("i8(f8[:], f8[:], f8, f8, i8[:]!)")
def _candidates(s, bends, least, alone, candidates):  # type: ignore[no-untyped-def]
    """Points where the chords bend most within `alone` px; the neighbour across a gap counts too. Returns how many."""
    n = len(s)
    count = 0
    for i in range(n):
        if bends[i] < 0.8 * least:
            continue
        greatest = True
        j = i - 1
        while greatest and j >= 0 and (s[i] - s[j] <= alone or j == i - 1):
            greatest = bends[j] < bends[i]
            j -= 1
        j = i + 1
        while greatest and j < n and (s[j] - s[i] <= alone or j == i + 1):
            greatest = bends[j] <= bends[i]
            j += 1
        if greatest:
            candidates[count] = i
            count += 1
    return count


@kernel("f8(f8[:])")
def turn_of(sides):  # type: ignore[no-untyped-def]
    """The angle between a corner's sides, radians. sides : (10,) as find_corners writes them."""
    return abs(np.arctan2(sides[0] * sides[3] - sides[1] * sides[2], sides[0] * sides[2] + sides[1] * sides[3]))


@part("void(f8[:], f8[:], f8, f8, f8, f8[:]!, f8[:]!)")
def _put(left, right, x, y, farthest, place, sides):  # type: ignore[no-untyped-def]
    """Put a corner near point (x, y) where its sides meet, or at the point where they meet nowhere near."""
    meeting = np.empty(6)
    met = _meeting(left, right, meeting) and (meeting[0] - x) ** 2 + (meeting[1] - y) ** 2 <= farthest * farthest
    place[0], place[1] = (meeting[0], meeting[1]) if met else (x, y)
    for c in range(2):
        sides[c], sides[2 + c] = (meeting[2 + c], meeting[4 + c]) if met else (left[2 + c], right[2 + c])
        sides[6 + c], sides[8 + c] = (meeting[c], meeting[c]) if met else (left[c], right[c])
    sides[4], sides[5] = left[4], right[4]


@kernel("i8(f8[:,:], f8[:], i8, i8, f8, f8, f8, i8[:]!, f8[:,:]!, f8[:]!, f8[:,:]!)")
def find_corners(points, s, low, high, noise, least, farthest, indices, places, radii, sides):  # type: ignore[no-untyped-def]
    """Corners among points low..high (the points beyond only help to see the sides).

    points : (N, 2), s : (N,) arc lengths. noise: deviation of the points, px. least: smallest angle, radians. farthest:
    px the sides may meet from the points, unless these have a gap there. Writes the nearest point's index, the corner's
    place (x, y), the distance within which points are spoilt, and in sides : (N, 10) the unit tangents before and behind,
    both curvatures, and a place on each. Returns how many.
    """
    n = len(points)
    bends = np.empty(n)
    _bends(points, s, noise, bends)
    candidates = np.empty(n, np.int64)
    count = _candidates(s, bends, least, 2.2 if noise < 0.015 else 3.2, candidates)
    left, right = np.empty(5), np.empty(5)
    used = 0
    for k in range(count):
        i = candidates[k]
        if i < low or i > high:
            continue
        start = s[candidates[k - 1]] + 1.2 if k > 0 else s[0]
        stop = s[candidates[k + 1]] - 1.2 if k + 1 < count else s[n - 1]
        angle = _angle_at(points, s, i, start, stop, noise, left, right)
        if angle < least:
            continue
        gap = max(s[min(n - 1, i + 1)] - s[i], s[i] - s[max(0, i - 1)])
        _put(left, right, points[i, 0], points[i, 1], max(farthest, 2.5 + gap), places[used], sides[used])
        if turn_of(sides[used]) < least:
            continue
        i = nearest_from(points, i, 1, places[used, 0], places[used, 1])
        i = min(high, max(low, nearest_from(points, i, -1, places[used, 0], places[used, 1])))
        indices[used] = i
        radii[used] = max(SPOILT if noise < 0.12 else 3.2, min(4.0, 1.1 / max(0.05, np.tan((np.pi - angle) / 2))))
        used += 1
    return used
