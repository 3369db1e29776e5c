"""What a build sheet of a job says. Its words stand here, since it is made without a screen."""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping
from dataclasses import replace
from pathlib import Path

from bisectum.core.formats.pdf.build_sheet import BuildSheet, Paper, Part, write_build_sheet
from bisectum.core.geom.bezier import bounds
from bisectum.core.job import JobDocument
from bisectum.core.make import MakeResult
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.sheet import SheetPlan
from bisectum.core.model.stock import PRESSED, StockKind
from bisectum.core.model.work import work_of
from bisectum.core.progress import Progress
from bisectum.core.raster.colour import rgb_of
from bisectum.core.steps.sheets.step import Desk, lay_out
from bisectum.services.bundle_work import worked
from bisectum.services.compute import sound_make
from bisectum.services.fonts import shipped_files
from bisectum.services.marks import SentDocument
from bisectum.services.sheets import desk_of

FACE = "noto-sans"
MOST_SHEETS = 24  # drawn; further ones are told by their number
PAGE_PX_PER_PT = 1.6


def build_sheet(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, layouts: Path, paper: Paper, progress: Progress
) -> bytes:
    """The build sheet of a job as PDF. Raises: as sheets.planned."""
    document = sent.open()
    result = sound_make(paths, fonts, document, progress)
    desk = desk_of(document, result, layouts)
    plan = lay_out(result.artwork, desk, progress)
    return write_build_sheet(_told(document, result, plan, desk), paper, shipped_files(FACE))


def build_sheet_of_bundle(data: bytes, paper: Paper) -> bytes:
    """The build sheet of a job that was taken out as a bundle. Raises: InputError; as build_sheet."""
    with worked(data) as jobs:
        for document, result, desk in jobs:
            return write_build_sheet(_told(document, result, lay_out(result.artwork, desk), desk), paper, shipped_files(FACE))
    raise AssertionError  # a bundle that can be opened has a job


def pages_of(data: bytes) -> list[bytes]:
    """The pages of a PDF as PNG, for the screen."""
    import pypdfium2 as pdfium

    document = pdfium.PdfDocument(data)
    found = []
    for page in document:
        picture = io.BytesIO()
        page.render(scale=PAGE_PX_PER_PT).to_pil().save(picture, "PNG")
        found.append(picture.getvalue())
    document.close()
    return found


def _told(document: JobDocument, result: MakeResult, plan: SheetPlan, desk: Desk) -> BuildSheet:
    artwork, make = result.artwork, document.make
    work = work_of(artwork)
    cloth = f"On {artwork.cloth}" if artwork.cloth else ""
    about = [f"{artwork.width:.1f} × {artwork.height:.1f} mm, {artwork.width / 25.4:.2f} × {artwork.height / 25.4:.2f} in",
             f"{len(artwork.layers)} layers, {work.pieces} pieces, {work.cut_mm / 1000:.2f} m to cut, about "
             f"{max(1, round(work.cut_s / 60))} min to cut and {max(1, round(work.weed_s / 60))} min to weed"]
    layers = tuple(Part(replace(artwork, layers=(layer,)), tuple(_of_layer(layer, number, desk)))
                   for number, layer in enumerate(artwork.layers, 1))
    sections = [*_from(document), ("Putting it on", tuple(_steps(artwork, desk))), ("What it takes", tuple(_takes(plan)))]
    marks = make.sheets.marks != "none"
    sheets = tuple(Part(plan.drawn(number), tuple(_of_sheet(plan, number, marks)))
                   for number in range(min(MOST_SHEETS, len(plan.sheets))))
    more = f" (the first {MOST_SHEETS} of {len(plan.sheets)})" if len(plan.sheets) > MOST_SHEETS else ""
    return BuildSheet(document.name, (*([cloth] if cloth else []), *about), artwork, rgb_of(make.layers.base),
                      "Layers, the lowest first", layers, f"Sheets{more}", sheets, tuple(sections), "Notes")


USES = {"own": "own work", "bought": "bought with a licence", "free": "free if its maker is named", "unknown": ""}


def _from(document: JobDocument) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Where pictures are from, as far as it was noted."""
    lines = []
    for item in document.items:
        told = [item.origin.source, f"by {item.origin.maker}" if item.origin.maker else "", USES[item.origin.use]]
        if any(told):
            lines.append(f"{item.name}: {', '.join(one for one in told if one)}")
    if lines:
        yield "Where it is from", tuple(lines)


def _of_layer(layer: Layer, number: int, desk: Desk) -> Iterator[str]:
    yield f"{number}  {layer.name}"
    kind = desk.kind(layer)
    mirrored = ", cut mirrored" if desk.is_mirrored(layer) else ""
    yield (f"{layer.stock.name} ({kind})" if layer.stock else kind.capitalize()) + mirrored
    if layer.pieces:
        boxes = [bounds(piece.outline.segments) for piece in layer.pieces]
        wide = max(box[2] for box in boxes) - min(box[0] for box in boxes)
        high = max(box[3] for box in boxes) - min(box[1] for box in boxes)
        many = len(layer.pieces)
        yield f"{many} {'piece' if many == 1 else 'pieces'}, {wide:.1f} × {high:.1f} mm"


def _steps(artwork: Artwork, desk: Desk) -> Iterator[str]:
    """What is done with each layer, by its material (common practice, no source)."""
    last = len(artwork.layers) - 1
    for number, layer in enumerate(artwork.layers):
        yield f"{number + 1}. {layer.name}: {_step(desk.kind(layer), number == 0, number == last)}"


def _step(kind: StockKind, is_first: bool, is_last: bool) -> str:
    if kind in PRESSED:
        return ("press for the full time, 8 to 10 s, under a sheet that covers all." if is_last
                else "press briefly, about 5 s, and pull off the carrier.")
    if kind == "adhesive vinyl":
        return ("put it on the clean base with transfer tape, from the middle outwards." if is_first
                else "line it up by the marks or the edges, and rub it down.")
    return "lay it down." if is_first else "glue it on, thin foam beneath for height."


def _takes(plan: SheetPlan) -> Iterator[str]:
    for used in plan.used:
        amount = f"{used.sheets} {'sheet' if used.sheets == 1 else 'sheets'}"
        amount = f"{used.length_mm / 1000:.2f} m of the roll" if used.length_mm else amount
        yield f"{used.stock} ({used.kind}): {amount}, {used.area_mm2 / 100:.0f} cm² of it cut, {100 * used.waste:.0f} % waste"


def _of_sheet(plan: SheetPlan, number: int, marks: bool) -> Iterator[str]:
    sheet = plan.sheets[number]
    yield f"Sheet {number + 1}: {sheet.stock}"
    yield f"{sheet.carrier}, {sheet.width:.0f} × {sheet.height:.0f} mm"
    told = ["cut mirrored"] if sheet.mirrored else []
    told += ["with register marks"] if marks else []
    told += [f"part {sheet.tile + 1} of the split"] if sheet.tile >= 0 else []
    if told:
        yield ", ".join(told).capitalize()
