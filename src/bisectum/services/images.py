"""Results as pictures for the screen, PNG."""

from __future__ import annotations

import io
import math

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from bisectum.core.make import MakeResult
from bisectum.core.model.ground import Ground
from bisectum.core.model.palette import Palette

THUMBNAIL_PX = 320


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
    """The make as it lies on its page, at most THUMBNAIL_PX along a side."""
    arrangement = result.arrangement
    scale = THUMBNAIL_PX / max(arrangement.width, arrangement.height)
    size = max(1, round(arrangement.width * scale)), max(1, round(arrangement.height * scale))
    page = Image.new("RGBA", size)
    for frame in arrangement.frames:
        course = result.courses[frame.item]
        labels, planar = course.label_map.labels, course.planar_map
        left, top = frame.matrix[:, 2] * scale
        width, height = (max(1, round(own * frame.matrix[0, 0] * scale)) for own in (planar.width, planar.height))
        every = max(1, math.floor(max(labels.shape) / (4 * max(width, height))))
        small = _indexed(np.ascontiguousarray(labels[::every, ::every]), shown_colours(course.label_map.palette)).convert("RGBA")
        small = small.resize((width, height), Image.Resampling.BOX)
        page.alpha_composite(small.crop(_within(left, top, width, height, size)), (max(0, round(left)), max(0, round(top))))
    return png(page)


def _within(left: float, top: float, width: int, height: int, page: tuple[int, int]) -> tuple[int, int, int, int]:
    """The part of an item's picture that lies on the page: left, top, right, bottom in its own pixels."""
    x, y = round(left), round(top)
    return max(0, -x), max(0, -y), min(width, page[0] - x), min(height, page[1] - y)


def _indexed(values: NDArray[np.uint8], palette: list[tuple[int, int, int]]) -> Image.Image:
    """A palette image whose first entry is see-through."""
    image = Image.fromarray(values, "P")
    image.putpalette(bytes(value for colour in palette for value in colour))
    image.info["transparency"] = 0
    return image
