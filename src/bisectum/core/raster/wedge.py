"""How much of a pixel a wedge covers: two sides, straight or slightly bent, with a sharp, cut or rounded tip.

A wedge : (11,) float64 holds for the side that comes in, then for the one that goes out, a place on it, its unit
direction there and its curvature (five numbers each), and +1 where the wedge lies to their right, else -1.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.share import share_in_pixel

BESIDE, TIP = 1.6, 3.2  # px from a side or a tip: what is further off may belong to another edge
HALF_DIAGONAL = 0.7072  # of a pixel, px
TANGENTS = 6  # that stand for the arc of a rounded tip
OF_SIDES, OF_ALL = 6, 8  # changes of a wedge's sides, and with those of a cut, see change_wedge
BACK, AHEAD, RADIUS = 0, 1, 2  # places in a tip : (3,): cut so far back on the first side, ahead on the second; or rounded


@part("i8(f8[:,:]!, i8, f8, f8, f8, f8, f8[:,:]!)", inline=True)
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


@part("i8(f8[:], f8[:], b1, f8[:,:]!)")
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


@part("f8(f8, f8, f8)", inline=True)
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


@part("i8(f8, f8, f8[:], f8[:,:], i8, f8[:,:]!)", inline=True)
def _edges_through(px, py, wedge, tips, tip_count, edges):  # type: ignore[no-untyped-def]
    """Edges of a wedge that may run through the pixel at (px, py), each seen as its tangent nearby.

    tips: see _edges_of_tip; edges : (TANGENTS + 3, 6) receives of each a place, its inward unit normal, how deep the pixel's
    middle lies inside, and its number: the sides are 0 and 1. Returns how many; -1 if the pixel lies outside.
    """
    count = 0
    for k in range(2 + tip_count):
        if k < 2:
            along = (px + 0.5 - wedge[5 * k]) * wedge[5 * k + 2] + (py + 0.5 - wedge[5 * k + 1]) * wedge[5 * k + 3]
            x, y, dx, dy = on_side(wedge, k, min(3.0, along) if k == 0 else max(-3.0, along))
            nx, ny = -dy * wedge[10], dx * wedge[10]
        else:
            x, y, nx, ny = tips[k - 2, 0], tips[k - 2, 1], tips[k - 2, 2], tips[k - 2, 3]
        depth = (px + 0.5 - x) * nx + (py + 0.5 - y) * ny
        if depth < -HALF_DIAGONAL:
            return -1
        if depth < HALF_DIAGONAL:
            edges[count, 0], edges[count, 1], edges[count, 2], edges[count, 3] = x, y, nx, ny
            edges[count, 4], edges[count, 5] = depth, k
            count += 1
    return count


@part("f8(f8, f8, f8[:,:], i8, f8[:,:]!, f8[:,:]!)", inline=True)
def _share(px, py, edges, count, polygon, spare):  # type: ignore[no-untyped-def]
    """The part of the pixel at (px, py) inside of all edges. edges, count: see _edges_through; polygon, spare: scratch."""
    if count <= 0:
        return 1.0 if count == 0 else 0.0
    if count == 1:
        return _part_of_square(edges[0, 4], edges[0, 2], edges[0, 3])
    polygon[0, 0], polygon[0, 1], polygon[1, 0], polygon[1, 1] = px, py, px + 1.0, py
    polygon[2, 0], polygon[2, 1], polygon[3, 0], polygon[3, 1] = px + 1.0, py + 1.0, px, py + 1.0
    corners = 4
    for k in range(count):
        corners = _clip(polygon, corners, edges[k, 0], edges[k, 1], edges[k, 2], edges[k, 3], spare)
    total = 0.0
    for i in range(corners):
        j = i + 1 if i + 1 < corners else 0
        total += polygon[i, 0] * polygon[j, 1] - polygon[j, 0] * polygon[i, 1]
    return 0.5 * abs(total)


@kernel("f8(f8[:,:], i8, f8[:], f8[:], b1, f8, f8[:]!)")
def wedge_misfit(seen, count, wedge, tip, is_cut, most, off):  # type: ignore[no-untyped-def]
    """Sum of squared differences between seen shares and a wedge's; the rest is left out once it is above `most`.

    seen : (M, 3) x, y of pixels and the share seen in them, of which `count` are used. tip : (3,), looked at as a cut only
    where is_cut. off : (M,) receives the differences.
    """
    tips, edges = np.empty((TANGENTS + 1, 4)), np.empty((TANGENTS + 3, 6))
    polygon, spare = np.empty((24, 2)), np.empty((24, 2))
    tip_count = _edges_of_tip(wedge, tip, is_cut, tips)
    total = 0.0
    for i in range(count):
        through = _edges_through(seen[i, 0], seen[i, 1], wedge, tips, tip_count, edges)
        off[i] = seen[i, 2] - _share(seen[i, 0], seen[i, 1], edges, through, polygon, spare)
        total += off[i] * off[i]
        if total > most:
            break
    return total


@part("UniTuple(f8, 2)(f8, f8, f8[:,:], i8, i8, f8, f8)", inline=True)
def _stretch(px, py, edges, count, k, dx, dy):  # type: ignore[no-untyped-def]
    """From where to where edge k lies in the pixel and inside of the other edges, along (dx, dy) from its place."""
    x, y = edges[k, 0], edges[k, 1]
    low, high = -1e3, 1e3
    for j in range(count + 4):
        if j < count:
            inside = (x - edges[j, 0]) * edges[j, 2] + (y - edges[j, 1]) * edges[j, 3] if j != k else 1.0
            growth = dx * edges[j, 2] + dy * edges[j, 3] if j != k else 0.0
        elif j < count + 2:
            inside, growth = (x - px, dx) if j == count else (px + 1.0 - x, -dx)
        else:
            inside, growth = (y - py, dy) if j == count + 2 else (py + 1.0 - y, -dy)
        if growth > 1e-12:
            low = max(low, -inside / growth)
        elif growth < -1e-12:
            high = min(high, -inside / growth)
        elif inside < 0.0:
            high = low
    return low, high


@part("void(f8[:], f8[:], f8[:,:], i8, i8, f8, f8, f8[:,:]!)", inline=True)
def _add_sweep(wedge, tip, edges, e, i, start, stop, slopes):  # type: ignore[no-untyped-def]
    """Add to pixel i's slopes what edge e, seen in it from start to stop along the edge, sweeps when it moves."""
    nx, ny, which = edges[e, 2], edges[e, 3], int(edges[e, 5])
    size, middle = stop - start, 0.5 * (start + stop)
    if which < 2:
        k = 5 * which
        along = (edges[e, 0] - wedge[k]) * wedge[k + 2] + (edges[e, 1] - wedge[k + 1]) * wedge[k + 3]
        swept = -size * wedge[10]
        slopes[3 * which, i] += swept
        slopes[3 * which + 1, i] += swept * (along + middle)
        slopes[3 * which + 2, i] += swept * along * (0.5 * along + middle)
        return
    ax, ay, ux, uy = on_side(wedge, 0, -tip[BACK])
    bx, by, vx, vy = on_side(wedge, 1, tip[AHEAD])
    part = middle / max(1e-9, np.sqrt((bx - ax) ** 2 + (by - ay) ** 2))  # of the way across
    for end in range(2):
        k, along, lever = 5 * end, tip[AHEAD] if end else -tip[BACK], -size * (part if end else 1.0 - part)
        swept = lever * (wedge[k + 2] * ny - wedge[k + 3] * nx)
        slopes[3 * end, i] += swept
        slopes[3 * end + 1, i] += swept * along
        slopes[3 * end + 2, i] += swept * 0.5 * along * along
        slopes[6 + end, i] += lever * (vx * nx + vy * ny if end else -ux * nx - uy * ny)


@kernel("void(f8[:,:], i8, f8[:], f8[:], b1, f8[:,:]!)")
def wedge_slopes(seen, count, wedge, tip, is_cut, slopes):  # type: ignore[no-untyped-def]
    """How the shares a wedge covers change with what can be changed: an edge that moves sweeps what is seen of it.

    slopes : (8, M) receives that for each side: 1 px across it, to the left of its direction as y runs up, 1 radian about its
    place, a curvature of 1; then for a cut 1 px farther back and ahead, 0 without one. The rest: see wedge_misfit.
    """
    tips, edges = np.empty((TANGENTS + 1, 4)), np.empty((TANGENTS + 3, 6))
    tip_count = _edges_of_tip(wedge, tip, is_cut, tips)
    slopes[:, :count] = 0.0
    for i in range(count):
        through = _edges_through(seen[i, 0], seen[i, 1], wedge, tips, tip_count, edges)
        for e in range(through):
            dx, dy = wedge[10] * edges[e, 3], -wedge[10] * edges[e, 2]
            start, stop = _stretch(seen[i, 0], seen[i, 1], edges, through, e, dx, dy)
            if stop > start:
                _add_sweep(wedge, tip, edges, e, i, start, stop, slopes)


@kernel("void(f8[:]!, f8[:]!, i8, f8)")
def change_wedge(wedge, tip, which, step):  # type: ignore[no-untyped-def]
    """Change one of eight things, as wedge_slopes has them, by `step` px, radians or 1 / px. wedge : (6,); tip : (2,)."""
    if which >= 6:
        tip[BACK if which == 6 else AHEAD] += step
        return
    k = 5 * (which // 3)
    x, y = wedge[k + 2], wedge[k + 3]
    if which % 3 == 0:
        wedge[k] -= y * step
        wedge[k + 1] += x * step
    elif which % 3 == 1:
        cos, sin = np.cos(step), np.sin(step)
        wedge[k + 2], wedge[k + 3] = x * cos - y * sin, x * sin + y * cos
    else:
        wedge[k + 4] += step


@part("i8(u1[:,:,:], f8[:], f8[:], f8[:], f8[:], f8, f8, f8, f8[:,:]!)")
def shares_about(image, light, inner, outer, wedge, x, y, room, seen):  # type: ignore[no-untyped-def]
    """Shares of the inner colour in the pixels beside a wedge's sides and tip, within `room` of (x, y).

    image : (H, W, 4) uint8, light : (256,) what its values stand for; inner, outer : (4,) colours; pixels with
    a third colour in them are left out. seen : (M, 3) receives x, y, share. Returns how many.
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
                share = share_in_pixel(image, light, inner, outer, row, column)
                if share < 0.0:
                    continue
                seen[used, 0], seen[used, 1], seen[used, 2] = column, row, share
                used += 1
    return used
