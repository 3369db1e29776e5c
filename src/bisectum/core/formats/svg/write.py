"""Plain SVG, such as any cutting program opens.

One group a layer in build order, one path a piece, filled by the even-odd rule; sizes in millimetres, 1 user unit =
1 mm. Folds, pen lines and open cuts are groups of their own behind their layer, stroked and never filled. Only svg, g, path,
title, desc and metadata; only absolute M, L, C and Z. SVG 1.1, W3C 2011. The same artwork always gives the same text.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from xml.sax.saxutils import escape, quoteattr

from bisectum.core.formats.uses import FOLD_COLOUR
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.stroke import Role, Stroke
from bisectum.core.raster.colour import hex_of
from bisectum.core.units import RESOLUTION_MM, short_number

STROKE_MM = 0.1
STROKES: dict[Role, tuple[str, str]] = {"cut": ("Cut lines", "#1a1a1a"), "score": ("Score", FOLD_COLOUR), "draw": ("Draw", "")}
"""What a group of strokes is called, and its colour; that of the layer where it is empty."""
DECIMALS = round(-math.log10(RESOLUTION_MM))


def write_svg(artwork: Artwork, title: str) -> str:
    """The artwork as SVG text, numbers to 0.001 mm."""
    width, height = short_number(artwork.width, DECIMALS), short_number(artwork.height, DECIMALS)
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width}mm" height="{height}mm" '
        f'viewBox="0 0 {width} {height}">',
        f"<title>{escape(_clean(title))}</title>",
    ]
    names = layer_ids(artwork)
    for layer, name in zip(artwork.layers, names, strict=True):
        if layer.pieces:
            lines.append(f'<g id={quoteattr(name)} fill="{hex_of(layer.rgb)}" fill-rule="evenodd">')
            lines.append(f"<title>{escape(_clean(layer.name))}</title>")
            lines += _paths(layer)
            lines.append("</g>")
        lines += _strokes(layer, name, artwork)
    lines.append("</svg>")
    return "\n".join(lines) + "\n"


def layer_ids(artwork: Artwork) -> list[str]:
    """An XML name for every layer, none twice."""
    result: list[str] = []
    for number, layer in enumerate(artwork.layers, 1):
        stem = re.sub(r"[^a-z0-9]+", "-", layer.name.lower()).strip("-") or "layer"
        name = f"{number}-{stem}"
        result.append(f"layer-{name}")
    return result


def _strokes(layer: Layer, name: str, artwork: Artwork) -> list[str]:
    """A group for each role that strokes of a layer have: stroked thinly, never filled. Cut lines have a colour of their own only
    where folds or pen lines must be told from them."""
    lines = []
    are_mixed = any(stroke.role != "cut" for other in artwork.layers for stroke in other.strokes)
    for role, (word, colour) in STROKES.items():
        own = [stroke for stroke in layer.strokes if stroke.role == role]
        if not own:
            continue
        alone = sum(any(stroke.role == role for stroke in other.strokes) for other in artwork.layers) == 1
        title = word if alone else f"{word}: {layer.name}"
        shown = colour if colour and are_mixed else hex_of(layer.rgb)
        lines.append(f'<g id={quoteattr(f"{role}-{name}")} fill="none" stroke="{shown}" stroke-width="{STROKE_MM}">')
        lines.append(f"<title>{escape(_clean(title))}</title>")
        lines += [f'<path d="{data}"/>' for data in (stroke_data(stroke) for stroke in own) if data]
        lines.append("</g>")
    return lines


def stroke_data(stroke: Stroke) -> str:
    """A stroke as path data."""
    return _data([stroke.path])


def path_data_of(path: Path) -> str:
    """One path as path data."""
    return _data([path])


def _clean(text: str) -> str:
    """Without what XML 1.0 forbids."""
    return re.sub(r"[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]", "", text)


def path_data(layer: Layer) -> str:
    """All rings of a layer as one path's data."""
    return _data(layer.rings)


def _paths(layer: Layer) -> list[str]:
    data = [_data(piece.rings) for piece in layer.pieces]
    return [f'<path d="{own}"/>' for own in data if own]


def _data(rings: Iterable[Path]) -> str:
    pen = SvgPen()
    for ring in rings:
        ring.rounded(DECIMALS).draw(pen)
    return "".join(pen.parts)


class SvgPen:
    """Path data of SVG 1.1 in absolute commands, each with its letter."""

    def __init__(self) -> None:
        self.parts: list[str] = []

    def move_to(self, x: float, y: float) -> None:
        self.parts.append(f"M{_short(x)},{_short(y)}")

    def line_to(self, x: float, y: float) -> None:
        self.parts.append(f"L{_short(x)},{_short(y)}")

    def curve_to(self, x1: float, y1: float, x2: float, y2: float, x: float, y: float) -> None:
        self.parts.append(f"C{_short(x1)},{_short(y1)} {_short(x2)},{_short(y2)} {_short(x)},{_short(y)}")

    def close_path(self) -> None:
        self.parts.append("Z")

    def end_path(self) -> None:
        return None


def _short(rounded: float) -> str:
    """The shortest decimal that reads back as a number rounded already."""
    text = repr(rounded)
    return text[:-2] if text.endswith(".0") else text
