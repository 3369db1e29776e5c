"""The Sheets step: from layers to what is loaded into the machine."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import bounds
from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.finding import Finding
from bisectum.core.model.shapes_of import moved, shape_of
from bisectum.core.model.sheet import Area, Laid, Part, Sheet, SheetPlan
from bisectum.core.model.stock import PRESSED, StockKind
from bisectum.core.progress import SILENT, Progress
from bisectum.core.progress import Part as Stretch
from bisectum.core.steps.sheets.ganged import Gang, clashes, close_layout, hand_places, ready, task_of, too_large
from bisectum.core.steps.sheets.in_place import Block, blocks, most_on_one
from bisectum.core.steps.sheets.marks import Box, cross, frame_around, reach_of, register_marks, weeding_cuts
from bisectum.core.steps.sheets.nest import Layouts, Nester, nested
from bisectum.core.steps.sheets.parts import COARSE_MM, ItemOf, copies_of, groups_of_artwork
from bisectum.core.steps.sheets.settings import SheetsSettings
from bisectum.core.steps.sheets.split import Tile, is_larger, split
from bisectum.core.steps.sheets.usage import used_by

MOST_PARTS = 20_000


@dataclass(frozen=True, slots=True, eq=False)
class Desk:
    """What lies ready for laying out. material: of layers without a stock of their own; nester, layouts: for close layouts, and
    those that were found; item_of: which items places on the page are of."""

    settings: SheetsSettings
    material: StockKind
    nester: Nester
    layouts: Layouts
    item_of: ItemOf | None = None

    def kind(self, layer: Layer) -> StockKind:
        return layer.stock.kind if layer.stock else self.material

    def is_mirrored(self, layer: Layer) -> bool:
        return self.settings.mirror == "all" or (self.settings.mirror == "by_material" and self.kind(layer) in PRESSED)

    def area(self, layer: Layer | None = None) -> Area:
        """The usable area, without the margin, and no larger than the stock of a layer.

        Raises: SettingsError where nothing of it is left.
        """
        carrier, margin = self.settings.carrier, self.settings.margin_mm
        left = (carrier.width_mm - carrier.usable_width_mm) / 2 + margin
        top = (carrier.height_mm - carrier.usable_height_mm) / 2 + margin
        width, height = carrier.usable_width_mm - 2 * margin, carrier.usable_height_mm - 2 * margin
        if layer is not None and layer.stock is not None:
            width, height = min(width, layer.stock.width_mm - 2 * margin), min(height, layer.stock.height_mm - 2 * margin)
        if width <= 0 or height <= 0:
            raise SettingsError(f"Nothing of “{carrier.name}” can be cut on: take a smaller margin, or another mat.",
                                code="no_usable_area", carrier=carrier.name)
        if self.settings.spacing_mm >= max(width, height):
            raise SettingsError(f"The room between pieces is larger than “{carrier.name}” itself: make it smaller.",
                                code="spacing_too_large", carrier=carrier.name)
        return Area(left, top, width, height)


def lay_out(artwork: Artwork, desk: Desk, progress: Progress = SILENT) -> SheetPlan:
    """Sheets of all layers. What no carrier can take is told, and lies where it is seen by how much.

    Raises: SettingsError where nothing can be laid out at all; Cancelled.
    """
    area = desk.area()
    larger = is_larger(artwork, area, reach_of(desk.settings))
    findings: list[Finding] = []
    if larger and desk.settings.layout == "in_place":
        findings.append(Finding("larger_than_mat", "fault" if desk.settings.split == "none" else "note",
                                details={"carrier": desk.settings.carrier.name, "factor": _shrink(artwork, area, desk.settings)}))
    if larger and desk.settings.layout == "in_place" and desk.settings.split != "none":
        tiles = split(artwork, desk.settings, area, reach_of(desk.settings, seams=True), Stretch(progress, 0.0, 0.6))
        whole = _whole(artwork, tiles)
        parts, sheets = _tiles_in_place(whole, tiles, desk, Stretch(progress, 0.6, 1.0))
        left_over: list[int] = []
    elif desk.settings.layout == "in_place":
        whole = artwork
        parts, sheets = _all_in_place(artwork, desk, progress)
        left_over = []
    else:
        whole = artwork
        parts, sheets, left_over = _all_ganged(artwork, desk, progress)
    for number in left_over:
        layer = artwork.layers[parts[number].layer].name
        findings.append(Finding("piece_too_large", "fault", details={"layer": layer, "carrier": desk.settings.carrier.name}))
    findings = list({(one.code, str(one.details)): one for one in findings}.values())
    return SheetPlan(replace(whole, findings=tuple(findings)), tuple(parts), tuple(sheets),
                     used_by(sheets, parts, desk.settings.carrier.kind == "roll"), tuple(left_over))


def _shrink(artwork: Artwork, area: Area, settings: SheetsSettings) -> float:
    """By what factor a make would have to be smaller to lie on the usable area."""
    reach = reach_of(settings)
    width, height = (artwork.height, artwork.width) if settings.turned else (artwork.width, artwork.height)
    return float(max(0.0, min((area.width - 2 * reach) / width, (area.height - 2 * reach) / height)))


# In place

def _all_in_place(artwork: Artwork, desk: Desk, progress: Progress) -> tuple[list[Part], list[Sheet]]:
    settings, area = desk.settings, desk.area()
    reach, size = reach_of(settings), (artwork.width, artwork.height)
    copies = most_on_one(size, reach, area, settings) if settings.fill else settings.copies
    groups = groups_of_artwork(artwork, settings, None)
    parts: list[Part] = []
    sheets: list[Sheet] = []
    copy = 0
    for loaded in blocks(size, reach, area, settings, copies):
        for group in groups:
            progress.raise_if_cancelled()
            own = [replace(group, copy=copy + k) for k in range(len(loaded))]
            laid = tuple(block.laid(len(parts) + k) for k, block in enumerate(loaded))
            parts += own
            sheets.append(_in_place(artwork.layers[group.layer], group.layer, laid, loaded, desk, parts))
        copy += len(loaded)
    _refuse_too_many(parts)
    return parts, sheets


def _in_place(
    layer: Layer, number: int, laid: tuple[Laid, ...], loaded: Sequence[Block], desk: Desk, parts: Sequence[Part]
) -> Sheet:
    """A sheet of one layer. It is the make's page that has to fit, not what of it is on this layer."""
    settings = desk.settings
    marks = [path for block in loaded for path in register_marks(settings, block.box)]
    frames = [path for block in loaded for path in frame_around(settings, block.box)]
    sheet = _sheet(layer, (number,), laid, desk)
    reach = reach_of(settings)
    off = tuple(k for k, block in enumerate(loaded) if not sheet.usable.holds(_wider(block.box, reach)))
    return _finished(replace(sheet, marks=tuple(marks), waste=tuple(frames), clashes=off), parts, desk)


def _wider(box: Box, by: float) -> Box:
    return box[0] - by, box[1] - by, box[2] + by, box[3] + by


def _whole(artwork: Artwork, tiles: Sequence[Tile]) -> Artwork:
    """The artwork that sheets of a split make are cut from: each part's layers are layers of their own."""
    layers = tuple(layer for tile in tiles for layer in tile.artwork.layers)
    return replace(artwork, layers=layers)


def _tiles_in_place(whole: Artwork, tiles: Sequence[Tile], desk: Desk, progress: Progress) -> tuple[list[Part], list[Sheet]]:
    settings = desk.settings
    count = len(tiles[0].artwork.layers)
    reach = reach_of(settings, seams=True)
    parts: list[Part] = []
    sheets: list[Sheet] = []
    for copy in range(settings.copies):
        for place, tile in enumerate(tiles):
            progress.raise_if_cancelled()
            size = (tile.artwork.width, tile.artwork.height)
            (block,), = blocks(size, reach, desk.area(), _as_it_fits(settings, size, desk.area(), reach), 1)
            for group in groups_of_artwork(tile.artwork, settings, None):
                number = place * count + group.layer
                parts.append(replace(group, layer=number, copy=copy))
                sheet = _in_place(whole.layers[number], number, (block.laid(len(parts) - 1),), [block], desk, parts)
                seams = [path for crossed in tile.crossed for path in _matching(crossed, block, settings)]
                sheets.append(replace(sheet, marks=(*sheet.marks, *seams), tile=place))
    return parts, sheets


def _as_it_fits(settings: SheetsSettings, size: tuple[float, float], area: Area, reach: float) -> SheetsSettings:
    """Turned where a part of a make lies on the carrier only so."""
    flat = size[0] + 2 * reach <= area.width + 1e-6 and size[1] + 2 * reach <= area.height + 1e-6
    return settings if flat and not settings.turned else settings.with_fields({"turned": not flat})


def _matching(crossed: tuple[float, float, float, float], block: Block, settings: SheetsSettings) -> list[Path]:
    """A cross where a seam leaves the make, on all parts beside it."""
    x, y, dx, dy = crossed
    off = settings.mark_off_mm + settings.mark_mm / 2
    matrix = block.laid(0).matrix
    return cross(matrix[:, :2] @ np.array([x + dx * off, y + dy * off]) + matrix[:, 2], settings.mark_mm)


# Ganged

@dataclass(frozen=True, slots=True, eq=False)
class _OfStock:
    """What is cut from one stock. layer: one that is cut from it; ready: the numbers of parts that lie on a sheet by
    themselves."""

    layer: Layer
    table: Gang
    ready: list[int]


def _all_ganged(artwork: Artwork, desk: Desk, progress: Progress) -> tuple[list[Part], list[Sheet], list[int]]:
    """All parts, the sheets of one stock after the other, and the parts that are larger than any."""
    groups = groups_of_artwork(artwork, desk.settings, desk.item_of if desk.settings.of_items else None)
    by_stock: dict[str, list[Part]] = {}
    for group in groups:
        by_stock.setdefault(_stock_key(artwork.layers[group.layer], desk), []).append(group)
    tables = [_of_stock(artwork, own, desk, progress) for own in by_stock.values()]
    # The first strips of all stocks are looked for at once, so that many stocks take no longer than one.
    tasks = [task for one in tables if (task := task_of(one.table, one.ready)) is not None]
    nested(tasks, desk.settings.seconds, desk.nester, desk.layouts, Stretch(progress, 0.0, 0.8))
    parts: list[Part] = []
    sheets: list[Sheet] = []
    left_over: list[int] = []
    for number, one in enumerate(tables):
        stretch = Stretch(progress, 0.8 + 0.2 * number / len(tables), 0.8 + 0.2 * (number + 1) / len(tables))
        new, laid_sheets, lost = _laid_out(artwork, one, desk, stretch)
        left_over += [len(parts) + part for part in lost]
        shifted = [[replace(laid, part=laid.part + len(parts)) for laid in sheet] for sheet in laid_sheets]
        parts += new
        table = Gang(parts, [], one.table.area, desk.settings, None)
        for laid in shifted:
            layers = tuple(sorted({parts[place.part].layer for place in laid}))
            sheet = replace(_sheet(one.layer, layers, tuple(laid), desk), clashes=tuple(clashes(table, laid)))
            sheets.append(_finished(_with_marks(sheet, parts, desk.settings), parts, desk))
    return parts, sheets, left_over


def _of_stock(artwork: Artwork, groups: Sequence[Part], desk: Desk, progress: Progress) -> _OfStock:
    """The parts that are cut from one stock; where a sheet is to be filled, about as many copies as lie on one. Raises:
    Cancelled."""
    settings, layer = desk.settings, artwork.layers[groups[0].layer]
    copies = _filling(groups, desk, layer) if settings.fill else settings.copies
    while True:
        parts = [replace(part, copy=copy) for part in groups for copy in range(copies_of(part, settings, copies))]
        _refuse_too_many(parts)
        table = Gang(parts, list(range(len(parts))), _room_for(desk, layer), settings, _turns(settings, layer))
        own = _OfStock(layer, table, ready(table))
        task = task_of(table, own.ready)
        if not settings.fill or copies == 1 or task is None:
            return own
        (strip,) = nested([task], settings.seconds, desk.nester, desk.layouts, progress)
        room = table.area.height + settings.spacing_mm
        if strip.length <= room:
            return own
        copies = max(1, min(copies - 1, int(copies * room / strip.length)))


def _laid_out(
    artwork: Artwork, own: _OfStock, desk: Desk, progress: Progress
) -> tuple[list[Part], list[list[Laid]], list[int]]:
    """The parts that are cut from one stock, what lies on each sheet of it, and the parts that fit on none."""
    parts = list(own.table.all_parts)
    by_hand = hand_places(desk.settings.by_hand, parts, [one.id or one.key for one in artwork.layers], artwork.width)
    sheets = close_layout(own.table, own.ready, by_hand, desk.nester, desk.layouts, progress)
    lost = too_large(own.table)
    if desk.settings.fill:
        return *_whole_copies(parts, sheets, desk.settings), []
    return parts, sheets, lost


def _whole_copies(
    parts: list[Part], sheets: list[list[Laid]], settings: SheetsSettings
) -> tuple[list[Part], list[list[Laid]]]:
    """As many whole copies as lie on the first sheet, and one at least. Which part is of which copy does not matter so far."""
    needed = {part.original: copies_of(part, settings, 1) for part in parts}
    there: dict[tuple[int, int], list[Laid]] = {name: [] for name, count in needed.items() if count}
    for laid in sheets[0] if sheets else ():
        there[parts[laid.part].original].append(laid)
    whole = min((len(own) // needed[name] for name, own in there.items()), default=0)
    if not whole:  # one make takes more than one sheet
        chosen = {k for k, part in enumerate(parts) if part.copy < needed[part.original]}
        found = [[laid for laid in sheet if laid.part in chosen] for sheet in sheets]
    else:
        found = [[laid for name, own in there.items() for laid in own[: whole * needed[name]]]]
    kept: list[Part] = []
    numbers: dict[tuple[int, int], int] = {}
    renamed = []
    for sheet in found:
        own_sheet = []
        for laid in sheet:
            part = parts[laid.part]
            numbers[part.original] = numbers.get(part.original, -1) + 1
            own_sheet.append(replace(laid, part=len(kept)))
            kept.append(replace(part, copy=numbers[part.original]))
        renamed.append(own_sheet)
    return kept, [sheet for sheet in renamed if sheet]


def _stock_key(layer: Layer, desk: Desk) -> str:
    return layer.stock.id if layer.stock else f"{layer.rgb}/{desk.material}"


def _turns(settings: SheetsSettings, layer: Layer) -> tuple[float, ...] | None:
    if settings.turns == "none" or (layer.stock is not None and layer.stock.patterned):
        return (0.0,)
    return None if settings.turns == "any" else (0.0, 90.0, 180.0, 270.0)


def _room_for(desk: Desk, layer: Layer) -> Area:
    """The usable area of a stock without what marks and frames need."""
    area, reach = desk.area(layer), reach_of(desk.settings)
    return Area(area.left + reach, area.top + reach, area.width - 2 * reach, area.height - 2 * reach)


def _filling(groups: Sequence[Part], desk: Desk, layer: Layer) -> int:
    """How many copies are tried first where a sheet is to be filled: a few more than will lie on it."""
    area = _room_for(desk, layer)
    per_make = sum(copies_of(part, desk.settings, 1) * shape_of(part.pieces, part.strokes, COARSE_MM).buffer(
        desk.settings.spacing_mm / 2).area for part in groups)
    return int(min(500, max(1, np.ceil(0.85 * area.width * area.height / max(1.0, per_make)))))


def _with_marks(sheet: Sheet, parts: Sequence[Part], settings: SheetsSettings) -> Sheet:
    """With marks and a frame around all that lies on a sheet."""
    if not sheet.laid:
        return sheet
    segments = np.concatenate([parts[laid.part].segments @ laid.matrix[:, :2].T + laid.matrix[:, 2] for laid in sheet.laid])
    box = bounds(segments)
    return replace(sheet, marks=tuple(register_marks(settings, box)), waste=tuple(frame_around(settings, box)))


# Both

def _sheet(layer: Layer, layers: tuple[int, ...], laid: tuple[Laid, ...], desk: Desk) -> Sheet:
    carrier, stock = desk.settings.carrier, layer.stock
    return Sheet(carrier.name, carrier.width_mm, carrier.height_mm, desk.area(layer), stock.name if stock else layer.name,
                 stock.id if stock else "", desk.kind(layer), stock.rgb if stock else layer.rgb, layers, laid,
                 desk.is_mirrored(layer))


def _finished(sheet: Sheet, parts: Sequence[Part], desk: Desk) -> Sheet:
    """With cuts across the waste, and of a roll the length that is used."""
    settings = desk.settings
    if settings.weed_every_mm and sheet.laid:
        shapes = [moved(shape_of(parts[laid.part].pieces, parts[laid.part].strokes, COARSE_MM), laid.matrix)
                  for laid in sheet.laid]
        left, top, right, bottom = np.array([shape.bounds for shape in shapes]).T
        box = float(left.min()), float(top.min()), float(right.max()), float(bottom.max())
        cuts = weeding_cuts(settings, shapes, _wider(box, settings.frame_mm if settings.frame else 0.0))
        sheet = replace(sheet, waste=(*sheet.waste, *cuts))
    if settings.carrier.kind == "roll":
        used = used_by([sheet], parts, True)[0].length_mm
        sheet = replace(sheet, height=used, usable=replace(sheet.usable, height=max(1.0, used - 2 * sheet.usable.top)))
    return sheet


def _refuse_too_many(parts: Sequence[Part]) -> None:
    if len(parts) > MOST_PARTS:
        raise SettingsError(f"These would be {len(parts)} pieces to lay out; {MOST_PARTS} are the most. Ask for fewer copies.",
                            code="too_many_parts", most=MOST_PARTS)
