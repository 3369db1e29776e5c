"""Where two labels of a photograph meet: the place between two pixels at which their smooth scores are equal.

As in marching squares (W. E. Lorensen, H. E. Cline, "Marching Cubes", 1987), but on the cracks that are there, so each pair
of neighbours has its own level line and junctions stay whole.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel
from bisectum.core.raster.cracks import CrackGraph
from bisectum.core.steps.lines.subpixel import ChainPoints, smooth_points

NEAREST = 0.02  # of the way between two pixels: a place is never right on one


@kernel("void(f4[:,:,:], u1[:,:], i4[:,:], i8[:], i4[:,:], i8, i8, i8, f8[:,:]!, i8[:]!)")
def _places(scores, labels, vertices, first, ends, passes, start, stop, points, point_first):  # type: ignore[no-untyped-def]
    height, width = labels.shape
    used = point_first[start]
    for chain in range(start, stop):
        begin = used
        for v in range(first[chain], first[chain + 1] - 1):
            level = vertices[v, 0] == vertices[v + 1, 0]
            y, x = min(vertices[v, 0], vertices[v + 1, 0]), min(vertices[v, 1], vertices[v + 1, 1])
            ay, ax = (y - 1, x) if level else (y, x - 1)
            share = 0.5
            if ay >= 0 and ax >= 0 and y < height and x < width:
                one, other = labels[ay, ax], labels[y, x]
                here = scores[one, ay, ax] - scores[other, ay, ax]
                there = scores[other, y, x] - scores[one, y, x]
                if here >= 0 and there >= 0 and here + there > 1e-9:
                    share = min(1.0 - NEAREST, max(NEAREST, here / (here + there)))
            points[used, 0] = x + 0.5 if level else x - 0.5 + share
            points[used, 1] = y - 0.5 + share if level else y + 0.5
            used += 1
        closed = ends[chain, 0] < 0
        if used - begin > 3:
            smooth_points(points[begin:used], used - begin, closed, passes)
        point_first[chain + 1] = used


def level_places(
    scores: NDArray[np.float32], labels: NDArray[np.uint8], graph: CrackGraph, passes: int
) -> ChainPoints:
    """Places of all chains. scores : (1 + colours, H, W) float32; passes: of binomial smoothing afterwards."""
    chains = len(graph.first) - 1
    points, first = np.empty((len(graph.vertices), 2)), np.zeros(chains + 1, np.int64)
    _places(scores, labels, graph.vertices, graph.first, graph.ends, passes, 0, chains, points, first)
    return ChainPoints(points[: first[chains]].copy(), first, np.ones(chains, bool), 0.0)
