"""The last word on corners and short segments: nodes and handles are moved until they cover the pixels as the picture does.

Points along an edge are sums over several pixels: next to a corner, or along an edge of a few pixels, they see more than
one side. The pixels say it all, though: what the drawn segments cover is compared with them, and the segments about such
places are moved to agree (Gauss-Newton, damped after D. Marquardt, 1963). What a long segment knows from pixels further
off holds its end, and smooth nodes stay smooth.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_row, copy_rows, copy_segments
from bisectum.core.geom.corners import SPOILT
from bisectum.core.geom.joint import SMOOTH
from bisectum.core.geom.solve import solve_damped
from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.coverage import PIXEL, cover_chord, cover_segment
from bisectum.core.raster.share import NOTHING, share_in_pixel
from bisectum.core.raster.surface import colour_at
from bisectum.core.steps.lines.free_places import (
    FARTHEST,
    REACH,
    add_knowledge,
    add_pixels,
    is_sane,
    length_of,
    move_points,
    number_variables,
    smooth_out,
    turn_at,
)

MOST_NODES = 10
ROUNDS = 12  # after which a group may have gone so far that all of it would be given up


@part("i8(f8[:], f8[:,:], i4[:]!, u1[:,:,:], f8[:], f8[:,:], i4[:,:], i8, i8, i8, i8, f8[:,:]!, f8[:]!)")
def _see(ends, cover, pixel_of, image, light, colours, regions, left_region, right_region, left, top, seen, offsets):  # type: ignore[no-untyped-def]
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
            if y < 0 or x < 0 or y >= regions.shape[0] or x >= regions.shape[1]:
                continue
            alone = True
            for b in range(max(0, y - 1), min(regions.shape[0], y + 2)):
                for a in range(max(0, x - 1), min(regions.shape[1], x + 2)):
                    alone = alone and (regions[b, a] == left_region or regions[b, a] == right_region)
            for k in range(0, 4, 2):
                alone = alone and (x + 0.5 - ends[k]) ** 2 + (y + 0.5 - ends[k + 1]) ** 2 > SPOILT**2
            if not alone:
                continue
            share = share_in_pixel(image, light, colours[0], colours[1], y, x)
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


@part("void(f8[:,:,:], b1[:], b1, i8, i8, i8, i8, f8[:,:]!, f8[:]!)")
def _cover_rest(curves, straight, closed, first, segments, left, top, base, ends):  # type: ignore[no-untyped-def]
    """Coverage by all but `segments` segments from the one before node `first` on. ends : (4,) x, y of an open chain's ends."""
    total = len(curves)
    none = np.empty((0, 5))
    for k in range(total):
        if (k - first + 1) % total >= segments:
            cover_segment(curves[k], straight[k], left, top, base, none, 0, k)
    ends[:] = -1e9
    if not closed:
        # Both ends are led to the side of a pixel and there out of the window on the left, where they are joined.
        for c in range(2):
            ends[c], ends[2 + c] = curves[0, 0, c], curves[total - 1, 3, c]
        ax, ay, bx, by = ends[0] - left, ends[1] - top, ends[2] - left, ends[3] - top
        cover_chord(bx, by, bx, np.round(by), 0.0, 1.0, base, none, 0, 0)
        cover_chord(-1.0, np.round(by), -1.0, np.round(ay), 0.0, 1.0, base, none, 0, 0)
        cover_chord(ax, np.round(ay), ax, ay, 0.0, 1.0, base, none, 0, 0)


@part("void(f8[:,:,:], b1[:], i8, i8, f8[:,:]!, f8[:,:]!, i4[:]!)")
def _mark(own, straight, left, top, cover, hits, pixel_of):  # type: ignore[no-untyped-def]
    """Add the segments that may move to `cover`, and mark all pixels about those they cross."""
    rows, columns = cover.shape[0], cover.shape[1] - 1
    used = 0
    for i in range(len(own)):
        used = cover_segment(own[i], straight[i], left, top, cover, hits, used, i)
    for h in range(used):
        row, column = int(hits[h, PIXEL]) // columns, int(hits[h, PIXEL]) % columns
        for b in range(max(0, row - 1), min(rows, row + 2)):
            for a in range(max(0, column - 1), min(columns, column + 2)):
                pixel_of[b * columns + a] = 0


@part("i8(i4[:])")
def _marked(pixel_of):  # type: ignore[no-untyped-def]
    """How many pixels are marked."""
    count = 0
    for p in range(len(pixel_of)):
        count += int(pixel_of[p] >= 0)
    return count


@part("b1(f8[:,:], f8[:], f8, f8[:,:]!, f8[:]!)")
def _step(matrix, vector, damping, work, step):  # type: ignore[no-untyped-def]
    """Solve for the next step, none of which is longer than FARTHEST."""
    if not solve_damped(matrix, vector, damping, work, step):
        return False
    longest = FARTHEST
    for k in range(len(step)):
        longest = max(longest, abs(step[k]))
    for k in range(len(step)):
        step[k] *= FARTHEST / longest
    return True


@part("UniTuple(f8, 2)(f8[:,:,:]!, b1[:], i8[:,:], b1[:], i8, f8[:,:], f8[:,:], f8[:], i4[:], i8, i8, i8, f8[:,:]!, f8[:,:]!)")
def _agree(own, straight, of, smooth, n, base, seen, offsets, pixel_of, count, left, top, cover, hits):  # type: ignore[no-untyped-def]
    """Move segments until they agree with the pixels. Returns the squared shares off, before and after."""
    slopes, before, trial = np.empty((count, n)), own.copy(), own.copy()
    matrix, vector, next_matrix, next_vector = np.zeros((n, n)), np.zeros(n), np.empty((n, n)), np.empty(n)
    work, step = np.empty((n, n)), np.empty(n)
    first = add_pixels(own, straight, of, base, seen, offsets, pixel_of, left, top, cover, hits, slopes, matrix, vector)
    shares = first
    if first < NOTHING:
        return first, first
    best = first + add_knowledge(own, straight, of, smooth, before, matrix, vector)
    damping, done = 1e-3, False
    for _ in range(ROUNDS):
        if done or damping > 1e3 or not _step(matrix, vector, damping, work, step):
            break
        copy_segments(trial, own)
        move_points(trial, straight, of, step)
        next_matrix[:] = 0.0
        next_vector[:] = 0.0
        left_over = add_pixels(trial, straight, of, base, seen, offsets, pixel_of, left, top, cover, hits, slopes, next_matrix,
                               next_vector)
        cost = left_over + add_knowledge(trial, straight, of, smooth, before, next_matrix, next_vector)
        if cost < best:
            done = best - cost < 1e-4 * best + 1e-6
            best, shares = cost, left_over
            copy_segments(own, trial)
            copy_rows(matrix, next_matrix)
            copy_row(vector, next_vector)
            damping = max(1e-5, 0.3 * damping)
        else:
            damping *= 8.0
    if not is_sane(own, before, straight):
        shares = first
    return first, shares


@kernel("f8(f8[:,:,:]!, b1[:], b1, i8, i8, u1[:,:,:], f8[:], f8[:,:], i4[:,:], i8, i8)")
def fit_group(curves, straight, closed, first, nodes, image, light, colours, regions, left_region, right_region):  # type: ignore[no-untyped-def]
    """Move `nodes` nodes of a chain from node `first` on, and the handles about them. Returns the squared shares left off.

    colours : (2, 4), left and right; the rest as for fit_chain.
    """
    total = len(curves)
    around = closed and nodes == total
    segments = nodes if around else nodes + 1
    own, own_straight = np.empty((segments, 4, 2)), np.empty(segments, np.bool_)
    for i in range(segments):
        copy_rows(own[i], curves[(first - 1 + i) % total])
        own_straight[i] = straight[(first - 1 + i) % total]
    left, top, right, bottom = 1e9, 1e9, -1e9, -1e9
    for node in range(nodes):
        left, right = min(left, own[node, 3, 0]), max(right, own[node, 3, 0])
        top, bottom = min(top, own[node, 3, 1]), max(bottom, own[node, 3, 1])
    x, y = int(np.floor(left - REACH)), int(np.floor(top - REACH))
    rows, columns = int(bottom + REACH) + 1 - y, int(right + REACH) + 1 - x
    base, ends = np.zeros((rows, columns + 1)), np.empty(4)
    _cover_rest(curves, straight, closed, first, segments, x, y, base, ends)
    cover, hits = base.copy(), np.empty((40 * segments + 8 * (rows + columns) * segments, 5))
    pixel_of = np.full(rows * columns, -1, np.int32)
    _mark(own, own_straight, x, y, cover, hits, pixel_of)
    seen, offsets = np.empty((_marked(pixel_of), 3)), np.zeros(rows)
    count = _see(ends, cover, pixel_of, image, light, colours, regions, left_region, right_region, x, y, seen, offsets)
    of, smooth = np.empty((segments, 4), np.int64), np.empty(nodes, np.bool_)
    last = first + nodes
    start_bends = (not closed and first == 1) or turn_at(curves, straight, (first - 1) % total) > SMOOTH
    end_bends = (not closed and last == total) or turn_at(curves, straight, last % total) > SMOOTH
    n = number_variables(own, own_straight, nodes, around, start_bends, end_bends, of, smooth)
    before, after = _agree(own, own_straight, of, smooth, n, base, seen, offsets, pixel_of, count, x, y, cover, hits)
    if after >= before:
        return before
    smooth_out(own, own_straight, of, smooth)
    for i in range(segments):
        copy_rows(curves[(first - 1 + i) % total], own[i])
    return after


@kernel("i8(f8[:,:,:], b1[:], b1, i8[:,:]!)")
def _groups(curves, straight, closed, groups):  # type: ignore[no-untyped-def]
    """Doubtful nodes that follow each other closely. groups : (S, 2) receives each one's first node and how many it has.

    Returns how many groups there are.
    """
    total = len(curves)
    low, high = (0, total) if closed else (1, total)
    doubtful, lengths = np.zeros(total + 1, np.bool_), np.empty(total)
    for k in range(total):
        lengths[k] = length_of(curves[k], straight[k])
    every = closed
    for k in range(low, high):
        doubtful[k] = min(lengths[k], lengths[(k - 1) % total]) < REACH or turn_at(curves, straight, k) > SMOOTH
        every = every and doubtful[k] and lengths[k] < REACH
    if every and total <= MOST_NODES:
        groups[0, 0], groups[0, 1] = 0, total
        return 1
    start = low
    if closed:
        while start < high and doubtful[start] and lengths[(start - 1) % total] < REACH:
            start += 1
    used = 0
    k = 0
    while k < high - low:
        node = low + (start - low + k) % (high - low)
        if not doubtful[node]:
            k += 1
            continue
        count = 1
        while k + count < high - low and count < MOST_NODES and count < total - 1:
            following = low + (start - low + k + count) % (high - low)
            if not doubtful[following] or lengths[(following - 1) % total] > REACH:
                break
            count += 1
        groups[used, 0], groups[used, 1] = node, count
        used += 1
        k += count
    return used


@kernel("void(f8, f8, u1[:,:,:], f8[:,:,:], i8, i8, f8[:,:]!)")
def colours_beside(x, y, image, surfaces, left_label, right_label, colours):  # type: ignore[no-untyped-def]
    """The colours of two labels at a place of the picture. colours : (2, 4) receives them."""
    u, v = 2.0 * x / image.shape[1] - 1.0, 2.0 * y / image.shape[0] - 1.0
    colour_at(surfaces, left_label, u, v, colours[0])
    colour_at(surfaces, right_label, u, v, colours[1])


@kernel("void(f8[:,:,:]!, b1[:], b1, f8, f8, u1[:,:,:], f8[:], f8[:,:,:], u1[:], i4[:,:], i8, i8)")
def fit_chain(curves, straight, closed, x, y, image, light, surfaces, labels, regions, left, right):  # type: ignore[no-untyped-def]
    """Settle all doubtful nodes of a chain, in groups.

    curves : (S, 4, 2) px, changed in place; straight : (S,); x, y: where on the chain its sides' colours are taken;
    image, light, surfaces: see Blending; labels: of the regions; regions : (H, W), left and right being the chain's own two.
    """
    colours, groups = np.empty((2, 4)), np.empty((len(curves), 2), np.int64)
    colours_beside(x, y, image, surfaces, labels[left], labels[right], colours)
    for k in range(_groups(curves, straight, closed, groups)):
        fit_group(curves, straight, closed, groups[k, 0], groups[k, 1], image, light, colours, regions, left, right)
