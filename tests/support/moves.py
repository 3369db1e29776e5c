"""Random groups of pieces on random maps, moved and moved back."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray

from bisectum.core.course import CourseResult, CourseSettings, Source, run_course
from bisectum.core.geom.bezier import flatten
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.model.offset import outlines
from bisectum.core.model.planar_map import PlanarMap
from bisectum.services.pieces import PieceRow, piece_list
from tests.support.drawings import circle, painted, star, turned_square

PALETTE = [(70, 110, 160), (200, 40, 40), (250, 210, 60), (40, 130, 70), (20, 24, 30)]
SIZE = 240


def drawing(rng: np.random.Generator) -> np.ndarray:
    """Discs, squares and stars of a few colours over each other, which leave pieces within pieces and beside each other."""
    shapes = []
    for _ in range(int(rng.integers(5, 12))):
        x, y = rng.uniform(40, SIZE - 40, 2)
        size = rng.uniform(9, 34)
        kinds = circle(x, y, size), turned_square(x, y, 1.5 * size, rng.uniform(0, 90)), star(x, y, size, 0.5 * size)
        shapes.append((kinds[rng.integers(3)], PALETTE[rng.integers(len(PALETTE))]))
    return painted(shapes, SIZE, SIZE)


def moved_and_back(seed: int) -> float:
    """How much of a group does not arrive where it is moved to, or lies elsewhere after it was moved back, as a share of the
    picture; 1 where lines that nothing touched are not bit for bit what they were, or where a piece was not found."""
    rng = np.random.default_rng(seed)
    source, cache = Source(drawing(rng), 0.25, f"moves {seed}"), {}  # type: ignore[var-annotated]

    def run(changes: list[dict[str, object]]) -> CourseResult:
        return run_course(source, CourseSettings.model_validate(
            {"picture": {"width_mm": 60.0, "measured": "picture"}, "background": {"enclosed": "all"},
             "colours": {"kind": "clip-art"},
             "pieces": {"smallest_mm2": 0, "smallest_window_mm2": 0, "changes": changes}}), cache)

    plain = run([])
    rows = [row for row in piece_list(plain).rows if not row.reason and row.colour]
    group = [rows[number] for number in rng.permutation(len(rows))[: int(rng.integers(1, 6))]]
    if len(group) == len(rows):
        return 0.0
    way = rng.uniform(-0.3, 0.3, 2)

    def moved(by: np.ndarray, from_: np.ndarray) -> dict[str, object]:
        first, *others = [{"x": row.at[0] + from_[0], "y": row.at[1] + from_[1], "area": row.area, "colour": row.colour}
                          for row in group]
        return {"kind": "move", "dx": by[0], "dy": by[1], "also": others, **first}

    there = run([moved(way, np.zeros(2))])
    there.pieces.check()
    lost = _not_arrived(plain, there, group, way * plain.pieces.planar.width)
    after = run([moved(way, np.zeros(2)), moved(-way, way)])
    after.pieces.check()
    same = {line.tobytes() for line in after.pieces.planar.segments}
    untouched = {line.tobytes() for line in plain.pieces.planar.segments[_far_from(plain, group)]}
    if there.pieces.missed or after.pieces.missed or not untouched <= same:
        return 1.0
    before, now = _by_colour(plain), _by_colour(after)
    whole = plain.pieces.planar.width * plain.pieces.planar.height
    off = [shapely.symmetric_difference(before[key], now.get(key, shapely.Polygon())).area for key in before]
    return max(lost, *off) / whole


def _not_arrived(plain: CourseResult, there: CourseResult, group: list[PieceRow], by: np.ndarray) -> float:
    """The area of a group that is not of its colour where it was moved to, less a seam along its outline."""
    planar, lost, now = plain.pieces.planar, 0.0, _by_colour(there)
    for row in group:
        face = int(faces_at(net_of(planar), np.array([row.at]) * planar.width)[0]) - 1
        shape = _shape(planar, np.append(np.arange(len(planar.face_labels)) == face, False))
        moved = shapely.affinity.translate(shape, *by)
        lost += shapely.difference(moved, now[row.colour].buffer(2e-3)).area
    return lost


def _far_from(result: CourseResult, group: list[PieceRow]) -> NDArray[np.bool_]:
    """The lines of a map that lie beside none of some pieces. (S,)."""
    planar, places = result.pieces.planar, np.array([row.at for row in group]) * result.pieces.planar.width
    faces = np.append(np.isin(np.arange(len(planar.face_labels)) + 1, faces_at(net_of(planar), places)), False)
    return np.repeat(~faces[planar.sides].any(axis=1), np.diff(planar.first))


def _by_colour(result: CourseResult) -> dict[str, shapely.Geometry]:
    planar = result.pieces.planar
    return {colour.key: _shape(planar, np.append(planar.face_labels == number, False))
            for number, colour in enumerate(planar.palette.colours, 1)}


def _shape(planar: PlanarMap, inside: NDArray[np.bool_]) -> shapely.Geometry:
    """Faces as a polygon. inside : (F + 1,)."""
    segments, _, first = outlines(planar, inside)
    shape: shapely.Geometry = shapely.Polygon()
    for a, b in pairwise(first):
        shape = shapely.symmetric_difference(shape, shapely.Polygon(flatten(segments[a:b], 1e-4)).buffer(0), grid_size=1e-9)
    return shape
