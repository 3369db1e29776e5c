"""What stays together when pieces are laid out, and how often it is cut."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.model.artwork import Artwork, Layer, Piece
from bisectum.core.model.shapes_of import polygon_of, union
from bisectum.core.model.sheet import Part
from bisectum.core.model.stroke import Stroke
from bisectum.core.raster.forest import groups_of
from bisectum.core.steps.sheets.settings import SheetsSettings

COARSE_MM = 0.1
ItemOf = Callable[[NDArray[np.float64]], list[str]]
"""The items that places : (N, 2), mm on the page, are of."""


def groups_of_artwork(artwork: Artwork, settings: SheetsSettings, item_of: ItemOf | None) -> list[Part]:
    """All that stays together, once each: parts with copy 0. item_of: where items are cut more or less often than others."""
    found: list[Part] = []
    whole = settings.layout == "in_place" or settings.together == "layer"
    for number, layer in enumerate(artwork.layers):
        near = 0.0 if settings.together == "pieces" else settings.together_mm
        clusters = [list(range(len(layer.pieces)))] if whole else _near(layer.pieces, near)
        strokes = _by_cluster(layer, clusters)
        found += [Part(number, 0, _place_in(layer, own, lines, artwork.width), tuple(layer.pieces[k] for k in own), lines)
                  for own, lines in zip(clusters, strokes, strict=True) if own or lines]
    if item_of is not None and found:
        items = item_of(np.array([part.at for part in found]) * artwork.width)
        found = [replace(part, item=item) for part, item in zip(found, items, strict=True)]
    return found


def copies_of(part: Part, settings: SheetsSettings, copies: int) -> int:
    """How often a part is cut."""
    per_make = next((one.count for one in settings.of_items if one.item == part.item), 1)
    return copies * per_make


def _near(pieces: Sequence[Piece], near: float) -> list[list[int]]:
    """Numbers of pieces in groups that are no farther apart than `near`, mm; every piece by itself where that is 0."""
    if not near:
        return [[k] for k in range(len(pieces))]
    shapes = [polygon_of(piece, COARSE_MM) for piece in pieces]
    pairs = shapely.STRtree(shapes).query(shapes, "dwithin", near) if shapes else np.empty((2, 0), np.int64)
    group = groups_of(np.ascontiguousarray(pairs.T.astype(np.int32)), len(pieces))
    clusters: dict[int, list[int]] = {}
    for k, name in enumerate(group.tolist()):
        clusters.setdefault(name, []).append(k)
    return list(clusters.values())


def _by_cluster(layer: Layer, clusters: list[list[int]]) -> list[tuple[Stroke, ...]]:
    """The strokes of each cluster, each of the nearest one. A layer of strokes only is one cluster."""
    if not clusters and layer.strokes:
        clusters.append([])
    if not layer.strokes or len(clusters) == 1:
        return [layer.strokes] * len(clusters)
    shapes = [union([polygon_of(layer.pieces[k], COARSE_MM) for k in own]) for own in clusters]
    nearest = shapely.STRtree(shapes).nearest([shapely.Point(stroke.at) for stroke in layer.strokes]).tolist()
    return [tuple(stroke for stroke, own in zip(layer.strokes, nearest, strict=True) if own == k) for k in range(len(clusters))]


def _place_in(layer: Layer, own: list[int], strokes: Sequence[Stroke], width: float) -> tuple[float, float]:
    """A place in the largest piece of a part, or on its first stroke: shares of the page's width."""
    if not own:
        return strokes[0].at[0] / width, strokes[0].at[1] / width
    largest = max((layer.pieces[k] for k in own), key=lambda piece: piece.outline.signed_area)
    place = polygon_of(largest, COARSE_MM).representative_point()
    return float(place.x) / width, float(place.y) / width
