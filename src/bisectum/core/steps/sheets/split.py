"""A make that is larger than its carrier, cut into parts that lap a little, along straight lines or along the calmest way.

The calmest way is the one on which the least is cut through: the shortest path from one edge of the make to the other by dynamic
programming over a raster, as S. Avidan and A. Shamir find seams (Seam carving, 2007), where a cell costs what lies on it and more
beside cut lines.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.geom.bezier import bounds, flatten, line_segments
from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.model.artwork import Artwork, Layer, Piece
from bisectum.core.model.clip import clipped
from bisectum.core.model.offset import rings_of
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.palette import Palette
from bisectum.core.model.relabel import relabel, without_slivers
from bisectum.core.model.sheet import Area
from bisectum.core.model.stroke import Strokes, placed
from bisectum.core.progress import Part, Progress
from bisectum.core.steps.sheets.settings import SheetsSettings

CELLS = 700  # of the raster, along the longer side
FINE_MM = 4.0  # so near to a cut line a seam had better not run
FINE_COSTS = 3.0  # as much as so many films
BARE_COSTS = 0.02  # a cell of bare ground against one of a film: of calm ways the straight one
FAR = 1e5


@dataclass(frozen=True, slots=True, eq=False)
class Tile:
    """A part of a make. artwork: what it holds, on a page of its own; at: its corner on the make's page, mm. crossed: where seams
    leave the make, x and y in mm on its own page, and which way they go there, dx and dy."""

    artwork: Artwork
    at: tuple[float, float]
    crossed: tuple[tuple[float, float, float, float], ...]


def is_larger(artwork: Artwork, room: Area, reach: float) -> bool:
    """Whether a make with what stands out beyond it does not lie on a usable area, neither way round."""
    sides = sorted((artwork.width + 2 * reach, artwork.height + 2 * reach))
    return sides[0] > min(room.width, room.height) + 1e-6 or sides[1] > max(room.width, room.height) + 1e-6


def split(artwork: Artwork, settings: SheetsSettings, room: Area, reach: float, progress: Progress) -> list[Tile]:
    """The parts of a make, row by row. room: the usable area; reach: what stands out beyond each part, mm. Raises: Cancelled."""
    width, height = _way_round(artwork, settings, room.width - 2 * reach, room.height - 2 * reach)
    cost = _cost(artwork) if settings.split == "calm" else None
    upright = _seams(artwork, settings, width, 0, cost)
    level = _seams(artwork, settings, height, 1, cost)
    columns, rows = _strips(upright, settings.split_lap_mm, 0), _strips(level, settings.split_lap_mm, 1)
    tiles = []
    for number, (row, column) in enumerate((row, column) for row in rows for column in columns):
        region = shapely.intersection(row, column)
        part = Part(progress, number / (len(rows) * len(columns)), (number + 1) / (len(rows) * len(columns)))
        part.raise_if_cancelled()
        tile = _tile(artwork, region, [*upright, *level])
        if tile is not None:
            tiles.append(tile)
    return tiles


def _way_round(artwork: Artwork, settings: SheetsSettings, width: float, height: float) -> tuple[float, float]:
    """How large parts may be: as the carrier lies, or the other way round where that makes fewer of them."""
    def count(wide: float, tall: float) -> int:
        return _needed(artwork.width, wide, settings) * _needed(artwork.height, tall, settings)

    return (height, width) if count(height, width) < count(width, height) else (width, height)


def _needed(extent: float, most: float, settings: SheetsSettings) -> int:
    """How many parts of a size an extent needs, with their laps."""
    lap = min(settings.split_lap_mm, most / 2)
    return 1 if extent <= most else math.ceil((extent - lap) / (most - lap))


def _seams(
    artwork: Artwork, settings: SheetsSettings, most: float, axis: int, cost: NDArray[np.float64] | None
) -> list[NDArray[np.float64]]:
    """Seams across the make, each (N, 2) mm. most: how large a part may be along this axis; axis 0: upright ones."""
    extent = artwork.width if axis == 0 else artwork.height
    count = _needed(extent, most, settings)
    lap = settings.split_lap_mm
    wide = extent / count
    # The outer parts lap on one side only; all are given the room of those between.
    play = max(0.0, (most - lap - wide) / 2)
    found = []
    for number in range(1, count):
        at = number * wide
        if cost is None or play < 1.0:
            along = artwork.height if axis == 0 else artwork.width
            line = np.array([(at, -FAR), (at, along + FAR)])
        else:
            line = _calmest(cost if axis == 0 else cost.T, at, play, max(artwork.width, artwork.height) / CELLS)
        found.append(line if axis == 0 else line[:, ::-1])
    return found


def _calmest(cost: NDArray[np.float64], at: float, play: float, cell: float) -> NDArray[np.float64]:
    """The calmest way from above to below, no farther than `play` from x = `at`, mm."""
    low, high = max(0, math.ceil((at - play) / cell)), min(cost.shape[1], math.floor((at + play) / cell) + 1)
    own = cost[:, low:high] + BARE_COSTS
    total, back = own.copy(), np.zeros(own.shape, np.int8)
    for row in range(1, len(own)):
        before = np.pad(total[row - 1], 1, constant_values=np.inf)
        ways = np.stack([before[:-2] + own[row] * 0.42, before[1:-1], before[2:] + own[row] * 0.42])
        back[row] = ways.argmin(axis=0) - 1
        total[row] += ways.min(axis=0)
    middle = (at / cell) - low
    last = total[-1] + 1e-6 * np.abs(np.arange(total.shape[1]) - middle)
    column, places = int(last.argmin()), []
    for row in range(len(own) - 1, -1, -1):
        places.append(((column + low + 0.5) * cell, (row + 0.5) * cell))
        column += int(back[row, column])
    line = shapely.LineString(places[::-1]).simplify(cell)
    points = np.asarray(line.coords)
    return np.concatenate([[[points[0, 0], -FAR]], points, [[points[-1, 0], FAR]]])


def _cost(artwork: Artwork) -> NDArray[np.float64]:
    """What it costs to cut through each cell. (H, W)."""
    cell = max(artwork.width, artwork.height) / CELLS
    shape = max(2, math.ceil(artwork.height / cell)), max(2, math.ceil(artwork.width / cell))
    films = np.zeros(shape, np.float64)
    lines = np.zeros(shape, np.uint8)
    for layer in artwork.layers:
        rings = [np.round(flatten(ring.segments, cell / 3) / cell).astype(np.int32) for ring in layer.rings]
        film = np.zeros(shape, np.uint8)
        cv2.fillPoly(film, rings, 1)
        cv2.polylines(lines, rings, True, 1)
        films += film
    away = cv2.distanceTransform(1 - lines, cv2.DIST_L2, 3).astype(np.float64) * cell
    return films * (1.0 + FINE_COSTS * np.maximum(0.0, 1.0 - away / FINE_MM))


def _strips(seams: Sequence[NDArray[np.float64]], lap: float, axis: int) -> list[shapely.Polygon]:
    """The regions between seams, each half a lap wider on either side."""
    ends = [np.array([(-FAR, -FAR), (-FAR, FAR)]), np.array([(FAR, -FAR), (FAR, FAR)])]
    ends = ends if axis == 0 else [end[:, ::-1] for end in ends]
    lines = [ends[0], *seams, ends[1]]
    shift = np.array([lap / 2, 0.0] if axis == 0 else [0.0, lap / 2])
    return [shapely.Polygon(np.concatenate([one - shift, (other + shift)[::-1]])) for one, other in pairwise(lines)]


def _tile(artwork: Artwork, region: shapely.Polygon, seams: Sequence[NDArray[np.float64]]) -> Tile | None:
    """What of a make lies in a region; None where that is nothing."""
    layers = tuple(_clipped_layer(layer, region) for layer in artwork.layers)
    segments = [ring.segments for layer in layers for ring in layer.rings]
    segments += [stroke.segments for layer in layers for stroke in layer.strokes]
    if not segments:
        return None
    page = shapely.intersection(region, shapely.box(0, 0, artwork.width, artwork.height))
    left, top, right, bottom = page.bounds
    shift = np.array([[1.0, 0.0, -left], [0.0, 1.0, -top]])
    moved = tuple(replace(layer, pieces=tuple(piece.placed(shift) for piece in layer.pieces),
                          strokes=placed(layer.strokes, shift)) for layer in layers)
    edge = page.exterior.buffer(1e-6)
    crossed = [(x - left, y - top, dx, dy) for seam in seams for x, y, dx, dy in _ends(seam, artwork)
               if edge.distance(shapely.Point(x, y)) < FINE_MM]
    return Tile(replace(artwork, layers=moved, width=right - left, height=bottom - top, findings=()), (left, top),
                tuple(crossed))


def _ends(seam: NDArray[np.float64], artwork: Artwork) -> list[tuple[float, float, float, float]]:
    """Where a seam leaves the page, and which way."""
    inner = shapely.intersection(shapely.LineString(seam), shapely.box(0, 0, artwork.width, artwork.height))
    line = max(shapely.get_parts(inner), key=lambda one: float(one.length))
    first, *_, last = line.coords
    dx, dy = (0.0, 1.0) if abs(seam[-1, 1]) >= FAR else (1.0, 0.0)
    return [(float(first[0]), float(first[1]), -dx, -dy), (float(last[0]), float(last[1]), dx, dy)]


def _clipped_layer(layer: Layer, region: shapely.Polygon) -> Layer:
    """A layer within a region. Pieces that lie inside altogether stay as they are, bit for bit."""
    inside: list[Piece] = []
    crossing: list[Piece] = []
    for piece in layer.pieces:
        box = shapely.box(*bounds(piece.outline.segments))
        if region.contains_properly(box):
            inside.append(piece)
        elif region.intersects(box):
            crossing.append(piece)
    return replace(layer, pieces=(*inside, *_cut(crossing, region)), strokes=_cut_strokes(layer.strokes, region))


def _cut(pieces: Sequence[Piece], region: shapely.Polygon) -> tuple[Piece, ...]:
    if not pieces:
        return ()
    left, top, right, bottom = bounds(np.concatenate([piece.outline.segments for piece in pieces]))
    near = shapely.intersection(region, shapely.box(left - 10, top - 10, right + 10, bottom + 10))
    ring = line_segments(np.asarray(shapely.orient_polygons(near, exterior_cw=False).exterior.coords))
    rings = [ring_ for piece in pieces for ring_ in piece.rings]
    own = rings_of(np.concatenate([one.segments for one in rings]), np.concatenate([one.straight for one in rings]))
    over = overlay([own, rings_of(ring, np.ones(len(ring), bool))])
    values = (over.labels != 0).all(axis=1)
    planar = relabel(over, without_slivers(over, values), palette=Palette(()), mm_per_px=0.05, width=right, height=bottom,
                     deviation=0.0)
    return pieces_of_faces(planar, np.append(planar.face_labels > 0, False), False)


def _cut_strokes(strokes: Strokes, region: shapely.Polygon) -> Strokes:
    shapely.prepare(region)

    def inside(places: NDArray[np.float64]) -> NDArray[np.bool_]:
        return np.asarray(shapely.contains_xy(region, places[:, 0], places[:, 1]))

    return tuple(rest for stroke in strokes for rest in clipped(stroke, inside, True))
