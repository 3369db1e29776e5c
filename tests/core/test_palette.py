"""The palette: pins, counts, changes by hand, the dropper, stocks and their CSV."""

from __future__ import annotations

import io
import string

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from pydantic import ValidationError

from bisectum.core.errors import BrokenStructure
from bisectum.core.formats.stocks_csv import StocksError, parse_stocks, write_stocks
from bisectum.core.model.stock import KINDS, Stock, match
from bisectum.core.raster.absorb import absorb_small
from bisectum.core.raster.colour import hex_of
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.raster.regions import regions_of
from bisectum.core.steps.colours.dropper import flat_colour
from bisectum.core.steps.colours.fine_differences import settled_modes
from bisectum.core.steps.colours.flat_pixels import flat_colours
from bisectum.core.steps.colours.lost_colours import missed_colours
from bisectum.core.steps.colours.modes import is_mix, without_echoes
from bisectum.core.steps.colours.settings import ColoursSettings
from tests.support.asserts import Traced, assert_watertight, trace
from tests.support.drawings import circle, coverage, painted, parted, turned_square

BLUE, LIKE_BLUE, RED, YELLOW = (40, 80, 140), (52, 96, 160), (200, 60, 40), (240, 196, 70)
#: a wall of two blues beside each other, a red disc in it, two small lamps on the disc
SCENE = [
    (turned_square(70, 100, 80, 0), BLUE), (turned_square(150, 100, 80, 0), LIKE_BLUE), (circle(110, 100, 34), RED),
    (circle(100, 95, 5), YELLOW), (circle(122, 95, 5), YELLOW),
]


def drawn(**colours: object) -> Traced:
    result = trace(painted(SCENE, 220, 200), picture={"measured": "picture"}, colours=colours)
    result.label_map.check()
    assert_watertight(result.planar_map)
    return result


def keys(result: Traced) -> set[str]:
    return {colour.key for colour in result.label_map.palette.colours}


def notes(result: Traced, code: str) -> list[dict[str, object]]:
    return [finding.details for finding in result.label_map.findings if finding.code == code]


ALL = {hex_of(colour) for colour in (BLUE, LIKE_BLUE, RED, YELLOW)}


# Counts and pins


def test_what_is_there_is_found_and_a_smaller_count_says_what_went() -> None:
    assert keys(drawn()) == ALL
    three = drawn(count=3)
    assert keys(three) == ALL - {hex_of(LIKE_BLUE)} or keys(three) == ALL - {hex_of(BLUE)}
    (joined,) = notes(three, "joined")
    assert {joined["one"], joined["other"]} == {hex_of(BLUE), hex_of(LIKE_BLUE)} and joined["name"].endswith("lue")


def test_paper_that_is_shut_in_is_none_of_the_colours_asked_for() -> None:
    """A ring of dough, its hole showing the paper, with two toppings: three colours, one of them small."""
    dough, pink, lamp = (200, 140, 80), (240, 120, 180), (60, 60, 60)
    ring = circle(100, 100, 80).difference(circle(100, 100, 30))
    shapes = [(ring, dough), (circle(100, 100, 70).difference(circle(100, 100, 40)), pink), (circle(100, 45, 4), lamp)]
    result = trace(painted(shapes, 200, 200), colours={"count": 3})
    assert {hex_of(colour) for colour in (dough, pink, lamp)} <= keys(result)
    assert not notes(result, "joined")


@pytest.mark.parametrize("deviation", [6, 12, 20])
def test_grain_makes_no_photograph_and_no_scraps(deviation: float) -> None:
    """Flat art with grain has the colours it has without, in pieces as few."""
    rgba = painted(SCENE, 220, 200)
    grain = np.random.default_rng(5).normal(0, deviation, rgba[..., :3].shape)
    rgba[..., :3] = np.clip(rgba[..., :3] + grain, 0, 255)
    result = trace(rgba, picture={"measured": "picture"}, pieces={"smallest_mm2": 0})
    assert result.label_map.told.kind == "clip-art"
    found = cielab(np.array([colour.rgb for colour in result.label_map.palette.colours], np.uint8))
    wanted = cielab(np.array([BLUE, LIKE_BLUE, RED, YELLOW], np.uint8))
    away = ciede2000(wanted[:, None], found[None]).min(axis=1)
    assert (away[[0, 2, 3]] < 6).all() and len(found) <= 5  # the two blues are as near to each other as grain is wide
    assert result.artwork.piece_count <= 8


def test_a_speckled_picture_is_told_and_limited() -> None:
    """Glitter: thousands of bits of a few colours within one outline."""
    rng = np.random.default_rng(2)
    bits = np.array([BLUE, RED, YELLOW, (90, 160, 90)], np.uint8)[rng.integers(0, 4, (135, 135))]
    rgba = np.full((600, 600, 4), 255, np.uint8)
    rgba[30:570, 30:570, :3] = np.repeat(np.repeat(bits, 4, axis=0), 4, axis=1)
    result = trace(rgba, colours={"kind": "clip-art"})
    told = notes(result, "speckled")
    assert len(told) == 1 and int(str(told[0]["count"])) > 100
    assert len(regions_of(result.label_map.labels).sizes) <= 2600


def test_pins_are_exact_and_never_go() -> None:
    lamp = "#f2c33c"  # what the person says the lamps are, not quite what is there
    pinned = drawn(pins=[{"colour": lamp, "name": "Lamp"}])
    assert keys(pinned) == ALL - {hex_of(YELLOW)} | {lamp}
    assert next(colour for colour in pinned.label_map.palette.colours if colour.key == lamp).name == "Lamp"
    both = drawn(count=2, pins=[{"colour": lamp}, {"colour": hex_of(RED)}])
    assert keys(both) == {lamp, hex_of(RED)}
    assert {lamp, hex_of(RED)} < keys(drawn(count=3, pins=[{"colour": lamp}, {"colour": hex_of(RED)}]))


def test_a_pin_that_is_nowhere_is_told() -> None:
    result = drawn(pins=[{"colour": "#00ff90"}])
    assert notes(result, "pin_unused") == [{"colour": "#00ff90"}] and keys(result) == ALL


def test_a_photographs_pins_are_among_its_tones() -> None:
    x, y = np.meshgrid(np.arange(160), np.arange(120))
    rgba = np.dstack([60 + x, 40 + y, 120 + 40 * np.sin(x / 20), np.full(x.shape, 255)]).astype(np.uint8)
    result = trace(rgba, background={"mode": "keep"}, colours={"kind": "photo", "count": 4, "pins": [{"colour": "#d09060"}]})
    assert "#d09060" in keys(result) and len(keys(result)) == 4


@pytest.mark.parametrize(
    "wrong",
    [{"count": 0}, {"count": 25}, {"pins": [{"colour": "#112233"}, {"colour": "#112233"}]}, {"pins": [{"colour": "red"}]},
     {"palette_changes": [{"kind": "merge", "colour": "#112233", "into": "#112233"}]},
     {"palette_changes": [{"kind": "give", "into": "#112233"}]}, {"palette_changes": [{"kind": "clear"}]}],
    ids=str,
)
def test_settings_that_make_no_sense_are_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        ColoursSettings.model_validate(wrong)


# Shading


@pytest.mark.parametrize("steps", [3, 5])
def test_shading_is_cut_into_even_steps_with_smooth_edges(steps: int) -> None:
    """A disc that shades from left to right: the steps' edges are upright and evenly apart, and nothing frays."""
    disc, box = (coverage(shape, 300, 240)[..., None] for shape in (circle(150, 120, 90), turned_square(150, 120, 60, 10)))
    x = np.arange(300)[None, :, None] - 60.0
    shade = np.array([40.0, 90, 180]) + x * np.array([0.8, 0.6, -0.2]) * np.ones((240, 1, 1))
    image = 255 * (1 - disc) + shade * disc
    image = image * (1 - box) + np.array(RED, float) * box
    rgba = np.dstack([np.clip(np.rint(image), 0, 255), np.full((240, 300), 255)]).astype(np.uint8)
    result = trace(rgba, picture={"measured": "picture"}, colours={"shades": steps}, layers={"build": "stacked"})
    assert_watertight(result.planar_map)
    assert len(result.label_map.palette.colours) == steps + 1 and hex_of(RED) in keys(result)
    assert result.artwork.piece_count <= steps + 2 and result.artwork.node_count < 16 * (steps + 1)
    row = result.label_map.labels[80, 70:230]  # above the box
    edges = np.flatnonzero(np.diff(row))
    assert len(edges) == steps - 1
    assert np.diff(edges) == pytest.approx(np.diff(edges).mean(), rel=0.12)


# By hand


def test_two_blues_are_merged_into_one_piece() -> None:
    apart, merged = drawn(), drawn(palette_changes=[{"kind": "merge", "colour": hex_of(LIKE_BLUE), "into": hex_of(BLUE)}])
    assert keys(merged) == ALL - {hex_of(LIKE_BLUE)}
    shares = {colour.key: colour.share for colour in apart.label_map.palette.colours}
    one = next(colour for colour in merged.label_map.palette.colours if colour.key == hex_of(BLUE))
    assert one.share == pytest.approx(shares[hex_of(BLUE)] + shares[hex_of(LIKE_BLUE)], abs=1e-9)
    assert len(merged.planar_map.face_labels) == len(apart.planar_map.face_labels) - 1


def test_a_colour_left_out_is_seen_through_or_filled() -> None:
    red = hex_of(RED)
    clear, fill = (drawn(palette_changes=[{"kind": kind, "colour": red}]) for kind in ("clear", "fill"))
    assert keys(clear) == keys(fill) == ALL - {red}
    assert clear.label_map.labels[110, 110] == 0 and fill.label_map.labels[110, 110] != 0
    assert (fill.label_map.labels > 0).sum() == (drawn().label_map.labels > 0).sum()
    blue = 1 + [colour.key for colour in fill.label_map.palette.colours].index(hex_of(BLUE))
    assert fill.label_map.labels[115, 90] == blue  # left of the middle, the left wall is nearer


def test_an_area_goes_to_another_layer_or_to_one_of_its_own() -> None:
    at = {"x": 100.5 / 220, "y": 95.5 / 220}
    to_red = drawn(palette_changes=[{"kind": "give", "into": hex_of(RED), **at}])
    assert [colour.key for colour in to_red.label_map.palette.colours].count(hex_of(YELLOW)) == 1
    areas = np.bincount(to_red.planar_map.face_labels)
    yellow = 1 + [colour.key for colour in to_red.label_map.palette.colours].index(hex_of(YELLOW))
    assert areas[yellow] == 1  # the other lamp stays
    own = drawn(palette_changes=[{"kind": "give", **at}])
    assert keys(own) == ALL | {f"{hex_of(YELLOW)}-2"}
    assert {layer.key for layer in own.artwork.layers} == keys(own)
    assert len({layer.name for layer in own.artwork.layers}) == 5
    # Another change may speak of the second role.
    again = drawn(palette_changes=[
        {"kind": "give", **at}, {"kind": "merge", "colour": f"{hex_of(YELLOW)}-2", "into": hex_of(RED)},
    ])
    assert keys(again) == ALL


def test_ringed_areas_go_together() -> None:
    def ring(x0: float, y0: float, x1: float, y1: float) -> list[tuple[float, float]]:
        return [(x0 / 220, y0 / 220), (x1 / 220, y0 / 220), (x1 / 220, y1 / 220), (x0 / 220, y1 / 220)]

    lamps, disc, nowhere = ring(90, 85, 132, 105), ring(70, 60, 150, 140), ring(2, 2, 20, 20)
    own = drawn(palette_changes=[{"kind": "give", "ring": lamps}])
    assert keys(own) == ALL - {hex_of(YELLOW)} | {f"{hex_of(YELLOW)}-2"}  # both lamps, and not the disc they are on
    assert keys(drawn(palette_changes=[{"kind": "give", "ring": lamps, "into": hex_of(RED)}])) == ALL - {hex_of(YELLOW)}
    in_wall = drawn(palette_changes=[{"kind": "give", "ring": disc, "into": hex_of(BLUE)}])
    assert keys(in_wall) == {hex_of(BLUE), hex_of(LIKE_BLUE)}
    missed = drawn(palette_changes=[{"kind": "give", "ring": nowhere}])
    assert notes(missed, "palette_changes_left_out") == [{"count": 1, "numbers": [0]}] and keys(missed) == ALL


def test_a_colour_is_split_by_likeness() -> None:
    both = drawn(count=3)
    blue = next(iter(keys(both) - {hex_of(RED), hex_of(YELLOW)}))
    parted = drawn(count=3, palette_changes=[{"kind": "split", "colour": blue}])
    assert keys(parted) == ALL


def test_changes_that_find_nothing_are_told_and_lose_nothing() -> None:
    result = drawn(palette_changes=[{"kind": "clear", "colour": "#010203"}, {"kind": "give", "x": 0.01, "y": 0.01},
                                    {"kind": "clear", "colour": hex_of(YELLOW)}])
    assert notes(result, "palette_changes_left_out") == [{"count": 2, "numbers": [0, 1]}]
    assert keys(result) == ALL - {hex_of(YELLOW)}


def test_near_alike_colours_are_told_with_their_difference() -> None:
    near = [(turned_square(60, 60, 50, 0), (60, 90, 150)), (turned_square(140, 60, 50, 0), (66, 97, 156))]
    result = trace(painted(near, 200, 120), colours={"pins": [{"colour": hex_of(c)} for _, c in near]})
    (note,) = notes(result, "near_alike")
    assert {note["one"], note["other"]} == {hex_of(c) for _, c in near} and 1 < float(str(note["difference"])) < 6


# The dropper


def test_the_dropper_never_takes_a_fringe() -> None:
    """Wherever it is held within a pixel or two of an edge, it gives one of the two colours beside it."""
    rgba = painted([(circle(40.3, 39.6, 22), RED)], 80, 80)
    for angle in np.linspace(0, 2 * np.pi, 40):
        for reach in (20.5, 21.5, 22.0, 22.5, 23.5):
            found = flat_colour(rgba, 40.3 + reach * np.cos(angle), 39.6 + reach * np.sin(angle))
            assert found in (RED, (255, 255, 255)), (angle, reach)
    grainy = rgba.copy()
    grain = np.random.default_rng(1).normal(0, 2, (80, 80, 3))
    grainy[..., :3] = np.clip(np.rint(rgba[..., :3] + grain), 0, 255)
    found = flat_colour(grainy, 40, 40)
    assert found is not None and np.abs(np.array(found) - RED).max() <= 2
    assert flat_colour(rgba, -1, 5) is None and flat_colour(rgba, 5, 80) is None


# Stocks


WORDS = st.text(string.ascii_letters + string.punctuation + " äß“", min_size=1, max_size=30)
STOCKS = st.builds(
    Stock, name=WORDS.map(str.strip).filter(bool), kind=st.sampled_from(KINDS),
    rgb=st.tuples(*[st.integers(0, 255)] * 3), width_mm=st.integers(1, 9000).map(float),
    height_mm=st.integers(1, 9000).map(float),
    on_hand=st.booleans(), finish=WORDS.map(str.strip),
)


@settings(max_examples=80, deadline=None)
@given(st.lists(STOCKS, max_size=8))
def test_stocks_survive_their_csv(stocks: list[Stock]) -> None:
    """RFC 4180 by Python's own csv reader: as many records as stocks, lines end in CR LF, quotes are doubled."""
    import csv

    text = write_stocks(stocks)
    assert parse_stocks(text.encode()) == tuple(stocks)
    records = list(csv.reader(io.StringIO(text, newline="")))
    assert len(records) == len(stocks) + 1 and text.endswith("\r\n")
    for stock in stocks:
        stock.check()


@pytest.mark.parametrize(
    ("rows", "line", "word"),
    [
        ("name,kind,colour,width_mm\r\nA,card,#112233,10\r\n", 1, "height_mm is missing"),
        ("name,kind,colour,width_mm,height_mm\r\nA,card,#112233,10,20\r\nB,cloth,#112233,10,20\r\n", 3, "cloth"),
        ("name,kind,colour,width_mm,height_mm\r\n\r\nA,card,blue,10,20\r\n", 3, "blue"),
        ("name,kind,colour,width_mm,height_mm\r\nA,card,-12345,10,20\r\n", 2, "-12345"),
        ("name,kind,colour,width_mm,height_mm\r\nA,card,#1_2_34,10,20\r\n", 2, "#1_2_34"),
        ("name,kind,colour,width_mm,height_mm\r\nA,card,#112233,ten,20\r\n", 2, "ten"),
        ("name,kind,colour,width_mm,height_mm,on_hand\r\nA,card,#112233,10,20,perhaps\r\n", 2, "perhaps"),
        ("name,kind,colour,width_mm,height_mm\r\nA,card,#112233\r\n", 2, "3 values"),
        ('name,kind,colour,width_mm,height_mm\r\n"A"B,card,#112233,10,20\r\n', 2, "quotes"),
        ("name,kind,colour,width_mm,height_mm\r\n ,card,#112233,10,20\r\n", 2, "name"),
    ],
)
def test_a_wrong_line_is_named(rows: str, line: int, word: str) -> None:
    with pytest.raises(StocksError) as wrong:
        parse_stocks(rows.encode())
    assert wrong.value.details["line"] == line and word in wrong.value.message and f"Line {line}" in wrong.value.message


def test_a_file_that_is_no_text_is_refused() -> None:
    with pytest.raises(StocksError, match="UTF-8"):
        parse_stocks(b"\xff\xfe\x00")


def test_the_nearest_stock_is_found_and_what_is_at_hand_comes_first() -> None:
    drawer = [
        Stock("Bought", "card", (40, 80, 141), 305, 305, on_hand=False), Stock("There", "card", (40, 81, 140), 305, 305),
        Stock("Red", "adhesive vinyl", RED, 305, 305),
    ]
    found = match(BLUE, drawer)
    assert found is not None and drawer[found.number].name == "There" and found.word == "same"
    vinyl = match(BLUE, drawer, "adhesive vinyl")
    assert vinyl is not None and drawer[vinyl.number].name == "Red" and vinyl.word == "different"
    assert match(BLUE, drawer, "other") is None
    with pytest.raises(BrokenStructure):
        Stock("Nothing", "card", BLUE, 0, 305).check()


# Compression


def compressed(rgba: np.ndarray, quality: int = 75) -> np.ndarray:
    buffer = io.BytesIO()
    Image.fromarray(rgba[..., :3]).save(buffer, "JPEG", quality=quality)
    return np.asarray(Image.open(buffer).convert("RGBA"))


def test_compression_makes_no_colours_and_no_scraps() -> None:
    """A face nearly as light as the paper in a ring, with black beside it that comes back as two: four colours, five areas."""
    face, ring, hand, bar = (238, 238, 238), (0, 172, 193), (11, 0, 12), (171, 206, 5)
    shapes = [(circle(200, 200, 150), ring), (circle(200, 200, 110), face), (turned_square(200, 170, 60, 20), hand),
              (turned_square(200, 330, 36, 45), bar)]
    result = trace(compressed(painted(shapes, 400, 400)), picture={"measured": "picture"})
    assert len(keys(result)) == 4
    assert len(result.planar_map.face_labels) == 5


def test_a_colour_is_told_more_finely_than_its_flat_places_keep_it() -> None:
    """A grey that JPEG gives back 2.5 off wherever it is flat; about edges it is rounded many ways."""
    grey = (207, 216, 220)
    spots = [(circle(50.3 + 61.7 * (k % 5), 60.4 + 67.3 * (k // 5), 19), BLUE) for k in range(20)]
    rgba = compressed(painted([(shapely.box(12.3, 12.4, 330.6, 330.2), grey), *spots], 344, 344))
    flat = compressed(np.full((64, 64, 4), (*grey, 255), np.uint8))[32, 32, :3]
    found = trace(rgba, picture={"measured": "picture"}).label_map.palette.colours[0].rgb
    away = ciede2000(cielab(np.array([grey], np.uint8)), cielab(np.array([flat, found], np.uint8)))
    assert away[0] > 2 and away[1] < 1.5


def test_a_colour_is_not_drawn_towards_one_nearly_like_it() -> None:
    one, other = (22, 176, 190), (7, 158, 205)
    shapes = [(shapely.box(12.3, 12.4, 230.6, 230.2), one), *[(circle(40.3 + 41 * k, 120.4, 9), other) for k in range(5)]]
    rgba = np.ascontiguousarray(compressed(painted(shapes, 244, 244), 90))
    modes = np.array([one, other], float)
    assert np.abs(settled_modes(rgba, (rgba[..., :3] > 240).all(axis=2), modes) - modes).max() < 1.0


@pytest.mark.parametrize("quality", [90, 75])
def test_eyes_too_small_for_a_flat_place_are_found(quality: int) -> None:
    face, eyes = (255, 204, 128), (55, 71, 79)
    shapes = [(circle(80, 80, 60), face), (circle(58, 66, 4.2), eyes), (circle(102, 66, 4.2), eyes), (circle(80, 104, 4.2), eyes)]
    result = trace(compressed(painted(shapes, 160, 160), quality), picture={"measured": "picture"})
    assert len(keys(result)) == 2
    dark = min(result.label_map.palette.colours, key=lambda colour: sum(colour.rgb))
    assert np.abs(np.array(dark.rgb) - eyes).max() < 30
    assert len(result.planar_map.face_labels) == 5


@pytest.mark.parametrize(("quality", "px"), [(None, 1.0), (75, 2.5)])
def test_no_third_colour_comes_between_two(quality: int | None, px: float) -> None:
    """A strip of one pixel beside what mixes to nearly a third colour; blue on white, between which a grey lies."""
    violet, aqua, steel, blue, grey = (216, 2, 248), (13, 226, 217), (109, 172, 193), (34, 32, 204), (127, 151, 153)
    shapes = [
        (shapely.box(20, 20, 80.5, 140), violet), (shapely.box(80.5, 20, 82.1, 140), aqua),
        (shapely.box(82.1, 20, 140, 140), steel), (shapely.box(165.74, 45.74, 235.26, 115.26), blue),
        (circle(60, 190, 30), grey), (circle(160, 190, 30), aqua),
    ]
    rgba = parted(shapes, 260, 240)
    result = trace(rgba if quality is None else compressed(rgba, quality), picture={"measured": "picture"})
    own = np.array([colour.rgb for colour in result.label_map.palette.colours])
    wrong = result.label_map.labels > 0
    for shape, colour in shapes:
        label = int(np.abs(own - colour).sum(axis=1).argmin()) + 1
        wrong &= ~((result.label_map.labels == label) & (coverage(shape.buffer(px), 260, 240) > 0))
    assert len(own) == 5 and not wrong.any()


@pytest.mark.parametrize("gap", [0.2, 0.35, 0.45])
def test_a_gap_thinner_than_a_pixel_is_no_line_of_a_like_colour(gap: float) -> None:
    """White between slate and red mixes with the red to what is like another red of the drawing."""
    slate, red, other = (55, 71, 79), (198, 40, 40), (229, 57, 53)
    shapes = [(shapely.box(20, 20, 180, 80), slate), (shapely.box(20, 80 + gap, 180, 140), red), (circle(100, 170, 20), other)]
    result = trace(parted(shapes, 200, 200), picture={"measured": "picture"})
    own = [colour.rgb for colour in result.label_map.palette.colours]
    assert sorted(own) == sorted([slate, red, other])
    assert not (result.label_map.labels[:145] == own.index(other) + 1).any()
    assert len(result.planar_map.face_labels) == 4


def test_two_slivers_beside_each_other_are_no_third_colour() -> None:
    """Each fills half of a pixel; where they meet in one it looks more like rose, which is elsewhere, than what is nearby."""
    navy, ochre, violet, lime, rose = (13, 71, 98), (146, 104, 33), (161, 73, 250), (171, 206, 5), (206, 120, 131)
    shapes = [(shapely.box(20, 20, 80.5, 120), navy), (shapely.box(80.5, 20, 81.5, 120), ochre),
              (shapely.box(81.5, 20, 82, 120), violet), (shapely.box(82, 20, 140, 120), lime),
              *[(circle(40 + 40 * k, 150, 15), colour) for k, colour in enumerate((ochre, violet, rose))]]
    result = trace(parted(shapes, 160, 180), picture={"measured": "picture"})
    own = [colour.rgb for colour in result.label_map.palette.colours]
    assert sorted(own) == sorted([navy, ochre, violet, lime, rose])
    assert not (result.label_map.labels[:130] == own.index(rose) + 1).any()


@pytest.mark.parametrize(("part", "sky"), [(0.2, (192, 225, 252)), (0.35, (106, 184, 247))])
def test_a_fringe_goes_by_the_colours_beside_it(part: float, sky: tuple[int, int, int]) -> None:
    """A part of blue on white looks like more of sky on white, and sky begins a few pixels on."""
    blue = (33, 150, 243)
    shapes = [(shapely.box(61 - part, 20, 80, 140), blue), (shapely.box(20, 80, 61 - part, 140), sky)]
    result = trace(parted(shapes, 160, 160), picture={"measured": "picture"})
    own = [colour.rgb for colour in result.label_map.palette.colours]
    assert sorted(own) == sorted([blue, sky])
    assert (result.label_map.labels[22:79, 60] == 0).all()


def test_fine_detail_of_a_clean_picture_is_no_compression() -> None:
    """Fringes between near-alike colours are nearly flat, as the unrest of compression is, but nothing else is restless."""
    spots = [(circle(22.3 + 28.1 * (k % 7), 22.7 + 28.3 * (k // 7), 5.5), LIKE_BLUE) for k in range(49)]
    rgba = painted([(shapely.box(4, 4, 212, 212), BLUE), *spots], 216, 216)
    nothing = np.zeros((216, 216), bool)
    assert not flat_colours(rgba, nothing).compressed
    for quality in (95, 75):
        assert flat_colours(np.ascontiguousarray(compressed(rgba, quality)), nothing).compressed


@pytest.mark.parametrize("degrees", [0, 4, 17, 31])
def test_a_slanting_line_of_one_pixel_stays_in_one_piece(degrees: float) -> None:
    line = shapely.affinity.rotate(shapely.box(30, 99, 170, 100), degrees, origin=(100, 100))
    rgba = painted([(turned_square(100, 100, 150, 0), YELLOW), (line, BLUE), (circle(100, 60, 12), BLUE)], 200, 200)
    result = trace(rgba, picture={"measured": "picture"})
    own = [colour.rgb for colour in result.label_map.palette.colours].index(BLUE) + 1
    assert (result.planar_map.face_labels == own).sum() == 2
    assert (result.label_map.labels[80:] == own).sum() == pytest.approx(line.area, rel=0.3)


def test_a_mode_that_is_an_echo_goes_and_a_true_neighbour_stays() -> None:
    modes = np.array([[12.0, 0, 14], [200, 60, 40], [12, 2, 3], [210, 68, 50]])
    kept, weights = without_echoes(modes, np.array([20_000.0, 8_000, 40, 6_000]))
    assert kept.tolist() == modes[[0, 1, 3]].tolist() and weights.tolist() == [20_000, 8_000, 6_000]


@pytest.mark.parametrize(("colour", "mixed"), [((120, 100, 90), True), ((120, 100, 190), False), ((255, 255, 255), True)])
def test_a_mix_of_two_colours_is_told(colour: tuple[int, int, int], mixed: bool) -> None:
    ends = np.array([[255.0, 255, 255], [30, 0, -20], [0, 160, 0]])
    assert is_mix(np.array(colour, float), ends) == mixed


def test_what_no_mix_explains_is_found_and_fringes_are_none() -> None:
    """A dot of its own colour on a disc; the same picture without it has nothing that is missed."""
    face, dot = (255, 204, 128), (20, 90, 200)
    plain = compressed(painted([(circle(60, 60, 40), face)], 120, 120))
    dotted = compressed(painted([(circle(60, 60, 40), face), (circle(60, 60, 5), dot)], 120, 120))
    known = np.array([face, (255, 255, 255)], float)

    def missed(rgb: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        rgba = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
        return missed_colours(rgba, np.zeros(rgb.shape[:2], bool), known)

    assert not len(missed(plain)[0])
    colours, amounts = missed(dotted)
    assert len(colours) == 1 and 30 <= amounts[0] <= 90
    assert np.abs(colours[0] - dot).max() < 45  # its hue is smeared over 16 px
    assert not len(missed_colours(np.zeros((900, 900, 4), np.uint8), np.zeros((900, 900), bool), known)[0])  # large enough


def test_areas_without_a_sure_pixel_go() -> None:
    labels = np.zeros((12, 20), np.uint8)
    labels[3:7, 3:6], labels[3:7, 10:13], labels[9:12, :] = 1, 2, 3
    sure = np.zeros(labels.shape, bool)
    sure[4, 11] = True
    result, gone = absorb_small(labels, 30, sure=sure)
    wanted = labels.copy()
    wanted[3:7, 3:6] = 0
    assert gone == 1 and np.array_equal(result, wanted)  # the strip below is large enough to be itself
