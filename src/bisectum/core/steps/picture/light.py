"""Exposure, contrast, black and white point, as one table of coded values."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.raster.colour import LINEAR_OF_SRGB


def lit(rgba: NDArray[np.uint8], exposure: float, contrast: float, black: int, white: int) -> NDArray[np.uint8]:
    """rgba : (H, W, 4) uint8, straight alpha; alpha stays. exposure: stops, in linear light. Raises: SettingsError."""
    if white - black < 5:
        raise SettingsError(f"The white point ({white}) must lie above the black point ({black}); move one of them.",
                            code="points_crossed")
    if (exposure, contrast, black, white) == (0, 0, 0, 255):
        return rgba
    light = np.minimum(1.0, LINEAR_OF_SRGB * 2.0**exposure)
    coded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)  # IEC 61966-2-1
    levelled = (255 * coded - black) / (white - black)
    table = np.clip(np.rint(255 * ((levelled - 0.5) * (1 + contrast) + 0.5)), 0, 255).astype(np.uint8)
    return np.asarray(cv2.LUT(rgba, np.stack([table, table, table, np.arange(256, dtype=np.uint8)], axis=-1)[None]), np.uint8)
