"""Files of a job: the make as one, a file for each layer or cloth, or chosen parts of it; several as a zip."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Literal

import numpy as np

from bisectum.core.errors import InputError
from bisectum.core.formats.exporters import Wishes, export, exporter
from bisectum.core.formats.pdf.write import Picture
from bisectum.core.formats.selection import Selection, selected
from bisectum.core.job import JobDocument
from bisectum.core.make import MakeResult
from bisectum.core.model.artwork import Artwork
from bisectum.core.progress import Progress
from bisectum.core.steps.background.step import cleared_picture
from bisectum.services.compute import sound_make
from bisectum.services.marks import SentDocument
from bisectum.services.sheets import archive_of, plain

Per = Literal["make", "layer", "piece", "cloth"]
MOST_PIECES = 500


@dataclass(frozen=True, slots=True)
class Wanted:
    """kind: of file; per: one for the make, for each layer, each piece, or each cloth; cloth: the id of a variant."""

    kind: str
    per: Per = "make"
    cloth: str = ""
    selection: Selection = field(default_factory=Selection)
    wishes: Wishes = field(default_factory=Wishes)


def exported(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, wanted: Wanted, progress: Progress
) -> tuple[str, str, bytes]:
    """Name, media type and bytes of what was asked for. Raises: as compute.run; InputError for what is not there;
    BrokenStructure, ComputationError where a file does not hold what was meant."""
    files = list(_files(paths, fonts, sent.open(), wanted, progress))
    if wanted.per == "make":
        name, data = files[0]
        return name, exporter(wanted.kind).media_type, data
    stem = plain(sent.open().for_cloth(wanted.cloth).name)
    return f"{stem}-{wanted.per}s.zip", "application/zip", archive_of(files)


def _files(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], document: JobDocument, wanted: Wanted, progress: Progress
) -> Iterator[tuple[str, bytes]]:
    cloths = ["", *(variant.id for variant in document.make.layers.variants)] if wanted.per == "cloth" else [wanted.cloth]
    for cloth in cloths:
        own = document.for_cloth(cloth)
        yield from files_of_make(own, sound_make(paths, fonts, own, progress), wanted)


def files_of_make(document: JobDocument, result: MakeResult, wanted: Wanted) -> Iterator[tuple[str, bytes]]:
    """Name and bytes of what was asked for of one make. Raises: as exported."""
    artwork = result.artwork
    if wanted.selection.drawn == "pictured":
        yield _pictured(document, result, wanted)
    elif wanted.per == "layer":
        for number in wanted.selection.layers or range(len(artwork.layers)):
            yield written(document, artwork, wanted, replace(wanted.selection, layers=(number,)))
    elif wanted.per == "piece":
        yield from _pieces(document, artwork, wanted)
    else:
        yield written(document, artwork, wanted, wanted.selection)


def _pieces(document: JobDocument, artwork: Artwork, wanted: Wanted) -> Iterator[tuple[str, bytes]]:
    """A file for each piece, all on the make's page, so that they can be laid together again."""
    numbers = wanted.selection.layers or tuple(range(len(artwork.layers)))
    count = sum(len(artwork.layers[number].pieces) for number in numbers if number < len(artwork.layers))
    if count > MOST_PIECES:
        raise InputError(f"These are {count} pieces; a file for each is made of {MOST_PIECES} at most. Choose fewer layers.",
                         code="too_many_pieces", count=count, most=MOST_PIECES)
    for number in numbers:
        only = replace(wanted.selection, layers=(number,))
        selected(artwork, only)  # says so where there is no such layer
        layer = artwork.layers[number]
        for nth, piece in enumerate(layer.pieces, 1):
            alone = replace(layer, pieces=(piece,), strokes=())
            single = replace(artwork, layers=(*artwork.layers[:number], alone, *artwork.layers[number + 1 :]))
            name, data = written(document, single, wanted, only)
            stem, dot, ending = name.rpartition(".")
            yield f"{stem}-{nth}{dot}{ending}", data


def _pictured(document: JobDocument, result: MakeResult, wanted: Wanted) -> tuple[str, bytes]:
    """The pictures without their background, to be printed, and the line around all that is to be cut."""
    if wanted.kind != "pdf":
        raise InputError("Only a PDF holds the picture itself with its cut line; take PDF.", code="pictured_pdf_only")
    from bisectum.core.formats.pdf.verify import verify_pdf
    from bisectum.core.formats.pdf.write import write_pdf

    drawing = selected(result.artwork, wanted.selection)
    drawing.check()
    pictures = pictures_of(result)
    data = write_pdf(drawing, document.name, wanted.wishes.spot, pictures)
    verify_pdf(data, drawing, len(pictures))
    return f"{file_stem(document, result.artwork, wanted.selection)}.pdf", data


def pictures_of(result: MakeResult) -> list[Picture]:
    """The pictures of a make where they lie on its page, without their background."""
    found = []
    for frame in result.arrangement.frames:
        if frame.item in result.courses:
            course = result.courses[frame.item]
            pixels = np.ascontiguousarray(cleared_picture(course.picture, course.ground))
            per_px = course.planar_map.width / pixels.shape[1]
            found.append(Picture(pixels, np.asarray(frame.matrix) * [per_px, per_px, 1]))
    return found


def written(document: JobDocument, artwork: Artwork, wanted: Wanted, selection: Selection) -> tuple[str, bytes]:
    """One file, read back and compared."""
    drawing = selected(artwork, selection)
    drawing.check()
    name = exporter(wanted.kind).named(file_stem(document, artwork, selection))
    return name, export(wanted.kind, drawing, document.name, wanted.wishes)


def file_stem(document: JobDocument, artwork: Artwork, selection: Selection) -> str:
    """What a file is called: the job, the cloth it is for, a single layer with its stock, and what is drawn of it."""
    words = [f"{document.name} for {artwork.cloth}" if artwork.cloth else document.name]
    if len(selection.layers) == 1:
        layer = artwork.layers[selection.layers[0]]
        words.append(f"{selection.layers[0] + 1} {layer.name}")
        words += [layer.stock.name] if layer.stock else []
    words += [selection.drawn] if selection.drawn != "filled" else []
    return "-".join(plain(word) for word in words)
