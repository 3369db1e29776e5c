"""The shapes: rings of exact sizes, their middle at 0, 0, y down. Quarters of circles are one cubic each."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import bounds, line_segments
from bisectum.core.items.ready import Rings
from bisectum.core.items.settings import Shape

Points = list[tuple[float, float]]
QUARTER = 4 / 3 * math.tan(math.pi / 8)  # the handles of a quarter of a circle of radius 1


def shape_rings(shape: Shape) -> Rings:
    """The rings of a shape, all clockwise as seen, holes the other way round.

    Raises: SettingsError where a frame's band or a tag's hole leaves nothing of it.
    """
    return _FORMS[shape.form](shape)


def _rectangle(shape: Shape) -> Rings:
    return _round_box(shape.width_mm, shape.height_mm, shape.corner_mm)


def _bar(shape: Shape) -> Rings:
    return _round_box(shape.width_mm, shape.height_mm, min(shape.width_mm, shape.height_mm) / 2)


def _ellipse(shape: Shape) -> Rings:
    a, b = shape.width_mm / 2, shape.height_mm / 2
    turns = np.array([[1, 0], [0, 1], [-1, 0], [0, -1]], float)
    ring = [[p, p + QUARTER * q, q + QUARTER * p, q] for p, q in zip(turns, np.roll(turns, -1, axis=0), strict=True)]
    return np.array(ring) * [a, b], np.zeros(4, bool)


def _polygon(shape: Shape) -> Rings:
    angles = 2 * math.pi * np.arange(shape.points) / shape.points - math.pi / 2
    return _filling(np.stack([np.cos(angles), np.sin(angles)], axis=1), shape)


def _star(shape: Shape) -> Rings:
    angles = math.pi * np.arange(2 * shape.points) / shape.points - math.pi / 2
    reach = np.where(np.arange(2 * shape.points) % 2, shape.inner, 1.0)
    return _filling(np.stack([reach * np.cos(angles), reach * np.sin(angles)], axis=1), shape)


def _heart(shape: Shape) -> Rings:
    """Two round shoulders, a notch between them, and a point below."""
    half = np.array([
        [(0, -0.62), (0.08, -0.86), (0.28, -1.0), (0.5, -1.0)],
        [(0.5, -1.0), (0.79, -1.0), (1.0, -0.78), (1.0, -0.46)],
        [(1.0, -0.46), (1.0, 0.02), (0.52, 0.5), (0.0, 1.0)],
    ])
    other = (half * [-1, 1])[::-1, ::-1]
    ring = np.concatenate([half, other]) * [shape.width_mm / 2, shape.height_mm / 2]
    return ring, np.zeros(len(ring), bool)


def _drop(shape: Shape) -> Rings:
    """A round belly that runs up into a point."""
    half = np.array([
        [(0, -1.0), (0.1, -0.6), (1.0, -0.1), (1.0, 0.38)],
        [(1.0, 0.38), (1.0, 0.72), (0.55, 1.0), (0.0, 1.0)],
    ])
    other = (half * [-1, 1])[::-1, ::-1]
    ring = np.concatenate([half, other]) * [shape.width_mm / 2, shape.height_mm / 2]
    return ring, np.zeros(len(ring), bool)


def _tag(shape: Shape) -> Rings:
    """A label with slanted shoulders and a round hole between them."""
    w, h = shape.width_mm / 2, shape.height_mm / 2
    cut = min(w, h) * 0.6
    body = np.array([(-w, -h + cut), (-w + cut, -h), (w - cut, -h), (w, -h + cut), (w, h), (-w, h)])
    outer, straight = _rounded(body, shape.corner_mm)
    if not shape.hole_mm:
        return outer, straight
    r = shape.hole_mm / 2
    middle = -h + max(r * 1.8, cut * 0.7)
    if r > 0.8 * (w - cut) + 0.2 * w or middle + r > h:
        raise SettingsError("The hole is as large as the tag; make the hole smaller or the tag larger.", code="hole_too_large")
    hole = _ellipse(Shape(form="ellipse", width_mm=max(0.5, shape.hole_mm), height_mm=max(0.5, shape.hole_mm)))[0] + [0, middle]
    return np.concatenate([outer, hole[::-1, ::-1]]), np.concatenate([straight, np.zeros(4, bool)])


def _frame(shape: Shape) -> Rings:
    """A band around an opening."""
    band = shape.band_mm
    if 2 * band >= min(shape.width_mm, shape.height_mm):
        raise SettingsError("The band is so wide that nothing is left open; make it narrower or the frame larger.",
                            code="band_too_wide")
    outer, lines = _round_box(shape.width_mm, shape.height_mm, shape.corner_mm)
    inner, inner_lines = _round_box(shape.width_mm - 2 * band, shape.height_mm - 2 * band, max(0.0, shape.corner_mm - band))
    return np.concatenate([outer, inner[::-1, ::-1]]), np.concatenate([lines, inner_lines[::-1]])


_FORMS: dict[str, Callable[[Shape], Rings]] = {
    "rectangle": _rectangle, "ellipse": _ellipse, "polygon": _polygon, "star": _star, "heart": _heart, "drop": _drop, "tag": _tag,
    "bar": _bar, "frame": _frame,
}


def _round_box(width: float, height: float, radius: float) -> Rings:
    w, h = width / 2, height / 2
    return _rounded(np.array([(-w, -h), (w, -h), (w, h), (-w, h)]), radius)


def _filling(points: NDArray[np.float64], shape: Shape) -> Rings:
    """A polygon with round corners whose box, corners rounded, has the shape's size."""
    size = np.array([shape.width_mm, shape.height_mm])
    low, high = points.min(axis=0), points.max(axis=0)
    unit, stretch = (points - (low + high) / 2) / (high - low), size
    for _ in range(12):  # rounding takes off a little more or less as the corners open
        segments, straight = _rounded(unit * stretch, shape.corner_mm)
        left, top, right, bottom = bounds(segments)
        stretch = stretch * size / [right - left, bottom - top]
    return segments - [(left + right) / 2, (top + bottom) / 2], straight


def _rounded(points: NDArray[np.float64], radius: float) -> Rings:
    """A polygon with each corner rounded by a radius, or by as much as its sides have room for. points : (N, 2), clockwise."""
    if radius <= 0:
        ring = np.concatenate([points, points[:1]])
        return line_segments(ring), np.ones(len(points), bool)
    segments: list[NDArray[np.float64]] = []
    straight: list[bool] = []
    before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
    cuts = [_corner(p, a, b, radius) for p, a, b in zip(points, before, after, strict=True)]
    for k, arc in enumerate(cuts):
        segments += list(arc)
        straight += [False] * len(arc)
        following = cuts[(k + 1) % len(cuts)][0, 0]
        if np.hypot(*(following - arc[-1, 3])) > 1e-9:
            segments.append(line_segments(np.stack([arc[-1, 3], following]))[0])
            straight.append(True)
        else:
            segments[-1] = segments[-1].copy()
            segments[-1][3] = following
    return np.stack(segments), np.array(straight)


def _corner(
    place: NDArray[np.float64], before: NDArray[np.float64], after: NDArray[np.float64], radius: float
) -> NDArray[np.float64]:
    """The arc that rounds one corner: (K, 4, 2), each at most a quarter."""
    one, other = before - place, after - place
    size_one, size_other = float(np.hypot(*one)), float(np.hypot(*other))
    one, other = one / size_one, other / size_other
    open_angle = math.acos(min(1.0, max(-1.0, float(one @ other))))
    reach = min(radius / math.tan(open_angle / 2), size_one / 2, size_other / 2)
    turn = math.pi - open_angle
    count = max(1, math.ceil(turn / (math.pi / 2) - 1e-9))
    own = reach * math.tan(open_angle / 2)
    start, end = place + reach * one, place + reach * other
    middle = place + (one + other) / max(1e-12, float(np.hypot(*(one + other)))) * math.hypot(reach, own)
    first = start - middle
    sign = 1.0 if float(one[0] * other[1] - one[1] * other[0]) < 0 else -1.0
    angles = math.atan2(first[1], first[0]) + sign * np.linspace(0, turn, count + 1)
    handle = sign * 4 / 3 * math.tan(turn / count / 4) * own
    places = middle + own * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    places[0], places[-1] = start, end
    way = handle * np.stack([-np.sin(angles), np.cos(angles)], axis=1)
    return np.stack([places[:-1], places[:-1] + way[:-1], places[1:] - way[1:], places[1:]], axis=1)
