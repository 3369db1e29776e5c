"""DIN99o: a colour space in which equal distances look about equally large, so that plain means and distances hold.

DIN 6176; G. Cui, M. R. Luo, B. Rigg, G. Roesler, K. Witt, "Uniform colour spaces based on the DIN99 colour-difference
formula", 2002. White D65, 2° observer, kE = kCH = 1.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

TURN = math.radians(26.0)


def lab_image(rgb: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(H, W, 3) uint8 sRGB to (H, W, 3) float32 CIELAB."""
    return np.asarray(cv2.cvtColor(rgb.astype(np.float32) / np.float32(255), cv2.COLOR_RGB2Lab), np.float32)


def din99o(lab: NDArray[np.floating]) -> NDArray[np.float32]:
    """(..., 3) CIELAB to (..., 3) float32 DIN99o: lightness, red to green, yellow to blue."""
    light, a, b = (lab[..., channel].astype(np.float32) for channel in range(3))
    cos, sin = np.float32(math.cos(TURN)), np.float32(math.sin(TURN))
    e, f = a * cos + b * sin, np.float32(0.83) * (b * cos - a * sin)
    radius = np.sqrt(e * e + f * f)
    chroma = np.log(1 + np.float32(0.075) * radius) / np.float32(0.0435)
    # Turned back by 26°; the direction is kept without arc tangents, which cost most.
    scale = np.where(radius > 1e-6, chroma / np.maximum(radius, np.float32(1e-6)), np.float32(0.075 / 0.0435))
    e, f = e * scale, f * scale
    return np.stack([np.float32(303.67) * np.log(1 + np.float32(0.0039) * light), e * cos - f * sin, e * sin + f * cos], axis=-1)


def lightness_of(colour: NDArray[np.float32]) -> NDArray[np.float32]:
    """CIELAB's L* of DIN99o colours. colour : (..., 3). Returns (...) float32."""
    return np.asarray((np.exp(colour[..., 0] / np.float32(303.67)) - 1) / np.float32(0.0039), np.float32)
