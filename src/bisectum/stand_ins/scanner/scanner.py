"""What the scanner sees: an area of the glass at a resolution, with the softness, the light and the grain of a flat bed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.units import MM_PER_INCH
from bisectum.stand_ins.scanner.glass import WIDTH_MM, Original

LID = 243.0  # its white, of 255
SOFT_MM = 0.02  # σ of the optics; from memory of flat beds that tell about 600 dots per inch apart
GRAIN = 2.0  # σ, of 255
FALLOFF = 0.03  # of the light, from the middle to the sides
STRIP = 256  # rows at a time, so that a large scan takes no memory besides itself
Area = tuple[float, float, float, float]


def size_of(area: Area, dpi: int) -> tuple[int, int]:
    """Pixels across and down. area: x, y, width, height in mm."""
    return max(1, round(area[2] * dpi / MM_PER_INCH)), max(1, round(area[3] * dpi / MM_PER_INCH))


def scan(originals: Sequence[Original], area: Area, dpi: int, grey: bool = False) -> NDArray[np.uint8]:
    """area: x, y, width, height on the glass, mm. Returns (H, W, 3) uint8 sRGB, or (H, W) where grey is asked for."""
    width, height = size_of(area, dpi)
    seen: NDArray[Any] = np.full((height, width, 3), LID, np.uint8)
    for one in originals:
        _lay(seen, one, area, dpi / MM_PER_INCH)
    sigma = SOFT_MM * dpi / MM_PER_INCH
    if sigma > 0.2:
        seen = cv2.GaussianBlur(seen, (0, 0), sigma)
    across = (area[0] + (np.arange(width) + 0.5) * MM_PER_INCH / dpi) / WIDTH_MM * 2 - 1
    light = (1 - FALLOFF * across**2)[None, :, None].astype(np.float32)
    dice = np.random.default_rng([dpi, *(round(100 * abs(side)) for side in area)])
    for top in range(0, height, STRIP):
        strip = seen[top : top + STRIP]
        grain = dice.standard_normal(strip.shape, np.float32) * np.float32(GRAIN)
        np.clip(strip * light + grain + 0.5, 0, 255, out=grain)
        strip[:] = grain.astype(np.uint8)
    return np.asarray(cv2.cvtColor(seen, cv2.COLOR_RGB2GRAY) if grey else seen, np.uint8)


def _lay(seen: NDArray[np.uint8], one: Original, area: Area, px_per_mm: float) -> None:
    """Put an original into what is seen, as it lies."""
    pixels = _as_fine(one.pixels, one.mm_per_px * px_per_mm)
    scale = one.width / pixels.shape[1] * px_per_mm  # pixels of the scan for one of these
    turn = np.radians(one.turn_deg)
    matrix = scale * np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    middle = np.array([one.x + one.width / 2 - area[0], one.y + one.height / 2 - area[1]]) * px_per_mm
    # Pixels' centres lie on whole numbers here, half a pixel from their corners.
    shift = middle - 0.5 - matrix @ ((np.array(pixels.shape[1::-1]) - 1) / 2)
    cv2.warpAffine(pixels, np.column_stack([matrix, shift]), seen.shape[1::-1], dst=seen, flags=cv2.INTER_LINEAR,
                   borderMode=cv2.BORDER_TRANSPARENT)


def _as_fine(pixels: NDArray[np.uint8], scale: float) -> NDArray[np.uint8]:
    """Averaged down to what a scan can tell apart. scale: pixels of the scan for one of these."""
    if scale >= 1:
        return pixels
    size = (max(2, round(pixels.shape[1] * scale)), max(2, round(pixels.shape[0] * scale)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)
