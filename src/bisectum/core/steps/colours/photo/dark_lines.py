"""Thin dark lines of a photograph: valleys of its lightness, darker than both sides of them."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.steps.colours.photo.certainty import Certainty
from bisectum.core.steps.colours.photo.flow import along_flow, edge_flow

WIDTHS = ((0.75, 2.25), (1.4, 4.25))  # in the fineness of lines: what is blurred by, and how far away the sides are
ALONG = 2.5  # deviations along the line that it is averaged over
LEAST, CLEAR = 4.0, 10.0  # L*: darker than both sides by so much is a line, by so much surely
SHARP, BESIDE = 2.75, 2.0  # in the fineness of lines: scale of certain edges a line lies beside, and how near


def dark_lines(light: NDArray[np.float32], certain: Certainty, mm: float, fine_mm: float) -> NDArray[np.float32]:
    """How surely a dark line runs there, 0 to 1. light : (H, W), L*; mm: size of a pixel. Returns (H, W) float32."""
    near = certain.beside_sharp(SHARP * fine_mm, max(1, round(BESIDE * fine_mm / mm)))
    flow = edge_flow(light, max(0.6, 0.75 * fine_mm / mm))
    y, x = np.mgrid[0 : light.shape[0], 0 : light.shape[1]].astype(np.float32)
    depth = np.zeros_like(light)
    for blur, side in WIDTHS:
        smooth = cv2.GaussianBlur(light, (0, 0), max(0.6, blur * fine_mm / mm))
        away = np.float32(side * fine_mm / mm)
        sides = [cv2.remap(smooth, x + sign * away * flow[..., 1], y - sign * away * flow[..., 0], cv2.INTER_LINEAR,
                           borderMode=cv2.BORDER_REPLICATE) for sign in (np.float32(1), np.float32(-1))]
        valley = np.asarray(np.minimum(*sides) - smooth, np.float32)
        depth = np.maximum(depth, along_flow(valley, flow, max(1.0, ALONG * blur * fine_mm / mm), near))
    return np.clip((depth - LEAST) / (CLEAR - LEAST), 0, 1).astype(np.float32)
