"""What a corner really is, told by how much of the pixels about it are covered.

Points along an edge say little within two pixels of a sharp corner: a short edge across its tip is lost on them, and a
narrow bend looks like a corner. The pixels know: the coverage of the wedge between both sides is compared with the
picture's, with its tip sharp, cut off or rounded, and what agrees best is taken (Gauss-Newton).
"""

from __future__ import annotations

from enum import IntEnum

import numpy as np

from bisectum.core.geom.copying import copy_row
from bisectum.core.geom.corners import SKIP, SPOILT
from bisectum.core.geom.joint import OPPOSITE
from bisectum.core.geom.local_fit import nearest_from
from bisectum.core.geom.solve import solve_damped
from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.share import CLEARLY, NOTHING
from bisectum.core.raster.surface import colour_at
from bisectum.core.raster.wedge import (
    AHEAD,
    BACK,
    BESIDE,
    OF_ALL,
    OF_SIDES,
    RADIUS,
    change_wedge,
    on_side,
    shares_about,
    wedge_misfit,
    wedge_slopes,
)

ROOM = 5.5  # px about a corner's points that are looked at, and more where they are away from it
CERTAIN = 3.5  # px from its points within which a corner is believed without the picture
NOISE_GAIN = 16.0  # squared shares for the square of the points' noise, that are nothing either
UPRIGHT = 0.07  # shares off that an edge across a tip counts for each px it leans: a narrow tip hardly tells
ANY = np.inf  # no bound to a sum of squared shares


class Verdict(IntEnum):
    """What a corner is by its pixels."""

    SHARP = 0  # where its sides meet
    CUT = 1  # with an edge across its tip
    BENT = 2  # a narrow bend, no corner
    UNSURE = 3


@part("f8(f8[:,:], i8, f8[:], f8[:]!, f8[:]!)")
def _rounding(seen, count, wedge, tip, off):  # type: ignore[no-untyped-def]
    """The least sum of squared differences from the wedge with its tip rounded by some radius from SKIP on."""
    best = ANY
    tip[RADIUS] = SKIP
    while tip[RADIUS] < 14.0:
        misfit = wedge_misfit(seen, count, wedge, tip, False, 1.3 * best, off)
        if misfit > 1.3 * best:
            break
        best = min(best, misfit)
        tip[RADIUS] *= 1.12
    tip[RADIUS] = 0.0
    return best


@kernel("f8(f8[:])")
def _turn(wedge):  # type: ignore[no-untyped-def]
    """The angle between the sides of a wedge, radians."""
    return abs(np.arctan2(wedge[2] * wedge[8] - wedge[3] * wedge[7], wedge[2] * wedge[7] + wedge[3] * wedge[8]))


@part("UniTuple(f8, 2)(f8[:], f8[:])")
def _lean(wedge, tip):  # type: ignore[no-untyped-def]
    """How far one end of the edge across a tip lies deeper in it than the other, at most 1 px, times UPRIGHT.

    And by how much that grows for each px that it is cut farther back, or less far ahead.
    """
    ax, ay, _, _ = on_side(wedge, 0, -tip[BACK])
    bx, by, _, _ = on_side(wedge, 1, tip[AHEAD])
    x, y = wedge[2] - wedge[7], wedge[3] - wedge[8]
    size = max(1e-9, np.sqrt(x * x + y * y))
    lean = ((bx - ax) * x + (by - ay) * y) / size
    return UPRIGHT * max(-1.0, min(1.0, lean)), (0.5 * size * UPRIGHT if abs(lean) < 1.0 else 0.0)


@part("void(f8[:,:], i8, f8[:], f8[:], f8[:], i8, i8, f8[:,:]!, f8[:]!)")
def _normal_equations(slopes, count, off, wedge, tip, low, high, matrix, step):  # type: ignore[no-untyped-def]
    """Gauss-Newton's equations for the changes low..high - 1 of a wedge. slopes, off: of the pixels."""
    lean, slope = _lean(wedge, tip)
    leans = np.zeros(OF_ALL)
    leans[OF_ALL - 2], leans[OF_ALL - 1] = slope, -slope
    for a in range(low, high):
        step[a - low] = -leans[a] * lean
        for i in range(count):
            step[a - low] += slopes[a, i] * off[i]
        for b in range(low, a + 1):
            total = leans[a] * leans[b]
            for i in range(count):
                total += slopes[a, i] * slopes[b, i]
            matrix[a - low, b - low] = matrix[b - low, a - low] = total


@part("f8(f8[:,:], i8, f8[:], f8[:], i8, f8[:]!)")
def _cost(seen, count, wedge, tip, high, off):  # type: ignore[no-untyped-def]
    """Squared shares off, and what the edge across a tip costs for leaning. off receives the differences."""
    lean = _lean(wedge, tip)[0] if high == OF_ALL else 0.0
    return wedge_misfit(seen, count, wedge, tip, high == OF_ALL, ANY, off) + lean * lean


@part("f8(f8[:,:], i8, f8[:]!, f8[:]!, i8, i8, f8[:]!)")
def _aim(seen, count, wedge, tip, low, high, off):  # type: ignore[no-untyped-def]
    """Make the changes low..high - 1 of a wedge, as change_wedge has them, until it agrees best with the pixels.

    Returns the squared shares left over.
    """
    n = high - low
    slopes, other = np.empty((OF_ALL, count)), np.empty(count)
    matrix, vector, work, step = np.empty((n, n)), np.empty(n), np.empty((n, n)), np.empty(n)
    trial, ends = np.empty(11), np.empty(3)
    best, damping, moved = _cost(seen, count, wedge, tip, high, off), 1e-3, True
    while damping < 1e3:
        if moved:
            wedge_slopes(seen, count, wedge, tip, high == OF_ALL, slopes)
            _normal_equations(slopes, count, off, wedge, tip, low, high, matrix, vector)
        if not solve_damped(matrix, vector, damping, work, step):
            break
        copy_row(trial, wedge)
        copy_row(ends, tip)
        for k in range(n):
            change_wedge(trial, ends, low + k, step[k])
        cost = _cost(seen, count, trial, ends, high, other)
        moved = cost < best
        damping *= 0.3 if moved else 8.0
        if moved:
            done = best - cost < 0.02 * best
            copy_row(wedge, trial)
            copy_row(tip, ends)
            copy_row(off, other)
            best = cost
            if done:
                break
    return best


@part("f8(f8[:,:], i8, f8[:]!, f8[:]!, f8[:]!)")
def _cut_back(seen, count, wedge, tip, off):  # type: ignore[no-untyped-def]
    """Find how far a wedge is cut off along both sides. tip receives that. Returns the squared shares left over."""
    trial = np.zeros(3)
    best = ANY
    for step in range(21):  # straight across, at places along the tip
        trial[BACK] = trial[AHEAD] = 0.6 * step - 6.0
        misfit = wedge_misfit(seen, count, wedge, trial, True, best, off)
        if misfit < best:
            best, tip[BACK], tip[AHEAD] = misfit, trial[BACK], trial[AHEAD]
    return _aim(seen, count, wedge, tip, OF_SIDES, OF_ALL, off)


@part("b1(f8[:], f8[:]!)")
def _apex(wedge, out):  # type: ignore[no-untyped-def]
    """Where the tangents of a wedge's sides meet. out : (2,)."""
    cross = wedge[2] * wedge[8] - wedge[3] * wedge[7]
    if abs(cross) < 0.03:
        return False
    along = ((wedge[5] - wedge[0]) * wedge[8] - (wedge[6] - wedge[1]) * wedge[7]) / cross
    out[0], out[1] = wedge[0] + along * wedge[2], wedge[1] + along * wedge[3]
    return True


@part("b1(f8[:], f8[:], f8, f8, f8)")
def _is_near(wedge, tip, x, y, room):  # type: ignore[no-untyped-def]
    """Whether a wedge's corner, or both ends of the edge across its tip, lie about (x, y)."""
    ax, ay, _, _ = on_side(wedge, 0, -tip[BACK])
    bx, by, _, _ = on_side(wedge, 1, tip[AHEAD])
    if tip[BACK] != 0.0 or tip[AHEAD] != 0.0:
        return max((ax - x) ** 2 + (ay - y) ** 2, (bx - x) ** 2 + (by - y) ** 2) < min(ROOM, room) ** 2
    apex = np.empty(2)
    return _apex(wedge, apex) and (apex[0] - x) ** 2 + (apex[1] - y) ** 2 < CERTAIN**2


@part("i8(f8[:,:], i8, f8, f8, f8, f8, f8, f8[:]!, f8[:]!)")
def _verdict(seen, used, noise, least, x, y, room, wedge, tip):  # type: ignore[no-untyped-def]
    """What a corner near (x, y) is by its pixels. least: the smallest turn of a corner, radians.

    Of a sharp one the wedge may have been aimed; one that is cut is so as `tip` says.
    """
    off, trial, ends = np.empty(used), np.empty(11), np.empty(3)
    tip[:] = 0.0
    nothing = NOTHING + NOISE_GAIN * noise * noise
    sharp = wedge_misfit(seen, used, wedge, tip, False, ANY, off)
    if sharp < nothing:
        return Verdict.SHARP
    blunt = _cut_back(seen, used, wedge, tip, off)
    rounded = _rounding(seen, used, wedge, tip, off)
    if sharp - rounded > nothing and rounded < blunt + nothing:  # an edge across has a number more to explain it by
        return Verdict.BENT
    copy_row(trial, wedge)
    ends[:] = 0.0
    aimed = _aim(seen, used, trial, ends, 0, OF_SIDES, off)
    is_bend = _turn(trial) < least  # its sides, free to bend, do without a corner
    is_cut = CLEARLY * blunt < sharp and _is_near(wedge, tip, x, y, room)
    if is_cut and blunt < CLEARLY * nothing and not (is_bend and aimed < blunt):
        return Verdict.CUT
    if is_bend:
        return Verdict.BENT
    if aimed < CLEARLY * nothing and _is_near(trial, ends, x, y, room):
        copy_row(wedge, trial)
        return Verdict.SHARP
    copy_row(trial, wedge)
    copy_row(ends, tip)
    both = _aim(seen, used, trial, ends, 0, OF_ALL, off)
    if (both < CLEARLY * nothing or (is_cut and both < blunt)) and _is_near(trial, ends, x, y, room):
        copy_row(wedge, trial)
        copy_row(tip, ends)
        return Verdict.CUT
    return Verdict.BENT if rounded < sharp else Verdict.UNSURE


@part("void(f8[:,:], i8, f8[:], f8[:], i8[:]!, f8[:,:]!, f8[:]!, f8[:,:]!)")
def _part(points, k, wedge, tip, indices, places, radii, sides):  # type: ignore[no-untyped-def]
    """Write corner k as the first and corner k + 1 as the second end of the edge across a cut tip."""
    x, y, ux, uy = on_side(wedge, 0, -tip[BACK])
    ex, ey, vx, vy = on_side(wedge, 1, tip[AHEAD])
    across = max(1e-9, np.sqrt((ex - x) ** 2 + (ey - y) ** 2))
    indices[k + 1] = nearest_from(points, indices[k], 1, ex, ey)
    indices[k] = nearest_from(points, indices[k], -1, x, y)
    places[k, 0], places[k, 1], places[k + 1, 0], places[k + 1, 1] = x, y, ex, ey
    radii[k], radii[k + 1] = SPOILT, SPOILT
    sides[k, 0], sides[k, 1], sides[k + 1, 2], sides[k + 1, 3] = ux, uy, vx, vy
    sides[k, 2], sides[k, 3] = (ex - x) / across, (ey - y) / across
    sides[k + 1, 0], sides[k + 1, 1] = sides[k, 2], sides[k, 3]


@part("i8(f8[:,:], i8, f8, f8[:,:]!, i8)")
def _without_others(points, index, room, seen, used):  # type: ignore[no-untyped-def]
    """Leave out pixels the chain comes by again farther along. seen: see shares_about. Returns how many are left."""
    n = len(points)
    x, y = points[index % n, 0], points[index % n, 1]
    skip = int(2.0 * room)  # it must have left the room and come back
    for i in range(index + skip, index + n - skip):
        px, py = points[i % n, 0], points[i % n, 1]
        if (px - x) ** 2 + (py - y) ** 2 > (room + BESIDE) ** 2:
            continue
        kept = 0
        for p in range(used):
            if (seen[p, 0] + 0.5 - px) ** 2 + (seen[p, 1] + 0.5 - py) ** 2 > BESIDE**2:
                copy_row(seen[kept], seen[p])
                kept += 1
        used = kept
    return used


@part("void(f8[:], f8[:]!)")
def _wedge_between(sides, wedge):  # type: ignore[no-untyped-def]
    """The wedge between a corner's sides : (10,), as find_corners gives them."""
    for which in range(2):
        wedge[5 * which], wedge[5 * which + 1] = sides[6 + 2 * which], sides[7 + 2 * which]
        wedge[5 * which + 2], wedge[5 * which + 3] = sides[2 * which], sides[2 * which + 1]
        wedge[5 * which + 4] = sides[4 + which]
    wedge[10] = 1.0 if sides[0] * sides[3] - sides[1] * sides[2] > 0.0 else -1.0


@kernel("i8(f8[:,:], u1[:,:,:], f8[:], f8[:,:,:], i8, i8, f8, f8, i8, i8[:]!, f8[:,:]!, f8[:]!, f8[:,:]!)")
def fit_tips(  # type: ignore[no-untyped-def]
    points, image, light, surfaces, left, right, noise, least, count, indices, places, radii, sides
):
    """Give every corner whose tip is cut off its two nodes, aim what is off, and take out what is a narrow bend.

    points : (N, 2), those of the chain; image, light, surfaces: see Blending; left, right: labels of a chain's
    sides; noise: deviation of the points, px; least: smallest turn of a corner, radians. The rest as find_corners gives
    it, with room for twice as many. A corner far from its points that the pixels do not bear out goes back to them.
    Returns how many corners there are now.
    """
    wedge, inner, outer, tip, apex = np.empty(11), np.empty(4), np.empty(4), np.zeros(3), np.empty(2)
    k = 0
    while k < count:
        x, y = points[indices[k] % len(points), 0], points[indices[k] % len(points), 1]
        _wedge_between(sides[k], wedge)
        u, v = 2.0 * x / image.shape[1] - 1.0, 2.0 * y / image.shape[0] - 1.0
        away = np.sqrt((places[k, 0] - x) ** 2 + (places[k, 1] - y) ** 2)
        room = ROOM + min(4.0, away)
        for other in range(k - 1, k + 2, 2):
            if 0 <= other < count:
                room = min(room, np.sqrt((places[other, 0] - x) ** 2 + (places[other, 1] - y) ** 2) - 1.0)
        room = max(room, CERTAIN)
        seen = np.empty((int(2.0 * room + 2.0) ** 2, 3))
        verdict = Verdict.UNSURE
        for _ in range(2 if sides[k, 0] * sides[k, 2] + sides[k, 1] * sides[k, 3] < -OPPOSITE else 1):
            colour_at(surfaces, right if wedge[10] > 0.0 else left, u, v, inner)
            colour_at(surfaces, left if wedge[10] > 0.0 else right, u, v, outer)
            used = shares_about(image, light, inner, outer, wedge, x, y, room, seen)
            used = _without_others(points, indices[k], room, seen, used)
            verdict = _verdict(seen, used, noise, least, x, y, room, wedge, tip) if used > OF_ALL else Verdict.UNSURE
            if verdict == Verdict.CUT:
                break
            wedge[10] = -wedge[10]
        if verdict == Verdict.SHARP:
            if _apex(wedge, apex) and (apex[0] - x) ** 2 + (apex[1] - y) ** 2 < (ROOM + 2.0) ** 2:
                places[k, 0], places[k, 1] = apex[0], apex[1]
                indices[k] = nearest_from(points, nearest_from(points, indices[k], 1, apex[0], apex[1]), -1, apex[0], apex[1])
        elif verdict == Verdict.UNSURE and used <= OF_ALL and away > CERTAIN:
            places[k, 0], places[k, 1] = x, y
        elif verdict == Verdict.BENT:
            for j in range(k + 1, count):
                indices[j - 1], radii[j - 1] = indices[j], radii[j]
                copy_row(places[j - 1], places[j])
                copy_row(sides[j - 1], sides[j])
            count -= 1
            continue
        elif verdict == Verdict.CUT:
            for j in range(count, k, -1):
                indices[j], radii[j] = indices[j - 1], radii[j - 1]
                copy_row(places[j], places[j - 1])
                copy_row(sides[j], sides[j - 1])
            count += 1
            _part(points, k, wedge, tip, indices, places, radii, sides)
            k += 1
        k += 1
    return count
