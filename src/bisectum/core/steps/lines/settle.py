"""The last word on corners and short segments: nodes and handles are moved until they cover the pixels as the picture does.

Points along an edge are sums over several pixels: next to a corner, or along an edge of a few pixels, they see more than
one side. The pixels say it all, though: what the drawn segments cover is compared with them, and the segments about such
places are moved to agree (Gauss-Newton, damped after D. Marquardt, 1963). What a long segment knows from pixels further
off holds its end, and smooth nodes stay smooth.

Within a group of `n` nodes that are moved together, segment i ends in node i and segment i + 1 starts there.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.joint import add_joint, add_row
from bisectum.core.geom.polish import handle_of, has_sane_handles
from bisectum.core.geom.solve import solve
from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.coverage import ACROSS, AT, DOWN, PIXEL, SEGMENT, cover_chord, cover_segment
from bisectum.core.raster.wedge import share_in_pixel

SMOOTH = 0.02  # radians of turn up to which a node is a smooth one
SHORT = 14.0  # px; a node beside a shorter segment is looked at
LINK = 16.0  # px between two nodes that are moved together
MOST_NODES, MOST_SEEN = 10, 1600
PAD = 8  # px about the nodes that are looked at
LONG = 20.0  # px from which a segment's handle goes with its node
CLEAR = 2.3  # px about a junction, whose pixels hold a third colour
OFF = 40.0  # levels off the line between both colours, from which a third one is in the pixel
LEAST = 0.004  # squared shares off, from which a place is looked at
WORTH = 0.9  # part of the squared shares off that may be left, or the segments stay as they were
STIFF = 3.0  # weight of a radian of turn at a smooth node, in shares
HOLD = 0.03  # weight of a pixel's way of anything moved, in shares
KNOWN = 0.3  # weight of a pixel's way for each px of a long segment that lies further off
FARTHEST = 2.5  # px a node may move
ROUNDS = 12
FIXED, TIED = -1, -2  # instead of the number of a variable: what does not move, and a handle that goes with its node


@kernel("f8(f8[:,:], b1)")
def _length(curve, is_straight):  # type: ignore[no-untyped-def]
    """Length of a segment's control polygon, px."""
    if is_straight:
        return np.sqrt((curve[3, 0] - curve[0, 0]) ** 2 + (curve[3, 1] - curve[0, 1]) ** 2)
    total = 0.0
    for k in range(3):
        total += np.sqrt((curve[k + 1, 0] - curve[k, 0]) ** 2 + (curve[k + 1, 1] - curve[k, 1]) ** 2)
    return total


@kernel("UniTuple(f8, 3)(f8[:,:], b1, i8)")
def _handle(curve, is_straight, end):  # type: ignore[no-untyped-def]
    """The unit direction from a segment's end (0 or 1) into it, and the length of its handle, px."""
    return handle_of(curve, 3 * end, 3 - 3 * end if is_straight else 1 + end)


@kernel("f8(f8[:,:,:], b1[:], i8)")
def _turn(curves, straight, node):  # type: ignore[no-untyped-def]
    """The angle by which the line turns where segment `node` starts, radians."""
    before = (node - 1) % len(curves)
    ax, ay, _ = _handle(curves[before], straight[before], 1)
    bx, by, _ = _handle(curves[node], straight[node], 0)
    return abs(np.arctan2(ax * by - ay * bx, -(ax * bx + ay * by)))


@kernel("i8(f8[:,:,:], b1[:], i8, i8, b1, i8[:,:]!, b1[:]!)")
def _variables(own, straight, nodes, around, ends_bend, of, smooth):  # type: ignore[no-untyped-def]
    """Number the coordinates that may move. of : (S, 4) receives the variable of each control point, y the next one.

    around: 1 where the group is a whole closed chain. ends_bend: whether the outer ends are corners. smooth : (nodes,).
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
            if _length(own[i], False) > LONG:
                of[i, 1 + end] = TIED if node >= 0 else FIXED
            elif node >= 0 or ends_bend:
                of[i, 1 + end] = count
                count += 2
    for node in range(nodes):
        other = (node + 1) % segments
        ax, ay, _ = _handle(own[node], straight[node], 1)
        bx, by, _ = _handle(own[other], straight[other], 0)
        smooth[node] = abs(np.arctan2(ax * by - ay * bx, -(ax * bx + ay * by))) < SMOOTH
    return count


@kernel("i8(i8[:,:], i8, i8)")
def _variable(of, segment, point):  # type: ignore[no-untyped-def]
    """The variable that moves a control point, or FIXED."""
    found = of[segment, point]
    return of[segment, 0 if point == 1 else 3] if found == TIED else found


@kernel("void(f8[:,:,:]!, b1[:], i8[:,:], f8[:])")
def _move(own, straight, of, step):  # type: ignore[no-untyped-def]
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


@kernel("f8(f8[:,:,:], b1[:], i8[:,:], b1[:], f8[:,:,:], f8[:,:]!, f8[:]!)")
def _add_knowledge(own, straight, of, smooth, before, matrix, vector):  # type: ignore[no-untyped-def]
    """Add what is known beside the pixels: smooth nodes, the rest of long segments, a weak hold. Returns its cost."""
    cost = 0.0
    segments = len(own)
    whole, alone = np.ones(1), np.empty(1, np.int64)
    for node in range(len(smooth)):
        other = (node + 1) % segments
        ax, ay, a = _handle(own[node], straight[node], 1)
        bx, by, b = _handle(own[other], straight[other], 0)
        if smooth[node]:
            cost += add_joint(ax, ay, a, bx, by, b, STIFF, _variable(of, node, 0 if straight[node] else 2),
                              _variable(of, other, 3 if straight[other] else 1), of[node, 3], matrix, vector)
        alone[0] = of[node, 3]
        for side in range(2):
            i, point = (node, 3) if side == 0 else (other, 0)
            nx, ny = (-ay, ax) if side == 0 else (-by, bx)
            weight = KNOWN * max(0.0, _length(own[i], straight[i]) - 1.5 * PAD)
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


@kernel("f8(f8[:,:,:], b1[:], i8[:,:], f8[:,:], f8[:,:], f8[:], i4[:], i8, i8, f8[:,:]!, f8[:,:]!, f8[:,:]!, f8[:,:]!, f8[:]!)")
def _compare(own, straight, of, base, seen, offsets, pixel_of, left, top, cover, hits, slopes, matrix, vector):  # type: ignore[no-untyped-def]
    """Squared shares off over the pixels seen, and their normal equations.

    base: coverage by all other segments; seen : (P, 3) row, column, share; offsets : (rows,) whole numbers;
    pixel_of : (rows · columns,) the number in seen, or -1. cover, hits, slopes: scratch.
    """
    cover[:] = base
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
                share = o * o * o if point == 0 else (3 * t * o * o if point == 1 else (3 * t * t * o if point == 2 else t * t * t))
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


@kernel("i8(f8[:,:], f8[:], f8[:,:]!, i4[:]!, u1[:,:,:], f8[:], f8[:,:], i4[:,:], i8, i8, i8, i8, f8[:,:]!, f8[:]!)")
def _see(base, ends, cover, pixel_of, image, light, colours, regions, left_region, right_region, left, top, seen, offsets):  # type: ignore[no-untyped-def]
    """Shares of the left colour in the pixels marked in pixel_of, which then holds their numbers; and the rows' offsets.

    A pixel counts where only the chain's two regions lie about it. cover: the coverage now. ends : (4,) x, y of junctions.
    Returns how many.
    """
    rows, columns = cover.shape[0], cover.shape[1] - 1
    used = 0
    for row in range(rows):
        votes, voters = 0.0, 0
        begin = used
        total = 0.0
        for column in range(columns):
            total += cover[row, column]
            p = row * columns + column
            if pixel_of[p] < 0:
                continue
            pixel_of[p] = -1
            y, x = top + row, left + column
            if y < 0 or x < 0 or y >= regions.shape[0] or x >= regions.shape[1] or used == len(seen):
                continue
            alone = True
            for b in range(max(0, y - 1), min(regions.shape[0], y + 2)):
                for a in range(max(0, x - 1), min(regions.shape[1], x + 2)):
                    alone = alone and (regions[b, a] == left_region or regions[b, a] == right_region)
            for k in range(0, 4, 2):
                alone = alone and (x + 0.5 - ends[k]) ** 2 + (y + 0.5 - ends[k + 1]) ** 2 > CLEAR**2
            if not alone:
                continue
            share = share_in_pixel(image, light, colours[0], colours[1], y, x, OFF)
            if share < 0.0:
                continue
            seen[used, 0], seen[used, 1], seen[used, 2] = row, column, share
            pixel_of[p] = used
            votes += total - share
            voters += 1
            used += 1
        offsets[row] = np.round(votes / voters) if voters else 0.0
        total = -offsets[row]
        column = 0
        for p in range(begin, used):
            while column <= int(seen[p, 1]):
                total += cover[row, column]
                column += 1
            if total < -0.01 or total > 1.01:
                pixel_of[row * columns + int(seen[p, 1])] = -1
    return used


@kernel("b1(f8[:,:,:], f8[:,:,:], b1[:])")
def _is_sane(own, before, straight):  # type: ignore[no-untyped-def]
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


@kernel("void(f8[:,:,:]!, b1[:], i8[:,:], b1[:])")
def _smooth_out(own, straight, of, smooth):  # type: ignore[no-untyped-def]
    """Put both handles of every smooth node on one line: that of a side whose direction is not to change, or between."""
    for node in range(len(smooth)):
        other = (node + 1) % len(own)
        held, other_held = straight[node] or of[node, 2] < 0, straight[other] or of[other, 1] < 0
        if not smooth[node] or (held and other_held):
            continue
        ax, ay, a = _handle(own[node], straight[node], 1)
        bx, by, b = _handle(own[other], straight[other], 0)
        dx = -ax if held else (bx if other_held else bx - ax)
        dy = -ay if held else (by if other_held else by - ay)
        size = max(1e-9, np.sqrt(dx * dx + dy * dy))
        if not held:
            own[node, 2, 0], own[node, 2, 1] = own[node, 3, 0] - a * dx / size, own[node, 3, 1] - a * dy / size
        if not other_held:
            own[other, 1, 0], own[other, 1, 1] = own[other, 0, 0] + b * dx / size, own[other, 0, 1] + b * dy / size


@kernel(
    "f8(f8[:,:,:]!, b1[:], b1, i8, i8, u1[:,:,:], f8[:], f8[:,:], i4[:,:], i8, i8)"
)
def settle_group(curves, straight, closed, first, nodes, image, light, colours, regions, left_region, right_region):  # type: ignore[no-untyped-def]
    """Move `nodes` nodes of a chain from node `first` on, and the handles about them. Returns the shares left over."""
    total = len(curves)
    around = closed and nodes == total
    segments = nodes if around else nodes + 1
    own, own_straight = np.empty((segments, 4, 2)), np.empty(segments, np.bool_)
    for i in range(segments):
        own[i], own_straight[i] = curves[(first - 1 + i) % total], straight[(first - 1 + i) % total]
    left, top, right, bottom = 1e9, 1e9, -1e9, -1e9
    for node in range(nodes):
        left, right = min(left, own[node, 3, 0]), max(right, own[node, 3, 0])
        top, bottom = min(top, own[node, 3, 1]), max(bottom, own[node, 3, 1])
    x0, y0 = int(np.floor(left)) - PAD, int(np.floor(top)) - PAD
    rows, columns = int(bottom) + PAD + 1 - y0, int(right) + PAD + 1 - x0
    base, cover = np.zeros((rows, columns + 1)), np.empty((rows, columns + 1))
    none = np.empty((0, 5))
    for k in range(total):
        if (k - first + 1) % total >= segments:
            cover_segment(curves[k], straight[k], x0, y0, base, none, 0, k)
    ends = np.full(4, -1e9)
    if not closed:
        # Both ends are led to the side of a pixel and there out of the window on the left, where they are joined.
        ax, ay, bx, by = curves[0, 0, 0], curves[0, 0, 1], curves[total - 1, 3, 0], curves[total - 1, 3, 1]
        ends[0], ends[1], ends[2], ends[3] = ax, ay, bx, by
        ax, ay, bx, by = ax - x0, ay - y0, bx - x0, by - y0
        cover_chord(bx, by, bx, np.round(by), 0.0, 1.0, base, none, 0, 0)
        cover_chord(-1.0, np.round(by), -1.0, np.round(ay), 0.0, 1.0, base, none, 0, 0)
        cover_chord(ax, np.round(ay), ax, ay, 0.0, 1.0, base, none, 0, 0)
    hits = np.empty((40 * segments + 8 * (rows + columns) * segments, 5))
    cover[:] = base
    used = 0
    for i in range(segments):
        used = cover_segment(own[i], own_straight[i], x0, y0, cover, hits, used, i)
    pixel_of = np.full(rows * columns, -1, np.int32)
    for h in range(used):
        row, column = int(hits[h, PIXEL]) // columns, int(hits[h, PIXEL]) % columns
        for b in range(max(0, row - 1), min(rows, row + 2)):
            for a in range(max(0, column - 1), min(columns, column + 2)):
                pixel_of[b * columns + a] = 0
    seen, offsets = np.empty((MOST_SEEN, 3)), np.zeros(rows)
    count = _see(base, ends, cover, pixel_of, image, light, colours, regions, left_region, right_region, x0, y0, seen, offsets)
    of, smooth = np.empty((segments, 4), np.int64), np.empty(nodes, np.bool_)
    before_turn = closed or first > 1
    ends_bend = not around and (not before_turn or _turn(curves, straight, (first - 1) % total) > SMOOTH)
    n = _variables(own, own_straight, nodes, around, ends_bend, of, smooth)
    slopes = np.empty((count, n))
    matrix, vector, trial_matrix, trial_vector = np.zeros((n, n)), np.zeros(n), np.empty((n, n)), np.empty(n)
    work, step = np.empty((n, n)), np.empty(n)
    before = own.copy()
    shares = _compare(own, own_straight, of, base, seen, offsets, pixel_of, x0, y0, cover, hits, slopes, matrix, vector)
    first_shares = shares
    if shares < LEAST:
        return shares
    best = shares + _add_knowledge(own, own_straight, of, smooth, before, matrix, vector)
    damping = 1e-3
    trial = own.copy()
    for _ in range(ROUNDS):
        work[:] = matrix
        step[:] = vector
        for k in range(n):
            work[k, k] += damping * matrix[k, k] + 1e-9
        if not solve(work, step):
            break
        longest = 0.0
        for k in range(n):
            longest = max(longest, abs(step[k]))
        if longest > 0.8:
            for k in range(n):
                step[k] *= 0.8 / longest
        trial[:] = own
        _move(trial, own_straight, of, step)
        trial_matrix[:] = 0.0
        trial_vector[:] = 0.0
        left_over = _compare(trial, own_straight, of, base, seen, offsets, pixel_of, x0, y0, cover, hits, slopes, trial_matrix,
                             trial_vector)
        cost = left_over + _add_knowledge(trial, own_straight, of, smooth, before, trial_matrix, trial_vector)
        if cost < best:
            done = best - cost < 1e-4 * best + 1e-6
            best, shares = cost, left_over
            own[:] = trial
            matrix[:] = trial_matrix
            vector[:] = trial_vector
            damping = max(1e-5, 0.3 * damping)
            if done:
                break
        else:
            damping *= 8.0
            if damping > 1e3:
                break
    if shares < WORTH * first_shares and _is_sane(own, before, own_straight):
        _smooth_out(own, own_straight, of, smooth)
        for i in range(segments):
            curves[(first - 1 + i) % total] = own[i]
        return shares
    return first_shares


@kernel("i8(f8[:,:,:]!, b1[:], b1, u1[:,:,:], f8[:], f8[:,:], i4[:,:], i8, i8)")
def settle_chain(curves, straight, closed, image, light, colours, regions, left_region, right_region):  # type: ignore[no-untyped-def]
    """Settle all doubtful nodes of a chain, in groups.

    curves : (S, 4, 2) px, changed in place; straight : (S,). image, light: see Sight; colours : (2, 4) of the left and
    the right region in terms of light; regions : (H, W). Returns how many groups there were.
    """
    total = len(curves)
    low, high = (0, total) if closed else (1, total)
    doubtful, lengths = np.zeros(total + 1, np.bool_), np.empty(total)
    for k in range(total):
        lengths[k] = _length(curves[k], straight[k])
    every = closed
    for k in range(low, high):
        doubtful[k] = min(lengths[k], lengths[(k - 1) % total]) < SHORT or _turn(curves, straight, k) > SMOOTH
        every = every and doubtful[k] and lengths[k] < LINK
    if every and total <= MOST_NODES:
        settle_group(curves, straight, closed, 0, total, image, light, colours, regions, left_region, right_region)
        return 1
    start = low
    if closed:
        while start < high and doubtful[start] and lengths[(start - 1) % total] < LINK:
            start += 1
    groups = 0
    k = 0
    while k < high - low:
        node = low + (start - low + k) % (high - low)
        if not doubtful[node]:
            k += 1
            continue
        count = 1
        while k + count < high - low and count < MOST_NODES and count < total - 1:
            following = low + (start - low + k + count) % (high - low)
            if not doubtful[following] or lengths[(following - 1) % total] > LINK:
                break
            count += 1
        settle_group(curves, straight, closed, node, count, image, light, colours, regions, left_region, right_region)
        groups += 1
        k += count
    return groups
