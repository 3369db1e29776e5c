"""A smooth colour over an image: a quadratic in x and y per channel, fitted to scattered samples.

Weights are renewed from the residuals (iteratively reweighted least squares with Cauchy's weight), so a part of the
samples may be something else altogether.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import part

TERMS = 6  # 1, u, v, u², uv, v²


def basis(y: NDArray[Any], x: NDArray[Any], height: int, width: int) -> NDArray[np.float64]:
    """The six terms at pixel centres; u and v run from -1 to 1. y, x : (...). Returns (..., 6) float64."""
    u = (np.asarray(x, np.float64) + 0.5) * (2.0 / width) - 1.0
    v = (np.asarray(y, np.float64) + 0.5) * (2.0 / height) - 1.0
    return np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], axis=-1)


@part("void(f8[:,:,:], i8, f8, f8, f8[:]!)", inline=True)
def colour_at(surfaces, label, u, v, out):  # type: ignore[no-untyped-def]
    """A label's colour at a place u, v from -1 to 1, for use inside kernels. surfaces : (N, 6, 4); out : (4,)."""
    s = surfaces
    for c in range(4):
        out[c] = (s[label, 0, c] + s[label, 1, c] * u + s[label, 2, c] * v + s[label, 3, c] * u * u + s[label, 4, c] * u * v
                  + s[label, 5, c] * v * v)


def fit_surface(
    terms: NDArray[np.float64], values: NDArray[np.float64], scale: float, rounds: int = 12
) -> NDArray[np.float64]:
    """Coefficients of the surface most samples agree on.

    terms : (N, 6), values : (N, C). scale: residual at which a sample counts half, at the end. Returns (6, C) float64.
    """
    weights = np.ones(len(values))
    coefficients = np.zeros((TERMS, values.shape[1]))
    coefficients[0] = np.median(values, axis=0)
    for round_ in range(rounds):
        residual = np.sqrt(((values - terms @ coefficients) ** 2).sum(axis=1))
        soft = max(scale, float(np.median(residual)) * (1.0 - round_ / rounds))
        weights = 1.0 / (1.0 + (residual / soft) ** 2)
        # A little ridge keeps the curvature at zero where the samples do not ask for it.
        normal = terms.T @ (terms * weights[:, None]) + np.diag([0.0, 1e-6, 1e-6, 1e-4, 1e-4, 1e-4]) * weights.sum()
        coefficients = np.linalg.solve(normal, terms.T @ (values * weights[:, None]))
    return coefficients
