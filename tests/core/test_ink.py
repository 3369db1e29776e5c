"""Pages of ink: what is written stays to the pixel, what was printed on the page goes."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
import skimage.filters
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.model.ground import page_ground
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.picture import Picture
from bisectum.core.model.words import words_of
from bisectum.core.raster.thresholds import otsu
from bisectum.core.steps.colours.kind import kind_of_page
from bisectum.core.steps.colours.settings import ColoursSettings
from bisectum.core.steps.colours.step import separate_colours
from tests.support.cards import Card, card


def picture(rgb: NDArray[np.uint8]) -> Picture:
    return Picture(np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)]), 0.1)


def written(rgb: NDArray[np.uint8], **settings: object) -> LabelMap:
    one = picture(rgb)
    said = ColoursSettings.model_validate({"kind": "handwriting", **settings})
    result = separate_colours(one, page_ground(rgb.shape[:2]), said)
    result.check()
    return result


def share(found: NDArray[np.bool_], wanted: NDArray[np.bool_]) -> float:
    return float((found & wanted).sum() / (found | wanted).sum())


@pytest.mark.parametrize("number", range(4))
def test_writing_is_read_to_the_pixel_and_rules_are_gone(number: int) -> None:
    one: Card = card(number)
    labels = written(one.rgb).labels > 0
    assert share(labels, one.ink) > 0.93
    away = one.rules & ~(cv2.dilate(one.ink.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0)
    assert (labels & away).sum() <= 0.005 * away.sum()
    told = kind_of_page(picture(one.rgb).rgba)
    assert told is not None and (told.kind, told.reason) == ("handwriting", "ruled")


@pytest.mark.parametrize("number", range(4, 8))
def test_faint_strokes_of_a_pen_are_as_wide_as_they_were_drawn(number: int) -> None:
    one = card(number, faintest=0.35)
    labels = written(one.rgb).labels > 0
    assert share(labels, one.ink) > 0.89  # measured by the usual ink alone it is .78 to .86
    away = one.rules & ~(cv2.dilate(one.ink.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0)
    assert (labels & away).sum() <= 0.005 * away.sum()


@pytest.mark.parametrize("outline", [0, 4])
@pytest.mark.parametrize("grey", [128, 155, 224])
def test_grey_that_is_drawn_is_no_shade_on_a_page_of_ink(grey: int, outline: int) -> None:
    page = np.full((600, 600, 3), 255, np.uint8)
    cv2.line(page, (200, 520), (400, 520), (0, 0, 0), 7, cv2.LINE_AA)
    cv2.circle(page, (300, 300), 60, (0, 0, 0), 7, cv2.LINE_AA)
    assert (told := kind_of_page(picture(page).rgba)) is not None and told.kind == "line-drawing"
    cv2.ellipse(page, (300, 300), (150, 200), 0, 0, 360, (grey, grey, grey), -1, cv2.LINE_AA)
    if outline:
        cv2.ellipse(page, (300, 300), (150, 200), 0, 0, 360, (0, 0, 0), outline, cv2.LINE_AA)
    cv2.circle(page, (300, 300), 60, (255, 255, 255), -1, cv2.LINE_AA)
    cv2.circle(page, (300, 300), 60, (0, 0, 0), 7, cv2.LINE_AA)
    assert kind_of_page(picture(page).rgba) is None
    shade = np.linspace(1.0, 0.6, 600)[:, None, None]
    lines = np.full((600, 600, 3), 255, np.uint8)
    cv2.circle(lines, (300, 300), 60, (0, 0, 0), 7, cv2.LINE_AA)
    assert (told := kind_of_page(picture((lines * shade).astype(np.uint8)).rgba)) is not None and told.kind == "line-drawing"


@pytest.mark.parametrize("pen", [1, 2, 4])
@pytest.mark.parametrize("size", [400, 900])
def test_thin_lines_are_a_drawing_though_some_are_straight(pen: int, size: int) -> None:
    """A boat with an upright mast and a level keel: what is level or upright is no rule to be taken away, and no screenshot."""
    page = np.full((size, size, 3), 255, np.uint8)
    paths = [[(100, 600), (800, 600), (700, 760), (220, 760), (100, 600)], [(450, 600), (450, 120)],
             [(460, 140), (760, 560), (460, 560)], [(440, 180), (200, 560), (440, 560)]]
    for path in paths:
        cv2.polylines(page, [np.array(path, np.int32) * size // 900], False, (34, 34, 34), pen, cv2.LINE_AA)
    told = kind_of_page(picture(page).rgba)
    assert told is not None and told.kind == "line-drawing"


def test_thin_lines_of_two_greys_are_no_page_of_one_ink() -> None:
    page = np.full((900, 900, 3), 255, np.uint8)
    for number in range(6):
        grey = 20 if number % 3 == 0 else 140
        axes = (60 * number + 60, 40 * number + 50)
        cv2.ellipse(page, (450, 450), axes, 20 * number, 0, 360, (grey, grey, grey), 2, cv2.LINE_AA)
    assert kind_of_page(picture(page).rgba) is None


def test_dots_stay_specks_go_and_either_can_be_said_otherwise() -> None:
    one = card(2)
    rgb = one.rgb.copy()
    rgb[586:590, 41:45] = 30  # a crumb in the lower margin
    without = written(rgb)
    assert without.page is not None and len(without.page.specks) == 1 and not without.page.kept.any()
    assert not without.labels[580:595, 35:50].any()
    count, numbers, stats, _ = cv2.connectedComponentsWithStats(one.ink.astype(np.uint8), connectivity=8)
    dots = [k for k in range(1, count) if 4 <= stats[k, 4] < 24]
    assert dots and all((without.labels > 0)[numbers == k].mean() > 0.5 for k in dots)
    x, y = without.page.specks[0, :2] / rgb.shape[1]
    assert written(rgb, other_specks=[(x, y)]).labels[587, 42] == 1
    assert written(rgb, specks="keep").labels[587, 42] == 1
    assert written(rgb, specks="keep", other_specks=[(x, y)]).labels[587, 42] == 0


def test_a_bolder_pen_is_wider_by_so_much_on_each_side() -> None:
    rgb = np.full((200, 400, 3), 240, np.uint8)
    rgb[60:66, 50:350] = 20
    rgb[100:140, 60:64] = 20
    rgb[100:140, 90:94] = 20
    plain, bold = (written(rgb, bolder_mm=more) for more in (0.0, 0.2))
    # 0.1 mm a pixel: 2 px more on each side.
    assert (plain.labels[:, 200] > 0).sum() == 6 and (bold.labels[:, 200] > 0).sum() == pytest.approx(10, abs=1)


def test_a_page_that_is_none_is_refused_with_a_sentence() -> None:
    blank = np.full((300, 400, 3), 236, np.uint8)
    with pytest.raises(SettingsError) as empty:
        written(blank)
    assert empty.value.code == "no_ink"
    ruled = blank.copy()
    ruled[40::40] = (160, 180, 210)
    ruled[41::40] = (160, 180, 210)
    with pytest.raises(SettingsError) as rules:
        written(ruled)
    assert rules.value.code in ("only_rules", "no_ink")
    dark = blank.copy()
    for row in range(4):
        dark[row::9] = 20
    with pytest.raises(SettingsError) as much:
        written(dark)
    assert much.value.code == "too_much_ink"


def test_otsu_agrees_with_another_library() -> None:
    rng = np.random.default_rng(3)
    values = np.concatenate([rng.normal(0.2, 0.05, 4000), rng.normal(0.7, 0.08, 900)])
    ours, theirs = values > otsu(values, 256), values > skimage.filters.threshold_otsu(values, 256)
    assert (ours != theirs).mean() < 0.002  # anywhere in an empty valley parts alike


def test_words_are_told_by_the_gaps_between_letters() -> None:
    boxes, wanted = [], []
    for line in range(3):
        x = 5.0
        for word, letters in enumerate((4, 2, 6)):
            for _ in range(letters):
                y = 20.0 * line + 0.05 * x
                boxes.append((x, y, x + 6, y + 10))
                wanted.append(3 * line + word)
                x += 7
            x += 5
        boxes.append((x, 20.0 * line + 0.05 * x + 8, x + 1.5, 20.0 * line + 0.05 * x + 10))  # a full stop, after a gap
        wanted.append(3 * line + 3 + 100)
    found = words_of(np.array(boxes))
    found.check()
    for one in set(wanted):
        own = {int(found.words[k]) for k in range(len(boxes)) if wanted[k] == one}
        assert len(own) == 1 and own != {-1}
    assert len(np.unique(found.lines)) == 3 and found.slope == pytest.approx(0.05, abs=0.03)
