"""What is hard to cut or to weed of one layer."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.geom.bezier import flatten, lengths
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Layer
from bisectum.core.model.finding import Finding
from bisectum.core.model.inside import place_inside
from bisectum.core.model.shapes_of import polygon_of
from bisectum.core.steps.check.bends import dense_nodes, sharp_tips, tight_bends
from bisectum.core.steps.check.flaw import NOWHERE, Flaw
from bisectum.core.steps.check.narrow import narrow_places
from bisectum.core.steps.check.settings import MaterialLimits

CROSSES_MM = 0.3  # a fold that ends so near to a cut line ends at it


def flaws_of_layer(layer: Layer, number: int, limits: MaterialLimits) -> Iterator[Flaw]:
    """Places of a layer that are narrower, smaller or tighter than its material allows."""
    rings = list(layer.rings)
    small = {id(ring): area for ring, area in _small(layer, limits)}
    for ring in (ring for ring in rings if id(ring) in small):
        yield _flaw("small_window" if ring.signed_area < 0 else "small_piece", "warning", layer, number,
                    place_inside(ring.segments), small[id(ring)], limits.piece_mm2, area=small[id(ring)])
    for place in narrow_places(rings, limits.width_mm) if limits.width_mm and rings else ():
        if id(rings[place.ring]) not in small:
            yield _flaw(f"narrow_{place.kind}", "warning", layer, number, place.at, place.width, limits.width_mm,
                        length=place.length, line=place.line)
    for place in narrow_places(rings, limits.gap_mm, inside=False) if limits.gap_mm and rings else ():
        if id(rings[place.ring]) not in small:
            yield _flaw("narrow_gap", "warning", layer, number, place.at, place.width, limits.gap_mm, length=place.length,
                        line=place.line)
    for at, angle in sharp_tips(rings, limits.width_mm):
        yield _flaw("sharp_tip", "note", layer, number, at, angle)
    for at, count in dense_nodes(rings):
        yield _flaw("dense_nodes", "note", layer, number, at, count)
    bends = tight_bends(rings, limits.radius_mm)
    if bends:
        at, radius = min(bends, key=lambda bend: bend[1])
        yield _flaw("tight_bends", "note", layer, number, at, radius, limits.radius_mm, count=len(bends))
    if limits.kind == "card":
        yield from _islands(layer, number)
    yield from _of_strokes(layer, number)


def _flaw(
    code: str, severity: str, layer: Layer, number: int, at: tuple[float, float], value: float | None = None,
    limit: float | None = None, line: NDArray[np.float64] = NOWHERE, area: float = 0.0, **details: object,
) -> Flaw:
    told = {name: round(amount, 3) if isinstance(amount, float) else amount for name, amount in details.items()}
    finding = Finding(code, severity, at=at, value=None if value is None else round(value, 3), limit=limit,  # type: ignore[arg-type]
                      details={"layer": layer.name, **told})
    return Flaw(finding, number, line, area)


def _small(layer: Layer, limits: MaterialLimits) -> Iterator[tuple[Path, float]]:
    """Outlines of pieces, and windows, whose area is below the limit, and that area, mm²."""
    for piece in layer.pieces:
        if piece.area < limits.piece_mm2:
            yield piece.outline, piece.area
        yield from ((window, -window.signed_area) for window in piece.windows if -window.signed_area < limits.piece_mm2)


def _islands(layer: Layer, number: int) -> Iterator[Flaw]:
    """Pieces that lie in a window of another one: of card they fall out, and nothing holds them in their place."""
    shapes = [polygon_of(piece) for piece in layer.pieces]
    filled = [shapely.Polygon(flatten(piece.outline.segments, 0.01)) for piece in layer.pieces]
    tree = shapely.STRtree(shapes)
    for outer, piece in enumerate(layer.pieces):
        if not piece.windows:
            continue
        shapely.prepare(filled[outer])
        for inner in tree.query(filled[outer]).tolist():
            if inner != outer and filled[outer].contains(shapes[inner].representative_point()):
                own = layer.pieces[inner].outline
                yield _flaw("island", "warning", layer, number, place_inside(own.segments))


def _of_strokes(layer: Layer, number: int) -> Iterator[Flaw]:
    """Folds that run across a cut, and cuts that part nothing."""
    if not layer.strokes:
        return
    rings = shapely.STRtree([shapely.LinearRing(flatten(ring.segments, 0.01)) for ring in layer.rings if len(ring.segments) > 1])
    for stroke in layer.strokes:
        points = stroke.path.segments
        line = shapely.LineString(np.concatenate([flatten(points, 0.01), points[-1:, 3]]))
        if stroke.role == "score":
            for ring in rings.geometries[rings.query(line, predicate="crosses")]:
                for at in shapely.get_parts(line.intersection(ring)):
                    along = line.project(at.centroid)
                    if CROSSES_MM < along < line.length - CROSSES_MM:
                        yield _flaw("fold_across_cut", "warning", layer, number, (at.centroid.x, at.centroid.y))
                        break
        elif stroke.role == "cut" and not stroke.path.closed:
            yield _flaw("open_line", "note", layer, number, tuple(points[0, 0].tolist()), float(lengths(points).sum()))
