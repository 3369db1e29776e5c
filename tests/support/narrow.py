"""Shapes whose narrow places are known, and shapes that have none although they have tips."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
import shapely.affinity

from bisectum.core.geom.bezier import line_segments
from bisectum.core.geom.path import Path
from tests.support.outlines import circle

ROUND = 256  # chords to a quarter of a buffer's circle


@dataclass(frozen=True)
class Made:
    """width: of its one narrow place, mm, None for none. rings: as paths, the outline clockwise as seen."""

    name: str
    shape: shapely.Geometry
    width: float | None

    @property
    def rings(self) -> list[Path]:
        return [ring for polygon in shapely.get_parts(self.shape)
                for ring in (_path(polygon.exterior, True), *(_path(hole, False) for hole in polygon.interiors))]


def _path(ring: shapely.LinearRing, clockwise: bool) -> Path:
    points = np.array(ring.coords)
    if (shapely.is_ccw(ring)) != clockwise:  # with y down what is anticlockwise on paper runs clockwise as seen
        points = points[::-1]
    segments = line_segments(points)
    return Path(np.ascontiguousarray(segments), np.ones(len(segments), bool))


def turned(shape: shapely.Geometry, rng: np.random.Generator) -> shapely.Geometry:
    return shapely.affinity.translate(shapely.affinity.rotate(shape, rng.uniform(0, 360)), *rng.uniform(0, 40, 2))


def necked(rng: np.random.Generator) -> Iterator[Made]:
    """Necks, bridges, hairs and rings of .2 to 1.5 mm."""
    for width in np.linspace(0.2, 1.5, 15).round(3).tolist():
        long = float(rng.uniform(2, 8))
        one, other = (shapely.Point(x, 0).buffer(rng.uniform(3, 6), ROUND) for x in (-6 - long / 2, 6 + long / 2))
        bar = shapely.box(-8 - long / 2, -width / 2, 8 + long / 2, width / 2)
        yield Made(f"neck {width}", turned(one | other | bar, rng), width)
        angle = float(rng.uniform(30, 70))
        notch = shapely.Polygon([(0, width / 2), (-9 / np.tan(np.radians(angle)), 9), (9 / np.tan(np.radians(angle)), 9)])
        waist = shapely.box(-10, -6, 10, 6) - notch - shapely.affinity.scale(notch, 1, -1, origin=(0, 0))
        yield Made(f"waist {width}", turned(waist, rng), width)
        body = shapely.box(-8, 0, 8, 8)
        hair = shapely.box(-width / 2, -float(rng.uniform(3, 7)), width / 2, 1)
        yield Made(f"hair {width}", turned(body | hair, rng), width)
        reach = float(rng.uniform(4, 9))
        ring = shapely.Point(0, 0).buffer(reach, ROUND) - shapely.Point(0, 0).buffer(reach - width, ROUND)
        yield Made(f"ring {width}", turned(ring, rng), width)


def decoys(rng: np.random.Generator) -> Iterator[Made]:
    """Tips, corners and stars, and stubs that are the end of something: nothing is narrow between two sides."""
    for number in range(15):
        points = int(rng.integers(5, 11))
        angles = np.arange(2 * points) * np.pi / points
        reach = np.where(np.arange(2 * points) % 2, rng.uniform(3.5, 6), 10.0)
        star = shapely.Polygon(np.stack([reach * np.cos(angles), reach * np.sin(angles)], 1))
        yield Made(f"star {number}", turned(star, rng), None)
        half = np.radians(rng.uniform(6, 40))
        wedge = shapely.Polygon([(0, 0), (20 * np.cos(half), 20 * np.sin(half)), (20 * np.cos(half), -20 * np.sin(half))])
        yield Made(f"tip {number}", turned(wedge, rng), None)
        rounded = wedge.buffer(-0.4, join_style="mitre").buffer(0.4 - 0.05).buffer(0.05, ROUND)
        yield Made(f"rounded tip {number}", turned(rounded, rng), None)
        corners = shapely.convex_hull(shapely.MultiPoint(rng.uniform(-10, 10, (int(rng.integers(3, 7)), 2)).tolist()))
        corners = corners if shapely.minimum_clearance(corners) > 4 else shapely.box(-7, -5, 7, 5)
        yield Made(f"corners {number}", turned(corners, rng), None)


def smooth_ring(radius: float, band: float) -> list[Path]:
    """A ring of curves. mm."""
    outer, inner = circle(0, 0, radius), circle(0, 0, radius - band)[::-1, ::-1]
    return [Path(np.ascontiguousarray(own), np.zeros(len(own), bool)) for own in (outer, inner)]


def falls_apart(shape: shapely.Geometry, width: float) -> bool:
    """Whether a shape becomes several when it is drawn in by half a width on all sides."""
    return len(shapely.get_parts(shape.buffer(-width / 2, ROUND))) > 1


