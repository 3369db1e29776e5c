"""Colour against published constants."""

from __future__ import annotations

import colour
import numpy as np
import pytest
import skimage.color
from PIL import ImageColor
from skimage.color import lab2xyz

from bisectum.core.raster.colour import LINEAR_OF_SRGB, coded_of_oklab, hex_of, oklab, oklab_of_linear, rgb_of
from bisectum.core.raster.colour_names import distinct_names, plain_name
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.raster.din99o import din99o, lab_image

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
        ("#808000", "Olive"),
        ("#8b8378", "Taupe"),
        ("#cfe3ef", "Pale blue"),
        ("#c2b280", "Sand"),  # "sand", "tan", "rust" and "teal" are entries of the dictionary
        ("#c19a6b", "Tan"),
        ("#9e4732", "Rust"),
        ("#008080", "Teal"),
    ],
)
def test_names_a_person_would_give(colour: str, name: str) -> None:
    """Common practice, no source."""
    assert plain_name(rgb_of(colour)) == name


def test_names_agree_with_those_of_the_web() -> None:
    """CSS Color Module Level 4 (W3C), by Pillow: where its names hold the word of a hue, so do ours, nearly always."""
    words = ("red", "orange", "yellow", "green", "blue", "purple", "pink", "grey", "white")
    # Names of two hues, and words that merely hold one: these say nothing.
    beside = (*words, "violet", "slate", "navajo")
    asked = [(name, word) for name in ImageColor.colormap for word in words
             if name.endswith(word) and not any(other in name.removesuffix(word) for other in beside)]
    relatives = {"blue": ("violet", "teal", "turquoise"), "green": ("olive", "lime", "sage", "teal"),
                 "yellow": ("cream", "lime"), "white": ("cream",), "purple": ("violet",)}
    wrong = [(name, ours) for name, word in asked if not any(
        one in (ours := plain_name(ImageColor.getrgb(name)[:3])).lower() for one in (word, *relatives.get(word, ())))]
    assert len(asked) > 40 and len(wrong) <= 3, wrong


def test_no_two_colours_of_a_palette_are_called_alike() -> None:
    reds = [("Red", rgb_of(colour)) for colour in ("#c8452f", "#8f2a1c", "#d95a45", "#5a1a10", "#3a0d08", "#c8452f")]
    assert distinct_names(reds) == ("Red", "Red, darker", "Red, lighter", "Red, darkest", "Red 2", "Red 3")


# L, a, b of both colours and their difference: table 1 of G. Sharma, W. Wu, E. Dalal, "The CIEDE2000 Color-Difference
# Formula", 2005 (from memory; scikit-image's own implementation agrees).
PAIRS = """
50.0000 2.6772 -79.7751 50.0000 0.0000 -82.7485 2.0425
50.0000 3.1571 -77.2803 50.0000 0.0000 -82.7485 2.8615
50.0000 2.8361 -74.0200 50.0000 0.0000 -82.7485 3.4412
50.0000 -1.3802 -84.2814 50.0000 0.0000 -82.7485 1.0000
50.0000 -1.1848 -84.8006 50.0000 0.0000 -82.7485 1.0000
50.0000 -0.9009 -85.5211 50.0000 0.0000 -82.7485 1.0000
50.0000 0.0000 0.0000 50.0000 -1.0000 2.0000 2.3669
50.0000 -1.0000 2.0000 50.0000 0.0000 0.0000 2.3669
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0009 7.1792
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0010 7.1792
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0011 7.2195
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0012 7.2195
50.0000 -0.0010 2.4900 50.0000 0.0009 -2.4900 4.8045
50.0000 -0.0010 2.4900 50.0000 0.0011 -2.4900 4.7461
50.0000 2.5000 0.0000 50.0000 0.0000 -2.5000 4.3065
50.0000 2.5000 0.0000 73.0000 25.0000 -18.0000 27.1492
50.0000 2.5000 0.0000 61.0000 -5.0000 29.0000 22.8977
50.0000 2.5000 0.0000 56.0000 -27.0000 -3.0000 31.9030
50.0000 2.5000 0.0000 58.0000 24.0000 15.0000 19.4535
50.0000 2.5000 0.0000 50.0000 3.1736 0.5854 1.0000
50.0000 2.5000 0.0000 50.0000 3.2972 0.0000 1.0000
50.0000 2.5000 0.0000 50.0000 1.8634 0.5757 1.0000
50.0000 2.5000 0.0000 50.0000 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""


def test_differences_are_the_published_ones() -> None:
    table = np.array([[float(value) for value in row.split()] for row in PAIRS.strip().splitlines()])
    assert np.abs(ciede2000(table[:, :3], table[:, 3:6]) - table[:, 6]).max() < 5.1e-5


def test_differences_and_cielab_are_scikit_images() -> None:
    rng = np.random.default_rng(2)
    one, other = rng.integers(0, 256, (2, 4000, 3)).astype(np.uint8)
    mine, theirs = cielab(one), skimage.color.rgb2lab(one[None] / 255.0)[0]
    assert np.abs(mine - theirs).max() < 0.02  # their matrix has other last digits
    expected = skimage.color.deltaE_ciede2000(mine, cielab(other))
    np.testing.assert_allclose(ciede2000(mine, cielab(other)), expected, atol=1e-6)
    np.testing.assert_allclose(ciede2000(cielab(other), mine), expected, atol=1e-6)  # it does not matter which comes first


def test_lab_and_its_difference_are_those_of_colour_science() -> None:
    """The package colour-science (T. Mansencal et al.): CIELAB for D65 and the 2° observer, CIEDE2000."""
    rgb = np.random.default_rng(1).integers(0, 256, (1, 600, 3)).astype(np.uint8)
    white = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
    lab = colour.XYZ_to_Lab(colour.sRGB_to_XYZ(rgb / 255), white)
    assert lab_image(rgb) == pytest.approx(lab, abs=0.35)  # OpenCV takes sRGB's curve from a table
    own = cielab(rgb)[0]
    assert ciede2000(own[:300], own[300:]) == pytest.approx(colour.delta_E(lab[0, :300], lab[0, 300:]), abs=0.05)


def test_distances_of_din99o_are_nearer_to_what_is_seen_than_those_of_lab() -> None:
    """STRESS (P. A. García et al., 2007: 0 for proportional, 100 for unrelated) against CIEDE2000, on small differences."""
    rng = np.random.default_rng(4)
    rgb = rng.integers(10, 246, (1, 4000, 3))
    lab = cielab(rgb.astype(np.uint8))[0]
    near = cielab((rgb + rng.integers(-9, 10, rgb.shape)).astype(np.uint8))[0]
    seen = ciede2000(lab, near)

    def stress(distance: np.ndarray) -> float:
        scale = (distance**2).sum() / (distance * seen).sum()
        return float(100 * np.sqrt(((distance - scale * seen) ** 2).sum() / (scale**2 * seen**2).sum()))

    din = stress(np.linalg.norm(din99o(lab) - din99o(near), axis=1))
    assert din < 20 < 1.5 * din + 10 and din < 0.6 * stress(np.linalg.norm(lab - near, axis=1))
    assert din99o(np.array([[100.0, 0, 0], [0, 0, 0]])) == pytest.approx(np.array([[100, 0, 0], [0, 0, 0]]), abs=0.01)
