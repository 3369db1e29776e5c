"""The plain SVG: its rules, and two readers that did not write it."""

from __future__ import annotations

import dataclasses
import io
import re

import numpy as np
import pytest
import svgelements
from hypothesis import given
from hypothesis import strategies as st

from bisectum.core.errors import ComputationError, InputError, SettingsError
from bisectum.core.formats.svg.read import read_svg
from bisectum.core.formats.svg.verify import verify_svg
from bisectum.core.formats.svg.write import write_svg
from bisectum.core.model.artwork import Artwork
from bisectum.core.units import parse_area_mm2, parse_length_mm, short_number
from tests.support.asserts import layer_polygons, trace
from tests.support.drawings import INK, circle, painted, turned_square


@pytest.fixture(scope="module")
def artwork() -> Artwork:
    ring = circle(70, 70, 50).difference(circle(70, 70, 30))
    return trace(
        painted([(ring, INK), (turned_square(70, 70, 20, 12), (200, 60, 40))], 140, 140), 0.3, picture={"width_mm": 60.0}
    ).artwork


def test_only_what_plain_svg_allows(artwork: Artwork) -> None:
    text = write_svg(artwork, "A <tray> & \x00 lid")
    assert set(re.findall(r"<(\w+)", text)) == {"svg", "title", "g", "path"}
    assert "<title>A &lt;tray&gt; &amp;  lid</title>" in text
    assert f'width="60mm" height="{short_number(artwork.height)}mm" viewBox="0 0 60 {short_number(artwork.height)}"' in text
    for data in re.findall(r' d="([^"]*)"', text):
        assert re.fullmatch(r"(M[^MZ]*Z)+", data)
        assert all(len(decimals) <= 3 and not decimals.endswith("0") for decimals in re.findall(r"\.(\d+)", data))
    assert not re.search(r"stroke|style|class|transform|clip|xmlns:|<script", text)
    assert text == write_svg(artwork, "A <tray> & \x00 lid")


def test_another_reader_finds_the_same_sizes_and_areas(artwork: Artwork) -> None:
    """svgelements, which knows nothing of Bisectum, reads the file at 96 px to the inch."""
    drawing = svgelements.SVG.parse(io.StringIO(write_svg(artwork, "t")), reify=True, ppi=96)
    scale = 96 / 25.4
    assert float(drawing.width) / scale == pytest.approx(60, abs=1e-3)
    groups = [element for element in drawing.elements() if isinstance(element, svgelements.Group) and element.id]
    assert [group.id for group in groups] == ["layer-1-dark-blue", "layer-2-white", "layer-3-red"]
    for layer, group in zip(artwork.layers, groups, strict=True):
        paths = [element for element in group if isinstance(element, svgelements.Path)]
        assert len(paths) == len(layer.pieces)
        assert all(path.fill.hexrgb == "#{:02x}{:02x}{:02x}".format(*layer.rgb) for path in paths)
        area = 0.0
        for path in paths:
            for part in path.as_subpaths():
                curve = svgelements.Path(part)
                assert isinstance(curve[-1], svgelements.Close)
                places = np.array([complex(curve.point(t)) for t in np.linspace(0, 1, 3001)]) / scale
                area += float((places.real * np.roll(places.imag, -1) - np.roll(places.real, -1) * places.imag).sum() / 2)
        assert area == pytest.approx(sum(piece.area for piece in layer.pieces), rel=2e-3)
        assert area == pytest.approx(layer_polygons(layer).area, rel=2e-3)


def test_what_was_written_is_compared(artwork: Artwork) -> None:
    text = write_svg(artwork, "t")
    verify_svg(text, artwork)
    layer = artwork.layers[0]
    spoilt = {
        "colour": text.replace('fill="#1e3c78"', 'fill="#1e3c79"'),
        "size": text.replace('width="60mm"', 'width="61mm"').replace('viewBox="0 0 60 ', 'viewBox="0 0 61 '),
        "layers": re.sub(r'<g id="layer-3.*?</g>\n', "", text, flags=re.S),
        "pieces": text.replace("</g>", '<path d="M0,0L1,0L1,1Z"/></g>', 1),
        "area": re.sub(r'(<path d="M)(\d)', r"\g<1>9\g<2>", text, count=1),
    }
    for name, broken in spoilt.items():
        assert broken != text, name
        with pytest.raises(ComputationError) as error:
            verify_svg(broken, artwork)
        assert error.value.code == "file_differs", name
    with pytest.raises(ComputationError):
        verify_svg(text, dataclasses.replace(artwork, layers=(*artwork.layers, layer)))


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("<svg", "svg_unreadable"),
        ('<svg xmlns="http://www.w3.org/2000/svg"><rect/></svg>', "svg_not_plain"),
        ('<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10mm" viewBox="0 0 10 10"/>', "svg_size"),
        ('<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 20 10"/>', "svg_size"),
        (
            '<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm" viewBox="0 0 9 9">'
            '<g><path d="M0,0L1,1"/></g></svg>',
            "svg_open_path",
        ),
    ],
)
def test_what_is_not_plain_is_refused(text: str, code: str) -> None:
    with pytest.raises(InputError) as error:
        read_svg(text)
    assert error.value.code == code


@given(st.floats(-1e4, 1e4), st.integers(0, 5))
def test_numbers_are_short_and_near(value: float, decimals: int) -> None:
    text = short_number(value, decimals)
    assert abs(float(text) - value) <= 0.5 * 10.0**-decimals + 1e-9
    assert text != "-0" and "e" not in text
    assert "." not in text or not text.endswith(("0", "."))


def test_lengths_as_people_write_them() -> None:
    assert [parse_length_mm(text) for text in ("120mm", "4.7in", "12 cm", "0,5mm", '2"')] == pytest.approx(
        [120, 119.38, 120, 0.5, 50.8]
    )
    assert parse_area_mm2("1mm2") == 1 and parse_area_mm2("2 cm²") == 200
    for wrong in ("", "12", "mm", "12 px", "1mm2", "-3mm", "1e3mm"):
        with pytest.raises(SettingsError):
            parse_length_mm(wrong)
    with pytest.raises(SettingsError):
        parse_area_mm2("3mm")
