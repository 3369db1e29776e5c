"""A photograph at the size that treatments are worked at: in mm, whatever the number of its pixels."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.raster.din99o import din99o, lab_image
from bisectum.core.raster.resample import premultiplied

FINEST_MM = 0.1  # a pixel; finer ones buy nothing for lines half a millimetre apart
FEWEST_PX = 40_000  # of a picture, however small it is made


@dataclass(frozen=True, slots=True)
class Working:
    """rgb : (H, W, 3) uint8, carried on under the ground; light : (H, W) float32, CIELAB's L*; colour : (H, W, 3) float32,
    DIN99o; cover : (H, W) float32, the share of each pixel that is not ground, 0..1.

    mm: size of a pixel; factor: pixels of the picture along one pixel here.
    """

    rgb: NDArray[np.uint8]
    light: NDArray[np.float32]
    colour: NDArray[np.float32]
    cover: NDArray[np.float32]
    mm: float
    factor: float

    @property
    def inside(self) -> NDArray[np.bool_]:
        """(H, W) bool, where the subject is."""
        return self.cover > 0.5

    def px(self, mm: float, least: float = 0.0) -> float:
        """A length in pixels."""
        return max(least, mm / self.mm)

    def check(self) -> None:
        """Raises: BrokenStructure where the rasters are not of one size."""
        if not self.rgb.shape[:2] == self.light.shape == self.colour.shape[:2] == self.cover.shape:
            raise BrokenStructure("The rasters of a photograph are of one size.")


def working_picture(rgba: NDArray[np.uint8], ground: NDArray[np.bool_], mm_per_px: float, most_px: int) -> Working:
    """A picture brought to pixels of FINEST_MM, or larger ones where that would be more than `most_px`.

    rgba : (H, W, 4) uint8, straight alpha; ground : (H, W) bool, what is cut away.
    """
    height, width = ground.shape
    times = max(mm_per_px / FINEST_MM, math.sqrt(FEWEST_PX / (height * width)))
    times = min(times, math.sqrt(most_px / (height * width)))
    size = max(1, round(width * times)), max(1, round(height * times))
    alpha = np.where(ground, np.uint8(0), np.maximum(rgba[..., 3], 128))  # what is kept of a faint pixel, is cut
    if (rgba[..., 3] < 255).any():
        alpha = np.where(rgba[..., 3] < 255, rgba[..., 3], alpha)
    cover = _resized(alpha.astype(np.uint8), size, times)
    rgb = _resized(np.ascontiguousarray(rgba[..., :3]), size, times)
    if ground.any():
        solid = rgba.copy()
        solid[..., 3] = alpha
        rgb = _carried_on(_resized(premultiplied(solid), size, times), cover)
    lab = lab_image(rgb)
    return Working(rgb, np.ascontiguousarray(lab[..., 0]), din99o(lab), cover.astype(np.float32) / np.float32(255),
                   mm_per_px * width / size[0], width / size[0])


def _resized(image: NDArray[np.uint8], size: tuple[int, int], times: float) -> NDArray[np.uint8]:
    return np.asarray(cv2.resize(image, size, interpolation=cv2.INTER_AREA if times < 1 else cv2.INTER_CUBIC), np.uint8)


def _carried_on(solid: NDArray[np.uint8], cover: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Colours with each pixel of the ground taking that of the nearest pixel beside it, so that nothing blurs into the cut.

    solid : (H, W, 4) uint8, premultiplied; cover : (H, W) uint8.
    """
    sure = cover >= 200
    if not sure.any():
        sure = cover == cover.max()
    _, nearest = cv2.distanceTransformWithLabels((~sure).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    rows = np.zeros(int(nearest.max()) + 1, np.int64)
    rows[nearest[sure]] = np.flatnonzero(sure)
    straight = np.clip(np.rint(solid[..., :3] * (255.0 / np.maximum(cover, 1)[..., None])), 0, 255).astype(np.uint8)
    return straight.reshape(-1, 3)[rows[nearest]]
