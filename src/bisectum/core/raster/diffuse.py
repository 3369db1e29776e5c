"""What is known at some places is spread to all: the even-most answer that keeps to edges."""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel

OVER = 1.85  # of successive over-relaxation


@kernel("void(f4[:,:]!, f4[:,:], f4[:,:], f4[:,:], f4[:,:], i8)")
def diffuse(values, known, weight, right, down, rounds):  # type: ignore[no-untyped-def]
    """Solve (L + weight) values = weight · known in place by so many rounds of successive over-relaxation.

    values, known, weight : (H, W) float32; right, down : (H, W) float32, the strength of the link from each place to the next
    one on its right and below it; L: the graph's Laplacian. Beyond the frame the value is 0, linked as strongly as `right` of
    the last column and `down` of the last row are (D. M. Young, "Iterative Solution of Large Linear Systems", 1971).
    """
    height, width = values.shape
    for _ in range(rounds):
        for y in range(height):
            for x in range(width):
                total = weight[y, x]
                pull = weight[y, x] * known[y, x]
                total += right[y, x] + down[y, x]
                if x + 1 < width:
                    pull += right[y, x] * values[y, x + 1]
                if y + 1 < height:
                    pull += down[y, x] * values[y + 1, x]
                if x > 0:
                    total += right[y, x - 1]
                    pull += right[y, x - 1] * values[y, x - 1]
                else:
                    total += right[y, width - 1]
                if y > 0:
                    total += down[y - 1, x]
                    pull += down[y - 1, x] * values[y - 1, x]
                else:
                    total += down[height - 1, x]
                values[y, x] += np.float32(OVER) * (pull / max(total, np.float32(1e-9)) - values[y, x])
