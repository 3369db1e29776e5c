"""How much of each pixel lies on the left of a chain of cubic segments, by signed areas.

Every piece of a line within a pixel adds the area between it and the pixel's right side, and its height to all pixels
further right; sums along the rows give the coverage exactly for straight pieces. A shift of the line changes a pixel by
the area the piece in it sweeps, which gives the derivatives. Only differences within a row mean anything for an open
chain: what lies far off is told but for a whole number.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.bernstein import bernstein
from bisectum.core.raster.compiled import kernel, part

CHORDS_PER_PX = 2.0
PIXEL, SEGMENT, AT, ACROSS, DOWN = 0, 1, 2, 3, 4  # columns of hits


@part("i8(f8, f8, f8, f8, f8, f8, f8[:,:]!, f8[:,:]!, i8, i8)")
def cover_chord(ax, ay, bx, by, start, stop, cover, hits, used, segment):  # type: ignore[no-untyped-def]
    """Add one chord, which runs from parameter start to stop, pixel by pixel (J. Amanatides and A. Woo, 1987)."""
    rows, columns = cover.shape[0], cover.shape[1] - 1
    if (ay < 0.0 and by < 0.0) or (ay >= rows and by >= rows) or (ax >= columns and bx >= columns):
        return used
    dx, dy = bx - ax, by - ay
    t, x, y = 0.0, ax, ay
    while t < 1.0:
        # The next side of a pixel that is crossed.
        following = 1.0
        if dx > 0.0:
            following = min(following, (np.floor(x) + 1.0 - ax) / dx)
        elif dx < 0.0:
            following = min(following, (np.ceil(x) - 1.0 - ax) / dx)
        if dy > 0.0:
            following = min(following, (np.floor(y) + 1.0 - ay) / dy)
        elif dy < 0.0:
            following = min(following, (np.ceil(y) - 1.0 - ay) / dy)
        following = min(1.0, max(following, t + 1e-9))
        nx, ny = ax + following * dx, ay + following * dy
        row, column = int(np.floor(0.5 * (y + ny))), int(np.floor(0.5 * (x + nx)))
        if 0 <= row < rows and column < columns:
            height = ny - y
            if column < 0:
                cover[row, 0] += height
            else:
                inside = height * (column + 1.0 - 0.5 * (x + nx))
                cover[row, column] += inside
                cover[row, column + 1] += height - inside
                if used < len(hits):
                    hits[used, PIXEL], hits[used, SEGMENT] = row * columns + column, segment
                    hits[used, AT] = start + 0.5 * (t + following) * (stop - start)
                    hits[used, ACROSS], hits[used, DOWN] = nx - x, height
                    used += 1
        t, x, y = following, nx, ny
    return used


@kernel("i8(f8[:,:], b1, f8, f8, f8[:,:]!, f8[:,:]!, i8, i8)")
def cover_segment(curve, is_straight, left, top, cover, hits, used, segment):  # type: ignore[no-untyped-def]
    """Add one segment to the running coverage of a window of pixels.

    curve : (4, 2); left, top: the window's corner; cover : (rows, columns + 1), whose sums along a row are the coverage
    of its pixels by what is on the segment's left; hits : (M, 5) receives from row `used` on what it crosses: the pixel
    (row · columns + column), the segment's number, the parameter and the step x, y. Returns the next free row of it.
    """
    x, y = curve[0, 0] - left, curve[0, 1] - top
    if is_straight:
        return cover_chord(x, y, curve[3, 0] - left, curve[3, 1] - top, 0.0, 1.0, cover, hits, used, segment)
    low, high, most = curve[0, 1], curve[0, 1], curve[0, 0]
    length = 0.0
    for k in range(1, 4):
        low, high, most = min(low, curve[k, 1]), max(high, curve[k, 1]), max(most, curve[k, 0])
        length += np.sqrt((curve[k, 0] - curve[k - 1, 0]) ** 2 + (curve[k, 1] - curve[k - 1, 1]) ** 2)
    if high < top or low >= top + cover.shape[0]:
        return used
    if most < left:
        return cover_chord(x, y, curve[3, 0] - left, curve[3, 1] - top, 0.0, 1.0, cover, hits, used, segment)
    count = int(CHORDS_PER_PX * length) + 3
    for k in range(count):
        t = (k + 1.0) / count
        b0, b1, b2, b3 = bernstein(t)
        nx = b0 * curve[0, 0] + b1 * curve[1, 0] + b2 * curve[2, 0] + b3 * curve[3, 0] - left
        ny = b0 * curve[0, 1] + b1 * curve[1, 1] + b2 * curve[2, 1] + b3 * curve[3, 1] - top
        used = cover_chord(x, y, nx, ny, k / count, t, cover, hits, used, segment)
        x, y = nx, ny
    return used
