"""Where the subject of a photograph probably is: three signs that need no learned weights.

Background connectivity: what hangs together with much of the border is background (W. Zhu et al., "Saliency
Optimization from Robust Background Detection", 2014). Minimum barrier distance to the border (J. Zhang et al., 2015).
Rarity: what no part of the border looks like.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.barrier import barrier_distance
from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.superpixels import superpixels

SUPERPIXELS = 300
COLOUR_SIGMA = 0.07  # OKLab
SPACE_SIGMA = 0.35  # of the longer side
CONNECTED_SIGMA = 1.0
WEIGHTS = (0.4, 0.35, 0.25)


def saliency(lab: NDArray[np.float32]) -> NDArray[np.float32]:
    """lab : (H, W, 3) float32, OKLab. Returns (H, W) float32, 0 to 1."""
    cells = superpixels(lab, SUPERPIXELS)
    used, cells = np.unique(cells, return_inverse=True)
    cells = cells.reshape(lab.shape[:2])
    sizes = np.bincount(cells.ravel(), minlength=len(used)).astype(float)
    colours = np.stack([np.bincount(cells.ravel(), lab[..., c].ravel(), len(used)) / sizes for c in range(3)], axis=1)
    apart = np.sqrt(((colours[:, None] - colours[None]) ** 2).sum(axis=2))
    on_border = np.zeros(len(used), bool)
    on_border[np.concatenate([cells[0], cells[-1], cells[:, 0], cells[:, -1]])] = True
    connected = _background(cells, apart, on_border)
    contrast = _contrast(cells, sizes, apart, connected)
    nearest = np.sort(apart[:, on_border], axis=1)[:, : max(1, on_border.sum() // 12)].mean(axis=1)
    barrier = np.sum([barrier_distance(np.ascontiguousarray(lab[..., c])) for c in range(3)], axis=0)
    signs = (_stretched(contrast)[cells], _stretched(barrier), _stretched(nearest)[cells])
    return np.sum([weight * sign for weight, sign in zip(WEIGHTS, signs, strict=True)], axis=0).astype(np.float32)


def _background(cells: NDArray[np.intp], apart: NDArray[np.float64], on_border: NDArray[np.bool_]) -> NDArray[np.float64]:
    """The probability of each cell to be background, by how much of the border it hangs together with."""
    costs = np.full(apart.shape, 1e9)
    for one, other in ((cells[:, 1:], cells[:, :-1]), (cells[1:], cells[:-1])):
        a, b = one[one != other], other[one != other]
        costs[a, b] = costs[b, a] = apart[a, b]
    border = np.flatnonzero(on_border)
    costs[np.ix_(border, border)] = np.minimum(costs[np.ix_(border, border)], apart[np.ix_(border, border)])
    np.fill_diagonal(costs, 0.0)
    shortest_ways(costs)
    near = np.exp(-(costs**2) / (2 * COLOUR_SIGMA**2))
    connectivity = near[:, on_border].sum(axis=1) / np.sqrt(near.sum(axis=1))
    return 1.0 - np.exp(-(connectivity**2) / (2 * CONNECTED_SIGMA**2))


@kernel("void(f8[:,:]!)")
def shortest_ways(costs):  # type: ignore[no-untyped-def]
    """Lengths of the shortest ways between all nodes, in place (Floyd and Warshall). costs : (N, N)."""
    n = len(costs)
    for k in range(n):
        for i in range(n):
            through = costs[i, k]
            if through < 1e8:
                for j in range(n):
                    if through + costs[k, j] < costs[i, j]:
                        costs[i, j] = through + costs[k, j]


def _contrast(cells: NDArray[np.intp], sizes: NDArray[np.float64], apart: NDArray[np.float64],
              background: NDArray[np.float64]) -> NDArray[np.float64]:
    """How much a cell differs from the background near it."""
    rows, columns = np.indices(cells.shape)
    centres = np.stack([np.bincount(cells.ravel(), values.ravel(), len(sizes)) / sizes for values in (rows, columns)], axis=1)
    gaps = ((centres[:, None] - centres[None]) ** 2).sum(axis=2) / max(cells.shape) ** 2
    near = np.exp(-gaps / (2 * SPACE_SIGMA**2)) * sizes
    return (apart * near * background).sum(axis=1) * (1.0 - background)


def _stretched(values: NDArray[np.floating]) -> NDArray[np.float64]:
    """To 0..1, the outermost percent cut off."""
    low, high = np.quantile(values, (0.01, 0.99))
    return np.clip((values - low) / max(1e-9, high - low), 0.0, 1.0)
