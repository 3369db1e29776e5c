"""What becomes of smooth scores when pixels go from one class to another."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def exchanged(
    values: NDArray[np.float32], before: NDArray[np.uint8], after: NDArray[np.uint8], where: NDArray[np.bool_]
) -> NDArray[np.float32]:
    """Values of two classes exchanged where pixels go from one to the other, so that borders elsewhere stay in place.

    values : (K, H, W); before, after : (H, W) uint8, classes; where : (H, W) bool, which pixels go.
    """
    rows, columns = np.nonzero(where)
    if not len(rows):
        return values
    old, new = before[rows, columns].astype(np.int64), after[rows, columns].astype(np.int64)
    result = values.copy()
    result[new, rows, columns], result[old, rows, columns] = values[old, rows, columns], values[new, rows, columns]
    return result
