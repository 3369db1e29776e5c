"""Read a plain SVG back: what is in the file, by a reader that shares nothing with the writer."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from defusedxml import ElementTree
from numpy.typing import NDArray

from bisectum.core.errors import InputError

SVG = "{http://www.w3.org/2000/svg}"
ALLOWED = {SVG + tag for tag in ("svg", "g", "path", "title", "desc", "metadata")}
_TOKEN = re.compile(r"([MLCZ])|(-?\d*\.?\d+)")
_T, _WEIGHTS = np.polynomial.legendre.leggauss(3)
_T, _WEIGHTS = (_T + 1) / 2, _WEIGHTS / 2
_VALUES = np.stack([(1 - _T) ** 3, 3 * _T * (1 - _T) ** 2, 3 * _T**2 * (1 - _T), _T**3])
_SLOPES = 3 * np.stack([(1 - _T) ** 2, 2 * _T * (1 - _T), _T**2])
_ARITY = {"M": 2, "L": 2, "C": 6, "Z": 0}


@dataclass(frozen=True, slots=True)
class ReadLayer:
    """areas: mm² of each path, windows taken off; subpaths: how many closed paths each has; nodes: of the layer."""

    title: str
    fill: str
    areas: tuple[float, ...]
    subpaths: tuple[int, ...]
    nodes: int


@dataclass(frozen=True, slots=True)
class ReadStrokes:
    """A group of lines that are stroked. lengths: mm of each path."""

    title: str
    stroke: str
    lengths: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class ReadDrawing:
    """What is in a plain SVG: its page in mm, its layers in order, and its groups of strokes."""

    width_mm: float
    height_mm: float
    layers: tuple[ReadLayer, ...]
    strokes: tuple[ReadStrokes, ...] = ()


def read_svg(text: str) -> ReadDrawing:
    """Raises: InputError for anything that is not plain SVG as Bisectum writes it."""
    try:
        tree = ElementTree.fromstring(text.encode())
    except ElementTree.ParseError as error:
        raise InputError(f"This is no well-formed SVG: {error}.", code="svg_unreadable") from error
    strange = [element.tag for element in tree.iter() if element.tag not in ALLOWED]
    if tree.tag != SVG + "svg" or strange:
        raise InputError(f"This SVG holds more than plain paths: {', '.join(strange) or tree.tag}.", code="svg_not_plain")
    size = [_millimetres(tree.get(name, "")) for name in ("width", "height")]
    if tree.get("viewBox", "").split() != ["0", "0", *(tree.get(name, "")[:-2] for name in ("width", "height"))]:
        raise InputError("The viewBox of this SVG is not its size in millimetres.", code="svg_size")
    groups = tree.findall(SVG + "g")
    stroked = [group for group in groups if group.get("fill") == "none"]
    return ReadDrawing(size[0], size[1], tuple(_layer(group) for group in groups if group not in stroked),
                       tuple(_strokes(group) for group in stroked))


def _strokes(group: ElementTree.Element) -> ReadStrokes:
    title = group.find(SVG + "title")
    found = [sum(_length(run) for run in _runs(path.get("d", ""), True)) for path in group.findall(SVG + "path")]
    return ReadStrokes(title.text or "" if title is not None else "", group.get("stroke", ""), tuple(found))


def _length(run: NDArray[np.float64]) -> float:
    """By the polyline through many points, which is a little short."""
    t = np.linspace(0, 1, 65)
    b = np.stack([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t**2 * (1 - t), t**3])
    points = np.einsum("kt,skd->std", b, run)
    return float(np.hypot(*np.diff(points, axis=1).transpose(2, 0, 1)).sum())


def _millimetres(value: str) -> float:
    if not re.fullmatch(r"\d+(\.\d+)?mm", value):
        raise InputError(f"A size in this SVG is not in millimetres: “{value}”.", code="svg_size")
    return float(value[:-2])


def _layer(group: ElementTree.Element) -> ReadLayer:
    areas, counts, nodes = [], [], 0
    for path in group.findall(SVG + "path"):
        rings = _runs(path.get("d", ""), False)
        areas.append(sum(_area(ring) for ring in rings))
        counts.append(len(rings))
        nodes += sum(len(ring) for ring in rings)
    title = group.find(SVG + "title")
    return ReadLayer(title.text or "" if title is not None else "", group.get("fill", ""), tuple(areas), tuple(counts), nodes)


def _runs(data: str, may_be_open: bool) -> list[NDArray[np.float64]]:
    """Subpaths as (S, 4, 2) segments, closed ones where they may not be open."""
    tokens = _TOKEN.findall(data)
    if re.sub(r"[\s,]", "", _TOKEN.sub("", data)):
        raise InputError("A path holds something else than M, L, C, Z and numbers.", code="svg_not_plain")
    rings: list[NDArray[np.float64]] = []
    current: list[list[float]] = []
    place, position = [0.0, 0.0], 0
    begin = place
    while position < len(tokens):
        command = tokens[position][0]
        if not command:
            raise InputError("A path repeats a command without its letter.", code="svg_not_plain")
        values = [float(number) for _, number in tokens[position + 1 : position + 1 + _ARITY[command]]]
        position += 1 + _ARITY[command]
        if command == "M":
            if current:
                raise InputError("A path is not closed.", code="svg_open_path")
            place = begin = values
        elif command == "L":
            current.append(_line(place, values))
            place = values
        elif command == "C":
            current.append([*place, *values])
            place = values[4:]
        else:
            if place != begin:
                current.append(_line(place, begin))
            rings.append(np.array(current).reshape(-1, 4, 2))
            current, place = [], begin
    if current and may_be_open:
        rings.append(np.array(current).reshape(-1, 4, 2))
    elif current:
        raise InputError("A path is not closed.", code="svg_open_path")
    return rings


def _line(start: list[float], end: list[float]) -> list[float]:
    return [*start, *start, *end, *end]


def _area(ring: NDArray[np.float64]) -> float:
    """∮ x dy by Gauss-Legendre quadrature, exact for cubics: (degree 3) · (degree 2) = 5 needs three points."""
    x = ring[:, :, 0] @ _VALUES
    slope = np.diff(ring[:, :, 1], axis=1) @ _SLOPES
    return float((x * slope).sum(axis=0) @ _WEIGHTS)
