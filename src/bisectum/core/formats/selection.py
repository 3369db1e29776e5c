"""What of an artwork goes into a file: which layers, and whether as areas or as lines."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from bisectum.core.errors import InputError
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.silhouette import silhouette
from bisectum.core.model.stroke import Stroke

Drawn = Literal["filled", "hairline", "outline", "printed", "pictured"]
"""Areas; the lines around them; only the outer line around all; areas to be printed, and that line to be cut; the same with the
pictures themselves, where a file can hold them."""
OUTLINE = "Cut line"
LINE_MM = 0.1


@dataclass(frozen=True, slots=True)
class Selection:
    """layers: numbers of those that are in it, all where none is named."""

    drawn: Drawn = "filled"
    layers: tuple[int, ...] = ()


def selected(artwork: Artwork, selection: Selection) -> Artwork:
    """An artwork of what was asked for. Raises: InputError where a layer is not there, or nothing is left."""
    if any(not 0 <= number < len(artwork.layers) for number in selection.layers):
        raise InputError(f"There is no layer {max(selection.layers) + 1}; there are {len(artwork.layers)}.", code="layer_missing")
    own = [layer for number, layer in enumerate(artwork.layers) if not selection.layers or number in selection.layers]
    chosen = replace(artwork, layers=tuple(own))
    if selection.drawn == "hairline":
        return replace(chosen, layers=tuple(_as_lines(layer) for layer in own))
    if selection.drawn in ("outline", "printed", "pictured"):
        around = tuple(_line(ring) for ring in silhouette(chosen))
        if not around:
            raise InputError("There is nothing with an area here that a line could go around.", code="no_outline")
        line = Layer("#1a1a1a", OUTLINE, (26, 26, 26), (), strokes=around)
        return replace(chosen, layers=(*own, line) if selection.drawn == "printed" else (line,))
    return chosen


def _as_lines(layer: Layer) -> Layer:
    return replace(layer, pieces=(), strokes=(*(_line(ring) for ring in layer.rings), *layer.strokes))


def _line(ring: Path) -> Stroke:
    x, y = ring.segments[0, 0].tolist()
    return Stroke(ring.segments, ring.straight, "cut", "cut", LINE_MM, (x, y))
