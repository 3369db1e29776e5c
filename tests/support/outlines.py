"""Outlines to lay over each other: circles, stars, boxes, wobbly blobs, and pairs of them that are hard to tell apart."""

from __future__ import annotations

import numpy as np
import pathops
import shapely
from numpy.typing import NDArray

from bisectum.core.geom.bezier import flatten, line_segments, signed_area
from bisectum.core.geom.overlay.overlay import Overlay, overlay
from bisectum.core.items.ready import of_map
from bisectum.core.model.offset import rings_of
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel

Ring = NDArray[np.float64]
FIELDS = of_map("#336699")


def circle(x: float, y: float, r: float, arcs: int = 4, phase: float = 0.0) -> Ring:
    step = 2 * np.pi / arcs
    angles = phase + step * np.arange(arcs)
    a, b = (np.stack([np.cos(angles + k * step), np.sin(angles + k * step)], axis=1) for k in (0, 1))
    handle = 4 / 3 * np.tan(step / 4)
    ring = np.stack([a, a + handle * np.stack([-a[:, 1], a[:, 0]], 1), b - handle * np.stack([-b[:, 1], b[:, 0]], 1), b], axis=1)
    ring[:, 3] = np.roll(ring[:, 0], -1, axis=0)
    return ring * r + [x, y]


def polygon(points: object) -> Ring:
    points = np.array(points, float)
    return line_segments(np.concatenate([points, points[:1]]))


def blob(rng: np.random.Generator, nodes: int = 8, r: float = 10) -> Ring:
    """A smooth closed line through places about a circle; it may cross itself."""
    angles = np.sort(rng.uniform(0, 2 * np.pi, nodes))
    reach = r * (1 + 0.35 * rng.uniform(-1, 1, nodes))
    places = np.stack([reach * np.cos(angles), reach * np.sin(angles)], axis=1)
    way = (np.roll(places, -1, axis=0) - np.roll(places, 1, axis=0)) / 6
    after = np.roll(places, -1, axis=0)
    return np.stack([places, places + way, after - np.roll(way, -1, axis=0), after], axis=1)


def some_shape(rng: np.random.Generator) -> Ring:
    kind = rng.integers(5)
    if kind == 0:
        return circle(0, 0, rng.uniform(3, 10), int(rng.integers(3, 7)), rng.uniform(0, 6))
    if kind == 1:
        return blob(rng, int(rng.integers(3, 12)))
    if kind == 2:
        n = int(rng.integers(3, 9))
        angles = np.arange(2 * n) * np.pi / n + rng.uniform(0, 1)
        reach = np.where(np.arange(2 * n) % 2, 4, 10) * rng.uniform(0.5, 1.5)
        return polygon(np.stack([reach * np.cos(angles), reach * np.sin(angles)], axis=1))
    if kind == 3:
        w, h = np.round(rng.uniform(2, 20, 2), 1) / 2
        return polygon([(-w, -h), (w, -h), (w, h), (-w, h)])
    return circle(0, 0, float(rng.integers(3, 10)))


def random_pair(rng: np.random.Generator) -> tuple[Ring, Ring]:
    return clockwise(some_shape(rng)), clockwise(some_shape(rng) + rng.uniform(-12, 12, 2))


NASTY = ("copy", "shifted 1e-6", "shifted 1e-4", "turned 90°", "mirrored", "touching", "partly the same line",
         "shifted 1 to 4 eps", "turned a little")


def nasty_pair(rng: np.random.Generator) -> tuple[Ring, Ring, str]:
    """A shape and one that lies nearly or just where it does, and how it does."""
    one = some_shape(rng)
    kind = int(rng.integers(len(NASTY)))
    angle = rng.uniform(-1e-3, 1e-3)
    other = [
        lambda: one.copy(), lambda: one + rng.uniform(-1, 1, 2) * 1e-6, lambda: one + rng.uniform(-1, 1, 2) * 1e-4,
        lambda: np.stack([-one[..., 1], one[..., 0]], axis=-1), lambda: (one * [-1, 1])[::-1, ::-1],
        lambda: one + np.array([np.ptp(one[..., 0]), 0]), lambda: one + np.array([0, rng.uniform(1, 5)]),
        lambda: one + rng.uniform(-1, 1, 2) * 1e-3 * rng.uniform(0.3, 4),
        lambda: one @ np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]]),
    ][kind]()
    return clockwise(one), clockwise(other), NASTY[kind]


def clockwise(ring: Ring) -> Ring:
    return ring if signed_area(ring) > 0 else np.ascontiguousarray(ring[::-1, ::-1])


def is_straight(segments: Ring) -> NDArray[np.bool_]:
    return np.asarray((np.abs(np.diff(segments, n=2, axis=1)) < 1e-9).all(axis=(1, 2)))


def laid(*rings: Ring) -> Overlay:
    """Rings, each as an input of its own."""
    return overlay([rings_of(ring, is_straight(ring)) for ring in rings])


def map_of(*rings: Ring) -> PlanarMap:
    """What lies within rings, as a map with label 1."""
    whole = np.concatenate(rings)
    over = overlay([rings_of(whole, is_straight(whole))])
    return relabel(over, over.labels[:, 0] > 0, **FIELDS)


def polygon_of(ring: Ring, tolerance: float = 2e-5) -> shapely.Polygon:
    return shapely.Polygon(flatten(ring, tolerance))


def pathops_of(ring: Ring) -> pathops.Path:
    path = pathops.Path()
    path.moveTo(*ring[0, 0])
    for segment in ring:
        path.cubicTo(*segment[1], *segment[2], *segment[3])
    path.close()
    return path


def area_of(planar: PlanarMap) -> float:
    """Of all that is cut, mm²."""
    areas = planar.half_areas()
    return float(sum(areas[loop].sum() for face, loop in planar.loops() if face >= 0 and planar.face_labels[face]))


def points_on(planar: PlanarMap) -> NDArray[np.float64]:
    """Places all along the lines of a map : (N, 2)."""
    return np.concatenate([flatten(planar.chain(k), 1e-3) for k in range(planar.chain_count)])
