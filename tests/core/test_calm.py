"""A photograph made calm, and the inks it gets: each part by its properties, by libraries, or by all that could be chosen."""

from __future__ import annotations

import itertools

import cv2
import numpy as np
import pytest
import scipy.linalg
from numpy.typing import NDArray

from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.raster.din99o import din99o, lab_image, lightness_of
from bisectum.core.steps.colours.photo.certainty import RISE, SCALES, Certainty, certainty
from bisectum.core.steps.colours.photo.dark_lines import dark_lines
from bisectum.core.steps.colours.photo.face_lines import face_lines
from bisectum.core.steps.colours.photo.faces import find_faces
from bisectum.core.steps.colours.photo.inks import LEAST_APART, _chosen, choose_inks, ink_choices
from bisectum.core.steps.colours.photo.shades import gather_shades
from bisectum.core.steps.colours.photo.shading import _smooth, evened
from bisectum.core.steps.colours.photo.sides import sided
from tests.support.strangers import shipped

MM, FINE = 0.2, 0.4


def certain_of(colour: NDArray[np.float32], times: float = 1.4, seed: float = 0.8) -> Certainty:
    shape = colour.shape[:2]
    result = certainty(colour, MM, FINE, np.full(shape, times, np.float32), np.full(shape, seed, np.float32))
    result.check()
    return result


def fur(seed: int = 0, size: int = 300) -> NDArray[np.float32]:
    """Strokes of a few pixels that lie close together, DIN99o."""
    noise = np.random.default_rng(seed).normal(0, 1, (size, size)).astype(np.float32)
    light = 50 + 14 * cv2.GaussianBlur(noise, (0, 0), sigmaX=0.8, sigmaY=4.0)
    return np.stack([light, np.full_like(light, 6), np.full_like(light, 14)], axis=2)


def test_texture_is_smoothed_and_an_outline_within_it_is_not() -> None:
    picture = fur()
    calm, fine = (certain_of(picture, *how) for how in ((1.7, 0.5), (1.1, 0.8)))
    left = [one.calm()[40:-40, 40:-40, 0].std() / picture[40:-40, 40:-40, 0].std() for one in (calm, fine)]
    assert np.median(calm.scale) > 2.5 and left[0] < 0.25 < 0.5 < left[1]
    cv2.circle(picture, (150, 150), 40, (88.0, 6.0, 14.0), -1)
    found = certain_of(picture, 1.7, 0.5)
    y, x = np.mgrid[0:300, 0:300]
    away = np.abs(np.hypot(x - 150, y - 150) - 40)
    assert (found.edge[away < 1] > 0).mean() > 0.95 and np.median(found.found[away < 1]) == pytest.approx(SCALES[0])
    assert ((found.edge > 0) & (found.found < 1.0))[away > 12].mean() < 0.02  # wide scales see the disc from afar


def test_scale_rises_no_faster_than_it_may_and_a_flat_picture_stays_as_it_is() -> None:
    picture = fur(1)
    cv2.rectangle(picture, (100, 60), (180, 240), (10.0, 0.0, 0.0), -1)
    scale = certain_of(picture).scale
    for shift in (1, 7, 30):
        assert np.abs(scale[shift:] - scale[:-shift]).max() <= (RISE * MM * shift + 1e-4) * 1.02  # distances good to 2 %
    flat = np.full((120, 160, 3), (40.0, 5.0, -8.0), np.float32)
    found = certain_of(flat)
    assert not found.edge.any() and np.abs(found.calm() - flat).max() < 1e-3
    assert np.abs(sided(flat, found, MM, FINE) - flat).max() == 0 and np.abs(evened(flat, found, MM, FINE) - flat).max() < 1e-3


def test_one_solve_of_the_evening_is_that_of_scipy() -> None:
    rng = np.random.default_rng(4)
    row, passes = rng.normal(50, 20, (1, 80, 3)).astype(np.float32), rng.uniform(0, 1, (1, 80)).astype(np.float32)
    strength = 30.0
    weight = 1.5 * strength / 3 * np.minimum(passes[0, 1:], passes[0, :-1]).astype(float)
    bands = np.zeros((3, 80))
    bands[0, 1:], bands[2, :-1] = -weight, -weight
    bands[1] = 1 + np.append(weight, 0) + np.append(0, weight)
    wanted = scipy.linalg.solve_banded((1, 1), bands, row[0].astype(float))
    for image, open_ in ((row, passes), (row.transpose(1, 0, 2), passes.T)):
        made = np.ascontiguousarray(image).copy()
        _smooth(made, np.ascontiguousarray(open_), np.float32(strength), 1)
        assert np.abs(made.reshape(80, 3) - wanted).max() < 1e-3


def test_evening_keeps_the_light_there_is_on_each_side_of_an_edge() -> None:
    slope = np.tile(np.linspace(20, 60, 200, dtype=np.float32), (150, 1))
    slope[:, 100:] -= 38
    picture = np.stack([slope + fur(2, 200)[:150, :, 0] - 50, np.zeros_like(slope), np.zeros_like(slope)], axis=2)
    found = certain_of(picture)
    made = evened(picture, found, MM, FINE)
    assert made.sum() == pytest.approx(picture.sum(), rel=1e-4)
    for half in (made[:, :96, 0], made[:, 104:, 0]):
        assert np.diff(half.mean(axis=0)).std() < 0.3
    assert made[:, 96:99, 0].mean() - made[:, 102:105, 0].mean() > 30


def test_a_soft_edge_gets_two_sides_and_a_thin_line_stays() -> None:
    light = np.where(np.arange(240) < 120, 30.0, 70.0).astype(np.float32)
    picture = np.zeros((160, 240, 3), np.float32)
    picture[..., 0] = cv2.GaussianBlur(np.tile(light, (160, 1)), (0, 0), 1.5)
    found = certain_of(picture)
    made = sided(found.calm(), found, MM, FINE)
    between = ((made[..., 0] > 35) & (made[..., 0] < 65)).mean() * 240
    assert between < 0.35 * ((picture[..., 0] > 35) & (picture[..., 0] < 65)).mean() * 240
    assert (made[:, 122:, 0] > 50).all() and (made[:, :118, 0] < 50).all()
    lined = np.full((160, 240, 3), (70.0, 0.0, 0.0), np.float32)
    cv2.line(lined, (20, 80), (220, 90), (20.0, 0.0, 0.0), 3, cv2.LINE_AA)
    found = certain_of(lined)
    calm = found.calm()
    assert (sided(calm, found, MM, FINE)[60:110, 60:180, 0].min(axis=0) < calm[60:110, 60:180, 0].min(axis=0) + 8).all()


def test_dark_lines_are_lines_and_no_edges() -> None:
    light = np.full((200, 300), 75.0, np.float32)
    light[:, 220:] = 30
    cv2.line(light, (30, 150), (180, 60), 40.0, 4, cv2.LINE_AA)
    colour = np.stack([light, np.zeros_like(light), np.zeros_like(light)], axis=2)
    lines = dark_lines(light, certain_of(colour), MM, FINE)
    t = np.linspace(0.1, 0.9, 50)
    on = lines[np.rint(150 - 90 * t).astype(int), np.rint(30 + 150 * t).astype(int)]
    assert (on > 0.9).all() and lines[:, 195:].max() < 0.1 and lines[:60, :100].max() == 0


def test_what_is_dark_in_a_face_is_its_features() -> None:
    rgb = np.ascontiguousarray(shipped("astronaut")[..., :3])
    (face,) = find_faces(np.ascontiguousarray(shipped("astronaut")))
    lines = face_lines(np.ascontiguousarray(lab_image(rgb)[..., 0]), [face], 1.0, 0.6)
    for x, y in ((202, 101), (246, 103), (206, 91), (207, 141)):  # pupils, a brow, a corner of the mouth, by eye
        assert lines[y - 2 : y + 3, x - 2 : x + 3].max() > 0.8
    for x, y in ((195, 118), (255, 122), (225, 165), (223, 143)):  # cheeks, chin and teeth
        assert lines[y, x] == 0
    assert not face_lines(lab_image(rgb)[..., 0].copy(), [], 1.0, 0.6).any()


@pytest.mark.parametrize("seed", range(4))
def test_chosen_inks_are_nearly_the_best_that_could_be(seed: int) -> None:
    rng = np.random.default_rng(seed)
    colours = rng.uniform([10, -30, -30], [95, 30, 30], (11, 3))
    away = np.sqrt(((colours[:, None] - colours[None]) ** 2).sum(axis=2))
    weight = rng.uniform(0, 5, 11)
    weight[3] = 0  # may not be chosen, unless it is pinned
    cost = weight[:, None] * away**2 / (1 + (away / 28) ** 2)
    alone = np.eye(11, dtype=bool)
    chosen = _chosen(away, weight, alone, 4, [])
    able = [k for k in range(11) if weight[k] > 0]
    least = min(cost[:, list(some)].min(axis=1).sum() for some in itertools.combinations(able, 4))
    assert len(set(chosen)) == 4 and 3 not in chosen and cost[:, chosen].min(axis=1).sum() <= 1.02 * least
    assert _chosen(away, weight, alone, 4, [3])[0] == 3


def test_a_small_collar_earns_an_ink_before_a_second_shade_of_fur() -> None:
    """What is pinned is an ink, what is darkest too; there are never more than were asked for."""
    rgb = np.full((400, 500, 3), (176, 140, 96), np.uint8)
    rgb[:, 250:] = (158, 124, 84)  # fur in the shade
    rgb[300:330, 120:380] = (200, 30, 40)
    cv2.circle(rgb, (180, 150), 18, (25, 22, 20), -1)
    cv2.circle(rgb, (320, 150), 18, (25, 22, 20), -1)
    colour = din99o(lab_image(cv2.GaussianBlur(rgb, (0, 0), 1.0)))
    shades = gather_shades(colour, rgb, certain_of(colour), np.ones(rgb.shape[:2], bool), np.ones(rgb.shape[:2], np.float32), MM)
    shades.check()
    for count, pins in ((3, ()), (3, ((60, 160, 70),)), (2, ()), (1, ())):
        inks = choose_inks(shades, count, np.array(pins, np.uint8).reshape(-1, 3))
        inks.check()
        assert len(inks.rgb) == count and inks.rgb[: len(pins)].tolist() == [list(pin) for pin in pins]
        if count == 3 and not pins:
            wanted = cielab(np.array([(176, 140, 96), (200, 30, 40), (25, 22, 20)], np.uint8))
            assert (ciede2000(wanted[:, None], cielab(inks.rgb)[None]).min(axis=1) < LEAST_APART).all()


@pytest.mark.parametrize("name", ["chelsea", "camera", "coffee"])
def test_no_two_inks_look_alike_however_many_are_asked_for(name: str) -> None:
    rgb = np.ascontiguousarray(shipped(name)[::2, ::2, :3])
    colour = din99o(lab_image(rgb))
    shades = gather_shades(colour, rgb, certain_of(colour), np.ones(rgb.shape[:2], bool), np.ones(rgb.shape[:2], np.float32), MM)
    darkest = tuple(int(own) for own in shades.rgb[shades.colours[:, 0].argmin()])
    for count, pin in itertools.product((2, 5, 12), ((40, 60, 200), darkest)):
        choices = ink_choices(shades, count, np.array([pin], np.uint8))
        assert 1 <= len(choices) <= 3 and choices[0].taste == "balanced"
        assert "large" in [choice.taste for choice in ink_choices(shades, count, np.empty((0, 3), np.uint8), "large")]
        for choice in choices:
            choice.check()
            lab = cielab(np.array(choice.colours, np.uint8))
            assert len(lab) <= count and pin in choice.colours
            assert (ciede2000(lab[:, None], lab[None]) + 99 * np.eye(len(lab))).min() >= LEAST_APART


@pytest.mark.parametrize("shape", [(4, 900), (900, 3), (40, 40)])
def test_a_strip_and_a_picture_of_scraps_get_inks_too(shape: tuple[int, int]) -> None:
    rgb = np.random.default_rng(7).integers(0, 256, (*shape, 3), dtype=np.uint8)
    colour = din99o(lab_image(rgb))
    mm = 0.02  # a pixel: nothing here is large enough to be cut
    certain = certainty(colour, mm, FINE, np.full(shape, 1.7, np.float32), np.full(shape, 0.5, np.float32))
    inks = choose_inks(gather_shades(colour, rgb, certain, np.ones(shape, bool), np.ones(shape, np.float32), mm), 3)
    inks.check()
    assert 1 <= len(inks.rgb) <= 3


def test_lightness_comes_back_from_din99o() -> None:
    lab = lab_image(np.ascontiguousarray(shipped("coffee")[..., :3]))
    assert np.abs(lightness_of(din99o(lab)) - lab[..., 0]).max() < 1e-2
