"""From a coarse mask to the outline at full size: in a narrow band every pixel is placed on the line between the colours
on either side.

Outside the band nothing is looked at, and no image of floats is made.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.nearest import nearest_colours

APART = 30.0  # levels the two colours must differ by, to tell a share
CLOSE_BAND = 2.5  # px; in so narrow a band the nearest colours are the right ones, in a wide one means are
NEAREST = 3  # times the band that a nearest colour may lie off
MOST_PX = 1_000_000  # of the grid that colours are spread on
CHUNK = 400_000  # pixels of the band at a time
SOFT = 1.5  # px beside the outline where shares are kept; farther off there is only in and out


def refined(rgba: NDArray[np.uint8], mask: NDArray[np.bool_], band: float) -> NDArray[np.uint8]:
    """How much of each pixel is subject. rgba : (H, W, 4) uint8; mask : (H, W) bool; band: px the mask may be off.

    Returns (H, W) uint8, 0 to 255.
    """
    import cv2

    solid = mask.astype(np.uint8)
    if not solid.any() or solid.all():
        return solid * np.uint8(255)
    size = 2 * int(np.ceil(band)) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    sure, maybe = cv2.erode(solid, disc).astype(np.uint8, copy=False), cv2.dilate(solid, disc).astype(np.uint8, copy=False)
    rows, columns = (np.ascontiguousarray(index) for index in np.nonzero(maybe != sure))
    sides = sure > 0, maybe == 0
    if band <= CLOSE_BAND:
        inner, outer = (nearest_colours(rgba, side, rows, columns, NEAREST * math.ceil(band)) for side in sides)
    else:
        inner, outer = (_mean_colours(rgba, side, band, rows, columns) for side in sides)
    shares = solid * np.uint8(255)
    for start in range(0, len(rows), CHUNK):
        part = slice(start, start + CHUNK)
        y, x = rows[part], columns[part]
        shares[y, x] = _shares(rgba[y, x, :3], inner[part], outer[part], shares[y, x])
    return _settled(shares, sure, maybe)


def _mean_colours(
    rgba: NDArray[np.uint8], chosen: NDArray[np.bool_], band: float, rows: NDArray[np.intp], columns: NDArray[np.intp]
) -> NDArray[np.float32]:
    """The mean colour of the chosen pixels around each place; the fourth value is how many there are. (N, 4) float32."""
    import cv2

    height, width = chosen.shape
    n = max(1, int(band / 2), math.ceil(math.sqrt(height * width / MOST_PX)))
    size = (max(1, width // n), max(1, height // n))
    solid = chosen.astype(np.uint8)
    weight = cv2.resize(solid * np.uint8(255), size, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    only = cv2.bitwise_and(np.ascontiguousarray(rgba[..., :3]), np.ascontiguousarray(rgba[..., :3]), mask=solid)
    sums = np.dstack([cv2.resize(only, size, interpolation=cv2.INTER_AREA).astype(np.float32), weight])
    sigma = max(0.8, 1.5 * band / n)
    near = cv2.GaussianBlur(sums, (0, 0), sigma)
    far = cv2.GaussianBlur(sums, (0, 0), 4 * sigma)
    both = near + 0.01 * far  # where nothing is near, what is farther off must do
    both[..., :3] /= np.maximum(both[..., 3:], 1e-6)
    parts = [slice(start, start + CHUNK) for start in range(0, len(rows), CHUNK)]
    return np.concatenate([_at(both, rows[part], columns[part], (height, width)) for part in parts])


def _at(field: NDArray[np.float32], y: NDArray[np.intp], x: NDArray[np.intp], shape: tuple[int, int]) -> NDArray[np.float32]:
    """A coarse field between its places. Returns (N, 4)."""
    height, width = field.shape[:2]
    v = np.clip((y + 0.5) * (height / shape[0]) - 0.5, 0, height - 1.001)
    u = np.clip((x + 0.5) * (width / shape[1]) - 0.5, 0, width - 1.001)
    row, column = v.astype(np.intp), u.astype(np.intp)
    below, right = np.minimum(row + 1, height - 1), np.minimum(column + 1, width - 1)
    fv, fu = (v - row).astype(np.float32)[:, None], (u - column).astype(np.float32)[:, None]
    upper = field[row, column] * (1 - fu) + field[row, right] * fu
    lower = field[below, column] * (1 - fu) + field[below, right] * fu
    return upper * (1 - fv) + lower * fv


def _shares(rgb: NDArray[np.uint8], inner: NDArray[np.float32], outer: NDArray[np.float32],
            before: NDArray[np.uint8]) -> NDArray[np.uint8]:
    way = inner[:, :3] - outer[:, :3]
    length = (way * way).sum(axis=1)
    along = ((rgb - outer[:, :3]) * way).sum(axis=1) / np.maximum(length, 1.0)
    told = (length >= APART**2) & (inner[:, 3] > 1e-5) & (outer[:, 3] > 1e-5)
    return np.where(told, np.clip(np.rint(255 * along), 0, 255), before).astype(np.uint8)


def _settled(shares: NDArray[np.uint8], sure: NDArray[np.uint8], maybe: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Drop crumbs and pinholes that hang together with neither side, and keep shares right beside the outline only."""
    import cv2

    solid = (shares > 127).astype(np.uint8)
    for own, certain in ((solid, sure), (1 - solid, 1 - maybe)):
        count, parts = cv2.connectedComponents(own, connectivity=4)
        held = np.zeros(count, bool)
        held[parts[certain > 0]] = True
        held[0] = True
        lost = ~held[parts]
        solid[lost] ^= 1
        shares[lost] = 255 - shares[lost]
    around = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (3, 3) if SOFT < 2 else (5, 5))
    deep, near = cv2.erode(solid, around), cv2.dilate(solid, around)
    shares[deep > 0] = 255
    shares[near == 0] = 0
    # A share on the wrong side of one half would move the outline off where the parts were settled.
    return np.where(solid > 0, np.maximum(shares, 128), np.minimum(shares, 127)).astype(np.uint8)
