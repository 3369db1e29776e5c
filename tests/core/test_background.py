"""Background: found by itself, shut in, by hand, along its edges; masks are known by how the pictures were made."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
import scipy.ndimage as ndimage
import skimage.segmentation
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from bisectum.core.course import CourseSettings, Source, run_course
from bisectum.core.errors import BrokenStructure, SettingsError
from bisectum.core.model.ground import Ground
from bisectum.core.model.picture import Picture
from bisectum.core.model.placement import Placement
from bisectum.core.raster.barrier import barrier_distance
from bisectum.core.raster.colour import oklab
from bisectum.core.raster.resample import reduced_mask
from bisectum.core.raster.superpixels import superpixels
from bisectum.core.steps.background.edges import moved, only_parts, without_fuzz
from bisectum.core.steps.background.focus import edge_ridges
from bisectum.core.steps.background.settings import BackgroundSettings, Touch
from bisectum.core.steps.background.spot import spot_at
from bisectum.core.steps.background.step import cleared_picture, find_background
from bisectum.core.steps.picture.settings import PictureSettings
from bisectum.core.steps.picture.step import prepare_picture
from tests.support.composites import Composite, composite, outline_f, overlap
from tests.support.drawings import INK, circle, coverage, painted, turned_square
from tests.support.scenes import before_photo, wall
from tests.support.strangers import compressed

SIZE = 420


def picture_of(made: Composite) -> Picture:
    return Picture(np.dstack([made.rgb, np.full(made.rgb.shape[:2], 255, np.uint8)]), 0.2)


def found(picture: Picture, **changes: object) -> Ground:
    ground = find_background(picture, BackgroundSettings.model_validate(changes))
    ground.check()
    return ground


def line(kind: str, *points: tuple[float, float], width: float = 0.01) -> Touch:
    return Touch.model_validate({"kind": kind, "points": points, "width": width})


# By itself


@pytest.mark.parametrize("kind", ["plain", "shaded", "noisy"])
@pytest.mark.parametrize("number", [0, 1, 4])
def test_plain_and_shaded_grounds_go_by_themselves(kind: str, number: int) -> None:
    made = composite(kind, number, SIZE)
    ground = found(picture_of(made), enclosed="all")
    assert overlap(~ground.mask, made.mask) >= 0.985
    assert outline_f(~ground.mask, made.mask) >= 0.96


@pytest.mark.parametrize("number", [0, 4, 9])
def test_a_photographs_subject_stands_out(number: int) -> None:
    made = composite("photo", number, SIZE)
    ground = found(picture_of(made))
    assert ground.kind == "subject" and ground.cutouts
    assert overlap(~ground.mask, made.mask) >= 0.95


def test_the_same_picture_gives_the_same_ground() -> None:
    made = picture_of(composite("photo", 1, SIZE))
    one, other = found(made), found(made)
    assert one.cleared is not None and np.array_equal(one.cleared, other.cleared)


def test_nothing_certain_keeps_everything() -> None:
    import skimage.data

    gravel = np.dstack([skimage.data.gravel()] * 3 + [np.full((512, 512), 255, np.uint8)])
    ground = found(Picture(gravel, 0.2))
    assert ground.kind == "not_plain" and not ground.mask.any() and ground.runner_up == "subject"


# Shut in


def test_holes_on_a_coloured_ground_go_and_white_ones_are_offered() -> None:
    coloured, white = composite("plain", 1, SIZE), composite("plain", 6, SIZE)
    first, second = found(picture_of(coloured)), found(picture_of(white))
    assert [spot.taken for spot in first.enclosed] == [True]
    assert [spot.taken for spot in second.enclosed] == [False]
    assert second.enclosed[0].likelihood < 0.9
    for ground, made in ((first, coloured), (second, white)):
        spot = ground.enclosed[0]
        assert not made.mask[spot.y, spot.x]
        left, top, right, bottom = spot.box
        assert left <= spot.x < right and top <= spot.y < bottom


def test_single_spots_are_chosen() -> None:
    hollow = turned_square(100, 100, 160, 0).difference(circle(70, 100, 20)).difference(circle(140, 100, 15))
    picture = Picture(painted([(hollow, INK), (circle(100, 40, 9), (200, 60, 40))], 200, 200), 0.2)
    spots = found(picture).enclosed
    assert len(spots) == 2 and not any(spot.taken for spot in spots)
    choice = {"x": (spots[1].x + 0.5) / 200, "y": (spots[1].y + 0.5) / 200, "take": True}
    ground = found(picture, enclosed_choices=[choice])
    assert [spot.taken for spot in ground.enclosed] == [False, True]
    assert ground.mask[100, 140] and not ground.mask[100, 70]
    assert found(picture, enclosed="all", enclosed_choices=[choice | {"take": False}]).mask[100, 70]


def test_a_near_colour_is_not_taken_for_ground() -> None:
    """An eye a little off the ground's colour, beyond its reach, is the drawing's."""
    eye = painted([(turned_square(100, 100, 140, 0), INK), (circle(100, 100, 30), (246, 240, 228))], 200, 200)
    assert found(Picture(eye, 0.2)).enclosed == ()


# By hand


@pytest.mark.parametrize("number", [1])
def test_strokes_mend_what_was_found_and_leave_the_rest(number: int) -> None:
    made = composite("photo", number, SIZE)
    picture = picture_of(made)
    before = found(picture)
    wrong = ndimage.distance_transform_edt(made.mask ^ ~before.mask)
    y, x = np.unravel_index(int(wrong.argmax()), wrong.shape)
    kind = "keep" if made.mask[y, x] else "drop"
    deep = np.argwhere(ndimage.label(wrong > wrong[y, x] / 2)[0] == ndimage.label(wrong > wrong[y, x] / 2)[0][y, x])
    v, u = deep[np.hypot(*(deep - (y, x)).T).argmax()]
    ends = (((column + 0.5) / SIZE, (row + 0.5) / SIZE) for row, column in ((y, x), (v, u)))
    after = found(picture, touches=[line(kind, *ends, width=0.015)])
    assert overlap(~after.mask, made.mask) > overlap(~before.mask, made.mask) + 0.04
    assert after.mask[y, x] == (kind == "drop")
    changed, count = ndimage.label(ndimage.binary_dilation(after.mask ^ before.mask, iterations=3))
    sizes = ndimage.sum_labels(after.mask ^ before.mask, changed, range(1, count + 1))
    assert sizes[changed[y, x] - 1] > 0.98 * sizes.sum()  # all of it hangs together with the stroke


@pytest.mark.parametrize("number", [2, 8])
def test_a_dot_that_slips_over_the_outline_costs_no_more_than_a_bite(number: int) -> None:
    made = composite("photo", number, SIZE)
    picture = picture_of(made)
    before = found(picture)
    y, x = np.argwhere(made.mask & ~ndimage.binary_erosion(made.mask))[40]
    after = found(picture, touches=[line("drop", ((x + 0.5) / SIZE, (y + 0.5) / SIZE), width=0.015)])
    assert (after.mask ^ before.mask).sum() < 0.03 * made.mask.sum()


def test_remembered_strokes_change_nothing() -> None:
    made = composite("photo", 2, SIZE)
    touches = (line("drop", (0.1, 0.1), (0.2, 0.15)), line("keep", (0.5, 0.5), (0.55, 0.5)), line("drop", (0.8, 0.8)))
    memory: dict[str, object] = {}
    for count in (1, 2, 3):
        chosen = BackgroundSettings(touches=touches[:count])
        with_memory = find_background(picture_of(made), chosen, memory=memory)
        assert np.array_equal(with_memory.mask, find_background(picture_of(made), chosen).mask)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 59), st.integers(0, 59), st.integers(2, 60), st.booleans())
def test_a_spot_is_scikit_images_flood(x: int, y: int, reach_steps: int, everywhere: bool) -> None:
    """skimage.segmentation.flood on the distances to the place's colour, sides connecting."""
    rgba = np.random.default_rng(4).integers(0, 4, (60, 60, 4)).astype(np.uint8) * 40
    rgba[..., 3] = 255
    reach = max(0.4, reach_steps / 2)
    mine = spot_at(rgba, x + 0.5, y + 0.5, reach, everywhere)
    window = rgba[max(0, y - 1) : y + 2, max(0, x - 1) : x + 2, :3].reshape(-1, 3)
    away = np.linalg.norm(oklab(rgba[..., :3].reshape(-1, 3)) - np.median(oklab(window), axis=0), axis=1).reshape(60, 60)
    within = np.minimum(255, np.floor(500 * away + 0.5)) <= min(254, round(5 * reach))
    if not everywhere:
        within[y, x] = True
        within = skimage.segmentation.flood(within, (y, x), connectivity=1)
    assert mine is not None and np.array_equal(mine, within)


def test_the_brush_paints_exactly_and_can_be_painted_back() -> None:
    picture = Picture(painted([(turned_square(100, 100, 160, 0), INK)], 200, 200), 0.2)
    plain = found(picture, touches=[line("restore", (0.5, 0.5), width=0.01)])
    cleared = found(picture, touches=[line("clear", (0.3, 0.5), (0.7, 0.5), width=0.1)])
    gone = cleared.mask & ~plain.mask
    area = 0.4 * 200 * 20 + math.pi * 100  # a bar with round ends
    assert gone.sum() == pytest.approx(area, rel=0.02)
    back = found(picture, touches=[line("clear", (0.3, 0.5), (0.7, 0.5), width=0.1),
                                   line("restore", (0.2, 0.5), (0.8, 0.5), width=0.14)])
    assert (back.mask ^ plain.mask).sum() < 20


def test_a_pen_that_presses_less_paints_less() -> None:
    picture = Picture(painted([(turned_square(100, 100, 160, 0), INK)], 200, 200), 0.2)
    whole = line("clear", (0.3, 0.5), (0.7, 0.5), width=0.1)
    half = whole.model_copy(update={"pressures": (0.5, 0.5)})
    sizes = [int((found(picture, touches=[mark]).mask & ~found(picture).mask).sum()) for mark in (whole, half)]
    assert sizes[1] == pytest.approx(0.4 * 200 * 10 + math.pi * 25, rel=0.03) and sizes[1] < 0.6 * sizes[0]


@pytest.mark.parametrize(
    "frame",
    [{"turn": 90}, {"turn": 180, "flip": True}, {"crop": {"x": 0.1, "y": 0.2, "width": 0.8, "height": 0.6}}, {"enlarge": 2},
     {"straighten_deg": 12.0}],
    ids=str,
)
def test_marks_stay_on_their_places(frame: dict[str, object]) -> None:
    """A mark of the brush goes where the drawing goes, whatever is done to the picture afterwards."""
    rgba = painted([(turned_square(100, 100, 150, 0), INK), (circle(120, 80, 12), (200, 60, 40))], 200, 200)
    mark = line("clear", (0.6, 0.4), width=0.12)
    chosen = PictureSettings.model_validate(frame)
    picture = prepare_picture(rgba, 0.2, chosen)
    picture.check()
    ground = found(picture, mode="keep", touches=[mark])
    red = (picture.rgba[..., 0] > 150) & (picture.rgba[..., 1] < 120)
    assert red.sum() > 300
    places = [np.argwhere(mask).mean(axis=0) for mask in (red, ground.mask)]
    assert np.abs(places[0] - places[1]).max() < 0.6
    assert ground.mask.sum() == pytest.approx(red.sum(), rel=0.08)


# Edges


@pytest.mark.parametrize("by", [-4.0, -1.5, 2.5, 6.0])
def test_an_outline_moves_by_its_distance(by: float) -> None:
    """scipy's exact distances, and the area of a disc of another radius."""
    shares = painted([(circle(100.3, 99.6, 50), (0, 0, 0))], 200, 200)[..., 0]
    result = moved(255 - shares, by)
    assert (result > 127).sum() == pytest.approx(math.pi * (50 + by) ** 2, rel=0.012)
    solid = (255 - shares) > 127
    signed = ndimage.distance_transform_edt(solid) - ndimage.distance_transform_edt(~solid)
    assert ((result > 127) ^ (signed > -by)).sum() < 2 * math.pi * 60


def test_small_parts_go() -> None:
    shares = 255 - painted([(circle(60, 60, 30), (0, 0, 0)), (circle(150, 150, 8), (0, 0, 0))], 200, 200)[..., 0]
    assert ndimage.label(only_parts(shares, True, 0) > 0)[1] == 1
    assert ndimage.label(only_parts(shares, False, 150) > 0)[1] == 2
    assert ndimage.label(only_parts(shares, False, 300) > 0)[1] == 1


@pytest.mark.parametrize("kind", ["plain", "photo"])
def test_fuzz_takes_the_subjects_colour(kind: str) -> None:
    made = composite(kind, 0, SIZE)
    picture = picture_of(made)
    cleared = cleared_picture(picture, found(picture))
    solid = cleared[..., 3] > 127
    edge = solid & ~ndimage.binary_erosion(solid, iterations=2) & (made.coverage > 0)
    truth = oklab(np.clip(made.filling[edge], 0, 255))
    off, before = (np.linalg.norm(oklab(pixels[edge][:, :3]) - truth, axis=1) > 0.06 for pixels in (cleared, picture.rgba))
    assert off.mean() <= 0.02 < before.mean()
    assert np.array_equal(without_fuzz(picture.rgba, np.full(solid.shape, 255, np.uint8)), picture.rgba[..., :3])


def test_the_reverse_choice_keeps_the_ground() -> None:
    picture = Picture(painted([(circle(100, 100, 50), INK)], 200, 200), 0.2)
    reverse = found(picture, reverse=True)
    assert (reverse.mask ^ (cleared_picture(picture, found(picture))[..., 3] > 127)).sum() < 20
    assert reverse.kind == "by_hand" and reverse.found == "plain"


# Bad input


def test_hard_pictures_leave_a_usable_state() -> None:
    white = np.full((120, 120, 4), 255, np.uint8)
    own = painted([(circle(60, 60, 40), (253, 254, 253))], 120, 120)  # in the ground's own colour
    full = painted([(turned_square(60, 60, 300, 0), INK)], 120, 120)  # touches all borders
    gone = white.copy()
    gone[..., 3] = 0
    assert found(Picture(own, 0.2)).kind == "cleared_all"
    assert found(Picture(full, 0.2)).kind == "cleared_all"
    assert found(Picture(gone, 0.2)).kind == "cleared_all"
    for rgba in (own, full, gone):
        with pytest.raises(SettingsError):
            run_course(Source(rgba, 0.2, str(id(rgba))), CourseSettings(), {})
    kept = found(Picture(own, 0.2), touches=[line("restore", (0.5, 0.5), width=0.5)])
    assert (~kept.mask).sum() == pytest.approx(math.pi * 30**2, rel=0.02)


def test_a_cleared_picture_stays_cleared_and_a_touch_beside_it_is_told() -> None:
    made = composite("photo", 9, SIZE)
    picture = picture_of(made)
    first = cleared_picture(picture, found(picture))
    buffer = io.BytesIO()
    Image.fromarray(first, "RGBA").save(buffer, "PNG")
    again = found(Picture(np.asarray(Image.open(buffer)), 0.2))
    assert again.kind == "transparent" and np.array_equal(again.mask, first[..., 3] < 128)
    beside = found(picture, touches=[line("keep", (1.5, 0.5), (2.0, 0.6)), line("clear", (-1.0, 0.5))])
    assert beside.outside == 2 and np.array_equal(beside.mask, first[..., 3] < 128)


def test_thousands_of_marks_are_painted() -> None:
    picture = Picture(painted([(turned_square(100, 100, 160, 0), INK)], 200, 200), 0.2)
    marks = [line("clear", ((i % 50) / 50, (i // 50) / 60), width=0.03) for i in range(3000)]
    assert found(picture, touches=marks).kind == "cleared_all"


def test_check_finds_what_does_not_fit() -> None:
    picture = Picture(painted([(circle(100, 100, 50), INK)], 200, 200), 0.2)
    ground = found(picture, touches=[line("clear", (0.5, 0.5), width=0.1)])
    assert ground.cleared is not None
    torn = ground.mask.copy()
    torn[7, 9] = not torn[7, 9]
    with pytest.raises(BrokenStructure, match="9, 7"):
        Ground(torn, ground.surface, ground.kind, 0.0, cleared=ground.cleared).check()
    with pytest.raises(BrokenStructure, match="shears"):
        Placement(np.array([[10.0, 2.0, 0.0], [0.0, 10.0, 0.0]])).check()


# The parts it is made of


def test_barriers_are_those_of_the_easiest_way() -> None:
    values = np.zeros((9, 9), np.float32)
    values[2:7, 2:7] = 0.5  # a wall of one half around
    values[3:6, 3:6] = 0.2
    assert barrier_distance(values)[4, 4] == pytest.approx(0.5)
    values[2, 4] = 0.2  # a gate in the wall
    assert barrier_distance(values)[4, 4] == pytest.approx(0.2)


def test_superpixels_part_the_picture_along_its_colours() -> None:
    made = composite("plain", 2, SIZE)
    lab = oklab(made.rgb.reshape(-1, 3)).reshape(SIZE, SIZE, 3).astype(np.float32)
    cells = superpixels(lab, 300)
    assert 200 < len(np.unique(cells)) <= 330
    inside = np.bincount(cells.ravel(), made.coverage.ravel()) / np.maximum(1, np.bincount(cells.ravel()))
    mixed = (inside > 0.15) & (inside < 0.85)
    assert np.bincount(cells.ravel())[mixed].sum() < 0.01 * SIZE**2


@settings(max_examples=40, deadline=None)
@given(st.floats(-45, 45), st.sampled_from([0, 90, 180, 270]), st.booleans(), st.sampled_from([1, 2]))
def test_places_go_there_and_back(degrees: float, turn: int, flip: bool, times: int) -> None:
    rgba = np.zeros((40, 60, 4), np.uint8)
    chosen = PictureSettings.model_validate({"straighten_deg": degrees, "turn": turn, "flip": flip, "enlarge": times})
    picture = prepare_picture(rgba, 0.2, chosen)
    picture.check()
    shares = np.random.default_rng(1).uniform(0, 1, (20, 2))
    np.testing.assert_allclose(picture.places.to_shares(picture.places.to_px(shares)), shares, atol=1e-9)
    assert picture.places.scale == pytest.approx(60 * times)


def test_light_is_as_the_formulas_say() -> None:
    """One stop is twice the light (sRGB per IEC 61966-2-1); levels and contrast are straight lines through fixed values."""
    ramp = np.dstack([np.tile(np.arange(256, dtype=np.uint8), (2, 1))] * 3 + [np.full((2, 256), 255, np.uint8)])
    brighter = prepare_picture(ramp, 0.2, PictureSettings(exposure=1)).rgba[0, :, 0]
    linear = (((np.arange(256) / 255 + 0.055) / 1.055) ** 2.4)[20:]
    asked = np.minimum(1, 1.055 * np.minimum(1, 2 * linear) ** (1 / 2.4) - 0.055) * 255
    assert np.abs(brighter[20:] - asked).max() <= 0.51
    levels = prepare_picture(ramp, 0.2, PictureSettings(black=50, white=200)).rgba[0, :, 0].astype(int)
    assert (levels[:51] == 0).all() and (levels[200:] == 255).all() and levels[125] in (127, 128)
    with pytest.raises(SettingsError, match="white point"):
        prepare_picture(ramp, 0.2, PictureSettings(black=200, white=190))


def test_enlarging_keeps_edges_firm_and_makes_no_new_values() -> None:
    rgba = painted([(circle(20.3, 19.8, 12), INK)], 40, 40)
    large = prepare_picture(rgba, 0.2, PictureSettings(enlarge=4))
    assert large.rgba.shape == (160, 160, 4) and large.natural_mm_per_px == pytest.approx(0.05)
    for channel in range(3):
        own = large.rgba[..., channel]
        assert own.min() >= rgba[..., channel].min() and own.max() <= rgba[..., channel].max()
    middle = (int(rgba[..., 0].min()) + 255) / 2
    assert (large.rgba[..., 0] < middle).sum() == pytest.approx(math.pi * 48**2, rel=0.01)
    with pytest.raises(SettingsError, match="million"):
        prepare_picture(np.zeros((3000, 3000, 4), np.uint8), 0.2, PictureSettings(enlarge=4))


# Shadows, focus, and what a keep stroke means where nothing was certain


@pytest.mark.parametrize("number", [0, 1, 5, 8, 13, 16])
def test_a_cast_shadow_goes_with_its_ground(number: int) -> None:
    made = wall(number, SIZE)
    picture = picture_of(made)
    with_tick, without = found(picture, enclosed="all"), found(picture, enclosed="all", shadow=False)
    assert with_tick.has_shadow and not without.has_shadow
    assert overlap(~with_tick.mask, made.mask) >= 0.97
    assert overlap(~with_tick.mask, made.mask) > overlap(~without.mask, made.mask) + 0.02


@pytest.mark.parametrize("number", [3, 7, 11, 19])
def test_grey_and_pale_subjects_are_no_shadow(number: int) -> None:
    made = wall(number, SIZE)
    ground = found(picture_of(made), enclosed="all")
    assert overlap(~ground.mask, made.mask) >= 0.97


def test_a_grey_box_with_sharp_edges_on_white_stays() -> None:
    """Darker than its ground and of the same chromaticity, as a shadow is; only its edges tell."""
    boxes = [(turned_square(70, 100, 70, 10), (190, 190, 190)), (circle(150, 90, 28), (225, 225, 225))]
    ground = found(Picture(painted(boxes, 200, 200), 0.2))
    assert not ground.has_shadow
    assert not ground.mask[100, 70] and not ground.mask[90, 150]


@pytest.mark.parametrize("spoilt", ["clean", "jpeg"])
def test_what_a_drawing_of_one_colour_shuts_in_is_open(spoilt: str) -> None:
    """A ring about a letter goes with its holes; a face of two colours keeps the white of its eyes."""
    ring, letter = circle(100, 100, 80).difference(circle(100, 100, 66)), circle(100, 100, 40).difference(circle(100, 100, 20))
    one = painted([(ring, INK), (letter, INK)], 200, 200)
    face, white = (240, 190, 120), (255, 255, 255)
    two = painted([(circle(100, 100, 80), face), (circle(70, 80, 20), white), (circle(70, 80, 9), INK)], 200, 200)
    one, two = (compressed(rgba, 85) if spoilt == "jpeg" else rgba for rgba in (one, two))
    rings, eyes = found(Picture(one, 0.2)), found(Picture(two, 0.2))
    assert rings.one_colour and rings.mask[100, 100] and rings.mask[100, 47] and all(spot.taken for spot in rings.enclosed)
    assert not eyes.one_colour and not eyes.mask[80, 84]
    kept = found(Picture(one, 0.2), enclosed="none")
    assert not kept.mask[100, 100]


@pytest.mark.parametrize("outlined", [False, True])
@pytest.mark.parametrize("spoilt", ["clean", "jpeg", "grain"])
@pytest.mark.parametrize("paper", [(255, 255, 255), (222, 222, 222)])
@pytest.mark.parametrize("grey", [(155, 155, 154), (190, 190, 190), (120, 120, 120)])
def test_a_grey_drawing_keeps_its_body(
    grey: tuple[int, int, int], paper: tuple[int, int, int], spoilt: str, outlined: bool
) -> None:
    """An owl: a body of one grey that touches the paper, dark things beside and in it."""
    body, dark = circle(150, 170, 100), (20, 20, 20)
    shapes = [(circle(150, 170, 105), dark)] * outlined + [
        (body, grey), (turned_square(150, 70, 30, 40), dark), (circle(110, 140, 30), (250, 250, 250)),
        (circle(110, 140, 12), dark), (circle(190, 140, 30), (250, 250, 250)), (circle(190, 140, 12), dark),
        (turned_square(150, 185, 30, 45), (165, 121, 57))]
    rgba = painted(shapes, 300, 300, paper)
    if spoilt == "jpeg":
        rgba = compressed(rgba, 80)
    elif spoilt == "grain":
        grain = np.random.default_rng(1).normal(0, 3, rgba[..., :3].shape)
        rgba[..., :3] = np.clip(rgba[..., :3] + grain, 0, 255)
    ground = found(Picture(rgba, 0.2))
    within = coverage(body, 300, 300) == 1
    assert ground.mask[within].mean() < 0.002
    assert ground.mask[:, :8].all()


@pytest.mark.parametrize(("number", "blur"), [(0, 3.0), (4, 6.0), (7, 6.0), (10, 6.0), (15, 6.0)])
def test_what_is_in_focus_is_the_subject(number: int, blur: float) -> None:
    made = before_photo(number, blur, 700)
    ground = found(picture_of(made), enclosed="all")
    assert ground.kind == "subject"
    assert overlap(~ground.mask, made.mask) >= 0.9


def test_blur_is_measured_in_pixels() -> None:
    """An edge of known blur: the ratio of slopes gives its deviation back, as the paper says."""
    for sigma, sharp in ((0.4, True), (1.0, True), (2.5, False), (5.0, False)):
        image = Image.fromarray(np.where(np.arange(200)[None] < 97, 60, 200).repeat(120, 0).astype(np.uint8))
        rgb = np.dstack([np.asarray(ndimage.gaussian_filter(np.asarray(image, float), sigma))] * 3).round().astype(np.uint8)
        _, _, sharpness, _ = edge_ridges(rgb)
        assert len(sharpness) and (np.median(sharpness) > 0.5) == sharp


def test_a_keep_stroke_where_all_was_kept_leaves_one_subject() -> None:
    made = composite("photo", 0, SIZE)
    picture = picture_of(made)
    y, x = np.argwhere(ndimage.distance_transform_edt(made.mask) > 20)[0]
    stroke = line("keep", ((x + 0.5) / SIZE, (y + 0.5) / SIZE), width=0.03)
    for mode, parts in (("keep", {}), ("keep", {"loose_parts": True})):
        drop = line("drop", (0.02, 0.5), (0.98, 0.5), width=0.06)  # parts the picture in two
        ground = found(picture, mode=mode, touches=[drop, stroke], **parts)
        count = ndimage.label(~ground.mask)[1]
        assert (count == 1) == (not parts)


@pytest.mark.parametrize(("height", "width", "n"), [(10, 10, 3), (9, 7, 2), (11, 12, 4), (5, 5, 1)])
def test_a_last_row_of_blocks_counts_for_what_it_has(height: int, width: int, n: int) -> None:
    mask = np.ones((height, width), bool)
    assert reduced_mask(mask, -(-height // n), -(-width // n), n).all()
