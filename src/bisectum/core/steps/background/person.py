"""A person, or an animal that looks at the camera: cut out with what is known of their shape, even where they touch the frame.

A head as an ellipse, a body that widens below it, ground for certain only at the top and beside the head. The cut is GrabCut
(C. Rother et al., 2004) from there; of a few places and sizes of the head the one is taken whose colours part best.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import oklab_image
from bisectum.core.steps.background.saliency import saliency
from bisectum.core.steps.background.subject import Guess, cut

SHAPES = tuple((x, y, size, shoulders) for size in (0.2, 0.3) for x in (0.35, 0.5, 0.65) for y in (0.3, 0.42)
               for shoulders in (1.2, 2.4) if size > 0.25 or x == 0.5)
"""Middle of the head, shares of width and height; its half width, a share of the shorter side; half the width of the body at
the lower edge, in that of the head."""
LARGE = 0.25  # exponent: of two cuts that part colours alike the larger one is taken
TRIED_PX = 25_000  # pixels in which shapes are tried
TALL = 1.25  # times as high as wide
CORE = 0.6  # of the head and the body that is subject for certain
TOP, SIDES, BESIDE = 0.03, 0.05, 0.75  # ground for certain: shares of height, width, and how far down the sides go, in heads


def find_person(rgb: NDArray[np.uint8]) -> Guess:
    """The best of a few cuts. rgb : (h, w, 3) uint8, small."""
    times = min(1.0, (TRIED_PX / (rgb.shape[0] * rgb.shape[1])) ** 0.5)
    small = np.asarray(cv2.resize(rgb, None, fx=times, fy=times, interpolation=cv2.INTER_AREA), np.uint8)
    lab = oklab_image(small)

    def value(shape: tuple[float, float, float, float]) -> float:
        mask, probable = _cut_about(small, shape)
        return _apart(lab, mask) * _agreement(mask, probable) * float(mask.mean()) ** LARGE

    mask, _ = _cut_about(rgb, max(SHAPES, key=value))
    return Guess(mask, 1.0, saliency(oklab_image(rgb)))


def _cut_about(rgb: NDArray[np.uint8], shape: tuple[float, float, float, float]) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """The cut from one prior, and what was probable."""
    probable, core, ground = _prior(rgb.shape[0], rgb.shape[1], *shape)
    return _largest(cut(rgb, probable, core, ground), core), probable


def _prior(
    height: int, width: int, x: float, y: float, size: float, shoulders: float
) -> tuple[NDArray[np.bool_], NDArray[np.bool_], NDArray[np.bool_]]:
    """Probably subject, certainly subject, certainly ground: (height, width) bool each."""
    rows, columns = np.mgrid[0:height, 0:width].astype(np.float64)
    half = size * min(height, width)
    across, down = (columns - x * width) / half, (rows - y * height) / (TALL * half)
    below = np.clip((rows - y * height) / max(1.0, height - y * height), 0, 1)
    reach = 0.55 + (shoulders - 0.55) * np.clip(2.2 * (below - 0.18), 0, 1)
    body = (down > 0.6) & (np.abs(across) < reach)
    probable = (across**2 + down**2 < 1) | body
    core = (across**2 + down**2 < CORE**2) | ((down > 0.6) & (np.abs(across) < CORE * np.minimum(reach, 1.0)))
    ground = rows < TOP * height
    ground |= ((columns < SIDES * width) | (columns > (1 - SIDES) * width)) & (down < BESIDE)
    return probable, core & ~ground, ground


def _largest(mask: NDArray[np.bool_], core: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The part that holds most of what is certain, its holes filled."""
    count, parts = cv2.connectedComponents(mask.astype(np.uint8), connectivity=4)
    if count < 2:
        return mask
    held = np.bincount(parts[core & mask], minlength=count)
    own = parts == int(held[1:].argmax()) + 1
    _, holes = cv2.connectedComponents((~own).astype(np.uint8), connectivity=4)
    outer = np.unique(np.concatenate([holes[0], holes[-1], holes[:, 0], holes[:, -1]]))
    return own | ~np.isin(holes, outer)


def _apart(lab: NDArray[np.float32], mask: NDArray[np.bool_]) -> float:
    """How little the colours of both sides have in common beside the outline, times how much of it lies on edges. 0 to 1."""
    if not 0.03 < mask.mean() < 0.97:
        return 0.0
    bins = np.clip(lab * (12, 40, 40) + (0, 16, 16), 0, 31).astype(np.int64)
    coded = (bins[..., 0] * 32 + bins[..., 1]) * 32 + bins[..., 2]
    inside, outside = (np.bincount(coded[part], minlength=32**3) / part.sum() for part in (mask, ~mask))
    slope = np.hypot(*np.gradient(cv2.GaussianBlur(lab[..., 0], (0, 0), 1.0)))
    outline = mask & (cv2.erode(mask.astype(np.uint8), np.ones((3, 3), np.uint8)) == 0)
    outline[[0, -1]], outline[:, [0, -1]] = False, False
    on_edges = float((slope[outline] > np.quantile(slope, 0.75)).mean()) if outline.any() else 0.0
    return (1.0 - float(np.minimum(inside, outside).sum())) * on_edges**0.5


def _agreement(mask: NDArray[np.bool_], probable: NDArray[np.bool_]) -> float:
    """Intersection over union."""
    return float((mask & probable).sum() / max(1, (mask | probable).sum()))
