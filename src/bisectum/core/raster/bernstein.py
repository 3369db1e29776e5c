"""The weights of a cubic's four places: Bernstein's polynomials of degree three (G. Farin, Curves and Surfaces, chapter 5)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import part


@part("UniTuple(f8, 4)(f8)", inline=True)
def bernstein(t: float) -> tuple[float, float, float, float]:
    """The four weights at t, for use inside kernels."""
    o = 1.0 - t
    return o * o * o, 3 * t * o * o, 3 * t * t * o, t * t * t


def bernstein_of(t: NDArray[np.float64], axis: int = 0) -> NDArray[np.float64]:
    """The weights at many parameters t, along a new axis of four."""
    o = 1 - t
    return np.stack([o**3, 3 * t * o**2, 3 * t**2 * o, t**3], axis=axis)
