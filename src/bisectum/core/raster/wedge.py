"""How much of a pixel a wedge covers: two sides, straight or slightly bent, with a sharp, cut or rounded tip.

A wedge : (11,) float64 holds for the side that comes in, then for the one that goes out, a place on it, its unit
direction there and its curvature (five numbers each), and +1 where the wedge lies to their right, else -1.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel

BESIDE, TIP = 1.6, 3.2  # px from a side or a tip: what is further off may belong to another edge
HALF_DIAGONAL = 0.7072  # of a pixel, px
NEARLY = 0.1  # px more, within which a slight change reaches a pixel
TANGENTS = 6  # that stand for the arc of a rounded tip
FIRST, SECOND, AT_TIP = 1, 2, 4  # side, side, or an edge of the tip
BACK, AHEAD, RADIUS = 0, 1, 2  # places in a tip : (3,): cut so far back on the first side, ahead on the second; or rounded


@kernel("i8(f8[:,:]!, i8, f8, f8, f8, f8, f8[:,:]!)", inline=True)
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


@kernel("UniTuple(f8, 4)(f8[:], i8, f8)", inline=True)
def on_side(wedge, which, along):  # type: ignore[no-untyped-def]
    """The place on a wedge's side (0 or 1) so far along it, and the unit direction there."""
    k = 5 * which
    x, y, dx, dy, curvature = wedge[k], wedge[k + 1], wedge[k + 2], wedge[k + 3], wedge[k + 4]
    bend = 0.5 * curvature * along * along
    ax, ay = dx - dy * curvature * along, dy + dx * curvature * along
    size = np.sqrt(ax * ax + ay * ay)
    return x + dx * along - dy * bend, y + dy * along + dx * bend, ax / size, ay / size


@kernel("i8(f8[:], f8[:], b1, f8[:,:]!)")
def _edges_of_tip(wedge, tip, is_cut, edges):  # type: ignore[no-untyped-def]
    """Lines that bound the tip of a wedge: the cut across it, and tangents of the circle that touches both sides.

    edges : (TANGENTS + 1, 4) receives a place on each and its inward unit normal. Returns how many.
    """
    ux, uy, vx, vy, side = wedge[2], wedge[3], wedge[7], wedge[8], wedge[10]
    used = 0
    if is_cut:
        x, y, _, _ = on_side(wedge, 0, -tip[BACK])
        ex, ey, _, _ = on_side(wedge, 1, tip[AHEAD])
        size = side / max(1e-9, np.sqrt((ex - x) ** 2 + (ey - y) ** 2))
        edges[0, 0], edges[0, 1], edges[0, 2], edges[0, 3] = x, y, -(ey - y) * size, (ex - x) * size
        used = 1
    cross = ux * vy - uy * vx
    radius = tip[RADIUS]
    if radius <= 0.0 or abs(cross) < 0.05:
        return used
    along = ((wedge[5] - wedge[0]) * vy - (wedge[6] - wedge[1]) * vx) / cross
    x, y = wedge[0] + along * ux, wedge[1] + along * uy
    turn = np.arccos(min(1.0, max(-1.0, ux * vx + uy * vy)))
    reach = radius * np.tan(turn / 2.0)  # from the apex to where the arc begins
    cx, cy = x - reach * ux - radius * side * uy, y - reach * uy + radius * side * ux
    for k in range(1, TANGENTS + 1):
        angle = side * turn * k / (TANGENTS + 1)
        nx, ny = -uy * side, ux * side  # inwards, turned from the first side towards the second
        nx, ny = nx * np.cos(angle) - ny * np.sin(angle), nx * np.sin(angle) + ny * np.cos(angle)
        edges[used, 0], edges[used, 1], edges[used, 2], edges[used, 3] = cx - radius * nx, cy - radius * ny, nx, ny
        used += 1
    return used


@kernel("f8(f8, f8, f8)", inline=True)
def _part_of_square(depth, nx, ny):  # type: ignore[no-untyped-def]
    """The part of a unit square on the inner side of a line, whose middle lies `depth` inside it. nx, ny: unit normal."""
    a, b = max(abs(nx), abs(ny)), min(abs(nx), abs(ny))
    far, near = 0.5 * (a + b), 0.5 * (a - b)
    size = abs(depth)
    if size >= far:
        inner = 1.0
    elif size <= near:
        inner = 0.5 + size / a
    else:
        inner = 1.0 - (far - size) ** 2 / (2.0 * a * b)
    return inner if depth >= 0.0 else 1.0 - inner


@kernel("Tuple((f8, i8))(f8, f8, f8[:], f8[:,:], i8, f8[:,:]!, f8[:,:]!, f8[:,:]!)", inline=True)
def _share(px, py, wedge, tips, tip_count, edges, polygon, spare):  # type: ignore[no-untyped-def]
    """The part of the pixel at (px, py) that a wedge covers, and what lies so near that it tells: FIRST, SECOND, AT_TIP.

    Each pixel sees a side as its tangent nearby. tips: see _edges_of_tip; edges : (TANGENTS + 3, 4), polygon, spare: scratch.
    """
    count, near = 0, 0
    last = 0.0
    for k in range(2 + tip_count):
        if k < 2:
            along = (px + 0.5 - wedge[5 * k]) * wedge[5 * k + 2] + (py + 0.5 - wedge[5 * k + 1]) * wedge[5 * k + 3]
            x, y, dx, dy = on_side(wedge, k, min(3.0, along) if k == 0 else max(-3.0, along))
            nx, ny = -dy * wedge[10], dx * wedge[10]
        else:
            x, y, nx, ny = tips[k - 2, 0], tips[k - 2, 1], tips[k - 2, 2], tips[k - 2, 3]
        depth = (px + 0.5 - x) * nx + (py + 0.5 - y) * ny
        if abs(depth) < HALF_DIAGONAL + NEARLY:
            near |= FIRST if k == 0 else (SECOND if k == 1 else AT_TIP)
        if depth < -HALF_DIAGONAL:
            return 0.0, near if depth > -HALF_DIAGONAL - NEARLY else 0
        if depth < HALF_DIAGONAL:
            edges[count, 0], edges[count, 1], edges[count, 2], edges[count, 3] = x, y, nx, ny
            count += 1
            last = depth
    if count < 2:
        return 1.0 if count == 0 else _part_of_square(last, edges[0, 2], edges[0, 3]), near
    polygon[0, 0], polygon[0, 1], polygon[1, 0], polygon[1, 1] = px, py, px + 1.0, py
    polygon[2, 0], polygon[2, 1], polygon[3, 0], polygon[3, 1] = px + 1.0, py + 1.0, px, py + 1.0
    corners = 4
    for k in range(count):
        corners = _clip(polygon, corners, edges[k, 0], edges[k, 1], edges[k, 2], edges[k, 3], spare)
    total = 0.0
    for i in range(corners):
        j = i + 1 if i + 1 < corners else 0
        total += polygon[i, 0] * polygon[j, 1] - polygon[j, 0] * polygon[i, 1]
    return 0.5 * abs(total), near


@kernel("f8(f8[:,:]!, i8, f8[:], f8[:], b1, f8, f8[:]!)")
def wedge_misfit(seen, count, wedge, tip, is_cut, most, off):  # type: ignore[no-untyped-def]
    """Sum of squared differences between seen shares and a wedge's; the rest is left out once it is above `most`.

    seen : (M, 4) x, y of pixels and the share seen in them, of which `count` are used, and receives what lies near each: FIRST,
    SECOND, AT_TIP. tip : (3,), looked at as a cut only where is_cut. off : (M,) receives the differences.
    """
    tips, edges = np.empty((TANGENTS + 1, 4)), np.empty((TANGENTS + 3, 4))
    polygon, spare = np.empty((24, 2)), np.empty((24, 2))
    tip_count = _edges_of_tip(wedge, tip, is_cut, tips)
    total = 0.0
    for i in range(count):
        share, near = _share(seen[i, 0], seen[i, 1], wedge, tips, tip_count, edges, polygon, spare)
        off[i], seen[i, 3] = seen[i, 2] - share, near
        total += off[i] * off[i]
        if total > most:
            break
    return total


@kernel("void(f8[:,:], i8, f8[:], f8[:], b1, i8, f8[:], f8[:]!)")
def wedge_changes(seen, count, wedge, tip, is_cut, near, off, other):  # type: ignore[no-untyped-def]
    """The differences of a wedge that differs slightly from that of the last wedge_misfit, in what `near` names only.

    off : (M,) those of that wedge; other : (M,) receives those of this one.
    """
    tips, edges = np.empty((TANGENTS + 1, 4)), np.empty((TANGENTS + 3, 4))
    polygon, spare = np.empty((24, 2)), np.empty((24, 2))
    tip_count = _edges_of_tip(wedge, tip, is_cut, tips)
    for i in range(count):
        other[i] = off[i]
        if int(seen[i, 3]) & near:
            share, _ = _share(seen[i, 0], seen[i, 1], wedge, tips, tip_count, edges, polygon, spare)
            other[i] = seen[i, 2] - share


@kernel("f8(u1[:,:,:], f8[:], f8[:], f8[:], i8, i8, f8)", inline=True)
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
    off_line levels off the line between both are left out. seen : (M, 4) receives x, y, share. Returns how many.
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
