"""Cubics that follow each other smoothly, moved together until they lie nearest to their points.

Nodes were set on measured points, with tangents measured nearby: each carries the error of its place. All control points
of a span are now unknowns of one least-squares problem (Gauss-Newton), in which the joints stay smooth and both ends
where they are, so that errors of single points cancel.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.geom.copying import copy_segments
from bisectum.core.geom.joint import add_joint, add_row, handle_of, has_sane_handles
from bisectum.core.geom.solve import solve
from bisectum.core.raster.bernstein import bernstein
from bisectum.core.raster.compiled import kernel, part

STIFF = 20.0  # px off that a radian of turn at a joint counts as
HOLD = 0.05  # px off that a px of way of anything moved counts as


@part("f8(f8[:,:], f8, f8, f8, f8[:]!)")
def _nearest(c, x, y, t, out):  # type: ignore[no-untyped-def]
    """One Newton step from parameter t towards the place on c nearest to (x, y). Returns the parameter there.

    out : (4,) receives the way from (x, y) to that place, and the unit normal there.
    """
    for improved in range(2):
        o = 1.0 - t
        b0, b1, b2, b3 = bernstein(t)
        bx = b0 * c[0, 0] + b1 * c[1, 0] + b2 * c[2, 0] + b3 * c[3, 0]
        by = b0 * c[0, 1] + b1 * c[1, 1] + b2 * c[2, 1] + b3 * c[3, 1]
        vx = 3 * (o * o * (c[1, 0] - c[0, 0]) + 2 * t * o * (c[2, 0] - c[1, 0]) + t * t * (c[3, 0] - c[2, 0]))
        vy = 3 * (o * o * (c[1, 1] - c[0, 1]) + 2 * t * o * (c[2, 1] - c[1, 1]) + t * t * (c[3, 1] - c[2, 1]))
        if improved:
            break
        wx = 6 * (o * (c[2, 0] - 2 * c[1, 0] + c[0, 0]) + t * (c[3, 0] - 2 * c[2, 0] + c[1, 0]))
        wy = 6 * (o * (c[2, 1] - 2 * c[1, 1] + c[0, 1]) + t * (c[3, 1] - 2 * c[2, 1] + c[1, 1]))
        slope = vx * vx + vy * vy + (bx - x) * wx + (by - y) * wy
        if slope > 1e-12:
            t = min(1.0, max(0.0, t - ((bx - x) * vx + (by - y) * vy) / slope))
    size = max(1e-12, np.sqrt(vx * vx + vy * vy))
    out[0], out[1], out[2], out[3] = bx - x, by - y, -vy / size, vx / size
    return t


@part("f8(f8[:,:], i8[:], f8[:]!, f8[:,:,:], f8[:,:]!, f8[:]!, f8[:]!)")
def _equations(points, first, u, curves, matrix, vector, sums):  # type: ignore[no-untyped-def]
    """One equation for each point. first : (S + 1,) each segment's points; u: their parameters, improved.

    sums : (2,) receives the squared distances and the greatest. Returns the former.
    """
    count = len(curves)
    shares, variables, out = np.empty(4), np.empty(4, np.int64), np.empty(4)
    sums[:] = 0.0
    for k in range(count):
        variables[0], variables[1], variables[2], variables[3] = 6 * k - 2, 6 * k, 6 * k + 2, 6 * k + 4
        if k == 0:
            variables[0] = -1
        if k == count - 1:
            variables[3] = -1
        for i in range(first[k], first[k + 1]):
            t = _nearest(curves[k], points[i, 0], points[i, 1], u[i - first[0]], out)
            u[i - first[0]] = t
            shares[0], shares[1], shares[2], shares[3] = bernstein(t)
            off = out[0] * out[2] + out[1] * out[3]
            away = out[0] * out[0] + out[1] * out[1]
            sums[0] += away
            sums[1] = max(sums[1], away)
            add_row(off, out[2], out[3], 1.0, shares, variables, matrix, vector)
    return sums[0]


@part("void(f8[:,:,:], b1, b1, f8[:,:,:], f8[:,:]!, f8[:]!)")
def _joints(curves, free_start, free_end, before, matrix, vector):  # type: ignore[no-untyped-def]
    """Smooth joints, the directions at both ends where they bind, and a weak hold."""
    count = len(curves)
    for k in range(count - 1):
        ax, ay, a = handle_of(curves[k], 3, 2)
        bx, by, b = handle_of(curves[k + 1], 0, 1)
        add_joint(ax, ay, a, bx, by, b, STIFF, 6 * k + 2, 6 * k + 6, 6 * k + 4, matrix, vector)
    for end in range(2):
        if free_start if end == 0 else free_end:
            continue
        k, point = (0, 1) if end == 0 else (count - 1, 2)
        ax, ay, a = handle_of(curves[k], 3 * end, point)
        bx, by, _ = handle_of(before[k], 3 * end, point)
        add_joint(ax, ay, a, -bx, -by, 1.0, STIFF, 6 * k + 2 * end, -1, -1, matrix, vector)
    for v in range(len(vector)):
        matrix[v, v] += HOLD**2


@part("void(f8[:,:,:]!, b1, b1, f8[:,:,:])")
def _straighten_joints(curves, free_start, free_end, before):  # type: ignore[no-untyped-def]
    """Put both handles of each joint on one line exactly, and those at bound ends on theirs."""
    count = len(curves)
    for k in range(count - 1):
        ax, ay, a = handle_of(curves[k], 3, 2)
        bx, by, b = handle_of(curves[k + 1], 0, 1)
        dx, dy = bx - ax, by - ay
        size = max(1e-9, np.sqrt(dx * dx + dy * dy))
        for c in range(2):
            d = (dx if c == 0 else dy) / size
            curves[k, 2, c], curves[k + 1, 1, c] = curves[k, 3, c] - a * d, curves[k, 3, c] + b * d
    for end in range(2):
        if free_start if end == 0 else free_end:
            continue
        k, point = (0, 1) if end == 0 else (count - 1, 2)
        _, _, a = handle_of(curves[k], 3 * end, point)
        bx, by, _ = handle_of(before[k], 3 * end, point)
        curves[k, point, 0], curves[k, point, 1] = curves[k, 3 * end, 0] + a * bx, curves[k, 3 * end, 1] + a * by


@part("b1(f8[:,:], i8, f8[:,:,:], i8[:]!)")
def _points_of_each(points, low, curves, first):  # type: ignore[no-untyped-def]
    """Where each segment's points begin, and where the last one's end: first : (S + 1,). False where nodes are not points."""
    i = low
    for k in range(len(curves)):
        first[k] = i
        i += 1
        while i < len(points) and (points[i, 0] != curves[k, 3, 0] or points[i, 1] != curves[k, 3, 1]):
            i += 1
    first[len(curves)] = i
    return i < len(points)


@part("void(f8[:,:], i8[:], f8[:]!)")
def _parameters(points, first, u):  # type: ignore[no-untyped-def]
    """First guess of the points' parameters, by the length of their chords."""
    for k in range(len(first) - 1):
        total = 0.0
        for i in range(first[k], first[k + 1]):
            u[i - first[0]] = total
            total += np.sqrt((points[i + 1, 0] - points[i, 0]) ** 2 + (points[i + 1, 1] - points[i, 1]) ** 2)
        for i in range(first[k], first[k + 1]):
            u[i - first[0]] /= max(1e-12, total)


@part("void(f8[:,:,:]!, f8[:])")
def _advance(curves, step):  # type: ignore[no-untyped-def]
    """Move handles and inner nodes by a step of the unknowns."""
    for k in range(len(curves)):
        for c in range(2):
            curves[k, 1, c] += step[6 * k + c]
            curves[k, 2, c] += step[6 * k + 2 + c]
            if k < len(curves) - 1:
                curves[k, 3, c] += step[6 * k + 4 + c]
                curves[k + 1, 0, c] = curves[k, 3, c]


@kernel("void(f8[:,:], i8, b1, b1, f8, f8[:,:,:]!, f8[:]!)")
def polish_curves(points, low, free_start, free_end, tolerance, curves, worst):  # type: ignore[no-untyped-def]
    """Move the nodes and handles of curves : (S, 4, 2), whose nodes are points from point `low` on, in this order.

    free_start, free_end: the direction at that end may change. worst : (1,) receives the greatest distance; what would
    leave more than that and `tolerance` is not done.
    """
    count = len(curves)
    first = np.empty(count + 1, np.int64)
    if not _points_of_each(points, low, curves, first):
        return
    u = np.empty(first[count] - low)
    _parameters(points, first, u)
    n = 6 * count - 2
    matrix, vector, sums = np.empty((n, n)), np.empty(n), np.empty(2)
    before, trial, best = curves.copy(), curves.copy(), curves.copy()
    least, greatest = 1e300, 0.0
    while True:
        matrix[:] = 0.0
        vector[:] = 0.0
        _equations(points, first, u, trial, matrix, vector, sums)
        if sums[0] >= least:
            break
        done = sums[0] > 0.98 * least
        least, greatest = sums[0], sums[1]
        copy_segments(best, trial)
        if done:
            break
        _joints(trial, free_start, free_end, before, matrix, vector)
        if not solve(matrix, vector):
            break
        _advance(trial, vector)
        _straighten_joints(trial, free_start, free_end, before)
    for k in range(count):
        if not has_sane_handles(best[k]):
            return
    if np.sqrt(greatest) <= max(tolerance, worst[0]):
        copy_segments(curves, best)
        worst[0] = np.sqrt(greatest)
