"""Colour against published constants."""

from __future__ import annotations

import numpy as np
import pytest
from skimage.color import lab2xyz

from bisectum.core.raster.colour import LINEAR_OF_SRGB, coded_of_oklab, hex_of, oklab, oklab_of_linear, plain_name, rgb_of

# IEC 61966-2-1, annex: linear sRGB to CIE XYZ, white point D65.
XYZ_OF_LINEAR = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])


def test_srgb_by_its_standard() -> None:
    """IEC 61966-2-1: V/12.92 up to 0.04045, then ((V + 0.055)/1.055)^2.4."""
    assert LINEAR_OF_SRGB[[0, 255]].tolist() == [0, 1]
    assert LINEAR_OF_SRGB[10] == pytest.approx(10 / 255 / 12.92, rel=1e-12)
    assert LINEAR_OF_SRGB[11] == pytest.approx(((11 / 255 + 0.055) / 1.055) ** 2.4, rel=1e-12)
    assert (np.diff(LINEAR_OF_SRGB) > 0).all()


@pytest.mark.parametrize(
    ("xyz", "lab"),
    [
        ((0.950, 1.000, 1.089), (1.000, 0.000, 0.000)),
        ((1.000, 0.000, 0.000), (0.450, 1.236, -0.019)),
        ((0.000, 1.000, 0.000), (0.922, -0.671, 0.263)),
        ((0.000, 0.000, 1.000), (0.153, -1.415, -0.449)),
    ],
)
def test_oklab_by_its_authors_pairs(xyz: tuple[float, ...], lab: tuple[float, ...]) -> None:
    """B. Ottosson, "A perceptual color space for image processing", 2020: the table of test pairs, three decimals.

    The standard's matrix is rounded to four decimals, hence the slack.
    """
    linear = np.linalg.inv(XYZ_OF_LINEAR) @ np.array(xyz)
    assert oklab_of_linear(linear) == pytest.approx(lab, abs=2e-3)


def test_white_is_white_in_both_spaces() -> None:
    """CIE 15: L* = 100, a* = b* = 0 is the white point; OKLab has 1, 0, 0 there."""
    white = np.linalg.inv(XYZ_OF_LINEAR) @ lab2xyz(np.array([[100.0, 0, 0]]))[0]
    assert white == pytest.approx([1, 1, 1], abs=2e-3)
    assert oklab(np.array([255, 255, 255], np.uint8)) == pytest.approx([1, 0, 0], abs=1e-6)


def test_colours_come_back_from_oklab() -> None:
    rgb = np.random.default_rng(5).integers(0, 256, (4000, 3)).astype(np.uint8)
    assert (coded_of_oklab(oklab(rgb)) == rgb).all()
    assert rgb_of(hex_of((1, 35, 254))) == (1, 35, 254)
    with pytest.raises(ValueError):
        rgb_of("#12345")


@pytest.mark.parametrize(
    ("colour", "name"),
    [
        ("#ffffff", "White"),
        ("#000000", "Black"),
        ("#808080", "Grey"),
        ("#c8452f", "Red"),
        ("#2f5d7c", "Blue"),
        ("#f2c14e", "Yellow"),
        ("#1d3f66", "Dark blue"),
        ("#3a8f4d", "Green"),
        ("#f4ead6", "Cream"),
    ],
)
def test_names_a_person_would_give(colour: str, name: str) -> None:
    """Common practice, no source."""
    assert plain_name(rgb_of(colour)) == name
