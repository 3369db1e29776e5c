"""Blunt tips: a corner whose point the drawing has cut off, told by how much of the pixels about it are covered.

Points along an edge say little within two pixels of a sharp corner, and a short edge across its tip is lost on them.
The pixels know it: the coverage of a wedge between both sides, with and without an edge across, is compared with the
picture's, and the two ends of that edge are moved until both agree best (Gauss-Newton).
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel

ROOM = 6.0  # px of both sides that are looked at, beyond the points nearest to the tip
DEEPEST = 16.0  # px a tip may be cut back along its sides
ACROSS = 0.3  # px, the shortest edge across a tip
GAIN = 0.006  # squared shares that an edge across a tip must explain
NOISE_GAIN = 14.0  # times the square of the picture's unrest, on top of that
PART_LEFT = 0.3  # of the squared shares, at most, that may stay unexplained
OFF = 40.0  # levels off the line between both colours: a third one is in the pixel
SPOILT = 1.9  # px around an end of the edge across within which points are not used
CERTAIN = 3.5  # px from its points within which a corner is believed without the picture
ROUNDS = 6


@kernel("i8(f8[:,:]!, i8, f8, f8, f8, f8, f8[:,:]!)")
def _clip(polygon, count, x, y, nx, ny, spare):  # type: ignore[no-untyped-def]
    """Keep what of a polygon lies where (p - (x, y)) · (nx, ny) ≥ 0 (Sutherland and Hodgman, 1974). Returns its corners."""
    used = 0
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        ax, ay, bx, by = polygon[i, 0], polygon[i, 1], polygon[j, 0], polygon[j, 1]
        a, b = (ax - x) * nx + (ay - y) * ny, (bx - x) * nx + (by - y) * ny
        if a >= 0.0:
            spare[used, 0], spare[used, 1] = ax, ay
            used += 1
        if (a >= 0.0) != (b >= 0.0):
            share = a / (a - b)
            spare[used, 0], spare[used, 1] = ax + share * (bx - ax), ay + share * (by - ay)
            used += 1
    for i in range(used):
        polygon[i, 0], polygon[i, 1] = spare[i, 0], spare[i, 1]
    return used


@kernel("f8(f8, f8, f8[:], f8, f8, f8[:,:]!, f8[:,:]!)")
def _wedge_share(px, py, wedge, back, ahead, polygon, spare):  # type: ignore[no-untyped-def]
    """The part of the pixel at (px, py) that a wedge covers, cut off `back` and `ahead` of its apex along its sides.

    wedge : (7,): the apex, the unit directions of the side that comes in and the one that goes out, and +1 where it lies
    to their right, else -1.
    """
    x, y, ux, uy, vx, vy, side = wedge[0], wedge[1], wedge[2], wedge[3], wedge[4], wedge[5], wedge[6]
    polygon[0, 0], polygon[0, 1], polygon[1, 0], polygon[1, 1] = px, py, px + 1.0, py
    polygon[2, 0], polygon[2, 1], polygon[3, 0], polygon[3, 1] = px + 1.0, py + 1.0, px, py + 1.0
    count = _clip(polygon, 4, x, y, -uy * side, ux * side, spare)
    count = _clip(polygon, count, x, y, -vy * side, vx * side, spare)
    if back > 0.0 or ahead > 0.0:
        lx, ly = x - back * ux, y - back * uy
        ex, ey = x + ahead * vx - lx, y + ahead * vy - ly
        size = max(1e-9, np.sqrt(ex * ex + ey * ey))
        count = _clip(polygon, count, lx, ly, -ey * side / size, ex * side / size, spare)
    total = 0.0
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        total += polygon[i, 0] * polygon[j, 1] - polygon[j, 0] * polygon[i, 1]
    return 0.5 * abs(total)


@kernel("i8(u1[:,:,:], f8[:], f8[:], f8[:], f8, f8[:,:]!)")
def _shares_about(image, inner, outer, wedge, room, seen):  # type: ignore[no-untyped-def]
    """Shares of the inner colour in the pixels within `room` of a wedge's apex. seen : (M, 3) x, y, share. Returns how many."""
    height, width = image.shape[0], image.shape[1]
    x, y, ux, uy, vx, vy, side = wedge[0], wedge[1], wedge[2], wedge[3], wedge[4], wedge[5], wedge[6]
    left, right = min(x, x - room * ux, x + room * vx) - 1.5, max(x, x - room * ux, x + room * vx) + 1.5
    top, bottom = min(y, y - room * uy, y + room * vy) - 1.5, max(y, y - room * uy, y + room * vy) + 1.5
    length = 0.0
    for c in range(4):
        length += (inner[c] - outer[c]) ** 2
    used = 0
    for row in range(max(0, int(top)), min(height, int(bottom) + 1)):
        for column in range(max(0, int(left)), min(width, int(right) + 1)):
            dx, dy = column + 0.5 - x, row + 0.5 - y
            first, second = (-dx * uy + dy * ux) * side, (-dx * vy + dy * vx) * side
            if min(first, second) < -1.2 or dx * dx + dy * dy > (room + 1.0) ** 2 or used == len(seen):
                continue
            along, off = 0.0, 0.0
            for c in range(4):
                along += (image[row, column, c] - outer[c]) * (inner[c] - outer[c])
            share = along / length
            bounded = min(1.0, max(0.0, share))
            for c in range(4):
                off += (image[row, column, c] - outer[c] - bounded * (inner[c] - outer[c])) ** 2
            if off <= OFF**2:
                seen[used, 0], seen[used, 1], seen[used, 2] = column, row, bounded
                used += 1
    return used


@kernel("f8(f8[:,:], i8, f8[:], f8, f8, f8[:]!, f8[:,:]!, f8[:,:]!)")
def _misfit(seen, count, wedge, back, ahead, off, polygon, spare):  # type: ignore[no-untyped-def]
    """Sum of squared differences between seen shares and a wedge's. off : (M,) receives the differences."""
    total = 0.0
    for i in range(count):
        off[i] = seen[i, 2] - _wedge_share(seen[i, 0], seen[i, 1], wedge, back, ahead, polygon, spare)
        total += off[i] * off[i]
    return total


@kernel("f8(f8[:,:], i8, f8[:], f8[:]!)")
def _cut_back(seen, count, wedge, cut):  # type: ignore[no-untyped-def]
    """Find how far a wedge is cut off along both sides. cut : (2,) receives that. Returns the squared shares left over."""
    polygon, spare = np.empty((12, 2)), np.empty((12, 2))
    off, first, second = np.empty(count), np.empty(count), np.empty(count)
    best = 1e9
    for step in range(1, 24):
        for slant in range(3):
            trial = 0.25 * step if step < 12 else 3.0 + (step - 12)
            a, b = trial * (1.0, 0.5, 1.0)[slant], trial * (1.0, 1.0, 0.5)[slant]
            misfit = _misfit(seen, count, wedge, a, b, off, polygon, spare)
            if misfit < best:
                best, cut[0], cut[1] = misfit, a, b
    for _ in range(ROUNDS):
        a, b = cut[0], cut[1]
        best = _misfit(seen, count, wedge, a, b, off, polygon, spare)
        _misfit(seen, count, wedge, a + 0.02, b, first, polygon, spare)
        _misfit(seen, count, wedge, a, b + 0.02, second, polygon, spare)
        aa, ab, bb, ra, rb = 1e-6, 0.0, 1e-6, 0.0, 0.0
        for i in range(count):
            da, db = (first[i] - off[i]) / 0.02, (second[i] - off[i]) / 0.02
            aa += da * da
            ab += da * db
            bb += db * db
            ra -= da * off[i]
            rb -= db * off[i]
        determinant = aa * bb - ab * ab
        if determinant < 1e-9:
            break
        step_a, step_b = (ra * bb - rb * ab) / determinant, (rb * aa - ra * ab) / determinant
        shorter = 1.0
        while shorter > 0.1:
            a = min(DEEPEST, max(0.02, cut[0] + shorter * step_a))
            b = min(DEEPEST, max(0.02, cut[1] + shorter * step_b))
            misfit = _misfit(seen, count, wedge, a, b, off, polygon, spare)
            if misfit < best:
                break
            shorter *= 0.5
        if misfit >= best:
            break
        cut[0], cut[1] = a, b
        if best - misfit < 1e-7:
            best = misfit
            break
        best = misfit
    return best


@kernel("i8(f8[:,:], i8, i8, f8, f8)")
def _nearest(points, i, step, x, y):  # type: ignore[no-untyped-def]
    """The index, going from point i by `step` as long as it gets nearer, of the point nearest to (x, y); may leave 0..N."""
    n = len(points)
    best = (points[i % n, 0] - x) ** 2 + (points[i % n, 1] - y) ** 2
    while True:
        j = (i + step) % n
        away = (points[j, 0] - x) ** 2 + (points[j, 1] - y) ** 2
        if away >= best:
            return i
        i += step
        best = away


@kernel("i8(f8[:,:], u1[:,:,:], f8[:,:,:], i8, i8, f8, i8, i8[:]!, f8[:,:]!, f8[:]!, f8[:,:]!)")
def settle_tips(points, image, surfaces, left, right, unrest, count, indices, places, radii, tangents):  # type: ignore[no-untyped-def]
    """Give every corner whose tip is cut off its two nodes; one that the picture does not bear out goes to its point.

    points : (N, 2), those of the chain; image : (H, W, 4) uint8; surfaces : (N, 6, 4); left, right: labels of a chain's sides; unrest: see ChainPoints. The
    rest as find_corners gives it, with room for twice as many. Returns how many corners there are now.
    """
    height, width = image.shape[0], image.shape[1]
    wedge, inner, outer, cut = np.empty(7), np.empty(4), np.empty(4), np.empty(2)
    seen, off = np.empty((700, 3)), np.empty(700)
    polygon, spare = np.empty((12, 2)), np.empty((12, 2))
    k = 0
    while k < count:
        x, y = places[k, 0], places[k, 1]
        turn = tangents[k, 0] * tangents[k, 3] - tangents[k, 1] * tangents[k, 2]
        side = 1.0 if turn > 0.0 else -1.0
        wedge[0], wedge[1], wedge[6] = x, y, side
        wedge[2], wedge[3], wedge[4], wedge[5] = tangents[k, 0], tangents[k, 1], tangents[k, 2], tangents[k, 3]
        u, v = 2.0 * x / width - 1.0, 2.0 * y / height - 1.0
        for c in range(4):
            for ends in range(2):
                s = surfaces[right] if (ends == 0) == (side > 0.0) else surfaces[left]
                value = s[0, c] + s[1, c] * u + s[2, c] * v + s[3, c] * u * u + s[4, c] * u * v + s[5, c] * v * v
                if ends == 0:
                    inner[c] = value
                else:
                    outer[c] = value
        off_points = np.sqrt((x - points[indices[k], 0]) ** 2 + (y - points[indices[k], 1]) ** 2)
        used = _shares_about(image, inner, outer, wedge, ROOM + off_points, seen) if abs(turn) > 0.15 else 0
        k += 1
        if used < 12:
            if off_points > CERTAIN:
                places[k - 1] = points[indices[k - 1]]
            continue
        sharp = _misfit(seen, used, wedge, 0.0, 0.0, off, polygon, spare)
        least = GAIN + NOISE_GAIN * unrest * unrest
        if sharp < least:
            continue
        blunt = _cut_back(seen, used, wedge, cut)
        lx, ly = x - cut[0] * wedge[2], y - cut[0] * wedge[3]
        ex, ey = x + cut[1] * wedge[4] - lx, y + cut[1] * wedge[5] - ly
        across = np.sqrt(ex * ex + ey * ey)
        if sharp - blunt < least or blunt > PART_LEFT * sharp or across < ACROSS:
            if off_points > CERTAIN:
                places[k - 1] = points[indices[k - 1]]
            continue
        for j in range(count, k, -1):
            indices[j], radii[j] = indices[j - 1], radii[j - 1]
            places[j], tangents[j] = places[j - 1], tangents[j - 1]
        count += 1
        indices[k] = _nearest(points, indices[k - 1], 1, lx + ex, ly + ey)
        indices[k - 1] = _nearest(points, indices[k - 1], -1, lx, ly)
        places[k - 1, 0], places[k - 1, 1], places[k, 0], places[k, 1] = lx, ly, lx + ex, ly + ey
        radii[k - 1], radii[k] = SPOILT, SPOILT
        tangents[k, 2], tangents[k, 3] = wedge[4], wedge[5]
        tangents[k - 1, 2], tangents[k - 1, 3] = ex / across, ey / across
        tangents[k, 0], tangents[k, 1] = ex / across, ey / across
        k += 1
    return count
