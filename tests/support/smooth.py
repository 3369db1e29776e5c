"""Smooth shapes that are no circles or ellipses, and letters of two open fonts, at any size: what lines are tried on."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry import Polygon

from bisectum.core.geom.bezier import points_at
from tests.support.drawings import INK, painted
from tests.support.letters import ATKINSON, FONT, glyph

MARGIN = 13.0


@dataclass(frozen=True)
class Smooth:
    """make: the outline for a size in px; lines: how many of its sides are straight; nodes: as few as a careful person sets."""

    name: str
    make: Callable[[float], shapely.Geometry]
    lines: int
    nodes: int


def _around(radius: Callable[[NDArray[np.float64]], NDArray[np.float64]], flat: float = 1.0) -> Callable[[float], Polygon]:
    angle = np.linspace(0, 2 * math.pi, 6000, endpoint=False)
    away = radius(angle)
    unit = np.stack([away * np.cos(angle), flat * away * np.sin(angle)], 1)
    return lambda size: Polygon(unit * size / 2)


def _egg(size: float) -> Polygon:
    angle = np.linspace(0, 2 * math.pi, 6000, endpoint=False)
    return Polygon(np.stack([0.75 * np.cos(angle) * (1 + 0.2 * np.sin(angle)), np.sin(angle)], 1) * size / 2)


def _superellipse(size: float) -> Polygon:
    angle = np.linspace(0, 2 * math.pi, 12000, endpoint=False)
    x, y = (np.sign(v) * np.abs(v) ** (2 / 3) for v in (np.cos(angle), np.sin(angle)))
    return Polygon(np.stack([x, 0.7 * y], 1) * size / 2)


def _spiral(size: float) -> Polygon:
    angle = np.linspace(0, 4 * math.pi, 6000)
    away = (0.25 + 0.75 * angle / angle[-1]) * size / 2
    return shapely.LineString(np.stack([away * np.cos(angle), away * np.sin(angle)], 1)).buffer(0.035 * size, quad_segs=64)


def _clothoid(size: float) -> Polygon:
    """A ribbon along an Euler spiral, whose curvature grows with its length."""
    along = np.linspace(0, 2.4, 6000)
    step = along[1]
    x, y = np.cumsum(np.cos(along**2)) * step, np.cumsum(np.sin(along**2)) * step
    reach = max(np.ptp(x), np.ptp(y))
    return shapely.LineString(np.stack([x, y], 1) * size / reach).buffer(0.06 * size, quad_segs=64)


def _spline(size: float) -> Polygon:
    """A closed natural spline through made-up places."""
    from scipy.interpolate import CubicSpline

    places = np.array([(0.0, -1.0), (0.7, -0.6), (0.5, 0.0), (0.95, 0.55), (0.1, 0.9), (-0.6, 0.6), (-0.9, -0.1), (-0.5, -0.75)])
    curve = CubicSpline(np.arange(9), np.vstack([places, places[:1]]), bc_type="periodic")
    return Polygon(curve(np.linspace(0, 8, 6000, endpoint=False)) * size / 2)


def _rounded(size: float) -> Polygon:
    return shapely.box(-0.4 * size, -0.3 * size, 0.4 * size, 0.3 * size).buffer(0.1 * size, quad_segs=256)


def _letter(character: str, path: object = FONT) -> Smooth:
    font = "A" if path == ATKINSON else "B"
    _, nodes = glyph(character, 100, path)  # type: ignore[arg-type]
    lines = 99  # what of a letter is straight its own outline knows
    return Smooth(f"{character} {font}", lambda size: glyph(character, size, path)[0], lines, nodes)  # type: ignore[arg-type]


def smooth_shapes() -> list[Smooth]:
    return [
        Smooth("egg", _egg, 0, 4), Smooth("superellipse", _superellipse, 0, 8), Smooth("spiral, 2 turns", _spiral, 0, 16),
        Smooth("clothoid", _clothoid, 0, 10), Smooth("spline", _spline, 0, 10), Smooth("rounded box", _rounded, 4, 8),
    ]


def letters() -> list[Smooth]:
    return [_letter(c, path) for path in (FONT, ATKINSON) for c in "OSaBR&"]


def drawn(smooth: Smooth, size: float) -> tuple[NDArray[np.uint8], shapely.Geometry]:
    """The shape on paper, by exact coverage, and its outline. (H, W, 4) uint8."""
    shape = smooth.make(size)
    left, top, right, bottom = shape.bounds
    shape = affinity.translate(shape, MARGIN - left - 0.63, MARGIN - top - 0.39)
    return painted([(shape, INK)], math.ceil(right - left + 2 * MARGIN), math.ceil(bottom - top + 2 * MARGIN)), shape


def grained(rgba: NDArray[np.uint8], sigma: float) -> NDArray[np.uint8]:
    result = rgba.copy()
    grain = np.random.default_rng(3).normal(0, sigma, rgba[..., :3].shape)
    result[..., :3] = np.clip(np.round(rgba[..., :3] + grain), 0, 255)
    return result


def hardened(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Without soft edges."""
    result = rgba.copy()
    dark = rgba[..., 0] < (int(INK[0]) + 255) / 2
    result[..., :3] = np.where(dark[..., None], INK, 255)
    return result


def away_from(segments: NDArray[np.float64], shape: shapely.Geometry, most: int = 4000) -> NDArray[np.float64]:
    """Distances of points along segments from the outline."""
    points = points_at(segments, np.linspace(0, 1, 41)).reshape(-1, 2)
    return np.asarray(shapely.distance(shapely.points(points[:: max(1, len(points) // most)]), shape.boundary))
