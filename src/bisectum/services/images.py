"""Results as pictures for the screen, PNG."""

from __future__ import annotations

import io

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from bisectum.core.geom.bezier import flatten
from bisectum.core.make import MakeResult
from bisectum.core.model.ground import Ground
from bisectum.core.model.palette import Palette

THUMBNAIL_PX = 320
CUTOUT_PX = 192
FINER = 2  # drawn so many times as large first


def png(image: Image.Image) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, "PNG", compress_level=1)
    return buffer.getvalue()


def of_pixels(rgba: NDArray[np.uint8]) -> bytes:
    """rgba : (H, W, 4) uint8, straight alpha."""
    return png(Image.fromarray(rgba, "RGBA"))


def of_ground(ground: Ground) -> bytes:
    """White where the ground is, see-through elsewhere; half-way along a soft outline."""
    if ground.cleared is None:
        return of_mask(ground.mask)
    gone = 255 - ground.cleared[..., 3]
    return png(Image.fromarray(np.dstack([np.full_like(gone, 255), gone]), "LA"))


def of_cutout(rgba: NDArray[np.uint8], mask: NDArray[np.bool_]) -> bytes:
    """A small picture of what a cut-out leaves. rgba : (H, W, 4) uint8, the whole picture; mask : (h, w) bool, of any size."""
    scale = CUTOUT_PX / max(rgba.shape[:2])
    size = max(1, round(rgba.shape[1] * scale)), max(1, round(rgba.shape[0] * scale))
    small = cv2.resize(rgba, size, interpolation=cv2.INTER_AREA)
    share = cv2.resize(mask.astype(np.uint8) * np.uint8(255), size, interpolation=cv2.INTER_AREA)
    small[..., 3] = np.minimum(small[..., 3], share)
    return of_pixels(np.asarray(small, np.uint8))


def of_mask(mask: NDArray[np.bool_]) -> bytes:
    """White where the mask is set, see-through elsewhere. mask : (H, W) bool."""
    return png(_indexed(mask.astype(np.uint8), [(0, 0, 0), (255, 255, 255)]))


def of_labels(labels: NDArray[np.uint8], palette: Palette) -> bytes:
    """Every label in its own colour, the ground see-through. labels : (H, W) uint8."""
    return png(_indexed(labels, shown_colours(palette)))


def shown_colours(palette: Palette) -> list[tuple[int, int, int]]:
    """What each label is painted with on the stage, the ground first: its colour, or the next one that no other label has,
    so that the screen can tell two layers of one colour apart."""
    result: list[tuple[int, int, int]] = [(0, 0, 0)]
    for colour in palette.colours:
        red, green, blue = colour.rgb
        step = 1 if blue < 128 else -1
        while (red, green, blue) in result[1:]:
            blue += step
        result.append((red, green, blue))
    return result


def thumbnail(result: MakeResult) -> bytes:
    """The make as it is cut, at most THUMBNAIL_PX along a side."""
    artwork = result.artwork
    scale = THUMBNAIL_PX / max(artwork.width, artwork.height)
    size = max(1, round(artwork.width * scale)), max(1, round(artwork.height * scale))
    fine = FINER * scale
    page = np.zeros((size[1] * FINER, size[0] * FINER, 4), np.uint8)
    for layer in artwork.layers:
        rings = [_sixteenths(flatten(ring.segments, 0.5 / fine), fine) for ring in layer.rings]
        cv2.fillPoly(page, rings, (*layer.rgb, 255), shift=4)
        lines = [_sixteenths(np.concatenate([flatten(stroke.segments, 0.5 / fine), stroke.segments[-1:, 3]]), fine)
                 for stroke in layer.strokes]
        ink = tuple(value // 2 for value in layer.rgb) if rings else layer.rgb  # folds are seen on their own piece
        cv2.polylines(page, lines, False, (*ink, 255), FINER, cv2.LINE_AA, shift=4)
    return png(Image.fromarray(page, "RGBA").resize(size, Image.Resampling.BOX))


def _sixteenths(points: NDArray[np.float64], scale: float) -> NDArray[np.int32]:
    """Places in sixteenths of a pixel. points : (N, 2), mm."""
    return np.round(points * scale * 16).astype(np.int32)


def _indexed(values: NDArray[np.uint8], palette: list[tuple[int, int, int]]) -> Image.Image:
    """A palette image whose first entry is see-through."""
    image = Image.fromarray(values, "P")
    image.putpalette(bytes(value for colour in palette for value in colour))
    image.info["transparency"] = 0
    return image
