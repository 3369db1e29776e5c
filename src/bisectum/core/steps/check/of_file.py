"""The cut check of lines that come from a file. Nobody here has drawn them: they may cross, lie there twice, or off the page."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.geom.bezier import bounds, flatten, line_segments, signed_area
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork, Layer, Piece
from bisectum.core.model.finding import Finding
from bisectum.core.model.ready_lines import ReadyLines
from bisectum.core.model.sheet import Area
from bisectum.core.model.stock import StockKind
from bisectum.core.model.stroke import Stroke
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.colour_names import plain_name
from bisectum.core.steps.check.flaw import NOWHERE, Flaw
from bisectum.core.steps.check.meetings import SAME_MM, Meetings, meetings_of
from bisectum.core.steps.check.settings import CheckSettings
from bisectum.core.steps.check.step import by_gravity, check_artwork
from bisectum.core.steps.sheets.split import is_larger

MEET_MM = 0.02  # ends that lie so near are one
BESIDE_MM = 0.1  # what is narrow so near to where lines meet is so because they meet
LEAST_MM2 = 1e-6


@dataclass(frozen=True, slots=True, eq=False)
class FileCheck:
    """artwork: the file's lines, each colour a layer, closed ones nested by the even-odd rule; what lies there twice is in it
    once. flaws: the gravest first."""

    artwork: Artwork
    flaws: list[Flaw]


def check_lines(lines: ReadyLines, kind: StockKind, settings: CheckSettings, mat: Area | None = None) -> FileCheck:
    """kind: what is cut; mat: the area that can be cut on."""
    left, top, right, bottom = bounds(np.concatenate([path.segments for path in lines.paths]))
    width, height = lines.page or (max(right - left, 1e-3), max(bottom - top, 1e-3))
    layers: list[Layer] = []
    flaws: list[Flaw] = []
    found: list[Meetings] = []
    for number, colour in enumerate(dict.fromkeys(path.colour for path in lines.paths)):
        runs = [run for path in lines.paths if path.colour == colour for run in path.runs()]
        own = [_closed(*run) for run in runs]
        met = meetings_of([_line_of(path) for path in own])
        layers.append(_layer(colour, [path for k, path in enumerate(own) if k not in met.twins]))
        flaws += _of_meetings(met, layers[-1], number)
        flaws += _of_page(own, lines.page, layers[-1], number)
        found.append(met)
    artwork = Artwork(tuple(layers), width, height, "flush")
    if mat is not None and is_larger(artwork, mat, 0.0):
        flaws.append(Flaw(Finding("larger_than_mat", "fault", value=round(max(width, height), 1),
                                  limit=round(max(mat.width, mat.height), 1))))
    flaws += [flaw for flaw in check_artwork(artwork, lambda _: kind, settings) if not _is_of_meeting(flaw, found)]
    return FileCheck(artwork, sorted(flaws, key=by_gravity))


def _layer(colour: str, paths: Sequence[Path]) -> Layer:
    strokes = tuple(Stroke(path.segments, path.straight, "cut", "cut", 0.1, _place(path)) for path in paths if not path.closed)
    return Layer(colour, plain_name(rgb_of(colour)), rgb_of(colour), _nested([path for path in paths if path.closed]),
                 strokes=strokes)


def _of_meetings(met: Meetings, layer: Layer, number: int) -> Iterator[Flaw]:
    for stretch in met.shared:
        at = stretch.interpolate(0.5, normalized=True) if stretch.geom_type == "LineString" else stretch.representative_point()
        yield _flaw("line_twice", "warning", layer, number, (at.x, at.y), stretch.length)
    for x, y in met.crossings.tolist():
        yield _flaw("lines_cross", "warning", layer, number, (x, y))


def _of_page(paths: Sequence[Path], page: tuple[float, float] | None, layer: Layer, number: int) -> Iterator[Flaw]:
    """Lines that run off the page, each with how far, where it is farthest. Many a machine leaves out what is there."""
    for path in paths if page else ():
        points = shapely.get_coordinates(_line_of(path))
        off = np.maximum(-points, points - page).max(axis=1)
        worst = int(off.argmax())
        if off[worst] > SAME_MM:
            yield _flaw("off_page", "fault", layer, number, tuple(points[worst].tolist()), float(off[worst]))


def _is_of_meeting(flaw: Flaw, found: Sequence[Meetings]) -> bool:
    """Whether something is narrow only because lines meet there, which is told already."""
    if not flaw.finding.code.startswith("narrow") or flaw.finding.at is None:
        return False
    places = np.vstack([flaw.line if flaw.line is not NOWHERE else np.empty((0, 2)), flaw.finding.at])
    return found[flaw.layer].are_near(places, max(flaw.finding.value or 0.0, BESIDE_MM))


def _flaw(code: str, severity: str, layer: Layer, number: int, at: tuple[float, float], value: float | None = None) -> Flaw:
    finding = Finding(code, severity, at=at, value=None if value is None else round(value, 2),  # type: ignore[arg-type]
                      details={"layer": layer.name})
    return Flaw(finding, number)


def _line_of(path: Path) -> shapely.LineString:
    return shapely.LineString(np.concatenate([flatten(path.segments, 0.005), path.segments[-1:, 3]]))


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
    """Rings as pieces with windows: one that lies whole within an odd number of others is a window of the smallest of them."""
    order = sorted(rings, key=lambda ring: -abs(ring.signed_area))
    shapes = [shapely.make_valid(shapely.Polygon(flatten(ring.segments, 0.005))) for ring in order]
    tree = shapely.STRtree([shape.buffer(SAME_MM) for shape in shapes])
    windows: dict[int, list[Path]] = {}
    for number, shape in enumerate(shapes):
        around = [other for other in tree.query(shape, predicate="within").tolist() if other < number]
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
