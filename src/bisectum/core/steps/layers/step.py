"""The Layers step: from the planar map to layers of pieces on a page.

Every ring is made of shared lines, so whole and flush layers fit each other exactly. The background is never a piece.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import bounds
from bisectum.core.model.artwork import Artwork, Layer, Piece, Ring
from bisectum.core.model.picture import Measured, frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import rgb_of
from bisectum.core.steps.layers.build import pieces_of_faces
from bisectum.core.steps.layers.lapped import lapped_pieces
from bisectum.core.steps.layers.order import natural_order
from bisectum.core.steps.layers.settings import LayersSettings
from bisectum.core.steps.layers.too_fine import without_too_fine

VERSION = 2


def build_layers(
    planar: PlanarMap, settings: LayersSettings, measured: Measured, width_mm: float | None, progress: Progress = SILENT
) -> Artwork:
    """Layers in build order. width_mm: what the page, as `measured` says, is to be wide exactly; None leaves the size.

    Raises: SettingsError when no face is left to cut; Cancelled.
    """
    if not planar.face_labels.any():
        raise SettingsError("Nothing is left to cut: lower the reach of the background, or keep it.", code="nothing_left")
    page = _page_of(planar, measured, width_mm)
    planar, gone = without_too_fine(planar, page.scale)
    order = layer_order(planar, settings)
    if not order:
        raise SettingsError("At this size everything is too fine to be cut: make it larger.", code="all_too_fine")
    layers = []
    for place, label in enumerate(order):
        progress.raise_if_cancelled()
        progress.report(place / len(order))
        own, above = _faces(planar, [label]), _faces(planar, order[place + 1 :])
        if settings.build == "lapped":
            pieces = lapped_pieces(planar, own, above, settings.lap_mm / page.scale)
        else:
            whole = settings.build == "whole"
            pieces = pieces_of_faces(planar, own | above if whole else own, join_lines=whole)
        layers.append(_layer(planar, label, settings, pieces))
    return _on_page(tuple(layers), planar, page, settings.build, gone)


def _faces(planar: PlanarMap, labels: list[int]) -> NDArray[np.bool_]:
    """The faces of these labels: (F + 1,) bool, the last for what lies beyond the picture."""
    return np.append(np.isin(planar.face_labels, labels), False)


def layer_order(planar: PlanarMap, settings: LayersSettings) -> list[int]:
    """Labels from the lowest layer up: as the person said, the others where they belong by nature."""
    natural = natural_order(planar)
    key_of = {label: planar.palette.colours[label - 1].key for label in natural}
    said = [label for key in settings.order for label in natural if key_of[label] == key]
    if not said:
        return natural
    result = list(said)
    for place, label in enumerate(natural):
        if label not in result:
            # Right above the layer that it follows by nature.
            before = next((other for other in reversed(natural[:place]) if other in result), None)
            result.insert(result.index(before) + 1 if before is not None else 0, label)
    return result


def _layer(planar: PlanarMap, label: int, settings: LayersSettings, pieces: tuple[Piece, ...]) -> Layer:
    colour = planar.palette.colours[label - 1]
    choice = settings.choices.get(colour.key)
    name = choice.name if choice and choice.name else planar.palette.names()[label - 1]
    rgb = rgb_of(choice.colour) if choice and choice.colour else colour.rgb
    return Layer(colour.key, name, rgb, pieces)


@dataclass(frozen=True, slots=True)
class _Page:
    """What the page shows of the picture, mm of the planar map, and the scale that makes it as wide as wanted."""

    left: float
    top: float
    right: float
    bottom: float
    scale: float


def _page_of(planar: PlanarMap, measured: Measured, width_mm: float | None) -> _Page:
    box = (0.0, 0.0, planar.width, planar.height)
    if measured == "artwork":
        cut = np.append(planar.face_labels > 0, False)[planar.sides]
        edges = np.repeat(cut[:, 0] != cut[:, 1], np.diff(planar.first))
        box = bounds(planar.segments[edges])
    return _Page(*box, width_mm / (box[2] - box[0]) if width_mm is not None else 1.0)


def _on_page(layers: tuple[Layer, ...], planar: PlanarMap, page: _Page, build: str, gone: int) -> Artwork:
    """Move and scale so that the page begins at 0, 0 and is as wide as wanted."""
    scale, shift = page.scale, np.array([page.left, page.top])

    def moved(ring: Ring) -> Ring:
        return Ring(frozen(_scaled(ring.segments, shift, scale)), ring.straight)

    placed = tuple(
        Layer(layer.key, layer.name, layer.rgb,
              tuple(Piece(moved(piece.outline), tuple(moved(window) for window in piece.windows)) for piece in layer.pieces))
        for layer in layers
    )
    return Artwork(placed, (page.right - page.left) * scale, (page.bottom - page.top) * scale, -page.left * scale,
                   -page.top * scale,
                   planar.width * scale, planar.height * scale, build, gone)


def _scaled(segments: NDArray[np.float64], shift: NDArray[np.float64], scale: float) -> NDArray[np.float64]:
    return (segments - shift) * scale
