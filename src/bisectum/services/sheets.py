"""Sheets of a job: laid out in the computing process, for the screen and for files."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import NotFoundError, SettingsError
from bisectum.core.formats.exporters import export, exporter
from bisectum.core.formats.selection import Selection, selected
from bisectum.core.formats.svg.write import path_data, path_data_of, stroke_data
from bisectum.core.job import JobDocument
from bisectum.core.make import MakeResult
from bisectum.core.model.arrangement import Arrangement
from bisectum.core.model.artwork import Layer
from bisectum.core.model.finding import Finding
from bisectum.core.model.net import faces_at, net_of
from bisectum.core.model.sheet import Part, SheetPlan, Used
from bisectum.core.model.stroke import Role
from bisectum.core.progress import Progress
from bisectum.core.raster.colour import hex_of
from bisectum.core.steps.sheets.parts import ItemOf
from bisectum.core.steps.sheets.step import Desk, lay_out
from bisectum.services.compute import Matrix, numbers_of, sound_make
from bisectum.services.layouts import LayoutFolder
from bisectum.services.marks import SentDocument
from bisectum.services.nester import nest

WHOLE = Selection()
STAMP = (1980, 1, 1, 0, 0, 0)  # of files in an archive, so that equal sheets make equal archives


@dataclass(frozen=True, slots=True)
class DrawnPart:
    """What stays together, once for all its copies. path: SVG path data of its pieces, mm on the page; lines: of its strokes,
    each with its role; at: a place in it, shares of the page's width; layer: its number."""

    layer: int
    at: tuple[float, float]
    path: str
    lines: tuple[tuple[Role, str], ...]


@dataclass(frozen=True, slots=True)
class DrawnPlace:
    """part: number of a DrawnPart; matrix: row by row, from the page to the carrier."""

    part: int
    copy: int
    matrix: Matrix
    turn: float
    by_hand: bool


@dataclass(frozen=True, slots=True)
class DrawnSheet:
    """A sheet for the screen, as it lies before it is mirrored. usable: left, top, width and height, mm; marks, waste: SVG path
    data; number: among the sheets of its stock. clashes: numbers of places that overlap others or leave the usable area."""

    carrier: str
    width: float
    height: float
    usable: tuple[float, float, float, float]
    stock: str
    stock_id: str
    kind: str
    colour: str
    layers: tuple[int, ...]
    places: tuple[DrawnPlace, ...]
    mirrored: bool
    marks: str
    waste: str
    tile: int
    number: int
    clashes: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class DrawnPlan:
    """All sheets of a make. layers: name, colour and how a hand's places tell it, of each; page_width: mm; left_over: how many
    parts no sheet could take."""

    layers: tuple[tuple[str, str, str], ...]
    page_width: float
    parts: tuple[DrawnPart, ...]
    sheets: tuple[DrawnSheet, ...]
    used: tuple[Used, ...]
    findings: tuple[Finding, ...]
    left_over: int
    cloth: str


def desk_of(document: JobDocument, result: MakeResult, layouts: Path) -> Desk:
    """What lies ready for laying out a make. layouts: the folder of close layouts."""
    return Desk(document.make.sheets, document.make.layers.material, nest, LayoutFolder(layouts), _item_of(result.arrangement))


def _item_of(arrangement: Arrangement) -> ItemOf:
    def items(places: NDArray[np.float64]) -> list[str]:
        faces = faces_at(net_of(arrangement.planar), places) - 1
        labels = arrangement.planar.face_labels[np.maximum(0, faces)].astype(np.int64)
        return [arrangement.members[label - 1].item if face >= 0 and label > 0 else ""
                for face, label in zip(faces.tolist(), labels.tolist(), strict=True)]

    return items


def planned(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, layouts: Path, progress: Progress
) -> SheetPlan:
    """The sheets of a make. Raises: as compute.sound_make; SettingsError where nothing can be laid out."""
    document = sent.open()
    result = sound_make(paths, fonts, document, progress)
    return lay_out(result.artwork, desk_of(document, result, layouts), progress)


def drawn(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, layouts: Path, progress: Progress
) -> DrawnPlan:
    """The sheets of a make for the screen. Raises: as planned."""
    return drawn_plan(planned(paths, fonts, sent, layouts, progress))


def drawn_plan(plan: SheetPlan) -> DrawnPlan:
    number_of: dict[tuple[int, int], int] = {}
    parts: list[DrawnPart] = []

    def drawn_number(part: Part) -> int:
        if part.original not in number_of:
            number_of[part.original] = len(parts)
            data = path_data(Layer("", "", (0, 0, 0), part.pieces))
            lines = tuple((stroke.role, stroke_data(stroke)) for stroke in part.strokes)
            parts.append(DrawnPart(part.layer, part.at, data, lines))
        return number_of[part.original]

    counts: dict[tuple[str, str], int] = {}
    sheets = []
    for sheet in plan.sheets:
        own = [(laid, plan.parts[laid.part]) for laid in sheet.laid]
        places = tuple(DrawnPlace(drawn_number(part), part.copy, numbers_of(laid.matrix), laid.turn, laid.by_hand)
                       for laid, part in own)
        stock = sheet.stock_id, sheet.stock
        usable = sheet.usable.left, sheet.usable.top, sheet.usable.width, sheet.usable.height
        sheets.append(DrawnSheet(
            sheet.carrier, sheet.width, sheet.height, usable, sheet.stock, sheet.stock_id, sheet.kind, hex_of(sheet.rgb),
            sheet.layers, places, sheet.mirrored, "".join(path_data_of(path) for path in sheet.marks),
            "".join(path_data_of(path) for path in sheet.waste), sheet.tile, counts.get(stock, 0), sheet.clashes))
        counts[stock] = counts.get(stock, 0) + 1
    layers = tuple((layer.name, hex_of(layer.rgb), layer.id or layer.key) for layer in plan.artwork.layers)
    return DrawnPlan(layers, plan.artwork.width, tuple(parts), tuple(sheets), plan.used, plan.artwork.findings,
                     len(plan.left_over), plan.artwork.cloth)


# Files

def sheet_file(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, layouts: Path, kind: str, number: int, title: str,
    progress: Progress,
) -> tuple[str, bytes]:
    """The name and bytes of one sheet. Raises: as planned; NotFoundError where there is no such sheet; SettingsError where
    something on it overlaps or lies off the usable area."""
    plan = planned(paths, fonts, sent, layouts, progress)
    if not 0 <= number < len(plan.sheets):
        raise NotFoundError("There is no such sheet any more; look at the sheets anew.", code="sheet_missing")
    return written(plan, number, kind, title)


def sheets_archive(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, layouts: Path, kind: str, title: str,
    progress: Progress,
) -> bytes:
    """All sheets as a ZIP archive. Raises: as sheet_file."""
    plan = planned(paths, fonts, sent, layouts, progress)
    return archive_of(all_written(plan, kind, title))


def archive_of(files: list[tuple[str, bytes]]) -> bytes:
    """Files as a ZIP archive; equal files make equal archives."""
    whole = io.BytesIO()
    with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files:
            archive.writestr(zipfile.ZipInfo(name, STAMP), data, zipfile.ZIP_DEFLATED)
    return whole.getvalue()


def all_written(plan: SheetPlan, kind: str, title: str, selection: Selection = WHOLE) -> list[tuple[str, bytes]]:
    """The name and bytes of every sheet. Raises: as sheet_file."""
    return [written(plan, number, kind, title, selection) for number in range(len(plan.sheets))]


def written(plan: SheetPlan, number: int, kind: str, title: str, selection: Selection = WHOLE) -> tuple[str, bytes]:
    """One sheet, checked before and compared after. Raises: as sheet_file; BrokenStructure, ComputationError."""
    plan.check()
    sheet = plan.sheets[number]
    if sheet.clashes:
        raise SettingsError(f"Sheet {number + 1} is not handed over: something on it overlaps or lies off the usable area of "
                            f"“{sheet.carrier}”. Make it smaller, take a larger mat, or split it.", code="sheet_clash",
                            sheet=number + 1)
    drawing = selected(plan.drawn(number), selection)
    drawing.check()
    return exporter(kind).named(file_stem(plan, number, title)), export(kind, drawing, f"{title} {number + 1}")


def file_stem(plan: SheetPlan, number: int, title: str) -> str:
    """What a sheet's file is called: the job, the sheet, its stock or layer, the cloth it is for, and whether it is mirrored."""
    sheet = plan.sheets[number]
    words = [title, f"sheet {number + 1}", sheet.stock]
    words += [f"for {plan.artwork.cloth}"] if plan.artwork.cloth else []
    words += ["mirrored"] if sheet.mirrored else []
    return "-".join(plain(word) for word in words)


def plain(text: str) -> str:
    """Text as a part of a file's name."""
    return re.sub(r"[^\w-]+", "-", text).strip("-") or "bisectum"


def rows_of(plan: SheetPlan) -> Sequence[dict[str, object]]:
    """What a report says of the sheets."""
    return [{"carrier": sheet.carrier, "width_mm": round(sheet.width, 3), "height_mm": round(sheet.height, 3),
             "stock": sheet.stock, "kind": sheet.kind, "layers": [plan.artwork.layers[layer].name for layer in sheet.layers],
             "parts": len(sheet.laid), "mirrored": sheet.mirrored, "tile": sheet.tile} for sheet in plan.sheets]
