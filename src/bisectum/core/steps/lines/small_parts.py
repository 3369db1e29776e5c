"""Round ends of strokes and small round spots, told by how much of the pixels they cover.

At an end of a few pixels' width the points along the edge show two corners, whether the pen was square or round, and a spot
of that size shows no round at all. The pixels know: what two corners cover differs from what a half circle covers by .43
of the squared radius. Both are moved until they agree with the picture as well as they can, and the better one is kept.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import lengths, split_at
from bisectum.core.geom.ellipse import fit_ellipse
from bisectum.core.raster.share import CLEARLY
from bisectum.core.steps.lines.fit_to_coverage import MOST_NODES

WIDEST = 10.0  # px across an end; a wider one shows what it is by its points
HALF_ROUND = 2.0 / 3.0  # of the chord: the handles of a cubic that is nearly half a circle, 4/3 of its radius
PER_NODE = 0.01  # squared shares that a node more must explain

Curves = NDArray[np.float64]
# Moves so many nodes from one on until they agree with the pixels: (curves, straight, first, nodes) to the squared shares left.
Settle = Callable[[Curves, NDArray[np.bool_], int, int], float]


def with_round_ends(curves: Curves, straight: NDArray[np.bool_], closed: bool, settle: Settle) -> None:
    """Replace, in place, each end of a stroke that covers the pixels better when it is round. curves : (S, 4, 2), px."""
    total = len(curves)
    if total < 3:
        return
    turns, long = _turns(curves), lengths(curves)
    for k in range(0 if closed else 1, total if closed else total - 1):
        after = (k + 1) % total
        both = turns[[k, after]]
        if long[k] > WIDEST or both[0] * both[1] <= 0:
            continue
        square, round_ = curves.copy(), curves.copy()
        flat = straight.copy()
        flat[k] = False
        _put_round(round_, flat, k)
        left, before = settle(round_, flat, k, 2), settle(square, straight, k, 2)
        if CLEARLY * left < before:
            curves[:], straight[:] = round_, flat
            turns, long = _turns(curves), lengths(curves)


def as_spot(curves: Curves, straight: NDArray[np.bool_], points: NDArray[np.float64], clockwise: bool, settle: Settle) -> (
        tuple[Curves, NDArray[np.bool_]] | None):
    """A small closed outline as an ellipse, if that covers the pixels as well. points : (N, 2), along it, px."""
    if len(curves) > MOST_NODES or len(points) < 6:
        return None
    ellipse = fit_ellipse(points)
    if ellipse is None or ellipse.a > WIDEST or not ellipse.b > 0.5:
        return None
    spot, bent = np.ascontiguousarray(ellipse.segments(4, clockwise)), np.zeros(4, bool)
    left, before = settle(spot, bent, 0, 4), settle(curves.copy(), straight, 0, len(curves))
    return (spot, bent) if left < before + PER_NODE * (len(curves) - 4) else None


def _turns(curves: Curves) -> NDArray[np.float64]:
    """The angle by which the line turns where each segment starts, radians; above zero clockwise as seen."""
    out = np.roll(curves[:, 3] - curves[:, 2], 1, axis=0)
    into = curves[:, 1] - curves[:, 0]
    return np.arctan2(out[:, 0] * into[:, 1] - out[:, 1] * into[:, 0], (out * into).sum(axis=1))


def _put_round(curves: Curves, straight: NDArray[np.bool_], k: int) -> None:
    """Let segment k be half a round between places on the segments beside it, which become shorter."""
    total = len(curves)
    before, after = (k - 1) % total, (k + 1) % total
    back = 0.5 * float(np.hypot(*(curves[k, 3] - curves[k, 0])))
    for number, end in ((before, 1), (after, 0)):
        share = min(0.99, back / max(1e-9, float(lengths(curves[number : number + 1])[0])))
        parts = split_at(curves[number], 1.0 - share if end else share)
        curves[number] = parts[0] if end else parts[1]
    start, stop = curves[before, 3], curves[after, 0]
    ahead, back_again = curves[before, 3] - curves[before, 2], curves[after, 0] - curves[after, 1]
    reach = HALF_ROUND * float(np.hypot(*(stop - start)))
    curves[k] = [start, start + reach * _unit(ahead), stop + reach * _unit(back_again), stop]


def _unit(vector: NDArray[np.float64]) -> NDArray[np.float64]:
    return vector / max(1e-12, float(np.hypot(*vector)))
