"""The subject of a photograph: where it is cut out by itself, where it is left, and the outline it gets."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from bisectum.core.model.picture import Picture
from bisectum.core.raster import networks
from bisectum.core.raster.resample import reduced_mask
from bisectum.core.steps.background.outline import guided_filter, outlined
from bisectum.core.steps.background.settings import BackgroundSettings
from bisectum.core.steps.background.step import find_background
from bisectum.services.networks import hand_in_networks
from tests.support.strangers import resized, shipped


def test_a_person_who_touches_the_frame_is_cut_out_by_itself() -> None:
    """The astronaut of scikit-image, close: head and shoulders, by marks put by hand on sure places."""
    rgba = np.ascontiguousarray(shipped("astronaut")[0:300, 60:360])
    ground = find_background(Picture(rgba, 0.1), BackgroundSettings())
    subject = [(60, 150), (110, 160), (110, 120), (200, 150), (260, 80), (270, 250), (290, 160)]
    around = [(10, 20), (20, 280), (100, 30), (90, 270), (160, 20), (60, 60)]
    assert ground.kind == "subject" and ground.cutout is not None
    assert not any(ground.mask[place] for place in subject) and all(ground.mask[place] for place in around)


def test_a_picture_filled_by_its_subject_is_kept_whole_and_cut_outs_are_offered() -> None:
    """The cat of scikit-image, who once lost an eye; each cut-out can be asked for by its name, and each is another one."""
    picture = Picture(shipped("chelsea"), 0.1)
    memory: dict[str, Any] = {}
    ground = find_background(picture, BackgroundSettings(), memory=memory)
    assert ground.kind == "not_plain" and not ground.mask.any() and 1 <= len(ground.cutouts) <= 3
    for cutout in ground.cutouts:
        chosen = find_background(picture, BackgroundSettings(mode="subject", cutout=cutout.name), memory=memory)
        assert (chosen.kind, chosen.cutout) == ("subject", cutout.name)
        assert reduced_mask(~chosen.mask, *cutout.mask.shape, 2)[cutout.mask].mean() > 0.9


@pytest.mark.parametrize("name", ["brick", "grass", "gravel", "china", "rocket"])
def test_a_scene_without_a_subject_is_kept_whole(name: str) -> None:
    assert not find_background(Picture(resized(shipped(name), 200_000), 0.1), BackgroundSettings()).mask.any()


def test_without_networks_it_goes_by_colours() -> None:
    picture = Picture(resized(shipped("flower"), 200_000), 0.1)
    networks.provide(None)
    try:
        ground = find_background(picture, BackgroundSettings())
    finally:
        hand_in_networks()
    assert [one.name for one in ground.cutouts] == ["contrast"]


def test_the_guided_filter_is_the_best_linear_function_of_each_window() -> None:
    """Against the definition of K. He et al., 2010, eq. 5, solved window by window."""
    rng = np.random.default_rng(4)
    guide, values, like = rng.random((14, 12, 3)), rng.random((14, 12)), 1e-3
    found = guided_filter(guide.astype(np.float32), values.astype(np.float32), 1, like)
    fits = np.zeros((14, 12, 4))
    for y in range(1, 13):
        for x in range(1, 11):
            colours, own = guide[y - 1 : y + 2, x - 1 : x + 2].reshape(9, 3), values[y - 1 : y + 2, x - 1 : x + 2].ravel()
            slope = np.linalg.solve(np.cov(colours.T, bias=True) + like * np.eye(3),
                                    (colours * own[:, None]).mean(axis=0) - colours.mean(axis=0) * own.mean())
            fits[y, x] = [*slope, own.mean() - slope @ colours.mean(axis=0)]
    for y in range(2, 12):
        for x in range(2, 10):
            mean = fits[y - 1 : y + 2, x - 1 : x + 2].reshape(9, 4).mean(axis=0)
            assert found[y, x] == pytest.approx(mean[:3] @ guide[y, x] + mean[3], abs=1e-3)


def before_leaves(alpha: NDArray[np.floating]) -> NDArray[np.uint8]:
    """Something orange before greens that change, as a picture. alpha : (h, w), 0 to 1."""
    rng = np.random.default_rng(1)
    leaves = np.array([60, 110, 50]) + cv2.GaussianBlur(rng.normal(0, 60, (*alpha.shape, 3)), (0, 0), 6)
    rgb = alpha[..., None] * (220, 120, 40) + (1 - alpha[..., None]) * leaves + rng.normal(0, 4, (*alpha.shape, 3))
    return np.dstack([np.clip(rgb, 0, 255), np.full(alpha.shape, 255)]).astype(np.uint8)


def outline_px(mask: NDArray[np.bool_]) -> float:
    contours, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return sum(cv2.arcLength(contour, True) for contour in contours)


def test_a_smooth_outline_is_met_from_a_coarse_mask_and_fur_is_calmed() -> None:
    y, x = np.mgrid[0:600, 0:800].astype(float)
    smooth = np.clip(220.5 - np.hypot(x - 400, y - 300), 0, 1)
    smooth[500:600, 390:410] = 1  # a leg
    coarse = cv2.resize(smooth, (267, 200), interpolation=cv2.INTER_AREA) > 0.5
    found = outlined(before_leaves(smooth), coarse)
    assert ((found > 127) ^ (smooth > 0.5)).sum() < 0.35 * outline_px(smooth > 0.5)  # a third of a pixel, in the mean
    hairs = 8 * np.random.default_rng(2).random(1400)
    furry = np.clip(200 + hairs[((np.arctan2(y - 300, x - 400) + np.pi) * 200).astype(int)] - np.hypot(x - 400, y - 300), 0, 1)
    calm = outlined(before_leaves(furry), cv2.resize(furry, (267, 200), interpolation=cv2.INTER_AREA) > 0.5) > 127
    assert outline_px(furry > 0.5) > 1.5 * outline_px(calm) and (calm ^ (furry > 0.5)).sum() < 8 / 3 * 2 * np.pi * 200
