"""The difference of two colours as the eye sees it: CIEDE2000.

G. Sharma, W. Wu, E. Dalal, "The CIEDE2000 Color-Difference Formula: Implementation Notes, Supplementary Test Data, and
Mathematical Observations", 2005. CIELAB for the white D65 and the 2° observer.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import LINEAR_OF_SRGB

_TO_XYZ = np.array([[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]])
_WHITE = np.array([0.95047, 1.0, 1.08883])

Nearness = Literal["same", "close", "different"]
SAME, CLOSE = 1.5, 6.0  # ΔE00; common practice, no source


def cielab(rgb: NDArray[np.uint8]) -> NDArray[np.float64]:
    """(..., 3) uint8 sRGB to (..., 3) float64 CIELAB."""
    ratio = LINEAR_OF_SRGB[rgb] @ _TO_XYZ.T / _WHITE
    scaled = np.where(ratio > (6 / 29) ** 3, np.cbrt(ratio), ratio / (3 * (6 / 29) ** 2) + 4 / 29)
    x, y, z = np.moveaxis(scaled, -1, 0)
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def ciede2000(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """ΔE00 along the last axis of two CIELAB arrays (…, 3) that broadcast. Returns (…)."""
    light, a, b = np.moveaxis(np.broadcast_arrays(one, other)[0], -1, 0)
    light2, a2, b2 = np.moveaxis(np.broadcast_arrays(one, other)[1], -1, 0)
    mean = (np.hypot(a, b) + np.hypot(a2, b2)) / 2
    stretch = 1 + 0.5 * (1 - np.sqrt(mean**7 / (mean**7 + 25.0**7)))
    chroma, chroma2 = np.hypot(stretch * a, b), np.hypot(stretch * a2, b2)
    hue, hue2 = (np.degrees(np.arctan2(y, stretch * x)) % 360 for x, y in ((a, b), (a2, b2)))
    colourless = chroma * chroma2 == 0
    turn = np.where(colourless, 0.0, (hue2 - hue + 180) % 360 - 180)
    # At exactly opposite hues the paper takes the turn as it stands.
    turn = np.where(np.isclose(np.abs(hue2 - hue), 180.0) & ~colourless, hue2 - hue, turn)
    d_light, d_chroma = light2 - light, chroma2 - chroma
    d_hue = 2 * np.sqrt(chroma * chroma2) * np.sin(np.radians(turn) / 2)
    mid_light, mid_chroma = (light + light2) / 2, (chroma + chroma2) / 2
    total = hue + hue2
    halved = np.where(np.abs(hue - hue2) <= 180, total / 2, np.where(total < 360, (total + 360) / 2, (total - 360) / 2))
    mid_hue = np.where(colourless, total, halved)
    wave = (1 - 0.17 * np.cos(np.radians(mid_hue - 30)) + 0.24 * np.cos(np.radians(2 * mid_hue))
            + 0.32 * np.cos(np.radians(3 * mid_hue + 6)) - 0.20 * np.cos(np.radians(4 * mid_hue - 63)))
    s_light = 1 + 0.015 * (mid_light - 50) ** 2 / np.sqrt(20 + (mid_light - 50) ** 2)
    s_chroma, s_hue = 1 + 0.045 * mid_chroma, 1 + 0.015 * mid_chroma * wave
    rotation = (-2 * np.sqrt(mid_chroma**7 / (mid_chroma**7 + 25.0**7))
                * np.sin(np.radians(60 * np.exp(-(((mid_hue - 275) / 25) ** 2)))))
    x, y, z = d_light / s_light, d_chroma / s_chroma, d_hue / s_hue
    return np.sqrt(x * x + y * y + z * z + rotation * y * z)


def nearness(difference: float) -> Nearness:
    """The difference in a word."""
    return "same" if difference < SAME else "close" if difference < CLOSE else "different"
