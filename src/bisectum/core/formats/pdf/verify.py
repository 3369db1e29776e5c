"""Read a PDF back by what would show it, and hold it against what was meant."""

from __future__ import annotations

import ctypes
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.formats.lines import CHORD_MM, Use, compare, differs
from bisectum.core.formats.pdf.write import PT_PER_MM
from bisectum.core.formats.uses import USES
from bisectum.core.geom.bezier import flatten
from bisectum.core.model.artwork import Artwork, Layer

BOUND_MM = 0.01
SIZE_MM = 1e-3


def verify_pdf(data: bytes, artwork: Artwork, pictures: int = 0) -> None:
    """pictures: how many lie below. Raises: ComputationError naming what differs."""
    import pypdfium2 as pdfium  # takes its time to load

    document = pdfium.PdfDocument(data)
    try:
        page = document[0]
        width, height = (float(value) / PT_PER_MM for value in page.get_size())
        if len(document) != 1 or abs(width - artwork.width) > SIZE_MM or abs(height - artwork.height) > SIZE_MM:
            raise differs("size", f"{width:.3f} × {height:.3f} mm on {len(document)} pages")
        runs = [run for item in page.get_objects(filter=[pdfium.raw.FPDF_PAGEOBJ_PATH]) for run in _runs(item, height)]
        found = len(list(page.get_objects(filter=[pdfium.raw.FPDF_PAGEOBJ_IMAGE])))
    finally:
        document.close()
    if found != pictures:
        raise differs("number of pictures", f"{found} instead of {pictures}")
    wanted = [(number, use) for number, layer in enumerate(artwork.layers)
              for use, count in _counts(layer) for _ in range(count)]
    if len(runs) != len(wanted):
        raise differs("number of lines", f"{len(runs)} instead of {len(wanted)}")
    compare([(number, use, run) for (number, use), run in zip(wanted, runs, strict=True)], artwork, BOUND_MM)


def _counts(layer: Layer) -> list[tuple[Use, int]]:
    return [("cut", len(list(layer.rings))), *((role, [one.role for one in layer.strokes].count(role)) for role in USES)]


def _runs(item: Any, height: float) -> list[NDArray[np.float64]]:
    """The lines of a path on the page : (N, 2) each, mm, y down, from segments as the reader gives them."""
    import pypdfium2.raw as raw

    matrix = raw.FS_MATRIX()
    raw.FPDFPageObj_GetMatrix(item, matrix)
    turn = np.array([[matrix.a, matrix.c], [matrix.b, matrix.d]])
    shift = np.array([matrix.e, matrix.f])
    x, y = ctypes.c_float(), ctypes.c_float()
    found: list[NDArray[np.float64]] = []
    places: list[list[float]] = []
    kinds: list[int] = []
    for number in range(raw.FPDFPath_CountSegments(item)):
        segment = raw.FPDFPath_GetPathSegment(item, number)
        kind = raw.FPDFPathSegment_GetType(segment)
        raw.FPDFPathSegment_GetPoint(segment, x, y)
        if kind == raw.FPDF_SEGMENT_MOVETO and places:
            found.append(_flat(places, kinds))
            places, kinds = [], []
        places.append([x.value, y.value])
        kinds.append(kind)
        if raw.FPDFPathSegment_GetClose(segment):
            found.append(_flat([*places, places[0]], [*kinds, raw.FPDF_SEGMENT_LINETO]))
            places, kinds = [], []
    if len(places) > 1:
        found.append(_flat(places, kinds))
    return [(line @ turn.T + shift) / PT_PER_MM * [1, -1] + [0, height] for line in found]


def _flat(places: list[list[float]], kinds: list[int]) -> NDArray[np.float64]:
    """Lines and cubics as chords, before they are brought onto the page: the numbers are mm already."""
    import pypdfium2.raw as raw

    points, at = [np.array(places[:1])], 1
    while at < len(places):
        if kinds[at] == raw.FPDF_SEGMENT_BEZIERTO:
            curve = np.array([places[at - 1], *places[at : at + 3]])[None]
            points += [flatten(curve, CHORD_MM / 4)[1:], curve[0, 3:]]
            at += 3
        else:
            points.append(np.array(places[at : at + 1]))
            at += 1
    whole = np.concatenate(points)
    return whole[np.append(True, (np.abs(np.diff(whole, axis=0)) > 0).any(axis=1))]
