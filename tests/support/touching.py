"""Drawings of shapes that touch, and of the same shapes a little apart; and staircases in the lines of a map."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity

from bisectum.core.geom.bezier import lengths
from bisectum.core.model.planar_map import PlanarMap
from tests.support.drawings import circle, painted, star
from tests.support.letters import glyph
from tests.support.strangers import compressed

TEAL, GOLD = (21, 110, 120), (240, 140, 40)
APART = 4.0  # px between parts in the drawing it is compared with
STAIR_PX, STAIR_LINES = 2.5, 10  # lines no longer than that, so many of them in a row
Shapes = list[tuple[shapely.Geometry, tuple[int, int, int]]]
KINDS = ("star in disc", "discs", "ring and bar", "letter on rule")
WAYS = ("clean", "jpeg", "small")


@dataclass(frozen=True)
class Pair:
    """Two drawings of the same shapes. number: every third is kept. areas: of both colours where the shapes touch, px²."""

    kind: str
    way: str
    number: int
    touching: NDArray[np.uint8]
    apart: NDArray[np.uint8]
    areas: tuple[float, float]


def shapes_of(kind: str, rng: np.random.Generator, size: float, gap: float) -> Shapes:
    """Shapes that touch, or stand `gap` px apart."""
    x, y = size / 2 + rng.uniform(-1, 1, 2)
    turn, radius = rng.uniform(0, 360), 0.36 * size
    if kind == "star in disc":
        inner = affinity.rotate(star(x, y, radius - gap, 0.4 * radius), turn, origin=(x, y))
        return [(circle(x, y, radius), TEAL), (inner, GOLD)]
    if kind == "discs":
        one, other = 0.2 * size, rng.uniform(0.1, 0.2) * size
        away = np.array([np.cos(turn), np.sin(turn)]) * (one + other + gap) / 2
        return [(circle(x - away[0], y - away[1], one), TEAL), (circle(x + away[0], y + away[1], other), GOLD)]
    if kind == "ring and bar":
        ring = circle(x, y - 0.05 * size, 0.26 * size).difference(circle(x, y - 0.05 * size, 0.18 * size))
        bar = shapely.box(0.1 * size, y + 0.21 * size + gap, 0.9 * size, y + 0.28 * size + gap)
        return [(ring, TEAL), (affinity.rotate(bar, rng.uniform(-0.5, 0.5), origin=(x, y + 0.21 * size)), GOLD)]
    letter, _ = glyph("ABEHKMORS"[int(rng.integers(9))], 0.5 * size)
    left, _, right, bottom = letter.bounds
    letter = affinity.translate(letter, x - (left + right) / 2, y - bottom)
    return [(letter, TEAL), (shapely.box(0.1 * size, y + gap, 0.9 * size, y + 0.05 * size + gap), GOLD)]


def pair_of(number: int) -> Pair:
    kind, way = KINDS[number % len(KINDS)], WAYS[number // len(KINDS) % len(WAYS)]
    size = 160 if way == "small" else int(np.random.default_rng(number).integers(240, 640))
    drawn = []
    for gap in (0.0, APART):
        rgba = painted(shapes_of(kind, np.random.default_rng(number), size, gap), size, size)
        drawn.append(compressed(rgba, 85) if way == "jpeg" else rgba)
    below, above = (shape for shape, _ in shapes_of(kind, np.random.default_rng(number), size, 0.0))
    return Pair(kind, way, number, *drawn, (below.difference(above).area, above.area))


def staircases(planar: PlanarMap) -> int:
    """How many rows of short straight lines there are."""
    short = planar.straight & (lengths(planar.segments) < STAIR_PX * planar.mm_per_px)
    found = 0
    for number in range(planar.chain_count):
        own = np.concatenate([[0], short[planar.first[number] : planar.first[number + 1]].astype(int), [0]])
        edges = np.flatnonzero(np.diff(own))
        found += int(((edges[1::2] - edges[::2]) >= STAIR_LINES).sum())
    return found


def areas_of(planar: PlanarMap) -> tuple[float, float]:
    """The areas of what is nearest to both colours, px²."""
    halves, found = planar.half_areas(), np.zeros(len(planar.palette.colours) + 1)
    for face, loop in planar.loops():
        if face >= 0:
            found[planar.face_labels[face]] += halves[loop].sum()
    known = np.array([colour.rgb for colour in planar.palette.colours], float)
    below, above = (1 + int(np.abs(known - colour).max(axis=1).argmin()) for colour in (TEAL, GOLD))
    return float(found[below] / planar.mm_per_px**2), float(found[above] / planar.mm_per_px**2)
