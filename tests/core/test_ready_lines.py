"""Vector files brought in: shapes and transforms of the standard, DXF of another library, real sizes, and what is refused."""

from __future__ import annotations

import io
import math
import random

import ezdxf
import numpy as np
import pytest
import resvg_py
from PIL import Image

from bisectum.core.errors import InputError
from bisectum.core.formats.ready.read import MOST_SEGMENTS, is_vector, lines_in, read_lines
from bisectum.core.items.lines import made_of_lines
from bisectum.core.items.settings import Lines
from bisectum.core.model.planar_map import PlanarMap
from tests.support.hostile import PLAIN, SOLIDS, damaged

MADE = Lines(source="0" * 64)
HEAD = ('<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="120mm" height="80mm" '
        'viewBox="0 0 120 80">')


def svg(inner: str, head: str = HEAD) -> bytes:
    return f"{head}{inner}</svg>".encode()


def area_of(planar: PlanarMap, label: int) -> float:
    areas = planar.half_areas()
    return sum(float(areas[loop].sum()) for face, loop in planar.loops() if face >= 0 and planar.face_labels[face] == label)


def painted_areas(data: bytes, px_per_mm: int = 20) -> dict[str, float]:
    """mm² of each colour, as another library paints the file."""
    png = bytes(resvg_py.svg_to_bytes(svg_string=data.decode(), width=120 * px_per_mm, height=80 * px_per_mm, dpi=96))
    rgba = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))
    colours, counts = np.unique(rgba[rgba[..., 3] == 255][:, :3], axis=0, return_counts=True)
    return {"#" + bytes(colour).hex(): count / px_per_mm**2 for colour, count in zip(colours, counts, strict=True)}


# After the examples of shapes, transforms, units, fill rules and `use` of the chapters 7 to 11 of SVG 1.1 (W3C 2011).
EXAMPLES = {
    "shapes": '<rect x="5" y="5" width="30" height="20" rx="4" fill="#ff0000"/><circle cx="60" cy="20" r="12" fill="#00aa00"/>'
              '<ellipse cx="95" cy="20" rx="15" ry="8" fill="#0000ff"/><polygon points="10,40 40,40 25,70" fill="#ff0000"/>'
              '<path d="M60 45 a15 15 0 1 0 15 15 z" fill="#00aa00"/><path d="M90 45 q15 5 20 25 t-25 0 z" fill="#0000ff"/>',
    "transforms": '<g transform="translate(30 10) rotate(20)"><rect width="20" height="10" fill="#ff0000"/>'
                  '<g transform="scale(1.5 .5) skewX(15)"><rect x="5" y="50" width="20" height="30" fill="#0000ff"/></g></g>'
                  '<g transform="matrix(.5 .2 -.2 .5 80 10)"><circle cx="30" cy="40" r="25" fill="#00aa00"/></g>',
    "upon each other": '<rect x="10" y="10" width="60" height="50" fill="#ff0000"/><rect x="30" y="20" width="60" height="20" '
                       'fill="#0000ff"/><circle cx="50" cy="40" r="10" fill="#ff0000"/>',
    "rules": '<path d="M10 10h40v40h-40z M20 20h20v20h-20z" fill="#ff0000"/>'
             '<path fill-rule="evenodd" d="M60 10h40v40h-40z M70 20h20v20h-20z" fill="#0000ff"/>',
    "use and styles": '<style>.a{fill:#00aa00} #b{fill:#0000ff}</style><defs><rect id="r" width="20" height="10"/></defs>'
                      '<use xlink:href="#r" x="10" y="10" class="a"/><use xlink:href="#r" transform="translate(60 30) scale(2)" '
                      'style="fill:#ff0000"/><rect id="b" x="10" y="40" width="15" height="15"/>',
}


@pytest.mark.parametrize("name", EXAMPLES)
def test_svg_comes_in_as_another_library_paints_it(name: str) -> None:
    data = svg(EXAMPLES[name])
    assert is_vector(data)
    ready = read_lines(data)
    ready.check()
    made = made_of_lines(ready, MADE)
    made.planar.check()
    ours = {colour.key: area_of(made.planar, number) for number, colour in enumerate(made.planar.palette.colours, 1)}
    painted = painted_areas(data)  # along edges there are mixes, too
    assert ours and all(painted[key] == pytest.approx(area, rel=0.012) for key, area in ours.items())


@pytest.mark.parametrize(("size", "width"), [
    ('width="4in" height="2in" viewBox="0 0 400 200"', 50.8), ('width="10cm" height="5cm" viewBox="0 0 100 50"', 200.0),
    ('width="96" height="48"', 52.916667), ('width="72pt" height="36pt" viewBox="0 0 72 36"', 70.555556),
])
def test_units_of_svg(size: str, width: float) -> None:
    ready = read_lines(svg('<rect width="200" height="20" fill="#000"/>', f'<svg xmlns="http://www.w3.org/2000/svg" {size}>'))
    assert np.ptp(ready.paths[0].segments[..., 0]) == pytest.approx(width, rel=1e-4)


def dxf(units: int = 4) -> bytes:
    document = ezdxf.new("R2010", units=units)
    space = document.modelspace()
    for one, other in (((0, 0), (40, 0)), ((40, 30), (40, 0)), ((40, 30), (0, 30)), ((0, 30), (0, 0))):
        space.add_line(one, other, dxfattribs={"color": 1})
    space.add_circle((60, 15), 10, dxfattribs={"color": 5})
    space.add_arc((100, 15), 10, 0, 90, dxfattribs={"color": 3})
    space.add_ellipse((130, 15), (15, 0), 0.5, dxfattribs={"color": 5})
    space.add_spline([(0, 50), (10, 60), (20, 50), (30, 60)], dxfattribs={"color": 3})
    block = document.blocks.new("B")
    block.add_lwpolyline([(0, 0), (10, 0), (10, 10), (0, 10)], close=True, dxfattribs={"color": 1})
    space.add_blockref("B", (60, 50), dxfattribs={"xscale": 2, "yscale": 2})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode()


@pytest.mark.parametrize(("units", "scale"), [(4, 1.0), (1, 25.4), (5, 10.0)])
def test_dxf_comes_in_at_its_real_size(units: int, scale: float) -> None:
    data = dxf(units)
    assert is_vector(data)
    ready = read_lines(data)
    assert ready.sized
    made = made_of_lines(ready, MADE)
    made.planar.check()
    keys = [colour.key for colour in made.planar.palette.colours]
    areas = {key: area_of(made.planar, number) / scale**2 for number, key in enumerate(keys, 1)}
    assert areas["#ff0000"] == pytest.approx(40 * 30 + 20 * 20, rel=1e-6)  # single lines joined, and a block put in
    assert areas["#0000ff"] == pytest.approx(math.pi * (100 + 15 * 7.5), rel=1e-3)
    assert made.open_lines == 2 and {stroke.role for stroke in made.strokes} == {"cut"}
    closed = made_of_lines(ready, Lines(source="0" * 64, close_open=True))
    assert closed.open_lines == 0 and not closed.strokes


def test_a_dxf_that_says_no_unit_is_sized_by_what_is_said() -> None:
    ready = read_lines(dxf(0))
    assert not ready.sized
    small, large = (made_of_lines(ready, Lines(source="0" * 64, unit=unit)).planar for unit in ("mm", "in"))
    assert np.ptp(large.segments[..., 0]) == pytest.approx(25.4 * np.ptp(small.segments[..., 0]))


BOMB = (b'<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]>'
        b'<svg xmlns="http://www.w3.org/2000/svg"><text>&b;</text></svg>')
MANY = svg('<path stroke="#000" fill="none" d="M0 0' + "l1 1 1 -1" * MOST_SEGMENTS + '"/>')


@pytest.mark.parametrize(("data", "code"), [
    (BOMB, "svg_entities"), (svg("<text>Quillhaven</text>"), "lines_empty"), (svg("<rect"), "lines_damaged"),
    (b"0\nSECTION\n2\nnonsense", "lines_empty"), (MANY, "lines_too_many"),
])
def test_what_cannot_be_used_is_refused_with_a_sentence(data: bytes, code: str) -> None:
    with pytest.raises(InputError) as refused:
        read_lines(data)
    assert refused.value.code == code


def test_ready_lines_are_an_item_beside_others() -> None:
    from bisectum.core.course import CourseSettings, Source
    from bisectum.core.formats.svg.verify import verify_svg
    from bisectum.core.formats.svg.write import write_svg
    from bisectum.core.job import new_document
    from bisectum.core.make import run_make

    rgba = np.full((60, 60, 4), 255, np.uint8)
    rgba[15:45, 15:45, :3] = (20, 90, 160)
    document = new_document("0" * 64, "", "both", CourseSettings()).with_made("lines", "logo", {"made": {"source": "1" * 64}})
    lines = {"1" * 64: read_lines(svg(EXAMPLES["upon each other"] + '<path d="M20 70h60" stroke="#0000ff" fill="none"/>'))}
    made = run_make({"0" * 64: Source(rgba, 0.5, "0" * 64)}, document, {}, lines=lines)
    made.arrangement.check()
    made.artwork.check()
    verify_svg(write_svg(made.artwork, "both"), made.artwork)
    assert len(made.artwork.layers) == 3 and made.artwork.stroke_count == 1 and made.open_lines == {"lines-2": 1}
    left, top, right, bottom = made.arrangement.frame("lines-2").box
    assert (right - left, bottom - top) == pytest.approx((80, 60))


@pytest.mark.parametrize("sound", [PLAIN, SOLIDS], ids=["SVG", "DXF"])
def test_a_damaged_file_is_lines_or_a_sentence(sound: bytes) -> None:
    """Whatever the libraries that read it stumble on."""
    refused = 0
    for seed in range(150):
        try:
            lines_in(damaged(sound, random.Random(seed)))
        except InputError as error:
            refused += 1
            assert error.message.endswith(".")
    assert 0 < refused < 150
