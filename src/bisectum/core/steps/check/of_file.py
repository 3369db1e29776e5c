"""The cut check of lines that come from a file: what nobody here has drawn may cross itself, or lie there twice."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.geom.bezier import bounds, flatten, line_segments, signed_area
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork, Layer, Piece
from bisectum.core.model.finding import Finding
from bisectum.core.model.ready_lines import ReadyLines
from bisectum.core.model.stroke import Stroke
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.colour_names import plain_name
from bisectum.core.steps.check.flaw import Flaw

MEET_MM = 0.02  # ends that lie so near are one
SAME_MM = 0.02  # lines that run so near are one line twice
TWICE_MM = 1.0  # of it at least
LEAST_MM2 = 1e-6


def artwork_of(lines: ReadyLines) -> Artwork:
    """Lines of a file as they are: each colour a layer, closed ones nested by the even-odd rule."""
    layers = []
    every = [path.segments for path in lines.paths]
    left, top, right, bottom = bounds(np.concatenate(every))
    for colour in dict.fromkeys(path.colour for path in lines.paths):
        rings: list[Path] = []
        strokes: list[Path] = []
        for path in lines.paths:
            for low, high in zip(path.first[:-1], path.first[1:], strict=True):
                if path.colour == colour:
                    run = _closed(path.segments[low:high], path.straight[low:high], path.filled)
                    (rings if run.closed else strokes).append(run)
        own = tuple(Stroke(path.segments, path.straight, "cut", "cut", 0.1, _place(path)) for path in strokes)
        layers.append(Layer(colour, plain_name(rgb_of(colour)), rgb_of(colour), _nested(rings), strokes=own))
    shift = np.array([max(0.0, -left), max(0.0, -top)])
    return Artwork(tuple(layers), max(right + shift[0], 1e-3), max(bottom + shift[1], 1e-3), "flush")


def flaws_of_lines(artwork: Artwork) -> Iterator[Flaw]:
    """Lines of one layer that cross, or run where another one runs already."""
    for number, layer in enumerate(artwork.layers):
        rings = [*layer.rings, *(stroke.path for stroke in layer.strokes)]
        shapes = [shapely.LineString(np.concatenate([flatten(ring.segments, 0.005), ring.segments[-1:, 3]])) for ring in rings]
        for shape in shapes:
            if not shape.is_simple:
                yield _flaw("lines_cross", layer, number, _crossing(shape))
        tree = shapely.STRtree(shapes)
        one, other = tree.query(shapes, predicate="dwithin", distance=SAME_MM)
        for first, second in zip(one[one < other].tolist(), other[one < other].tolist(), strict=True):
            yield from _of_pair(shapes[first], shapes[second], layer, number)


def _of_pair(one: shapely.LineString, other: shapely.LineString, layer: Layer, number: int) -> Iterator[Flaw]:
    along = one.intersection(other.buffer(SAME_MM, cap_style="flat"))
    if along.length > min(TWICE_MM, 0.9 * one.length):
        at = along.interpolate(0.5, normalized=True) if along.geom_type == "LineString" else along.representative_point()
        yield _flaw("line_twice", layer, number, (at.x, at.y), along.length)
    elif one.crosses(other):
        at = one.intersection(other).representative_point()
        yield _flaw("lines_cross", layer, number, (at.x, at.y))


def _flaw(code: str, layer: Layer, number: int, at: tuple[float, float], value: float | None = None) -> Flaw:
    finding = Finding(code, "warning", at=at, value=None if value is None else round(value, 2), details={"layer": layer.name})
    return Flaw(finding, number)


def _crossing(shape: shapely.LineString) -> tuple[float, float]:
    """A place at which a line meets itself."""
    coords = shapely.get_coordinates(shape)
    parts = shapely.linestrings(np.stack([coords[:-1], coords[1:]], axis=1))
    one, other = shapely.STRtree(parts).query(parts, predicate="intersects")
    apart = (other - one > 1) & ~((one == 0) & (other == len(parts) - 1) & bool((coords[0] == coords[-1]).all()))
    if not apart.any():
        return float(coords[0, 0]), float(coords[0, 1])
    at = parts[one[apart][0]].intersection(parts[other[apart][0]]).representative_point()
    return float(at.x), float(at.y)


def _closed(segments: NDArray[np.float64], straight: NDArray[np.bool_], filled: bool) -> Path:
    """A run as a closed path if its ends meet or it is filled, else as an open one."""
    gap = float(np.hypot(*(segments[-1, 3] - segments[0, 0])))
    if gap <= MEET_MM and len(segments) > 1:
        segments = segments.copy()
        segments[-1, 3] = segments[0, 0]
    elif filled and len(segments) > 1:
        segments = np.concatenate([segments, line_segments(np.array([segments[-1, 3], segments[0, 0]]))])
        straight = np.append(straight, True)
    else:
        return Path(segments, straight, False)
    if abs(signed_area(segments)) < LEAST_MM2:
        return Path(segments, straight, False)
    return Path(segments, straight)


def _nested(rings: list[Path]) -> tuple[Piece, ...]:
    """Rings as pieces with windows: one within an odd number of others is a window of the smallest of them."""
    order = sorted(rings, key=lambda ring: -abs(ring.signed_area))
    shapes = [shapely.make_valid(shapely.Polygon(flatten(ring.segments, 0.005))) for ring in order]
    tree = shapely.STRtree(shapes)
    windows: dict[int, list[Path]] = {}
    for number, shape in enumerate(shapes):
        around = [other for other in tree.query(shape.representative_point(), predicate="intersects").tolist() if other < number]
        if len(around) % 2:
            windows.setdefault(max(around), []).append(_turned(order[number], False))
        else:
            windows.setdefault(number, [])
    return tuple(Piece(_turned(order[number], True), tuple(own)) for number, own in sorted(windows.items()))


def _turned(ring: Path, clockwise: bool) -> Path:
    if (ring.signed_area > 0) == clockwise:
        return ring
    return Path(np.ascontiguousarray(ring.segments[::-1, ::-1]), np.ascontiguousarray(ring.straight[::-1]))


def _place(path: Path) -> tuple[float, float]:
    x, y = path.segments[0, 0].tolist()
    return x, y
