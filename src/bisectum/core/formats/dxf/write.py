"""DXF, as cutting and drawing programs read it: R12 with polylines within a bound, or R2000 with exact curves.

A DXF layer for each layer, and one more for its folds and pen lines; folds have a colour of their own, pen lines that of their
ink. Millimetres, told in the header ($INSUNITS, which is younger than R12 and which readers of R12 heed or pass over), y up from
the lower left corner of the page. Curves are B-splines of degree 3 whose knots have threefold weight at
the nodes, which are the cubics themselves (L. Piegl and W. Tiller, The NURBS Book, 1997, section 5.6).
"""

from __future__ import annotations

import io
import re

import numpy as np
from ezdxf import options, units  # type: ignore[attr-defined]
from ezdxf.addons.r12writer import r12writer
from ezdxf.colors import DXF_DEFAULT_COLORS, int2rgb
from ezdxf.document import Drawing
from ezdxf.filemanagement import new
from numpy.typing import NDArray

from bisectum.core.formats.lines import Form, Line, Use, lines_of
from bisectum.core.formats.uses import FOLD_INDEX
from bisectum.core.model.artwork import Artwork
from bisectum.core.raster.difference import ciede2000, cielab

FOLLOWED_BY: dict[Use, str] = {"cut": "", "score": "_fold", "draw": "_draw"}
HEADER_END = "  0\nENDSEC\n"
UNITS = f"  9\n$INSUNITS\n 70\n{units.MM}\n  9\n$MEASUREMENT\n 70\n1\n"


def layer_names(artwork: Artwork) -> dict[tuple[int, Use], str]:
    """The DXF layer of each layer and use, with signs that every version allows."""
    found: dict[tuple[int, Use], str] = {}
    for line in lines_of(artwork):
        plain = re.sub(r"[^A-Za-z0-9]+", "_", artwork.layers[line.layer].name).strip("_") or "layer"
        name = f"{line.layer + 1}_{plain}{FOLLOWED_BY[line.use]}"
        found.setdefault((line.layer, line.use), name)
    return found


def write_dxf(artwork: Artwork, form: Form) -> bytes:
    """The artwork as DXF."""
    return _polylines(artwork) if form == "polylines" else _curves(artwork)


def _polylines(artwork: Artwork) -> bytes:
    """R12 in one go: as a drawing in memory each place of a line would be an object, and thousands of them take seconds."""
    names = layer_names(artwork)
    colours = _colours(artwork)
    text = io.StringIO()
    with r12writer(text, fixed_tables=True) as writer:
        for line in lines_of(artwork):
            points = line.points() * [1, -1] + [0, artwork.height]
            own = points[:-1] if line.path.closed else points
            writer.add_polyline_2d(own.tolist(), closed=line.path.closed, layer=names[line.layer, line.use],
                                   color=FOLD_INDEX if line.use == "score" else colours[line.layer])
    return text.getvalue().replace(HEADER_END, UNITS + HEADER_END, 1).encode("cp1252")


def _curves(artwork: Artwork) -> bytes:
    options.write_fixed_meta_data_for_testing = True  # no time of day in it: the same artwork gives the same file
    drawing = new("R2000")
    drawing.units = units.MM
    drawing.header["$MEASUREMENT"] = 1
    names, colours = layer_names(artwork), _colours(artwork)
    for (number, use), name in names.items():
        drawing.layers.add(name, color=FOLD_INDEX if use == "score" else colours[number])
    for line in lines_of(artwork):
        _draw(drawing, line, names[line.layer, line.use], artwork.height)
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode(drawing.output_encoding)


def _draw(drawing: Drawing, line: Line, layer: str, height: float) -> None:
    space, attributes = drawing.modelspace(), {"layer": layer}
    if line.path.straight.all():
        points = _corners(line) * [1, -1] + [0, height]
        own = points[:-1] if line.path.closed else points
        space.add_lwpolyline(own.tolist(), close=line.path.closed, dxfattribs=attributes)
        return
    curves = line.path.segments * [1, -1] + [0, height]
    control = np.concatenate([curves[0], *curves[1:, 1:]])
    knots = np.repeat(np.arange(len(curves) + 1.0), [4, *[3] * (len(curves) - 1), 4])
    spline = space.add_spline(degree=3, dxfattribs=attributes)
    spline.control_points = control.tolist()
    spline.knots = knots.tolist()
    spline.closed = False  # the last point lies on the first one; a closed spline would wrap its knots


def _corners(line: Line) -> NDArray[np.float64]:
    return np.concatenate([line.path.segments[:, 0], line.path.segments[-1:, 3]])


def _colours(artwork: Artwork) -> list[int]:
    """The number of the nearest of the format's own colours for each layer; never that of folds."""
    own = [number for number in range(1, 256) if number != FOLD_INDEX]
    table = cielab(np.array([int2rgb(DXF_DEFAULT_COLORS[number]) for number in own], np.uint8))
    return [own[int(ciede2000(cielab(np.array(layer.rgb, np.uint8)), table).argmin())] for layer in artwork.layers]
