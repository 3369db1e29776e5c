"""The Picture step: from decoded pixels to the picture the later steps work on."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.picture import Picture, frozen
from bisectum.core.raster.resample import reduce_to
from bisectum.core.steps.picture.settings import PictureSettings

VERSION = 1


def prepare_picture(
    rgba: NDArray[np.uint8], natural_mm_per_px: float, settings: PictureSettings, most_px: int | None = None
) -> Picture:
    """The picture at the wanted size, reduced to `most_px` pixels for a preview.

    rgba : (H, W, 4) uint8, straight alpha, sRGB. natural_mm_per_px: by the file's own word.
    """
    reduction = 1.0
    if most_px is not None:
        rgba, reduction = reduce_to(rgba, most_px)
    return Picture(frozen(rgba), natural_mm_per_px * reduction, settings.width_mm, settings.measured, reduction)
