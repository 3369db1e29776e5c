"""What a person is told of a photograph before work goes into it."""

from __future__ import annotations

import cv2
import numpy as np

from bisectum.core.model.finding import Finding
from bisectum.services.decode import PictureInfo
from bisectum.services.report import findings_of_item, findings_of_make
from tests.support.photos import treated
from tests.support.strangers import RGB, shipped

INFO = PictureInfo("PNG", 300, 300, None, 1)


def told(rgba: RGB, background: str = "keep", width_mm: float = 150.0, **colours: object) -> dict[str, Finding]:
    result = treated(rgba, colours, background, width_mm)
    (item, course), = result.courses.items()
    return {finding.code: finding for finding in (*findings_of_item(item, course, INFO), *findings_of_make(result, 120))}


def changed(rgba: RGB, slope: float, shift: float, blur: float = 0.0) -> RGB:
    """Another contrast, lightness and sharpness."""
    rgb = np.clip(rgba[..., :3] * slope + shift, 0, 255)
    rgb = cv2.GaussianBlur(rgb, (0, 0), blur) if blur else rgb
    return np.dstack([rgb.astype(np.uint8), rgba[..., 3]])


def test_a_blurred_picture_and_flat_light_are_told() -> None:
    plain = np.ascontiguousarray(shipped("coffee")[::2, ::2])
    assert not {"blurred", "flat_light"} & set(told(plain, treatment="dark"))
    blurred = told(changed(plain, 1.0, 0.0, 4.0), treatment="dark")["blurred"]
    assert blurred.value is not None and blurred.limit is not None and blurred.value > blurred.limit
    assert "flat_light" in told(changed(plain, 0.15, 100.0), treatment="lightness")


def test_a_subject_as_dark_as_its_ground_is_told() -> None:
    """A red disc on green of the same lightness (L* 53 and 52), cut out; and on white."""
    y, x = np.mgrid[0:300, 0:300]
    disc, shade = np.hypot(x - 150, y - 150) < 80, 12 * np.sin(x / 9) * np.sin(y / 9)
    for ground, expected in (((0, 135, 0), True), ((250, 250, 250), False)):
        rgb = np.where(disc[..., None], (235, 30, 30), ground) + shade[..., None]
        rgba = np.dstack([np.clip(rgb, 0, 255), np.full(disc.shape, 255)]).astype(np.uint8)
        assert ("like_ground" in told(rgba, "subject", treatment="lightness", count=2)) == expected


def test_more_than_an_evening_is_told_with_a_way_out() -> None:
    """Gravel, whose stones are all alike, has hardly any pieces by itself; as fine as can be it has thousands."""
    rgba = np.ascontiguousarray(shipped("gravel")[:200, :200])
    tones = {"treatment": "lightness", "count": 8, "drawn_top": False}
    assert "much_work" not in told(rgba, width_mm=300.0, **tones)
    much = told(rgba, width_mm=700.0, fine_mm=0.1, **tones)["much_work"]
    assert much.value is not None and much.value > 120 and much.repair == "open_try_outs" and much.details["pieces"] > 300
