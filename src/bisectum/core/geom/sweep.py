"""What a closed outline covers when it is moved outwards: one ring for each stretch, one for each corner.

All that lies within a distance of an outline, on one side, is the union of what its stretches sweep over on their way to their
parallels and of the wedges at its corners. All rings run the same way round, so a place is covered where their winding
numbers add up to more than nothing, and an overlay makes one outline of them (core/model/offset.py). Nothing has to be
known about which parts of a parallel are real.

A parallel is drawn with as few cubics as stay within FIT_MM of it; a straight line's is straight, an arc's is an arc. Where an
outline bends more closely than the distance its parallel turns back, and covers only what others cover too; there it goes no
farther than the centre of curvature.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import LOOKS, derivatives, line_segments
from bisectum.core.geom.hermite import directions, fit_handles, left_of
from bisectum.core.geom.overlay.network import stretch_of, turns_of
from bisectum.core.raster.bernstein import bernstein_of

Corners = Literal["round", "sharp", "flat"]
FIT_MM = 0.0025  # how far a fitted parallel may lie from the true one
TURN = 1e-3  # radians: less is no corner
SHARPEST = 4.0  # a sharp corner reaches at most so many times the distance, else it is cut off flat (as in SVG's miter limit)
PIE = 0.35  # radians that a stretch turns by at most which is joined to its centre of curvature
DEEPEST = 7  # halvings of a stretch
Rings = tuple[NDArray[np.float64], NDArray[np.bool_]]


def swept(
    segments: NDArray[np.float64], straight: NDArray[np.bool_], first: NDArray[np.int64], distance: float,
    corners: Corners = "round", chosen: NDArray[np.bool_] | None = None,
) -> Rings:
    """Rings that cover all within `distance` (mm) on the left of closed outlines, as they are walked, y down.

    segments : (S, 4, 2), straight : (S,), outline after outline; first : (R + 1,), where each begins. Left of an outline that
    runs clockwise as seen is outside; a distance below zero means the right side. chosen : (S,): with it, only these and the
    corners at their beginnings are swept. Returns rings one after the other, each clockwise: (N, 4, 2), (N,) straight.
    """
    if not len(segments) or distance == 0:
        return np.empty((0, 4, 2)), np.empty(0, bool)
    last = np.arange(-1, len(segments) - 1)
    last[first[:-1]] = first[1:] - 1
    own = np.ones(len(segments), bool) if chosen is None else chosen
    if not own.any():
        return np.empty((0, 4, 2)), np.empty(0, bool)
    parts = [*stretches(segments[own], straight[own], distance), *_corners(segments, last, distance, corners, own)]
    return np.concatenate([part[0] for part in parts]), np.concatenate([part[1] for part in parts])


def stretches(segments: NDArray[np.float64], straight: NDArray[np.bool_], distance: float) -> list[Rings]:
    """The rings between stretches of segments : (S, 4, 2) and their parallels at a distance, mm, to the left."""
    rings = [_between(segments[straight], straight[straight], _moved(segments[straight], distance), distance)]
    source = np.flatnonzero(~straight)
    low, high = np.zeros(len(source)), np.ones(len(source))
    for depth in range(DEEPEST + 1):
        if not len(source):
            break
        curves = stretch_of(segments[source], low, high)
        closest = _bend(curves, distance)
        fitted, away = fit_parallel(curves, distance)
        good = (closest.max(axis=1) < 1.0) & (away <= FIT_MM)
        rings.append(_between(curves[good], np.zeros(good.sum(), bool), fitted[good], distance))
        close = ~good & (turns_of(curves) < PIE) & ((closest.min(axis=1) > 1.0) | (depth == DEEPEST))
        rings.append(_pies(curves[close], distance))
        rest = ~good & ~close
        middle = (low[rest] + high[rest]) / 2
        source = np.repeat(source[rest], 2)
        low, high = np.stack([low[rest], middle], axis=1).ravel(), np.stack([middle, high[rest]], axis=1).ravel()
    return rings


def _between(curves: NDArray[np.float64], lines: NDArray[np.bool_], parallels: NDArray[np.float64], distance: float) -> Rings:
    """For each curve (N, 4, 2) the ring along it, over to its parallel and back."""
    count = len(curves)
    over, back = _straight(curves[:, 3], parallels[:, 3]), _straight(parallels[:, 0], curves[:, 0])
    ring = np.stack([curves, over, parallels[:, ::-1], back], axis=1)  # (N, 4, 4, 2)
    is_line = np.stack([lines, np.ones(count, bool), lines, np.ones(count, bool)], axis=1)
    if distance > 0:  # the left side comes out counter-clockwise
        ring, is_line = ring[:, ::-1, ::-1], is_line[:, ::-1]
    return ring.reshape(-1, 4, 2), is_line.ravel()


def _pies(curves: NDArray[np.float64], distance: float) -> Rings:
    """Rings from short curves to their centres of curvature, or as far as the distance goes.

    Farther on others are nearer. The centres lie on a curve to which the rays are tangent, so the hull about them is taken.
    """
    import shapely  # takes its time to load

    rings: list[NDArray[np.float64]] = []
    lines: list[NDArray[np.bool_]] = []
    ways = parallel_points(curves, np.sign(distance)) - parallel_points(curves, 0.0)
    reach = abs(distance) * np.minimum(1, 1 / np.maximum(_bend(curves, distance), 1e-12))
    tips = parallel_points(curves, 0.0) + ways * reach[..., None]
    for curve, own in zip(curves, tips[:, ::4], strict=True):
        hull = shapely.convex_hull(shapely.multipoints(np.concatenate([curve[[0, 3]], own])))
        if hull.geom_type != "Polygon":
            continue
        around = np.asarray(hull.exterior.coords)[:-1]
        around = np.roll(around, -int(np.flatnonzero((around == curve[3]).all(axis=1))[0]), axis=0)
        if (around[1] == curve[0]).all():  # from the curve's end to its beginning, the other way than along the curve
            around = np.roll(around[::-1], 1, axis=0)
        back = int(np.flatnonzero((around == curve[0]).all(axis=1))[0])
        outer = line_segments(around[: back + 1])
        ring = np.concatenate([curve[None], outer])
        flags = np.concatenate([[False], np.ones(len(outer), bool)])
        rings.append(ring if distance < 0 else ring[::-1, ::-1])
        lines.append(flags if distance < 0 else flags[::-1])
    if not rings:
        return np.empty((0, 4, 2)), np.empty(0, bool)
    return np.concatenate(rings), np.concatenate(lines)


def _straight(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """Straight segments from a to b : (N, 2). Returns (N, 4, 2)."""
    return np.stack([a, a + (b - a) / 3, a + (b - a) * (2 / 3), b], axis=1)


def _moved(lines: NDArray[np.float64], distance: float) -> NDArray[np.float64]:
    return lines + distance * left_of(directions(lines)[0])[:, None]


def _bend(curves: NDArray[np.float64], distance: float) -> NDArray[np.float64]:
    """Curvature times distance at LOOKS, above zero where the curve bends towards its parallel. (N, T)."""
    v, a = derivatives(curves, LOOKS)
    cross = v[..., 0] * a[..., 1] - v[..., 1] * a[..., 0]
    speed = np.maximum(np.hypot(v[..., 0], v[..., 1]), 1e-12)
    return -distance * cross / speed**3


def parallel_points(curves: NDArray[np.float64], distance: float) -> NDArray[np.float64]:
    """Places at a distance to the left of cubics, at LOOKS. (N, T, 2)."""
    points = np.einsum("kt,skd->std", bernstein_of(LOOKS), curves)
    v, _ = derivatives(curves, LOOKS)
    start, end = directions(curves)
    way = v / np.maximum(np.hypot(v[..., 0], v[..., 1]), 1e-300)[..., None]
    way[:, 0], way[:, -1] = start, end
    return points + distance * left_of(way)


def fit_parallel(curves: NDArray[np.float64], distance: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The cubic nearest to each curve's parallel with its ends and directions, and how far it lies off, mm. (N, 4, 2), (N,)."""
    wanted = parallel_points(curves, distance)
    v, _ = derivatives(curves, np.array([0.0, 1.0]))
    # Handles as long as the curve's own, as the parallel is longer or shorter than it.
    reach = np.hypot(v[..., 0], v[..., 1]) / 3 * (1 - _bend(curves, distance)[:, [0, -1]])
    return fit_handles(wanted, *directions(curves), reach)


def _corners(
    segments: NDArray[np.float64], last: NDArray[np.int64], distance: float, corners: Corners, chosen: NDArray[np.bool_]
) -> list[Rings]:
    """The wedges between the parallels of segments that meet in a corner, where it opens to their side."""
    start, end = directions(segments)
    arriving = end[last]
    turn = np.arctan2(arriving[:, 0] * start[:, 1] - arriving[:, 1] * start[:, 0], (arriving * start).sum(axis=1))
    opens = (turn * np.sign(distance) > TURN) & chosen
    places, turn = segments[opens, 0], turn[opens]
    one, other = (places + distance * left_of(way[opens]) for way in (arriving, start))
    return [_wedge(*row, distance, corners) for row in zip(places, one, other, turn.tolist(), strict=True)]


def _wedge(
    place: NDArray[np.float64], one: NDArray[np.float64], other: NDArray[np.float64], turn: float, distance: float,
    corners: Corners,
) -> Rings:
    """One wedge: from a corner to the end of one parallel, over to the other, and back."""
    sharp = corners == "sharp" and 1 / max(np.cos(turn / 2), 1e-9) <= SHARPEST
    if corners == "round":
        outer = _arc(place, one, turn)
        outer[-1, 3] = other
        lines = np.zeros(len(outer), bool)
    else:
        middle = (one + other) / 2 - place
        tip = place + middle * (distance**2 / max(float(middle @ middle), 1e-300))
        outer = line_segments(np.stack([one, tip, other] if sharp else [one, other]))
        lines = np.ones(len(outer), bool)
    ring = np.concatenate([line_segments(np.stack([place, one])), outer, line_segments(np.stack([other, place]))])
    is_line = np.concatenate([[True], lines, [True]])
    if distance < 0:
        return ring[::-1, ::-1], is_line[::-1]
    return ring, is_line


def _arc(middle: NDArray[np.float64], start: NDArray[np.float64], turn: float) -> NDArray[np.float64]:
    """An arc about a middle from a place on, turning by `turn` (radians, clockwise as seen), in as few cubics as stay within
    FIT_MM of it: at most a quarter each (the error of M. Goldapp, 1991: 4/27 · r · sin⁶(θ/4) / cos²(θ/4))."""
    radius = float(np.hypot(*(start - middle)))
    count = max(1, int(np.ceil(abs(turn) / (np.pi / 2) - 1e-6)))
    while 4 / 27 * radius * np.sin(turn / count / 4) ** 6 / np.cos(turn / count / 4) ** 2 > FIT_MM:
        count += 1
    angle = np.arctan2(start[1] - middle[1], start[0] - middle[0]) + np.linspace(0, turn, count + 1)
    handle = 4 / 3 * np.tan(turn / count / 4) * radius
    places = middle + radius * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    places[0] = start
    way = handle * np.stack([-np.sin(angle), np.cos(angle)], axis=1)
    return np.stack([places[:-1], places[:-1] + way[:-1], places[1:] - way[1:], places[1:]], axis=1)
