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
from bisectum.core.steps.layers.order import as_laid, lies_below, light_to_dark, natural_order, with_wishes
from bisectum.core.steps.layers.perforate import perforated
from bisectum.core.steps.layers.settings import LayersSettings
from bisectum.core.steps.layers.too_fine import without_too_fine

VERSION = 6
SHORTEST_MM = 0.05  # of strokes: shorter ones no tool can make, and the numbers of a file hardly hold
Memory = MutableMapping[str, Any]
T = TypeVar("T")


def build_layers(
    arrangement: Arrangement, settings: LayersSettings, progress: Progress = SILENT, memory: Memory | None = None
) -> Artwork:
    """Layers in build order.

    memory: keeps pieces between calls for makes of one shape, that is, whose lines differ in size only. So neither names and
    colours nor the finished width make them anew. Raises: SettingsError when no face is left to cut; Cancelled.
    """
    if not arrangement.planar.face_labels.any() and not arrangement.strokes:
        raise SettingsError("Nothing is left to cut: lower the reach of the background, or keep it.", code="nothing_left")
    planar, stack, gone = _without_too_fine(arrangement)
    below = lies_below(stack, len(arrangement.members))
    bound, findings = bind_layers(arrangement, settings.records, below)
    layer_of = np.full(len(arrangement.members) + 1, -1, np.intp)
    for number, own in enumerate(bound):
        layer_of[list(own.labels)] = number
    faces = hashlib.sha256(layer_of[stack].tobytes()).hexdigest()
    lasting = np.zeros(len(bound), bool)
    lasting[np.unique(layer_of[planar.face_labels[planar.face_labels > 0]])] = True
    lasting[[layer_of[stroke.label] for stroke in arrangement.strokes]] = True
    filled = np.array([0.0, *(member.filled for member in arrangement.members)])
    natural = natural_order(filled, layer_of, lasting)
    natural = as_laid(light_to_dark(natural, _lightness(arrangement, bound)), below, layer_of)
    order = with_wishes(natural, _wished(bound, settings.order))
    if not order:
        raise SettingsError("At this size everything is too fine to be cut: make it larger.", code="all_too_fine")
    lap = f"{settings.lap_mm}/{arrangement.width!r}" if settings.build == "lapped" else ""
    width, pieces = _remembered(memory, f"pieces/{settings.build}/{lap}/{faces}/{order}",
                                lambda: (arrangement.width, _pieces(planar, layer_of[stack], order, settings, progress)))
    if width != arrangement.width:
        pieces = [tuple(piece.scaled(arrangement.width / width) for piece in own) for own in pieces]
    names = _names(arrangement, bound)
    lines = [stroke for stroke in arrangement.strokes if stroke.path.length > SHORTEST_MM]
    strokes = [tuple(stroke for stroke in lines if layer_of[stroke.label] == number) for number in order]
    if settings.folds == "perforate":
        strokes = [perforated(own, settings.perforation_mm, settings.perforation_gap_mm) for own in strokes]
    layers = tuple(replace(_layer(arrangement, bound[number], names[number], own), strokes=drawn)
                   for number, own, drawn in zip(order, pieces, strokes, strict=True))
    findings += arrangement.findings
    if gone:
        findings.append(Finding("too_fine", details={"count": gone}))
    return Artwork(layers, arrangement.width, arrangement.height, settings.build, tuple(findings), gone)


def _remembered(memory: Memory | None, what: str, work: Callable[[], T]) -> T:
    if memory is None:
        return work()
    if what not in memory:
        memory[what] = work()
    return cast(T, memory[what])


def _without_too_fine(arrangement: Arrangement) -> tuple[PlanarMap, NDArray[np.int64], int]:
    """The make without areas that a file could not hold: its map, what lies on each face, and how many went."""
    if not arrangement.planar.chain_count:
        return arrangement.planar, arrangement.stack, 0
    bare = np.zeros((1, arrangement.stack.shape[1]), np.int64)
    kinds, which = np.unique(np.concatenate([bare, arrangement.stack]), axis=0, return_inverse=True)
    told = replace(arrangement.planar, face_labels=which.reshape(-1)[1:].astype(np.uint16))
    planar, gone = without_too_fine(told)
    stack = kinds[planar.face_labels]
    top = np.zeros(len(stack), np.uint16)
    for column in stack.T:
        top = np.where(column > 0, column, top).astype(np.uint16)
    return replace(planar, face_labels=top), stack, gone


def _pieces(
    planar: PlanarMap, layers_on: NDArray[np.intp], order: list[int], settings: LayersSettings, progress: Progress
) -> list[tuple[Piece, ...]]:
    """The pieces of each layer, in the order given. layers_on : (F, I), the layers that lie on a face, -1 for none.

    A layer runs under others of the items it is in, and under items that lie on it; under nothing else. Raises: Cancelled.
    """
    seen = np.full(len(layers_on), -1, np.intp)
    for column in layers_on.T:
        seen = np.where(column >= 0, column, seen)
    pieces = []
    for place, layer in enumerate(order):
        progress.raise_if_cancelled()
        progress.report(place / len(order))
        own = seen == layer
        under = np.zeros(len(own), bool)  # where it may run, out of sight
        for column in layers_on.T[(layers_on == layer).any(axis=0)]:
            under |= (column == layer) | np.isin(column, order[place + 1 :])
        if settings.build == "lapped":
            pieces.append(lapped_pieces(planar, _with_page(own), _with_page(under & ~own), settings.lap_mm, progress))
        else:
            whole = settings.build == "whole"
            pieces.append(pieces_of_faces(planar, _with_page(own | under if whole else own), whole, progress))
    return pieces


def _with_page(faces: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Faces, and last what lies beyond them, which is none of these."""
    return np.append(faces, False)


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
