"""What a corner really is, told by how much of the pixels about it are covered.

Points along an edge say little within two pixels of a sharp corner: a short edge across its tip is lost on them, and a
narrow bend looks like a corner. The pixels know: the coverage of the wedge between both sides is compared with the
picture's, with its tip sharp, cut off or rounded, and what agrees best is taken (Gauss-Newton).
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_row
from bisectum.core.geom.local_fit import nearest_from
from bisectum.core.geom.solve import solve
from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.surface import colour_at
from bisectum.core.raster.wedge import (
    AHEAD,
    BACK,
    RADIUS,
    change_wedge,
    on_side,
    shares_about,
    wedge_misfit,
    wedge_slopes,
)

ROOM = 5.5  # px about a corner's points that are looked at, and more where they are away from it
BESIDE_ANOTHER, LEAST_ROOM = 1.0, 3.5  # px that stay clear of the next corner, whose other side would be seen; but so many
DEEPEST = 8.0  # px from the points within which sides may meet in a corner
CERTAIN = 3.5  # px from its points within which a corner is believed without the picture
ACROSS = 0.3  # px, the shortest edge across a tip
GAIN = 0.006  # squared shares that an edge across a tip must explain
NOISE_GAIN = 16.0  # times the square of the points' noise, on top of that
DOUBT = 4.0  # times the same, from which a corner is asked whether it is one
TURN_LEFT, SLIGHT = 0.6, 0.8  # part of its turn, and radians, below which a wedge free to bend shows that there is no corner
CLEARLY = 0.85  # part of these, from which it need not bend any further
NO_START = 4.0  # times the squared shares a sharp tip leaves: cut tips that leave more are not looked at further
PART_LEFT = 0.3  # of the squared shares, at most, that may stay unexplained
ROUND = 1.4  # px of radius from which a tip is rounded rather than sharp
ROUNDER = 0.6  # part of the squared shares, at most, that a rounded tip leaves of those of a cut or a sharp one
WELL_AIMED = 4.0  # times the squared shares counted as nothing: what a wedge may leave that was moved to agree
BETTER = 0.06  # part of the squared shares that a well aimed wedge leaves of those it left before
NO_CORNER = 0.1  # squared shares left over by a wedge aimed as well as can be, from which it is none
LESS = 0.75  # part of the squared shares a rounded tip leaves, where a corner is none
SLOT = 0.985  # cosine from which two sides run against each other so that their turn may be either way
OFF = 40.0  # levels off the line between both colours: a third one is in the pixel
OFF_POINTS = 3.5  # px such an end may lie from the nearest point
SPOILT = 1.9  # px around an end of the edge across within which points are not used
ELSEWHERE, BESIDE = 2.0, 1.5  # times the room along the chain, from where it is another edge, and px about that it fills
LEAST_TURN = 0.3  # radians
FEWEST, MOST_SEEN = 12, 400  # pixels
UPRIGHT = 0.07  # shares off that an edge across a tip counts for each px it leans, up to one: a narrow tip hardly tells
ROUNDS = 6
UNITS = (1.0, 0.2, 0.08, 1.0, 0.2, 0.08, 1.0, 1.0)  # px, radians, 1 / px, px: changes that move an edge about equally far
STEP, DAMPING = 0.02, 0.02  # in these units
ANY = 1e9  # no bound to a sum of squared shares
SHARP, CUT, BENT, UNSURE, AT_POINT = 0, 1, 2, 3, 4


@part("f8(f8[:,:], i8, f8[:], f8[:]!, f8[:]!)")
def _rounding(seen, count, wedge, tip, off):  # type: ignore[no-untyped-def]
    """The least sum of squared differences from the wedge with its tip rounded by some radius from ROUND on."""
    best = ANY
    tip[RADIUS] = ROUND
    while tip[RADIUS] < 14.0:
        misfit = wedge_misfit(seen, count, wedge, tip, False, 1.3 * best, off)
        if misfit > 1.3 * best:
            break
        best = min(best, misfit)
        tip[RADIUS] *= 1.12
    tip[RADIUS] = 0.0
    return best


@part("f8(f8[:], f8[:])")
def _lean(wedge, tip):  # type: ignore[no-untyped-def]
    """How far one end of the edge across a tip lies deeper in it than the other, at most 1 px, times UPRIGHT."""
    ax, ay, _, _ = on_side(wedge, 0, -tip[BACK])
    bx, by, _, _ = on_side(wedge, 1, tip[AHEAD])
    x, y = wedge[2] - wedge[7], wedge[3] - wedge[8]
    return UPRIGHT * max(-1.0, min(1.0, ((bx - ax) * x + (by - ay) * y) / max(1e-9, np.sqrt(x * x + y * y))))


@part("f8(f8[:,:], i8, f8[:], f8, f8[:]!, f8[:]!)")
def _cut_back(seen, count, wedge, sharp, tip, off):  # type: ignore[no-untyped-def]
    """Find how far a wedge is cut off along both sides. tip receives that. Returns the squared shares left over.

    sharp: squared shares left over without a cut; one that leaves far more is no start.
    """
    slopes, trial = np.empty((8, count)), np.zeros(3)
    best, middle = NO_START * sharp, 0.0
    for step in range(23):
        # First straight across at places along the tip, then leaning both ways where that agreed best.
        trial[BACK] = trial[AHEAD] = 0.6 * step - 6.0
        if step >= 21:
            lean = 0.9 if step == 21 else -0.9
            trial[BACK], trial[AHEAD] = middle + lean, middle - lean
        misfit = wedge_misfit(seen, count, wedge, trial, True, best, off)
        if misfit < best:
            best, tip[BACK], tip[AHEAD] = misfit, trial[BACK], trial[AHEAD]
            if step < 21:
                middle = trial[BACK]
    for _ in range(ROUNDS):
        a, b, lean = tip[BACK], tip[AHEAD], _lean(wedge, tip)
        best = wedge_misfit(seen, count, wedge, tip, True, ANY, off) + lean * lean
        wedge_slopes(seen, count, wedge, tip, True, slopes)
        trial[BACK], trial[AHEAD] = a + STEP, b
        lean_a = (_lean(wedge, trial) - lean) / STEP
        trial[BACK], trial[AHEAD] = a, b + STEP
        lean_b = (_lean(wedge, trial) - lean) / STEP
        aa, ab, bb = 1e-6 + lean_a * lean_a, lean_a * lean_b, 1e-6 + lean_b * lean_b
        ra, rb = -lean_a * lean, -lean_b * lean
        for i in range(count):
            aa += slopes[6, i] ** 2
            ab += slopes[6, i] * slopes[7, i]
            bb += slopes[7, i] ** 2
            ra += slopes[6, i] * off[i]
            rb += slopes[7, i] * off[i]
        determinant = aa * bb - ab * ab
        if determinant < 1e-9:
            break
        step_a, step_b = (ra * bb - rb * ab) / determinant, (rb * aa - ra * ab) / determinant
        shorter, misfit = 1.0, best
        while shorter > 0.1 and misfit >= best:
            trial[BACK], trial[AHEAD] = a + shorter * step_a, b + shorter * step_b
            trial_lean = _lean(wedge, trial)
            misfit = wedge_misfit(seen, count, wedge, trial, True, ANY, off) + trial_lean * trial_lean
            shorter *= 0.5
        if misfit >= best:
            break
        tip[BACK], tip[AHEAD] = trial[BACK], trial[AHEAD]
        done = best - misfit < 1e-7
        best = misfit
        if done:
            break
    return best


@kernel("f8(f8[:])")
def _turn(wedge):  # type: ignore[no-untyped-def]
    """The angle between the sides of a wedge, radians."""
    return abs(np.arctan2(wedge[2] * wedge[8] - wedge[3] * wedge[7], wedge[2] * wedge[7] + wedge[3] * wedge[8]))


@part("void(f8[:,:], i8, f8[:], f8[:], f8, i8, f8[:,:]!, f8[:]!)")
def _normal_equations(slopes, count, off, leans, lean, n, matrix, step):  # type: ignore[no-untyped-def]
    """Gauss-Newton's equations for n changes, in units of UNITS. slopes, off: of the pixels; leans: slopes of `lean`."""
    for a in range(n):
        unit = UNITS[a]
        step[a] = -leans[a] * lean
        for i in range(count):
            step[a] += unit * slopes[a, i] * off[i]
        for b in range(a + 1):
            total = 0.0
            for i in range(count):
                total += slopes[a, i] * slopes[b, i]
            matrix[a, b] = leans[a] * leans[b] + unit * UNITS[b] * total + (DAMPING if a == b else 0.0)
            matrix[b, a] = matrix[a, b]


@part("f8(f8[:,:], i8, f8[:]!, f8[:]!, b1, f8, f8[:]!)")
def _aim(seen, count, wedge, tip, is_cut, slight, off):  # type: ignore[no-untyped-def]
    """Move, turn and bend both sides, and both ends of a cut, until they agree best, or turn by less than `slight`.

    Returns the squared shares left over.
    """
    n, lean = (8, _lean(wedge, tip)) if is_cut else (6, 0.0)
    slopes, other, leans = np.empty((8, count)), np.empty(count), np.zeros(n)
    matrix, step, trial, ends = np.empty((n, n)), np.empty(n), np.empty(11), np.empty(3)
    best = wedge_misfit(seen, count, wedge, tip, is_cut, ANY, off) + lean * lean
    for _ in range(ROUNDS):
        wedge_slopes(seen, count, wedge, tip, is_cut, slopes)
        for k in range(n if is_cut else 0):
            copy_row(trial, wedge)
            copy_row(ends, tip)
            change_wedge(trial, ends, k, STEP * UNITS[k])
            leans[k] = (_lean(trial, ends) - lean) / STEP
        _normal_equations(slopes, count, off, leans, lean, n, matrix, step)
        if not solve(matrix, step):
            break
        misfit, shorter = best, 1.0
        while misfit >= best and shorter > 0.2:
            copy_row(trial, wedge)
            copy_row(ends, tip)
            for k in range(n):
                change_wedge(trial, ends, k, UNITS[k] * max(-0.7, min(0.7, shorter * step[k])))
            trial_lean = _lean(trial, ends) if is_cut else 0.0
            misfit = wedge_misfit(seen, count, trial, ends, is_cut, ANY, other) + trial_lean * trial_lean
            shorter *= 0.5
        if misfit >= best:
            break
        done = best - misfit < 0.02 * best
        copy_row(wedge, trial)
        copy_row(tip, ends)
        copy_row(off, other)
        best, lean = misfit, trial_lean
        if done or _turn(wedge) < slight:
            break
    return best


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
    """Whether a wedge's corner, or both ends of the edge across its tip, lie about (x, y) and are a corner to see."""
    if _turn(wedge) < LEAST_TURN:
        return False
    ax, ay, _, _ = on_side(wedge, 0, -tip[BACK])
    bx, by, _, _ = on_side(wedge, 1, tip[AHEAD])
    if tip[BACK] != 0.0 or tip[AHEAD] != 0.0:
        apart = (ax - bx) ** 2 + (ay - by) ** 2
        return apart > ACROSS**2 and max((ax - x) ** 2 + (ay - y) ** 2, (bx - x) ** 2 + (by - y) ** 2) < min(ROOM, room) ** 2
    apex = np.empty(2)
    return _apex(wedge, apex) and (apex[0] - x) ** 2 + (apex[1] - y) ** 2 < CERTAIN**2


@part("i8(f8[:,:], i8, f8, f8, f8, f8, f8[:]!, f8[:]!)")
def _verdict(seen, used, noise, x, y, room, wedge, tip):  # type: ignore[no-untyped-def]
    """What a corner near (x, y) is by its pixels.

    SHARP (its wedge may have been aimed), CUT as `tip` says, BENT, AT_POINT (where it was measured), or UNSURE.
    """
    off, trial, ends = np.empty(MOST_SEEN), np.empty(11), np.empty(3)
    tip[:] = 0.0
    least = GAIN + NOISE_GAIN * noise * noise
    sharp = wedge_misfit(seen, used, wedge, tip, False, ANY, off)
    doubtful = GAIN + DOUBT * noise * noise
    if sharp < doubtful:
        return SHARP
    copy_row(trial, wedge)
    ends[:] = 0.0
    slight = min(SLIGHT, TURN_LEFT * _turn(wedge))
    aimed = _aim(seen, used, trial, ends, False, CLEARLY * slight, off)
    if _turn(trial) < slight:
        return BENT
    if sharp < least:
        return SHARP
    blunt = _cut_back(seen, used, wedge, sharp, tip, off)
    rounded = _rounding(seen, used, wedge, tip, off)
    if rounded < ROUNDER * min(blunt, sharp) and sharp - rounded > 4.0 * least:
        return BENT
    is_cut = sharp - blunt > least and blunt < PART_LEFT * sharp and _is_near(wedge, tip, x, y, room)
    if is_cut and blunt < WELL_AIMED * least:
        return CUT
    ends[:] = 0.0
    if (aimed < WELL_AIMED * doubtful or aimed < BETTER * min(sharp, blunt)) and _is_near(trial, ends, x, y, room):
        copy_row(wedge, trial)
        return SHARP
    copy_row(trial, wedge)
    copy_row(ends, tip)
    both = _aim(seen, used, trial, ends, True, 0.0, off)
    if (both < WELL_AIMED * least or (is_cut and both < blunt)) and _is_near(trial, ends, x, y, room):
        copy_row(wedge, trial)
        copy_row(tip, ends)
        return CUT
    if aimed > NO_CORNER + WELL_AIMED * doubtful and rounded < LESS * sharp:
        return BENT
    ends[BACK] = (wedge[0] - x) * wedge[2] + (wedge[1] - y) * wedge[3]
    ends[AHEAD] = (x - wedge[5]) * wedge[7] + (y - wedge[6]) * wedge[8]
    return AT_POINT if wedge_misfit(seen, used, wedge, ends, True, ANY, off) < sharp else UNSURE


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


@part("b1(f8[:,:], i8, f8[:], f8[:])")
def _is_on_points(points, index, wedge, tip):  # type: ignore[no-untyped-def]
    """Whether both ends of the edge across a tip lie by the chain's points."""
    for which in range(2):
        x, y, _, _ = on_side(wedge, which, -tip[BACK] if which == 0 else tip[AHEAD])
        i = nearest_from(points, nearest_from(points, index, 1, x, y), -1, x, y) % len(points)
        if (points[i, 0] - x) ** 2 + (points[i, 1] - y) ** 2 > OFF_POINTS**2:
            return False
    return True


@part("i8(f8[:,:], i8, f8, f8[:,:]!, i8)")
def _without_others(points, index, room, seen, used):  # type: ignore[no-untyped-def]
    """Leave out pixels the chain comes by again farther along. seen: see shares_about. Returns how many are left."""
    n = len(points)
    x, y = points[index % n, 0], points[index % n, 1]
    skip = int(ELSEWHERE * room)
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


@kernel("i8(f8[:,:], u1[:,:,:], f8[:], f8[:,:,:], i8, i8, f8, i8, i8[:]!, f8[:,:]!, f8[:]!, f8[:,:]!)")
def fit_tips(  # type: ignore[no-untyped-def]
    points, image, light, surfaces, left, right, noise, count, indices, places, radii, sides
):
    """Give every corner whose tip is cut off its two nodes, aim what is off, and take out what is a narrow bend.

    points : (N, 2), those of the chain; image, light, surfaces: see Blending; left, right: labels of a chain's
    sides; noise: deviation of the points, px. The rest as find_corners gives it, with room for twice as many. A corner far
    from its points that the pixels do not bear out goes back to them. Returns how many corners there are now.
    """
    wedge, inner, outer, tip, apex = np.empty(11), np.empty(4), np.empty(4), np.zeros(3), np.empty(2)
    seen = np.empty((MOST_SEEN, 3))
    k = 0
    while k < count:
        x, y = points[indices[k] % len(points), 0], points[indices[k] % len(points), 1]
        turn = sides[k, 0] * sides[k, 3] - sides[k, 1] * sides[k, 2]
        wedge[10] = 1.0 if turn > 0.0 else -1.0
        for which in range(2):
            wedge[5 * which], wedge[5 * which + 1] = sides[k, 6 + 2 * which], sides[k, 7 + 2 * which]
            wedge[5 * which + 2], wedge[5 * which + 3] = sides[k, 2 * which], sides[k, 2 * which + 1]
            wedge[5 * which + 4] = sides[k, 4 + which]
        u, v = 2.0 * x / image.shape[1] - 1.0, 2.0 * y / image.shape[0] - 1.0
        away = np.sqrt((places[k, 0] - x) ** 2 + (places[k, 1] - y) ** 2)
        room = ROOM + min(4.0, away)
        for other in range(k - 1, k + 2, 2):
            if 0 <= other < count:
                room = min(room, np.sqrt((places[other, 0] - x) ** 2 + (places[other, 1] - y) ** 2) - BESIDE_ANOTHER)
        room = max(room, LEAST_ROOM)
        verdict = UNSURE
        for _ in range(2 if sides[k, 0] * sides[k, 2] + sides[k, 1] * sides[k, 3] < -SLOT else 1):
            colour_at(surfaces, right if wedge[10] > 0.0 else left, u, v, inner)
            colour_at(surfaces, left if wedge[10] > 0.0 else right, u, v, outer)
            used = shares_about(image, light, inner, outer, wedge, x, y, room, OFF, seen)
            used = _without_others(points, indices[k], room, seen, used)
            verdict = _verdict(seen, used, noise, x, y, room, wedge, tip) if used >= FEWEST else UNSURE
            if verdict == CUT:
                break
            wedge[10] = -wedge[10]
        if verdict == SHARP:
            if _apex(wedge, apex) and (apex[0] - x) ** 2 + (apex[1] - y) ** 2 < (DEEPEST + 2.0) ** 2:
                places[k, 0], places[k, 1] = apex[0], apex[1]
                indices[k] = nearest_from(points, nearest_from(points, indices[k], 1, apex[0], apex[1]), -1, apex[0], apex[1])
        elif verdict == AT_POINT or (verdict == UNSURE and used < FEWEST and away > CERTAIN):
            places[k, 0], places[k, 1] = x, y
        elif verdict == BENT:
            for j in range(k + 1, count):
                indices[j - 1], radii[j - 1] = indices[j], radii[j]
                copy_row(places[j - 1], places[j])
                copy_row(sides[j - 1], sides[j])
            count -= 1
            continue
        elif verdict == CUT and _is_on_points(points, indices[k], wedge, tip):
            for j in range(count, k, -1):
                indices[j], radii[j] = indices[j - 1], radii[j - 1]
                copy_row(places[j], places[j - 1])
                copy_row(sides[j], sides[j - 1])
            count += 1
            _part(points, k, wedge, tip, indices, places, radii, sides)
            k += 1
        k += 1
    return count
