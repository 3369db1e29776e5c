"""Segments of a chain as unknowns: what moves with what, what the pixels ask of them, and what else is known.

Within a group of `n` nodes that are moved together, segment i ends in node i and segment i + 1 starts there; around a
whole closed chain the last one is followed by the first.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_rows
from bisectum.core.geom.joint import SMOOTH, add_joint, add_row, handle_of, has_sane_handles
from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.coverage import ACROSS, AT, DOWN, PIXEL, SEGMENT, cover_segment

REACH = 16.0  # px of a segment that the pixels about its node tell of; a longer one keeps its direction
STIFF = 3.0  # weight of a radian of turn at a smooth node, in shares
HOLD = 0.03  # weight of a pixel's way of anything moved, in shares; and of each px of a long segment that lies further off
FARTHEST = 2.5  # px a node may move
FIXED, TIED = -1, -2  # instead of the number of a variable: what does not move, and a handle that goes with its node


@part("f8(f8[:,:], b1)")
def length_of(curve, is_straight):  # type: ignore[no-untyped-def]
    """Length of a segment's control polygon, px."""
    if is_straight:
        return np.sqrt((curve[3, 0] - curve[0, 0]) ** 2 + (curve[3, 1] - curve[0, 1]) ** 2)
    total = 0.0
    for k in range(3):
        total += np.sqrt((curve[k + 1, 0] - curve[k, 0]) ** 2 + (curve[k + 1, 1] - curve[k, 1]) ** 2)
    return total


@part("UniTuple(f8, 3)(f8[:,:], b1, i8)")
def handle_at(curve, is_straight, end):  # type: ignore[no-untyped-def]
    """The unit direction from a segment's end (0 or 1) into it, and the length of its handle, px."""
    return handle_of(curve, 3 * end, 3 - 3 * end if is_straight else 1 + end)


@kernel("f8(f8[:,:,:], b1[:], i8)")
def turn_at(curves, straight, node):  # type: ignore[no-untyped-def]
    """The angle by which the line turns where segment `node` starts, radians. curves : (S, 4, 2)."""
    before = (node - 1) % len(curves)
    ax, ay, _ = handle_at(curves[before], straight[before], 1)
    bx, by, _ = handle_at(curves[node], straight[node], 0)
    return abs(np.arctan2(ax * by - ay * bx, -(ax * bx + ay * by)))


@part("i8(f8[:,:,:], b1[:], i8, b1, b1, b1, i8[:,:]!, b1[:]!)")
def number_variables(own, straight, nodes, around, start_bends, end_bends, of, smooth):  # type: ignore[no-untyped-def]
    """Number the coordinates that may move. of : (S, 4) receives the variable of each control point, y the next one.

    around: whether the group is a whole closed chain. start_bends, end_bends: whether the outer ends are corners.
    smooth : (nodes,) receives which nodes are smooth.
    Returns how many variables there are.
    """
    segments = len(own)
    count = 2 * nodes
    for i in range(segments):
        of[i, 0] = 2 * ((i - 1) % nodes) if (i > 0 or around) else FIXED
        of[i, 3] = 2 * i if (i < nodes) else FIXED
        for end in range(2):
            node = of[i, 3 * end]
            of[i, 1 + end] = FIXED
            if straight[i]:
                continue
            if length_of(own[i], False) > REACH:
                of[i, 1 + end] = TIED if node >= 0 else FIXED
            elif node >= 0 or (start_bends if end == 0 else end_bends):
                of[i, 1 + end] = count
                count += 2
    for node in range(nodes):
        other = (node + 1) % segments
        ax, ay, _ = handle_at(own[node], straight[node], 1)
        bx, by, _ = handle_at(own[other], straight[other], 0)
        smooth[node] = abs(np.arctan2(ax * by - ay * bx, -(ax * bx + ay * by))) < SMOOTH
    return count


@part("i8(i8[:,:], i8, i8)")
def _variable(of, segment, point):  # type: ignore[no-untyped-def]
    """The variable that moves a control point, or FIXED."""
    found = of[segment, point]
    return of[segment, 0 if point == 1 else 3] if found == TIED else found


@part("void(f8[:,:,:]!, b1[:], i8[:,:], f8[:])")
def move_points(own, straight, of, step):  # type: ignore[no-untyped-def]
    """Move all control points by a step of the variables."""
    for i in range(len(own)):
        for point in range(4):
            variable = _variable(of, i, point)
            if variable >= 0:
                own[i, point, 0] += step[variable]
                own[i, point, 1] += step[variable + 1]
        if straight[i]:
            for c in range(2):
                own[i, 1, c] = own[i, 0, c] + (own[i, 3, c] - own[i, 0, c]) / 3.0
                own[i, 2, c] = own[i, 3, c] - (own[i, 3, c] - own[i, 0, c]) / 3.0


@part("f8(f8[:,:,:], b1[:], i8[:,:], b1[:], f8[:,:,:], f8[:,:]!, f8[:]!)")
def add_knowledge(own, straight, of, smooth, before, matrix, vector):  # type: ignore[no-untyped-def]
    """Add what is known beside the pixels: smooth nodes, the rest of long segments, a weak hold. Returns its cost."""
    cost = 0.0
    segments = len(own)
    whole, alone = np.ones(1), np.empty(1, np.int64)
    for node in range(len(smooth)):
        other = (node + 1) % segments
        ax, ay, a = handle_at(own[node], straight[node], 1)
        bx, by, b = handle_at(own[other], straight[other], 0)
        if smooth[node]:
            cost += add_joint(ax, ay, a, bx, by, b, STIFF, _variable(of, node, 0 if straight[node] else 2),
                              _variable(of, other, 3 if straight[other] else 1), of[node, 3], matrix, vector)
        alone[0] = of[node, 3]
        for side in range(2):
            i, point = (node, 3) if side == 0 else (other, 0)
            nx, ny = (-ay, ax) if side == 0 else (-by, bx)
            weight = HOLD * max(0.0, length_of(own[i], straight[i]) - REACH)
            for _ in range(1 if straight[i] else 2):  # a bent segment is changed by a shift along it, too
                off = nx * (own[i, point, 0] - before[i, point, 0]) + ny * (own[i, point, 1] - before[i, point, 1])
                cost += weight * off * off
                add_row(off, nx, ny, weight, whole, alone, matrix, vector)
                nx, ny = -ny, nx
    for i in range(segments):
        for point in range(4):
            k = of[i, point]
            if k >= 0:
                for c in range(2):
                    off = own[i, point, c] - before[i, point, c]
                    cost += HOLD**2 * off * off
                    vector[k + c] -= HOLD**2 * off
                    matrix[k + c, k + c] += HOLD**2
    return cost


@part("f8(f8[:,:,:], b1[:], i8[:,:], f8[:,:], f8[:,:], f8[:], i4[:], i8, i8, f8[:,:]!, f8[:,:]!, f8[:,:]!, f8[:,:]!, f8[:]!)")
def add_pixels(own, straight, of, base, seen, offsets, pixel_of, left, top, cover, hits, slopes, matrix, vector):  # type: ignore[no-untyped-def]
    """Squared shares off over the pixels seen, and their normal equations.

    base: coverage by all other segments; seen : (P, 3) row, column, share; offsets : (rows,) whole numbers;
    pixel_of : (rows · columns,) the number in seen, or -1. cover, hits, slopes: scratch.
    """
    copy_rows(cover, base)
    used = 0
    for i in range(len(own)):
        used = cover_segment(own[i], straight[i], left, top, cover, hits, used, i)
    slopes[:] = 0.0
    for h in range(used):
        p = pixel_of[int(hits[h, PIXEL])]
        if p < 0:
            continue
        i, t = int(hits[h, SEGMENT]), hits[h, AT]
        o = 1.0 - t
        for point in range(4):
            k = _variable(of, i, point)
            if k < 0:
                continue
            if straight[i]:
                share = o if point == 0 else (t if point == 3 else 0.0)
            else:
                share = (1.0 if point in (0, 3) else 3.0) * o ** (3 - point) * t**point
            slopes[p, k] -= share * hits[h, DOWN]
            slopes[p, k + 1] += share * hits[h, ACROSS]
    rows, columns = cover.shape[0], cover.shape[1] - 1
    n = len(vector)
    cost = 0.0
    for row in range(rows):
        total = -offsets[row]
        for column in range(columns):
            total += cover[row, column]
            p = pixel_of[row * columns + column]
            if p < 0:
                continue
            off = seen[p, 2] - total
            cost += off * off
            for a in range(n):
                slope = slopes[p, a]
                if slope != 0.0:
                    vector[a] += slope * off
                    for b in range(n):
                        matrix[a, b] += slope * slopes[p, b]
    return cost


@part("b1(f8[:,:,:], f8[:,:,:], b1[:])")
def is_sane(own, before, straight):  # type: ignore[no-untyped-def]
    """Whether no node went far, no segment turned about, and no handle grew beyond its segment."""
    for i in range(len(own)):
        along, chord = 0.0, 0.0
        for c in range(2):
            along += (own[i, 3, c] - own[i, 0, c]) * (before[i, 3, c] - before[i, 0, c])
            chord += (own[i, 3, c] - own[i, 0, c]) ** 2
        moved = (own[i, 0, 0] - before[i, 0, 0]) ** 2 + (own[i, 0, 1] - before[i, 0, 1]) ** 2
        if along <= 0.0 or moved > FARTHEST**2 or chord < 0.09:
            return False
        if not straight[i] and not has_sane_handles(own[i]):
            return False
    return True


@part("void(f8[:,:,:]!, b1[:], i8[:,:], b1[:])")
def smooth_out(own, straight, of, smooth):  # type: ignore[no-untyped-def]
    """Put both handles of every smooth node on one line: that of a side whose direction is not to change, or between."""
    for node in range(len(smooth)):
        other = (node + 1) % len(own)
        held, other_held = straight[node] or of[node, 2] < 0, straight[other] or of[other, 1] < 0
        if not smooth[node] or (held and other_held):
            continue
        ax, ay, a = handle_at(own[node], straight[node], 1)
        bx, by, b = handle_at(own[other], straight[other], 0)
        dx = -ax if held else (bx if other_held else bx - ax)
        dy = -ay if held else (by if other_held else by - ay)
        size = max(1e-9, np.sqrt(dx * dx + dy * dy))
        if not held:
            own[node, 2, 0], own[node, 2, 1] = own[node, 3, 0] - a * dx / size, own[node, 3, 1] - a * dy / size
        if not other_held:
            own[other, 1, 0], own[other, 1, 1] = own[other, 0, 0] + b * dx / size, own[other, 0, 1] + b * dy / size
