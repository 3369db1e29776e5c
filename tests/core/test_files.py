"""Files for machines that know no SVG: read by parsers of their own, measured against the curves that were meant.

DXF R12 is read here by its group codes (Autodesk, DXF Reference, R12), HPGL word by word; curves of R2000 are evaluated by SciPy.
"""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pikepdf
import pypdfium2
import pytest
import resvg_py
import shapely
from ezdxf.filemanagement import read as read_dxf
from numpy.typing import NDArray
from PIL import Image
from scipy.interpolate import BSpline

from bisectum.core.errors import ComputationError, InputError
from bisectum.core.formats.exporters import EXPORTERS, PLAIN, export
from bisectum.core.formats.lines import compare, lines_of
from bisectum.core.formats.pdf.verify import verify_pdf
from bisectum.core.formats.pdf.write import Picture, write_pdf
from bisectum.core.formats.selection import Selection, selected
from bisectum.core.model.shapes_of import polygon_of
from tests.support.mats import folded as make

Lines = list[tuple[str, NDArray[np.float64], bool]]
"""Of each line its layer or pen, its places in mm with y up, and whether it is told to close."""


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
    assert all(len(uses) == 1 for uses in names.values()) and len(names) == 4
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
    assert len({colours[name] for name in ("1_Layer_1", "2_Layer_2", "1_Layer_1_fold")}) == 3
    r12 = export("dxf", make(), "x").decode("ascii").splitlines()
    assert r12[r12.index("$INSUNITS") + 2] == "4" and r12[r12.index("$ACADVER") + 2] == "AC1009"
    simple = read_dxf(io.StringIO("\n".join(r12)))
    of_layer = {entity.dxf.layer: entity.dxf.color for entity in simple.modelspace()}
    assert of_layer == {name: colours[name] for name in of_layer} and not simple.audit().has_errors
    assert export("hpgl", make(), "x").startswith(b"IN;\nSP1;") and export("dxf", make(), "x") == export("dxf", make(), "x")


@pytest.mark.parametrize("kind", ["dxf", "dxfcurves", "hpgl"])
def test_a_file_that_holds_something_else_is_not_handed_over(kind: str) -> None:
    wanted = make()
    data = EXPORTERS[kind].write(wanted, "x", PLAIN)
    smaller = replace(wanted, layers=(replace(wanted.layers[0], pieces=wanted.layers[0].pieces[1:]), wanted.layers[1]))
    with pytest.raises(ComputationError, match="not handed over"):
        EXPORTERS[kind].verify(data, smaller, PLAIN)
    shifted = replace(wanted, height=wanted.height + 0.2)
    with pytest.raises(ComputationError, match="course of a line"):
        EXPORTERS[kind].verify(data, shifted, PLAIN)


def test_what_is_compared_says_what_differs() -> None:
    wanted = make()
    own = [(line.layer, line.use, line.points()) for line in lines_of(wanted)]
    compare(own, wanted, 0.02)
    for wrong, what in (([*own[1:], own[0]], "line"), ([(1, own[0][1], own[0][2]), *own[1:]], "place"),
                        ([(own[0][0], own[0][1], own[0][2][:-1]), *own[1:]], "closing"), (own[:-1], "number")):
        with pytest.raises(ComputationError, match=what):
            compare(wrong, wanted, 0.02)


# PDF and PNG

def test_a_pdf_has_its_layers_and_its_lines_as_spot_colours() -> None:
    """Read by pikepdf (qpdf), which shares nothing with the writer. ISO 32000-1:2008, 8.6.6.4 and 8.11."""
    data = export("pdf", make(), "Sheet")
    with pikepdf.open(io.BytesIO(data)) as document:
        page = document.pages[0]
        assert [float(side) for side in page.mediabox][2:] == pytest.approx([140 / 25.4 * 72, 80 / 25.4 * 72], abs=1e-4)
        groups = document.Root.OCProperties.OCGs
        assert [str(group.Name) for group in groups] == [layer.name for layer in make().layers]
        spaces = page.Resources.ColorSpace
        assert [(str(space[0]), str(space[1])) for space in (spaces["/Scut"], spaces["/Sscore"])] == [
            ("/Separation", "/Cut line"), ("/Separation", "/Fold line")]
        assert bool(page.Resources.ExtGState["/Over"].OP)
        words = [str(instruction.operator) for instruction in pikepdf.parse_content_stream(page)]
        assert words.count("BDC") == words.count("EMC") == 2 and words.count("f*") == make().piece_count
        assert words.count("S") == 2 and words.count("SCN") == 1


def shown(kind: str) -> NDArray[np.float64]:
    """A file as whoever opens it sees it, on white, 0 to 1. (H, W, 3)."""
    data = export(kind, make(), "Sheet")
    if kind == "pdf":
        page = pypdfium2.PdfDocument(data)[0]
        return np.asarray(page.render(scale=150 / 72).to_pil().convert("RGB"), float) / 255
    if kind == "svg":
        drawn = resvg_py.svg_to_bytes(svg_string=data.decode(), dpi=150, width=round(140 / 25.4 * 150))
        picture = Image.open(io.BytesIO(bytes(drawn)))
    else:
        picture = Image.open(io.BytesIO(data))
        assert picture.info["dpi"] == pytest.approx((300, 300), abs=0.1)
        picture = picture.resize((picture.width // 2, picture.height // 2), Image.Resampling.BOX)
    whole = Image.new("RGBA", picture.size, "white")
    whole.alpha_composite(picture.convert("RGBA"))
    return np.asarray(whole.convert("RGB"), float) / 255


@pytest.mark.parametrize("kind", ["pdf", "png"])
def test_files_to_be_seen_look_as_the_svg_does(kind: str) -> None:
    """Three renderers: PDFium, resvg, and our own painting of the PNG."""
    one, other = shown(kind), shown("svg")
    high, wide = min(one.shape[0], other.shape[0]), min(one.shape[1], other.shape[1])
    away = np.abs(one[:high, :wide] - other[:high, :wide]).max(axis=2)
    assert abs(one.shape[1] - other.shape[1]) <= 1 and (away > 0.25).mean() < 0.02 and away.mean() < 0.012


def test_what_is_selected_is_what_is_in_the_file() -> None:
    own = make()
    lines = selected(own, Selection("hairline"))
    assert all(not layer.pieces for layer in lines.layers)
    assert sum(line.path.length for line in lines_of(lines)) == pytest.approx(sum(line.path.length for line in lines_of(own)))
    around = selected(own, Selection("outline"))
    outline = shapely.union_all([shapely.Polygon(line.points(0.001)) for line in lines_of(around)])
    filled = [shapely.Polygon(polygon_of(piece, 0.001).exterior) for layer in own.layers for piece in layer.pieces]
    every = shapely.union_all(filled)
    assert outline.symmetric_difference(every).area < 0.02 * len(list(lines_of(around)))
    assert len(selected(own, Selection("printed")).layers) == 3 and len(selected(own, Selection(layers=(1,))).layers) == 1
    for wrong in (Selection(layers=(7,)), Selection("outline", (1,))):
        if wrong.drawn == "outline":
            assert selected(own, wrong).layers
        else:
            with pytest.raises(InputError):
                selected(own, wrong)
    for kind in EXPORTERS:
        assert export(kind, lines, "Lines")


def test_pictures_lie_where_the_make_shows_them() -> None:
    pixels = np.zeros((20, 40, 4), np.uint8)
    pixels[:, :20] = (200, 30, 30, 255)
    matrix = np.array([[1.0, 0, 50.0], [0, 1.0, 30.0]])  # a pixel a mm, its corner at 50, 30
    drawing = selected(make(), Selection("outline"))
    data = write_pdf(drawing, "Sheet", "Through cut", [Picture(pixels, matrix)])
    verify_pdf(data, drawing, 1)
    assert b"/Through#20cut" in data
    with pytest.raises(ComputationError):
        verify_pdf(data, drawing, 0)
    page = pypdfium2.PdfDocument(data)[0].render(scale=10 * 25.4 / 72).to_pil().convert("RGB")
    assert page.getpixel((600, 400))[0] > 150 > page.getpixel((600, 400))[1]
    assert page.getpixel((800, 400)) == (255, 255, 255) and page.getpixel((600, 290))[1] > 150
