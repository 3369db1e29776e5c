"""SVG 1.1 as ready lines, by svgelements: paths, basic shapes, transforms, units, nested groups, `use`, styles and classes.

Before that the text goes through defusedxml, so no entity is ever unfolded; nothing outside the file is looked at.
"""

from __future__ import annotations

import io
import math
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException

from bisectum.core.errors import InputError
from bisectum.core.model.ready_lines import ReadyLines, ReadyPath

PX_PER_INCH = 96.0  # CSS, and so SVG 2
MM_PER_PX = 25.4 / PX_PER_INCH
XLINK = "{http://www.w3.org/1999/xlink}href"
MOST_UNFOLDED = 50_000


def lines_of_svg(data: bytes) -> ReadyLines:
    """Raises: InputError; of a damaged file, whatever svgelements says of it."""
    from svgelements import SVG

    try:
        tree = ElementTree.fromstring(data, forbid_dtd=False)
        _refuse_swelling(tree)
        sized = any(mark in (tree.get("width") or "") for mark in ("mm", "cm", "in", "pt", "pc", "Q"))
        drawing = SVG.parse(io.BytesIO(data), reify=True, ppi=PX_PER_INCH)
    except DefusedXmlException as error:
        raise InputError("This SVG has entities in it, which are not taken. Save it as plain SVG.",
                         code="svg_entities") from error
    drawn = ((_path_of(shape), group) for shape, group in _shapes(drawing, "") if not _is_hidden(shape))
    return ReadyLines(tuple(replace(path, group=group) for path, group in drawn if path is not None), sized, _page(drawing))


def _refuse_swelling(tree: Any) -> None:
    """Raises: InputError where `use` unfolds to more than MOST_UNFOLDED elements."""
    own = {element.get("id"): element for element in tree.iter()}
    known: dict[int, int] = {}

    def unfolded(element: Any) -> int:
        """How many elements it is, with its copies and those within it; those that lead back to themselves count once."""
        if id(element) not in known:
            known[id(element)] = 1
            target = own.get((element.get("href") or element.get(XLINK) or "").removeprefix("#"))
            within = [*element, *([target] if target is not None else [])]
            known[id(element)] = 1 + sum(unfolded(one) for one in within)
        return known[id(element)]

    count = unfolded(tree)
    if count > MOST_UNFOLDED:
        raise InputError(f"With its copies of copies this SVG has {count} parts; {MOST_UNFOLDED} are the most. Save it with "
                         "fewer.", code="lines_too_many", count=count, most=MOST_UNFOLDED)


def _page(drawing: Any) -> tuple[float, float] | None:
    """Width and height, mm; None where the file does not say them."""
    sides = [float(drawing.width) * MM_PER_PX, float(drawing.height) * MM_PER_PX]
    return (sides[0], sides[1]) if all(math.isfinite(side) and side > 0 for side in sides) else None


def _shapes(parent: Any, group: str) -> Iterator[tuple[Any, str]]:
    """The shapes within, each with the id of the nearest group that has one."""
    from svgelements import Group, Shape, Use

    for element in parent:
        if isinstance(element, Group | Use):
            yield from _shapes(element, element.id or group)
        elif isinstance(element, Shape):
            yield element, group


def _is_hidden(element: Any) -> bool:
    values = element.values
    return values.get("display") == "none" or values.get("visibility") in ("hidden", "collapse")


def _path_of(element: Any) -> ReadyPath | None:
    from svgelements import Path

    fill, stroke = _colour(element.fill), _colour(element.stroke)
    colour = fill or stroke
    if colour is None:
        return None
    runs: list[list[tuple[list[tuple[float, float]], bool]]] = []
    for segment in abs(Path(element)).approximate_arcs_with_cubics() or abs(Path(element)):
        _add(runs, segment)
    return path_of_runs(runs, colour, fill is not None, element.values.get("fill-rule") == "evenodd")


def path_of_runs(
    runs: list[list[tuple[list[tuple[float, float]], bool]]], colour: str, filled: bool, even_odd: bool, scale: float = MM_PER_PX
) -> ReadyPath | None:
    """Runs of cubics, each with whether it is straight, as a path; None where nothing is left. scale: to mm."""
    segments, straight, first = [], [], [0]
    for run in runs:
        own = [(points, line) for points, line in run if len({*points}) > 1]
        segments += [points for points, _ in own]
        straight += [line for _, line in own]
        if own:
            first.append(len(segments))
    if not segments:
        return None
    return ReadyPath(np.array(segments, float) * scale, np.array(straight, bool), np.array(first, np.int64), colour, filled,
                     even_odd)


def _add(runs: list[list[tuple[list[tuple[float, float]], bool]]], segment: Any) -> None:
    from svgelements import Arc, Close, CubicBezier, Line, Move, QuadraticBezier

    if isinstance(segment, Move):
        runs.append([])
        return
    if not runs:
        runs.append([])
    if isinstance(segment, Arc):
        for part in segment.as_cubic_curves():
            _add(runs, part)
        return
    start, end = segment.start, segment.end
    if start is None or end is None:
        return
    one, other = (float(start.x), float(start.y)), (float(end.x), float(end.y))
    if isinstance(segment, Line | Close):
        runs[-1].append((_straight(one, other), True))
    elif isinstance(segment, QuadraticBezier):
        cx, cy = float(segment.control.x), float(segment.control.y)
        runs[-1].append(([one, (one[0] + 2 / 3 * (cx - one[0]), one[1] + 2 / 3 * (cy - one[1])),
                          (other[0] + 2 / 3 * (cx - other[0]), other[1] + 2 / 3 * (cy - other[1])), other], False))
    elif isinstance(segment, CubicBezier):
        runs[-1].append(([one, (float(segment.control1.x), float(segment.control1.y)),
                          (float(segment.control2.x), float(segment.control2.y)), other], False))


def _straight(one: tuple[float, float], other: tuple[float, float]) -> list[tuple[float, float]]:
    dx, dy = other[0] - one[0], other[1] - one[1]
    return [one, (one[0] + dx / 3, one[1] + dy / 3), (one[0] + 2 * dx / 3, one[1] + 2 * dy / 3), other]


def _colour(paint: Any) -> str | None:
    """ "#rrggbb", or None where nothing is painted."""
    if paint is None or paint.value is None or paint.alpha == 0:
        return None
    return f"#{paint.red:02x}{paint.green:02x}{paint.blue:02x}"
