"""Sides instead of slopes: beside a sharp edge every pixel takes the colour of the side it lies on.

A lens spreads an edge over some pixels, whose colours are on no side; left so they become a rim of a third colour along it.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.steps.colours.photo.certainty import Certainty
from bisectum.core.steps.colours.photo.flow import edge_flow

SHARP = 0.75 / 0.4  # of the fineness of lines: edges of a wider scale are shade, which has no sides
FLOW = 0.3 / 0.4  # deviation of the flow, the same
AWAY = 1.7  # deviations of the edge that a side is away
NEAREST, FARTHEST = 0.25 / 0.4, 0.8 / 0.4  # scales that this is held to, in the fineness of lines


def sided(calm: NDArray[np.float32], certain: Certainty, mm: float, fine_mm: float) -> NDArray[np.float32]:
    """calm : (H, W, 3) float32, DIN99o; mm: size of a pixel. Returns the same with sides.

    Where both sides differ from a place in the same way a thin line lies there, which stays.
    """
    zone = certain.beside_sharp(SHARP * fine_mm, 1)
    flow = edge_flow(np.ascontiguousarray(calm[..., 0]), max(0.6, FLOW * fine_mm / mm))
    away = np.float32(AWAY / mm) * np.clip(certain.scale, NEAREST * fine_mm, FARTHEST * fine_mm).astype(np.float32)
    y, x = np.mgrid[0 : calm.shape[0], 0 : calm.shape[1]].astype(np.float32)
    across = flow[..., 1] * away, -flow[..., 0] * away
    one, other = (cv2.remap(calm, x + sign * across[0], y + sign * across[1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
                  for sign in (np.float32(1), np.float32(-1)))
    to_one, to_other = one - calm, other - calm
    between = zone & (np.einsum("ijk,ijk->ij", to_one, to_other) < 0)
    nearer = np.einsum("ijk,ijk->ij", to_one, to_one) < np.einsum("ijk,ijk->ij", to_other, to_other)
    return np.where((between & nearer)[..., None], one, np.where((between & ~nearer)[..., None], other, calm))
