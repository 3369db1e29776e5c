"""How much of a pixel a wedge covers: two sides, straight or slightly bent, with a sharp, cut or rounded tip.

A wedge : (11,) float64 holds for the side that comes in, then for the one that goes out, a place on it, its unit
direction there and its curvature (five numbers each), and +1 where the wedge lies to their right, else -1.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel

BESIDE, TIP = 1.6, 3.2  # px from a side or a tip: what is further off may belong to another edge
HALF_DIAGONAL = 0.7072  # of a pixel, px
TANGENTS = 6  # that stand for the arc of a rounded tip
BACK, AHEAD, RADIUS = 0, 1, 2  # places in a tip : (3,): cut so far back on the first side, ahead on the second; or rounded


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


@kernel("UniTuple(f8, 4)(f8[:], i8, f8)")
def on_side(wedge, which, along):  # type: ignore[no-untyped-def]
    """The place on a wedge's side (0 or 1) so far along it, and the unit direction there."""
    k = 5 * which
    x, y, dx, dy, curvature = wedge[k], wedge[k + 1], wedge[k + 2], wedge[k + 3], wedge[k + 4]
    bend = 0.5 * curvature * along * along
    ax, ay = dx - dy * curvature * along, dy + dx * curvature * along
    size = np.sqrt(ax * ax + ay * ay)
    return x + dx * along - dy * bend, y + dy * along + dx * bend, ax / size, ay / size


@kernel("i8(f8[:,:]!, i8, f8[:], f8, f8[:,:]!)")
def _round_off(polygon, count, wedge, radius, spare):  # type: ignore[no-untyped-def]
    """Clip a polygon by tangents of the circle that touches both sides."""
    ux, uy, vx, vy, side = wedge[2], wedge[3], wedge[7], wedge[8], wedge[10]
    cross = ux * vy - uy * vx
    if abs(cross) < 0.05:
        return count
    along = ((wedge[5] - wedge[0]) * vy - (wedge[6] - wedge[1]) * vx) / cross
    x, y = wedge[0] + along * ux, wedge[1] + along * uy
    turn = np.arccos(min(1.0, max(-1.0, ux * vx + uy * vy)))
    reach = radius * np.tan(turn / 2.0)  # from the apex to where the arc begins
    cx, cy = x - reach * ux - radius * side * uy, y - reach * uy + radius * side * ux
    for k in range(1, TANGENTS + 1):
        angle = side * turn * k / (TANGENTS + 1)
        nx, ny = -uy * side, ux * side  # inwards, turned from the first side towards the second
        nx, ny = nx * np.cos(angle) - ny * np.sin(angle), nx * np.sin(angle) + ny * np.cos(angle)
        count = _clip(polygon, count, cx - radius * nx, cy - radius * ny, nx, ny, spare)
    return count


@kernel("f8(f8, f8, f8[:], f8[:], b1, f8[:,:]!, f8[:,:]!)")
def _share(px, py, wedge, tip, is_cut, polygon, spare):  # type: ignore[no-untyped-def]
    """The part of the pixel at (px, py) that a wedge covers. Each pixel sees a side as its tangent nearby."""
    side = wedge[10]
    polygon[0, 0], polygon[0, 1], polygon[1, 0], polygon[1, 1] = px, py, px + 1.0, py
    polygon[2, 0], polygon[2, 1], polygon[3, 0], polygon[3, 1] = px + 1.0, py + 1.0, px, py + 1.0
    count = 4
    for which in range(2):
        along = (px + 0.5 - wedge[5 * which]) * wedge[5 * which + 2] + (py + 0.5 - wedge[5 * which + 1]) * wedge[5 * which + 3]
        along = min(3.0, along) if which == 0 else max(-3.0, along)
        x, y, dx, dy = on_side(wedge, which, along)
        depth = ((py + 0.5 - y) * dx - (px + 0.5 - x) * dy) * side
        if depth < -HALF_DIAGONAL:
            return 0.0
        if depth < HALF_DIAGONAL:
            count = _clip(polygon, count, x, y, -dy * side, dx * side, spare)
    if is_cut and count > 0:
        x, y, _, _ = on_side(wedge, 0, -tip[BACK])
        ex, ey, _, _ = on_side(wedge, 1, tip[AHEAD])
        size = side / max(1e-9, np.sqrt((ex - x) ** 2 + (ey - y) ** 2))
        nx, ny = -(ey - y) * size, (ex - x) * size
        depth = (px + 0.5 - x) * nx + (py + 0.5 - y) * ny
        if depth < -HALF_DIAGONAL:
            return 0.0
        if depth < HALF_DIAGONAL:
            count = _clip(polygon, count, x, y, nx, ny, spare)
    if tip[RADIUS] > 0.0 and count > 0:
        count = _round_off(polygon, count, wedge, tip[RADIUS], spare)
    total = 0.0
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        total += polygon[i, 0] * polygon[j, 1] - polygon[j, 0] * polygon[i, 1]
    return 0.5 * abs(total)


@kernel("f8(f8[:,:], i8, f8[:], f8[:], b1, f8, f8[:]!)")
def wedge_misfit(seen, count, wedge, tip, is_cut, most, off):  # type: ignore[no-untyped-def]
    """Sum of squared differences between seen shares and a wedge's; the rest is left out once it is above `most`.

    seen : (M, 3) x, y of pixels and the share seen in them, of which `count` are used; tip : (3,), looked at as a cut
    only where is_cut. off : (M,) receives the differences.
    """
    polygon, spare = np.empty((24, 2)), np.empty((24, 2))
    total = 0.0
    for i in range(count):
        off[i] = seen[i, 2] - _share(seen[i, 0], seen[i, 1], wedge, tip, is_cut, polygon, spare)
        total += off[i] * off[i]
        if total > most:
            break
    return total


@kernel("f8(u1[:,:,:], f8[:], f8[:], f8[:], i8, i8, f8)")
def share_in_pixel(image, light, inner, outer, row, column, off_line):  # type: ignore[no-untyped-def]
    """The share of the inner colour in a pixel, 0 to 1; below 0 where it is more than off_line levels off both colours' line.

    image : (H, W, 4) uint8, light : (256,) what its values stand for; inner, outer : (4,) colours.
    """
    length, along, off = 0.0, 0.0, 0.0
    for c in range(4):
        length += (inner[c] - outer[c]) ** 2
        along += (light[image[row, column, c]] - outer[c]) * (inner[c] - outer[c])
    share = min(1.0, max(0.0, along / max(length, 1e-9)))
    for c in range(4):
        off += (light[image[row, column, c]] - outer[c] - share * (inner[c] - outer[c])) ** 2
    return share if off <= off_line**2 else -1.0


@kernel("i8(u1[:,:,:], f8[:], f8[:], f8[:], f8[:], f8, f8, f8, f8, f8[:,:]!)")
def shares_about(image, light, inner, outer, wedge, x, y, room, off_line, seen):  # type: ignore[no-untyped-def]
    """Shares of the inner colour in the pixels beside a wedge's sides and tip, within `room` of (x, y).

    image : (H, W, 4) uint8, light : (256,) what its values stand for; inner, outer : (4,) colours; pixels more than
    off_line levels off the line between both are left out. seen : (M, 3) receives x, y, share. Returns how many.
    """
    height, width = image.shape[0], image.shape[1]
    used = 0
    for row in range(max(0, int(y - room)), min(height, int(y + room) + 1)):
        for column in range(max(0, int(x - room)), min(width, int(x + room) + 1)):
            if (column + 0.5 - x) ** 2 + (row + 0.5 - y) ** 2 > room * room or used == len(seen):
                continue
            outside, near = False, (column + 0.5 - x) ** 2 + (row + 0.5 - y) ** 2 < TIP**2
            for which in range(2):
                dx, dy = column + 0.5 - wedge[5 * which], row + 0.5 - wedge[5 * which + 1]
                along = dx * wedge[5 * which + 2] + dy * wedge[5 * which + 3]
                depth = dy * wedge[5 * which + 2] - dx * wedge[5 * which + 3] - 0.5 * wedge[5 * which + 4] * along * along
                outside = outside or depth * wedge[10] < -1.2
                near = near or abs(depth) < BESIDE
            if near and not outside:
                share = share_in_pixel(image, light, inner, outer, row, column, off_line)
                if share < 0.0:
                    continue
                seen[used, 0], seen[used, 1], seen[used, 2] = column, row, share
                used += 1
    return used
