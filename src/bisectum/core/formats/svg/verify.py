"""Hold what was written against what was meant, before it is handed over."""

from __future__ import annotations

import numpy as np

from bisectum.core.errors import ComputationError
from bisectum.core.formats.svg.read import ReadStrokes, read_svg
from bisectum.core.formats.svg.write import STROKES
from bisectum.core.geom.bezier import flatten
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.stroke import Stroke
from bisectum.core.raster.colour import hex_of
from bisectum.core.units import RESOLUTION_MM as STEP


def verify_svg(text: str, artwork: Artwork) -> None:
    """Compare page size, layers, pieces, windows, areas and strokes. Raises: ComputationError naming what differs."""
    found = read_svg(text)
    _verify_strokes(found.strokes, artwork)
    if abs(found.width_mm - artwork.width) > STEP or abs(found.height_mm - artwork.height) > STEP:
        raise _differs("size", f"{found.width_mm} × {found.height_mm} mm")
    filled = [layer for layer in artwork.layers if layer.pieces]
    if len(found.layers) != len(filled):
        raise _differs("number of layers", str(len(found.layers)))
    for layer, read in zip(filled, found.layers, strict=True):
        if read.fill != hex_of(layer.rgb):
            raise _differs(f"colour of “{layer.name}”", read.fill)
        if len(read.areas) != len(layer.pieces):
            raise _differs(f"number of pieces of “{layer.name}”", str(len(read.areas)))
        for piece, area, rings in zip(layer.pieces, read.areas, read.subpaths, strict=True):
            if rings != len(piece.rings):
                raise _differs(f"number of windows in “{layer.name}”", str(rings - 1))
            slack = STEP * sum(ring.length for ring in piece.rings) + STEP**2
            if abs(area - piece.area) > slack:
                raise _differs(f"area of a piece of “{layer.name}”", f"{area:.4f} mm² instead of {piece.area:.4f} mm²")


def _verify_strokes(found: tuple[ReadStrokes, ...], artwork: Artwork) -> None:
    wanted = [(role, layer.name, [stroke for stroke in layer.strokes if stroke.role == role])
              for layer in artwork.layers for role in STROKES]
    wanted = [one for one in wanted if one[2]]
    if len(found) != len(wanted):
        raise _differs("number of groups of strokes", str(len(found)))
    for (role, name, strokes), read in zip(wanted, found, strict=True):
        if len(read.lengths) != len(strokes):
            raise _differs(f"number of strokes ({role}) of “{name}”", str(len(read.lengths)))
        for stroke, length in zip(strokes, read.lengths, strict=True):
            meant = _length(stroke)
            if abs(length - meant) > 2e-3 * meant + 4 * STEP * len(stroke.segments):
                raise _differs(f"length of a stroke of “{name}”", f"{length:.3f} mm instead of {meant:.3f} mm")


def _length(stroke: Stroke) -> float:
    """By chords: quadrature errs where a curve turns back on itself."""
    points = np.concatenate([flatten(stroke.segments, STEP), stroke.segments[-1:, 3]])
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _differs(what: str, found: str) -> ComputationError:
    return ComputationError(f"The file was not handed over, because the {what} in it came out as {found}. Please report this.",
                            code="file_differs", what=what, found=found)
