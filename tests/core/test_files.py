"""Files for machines that know no SVG: read by parsers of their own, measured against the curves that were meant.

DXF R12 is read here by its group codes (Autodesk, DXF Reference, R12), HPGL word by word; curves of R2000 are evaluated by SciPy.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
import shapely
from ezdxf.filemanagement import read as read_dxf
from numpy.typing import NDArray
from scipy.interpolate import BSpline

from bisectum.core.errors import ComputationError
from bisectum.core.formats.exporters import EXPORTERS, export
from bisectum.core.formats.hpgl.write import pens
from bisectum.core.formats.lines import compare, lines_of
from bisectum.core.model.artwork import Artwork
from bisectum.core.model.shapes_of import polygon_of
from bisectum.core.model.stroke import Stroke
from tests.support.mats import artwork, letters, shape

Lines = list[tuple[str, NDArray[np.float64], bool]]
"""Of each line its layer or pen, its places in mm with y up, and whether it is told to close."""


def make() -> Artwork:
    """Letters, shapes with windows, and a fold and a pen line."""
    flat = artwork((*shape("frame", 60, 40, (40, 30), band_mm=6), *letters("Qa8&", 14, (90, 60))),
                   (*shape("heart", 20, 18, (40, 30)), *shape("tag", 30, 20, (110, 20), hole_mm=4)), size=(140, 80))
    bend = np.array([[(5, 70), (25, 60), (45, 80), (65, 70)]], float)
    level = np.array([[(5, 75), (25, 75), (45, 75), (65, 75)]], float)
    strokes = tuple(Stroke(segments, np.array([straight]), role, role, 0.5, (5.0, 70.0))  # type: ignore[arg-type]
                    for segments, straight, role in ((bend, False, "score"), (level, True, "draw")))
    return replace(flat, layers=(replace(flat.layers[0], strokes=strokes), flat.layers[1]))


def from_r12(data: bytes) -> Lines:
    """By group codes: pairs of lines, a code and a value."""
    text = data.decode("ascii").splitlines()
    pairs = [(int(code), value.strip()) for code, value in zip(text[::2], text[1::2], strict=True)]
    found: Lines = []
    for number, (code, value) in enumerate(pairs):
        if code != 0:
            continue
        own = []
        for pair in pairs[number + 1 :]:
            if pair[0] == 0:
                break
            own.append(pair)
        told = dict(reversed(own))
        if value == "POLYLINE":
            found.append((told[8], np.empty((0, 2)), bool(int(told.get(70, "0")) & 1)))
        elif value == "VERTEX":
            name, places, closed = found[-1]
            found[-1] = (name, np.vstack([places, [float(told[10]), float(told[20])]]), closed)
    return found


def from_r2000(data: bytes) -> Lines:
    """Splines by SciPy, from their knots and control points."""
    import io

    found: Lines = []
    for entity in read_dxf(io.StringIO(data.decode())).modelspace():
        if entity.dxftype() == "SPLINE":
            knots, control = np.array(entity.knots), np.array(entity.control_points)[:, :2]
            places = BSpline(knots, control, 3)(np.linspace(0, knots[-1], 120 * int(knots[-1]) + 1))
            found.append((entity.dxf.layer, places, bool(np.allclose(places[0], places[-1], atol=1e-9))))
        else:
            found.append((entity.dxf.layer, np.array(entity.get_points("xy")), bool(entity.closed)))
    return found


def from_hpgl(data: bytes) -> Lines:
    found: Lines = []
    pen = ""
    for word, told in re.findall(r"([A-Z]{2})([^;]*);", data.decode("ascii")):
        places = np.array(re.findall(r"-?\d+", told), float).reshape(-1, 2) / 40 if word in ("PU", "PD") else np.empty((0, 2))
        if word == "SP":
            pen = told
        elif word == "PU" and len(places):
            found.append((pen, places, False))
        elif word == "PD":
            name, before, _ = found[-1]
            places = np.vstack([before, places])
            found[-1] = (name, places, bool((places[0] == places[-1]).all()))
    return found


@pytest.mark.parametrize(("kind", "reader", "bound"), [("dxf", from_r12, 0.0101), ("dxfcurves", from_r2000, 2e-3),
                                                       ("hpgl", from_hpgl, 0.0101 + 0.0178)])
def test_every_line_is_where_it_was_meant(kind: str, reader: Callable[[bytes], Lines], bound: float) -> None:
    wanted = make()
    found = reader(export(kind, wanted, "x"))
    meant = list(lines_of(wanted))
    assert len(found) == len(meant)
    names: dict[str, set[tuple[int, str]]] = {}
    for (name, places, closed), line in zip(found, meant, strict=True):
        names.setdefault(name, set()).add((line.layer, line.use))
        assert closed == line.path.closed
        own = places * [1, -1] + [0, wanted.height]
        own = np.vstack([own, own[:1]]) if closed else own
        curve = shapely.LineString(line.points(0.0005))
        assert shapely.distance(shapely.points(own), curve).max() < bound
        assert shapely.distance(shapely.points(line.points(0.0005)), shapely.LineString(own)).max() < bound
    # A layer or pen for each layer and use, and none that two of them share.
    assert all(len(uses) == 1 for uses in names.values()) and len(names) == len(pens(wanted)) == 4
    area = sum(polygon_of(piece).area for layer in wanted.layers for piece in layer.pieces)
    rings = [shapely.Polygon(places) for (_, places, _), line in zip(found, meant, strict=True) if line.is_ring]
    signs = [1 if line.path.signed_area > 0 else -1 for line in meant if line.is_ring]
    assert sum(ring.area * sign for ring, sign in zip(rings, signs, strict=True)) == pytest.approx(area, rel=2e-3)


def test_units_and_layers_are_told() -> None:
    import io

    drawing = read_dxf(io.StringIO(export("dxfcurves", make(), "x").decode()))
    assert drawing.dxfversion == "AC1015" and drawing.header["$INSUNITS"] == 4 and drawing.header["$MEASUREMENT"] == 1
    assert {"1_Layer_1", "1_Layer_1_fold", "1_Layer_1_draw", "2_Layer_2"} <= {layer.dxf.name for layer in drawing.layers}
    colours = {layer.dxf.name: layer.color for layer in drawing.layers}
    assert colours["1_Layer_1"] != colours["2_Layer_2"]
    assert export("hpgl", make(), "x").startswith(b"IN;\nSP1;") and export("dxf", make(), "x") == export("dxf", make(), "x")


@pytest.mark.parametrize("kind", ["dxf", "dxfcurves", "hpgl"])
def test_a_file_that_holds_something_else_is_not_handed_over(kind: str) -> None:
    wanted = make()
    data = EXPORTERS[kind].write(wanted, "x")
    smaller = replace(wanted, layers=(replace(wanted.layers[0], pieces=wanted.layers[0].pieces[1:]), wanted.layers[1]))
    with pytest.raises(ComputationError, match="not handed over"):
        EXPORTERS[kind].verify(data, smaller)
    shifted = replace(wanted, height=wanted.height + 0.2)
    with pytest.raises(ComputationError, match="course of a line"):
        EXPORTERS[kind].verify(data, shifted)


def test_what_is_compared_says_what_differs() -> None:
    wanted = make()
    own = [(line.layer, line.use, line.points()) for line in lines_of(wanted)]
    compare(own, wanted, 0.02)
    for wrong, what in (([*own[1:], own[0]], "line"), ([(1, own[0][1], own[0][2]), *own[1:]], "place"),
                        ([(own[0][0], own[0][1], own[0][2][:-1]), *own[1:]], "closing"), (own[:-1], "number")):
        with pytest.raises(ComputationError, match=what):
            compare(wrong, wanted, 0.02)
