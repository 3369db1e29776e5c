"""A free place for a part beside others, found on a raster.

What is taken is painted; a part fits where none of its cells meets a painted one (J. Oliveira and J. Ferreira, Algorithms for
nesting problems, 1993; the meetings of all places at once by a convolution). Cells are taken generously, so what is found is at
least as far apart as was asked for.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from bisectum.core.model.sheet import Area

CELLS = 500  # along the longer side
FINEST_MM = 0.25


class Board:
    """A usable area, and what lies on it. spacing: mm that parts keep from each other."""

    def __init__(self, area: Area, spacing: float) -> None:
        self.area, self.spacing = area, spacing
        self.cell = max(FINEST_MM, max(area.width, area.height) / CELLS)
        self._taken = np.zeros((int(area.height / self.cell), int(area.width / self.cell)), np.uint8)

    def close_beside(self, shape: BaseGeometry) -> None:
        """Nothing may lie beside a shape: for windows. It lies as on the carrier."""
        inside = _painted(shape, self.area.left, self.area.top, self.cell, self._taken.shape)
        self._taken[cv2.erode(inside, np.ones((3, 3), np.uint8)) == 0] = 1

    def put(self, shape: BaseGeometry) -> None:
        """A shape lies there, as on the carrier."""
        painted = _painted(shape, self.area.left, self.area.top, self.cell, self._taken.shape)
        self._taken[cv2.dilate(painted, np.ones((3, 3), np.uint8)) > 0] = 1

    def place_for(self, shape: BaseGeometry) -> tuple[float, float] | None:
        """How far a shape is to be moved to lie free, as far up and then as far left as it can; None where it does not fit."""
        grown = shape.buffer(self.spacing, quad_segs=4)
        left, top, right, bottom = grown.bounds
        size = int(np.ceil((bottom - top) / self.cell)) + 3, int(np.ceil((right - left) / self.cell)) + 3
        own = cv2.dilate(_painted(grown, left - self.cell, top - self.cell, self.cell, size), np.ones((3, 3), np.uint8))
        # Beside the area nothing lies that room would have to be kept from.
        edge = int(np.ceil(self.spacing / self.cell))
        taken = np.pad(self._taken, edge)
        if own.shape[0] > taken.shape[0] or own.shape[1] > taken.shape[1]:
            return None
        free = np.argwhere(_meetings(taken, own) < 0.5)
        if not len(free):
            return None
        row, column = free[0].tolist()
        return (self.area.left + (column - edge) * self.cell - (left - self.cell),
                self.area.top + (row - edge) * self.cell - (top - self.cell))


def _meetings(taken: NDArray[np.uint8], own: NDArray[Any]) -> NDArray[np.float64]:
    """With how many cells of `taken` those of `own` meet, at every place at which it lies inside: by the Fourier transform."""
    size = taken.shape
    product = np.fft.rfft2(taken) * np.conj(np.fft.rfft2(own, size))
    met = np.fft.irfft2(product, size)
    return np.asarray(met[: size[0] - own.shape[0] + 1, : size[1] - own.shape[1] + 1])


def _painted(shape: BaseGeometry, left: float, top: float, cell: float, size: tuple[int, int]) -> NDArray[np.uint8]:
    """The cells of a shape. size: rows and columns; left, top: mm of the first one's corner."""
    image = np.zeros(size, np.uint8)
    for polygon in shapely.get_parts(shape if shape.geom_type != "LineString" else shape.buffer(cell)):
        polygon = polygon if polygon.geom_type == "Polygon" else polygon.buffer(cell)
        rings = [polygon.exterior, *polygon.interiors]
        cv2.fillPoly(image, [np.floor((np.asarray(ring.coords) - [left, top]) / cell).astype(np.int32) for ring in rings], 1)
    return image
