"""More pixels with edges kept: a smooth enlargement whose values stay within those of the pixels around.

Lanczos resampling (C. Duchon, 1979) rings beside edges and leaves them soft; holding every value between the darkest and
lightest of its source neighbours takes the ringing away, and pushing it towards the nearer of the two makes edges firm.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FIRM = 0.6  # 0 leaves edges soft


def enlarged(rgba: NDArray[np.uint8], times: int) -> NDArray[np.uint8]:
    """rgba : (H, W, 4) uint8, straight alpha. Returns (times·H, times·W, 4) uint8."""
    if times == 1:
        return rgba
    import cv2

    size = (rgba.shape[1] * times, rgba.shape[0] * times)
    around = np.ones((3, 3), np.uint8)
    result = np.empty((size[1], size[0], 4), np.uint8)
    for channel in range(4):
        own = np.ascontiguousarray(rgba[..., channel])
        soft = cv2.resize(own, size, interpolation=cv2.INTER_LANCZOS4).astype(np.float32)
        low = cv2.resize(cv2.erode(own, around), size, interpolation=cv2.INTER_LINEAR).astype(np.float32)
        high = cv2.resize(cv2.dilate(own, around), size, interpolation=cv2.INTER_LINEAR).astype(np.float32)
        span = np.maximum(high - low, 1.0)
        share = np.clip((soft - low) / span, 0.0, 1.0)
        firm = share * share * (3.0 - 2.0 * share)
        result[..., channel] = np.clip(np.rint(low + span * (share + FIRM * (firm - share))), 0, 255)
    return result
