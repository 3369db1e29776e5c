"""Icons of an open set (Flat Color Icons, MIT, from npm) with the outlines that their own paths say: pictures and geometry that
nobody made for Bisectum. Read by svgelements, painted by resvg.
"""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np
import shapely
import svgelements
from numpy.typing import NDArray
from shapely.geometry import Polygon

from tests.support.strangers import icon_bodies, icon_picture, icon_svg

Colour = tuple[int, int, int]
PAPER: Colour = (255, 255, 255)


def icons(count: int, size: int) -> Iterator[tuple[str, NDArray[np.uint8], shapely.Geometry]]:
    """Of so many icons those of plain opaque paths: name, picture (H, W, 4) uint8, and the lines between its colours, px."""
    for name, body in icon_bodies(count):
        areas = _areas(icon_svg(body, size))
        if areas is None:
            continue
        picture = icon_picture(body, size)
        if _is_painted_so(picture, areas):
            yield name, picture, shapely.union_all([area.boundary for colour, area in areas.items() if colour != PAPER])


def _areas(svg: str) -> dict[Colour, shapely.Geometry] | None:
    """What is seen of each colour; None where something is see-through or stroked."""
    seen: dict[Colour, shapely.Geometry] = {}
    for element in svgelements.SVG.parse(io.StringIO(svg)).elements():
        if not isinstance(element, svgelements.Shape) or element.fill is None or element.fill.value is None:
            continue
        if element.fill.alpha != 255 or (element.stroke is not None and element.stroke.value is not None):
            return None
        path = svgelements.Path(element)
        path.reify()
        own = Polygon()
        for part in path.as_subpaths():
            points = [(place.x, place.y) for segment in svgelements.Path(part) for place in _places(segment)]
            if len(points) > 2:
                own = own.symmetric_difference(Polygon(points).buffer(0))
        seen = {colour: area.difference(own) for colour, area in seen.items()}
        colour = (element.fill.red, element.fill.green, element.fill.blue)
        seen[colour] = seen.get(colour, Polygon()).union(own)
    return seen


def _places(segment: svgelements.PathSegment) -> list[svgelements.Point]:
    if isinstance(segment, svgelements.Move) or segment.start is None or segment.end is None:
        return []
    if isinstance(segment, svgelements.Linear):
        return [segment.start, segment.end]
    return [segment.point(t) for t in np.linspace(0, 1, 65)]


def _is_painted_so(picture: NDArray[np.uint8], areas: dict[Colour, shapely.Geometry]) -> bool:
    """Whether the painter agrees about a place in each part that is wider than two pixels."""
    for colour, area in areas.items():
        for part in shapely.get_parts(area.buffer(-1.2)):
            if part.is_empty:
                continue
            place = part.representative_point()
            x, y = min(picture.shape[1] - 1, int(place.x)), min(picture.shape[0] - 1, int(place.y))
            if np.abs(picture[y, x, :3].astype(int) - colour).max() > 3:
                return False
    return True
