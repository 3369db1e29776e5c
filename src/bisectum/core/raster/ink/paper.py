"""How dark each pixel is against the paper beside it, so that shade and stains count for nothing."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

BLOCKS = 160  # along the longer side: shade changes over more than one, a stroke is narrower than one
LIGHT = 85  # percentile of a block that is paper, if less of it is drawn on
DARK_PAPER = 100  # levels: what is drawn on such paper is lighter than it
DRAWN, BARE = 0.12, 0.1  # darkness of what is drawn; share of a block that tells its paper
DARKEST_PAPER = 24.0  # levels, below which darkness says nothing


def darkness(rgba: NDArray[np.uint8]) -> NDArray[np.float32]:
    """What of the light of the paper a pixel takes away, for each channel. rgba : (H, W, 4) uint8, straight alpha.

    Light drawing on dark paper is turned round first. See-through pixels are paper. Returns (H, W, 3) float32, about 0..1.
    """
    height, width = rgba.shape[:2]
    size = max(4, round(max(height, width) / BLOCKS))
    rgb = rgba[..., :3].astype(np.float32)
    seen = rgba[..., 3] > 127
    if seen.any() and float(np.median(rgb[seen])) < DARK_PAPER:
        rgb = 255.0 - rgb
    rows, columns = -(-height // size), -(-width // size)
    padded = cv2.copyMakeBorder(rgb, 0, rows * size - height, 0, columns * size - width, cv2.BORDER_REPLICATE)
    blocks = padded.reshape(rows, size, columns, size, 3).transpose(0, 2, 4, 1, 3).reshape(rows, columns, 3, size * size)
    place = int(LIGHT / 100 * (size * size - 1))
    light = np.ascontiguousarray(np.partition(blocks, place, axis=3)[..., place])
    # What is drawn more broadly than a block is closed up; edges of shade stay where they are.
    light = cv2.medianBlur(cv2.morphologyEx(light, cv2.MORPH_CLOSE, np.ones((5, 5))), 5)
    dark = 1.0 - padded / np.maximum(_full(light, size), DARKEST_PAPER)
    # Once it is known what is drawn, the paper is the mean of the rest: between bold strokes hardly any pixel is all paper.
    drawn = cv2.dilate((dark.mean(axis=2) > DRAWN).astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    bare = (~drawn).reshape(rows, size, columns, size).sum(axis=(1, 3))
    total = np.where(drawn[..., None], 0.0, padded).reshape(rows, size, columns, size, 3).sum(axis=(1, 3))
    known = (bare > BARE * size * size)[..., None]
    light = np.where(known, total / np.maximum(bare, 1)[..., None], light).astype(np.float32)
    paper = _full(light, size)[:height, :width]
    dark = 1.0 - rgb / np.maximum(paper, DARKEST_PAPER)
    dark[rgba[..., 3] < 128] = 0.0
    return np.asarray(dark, np.float32)


def _full(light: NDArray, size: int) -> NDArray[np.float32]:
    """A value for each pixel from those of blocks, without steps between them. light : (rows, columns, 3)."""
    rows, columns = light.shape[:2]
    smooth = cv2.GaussianBlur(light, (0, 0), 1.0)
    return np.asarray(cv2.resize(smooth, (columns * size, rows * size), interpolation=cv2.INTER_LINEAR), np.float32)
