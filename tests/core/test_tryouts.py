"""Try-outs: likeness and work as numbers, and what is worth trying."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from bisectum.core.course import CourseSettings, Source
from bisectum.core.errors import SettingsError
from bisectum.core.model.work import work_of
from bisectum.core.tryouts.likeness import likeness
from bisectum.core.tryouts.recipes import Recipe, Treatment, around, for_drawing, for_photograph
from bisectum.core.tryouts.try_out import recipes_of, try_out
from tests.support.asserts import trace
from tests.support.strangers import RGB, shipped


def source_of(rgba: RGB) -> Source:
    return Source(rgba, 0.2, "1" * 64)


def shapes_drawn() -> RGB:
    drawing = np.full((90, 120, 4), 255, np.uint8)
    drawing[20:70, 20:60, :3], drawing[30:60, 70:100, :3] = (200, 40, 40), (30, 60, 140)
    drawing[35:50, 30:45, :3] = 255
    return drawing


def test_likeness_falls_with_what_is_lost() -> None:
    picture = np.ascontiguousarray(np.asarray(cv2.resize(shipped("coffee"), (240, 160), interpolation=cv2.INTER_AREA))[..., :3])
    shown = np.ones(picture.shape[:2], bool)
    blurred = [np.asarray(cv2.GaussianBlur(picture, (0, 0), sigma), np.uint8) for sigma in (0.01, 2, 5, 12)]
    values = [likeness(picture, made, shown, 0.5) for made in blurred]
    assert values[0] == pytest.approx(100, abs=0.1) and values == sorted(values, reverse=True) and values[-1] < 60
    assert likeness(picture, np.asarray(255 - picture), shown, 0.5) < 10
    assert likeness(picture, np.full_like(picture, 200), shown, 0.5) < 10
    assert likeness(picture, picture, np.zeros_like(shown), 0.5) == 0
    half = shown.copy()
    half[:, 120:] = False  # what is cut away does not count
    spoiled = picture.copy()
    spoiled[:, 140:] = 0
    assert likeness(picture, spoiled, half, 0.5) > likeness(picture, spoiled, shown, 0.5) + 5


def test_work_is_counted_from_what_is_cut() -> None:
    artwork = trace(shapes_drawn(), picture={"width_mm": 90.0}).artwork
    work = work_of(artwork)
    rings = sum(len(piece.rings) for layer in artwork.layers for piece in layer.pieces)
    assert work.pieces + work.windows == rings
    assert work.minutes * 60 == pytest.approx(artwork.cut_length / 25 + 0.4 * rings + 2 * rings + 0.01 * artwork.cut_length)


@pytest.mark.parametrize("recipe", [*for_photograph("scene"), *for_drawing(5)], ids=lambda recipe: recipe.code)
def test_every_recipe_is_a_course_that_can_be_taken(recipe: Recipe) -> None:
    marks = {"spots": ({"x": 0.5, "y": 0.5},)}
    course = CourseSettings.model_validate({"colours": marks | {"thresholds": (20.0, 50.0), "treatment": "lightness"}})
    taken = recipe.treatment.on(course)
    assert taken.colours.spots == course.colours.spots  # what was marked by hand stays
    assert taken.colours.thresholds == () or recipe in for_drawing(5)
    for variant in around(taken):
        assert variant.treatment.on(taken) != taken, variant.code
    assert len({str(variant.treatment) for variant in around(taken)}) == len(around(taken))


def test_of_a_speckled_picture_the_outline_is_tried_first() -> None:
    rng = np.random.default_rng(2)
    bits = np.array([(40, 80, 140), (200, 60, 40), (240, 196, 70)], np.uint8)[rng.integers(0, 3, (150, 150))]
    glitter = np.full((640, 640, 4), 255, np.uint8)
    glitter[20:620, 20:620, :3] = np.repeat(np.repeat(bits, 4, axis=0), 4, axis=1)
    for rgba, first in ((glitter, "outline_only"), (shapes_drawn(), "as_found")):
        found = recipes_of(source_of(rgba), CourseSettings(), {}, False)
        assert found[0].code == first and sum(recipe.code == "outline_only" for recipe in found) == 1


def test_photographs_and_drawings_are_tried_in_ways_of_their_own() -> None:
    photo = np.ascontiguousarray(shipped("gravel")[::3, ::3])
    drawing = shapes_drawn()
    cache: dict[str, object] = {}
    course = CourseSettings()
    codes = [recipe.code for recipe in recipes_of(source_of(photo), course, cache, like_this=False)]
    assert len(codes) >= 9 and codes[0] == "tones" and "dark" in codes
    for name, why in (("astronaut", "faces"), ("flower", "subject"), ("gravel", "scene")):
        first = recipes_of(Source(shipped(name), 0.2, f"{len(name):064x}"), course, {}, like_this=False)[0]
        assert (first.why, first.code) == (why, "tones" if why == "scene" else "colours_drawn")
    other = Source(drawing, 0.2, "2" * 64)
    assert next(recipe.code for recipe in recipes_of(other, course, cache, like_this=False)) == "as_found"
    assert "finer" in [recipe.code for recipe in recipes_of(source_of(photo), course, cache, like_this=True)]


def test_a_try_out_tells_what_the_full_result_will_be() -> None:
    source, cache = source_of(np.ascontiguousarray(shipped("coffee"))), {}
    course = CourseSettings.model_validate({"picture": {"width_mm": 150}, "background": {"mode": "keep"}})
    found = {recipe.code: try_out(source, recipe.treatment.on(course), cache)
             for recipe in for_photograph("scene") if recipe.code in ("colours", "dark", "two_tones", "stencil")}
    for made in found.values():
        made.artwork.check()
        assert made.artwork.width == pytest.approx(150, abs=0.01)
    assert found["colours"].likeness > max(found["two_tones"].likeness, found["dark"].likeness)
    assert found["colours"].work.minutes > found["dark"].work.minutes
    with pytest.raises(SettingsError, match="background"):
        try_out(source, Treatment({"treatment": "silhouette", "kind": "photo"}).on(course), cache)
