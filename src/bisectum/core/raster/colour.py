"""Colour spaces: sRGB as coded in files, linear light, OKLab.

sRGB: IEC 61966-2-1. YCC, as in JPEG: ITU-R BT.601. OKLab: B. Ottosson, "A perceptual color space for image processing", 2020
(matrices from there).
OKLab distances: 0.02 is just told apart, 0.1 is clearly another colour.
"""

from __future__ import annotations

from string import hexdigits

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import part


def _srgb_table() -> NDArray[np.float64]:
    coded = np.arange(256) / 255.0
    return np.where(coded <= 0.04045, coded / 12.92, ((coded + 0.055) / 1.055) ** 2.4)


LINEAR_OF_SRGB = _srgb_table()  # (256,) float64: linear light 0..1 of an 8-bit sRGB value
LINEAR_OF_SRGB.flags.writeable = False

YCC_OF_RGB = np.array([[0.299, 0.587, 0.114], [-0.1687, -0.3313, 0.5], [0.5, -0.4187, -0.0813]])  # light and dark, and colour
LUMA = YCC_OF_RGB[0]

_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)


def oklab_of_linear(linear: NDArray[np.floating]) -> NDArray[np.float64]:
    """linear : (..., 3) linear-light RGB, 0..1. Returns (..., 3) float64: L, a, b."""
    return np.cbrt(linear @ _TO_LMS.T) @ _TO_LAB.T


def oklab(rgb: NDArray[np.floating] | NDArray[np.uint8]) -> NDArray[np.float64]:
    """rgb : (..., 3) sRGB as coded, uint8 or float on the scale 0..255. Returns (..., 3) float64: L, a, b."""
    if rgb.dtype == np.uint8:
        return oklab_of_linear(LINEAR_OF_SRGB[rgb])
    coded = np.clip(np.asarray(rgb, dtype=np.float64) / 255.0, 0.0, 1.0)
    linear = np.where(coded <= 0.04045, coded / 12.92, ((coded + 0.055) / 1.055) ** 2.4)
    return oklab_of_linear(linear)


def oklab_image(rgba: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(H, W, 4) uint8 to (H, W, 3) float32 OKLab, row by row so that no large float64 image is made."""
    result = np.empty((*rgba.shape[:2], 3), np.float32)
    for y in range(rgba.shape[0]):
        result[y] = oklab(rgba[y, :, :3])
    return result


def coded_of_oklab(lab: NDArray[np.floating]) -> NDArray[np.uint8]:
    """(N, 3) OKLab to the nearest (N, 3) uint8 sRGB."""
    lms = (np.asarray(lab, np.float64) @ np.linalg.inv(_TO_LAB).T) ** 3
    linear = np.clip(lms @ np.linalg.inv(_TO_LMS).T, 0.0, 1.0)
    return np.searchsorted((LINEAR_OF_SRGB[1:] + LINEAR_OF_SRGB[:-1]) / 2, linear).astype(np.uint8)


@part("UniTuple(f8, 3)(f8, f8, f8)")
def oklab_of(red: float, green: float, blue: float) -> tuple[float, float, float]:
    """OKLab of one linear-light colour, for use inside kernels."""
    long = np.cbrt(0.4122214708 * red + 0.5363325363 * green + 0.0514459929 * blue)
    middle = np.cbrt(0.2119034982 * red + 0.6806995451 * green + 0.1073969566 * blue)
    short = np.cbrt(0.0883024619 * red + 0.2817188376 * green + 0.6299787005 * blue)
    return (
        0.2104542553 * long + 0.7936177850 * middle - 0.0040720468 * short,
        1.9779984951 * long - 2.4285922050 * middle + 0.4505937099 * short,
        0.0259040371 * long + 0.7827717662 * middle - 0.8086757660 * short,
    )


def words_of(rgba: NDArray[np.uint8]) -> NDArray[np.int32]:
    """(H, W, 4) uint8 seen as (H, W) int32, a view: two pixels are alike where their numbers are."""
    return np.ascontiguousarray(rgba).view(np.int32)[..., 0]


def hex_of(rgb: tuple[int, int, int]) -> str:
    return "#{:02x}{:02x}{:02x}".format(*rgb)


def rgb_of(text: str) -> tuple[int, int, int]:
    """"#RRGGBB" as three whole numbers. Raises: ValueError."""
    digits = text.strip().removeprefix("#")
    if len(digits) != 6 or not all(digit in hexdigits for digit in digits):  # int() would take signs and underscores, too
        raise ValueError(text)
    value = int(digits, 16)
    return value >> 16, value >> 8 & 255, value & 255
