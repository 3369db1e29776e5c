"""The stand-in printer: it puts register marks on paper as printers do, a little turned, stretched and off its place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

PX_PER_MM = 12.0
INK_MM = 0.4
TURN_DEG, STRETCH, SHIFT_MM = 0.35, (1.0012, 0.9991), (0.8, -0.5)  # of a sheet that was drawn in a little askew
GRAIN = 6.0  # of 255
BORDER_MM = 12.0  # of paper beyond the sheet


@dataclass(frozen=True, slots=True, eq=False)
class Printed:
    """pixels : (H, W) uint8, dark ink on light paper, PX_PER_MM, from (-BORDER_MM, -BORDER_MM) on. matrix : (2, 3), from the
    sheet to where it really came to lie, mm; nobody is told it but whoever looks how well the marks were found."""

    pixels: NDArray[np.uint8]
    matrix: NDArray[np.float64]


def printed(marks: Sequence[NDArray[np.float64]], width: float, height: float) -> Printed:
    """marks: lines, (N, 2) each, mm on the sheet; width, height: of the sheet, mm."""
    angle = np.radians(TURN_DEG)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]) * np.array(STRETCH)
    middle = np.array([width / 2, height / 2])
    matrix = np.column_stack([turn, middle - turn @ middle + SHIFT_MM])
    size = int((height + 2 * BORDER_MM) * PX_PER_MM), int((width + 2 * BORDER_MM) * PX_PER_MM)
    pixels = np.full(size, 245, np.uint8)
    for line in marks:
        places = (line @ turn.T + matrix[:, 2] + BORDER_MM) * PX_PER_MM - 0.5
        cv2.polylines(pixels, [np.round(places * 64).astype(np.int32)], False, 40, round(INK_MM * PX_PER_MM), cv2.LINE_AA, 6)
    grain = np.random.default_rng(7).normal(0, GRAIN, size)
    return Printed(np.clip(pixels + grain, 0, 255).astype(np.uint8), matrix)
