"""How much a result is like its picture to the eye, as one number.

The eye knows things by their edges and spots, wherever they are dark or light and however strong, then by colour. So bands of
detail are evened out by their own strength nearby before they are compared. Weights were fitted to the order in which a
person put six treatments of each of six photographs (bench/photos.py).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.din99o import din99o, lab_image

BANDS = ((0.35, 0.5), (0.5, 0.25))  # deviations of the finer blur, mm (the coarser is twice that), and weights
COLOUR_MM, COLOUR = 1.0, 0.25  # deviation of the blur that colour is seen with, and its weight
SPREAD = 0.6  # exponent of the figure that is told: few results agree in half of their detail
AROUND, FAINT = 4.0, 0.5  # how far "nearby" is, in the band's deviation; DIN99o lightness below which detail is none
MIDDLE = 0.35  # deviation of the weight about the middle, in the picture's longer side; a subject is mostly there
EDGE_WEIGHT = 0.25  # of the picture's rim


def likeness(
    picture: NDArray[np.uint8], made: NDArray[np.uint8], shown: NDArray[np.bool_], mm: float
) -> float:
    """0 for nothing alike to 100 for the same. picture, made : (H, W, 3) uint8, sRGB; shown : (H, W) bool, what is not cut
    away; mm: size of a pixel."""
    weight = _middle(*shown.shape) * shown
    if weight.sum() <= 0:
        return 0.0
    one, other = din99o(lab_image(picture)), din99o(lab_image(made))
    light, light_made = (np.ascontiguousarray(image[..., 0]) for image in (one, other))
    value = COLOUR * _explained(one, other, weight, COLOUR_MM / mm)
    for sigma, share in BANDS:
        value += share * max(0.0, _agreement(_band(light, sigma / mm), _band(light_made, sigma / mm), weight))
    return 100 * float(np.clip(value, 0.0, 1.0)) ** SPREAD


def _middle(height: int, width: int) -> NDArray[np.float32]:
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    away = ((x - width / 2) ** 2 + (y - height / 2) ** 2) / (MIDDLE * max(height, width)) ** 2
    return (EDGE_WEIGHT + (1 - EDGE_WEIGHT) * np.exp(-0.5 * away)).astype(np.float32)


def _blurred(image: NDArray[np.float32], deviation_px: float) -> NDArray[np.float32]:
    return np.asarray(cv2.GaussianBlur(image, (0, 0), max(0.3, deviation_px)), np.float32)


def _band(image: NDArray[np.float32], deviation_px: float) -> NDArray[np.float32]:
    """Detail of one size, evened out by how strong it is nearby."""
    detail = _blurred(image, deviation_px) - _blurred(image, 2 * deviation_px)
    return np.tanh(detail / (np.sqrt(_blurred(detail * detail, AROUND * deviation_px)) + np.float32(FAINT)))


def _agreement(one: NDArray[np.float32], other: NDArray[np.float32], weight: NDArray[np.float32]) -> float:
    """Weighted correlation, -1 to 1; 0 where one of both is flat."""
    total = float(weight.sum())
    one, other = one - np.float32((one * weight).sum() / total), other - np.float32((other * weight).sum() / total)
    power = float((one * one * weight).sum()) * float((other * other * weight).sum())
    return float((one * other * weight).sum()) / power**0.5 if power > 1e-9 else 0.0


def _explained(one: NDArray[np.float32], other: NDArray[np.float32], weight: NDArray[np.float32], deviation_px: float) -> float:
    """How much of the picture's colour differences the result has, 0 to 1."""
    seen, made = _blurred(one, deviation_px), _blurred(other, deviation_px)
    mean = (seen * weight[..., None]).sum(axis=(0, 1)) / weight.sum()
    off = float((np.sqrt(((seen - made) ** 2).sum(axis=2)) * weight).sum())
    spread = float((np.sqrt(((seen - mean) ** 2).sum(axis=2)) * weight).sum())
    return float(np.clip(1 - off / max(spread, 1e-6), 0.0, 1.0))
