"""Superpixels by clustering in colour and place.

R. Achanta et al., "SLIC Superpixels Compared to State-of-the-art Superpixel Methods", 2012.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel

COMPACTNESS = 0.12  # OKLab difference that counts as much as one spacing of the seeds
ROUNDS = 6


@kernel("i4[:,:](f4[:,:,:], i8)")
def superpixels(lab, wanted):  # type: ignore[no-untyped-def]
    """About `wanted` regions of like colour. lab : (H, W, 3) float32, OKLab. Returns (H, W) int32, numbers from 0."""
    height, width = lab.shape[0], lab.shape[1]
    spacing = max(2.0, np.sqrt(height * width / max(1, wanted)))
    rows, columns = max(1, int(height / spacing)), max(1, int(width / spacing))
    count = rows * columns
    centres = np.zeros((count, 5))
    for k in range(count):
        y, x = int((k // columns + 0.5) * height / rows), int((k % columns + 0.5) * width / columns)
        for c in range(3):
            centres[k, c] = lab[y, x, c]
        centres[k, 3], centres[k, 4] = y, x
    labels = np.zeros((height, width), np.int32)
    best = np.empty((height, width))
    weight = (COMPACTNESS / spacing) ** 2
    sums = np.zeros((count, 6))
    for _ in range(ROUNDS):
        best[:] = 1e30
        for k in range(count):
            cy, cx = centres[k, 3], centres[k, 4]
            for y in range(max(0, int(cy - 1.5 * spacing)), min(height, int(cy + 1.5 * spacing) + 2)):
                for x in range(max(0, int(cx - 1.5 * spacing)), min(width, int(cx + 1.5 * spacing) + 2)):
                    total = weight * ((y - cy) ** 2 + (x - cx) ** 2)
                    for c in range(3):
                        total += (lab[y, x, c] - centres[k, c]) ** 2
                    if total < best[y, x]:
                        best[y, x] = total
                        labels[y, x] = k
        sums[:] = 0.0
        for y in range(height):
            for x in range(width):
                k = labels[y, x]
                for c in range(3):
                    sums[k, c] += lab[y, x, c]
                sums[k, 3] += y
                sums[k, 4] += x
                sums[k, 5] += 1.0
        for k in range(count):
            if sums[k, 5] > 0.0:
                for c in range(5):
                    centres[k, c] = sums[k, c] / sums[k, 5]
    return labels
