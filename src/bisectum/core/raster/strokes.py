"""Coverage of a line of varying width with round ends: capsules from point to point."""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel


@kernel("u1[:,:](i8, i8, f8[:,:], f8[:])")
def stroke_coverage(height, width, points, widths):  # type: ignore[no-untyped-def]
    """How much of each pixel a stroke covers, to within the curve of its ends over one pixel.

    points : (N, 2), x and y, px; widths : (N,), px. Returns (height, width) uint8, 0 to 255.
    """
    result = np.zeros((height, width), np.uint8)
    for k in range(max(1, len(points) - 1)):
        other = min(k + 1, len(points) - 1)
        ax, ay, bx, by = points[k, 0], points[k, 1], points[other, 0], points[other, 1]
        ra, rb = widths[k] / 2, widths[other] / 2
        most = max(ra, rb) + 1.0
        left, right = int(max(0.0, min(ax, bx) - most)), int(min(width - 1.0, max(ax, bx) + most))
        top, bottom = int(max(0.0, min(ay, by) - most)), int(min(height - 1.0, max(ay, by) + most))
        dx, dy = bx - ax, by - ay
        length = dx * dx + dy * dy
        for y in range(top, bottom + 1):
            for x in range(left, right + 1):
                px, py = x + 0.5 - ax, y + 0.5 - ay
                along = 0.0 if length < 1e-12 else min(1.0, max(0.0, (px * dx + py * dy) / length))
                away = np.sqrt((px - along * dx) ** 2 + (py - along * dy) ** 2)
                share = min(1.0, max(0.0, ra + along * (rb - ra) - away + 0.5))
                result[y, x] = max(result[y, x], np.uint8(255.0 * share + 0.5))
    return result
