"""What is to be looked at of all layers together, and of what they are loaded as."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.finding import Finding
from bisectum.core.model.shapes_of import shape_of
from bisectum.core.model.stock import PRESSED, StockKind
from bisectum.core.model.work import Work
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.steps.check.flaw import Flaw

ALIKE = 5.0  # CIEDE2000: two films that one takes for the same (common practice, no source)
FILM_MM2, CHORD_MM = 1.0, 0.02  # film on film below this is no more than a lap at a corner
KindOf = Callable[[Layer], StockKind]


def flaws_of_layers(artwork: Artwork, kind_of: KindOf) -> Iterator[Flaw]:
    """Layers that look the same, and film on film that is pressed."""
    yield from _alike(artwork.layers)
    pressed = [layer for layer in artwork.layers if kind_of(layer) in PRESSED]
    if len(pressed) > 1:
        yield from _film_on_film(pressed)


def flaw_of_work(work: Work, most_min: float) -> Iterator[Flaw]:
    """More than somebody cuts and weeds in an evening."""
    if work.minutes > most_min:
        details = {"pieces": work.pieces, "minutes": round(work.minutes), "weed": round(work.weed_s / 60)}
        yield Flaw(Finding("much_work", "warning", value=round(work.minutes), limit=most_min, details=details))


def _alike(layers: Sequence[Layer]) -> Iterator[Flaw]:
    own = [number for number, layer in enumerate(layers) if layer.holds]
    lab = cielab(np.array([layers[number].rgb for number in own], np.uint8).reshape(-1, 3))
    for place, one in enumerate(own):
        for further, other in enumerate(own[place + 1 :], place + 1):
            away = float(ciede2000(lab[place], lab[further : further + 1])[0])
            if away < ALIKE and layers[one].stock == layers[other].stock:
                details = {"layer": layers[one].name, "other": layers[other].name, "number": other}
                yield Flaw(Finding("alike_layers", "note", value=round(away, 1), limit=ALIKE, details=details), one)


def _film_on_film(layers: Sequence[Layer]) -> Iterator[Flaw]:
    """One finding for all: how much film lies on film, and where most of it."""
    shapes = [shape_of(layer.pieces, (), CHORD_MM) for layer in layers if layer.pieces]
    seen: BaseGeometry = shapely.Polygon()
    doubled: list[BaseGeometry] = []
    for shape in shapes:
        doubled.append(shapely.intersection(seen, shape, grid_size=1e-4))
        seen = shapely.union(seen, shape, grid_size=1e-4)
    area = sum(shape.area for shape in doubled)
    if area > FILM_MM2:
        largest = max((part for shape in doubled for part in shapely.get_parts(shape)), key=lambda part: part.area)
        at = largest.representative_point()
        yield Flaw(Finding("film_on_film", "warning", at=(at.x, at.y), value=round(area, 1), limit=FILM_MM2))
