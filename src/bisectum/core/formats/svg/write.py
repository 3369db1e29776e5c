"""Plain SVG, such as any cutting program opens.

One group a layer in build order, one path a piece, filled by the even-odd rule; sizes in millimetres, 1 user unit =
1 mm. Only svg, g, path, title, desc and metadata; only closed paths of absolute M, L, C and Z. SVG 1.1, W3C 2011. The
same artwork always gives the same text.
"""

from __future__ import annotations

import math
import re
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from bisectum.core.model.artwork import Artwork, Layer, Ring
from bisectum.core.raster.colour import hex_of
from bisectum.core.units import RESOLUTION_MM, short_number

DECIMALS = round(-math.log10(RESOLUTION_MM))


def write_svg(artwork: Artwork, title: str, description: str = "") -> str:
    """The artwork as SVG text, numbers to 0.001 mm."""
    width, height = short_number(artwork.width, DECIMALS), short_number(artwork.height, DECIMALS)
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width}mm" height="{height}mm" '
        f'viewBox="0 0 {width} {height}">',
        f"<title>{escape(_clean(title))}</title>",
    ]
    if description:
        lines.append(f"<desc>{escape(_clean(description))}</desc>")
    names = layer_ids(artwork)
    for layer, name in zip(artwork.layers, names, strict=True):
        lines.append(f'<g id={quoteattr(name)} fill="{hex_of(layer.rgb)}" fill-rule="evenodd">')
        lines.append(f"<title>{escape(_clean(layer.name))}</title>")
        lines += _paths(layer)
        lines.append("</g>")
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


def _clean(text: str) -> str:
    """Without what XML 1.0 forbids."""
    return re.sub(r"[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]", "", text)


def path_data(layer: Layer) -> str:
    """All rings of a layer as one path's data."""
    return "".join(_subpath(ring) for ring in layer.rings)


def _paths(layer: Layer) -> list[str]:
    result = []
    for piece in layer.pieces:
        data = "".join(_subpath(ring) for ring in piece.rings)
        if data:
            result.append(f'<path d="{data}"/>')
    return result


def _subpath(ring: Ring) -> str:
    """One closed subpath; segments that shrink to nothing at this precision are left out."""
    places = np.round(ring.segments * 10**DECIMALS) / 10**DECIMALS
    lasting = (places[:, 0] != places[:, 3]).any(axis=1) | (~ring.straight & (places[:, 1:3] != places[:, :1]).any(axis=(1, 2)))
    places, straight = places[lasting], ring.straight[lasting]
    if not len(places):
        return ""
    text = [[_short(value) for value in row] for row in places.reshape(len(places), 8).tolist()]
    parts = [f"M{_pair(text[0][0], text[0][1])}"]
    for number, (row, line) in enumerate(zip(text, straight, strict=True)):
        if not line:
            parts.append(f"C{_pair(row[2], row[3])} {_pair(row[4], row[5])} {_pair(row[6], row[7])}")
        elif number < len(text) - 1:
            parts.append(f"L{_pair(row[6], row[7])}")
    return "".join(parts) + "Z"


def _short(rounded: float) -> str:
    """What short_number writes, for a number rounded already: the shortest decimal that reads back as it."""
    text = repr(rounded + 0.0)  # no minus zero
    return text[:-2] if text.endswith(".0") else text


def _pair(x: str, y: str) -> str:
    return f"{x},{y}"
