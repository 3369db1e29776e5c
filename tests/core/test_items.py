"""Lettering, shapes, drawn lines: their sizes, the fonts' own rules, and what cannot be made."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
import shapely
import uharfbuzz
from fontTools.pens.boundsPen import BoundsPen
from fontTools.ttLib import TTFont

from bisectum.core.errors import SettingsError
from bisectum.core.geom.bezier import bounds
from bisectum.core.items.border import border_map
from bisectum.core.items.drawn import drawn_rings, nodes_of_stroke, segments_of
from bisectum.core.items.lettering import lettering_rings, missing_characters
from bisectum.core.items.ready import welded
from bisectum.core.items.settings import Border, Drawn, Lettering, Node, Shape
from bisectum.core.items.shapes import shape_rings
from bisectum.core.items.thin import thin_share
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.shapes_of import polygon_of as piece_polygon
from bisectum.services.fonts import SHIPPED, shipped_files
from tests.support.letters import ATKINSON, glyph
from tests.support.outlines import area_of, polygon_of

FONTS = {font.id: shipped_files(font.id) for font in SHIPPED}
FORMS = ("rectangle", "ellipse", "polygon", "star", "heart", "drop", "tag", "bar", "frame")


def lettered(text: str, font: str = "nunito", **settings: object) -> PlanarMap:
    rings, _ = lettering_rings(Lettering(text=text, font=font, **settings), FONTS)  # type: ignore[arg-type]
    planar = welded(rings, "#000000")
    planar.check()
    return planar


def pieces(planar: PlanarMap) -> int:
    """Connected parts: no two cut faces of a welded map touch."""
    return int((planar.face_labels > 0).sum())


# Lettering


@pytest.mark.parametrize("font", ["dancing-script", "stardos-stencil", "rubik"])
@pytest.mark.parametrize("corners", ["round", "sharp"])
def test_a_border_has_no_windows_and_no_slits(font: str, corners: str) -> None:
    """Letters that grow together shut gaps in; what a blade could not part is closed."""
    letters = lettered("Rosa & Bo", font, capital_mm=22.0)
    made, open_ones = (border_map(letters, Border.model_validate({"distance_mm": 2.0, "corners": corners, "windows": windows}))
                       for windows in ("drop", "keep"))
    found, kept = (pieces_of_faces(one, np.append(one.face_labels > 0, False), False) for one in (made, open_ones))
    assert found and not any(piece.windows for piece in found) and any(piece.windows for piece in kept)
    shape = shapely.union_all([piece_polygon(piece, 0.001) for piece in found])
    if corners == "sharp":  # corners inwards are pointed, then
        return
    assert shape.buffer(0.08).buffer(-0.08).difference(shape.buffer(0.002)).area < 2e-3


def test_shipped_fonts_letter_and_weld() -> None:
    """Twelve at least, with their licence; letters of a script melt into words, others stay by themselves."""
    assert len(SHIPPED) >= 12 and {font.style for font in SHIPPED} >= {"plain", "slab", "round", "script", "stencil", "display",
                                                                        "handwritten"}
    for font in SHIPPED:
        assert pieces(lettered("Harbour", font.id)) >= (1 if font.style == "script" else 3), font.id
    assert pieces(lettered("anna", "pacifico")) == 1
    assert pieces(lettered("lamp", "nunito")) == 4


def test_capitals_have_the_height_that_was_asked_for() -> None:
    for font in ("nunito", "zilla-slab", "bebas-neue"):
        assert lettered("HH", font, capital_mm=20).height == pytest.approx(20, abs=0.01), font


def test_words_are_as_wide_as_harfbuzz_and_fonttools_say() -> None:
    """With the font's kerning: the sum of HarfBuzz's advances; without, that of fontTools' metrics is another one."""
    data = FONTS["nunito"][0]
    face = uharfbuzz.Face(data)
    buffer = uharfbuzz.Buffer()
    buffer.add_str("HAVH")
    buffer.guess_segment_properties()
    uharfbuzz.shape(uharfbuzz.Font(face), buffer)
    advances = [position.x_advance for position in buffer.glyph_positions]
    font = TTFont(io.BytesIO(data))
    plain = [font["hmtx"][font.getBestCmap()[ord(character)]][0] for character in "HAVH"]
    assert sum(advances) < sum(plain)  # A and V are kerned
    pen = BoundsPen(font.getGlyphSet())
    font.getGlyphSet()[font.getBestCmap()[ord("H")]].draw(pen)
    left, low, right, high = pen.bounds
    expected = sum(advances) - left - (plain[-1] - right)  # from the first stem to the last
    assert lettered("HAVH", capital_mm=20).width == pytest.approx(expected * 20 / (high - low), rel=1e-4)
    wider = lettered("HAVH", capital_mm=20, spacing_mm=1)
    assert wider.width == pytest.approx(lettered("HAVH", capital_mm=20).width + 3, abs=0.01)


def test_outlines_are_the_fonts_own() -> None:
    """Against fontTools, which draws the same glyph by other means."""
    font = TTFont(ATKINSON)
    font.flavor = None
    buffer = io.BytesIO()
    font.save(buffer)
    rings, _ = lettering_rings(Lettering(text="g", font="a" * 64, capital_mm=30), {"a" * 64: [buffer.getvalue()]})
    theirs, _ = glyph("g", 30, ATKINSON)
    assert area_of(welded(rings, "#000000")) == pytest.approx(theirs.area, rel=2e-3)


def test_other_scripts_run_their_own_way() -> None:
    """Hebrew and Arabic from right to left; Arabic letters join."""
    assert pieces(lettered("سلام", "amiri")) < 4
    first, last = lettered("א", "rubik"), lettered("אב", "rubik")
    assert last.width > first.width
    # In "אב" the first letter stands at the right.
    right = max(bounds(last.walk(half)[0])[2] for half in range(0, 2 * last.chain_count, 2))
    assert right == pytest.approx(last.width / 2, abs=0.01)
    assert missing_characters("Привет", FONTS["rubik"]) == ""


def test_lines_and_bends() -> None:
    two = lettered("HH\nHH", line_height=1.0)
    assert two.height > 2 * lettered("HH").height
    for inward in (False, True):
        bent = lettered("HHHHHHHHHHHHHH", capital_mm=8, along="circle", radius_mm=30, inward=inward)
        reach = np.concatenate([bent.walk(half)[0][:, 0] for half in range(0, 2 * bent.chain_count, 2)])
        # All letters stand between two circles as far apart as they are high, so they are no wider than the outer one.
        assert 38 < np.ptp(reach[:, 0]) < 2 * 38.5
    with pytest.raises(SettingsError, match="room"):
        lettered("H\nH\nH\nH", capital_mm=10, along="circle", radius_mm=5)


def test_characters_that_a_font_lacks_are_named() -> None:
    rings, missing = lettering_rings(Lettering(text="Tea 🫖 ☕", font="nunito"), FONTS)
    assert missing == "🫖☕" and len(rings[0])
    with pytest.raises(SettingsError, match="none of these") as refused:
        lettering_rings(Lettering(text="🫖", font="nunito"), FONTS)
    assert refused.value.details["characters"] == "🫖"
    for data, code in ((b"", "font_damaged"), (b"no font at all", "no_font"), (FONTS["nunito"][0][:900], None)):
        with pytest.raises(SettingsError) as wrong:
            lettering_rings(Lettering(text="A", font="b" * 64), {"b" * 64: [data]})
        assert code is None or wrong.value.code in ("no_font", "font_damaged")
    with pytest.raises(SettingsError, match="no longer there"):
        lettering_rings(Lettering(text="A", font="c" * 64), {})


def test_thin_strokes_are_told() -> None:
    """Of a bar as wide as asked nothing is thin, of a narrower one all; small script is, the same letters large are not."""
    def bar(height: float) -> PlanarMap:
        return welded(shape_rings(Shape(form="rectangle", width_mm=30, height_mm=height)), "#000000")

    assert thin_share(bar(0.9), 0.8) < 0.01 and thin_share(bar(0.7), 0.8) == 1
    assert thin_share(lettered("Quill", "caveat", capital_mm=5), 0.8) > 0.3
    assert thin_share(lettered("Quill", "caveat", capital_mm=40), 0.8) < 0.02


# Shapes


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("corner", [0, 3])
def test_shapes_have_the_sizes_that_were_typed(form: str, corner: float) -> None:
    planar = welded(shape_rings(Shape(form=form, width_mm=47, height_mm=31, corner_mm=corner)), "#000000")  # type: ignore[arg-type]
    planar.check()
    assert (planar.width, planar.height) == pytest.approx((47, 31), abs=0.02 if corner and form in ("polygon", "star") else 1e-6)


def test_areas_of_shapes() -> None:
    def area(**fields: object) -> float:
        return area_of(welded(shape_rings(Shape(width_mm=40, height_mm=30, **fields)), "#000000"))  # type: ignore[arg-type]

    assert area(form="rectangle") == pytest.approx(1200)
    assert area(form="rectangle", corner_mm=5) == pytest.approx(1200 - (4 - math.pi) * 25, rel=1e-4)
    assert area(form="ellipse") == pytest.approx(math.pi * 20 * 15, rel=1e-3)
    assert area(form="bar") == pytest.approx(10 * 30 + math.pi * 225, rel=1e-3)
    assert area(form="frame", band_mm=4) == pytest.approx(1200 - 32 * 22)
    assert area(form="tag", hole_mm=6) == pytest.approx(area(form="tag", hole_mm=0) - math.pi * 9, rel=1e-3)


def test_shapes_that_leave_nothing() -> None:
    with pytest.raises(SettingsError, match="band"):
        shape_rings(Shape(form="frame", band_mm=20, width_mm=30, height_mm=30))
    with pytest.raises(SettingsError, match="hole"):
        shape_rings(Shape(form="tag", hole_mm=40))


# Drawn lines


def stroke(closed: bool, count: int = 200) -> np.ndarray:
    """A hand-drawn ring of radius 20 that shakes a little, or a wave."""
    rng = np.random.default_rng(3)
    t = np.linspace(0, 2 * np.pi * (0.99 if closed else 1), count)
    line = np.stack([20 * np.cos(t), 20 * np.sin(t)], axis=1) if closed else np.stack([10 * t, 6 * np.sin(t)], axis=1)
    return line + rng.normal(0, 0.12, line.shape) + [50, 40]


def test_a_stroke_becomes_a_smooth_piece_or_a_line() -> None:
    nodes, closed, middle = nodes_of_stroke(stroke(True), 0.2)
    assert closed and 3 <= len(nodes) <= 12 and middle == pytest.approx((50, 40), abs=0.5)
    ring, _ = segments_of(Drawn(nodes=nodes, closed=True))
    assert polygon_of(ring).symmetric_difference(shapely.Point(0, 0).buffer(20, 128)).area < 0.04 * math.pi * 400
    nodes, closed, _ = nodes_of_stroke(stroke(False), 0.2)
    assert not closed and len(nodes) <= 12
    line = Drawn(nodes=nodes, closed=False, width_mm=3)
    planar = welded(drawn_rings(line), "#000000", fewer=True, about=(0, 0))
    middle_line = shapely.LineString(polygon_of(np.concatenate([segments_of(line)[0]])).exterior.coords[:-1])
    assert area_of(planar) == pytest.approx(middle_line.buffer(1.5, 64).area, rel=1e-3)
    with pytest.raises(SettingsError, match="dot"):
        nodes_of_stroke(np.array([[0.0, 0.0], [0.1, 0.0]]), 0.1)


def test_straight_sides_stay_straight() -> None:
    drawn = Drawn(nodes=tuple(Node(x=x, y=y) for x, y in ((0, 0), (10, 0), (10, 10))), closed=True)
    segments, straight = segments_of(drawn)
    assert straight.all() and area_of(welded((segments, straight), "#000000")) == pytest.approx(50)
    twice = drawn.scaled(2)
    assert area_of(welded(segments_of(twice), "#000000")) == pytest.approx(200)
