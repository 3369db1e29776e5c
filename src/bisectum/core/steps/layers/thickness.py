"""How many films lie over each other at most, and where."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from bisectum.core.geom.bezier import flatten
from bisectum.core.model.artwork import Artwork

MANY = 3  # films over each other; more are hard to press or to bend (common practice, no source)
LONG_PX = 1400  # along the longer side of the page: a lap of half a millimetre is seen on pages up to 35 cm


@dataclass(frozen=True, slots=True)
class Thickest:
    """films: how many lie over each other there; at: mm on the page; area: of all places as thick, mm²."""

    films: int
    at: tuple[float, float]
    area: float

    @property
    def is_many(self) -> bool:
        return self.films > MANY


def thickest(artwork: Artwork) -> Thickest:
    """The thickest place of a make, and in it the place that is farthest from any thinner one."""
    scale = LONG_PX / max(artwork.width, artwork.height)
    shape = int(np.ceil(artwork.height * scale)) + 1, int(np.ceil(artwork.width * scale)) + 1
    count = np.zeros(shape, np.uint8)
    for layer in artwork.layers:
        film = np.zeros(shape, np.uint8)
        rings = [np.round(flatten(ring.segments, 0.3 / scale) * scale).astype(np.int32) for ring in layer.rings]
        cv2.fillPoly(film, rings, 1)
        count += film
    inner = cv2.erode(count, np.ones((3, 3), np.uint8))  # edges that only meet lie on no film
    films = int(inner.max())
    thick = (inner == films).astype(np.uint8)
    depth = cv2.distanceTransform(thick, cv2.DIST_L2, 3)
    row, column = np.unravel_index(int(depth.argmax()), shape)
    return Thickest(max(1, films), (float(column / scale), float(row / scale)), float(thick.sum()) / scale**2)
