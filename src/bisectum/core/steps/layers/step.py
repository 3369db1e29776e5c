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
from bisectum.core.geom.bezier import bounds
from bisectum.core.model.arrangement import Arrangement
from bisectum.core.model.artwork import Artwork, Hold, Layer, Piece
from bisectum.core.model.finding import Finding
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.stock import PRESSED
from bisectum.core.model.stroke import Strokes
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.colour_names import distinct_names
from bisectum.core.raster.difference import cielab
from bisectum.core.steps.layers.backing import backing_pieces
from bisectum.core.steps.layers.bind import Bound, bind_layers
from bisectum.core.steps.layers.meet import MOST_LAPPED, FilmPieces, Ways, pieces_of_layers, seen_of
from bisectum.core.steps.layers.order import as_laid, lies_below, light_to_dark, natural_order, with_wishes
from bisectum.core.steps.layers.perforate import perforated
from bisectum.core.steps.layers.reversed import reversed_pieces
from bisectum.core.steps.layers.settings import Build, CutFrom, LayersSettings
from bisectum.core.steps.layers.too_fine import without_too_fine

VERSION = 10
BACKING, REVERSE = "backing", "reverse"  # what stands in the place of an id for layers that are no colour
NEAR_MM = 0.01  # how exactly outlines at a distance are drawn, and to spare
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
    on_faces = _without_bare(layer_of[stack], bound, settings.bare)
    faces = hashlib.sha256(on_faces.tobytes()).hexdigest()
    lasting = np.zeros(len(bound), bool)
    lasting[np.unique(seen_of(on_faces)[seen_of(on_faces) >= 0])] = True
    lasting[[layer_of[stroke.label] for stroke in arrangement.strokes]] = True
    lasting[_bare(bound, settings.bare)] = False
    filled = np.array([0.0, *(member.filled for member in arrangement.members)])
    natural = natural_order(filled, layer_of, lasting)
    natural = as_laid(light_to_dark(natural, _lightness(arrangement, bound)), below, layer_of)
    order = with_wishes(natural, _wished(bound, settings.order))
    if not order:
        raise SettingsError("At this size everything is too fine to be cut: make it larger.", code="all_too_fine")
    ways = _ways(settings, bound)
    cut = seen_of(on_faces) >= 0
    pairs = _pairs(ways, order)
    laps = "w" in pairs or "l" in pairs
    width, (pieces, extra) = _remembered(
        memory, f"pieces/{_by_size(settings, arrangement.width, laps)}/{sorted(ways.knocked)}/{pairs}/{faces}/{order}",
        lambda: (arrangement.width, _pieces(planar, on_faces, cut, order, ways, settings, progress)))
    if width != arrangement.width:
        factor = arrangement.width / width
        pieces = [replace(own, pieces=tuple(piece.scaled(factor) for piece in own.pieces)) for own in pieces]
        extra = tuple(piece.scaled(factor) for piece in extra)
    names = _names(arrangement, bound)
    layers = [_layer(arrangement, bound[number], names[number], own.pieces, drawn)
              for number, own, drawn in zip(order, pieces, _strokes(arrangement, layer_of, order, settings), strict=True)]
    layers = [replace(layer, runs_under=tuple(layers[order.index(upper)].name for upper in own.under))
              for layer, own in zip(layers, pieces, strict=True)]
    layers = _with_extra(layers, extra, settings)
    room = _room(extra, arrangement, settings)
    findings += arrangement.findings
    if gone:
        findings.append(Finding("too_fine", details={"count": gone}))
    build = _build_of(settings)
    if "w" in pairs and len(planar.segments) > MOST_LAPPED:
        findings.append(Finding("laps_left_out", details={"count": len(planar.segments)}))
    artwork = Artwork(tuple(layers), arrangement.width, arrangement.height, build, tuple(findings), gone, settings.cloth)
    return artwork.with_room(room)


def _strokes(
    arrangement: Arrangement, layer_of: NDArray[np.intp], order: list[int], settings: LayersSettings
) -> list[Strokes]:
    """The strokes of each layer, folds cut in dashes where that is asked for."""
    lines = [stroke for stroke in arrangement.strokes if stroke.path.length > SHORTEST_MM]
    strokes = [tuple(stroke for stroke in lines if layer_of[stroke.label] == number) for number in order]
    if settings.folds == "perforate":
        strokes = [perforated(own, settings.perforation_mm, settings.perforation_gap_mm) for own in strokes]
    return strokes


def _with_extra(layers: list[Layer], extra: tuple[Piece, ...], settings: LayersSettings) -> list[Layer]:
    """The layers with a backing below them; the reverse in their place."""
    if settings.reverse.within != "none":
        return [_made_layer(REVERSE, "Reverse", extra, settings.reverse.colour, settings.reverse.stock)]
    if settings.backing.kind != "none":
        own = settings.backing
        return [_made_layer(BACKING, own.name or "Backing", extra, own.colour, own.stock), *layers]
    return layers


def _made_layer(name: str, title: str, pieces: tuple[Piece, ...], colour: str, stock: CutFrom | None) -> Layer:
    return Layer(colour, title, rgb_of(stock.colour if stock else colour), pieces, name, stock=stock.stock() if stock else None)


def _room(extra: tuple[Piece, ...], arrangement: Arrangement, settings: LayersSettings) -> tuple[float, float, float, float]:
    """What the page needs beyond the make: left, top, right and bottom, mm."""
    if not extra:
        return 0.0, 0.0, 0.0, 0.0
    margin = settings.reverse.margin_mm if settings.reverse.within != "none" else settings.backing.margin_mm
    left, top, right, bottom = bounds(np.concatenate([piece.outline.segments for piece in extra]))
    wanted = (-left, -top, right - arrangement.width, bottom - arrangement.height)
    beyond = [margin if abs(side - margin) < NEAR_MM else max(0.0, side) for side in wanted]
    return cast(tuple[float, float, float, float], tuple(0.0 if side < NEAR_MM else side for side in beyond))


def _ways(settings: LayersSettings, bound: list[Bound]) -> Ways:
    """How layers meet, for all and for pairs, and which are left out where film lies on them."""
    ids = [own.record.id if own.record is not None else "" for own in bound]
    pairs = {(meeting.lower, meeting.upper): meeting.build for meeting in settings.meetings}
    stocks = [own.record.stock if own.record is not None else None for own in bound]
    pressed = frozenset(number for number, stock in enumerate(stocks) if (stock.kind if stock else settings.material) in PRESSED)

    def build(lower: int, upper: int) -> Build:
        by_itself: Build = "flush" if lower in pressed else "whole"
        return pairs.get((ids[lower], ids[upper]), by_itself if settings.build == "auto" else settings.build)

    return Ways(build, settings.lap_mm, pressed if settings.knock_out else frozenset(), settings.knock_mm)


def _pairs(ways: Ways, order: list[int]) -> str:
    return "".join(ways.build(lower, upper)[0] for place, lower in enumerate(order) for upper in order[place + 1 :])


def _build_of(settings: LayersSettings) -> Build:
    """How layers meet that nothing else was said of."""
    if settings.build == "auto":
        return "flush" if settings.material in PRESSED else "whole"
    return settings.build


def _by_size(settings: LayersSettings, width: float, laps: bool) -> str:
    """What of the settings makes pieces that are not of one shape at every size."""
    parts = [settings.lap_mm if laps else "", settings.knock_mm if settings.knock_out else "",
             settings.backing.digest if settings.backing.kind != "none" else "",
             settings.reverse.digest if settings.reverse.within != "none" else ""]
    return "/".join(map(str, parts)) + (f"/{width!r}" if any(parts) else "")


def _pieces(
    planar: PlanarMap, on_faces: NDArray[np.intp], cut: NDArray[np.bool_], order: list[int], ways: Ways,
    settings: LayersSettings, progress: Progress,
) -> tuple[list[FilmPieces], tuple[Piece, ...]]:
    """The pieces of each layer, and those of a backing or of the reverse. Raises: SettingsError, Cancelled."""
    if settings.reverse.within != "none":
        return [FilmPieces(()) for _ in order], reversed_pieces(planar, cut, settings.reverse)
    pieces = pieces_of_layers(planar, on_faces, order, ways, progress)
    if settings.backing.kind == "none":
        return pieces, ()
    kind = settings.backing.stock.kind if settings.backing.stock else settings.material
    gap = settings.knock_mm if settings.knock_out and kind in PRESSED else None
    return pieces, backing_pieces(planar, cut, settings.backing, gap)


def _bare(bound: list[Bound], bare: tuple[str, ...]) -> list[int]:
    """The numbers of the layers that the cloth itself shows."""
    return [number for number, own in enumerate(bound) if own.record is not None and own.record.id in bare]


def _without_bare(layers_on: NDArray[np.intp], bound: list[Bound], bare: tuple[str, ...]) -> NDArray[np.intp]:
    """What lies on each face where some layers are left to the cloth: where they are seen nothing is, below neither."""
    numbers = _bare(bound, bare)
    if not numbers:
        return layers_on
    left = np.where(np.isin(layers_on, numbers), -1, layers_on)
    left[np.isin(seen_of(layers_on), numbers)] = -1
    return left


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


def _wished(bound: list[Bound], order: tuple[str, ...]) -> list[int]:
    """The numbers of the layers whose place the person has said, from the lowest up."""
    number_of = {own.record.id: number for number, own in enumerate(bound) if own.record is not None}
    return [number_of[name] for name in order if name in number_of]


def _lightness(arrangement: Arrangement, bound: list[Bound]) -> list[float | None]:
    """L* of the layers that are tones of photographs only."""
    members = [[arrangement.members[label - 1] for label in own.labels] for own in bound]
    return [float(cielab(np.array(own[0].colour.rgb, np.uint8))[0]) if all(member.colour.tonal for member in own) else None
            for own in members]


def _names(arrangement: Arrangement, bound: list[Bound]) -> tuple[str, ...]:
    """A plain name for each layer, none twice."""
    colours = [arrangement.members[own.labels[0] - 1].colour for own in bound]
    return distinct_names([(colour.name, colour.rgb) for colour in colours])


def _layer(arrangement: Arrangement, own: Bound, plain_name: str, pieces: tuple[Piece, ...], strokes: Strokes) -> Layer:
    members = [arrangement.members[label - 1] for label in own.labels]
    colour, record = members[0].colour, own.record
    holds = tuple(Hold(member.item, member.colour.key, *member.at) for member in members)
    layer = Layer(colour.key, plain_name, colour.rgb, pieces, record.id if record else "", holds, strokes)
    if record is None:
        return layer
    rgb = rgb_of(record.colour) if record.colour else rgb_of(record.stock.colour) if record.stock else colour.rgb
    return replace(layer, name=record.name or plain_name, rgb=rgb, stock=record.stock.stock() if record.stock else None)
