"""Shapes for pieces: wide ones with tips and corners, thin ones, cards with islands, gaps and notches. mm."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from bisectum.core.geom.bezier import bounds, flatten
from bisectum.core.items.lettering import lettering_rings
from bisectum.core.items.ready import welded
from bisectum.core.items.settings import Lettering, Shape
from bisectum.core.items.shapes import shape_rings
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.thin_places import is_tip
from bisectum.services.fonts import shipped_files
from tests.support.outlines import circle, map_of, polygon

CHORD_MM = 5e-4


def face_polygons(planar: PlanarMap) -> list[shapely.Geometry]:
    """Each face that is cut, by shapely: its largest ring without the others."""
    rings: dict[int, list[shapely.Polygon]] = {}
    for face, loop in planar.loops():
        if face >= 0 and planar.face_labels[face]:
            walk = np.concatenate([planar.walk(half)[0] for half in loop])
            rings.setdefault(face, []).append(shapely.Polygon(flatten(walk, CHORD_MM)))
    faces: list[shapely.Geometry] = []
    for own in rings.values():
        outer = max(own, key=lambda ring: ring.area)
        faces.append(shapely.difference(outer, shapely.union_all([ring for ring in own if ring is not outer])))
    return faces


def narrow_by_buffers(planar: PlanarMap, width: float) -> int:
    """Necks, scraps and hairs narrower than a width, found another way: by buffers of fine polygons, face by face. What is no
    tip is what the trade says; where it lies and how large it is, GEOS."""
    count, radius = 0, width / 2
    for face in face_polygons(planar):
        whole = shapely.make_valid(face)
        thick = whole.buffer(-radius).buffer(radius * 1.02)
        for part in shapely.get_parts(whole.difference(thick)):
            if part.geom_type != "Polygon" or part.area < 0.05 * width**2:
                continue
            mouths = shapely.get_parts(shapely.line_merge(part.exterior.intersection(thick.buffer(1e-4))))
            mouths = [own for own in mouths if own.length > 0.05 * width]
            if len(mouths) == 1:
                ends = np.array(mouths[0].coords)[[0, -1]]
                chord = shapely.LineString(ends)
                depth = max(shapely.Point(place).distance(chord) for place in part.exterior.coords)
                held = shapely.union(part, shapely.make_valid(shapely.Polygon(mouths[0]))) if len(mouths[0].coords) > 2 else part
                count += not is_tip(depth / width, held.area / max(1e-12, chord.length * depth))
            else:
                count += 1
    return count


def polygons_of(planar: PlanarMap) -> list[shapely.Polygon]:
    """All that is cut of a map, in connected parts, by shapely."""
    whole = shapely.union_all([face.buffer(1e-3, join_style="mitre") for face in face_polygons(planar)])
    return [part for part in shapely.get_parts(whole) if not part.is_empty]


def lettering(text: str, capital_mm: float, font: str = "nunito") -> PlanarMap:
    made = Lettering(text=text, font=font, capital_mm=capital_mm)
    return placed(welded(lettering_rings(made, {made.font: shipped_files(made.font)})[0], "#000000"))


def placed(planar: PlanarMap) -> PlanarMap:
    """With its upper left corner at 2, 2."""
    left, top, right, bottom = bounds(planar.segments)
    shift = np.array([2.0 - left, 2.0 - top])
    return replace(planar, segments=planar.segments + shift, junctions=planar.junctions + shift, width=right - left + 4,
                   height=bottom - top + 4)


def leaf(length: float, bulge: float) -> PlanarMap:
    """Two arcs that meet in two sharp tips."""
    a, b = np.array([0.0, 0.0]), np.array([length, 0.0])
    up, down = np.array([0.0, -bulge]), np.array([0.0, bulge])
    third = (b - a) / 3
    upper, lower = np.stack([a, a + third + up, b - third + up, b]), np.stack([b, b - third + down, a + third + down, a])
    return placed(map_of(np.stack([upper, lower])))


def letters_and_leaves() -> dict[str, list[tuple[PlanarMap, float]]]:
    """Shapes that are wider than a width everywhere but at tips and corners, with that width."""
    forms = [Shape(form="star", width_mm=30, height_mm=30, points=points, inner=inner)
             for points in (4, 5, 6, 8, 12) for inner in (0.35, 0.45, 0.6)]
    stars = [(placed(welded(shape_rings(form), "#000000")), 0.8) for form in forms]
    fans = [(placed(map_of(polygon([(0, 0), (20, 0), (20 * np.cos(angle), 20 * np.sin(angle))]))), 0.8)
            for angle in np.radians([12, 20, 30, 45, 60, 90, 120, 150])]
    letters = [(lettering(letter, 30), 0.8) for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZaegkmrstwxyz&"]
    leaves = [(leaf(30, bulge), 0.8) for bulge in (3, 5, 8, 12)]
    return {"stars": stars, "corners of 12 to 150°": fans, "letters": letters, "leaves": leaves}


def stencils() -> list[PlanarMap]:
    """Shapes with thin parts: bodies joined by necks, with tails, thin rings, light lettering."""
    found = []
    for width in (0.3, 0.5, 0.7):
        low, high = 8 - width / 2, 8 + width / 2
        body = [circle(6, 8, 5), circle(26, 8, 5), polygon([(6, low), (26, low), (26, high), (6, high)])]
        tail = [circle(6, 8, 5), polygon([(6, low), (22, low), (22, high), (6, high)])]
        found += [placed(map_of(*body)), placed(map_of(*tail)),
                  placed(map_of(circle(10, 10, 8), circle(10, 10, 8 - width)[::-1, ::-1]))]
    return [*found, lettering("tide", 9), lettering("boat", 7)]


def slots_and_notches() -> list[tuple[PlanarMap, float, bool]]:
    """Two parts with a gap between them, or one with a notch: the map, a gap that is wider, and whether it is a slot."""
    found = []
    for gap in (0.2, 0.4, 0.6, 0.8):
        found.append((placed(map_of(polygon([(0, 0), (10, 0), (10, 8), (0, 8)]),
                                    polygon([(10 + gap, 0), (20, 0), (20, 8), (10 + gap, 8)]))), 1.0, True))
        found.append((placed(map_of(circle(5, 5, 5), circle(15 + gap, 5, 5))), 1.0, True))
        found.append((placed(map_of(polygon([(0, 0), (20, 0), (20, 8), (10 + gap / 2, 8), (10 + gap / 2, 3), (10 - gap / 2, 3),
                                             (10 - gap / 2, 8), (0, 8)]))), 1.0, False))
    return found


def cards_with_islands() -> list[tuple[PlanarMap, float]]:
    """Frames with islands within them, and the width of bridges."""
    found = []
    for seed in range(12):
        rng = np.random.default_rng(seed)
        rings = [polygon([(0, 0), (80, 0), (80, 60), (0, 60)]), polygon([(5, 5), (5, 55), (75, 55), (75, 5)])]
        for k in range(int(rng.integers(2, 9))):
            x, y = 14 + 18 * (k % 4) + rng.uniform(-2, 2), 18 + 24 * (k // 4) + rng.uniform(-3, 3)
            rings.append(circle(x, y, rng.uniform(2, 7)) if k % 2 else polygon(
                [(x - 5, y - 4), (x + 5, y - 5), (x + rng.uniform(2, 6), y + 5), (x - 4, y + rng.uniform(2, 6))]))
        found.append((placed(map_of(*rings)), float(rng.choice([1.0, 1.5, 2.0]))))
    return found
