"""The Picture step: from decoded pixels to the picture the later steps work on."""

from __future__ import annotations

import math
from collections.abc import MutableMapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.model.picture import Picture, frozen
from bisectum.core.model.placement import Placement
from bisectum.core.raster.resample import reduce_to
from bisectum.core.steps.picture.enlarge import enlarged
from bisectum.core.steps.picture.light import lit
from bisectum.core.steps.picture.settings import Crop, PictureSettings

Memory = MutableMapping[str, Any]
VERSION = 3
MOST_ENLARGED_PX = 40_000_000
MARGIN_PX = 16  # about an edge: what colours, edges and background are told by
PLAIN_LEVELS, PLAIN_SHARE = 24, 0.995  # levels off the commonest colour of a margin, of so much of it: grain, but nothing drawn


def prepare_picture(
    rgba: NDArray[np.uint8], natural_mm_per_px: float, settings: PictureSettings, most_px: int | None = None,
    memory: Memory | None = None,
) -> Picture:
    """The picture straightened, cropped, turned, lit and enlarged, reduced to `most_px` pixels for a preview.

    rgba : (H, W, 4) uint8, straight alpha, sRGB. natural_mm_per_px: by the file's own word. memory: keeps the reduced
    picture between calls. Raises: SettingsError.
    """
    source_px = rgba.shape[0] * rgba.shape[1]
    height, width = _size(rgba, settings.crop)
    times = settings.enlarge
    if height * width * times**2 > MOST_ENLARGED_PX and times > 1:
        raise SettingsError(f"Enlarged {times} times this picture would have {height * width * times**2 // 10**6} million "
                            f"pixels; {MOST_ENLARGED_PX // 10**6} million is the most. Crop it first, or enlarge it less.",
                            code="enlarged_too_large", times=times)
    reduction = 1.0
    if most_px is not None:
        # A preview of a small part may keep as many pixels as one of all of it.
        rgba, reduction = _reduced(rgba, max(1, round(most_px * source_px / max(1, height * width * times**2))), memory)
    placement = Placement.plain(rgba.shape[1])
    pixels, placement = _framed(rgba, settings, placement)
    pixels, placement = _turned(pixels, settings, placement)
    pixels = lit(pixels, settings.exposure, settings.contrast, settings.black, settings.white)
    pixels = enlarged(np.ascontiguousarray(pixels), times)
    return Picture(frozen(np.ascontiguousarray(pixels)), natural_mm_per_px * reduction / times, settings.width_mm,
                   settings.measured, reduction / times, placement.scaled(times), times)


def _reduced(rgba: NDArray[np.uint8], most_px: int, memory: Memory | None) -> tuple[NDArray[np.uint8], float]:
    """As reduce_to, from memory where the same was asked before: blocks of n × n are the same for many sizes."""
    n = max(1, math.ceil(math.sqrt(rgba.shape[0] * rgba.shape[1] / most_px)))
    if memory is None:
        return reduce_to(rgba, most_px)
    if f"reduced-{n}" not in memory:
        memory[f"reduced-{n}"] = reduce_to(rgba, most_px)
    reduced, factor = memory[f"reduced-{n}"]
    return reduced, factor


def _size(rgba: NDArray[np.uint8], crop: Crop | None) -> tuple[int, int]:
    """Height and width of the part that is used, px. Raises: SettingsError when there is next to nothing in it."""
    if crop is None:
        return rgba.shape[0], rgba.shape[1]
    scale = rgba.shape[1]
    left, right = max(0.0, crop.x), min(1.0, crop.x + crop.width)
    top, bottom = max(0.0, crop.y), min(rgba.shape[0] / scale, crop.y + crop.height)
    width, height = round((right - left) * scale), round((bottom - top) * scale)
    if width < 2 or height < 2:
        raise SettingsError("The part to be used lies beside the picture; draw it over the picture again.", code="crop_empty")
    return height, width


def _framed(
    rgba: NDArray[np.uint8], settings: PictureSettings, placement: Placement
) -> tuple[NDArray[np.uint8], Placement]:
    """Straightened about the middle and cropped. Corners that straightening lays bare repeat the border."""
    height, width = rgba.shape[:2]
    if settings.straighten_deg:
        import cv2

        angle = math.radians(settings.straighten_deg)
        cos, sin = math.cos(angle), math.sin(angle)
        middle = np.array([width / 2, height / 2])
        turn = np.array([[cos, -sin], [sin, cos]])
        matrix = np.column_stack([turn, middle - turn @ middle])
        centres = matrix.copy()  # pixel centres lie half a pixel in
        centres[:, 2] += turn @ [0.5, 0.5] - 0.5
        turned = cv2.warpAffine(rgba, centres, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
        rgba = turned.astype(np.uint8, copy=False)
        placement = placement.then(matrix)
    if settings.crop is not None:
        crop = settings.crop
        left, top = max(0, round(crop.x * width)), max(0, round(crop.y * width))
        right, bottom = round((crop.x + crop.width) * width), round((crop.y + crop.height) * width)
        box = left, top, min(width, max(left + 1, right)), min(height, max(top + 1, bottom))
        left, top, right, bottom = _with_margin(rgba, box) if settings.measured == "artwork" else box
        rgba = rgba[top:bottom, left:right]
        placement = placement.then(np.array([[1.0, 0.0, -left], [0.0, 1.0, -top]]))
    return rgba, placement


def _with_margin(rgba: NDArray[np.uint8], box: tuple[int, int, int, int]) -> tuple[int, int, int, int]:
    """A box widened by what the later steps look at about an edge, as far as that is nothing but plain ground.

    So a crop close to a mark changes neither its colours nor its lines; the finished size is measured by the mark.
    """
    left, top, right, bottom = box
    for margin in range(MARGIN_PX, 0, -1):
        wide = (max(0, left - margin), max(0, top - margin), min(rgba.shape[1], right + margin),
                min(rgba.shape[0], bottom + margin))
        around = rgba[wide[1] : wide[3], wide[0] : wide[2]].astype(np.int16)
        ring = np.ones(around.shape[:2], bool)
        ring[top - wide[1] : bottom - wide[1], left - wide[0] : right - wide[0]] = False
        added = around[ring]
        if len(added) and float(np.quantile(np.abs(added - np.median(added, axis=0)).max(axis=1), PLAIN_SHARE)) <= PLAIN_LEVELS:
            return wide
    return box


def _turned(
    rgba: NDArray[np.uint8], settings: PictureSettings, placement: Placement
) -> tuple[NDArray[np.uint8], Placement]:
    for _ in range(settings.turn // 90):
        height = rgba.shape[0]
        rgba = np.rot90(rgba, -1)
        placement = placement.then(np.array([[0.0, -1.0, height], [1.0, 0.0, 0.0]]))
    if settings.flip:
        placement = placement.then(np.array([[-1.0, 0.0, rgba.shape[1]], [0.0, 1.0, 0.0]]))
        rgba = rgba[:, ::-1]
    return rgba, placement
