"""The Layers step: from the make's planar map to layers of pieces on its page.

Every ring is made of shared lines, so whole and flush layers fit each other exactly. The background is never a piece.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, MutableMapping
from dataclasses import replace
from typing import Any, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.model.arrangement import Arrangement
from bisectum.core.model.artwork import Artwork, Hold, Layer, Piece
from bisectum.core.model.finding import Finding
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.difference import cielab
from bisectum.core.steps.layers.bind import Bound, bind_layers
from bisectum.core.steps.layers.build import pieces_of_faces
from bisectum.core.steps.layers.lapped import lapped_pieces
from bisectum.core.steps.layers.order import light_to_dark, natural_order, with_wishes
from bisectum.core.steps.layers.settings import LayersSettings
from bisectum.core.steps.layers.too_fine import without_too_fine

VERSION = 4
Memory = MutableMapping[str, Any]
T = TypeVar("T")


def build_layers(
    arrangement: Arrangement, settings: LayersSettings, progress: Progress = SILENT, memory: Memory | None = None
) -> Artwork:
    """Layers in build order.

    memory: keeps pieces between calls for makes of one shape, that is, whose lines differ in size only. So neither names and
    colours nor the finished width make them anew. Raises: SettingsError when no face is left to cut; Cancelled.
    """
    if not arrangement.planar.face_labels.any():
        raise SettingsError("Nothing is left to cut: lower the reach of the background, or keep it.", code="nothing_left")
    planar, gone = without_too_fine(arrangement.planar)
    bound, findings = bind_layers(arrangement, settings.records)
    layer_of = np.full(len(arrangement.members) + 1, -1, np.intp)
    for number, own in enumerate(bound):
        layer_of[list(own.labels)] = number
    faces = hashlib.sha256(layer_of[planar.face_labels].tobytes()).hexdigest()
    natural = _remembered(memory, f"order/{faces}", lambda: natural_order(planar, layer_of))
    order = with_wishes(light_to_dark(natural, _lightness(arrangement, bound)), _wished(bound, settings.order))
    if not order:
        raise SettingsError("At this size everything is too fine to be cut: make it larger.", code="all_too_fine")
    lap = f"{settings.lap_mm}/{arrangement.width!r}" if settings.build == "lapped" else ""
    width, pieces = _remembered(memory, f"pieces/{settings.build}/{lap}/{faces}/{order}",
                                lambda: (arrangement.width, _pieces(arrangement, planar, layer_of, order, settings, progress)))
    if width != arrangement.width:
        pieces = [tuple(piece.scaled(arrangement.width / width) for piece in own) for own in pieces]
    names = _names(arrangement, bound)
    layers = tuple(_layer(arrangement, bound[number], names[number], own) for number, own in zip(order, pieces, strict=True))
    if gone:
        findings.append(Finding("too_fine", details={"count": gone}))
    return Artwork(layers, arrangement.width, arrangement.height, settings.build, tuple(findings), gone)


def _remembered(memory: Memory | None, what: str, work: Callable[[], T]) -> T:
    if memory is None:
        return work()
    if what not in memory:
        memory[what] = work()
    return cast(T, memory[what])


def _pieces(
    arrangement: Arrangement, planar: PlanarMap, layer_of: NDArray[np.intp], order: list[int], settings: LayersSettings,
    progress: Progress,
) -> list[tuple[Piece, ...]]:
    """The pieces of each layer, in the order given. A layer runs under others of the items it is in, and of no others.

    Raises: Cancelled.
    """
    layer_of_face = layer_of[planar.face_labels]
    items = {item: number for number, item in enumerate(dict.fromkeys(member.item for member in arrangement.members))}
    item_of_face = np.array([-1, *(items[member.item] for member in arrangement.members)])[planar.face_labels]
    pieces = []
    for place, layer in enumerate(order):
        progress.raise_if_cancelled()
        progress.report(place / len(order))
        own, above = _faces(layer_of_face, [layer]), _faces(layer_of_face, order[place + 1 :])
        above &= _faces(item_of_face, np.unique(item_of_face[own[:-1]]).tolist())
        if settings.build == "lapped":
            pieces.append(lapped_pieces(planar, own, above, settings.lap_mm, progress))
        else:
            whole = settings.build == "whole"
            pieces.append(pieces_of_faces(planar, own | above if whole else own, whole, progress))
    return pieces


def _faces(layer_of_face: NDArray[np.intp], layers: list[int]) -> NDArray[np.bool_]:
    """The faces of these layers: (F + 1,) bool, the last for what lies beyond the picture."""
    return np.append(np.isin(layer_of_face, layers), False)


def _wished(bound: list[Bound], order: tuple[str, ...]) -> list[int]:
    """The numbers of the layers whose place the person has said, from the lowest up."""
    number_of = {own.record.id: number for number, own in enumerate(bound) if own.record is not None}
    return [number_of[name] for name in order if name in number_of]


def _lightness(arrangement: Arrangement, bound: list[Bound]) -> list[float | None]:
    """L* of the layers that are tones of photographs only."""
    members = [[arrangement.members[label - 1] for label in own.labels] for own in bound]
    return [float(cielab(np.array(own[0].colour.rgb, np.uint8))[0]) if all(member.colour.tonal for member in own) else None
            for own in members]


def _names(arrangement: Arrangement, bound: list[Bound]) -> list[str]:
    """A plain name for each layer, none twice."""
    result: list[str] = []
    for own in bound:
        plain = arrangement.members[own.labels[0] - 1].colour.name
        name, number = plain, 2
        while name in result:
            name, number = f"{plain} {number}", number + 1
        result.append(name)
    return result


def _layer(arrangement: Arrangement, own: Bound, plain_name: str, pieces: tuple[Piece, ...]) -> Layer:
    members = [arrangement.members[label - 1] for label in own.labels]
    colour, record = members[0].colour, own.record
    holds = tuple(Hold(member.item, member.colour.key, *member.at) for member in members)
    layer = Layer(colour.key, plain_name, colour.rgb, pieces, record.id if record else "", holds)
    if record is None:
        return layer
    return replace(layer, name=record.name or plain_name, rgb=rgb_of(record.colour) if record.colour else colour.rgb)
