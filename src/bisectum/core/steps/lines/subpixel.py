"""Where an edge really runs between two pixels, from the picture's own anti-aliasing.

A crack between label A and label B is moved along its normal by the *partial-area sum*: the shares of A found on B's
side, less the shares of B found on A's side, up to four pixels each way. For a straight edge drawn by exact coverage
that is exact. Only the cracks whose normal is the axis nearer to the edge's own normal are used, one place for each.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel, part
from bisectum.core.raster.cracks import CrackGraph
from bisectum.core.raster.share import THIRD_COLOUR
from bisectum.core.raster.surface import colour_at
from bisectum.core.steps.lines.blending import Blending

DEPTH = 4  # pixels looked at on each side
SHADE = 9.0  # levels off a label's colour from which a shade of it is taken for itself
FARTHEST = 1.25  # px an edge may lie from its crack
GAP = 9.0  # px without a certain place, after which the crack itself stands in
FAINT = 14.0  # levels between two colours below which nothing can be told
FEW = 8  # cracks; of a longer chain one in so many tells of the unrest beside it
FEWEST_STEPS, HARD_SHARE = 30, 0.9  # steps of stairs that tell of hard edges, and the part of them that has places halfway
DIRECTION_REACH = 3  # cracks on each side that tell the local direction


@dataclass(frozen=True, slots=True)
class ChainPoints:
    """Places on the edges, chain after chain, in pixels (x, y), pixel centres at halves.

    points : (P, 2) float64; first : (C + 1,) int64; refined : (C,) bool, whether the places come from anti-aliasing
    (otherwise they are smoothed crack middles). Junctions are not among the points. unrest: mean deviation of the
    pixels beside edges from their pure colours, as a share of the step between both.
    """

    points: NDArray[np.float64]
    first: NDArray[np.int64]
    refined: NDArray[np.bool_]
    unrest: float


@part("void(u1[:,:,:], f8[:], u1[:,:], f8[:,:,:], i8, i8, i8, i8, f8[:]!)", inline=True)
def _reference(image, light, labels, surfaces, y, x, step_y, step_x, out):  # type: ignore[no-untyped-def]
    """The pure colour of a label beside an edge. (y, x): its first pixel; the steps lead away from the edge.

    It is the label's own colour; where two pixels further in agree on another one (a shade, a line of a pale grid), it
    is that. out : (4,).
    """
    height, width = labels.shape
    colour_at(surfaces, labels[y, x], (x + 0.5) * 2.0 / width - 1.0, (y + 0.5) * 2.0 / height - 1.0, out)
    ay, ax, by, bx = y + 2 * step_y, x + 2 * step_x, y + 3 * step_y, x + 3 * step_x
    if by < 0 or bx < 0 or by >= height or bx >= width:
        return
    if labels[ay, ax] != labels[y, x] or labels[by, bx] != labels[y, x]:
        return
    apart, off = 0.0, 0.0
    for c in range(4):
        apart += (light[image[ay, ax, c]] - light[image[by, bx, c]]) ** 2
        off += (light[image[ay, ax, c]] - out[c]) ** 2
    if off > SHADE**2 and apart < 0.25 * off:
        for c in range(4):
            out[c] = light[image[ay, ax, c]]


@kernel("UniTuple(f8, 2)(u1[:,:,:], f8[:], u1[:,:], f8[:], f8[:], f8, i8, i8, i8, i8)", inline=True)
def _reach(image, light, labels, own, other, length, y, x, step_y, step_x):  # type: ignore[no-untyped-def]
    """Sum of the shares of colour `other` from pixel (y, x) inwards; and 1 where a third colour is in it, else 0.

    length: the squared difference of both colours.
    """
    label = labels[y, x]
    total = 0.0
    previous = 1.1
    for _ in range(DEPTH):
        if y < 0 or x < 0 or y >= labels.shape[0] or x >= labels.shape[1]:
            break
        if labels[y, x] != label:
            # Another label begins: harmless when the edge has faded out before it.
            return total, (1.0 if 0.06 < previous < 1.1 else 0.0)
        along, off = 0.0, 0.0
        for c in range(4):
            along += (light[image[y, x, c]] - own[c]) * (other[c] - own[c])
        foreign = along / length
        bounded = min(1.0, max(0.0, foreign))
        for c in range(4):
            off += (light[image[y, x, c]] - own[c] - bounded * (other[c] - own[c])) ** 2
        if off > THIRD_COLOUR**2:
            return total, 1.0
        if foreign < 0.03 or foreign > previous + 0.02:
            if -0.15 < foreign < 0.03:
                total += foreign
            break
        total += foreign
        previous = foreign
        y += step_y
        x += step_x
    return total, 0.0


@part("void(u1[:,:,:], f8[:], u1[:,:], f8[:], f8[:], f8, i8, i8, i8, i8, f8[:]!)", inline=True)
def _tally(image, light, labels, own, other, length, y, x, step_y, step_x, tally):  # type: ignore[no-untyped-def]
    """Add how far a pixel two steps from an edge is off its pure colour, as a share of the step to the other colour."""
    ay, ax = y + 2 * step_y, x + 2 * step_x
    if ay < 0 or ax < 0 or ay >= labels.shape[0] or ax >= labels.shape[1] or labels[ay, ax] != labels[y, x]:
        return
    along = 0.0
    for c in range(4):
        along += (light[image[ay, ax, c]] - own[c]) * (other[c] - own[c])
    tally[0] += min(0.3, abs(along / length))
    tally[1] += 1.0


@part("UniTuple(f8, 2)(u1[:,:,:], f8[:], u1[:,:], f8[:,:,:], i8, i8, i8, i8, f8[:]!, f8[:]!, b1, f8[:]!)", inline=True)
def _offset(image, light, labels, surfaces, near_y, near_x, far_y, far_x, one, other, counts, tally):  # type: ignore[no-untyped-def]
    """How far the edge lies from the crack towards the far pixel, and 1 where that is certain, else 0. one, other: scratch.

    tally : (2,) receives, where this one counts, sum and number of the picture's own deviations beside edges (ringing, grain).
    """
    step_y, step_x = far_y - near_y, far_x - near_x
    _reference(image, light, labels, surfaces, near_y, near_x, -step_y, -step_x, one)
    _reference(image, light, labels, surfaces, far_y, far_x, step_y, step_x, other)
    length = 0.0
    for c in range(4):
        length += (one[c] - other[c]) ** 2
    if length <= FAINT**2:
        return 0.0, 0.0
    if counts:
        _tally(image, light, labels, one, other, length, near_y, near_x, -step_y, -step_x, tally)
        _tally(image, light, labels, other, one, length, far_y, far_x, step_y, step_x, tally)
    ahead, third = _reach(image, light, labels, other, one, length, far_y, far_x, step_y, step_x)
    behind, fourth = _reach(image, light, labels, one, other, length, near_y, near_x, -step_y, -step_x)
    offset = ahead - behind
    return offset, (1.0 if third == 0.0 and fourth == 0.0 and abs(offset) <= FARTHEST else 0.0)


@part("i8(u1[:,:,:], f8[:], u1[:,:], f8[:,:,:], i4[:,:], b1, f8[:,:]!, b1[:]!, f8[:]!)")
def _refine_chain(image, light, labels, surfaces, vertices, closed, points, sure, tally):  # type: ignore[no-untyped-def]
    """Places on one chain. vertices : (n + 1, 2) y, x. Writes points (n, 2) x, y and sure (n,). Returns how many."""
    n = len(vertices) - 1
    height, width = labels.shape
    one, other = np.empty(4), np.empty(4)
    used = 0
    for i in range(n):
        along_x, along_y = np.int64(0), np.int64(0)
        # Two windows, since one of an odd number of cracks would call a 45° line level and upright by turns.
        for shift in range(2):
            a, b = i - DIRECTION_REACH + shift, i + DIRECTION_REACH + shift
            a, b = (a % n, b % n) if closed else (max(0, a), min(n, b))
            along_x += abs(vertices[b, 1] - vertices[a, 1])
            along_y += abs(vertices[b, 0] - vertices[a, 0])
        level = vertices[i, 0] == vertices[i + 1, 0]
        if closed and n <= 2 * DIRECTION_REACH + 1:
            along_x, along_y = np.int64(1), np.int64(1)
        if (level and along_x < along_y) or (not level and along_y <= along_x and along_x + along_y > 2):
            continue
        y0, x0 = np.int64(min(vertices[i, 0], vertices[i + 1, 0])), np.int64(min(vertices[i, 1], vertices[i + 1, 1]))
        middle_x, middle_y = x0 + (0.5 if level else 0.0), y0 + (0.0 if level else 0.5)
        if level:
            near_y, near_x, far_y, far_x = y0 - 1, x0, y0, x0
        else:
            near_y, near_x, far_y, far_x = y0, x0 - 1, y0, x0
        inside = near_y >= 0 and near_x >= 0 and far_y < height and far_x < width
        points[used, 0], points[used, 1] = middle_x, middle_y
        sure[used] = not inside
        if inside:
            counts = n < FEW or i % FEW == 0
            offset, certain = _offset(image, light, labels, surfaces, near_y, near_x, far_y, far_x, one, other, counts, tally)
            if certain > 0.0:
                sure[used] = True
                points[used, 1 if level else 0] += offset
        used += 1
    return used


@part("void(f8[:,:]!, i8, b1, i8)")
def smooth_points(points, used, closed, passes):  # type: ignore[no-untyped-def]
    """Binomial smoothing (1, 2, 1) of a polyline's points, ends kept."""
    for _ in range(passes):
        before_x, before_y = points[used - 1, 0], points[used - 1, 1]
        first_x, first_y = points[0, 0], points[0, 1]
        for i in range(used):
            here_x, here_y = points[i, 0], points[i, 1]
            if closed or 0 < i < used - 1:
                next_x, next_y = (first_x, first_y) if i == used - 1 else (points[i + 1, 0], points[i + 1, 1])
                points[i, 0] = 0.25 * before_x + 0.5 * here_x + 0.25 * next_x
                points[i, 1] = 0.25 * before_y + 0.5 * here_y + 0.25 * next_y
            before_x, before_y = here_x, here_y


@kernel(
    "i8(u1[:,:,:], f8[:], u1[:,:], f8[:,:,:], i4[:,:], i8[:], i4[:,:], b1, i8, i8, f8[:,:]!, i8[:]!, b1[:]!, f8[:,:]!, b1[:]!, "
    "f8[:]!)"
)
def _refine_chains(  # type: ignore[no-untyped-def]
    image, light, labels, surfaces, vertices, first, ends, by_picture, start, stop, points, point_first, refined, found, sure,
    tally,
):
    """Chains start..stop. found, sure: scratch for one chain. Returns the next free row of points."""
    used = point_first[start]
    for chain in range(start, stop):
        own = vertices[first[chain] : first[chain + 1]]
        closed = ends[chain, 0] < 0
        n = len(own) - 1
        count, certain = 0, 0
        if by_picture:
            count = _refine_chain(image, light, labels, surfaces, own, closed, found, sure, tally)
            for i in range(count):
                certain += int(sure[i])
        refined[chain] = certain >= max(3 if closed else 1, (2 * count) // 5)
        if refined[chain]:
            last_x, last_y = found[0, 0] - GAP, found[0, 1]
            for i in range(count):
                apart = (found[i, 0] - last_x) ** 2 + (found[i, 1] - last_y) ** 2
                if sure[i] or (apart >= GAP**2 and 1 < i < count - 2):
                    points[used, 0], points[used, 1] = found[i, 0], found[i, 1]
                    last_x, last_y = found[i, 0], found[i, 1]
                    used += 1
        else:
            for i in range(n):
                found[i, 0] = 0.5 * (own[i, 1] + own[i + 1, 1])
                found[i, 1] = 0.5 * (own[i, 0] + own[i + 1, 0])
            smooth_points(found, n, closed, 4 if n > 8 else 0)
            for i in range(n):
                points[used, 0], points[used, 1] = found[i, 0], found[i, 1]
                used += 1
        point_first[chain + 1] = used
    return used


class PointFinder:
    """Finds the points of all chains, a run of chains at a time so that the work can be stopped between."""

    def __init__(
        self, blending: Blending, labels: NDArray[np.uint8], graph: CrackGraph, by_picture: bool,
    ) -> None:
        seen = blending
        self._inputs = (seen.image, seen.light, labels, seen.surfaces, graph.vertices, graph.first, graph.ends, by_picture)
        self._chains = len(graph.first) - 1
        longest = int(np.diff(graph.first).max()) if self._chains else 1
        self._points = np.empty((len(graph.vertices), 2))
        self._first = np.zeros(self._chains + 1, np.int64)
        self._refined = np.zeros(self._chains, np.bool_)
        self._scratch = (np.empty((longest, 2)), np.empty(longest, np.bool_), np.zeros(2))

    def find(self, start: int, stop: int) -> None:
        """The points of chains start..stop; those before must have been found."""
        _refine_chains(*self._inputs, start, stop, self._points, self._first, self._refined, *self._scratch)

    def found(self) -> ChainPoints:
        used = int(self._first[self._chains])
        total, count = self._scratch[2]
        return ChainPoints(self._points[:used].copy(), self._first, self._refined, float(total / max(1.0, count)))


def has_hard_edges(found: ChainPoints) -> bool:
    """Whether slanting edges are stairs: no pixel beside them is mixed, so all places are just the middles of cracks.

    Level edges may lie so in any picture. Two steps, one behind the other, that go the same way are stairs; about a corner
    they go different ways.
    """
    chains = np.repeat(np.arange(len(found.refined)), np.diff(found.first))
    steps = np.diff(found.points, axis=0)
    slanting = np.flatnonzero((np.abs(steps) > 0.01).all(axis=1) & (chains[1:] == chains[:-1]) & found.refined[chains[1:]])
    ways = np.sign(steps[slanting])
    stairs = slanting[:-1][(ways[1:] == ways[:-1]).all(axis=1) & (chains[slanting[1:]] == chains[slanting[:-1]])]
    twice = 2.0 * found.points[stairs]
    return len(stairs) >= FEWEST_STEPS and float((np.abs(twice - np.rint(twice)) < 1e-6).all(axis=1).mean()) >= HARD_SHARE
