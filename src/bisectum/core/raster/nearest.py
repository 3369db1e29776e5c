"""Colours of the nearest chosen pixels, for a narrow band of places; cheaper than a distance image of the whole picture."""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel


@kernel("f4[:,:](u1[:,:,:], b1[:,:], i8[:], i8[:], i8)")
def nearest_colours(rgba, chosen, rows, columns, radius):  # type: ignore[no-untyped-def]
    """The colour of the chosen pixel nearest to each place, within `radius` px.

    rgba : (H, W, 4); chosen : (H, W); rows, columns : (N,). Returns (N, 4) float32: red, green, blue, and 1, or zeros where
    none is near.
    """
    height, width = chosen.shape
    result = np.zeros((len(rows), 4), np.float32)
    for i in range(len(rows)):
        best = radius * radius + 1
        at_y, at_x = -1, -1
        for away in range(radius + 1):  # ring by ring, until no farther ring can hold a nearer one
            if away * away >= best:
                break
            for dy in range(-away, away + 1):
                step = 1 if abs(dy) == away else 2 * away
                for dx in range(-away, away + 1, max(1, step)):
                    y, x = rows[i] + dy, columns[i] + dx
                    if 0 <= y < height and 0 <= x < width and chosen[y, x] and dy * dy + dx * dx < best:
                        best = dy * dy + dx * dx
                        at_y, at_x = y, x
        if at_y >= 0:
            for c in range(3):
                result[i, c] = rgba[at_y, at_x, c]
            result[i, 3] = 1.0
    return result
