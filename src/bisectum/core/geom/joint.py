"""Handles: where they point, when they are sane, and what holds those of a smooth node on one line while all is moved."""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel, part

OPPOSITE = 0.98  # cosine from which two lines run against each other, or on from each other
SMOOTH = 0.02  # radians that a line may turn at a smooth node


@part("UniTuple(f8, 3)(f8[:,:], i8, i8)")
def handle_of(curve, end, point):  # type: ignore[no-untyped-def]
    """The unit direction from a segment's end point to another of its control points, and how far that is."""
    dx, dy = curve[point, 0] - curve[end, 0], curve[point, 1] - curve[end, 1]
    size = np.sqrt(dx * dx + dy * dy)
    if size < 1e-9:
        return 1.0, 0.0, 1e-9
    return dx / size, dy / size, size


@kernel("b1(f8[:,:])")
def has_sane_handles(curve):  # type: ignore[no-untyped-def]
    """Whether a segment's handles neither turn back, nor reach so far that it draws a loop, nor vanish. curve : (4, 2).

    Where neither reaches beyond its chord, as seen along it, a cubic cannot turn back.
    """
    dx, dy, chord = handle_of(curve, 0, 3)
    ax, ay, a = handle_of(curve, 0, 1)
    bx, by, b = handle_of(curve, 3, 2)
    ahead, back = ax * dx + ay * dy, -bx * dx - by * dy
    return (max(a * ahead, b * back) <= chord and max(a, b) <= 1.4 * chord and min(a, b) >= 0.03 * chord
            and min(ahead, back) >= -0.3)


@part("void(f8, f8, f8, f8, f8[:], i8[:], f8[:,:]!, f8[:]!)")
def add_row(off, nx, ny, weight, shares, variables, matrix, vector):  # type: ignore[no-untyped-def]
    """Add a weighted equation that cancels a residual: a sum of shares of places, taken along (nx, ny).

    off: the residual as it is now; shares : (K,); variables : (K,) the one of each place's x, y being the next, below 0 for
    what is fixed. weight: of the squared equation.
    """
    for p in range(len(variables)):
        a = variables[p]
        if a < 0:
            continue
        vector[a] -= weight * off * shares[p] * nx
        vector[a + 1] -= weight * off * shares[p] * ny
        for q in range(len(variables)):
            b = variables[q]
            if b >= 0:
                both = weight * shares[p] * shares[q]
                matrix[a, b] += both * nx * nx
                matrix[a, b + 1] += both * nx * ny
                matrix[a + 1, b] += both * nx * ny
                matrix[a + 1, b + 1] += both * ny * ny


@part("f8(f8, f8, f8, f8, f8, f8, f8, i8, i8, i8, f8[:,:]!, f8[:]!)")
def add_joint(ax, ay, a, bx, by, b, stiff, handle, other, node, matrix, vector):  # type: ignore[no-untyped-def]
    """Add the equation that a node's handles, of unit directions a and b and these lengths, lie on one line.

    stiff: weight of a radian. handle, other, node: their variables, below 0 for what is fixed. Returns the squared cost.
    """
    dx, dy = bx - ax, by - ay
    size = max(1e-9, np.sqrt(dx * dx + dy * dy))
    nx, ny = -dy / size, dx / size
    off = stiff * (nx * (ax + bx) + ny * (ay + by))
    shares, variables = np.empty(3), np.empty(3, np.int64)
    shares[0], shares[1], shares[2] = stiff / a, stiff / b, -stiff / a - stiff / b
    variables[0], variables[1], variables[2] = handle, other, node
    add_row(off, nx, ny, 1.0, shares, variables, matrix, vector)
    return off * off
