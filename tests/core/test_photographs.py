"""Photographs as smooth classes: the parts by their properties and against libraries, the whole on strangers' pictures."""

from __future__ import annotations

import itertools
import math

import cv2
import numpy as np
import pytest
import scipy.ndimage
import shapely
from numpy.typing import NDArray
from skimage.filters import threshold_multiotsu
from skimage.measure import find_contours

from bisectum.core.errors import SettingsError
from bisectum.core.raster.cracks import crack_graph
from bisectum.core.raster.curvature_flow import curvature_flow
from bisectum.core.raster.din99o import lab_image
from bisectum.core.raster.sharpness import edge_blur
from bisectum.core.raster.thresholds import best_by_error, by_area, evenly
from bisectum.core.steps.colours.clusters import cluster
from bisectum.core.steps.colours.photo.areas import ANY, Least, merged
from bisectum.core.steps.colours.photo.bridges import bridges
from bisectum.core.steps.colours.photo.dynamics import highest, settled
from bisectum.core.steps.colours.photo.exchange import exchanged
from bisectum.core.steps.colours.photo.widths import opened, wide_enough
from bisectum.core.steps.layers.order import light_to_dark
from bisectum.core.steps.lines.level_places import level_places
from tests.support.drawings import circle, coverage, painted
from tests.support.photos import face, narrow_places, polygons, small_pieces, treated
from tests.support.strangers import PATTERNS, RGB, rgba_of, shipped

TREATMENTS = ("colours", "lightness", "dark", "line_shade", "stencil")


def grid(height: int, width: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    y, x = np.mgrid[0:height, 0:width].astype(np.float32) + np.float32(0.5)
    return y, x


def smaller(rgba: RGB, width: int) -> RGB:
    return np.asarray(cv2.resize(rgba, (width, round(rgba.shape[0] * width / rgba.shape[1])), interpolation=cv2.INTER_AREA))


# Parts

@pytest.mark.parametrize("name", ["camera", "moon", "coffee"])
def test_best_thresholds_are_those_of_otsu(name: str) -> None:
    """scikit-image's threshold_multiotsu (P.-S. Liao et al., 2001) tries all; least error within is most between."""
    grey = np.asarray(cv2.cvtColor(np.ascontiguousarray(shipped(name)[..., :3]), cv2.COLOR_RGB2GRAY))
    counts = np.bincount(grey.ravel(), minlength=256).astype(float)
    for classes in (2, 3, 4):
        wanted = threshold_multiotsu(grey, classes, nbins=256)
        assert within(counts, best_by_error(counts, classes)) <= within(counts, np.floor(wanted).astype(int) + 1) * (1 + 1e-9)


def within(counts: NDArray[np.float64], starts: NDArray[np.int64]) -> float:
    """Squared error within the classes."""
    total, values = 0.0, np.arange(len(counts))
    for own in np.split(values, starts):
        weight = counts[own].sum()
        if weight:
            total += float((counts[own] * (own - (counts[own] * own).sum() / weight) ** 2).sum())
    return total


def test_other_spacings_are_even() -> None:
    counts = np.random.default_rng(1).integers(1, 100, 256).astype(float)
    shares = [own.sum() / counts.sum() for own in np.split(counts, by_area(counts, 4))]
    assert shares == pytest.approx([0.25] * 4, abs=0.01)
    assert np.ptp(np.diff(evenly(np.ones(256), 5))) <= 1
    assert len(best_by_error(np.eye(1, 256, 40)[0], 4)) == 0  # one value has no parts


def test_clusters_are_as_good_as_scikit_learns() -> None:
    from sklearn.cluster import KMeans

    for seed, name in enumerate(("astronaut", "coffee", "flower")):
        colours = lab_image(np.ascontiguousarray(smaller(shipped(name), 120)[..., :3])).reshape(-1, 3).astype(float)
        for count in (3, 6):
            centres = cluster(colours, count)
            own = float(((colours[:, None] - centres) ** 2).sum(axis=2).min(axis=1).sum())
            assert own <= 1.03 * float(KMeans(count, n_init=4, random_state=seed).fit(colours).inertia_)


def test_level_lines_are_those_of_marching_squares() -> None:
    """scikit-image's find_contours on the same field; ours lie on cracks, so they may differ by the field's own bend."""
    y, x = grid(90, 120)
    field = np.hypot(x - 60, (y - 44) * 1.3) - 31 + 1.5 * np.sin(x / 9)
    scores = np.stack([np.full_like(field, -9), -field, field])
    labels = (highest(scores[1:]) + 1).astype(np.uint8)
    places = level_places(scores.astype(np.float32), labels, crack_graph(labels), 0)
    oracle = shapely.MultiLineString([contour[:, ::-1] + 0.5 for contour in find_contours(field, 0.0)])
    on_frame = (places.points < 0.6).any(axis=1) | (places.points[:, 0] > 119.4) | (places.points[:, 1] > 89.4)
    away = np.array([shapely.Point(at).distance(oracle) for at in places.points[~on_frame]])
    assert len(away) > 150 and away.max() < 0.06


def test_borders_come_to_rest_smooth() -> None:
    y, x = grid(120, 120)
    disc = np.hypot(x - 60, y - 60) < 30
    noise = np.random.default_rng(3).normal(0, 0.12, disc.shape)
    against = np.stack([np.where(disc, 0.5, 0.0) + noise, np.where(disc, 0.0, 0.5) - noise]).astype(np.float32)
    labels, scores = settled(against, 3.0)
    assert np.array_equal(labels, highest(scores))
    assert (labels == disc).mean() > 0.99
    assert cv2.connectedComponents(labels)[0] == 2  # grains are gone


def test_what_is_worth_less_than_its_border_goes_and_strong_spots_stay() -> None:
    y, x = grid(100, 100)
    labels = np.ones((100, 100), np.uint8)
    faint, strong = np.hypot(x - 30, y - 30) < 12, np.hypot(x - 70, y - 70) < 8
    labels[faint], labels[strong] = 2, 3
    against = np.stack([np.where(strong, 0.8, np.where(faint, 0.004, 0.0)), np.where(strong, 0.8, np.where(faint, 0.0, 0.004)),
                        np.where(strong, 0.0, 0.8)]).astype(np.float32)
    tidy, gone = merged(labels, against, 0.2, ANY)
    assert gone == 1 and (tidy[faint] == 1).all() and (tidy[strong] == 3).all()
    assert merged(labels, against, 0.2, Least(100.0))[0].max() == 1  # smaller than the smallest piece


def test_merging_leaves_no_small_area() -> None:
    rng = np.random.default_rng(5)
    labels = rng.integers(0, 4, (60, 70)).astype(np.uint8)
    tidy, _ = merged(labels, rng.random((3, 60, 70)).astype(np.float32), 1.0, Least(40.0), 0.0)
    for label in range(4):
        _, _, stats, _ = cv2.connectedComponentsWithStats((tidy == label).astype(np.uint8), connectivity=8)
        assert (stats[1:, cv2.CC_STAT_AREA] >= 40).all()


def test_an_area_may_be_smaller_where_small_things_tell() -> None:
    labels = np.ones((40, 80), np.uint8)
    labels[18:22, 18:22] = labels[18:22, 58:62] = 2
    counted = np.ones((40, 80), np.float32)
    counted[:, :40] = 4
    against = np.where(labels == np.array([1, 2])[:, None, None], 0.0, 1.0).astype(np.float32)
    tidy, gone = merged(labels, against, 1.0, Least(50.0, counted))
    assert gone == 1 and (tidy[:, :40] == labels[:, :40]).all() and (tidy[:, 40:] == 1).all()


def test_thin_parts_are_widened_where_they_tell_and_go_where_not() -> None:
    labels = np.ones((120, 160), np.uint8)
    labels[40:44, 20:140], labels[80:84, 20:140] = 2, 3  # .4 mm wide
    against = np.stack([np.where(labels == 2, 0.9, np.where(labels == 3, 0.002, 0.0)), np.where(labels == 2, 0.0, 0.9),
                        np.where(labels == 3, 0.0, 0.9)]).astype(np.float32)
    wide, gone, widened = wide_enough(labels, against, 0.1, 0.8)
    assert (gone, widened) == (1, 1) and not (wide == 3).any()
    assert (wide[:, 40:120] == 2).sum(axis=0) == pytest.approx(8, abs=2)
    assert (opened(wide == 2, 3.5) == (wide == 2)).mean() > 0.999
    plenty = np.where(np.hypot(*np.mgrid[-60:60, -80:80]) < 40, 2, 1).astype(np.uint8)
    assert (wide_enough(plenty, against, 0.1, 0.8)[0] == plenty).mean() > 0.999


def test_exchanged_scores_follow_the_labels() -> None:
    rng = np.random.default_rng(2)
    scores = rng.random((4, 30, 30)).astype(np.float32)
    before = highest(scores)
    after = rng.integers(0, 4, before.shape).astype(np.uint8)
    changed = exchanged(scores, before, after, before != after)
    assert np.array_equal(highest(changed), after)
    assert np.array_equal(np.sort(changed, axis=0), np.sort(scores, axis=0))


def test_a_circle_shrinks_by_curvature_as_it_must() -> None:
    """r² falls by twice the time: L. Alvarez, P.-L. Lions, J.-M. Morel, 1992."""
    y, x = grid(100, 100)
    disc = 20 - np.hypot(x - 50, y - 50)
    after = curvature_flow(disc.astype(np.float32), 60.0)
    assert np.sqrt((after > 0).sum() / np.pi) == pytest.approx(np.sqrt(400 - 2 * 60), rel=0.02)


@pytest.mark.parametrize("seed", range(4))
def test_bridges_tie_every_island(seed: int) -> None:
    rng = np.random.default_rng(seed)
    card = cv2.GaussianBlur(rng.random((140, 160)).astype(np.float32), (0, 0), 4) > 0.5
    card[:8], card[-8:], card[:, :8], card[:, -8:] = True, True, True, True
    field, held, count = bridges(card, 5.0)
    assert count == cv2.connectedComponents(card.astype(np.uint8), connectivity=4)[0] - 2
    assert np.array_equal(held, card)
    assert cv2.connectedComponents((card | (field > 0)).astype(np.uint8), connectivity=4)[0] == 2  # the rest and one part
    assert bridges(np.ones((20, 20), bool), 5.0)[2] == 0


def test_a_stencil_of_noise_is_one_part(monkeypatch: pytest.MonkeyPatch) -> None:
    """More islands than there may be bridges: what none holds falls out."""
    monkeypatch.setattr("bisectum.core.steps.colours.photo.bridges.MOST_BRIDGES", 3)
    noise = np.random.default_rng(3).integers(0, 256, (16, 20), dtype=np.uint8)
    grey = np.asarray(cv2.resize(noise, (300, 240), interpolation=cv2.INTER_CUBIC))
    result = treated(np.dstack([grey, grey, grey, np.full_like(grey, 255)]), {"treatment": "stencil"})
    assert [len(layer.pieces) for layer in result.artwork.layers] == [1]
    assert result.artwork.layers[0].pieces[0].windows


@pytest.mark.parametrize("deviation", [1.5, 3.0, 8.0])
def test_blur_at_edges_is_measured(deviation: float) -> None:
    y, x = grid(200, 200)
    steps = np.where(np.hypot(x - 90, y - 100) < 60, 80, 20).astype(np.float32)
    assert edge_blur(cv2.GaussianBlur(steps, (0, 0), deviation)) == pytest.approx(deviation, rel=0.15)
    assert edge_blur(np.full((50, 50), 40, np.float32)) is None


def test_tones_take_the_places_they_have_from_light_to_dark() -> None:
    assert light_to_dark([0, 1, 3, 2], [30.0, None, 55.0, 80.0]) == [3, 1, 2, 0]


# The whole

@pytest.mark.parametrize("treatment", TREATMENTS)
@pytest.mark.parametrize("name", ["astronaut", "flower"])
def test_a_photograph_becomes_what_can_be_cut(name: str, treatment: str) -> None:
    rgba = smaller(shipped(name), 300)
    result = treated(rgba, {"treatment": treatment, "count": None if treatment == "colours" else 4})
    result.arrangement.check()
    result.artwork.check()
    course = next(iter(result.courses.values()))
    course.label_map.check()
    scores, labels = course.label_map.scores, course.label_map.labels
    assert scores is not None and (highest(scores) == labels).mean() > 0.999
    assert small_pieces(result.artwork) == 0
    light = [float(lab_image(np.array([[layer.rgb]], np.uint8))[0, 0, 0]) for layer in result.artwork.layers]
    assert light == sorted(light, reverse=True)
    if treatment == "stencil":
        assert len(result.artwork.layers[0].pieces) == 1
    if treatment == "lightness":
        stacked = treated(rgba, {"treatment": treatment, "count": 4}, build="stacked").artwork
        shapes = [shapely.union_all(polygons(layer)) for layer in stacked.layers]
        assert all(upper.difference(lower.buffer(0.01)).area < 0.05 for lower, upper in itertools.pairwise(shapes))
        anyhow = treated(rgba, {"treatment": treatment, "count": 4, "smallest_width_mm": 0.0}).artwork
        found = [sum(narrow_places(shapely.union_all(polygons(layer))) for layer in made.layers)
                 for made in (result.artwork, anyhow)]
        assert found[0] <= 0.4 * found[1] + 2  # the bench says how many are left


@pytest.mark.parametrize("number", [3, 42, 77])
def test_a_face_of_a_few_pixels_is_still_a_face(number: int) -> None:
    """What is blurred over millimetres at this size is no texture: 25 pixels across 150 mm. Few greys are far enough apart."""
    rgba = face(number)
    label_map = next(iter(treated(rgba, {}).courses.values())).label_map
    light = lab_image(np.array([[(255, 255, 255), *(colour.rgb for colour in label_map.palette.colours)]], np.uint8))[0, :, 0]
    height, width = label_map.labels.shape
    picture = cv2.resize(lab_image(rgba[..., :3].copy())[..., 0], (width, height), interpolation=cv2.INTER_CUBIC)
    features = [(one - cv2.GaussianBlur(one, (0, 0), width / 12)).ravel() for one in (light[label_map.labels], picture)]
    assert np.corrcoef(features)[0, 1] > 0.72


def test_tones_are_parted_where_one_says_and_left_to_the_cloth() -> None:
    rgba = smaller(shipped("camera"), 240)
    settings = {"treatment": "lightness", "drawn_top": False, "thresholds": (30.0, 60.0), "smallest_width_mm": 0.0}
    cache: dict[str, object] = {}
    made = next(iter(treated(rgba, settings, cache=cache).courses.values())).label_map
    assert made.scale is not None and made.scale.thresholds == (30.0, 60.0) and sum(made.scale.histogram) == pytest.approx(1)
    light = lab_image(np.array([[colour.rgb for colour in made.palette.colours]], np.uint8))[0, :, 0]
    assert sorted(np.searchsorted([30, 60], light).tolist()) == [0, 1, 2]
    bare = next(iter(treated(rgba, settings | {"bare": (2,)}, cache=cache).courses.values())).label_map
    assert len(bare.palette.colours) == 2 and bare.scale is not None and bare.scale.bare == (False, False, True)
    lightest = 1 + int(light.argmax())
    assert np.array_equal(bare.labels == 0, made.labels == lightest)


def test_lines_and_shade_leave_the_lightest_tone_bare_until_somebody_says_otherwise() -> None:
    rgba, cache = smaller(shipped("coffee"), 200), {}
    found = [next(iter(treated(rgba, {"treatment": "line_shade", "bare": bare}, cache=cache).courses.values())).label_map.scale
             for bare in (None, (), (0,))]
    assert [scale.bare for scale in found if scale is not None] == [(False, True), (False, False), (True, False)]


def test_pins_that_a_treatment_has_no_use_for_are_told() -> None:
    result = treated(smaller(shipped("coffee"), 160), {"treatment": "dark", "pins": ({"colour": "#12ab34"},)})
    findings = next(iter(result.courses.values())).label_map.findings
    assert [finding.details["colour"] for finding in findings if finding.code == "pin_unused"] == ["#12ab34"]


def test_marks_change_what_they_lie_on() -> None:
    rgba = smaller(shipped("astronaut"), 256)
    cache: dict[str, object] = {}

    def inked(**fields: object) -> NDArray[np.bool_]:
        labels = next(iter(treated(rgba, {"treatment": "dark", **fields}, cache=cache).courses.values())).label_map.labels
        return labels > 0

    stroke = ((0.55, 0.55), (0.7, 0.6))  # over the suit, which is light
    before = inked()
    darker = inked(light_marks=({"kind": "darker", "points": stroke, "width": 0.15, "amount": 50},))
    lighter = inked(light_marks=({"kind": "lighter", "points": ((0.55, 0.8), (0.75, 0.85)), "width": 0.2, "amount": 60},))
    assert darker.sum() > 1.05 * before.sum() and lighter.sum() < 0.95 * before.sum()
    ring = tuple((0.44 + 0.09 * float(np.cos(a)), 0.2 + 0.11 * float(np.sin(a))) for a in np.linspace(0, 6, 14))
    matters = inked(light_marks=({"kind": "matters", "points": ring},))
    width = before.shape[1]
    at = slice(round(0.09 * width), round(0.31 * width)), slice(round(0.35 * width), round(0.53 * width))
    assert (matters[at] != before[at]).mean() > 0.01 and (matters != before)[:, : width // 4].mean() < 0.005


def test_a_spot_has_a_colour_of_its_own() -> None:
    rgba = smaller(shipped("coffee"), 300)
    plain = treated(rgba, {"treatment": "dark"})
    spot = treated(rgba, {"treatment": "dark", "spots": ({"x": 0.42, "y": 0.27, "reach": 14},)})  # the coffee
    assert len(spot.artwork.layers) == len(plain.artwork.layers) + 1
    beside = treated(rgba, {"treatment": "dark", "spots": ({"x": 1.5, "y": 0.3},)})
    findings = next(iter(beside.courses.values())).label_map.findings
    assert "spots_left_out" in [finding.code for finding in findings]


@pytest.mark.parametrize("treatment", TREATMENTS)
def test_bad_pictures_become_something_or_a_sentence(treatment: str) -> None:
    noise = np.random.default_rng(1).integers(0, 256, (60, 80, 4)).astype(np.uint8)
    noise[..., 3] = 255
    black, tiny = np.zeros((40, 50, 4), np.uint8), smaller(face(3), 20)
    black[..., 3] = 255
    for rgba in (noise, black, tiny, smaller(rgba_of(PATTERNS["gradient"]()), 100)):
        try:
            result = treated(rgba, {"treatment": treatment})
        except SettingsError as error:
            assert error.code in ("nothing_dark", "nothing_left")
            continue
        result.artwork.check()
        assert result.artwork.piece_count


def test_a_silhouette_is_the_outline_with_windows_only_inside() -> None:
    """A dark disc speckled with light, some of the speckles at its edge: none bites into it, a large light one within is open."""
    rng = np.random.default_rng(3)
    disc = circle(150, 150, 110)
    speckles = [circle(150 + r * math.cos(a), 150 + r * math.sin(a), 9) for r, a in
                zip(rng.uniform(60, 112, 60), rng.uniform(0, 6.3, 60), strict=True)]
    shapes = [(disc, (60, 40, 50)), *((one.intersection(disc), (235, 225, 200)) for one in speckles),
              (circle(150, 150, 26), (235, 225, 200))]
    rgba = painted(shapes, 300, 300, (90, 160, 220))
    made = treated(rgba, {"treatment": "silhouette"}, background="border", width_mm=100.0)
    cut = made.courses["picture-1"].label_map.labels > 0
    cut = cv2.resize(cut.astype(np.uint8), (300, 300), interpolation=cv2.INTER_NEAREST) > 0
    filled = scipy.ndimage.binary_fill_holes(cut)
    inside = coverage(disc, 300, 300) > 0.5
    assert (filled ^ inside).sum() < 0.02 * inside.sum()
    assert not cut[150, 150]


def test_a_silhouette_needs_an_outline() -> None:
    with pytest.raises(SettingsError, match="background"):
        treated(smaller(shipped("coffee"), 120), {"treatment": "silhouette"})
