"""Distance of every pixel from a colour surface in OKLab, and flooding from the border."""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.colour import oklab_of
from bisectum.core.raster.compiled import kernel, part


@part("UniTuple(f8, 3)(u1[:,:,:], i8, i8, f8[:])", inline=True)
def _pixel(rgba, y, x, linear_of_srgb):  # type: ignore[no-untyped-def]
    """OKLab of a pixel."""
    return oklab_of(linear_of_srgb[rgba[y, x, 0]], linear_of_srgb[rgba[y, x, 1]], linear_of_srgb[rgba[y, x, 2]])


@part("i8(u1[:,:,:], i8, i8)", inline=True)
def _coded(rgba, y, x):  # type: ignore[no-untyped-def]
    """A pixel's colour as one number, to tell that it is the same as the last one's."""
    return (np.int64(rgba[y, x, 0]) << 16) + (np.int64(rgba[y, x, 1]) << 8) + np.int64(rgba[y, x, 2])


@part("u1(f8)", inline=True)
def _steps(squared):  # type: ignore[no-untyped-def]
    """A squared distance in OKLab as steps of 1/500."""
    return np.uint8(min(255.0, 500.0 * np.sqrt(squared) + 0.5))


@kernel("u1[:,:](u1[:,:,:], f8[:,:], f8[:])")
def distance_from_surface(rgba, surface, linear_of_srgb):  # type: ignore[no-untyped-def]
    """How far each pixel is from the surface, in OKLab.

    rgba : (H, W, 4) uint8; surface : (6, 3) float64, OKLab coefficients of raster.surface; linear_of_srgb : (256,).
    Returns (H, W) uint8 in steps of 1/500 (one step is 0.002, the top is 0.51 and more).
    """
    height, width = rgba.shape[0], rgba.shape[1]
    result = np.empty((height, width), np.uint8)
    s, line = surface, np.empty((3, 3))  # of a row: what stays, what goes by u, and by its square
    for y in range(height):
        v = (y + 0.5) * 2.0 / height - 1.0
        for c in range(3):
            line[0, c], line[1, c], line[2, c] = s[0, c] + s[2, c] * v + s[5, c] * v * v, s[1, c] + s[4, c] * v, s[3, c]
        last = np.int64(-1)
        light, a, b = 0.0, 0.0, 0.0
        for x in range(width):
            coded = _coded(rgba, y, x)
            if coded != last:
                last = coded
                light, a, b = _pixel(rgba, y, x, linear_of_srgb)
            u = (x + 0.5) * 2.0 / width - 1.0
            o = light - line[0, 0] - u * (line[1, 0] + u * line[2, 0])
            p = a - line[0, 1] - u * (line[1, 1] + u * line[2, 1])
            q = b - line[0, 2] - u * (line[1, 2] + u * line[2, 2])
            result[y, x] = _steps(o * o + p * p + q * q)
    return result


@kernel("void(u1[:,:], u1, b1[:,:]!, i4[:]!, i8)")
def _spread(distances, reach, filled, stack, used):  # type: ignore[no-untyped-def]
    """Go on from the `used` pixels on the stack to all that hang together with them by their sides."""
    height, width = distances.shape
    while used:
        used -= 1
        y, x = stack[used] // width, stack[used] % width
        for direction in range(4):
            row = y + (direction == 1) - (direction == 3)
            column = x + (direction == 0) - (direction == 2)
            if 0 <= row < height and 0 <= column < width and not filled[row, column] and distances[row, column] <= reach:
                filled[row, column] = True
                stack[used] = row * width + column
                used += 1


@kernel("b1[:,:](u1[:,:], u1)")
def flood_from_border(distances, reach):  # type: ignore[no-untyped-def]
    """Pixels within `reach` that hang together with the border by their sides. (H, W) uint8 → (H, W) bool."""
    height, width = distances.shape
    filled = np.zeros((height, width), np.bool_)
    stack = np.empty(height * width + 1, np.int32)
    used = 0
    for y in range(height):
        for x in range(width):
            if (y == 0 or x == 0 or y == height - 1 or x == width - 1) and distances[y, x] <= reach:
                filled[y, x] = True
                stack[used] = y * width + x
                used += 1
    _spread(distances, reach, filled, stack, used)
    return filled


@kernel("b1[:,:](u1[:,:], u1, i8, i8)")
def flood_from(distances, reach, row, column):  # type: ignore[no-untyped-def]
    """Pixels within `reach` that hang together with one of them by their sides. (H, W) uint8 → (H, W) bool."""
    height, width = distances.shape
    filled = np.zeros((height, width), np.bool_)
    if distances[row, column] > reach:
        return filled
    stack = np.empty(height * width + 1, np.int32)
    filled[row, column] = True
    stack[0] = row * width + column
    _spread(distances, reach, filled, stack, 1)
    return filled


@kernel("u1[:,:](u1[:,:,:], f4[:,:,:], f8[:])")
def distance_from_field(rgba, field, linear_of_srgb):  # type: ignore[no-untyped-def]
    """How far each pixel is from a colour given place by place, in OKLab, in the steps of distance_from_surface.

    rgba : (H, W, 4) uint8; field : (h, w, 3) float32, OKLab, a smaller grid over the same picture. Returns (H, W) uint8.
    """
    height, width = rgba.shape[0], rgba.shape[1]
    rows, columns = field.shape[0], field.shape[1]
    result = np.empty((height, width), np.uint8)
    line = np.empty((columns, 3))
    for y in range(height):
        v = min(rows - 1.0, max(0.0, (y + 0.5) * rows / height - 0.5))
        row = min(rows - 1, int(v))
        below = min(rows - 1, row + 1)
        for i in range(columns):
            for c in range(3):
                line[i, c] = field[row, i, c] * (1.0 - (v - row)) + field[below, i, c] * (v - row)
        last = np.int64(-1)
        light, a, b = 0.0, 0.0, 0.0
        for x in range(width):
            coded = _coded(rgba, y, x)
            if coded != last:
                last = coded
                light, a, b = _pixel(rgba, y, x, linear_of_srgb)
            u = min(columns - 1.0, max(0.0, (x + 0.5) * columns / width - 0.5))
            column = min(columns - 1, int(u))
            right = min(columns - 1, column + 1)
            total = 0.0
            for c in range(3):
                expected = line[column, c] * (1.0 - (u - column)) + line[right, c] * (u - column)
                here = light if c == 0 else (a if c == 1 else b)
                total += (here - expected) ** 2
            result[y, x] = _steps(total)
    return result
