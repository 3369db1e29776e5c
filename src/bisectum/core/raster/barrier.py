"""Minimum barrier distance to the border: how much a colour must change on the easiest way to the picture's edge.

J. Zhang et al., "Minimum Barrier Salient Object Detection at 80 FPS", 2015: raster scans in turn from both corners.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel

SCANS = 4


@kernel("f4[:,:](f4[:,:])")
def barrier_distance(values):  # type: ignore[no-untyped-def]
    """values : (H, W) float32, one channel. Returns (H, W) float32, zero along the border."""
    height, width = values.shape
    low, high = values.copy(), values.copy()
    result = np.full((height, width), np.float32(1e9))
    for y in range(height):
        result[y, 0] = result[y, width - 1] = np.float32(0.0)
    for x in range(width):
        result[0, x] = result[height - 1, x] = np.float32(0.0)
    for scan in range(SCANS):
        back = scan % 2 == 1
        for i in range(1, height - 1):
            y = height - 1 - i if back else i
            for j in range(1, width - 1):
                x = width - 1 - j if back else j
                for k in range(2):
                    row = y + ((1 if back else -1) if k == 0 else 0)
                    column = x + ((1 if back else -1) if k == 1 else 0)
                    least, most = min(low[row, column], values[y, x]), max(high[row, column], values[y, x])
                    if most - least < result[y, x]:
                        result[y, x] = most - least
                        low[y, x], high[y, x] = least, most
    return result
