"""A made-up harbour scene of any size, in flat colours with anti-aliased edges: what speed is measured on."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from bisectum.core.model.ground import Ground
from bisectum.core.model.picture import Picture
from bisectum.core.raster.resample import premultiplied
from bisectum.core.steps.colours.assign import assign_by_mixes
from bisectum.core.steps.colours.flat_pixels import flat_colours, ridge_colours
from bisectum.core.steps.colours.modes import find_modes, thin_modes
from bisectum.core.steps.colours.step import surfaces_of

COLOURS = ["#2f5d7c", "#f4ead6", "#c8452f", "#26323d", "#f2c14e", "#4f8f6b"]


def harbour(width: int, height: int, shapes: int = 300, seed: int = 5) -> Image.Image:
    """Boats, houses and buoys: discs, boxes and kites over each other, about `shapes` areas."""
    over = 2
    image = Image.new("RGB", (width * over, height * over), "#ffffff")
    draw = ImageDraw.Draw(image)
    rng = np.random.default_rng(seed)
    unit = (width * height / shapes) ** 0.5 * over
    for _ in range(shapes):
        x, y = rng.uniform(0.06, 0.94, 2) * (width * over, height * over)
        reach = unit * rng.uniform(0.2, 0.7)
        colour = COLOURS[rng.integers(len(COLOURS))]
        kind = rng.integers(3)
        if kind == 0:
            draw.ellipse([x - reach, y - 0.7 * reach, x + reach, y + 0.7 * reach], fill=colour)
        elif kind == 1:
            draw.rounded_rectangle([x - reach, y - reach, x + reach, y + reach], 0.3 * reach, fill=colour)
        else:
            angle = rng.uniform(0, 7) + np.arange(5) * 1.2566
            draw.polygon([(x + reach * np.cos(a), y + reach * np.sin(a)) for a in angle], fill=colour)
    return image.resize((width, height), Image.Resampling.BOX)


def palette_and_labels(picture: Picture, ground: Ground) -> NDArray[np.uint8]:
    """Palette and assignment of the Colours step, without what comes after: background twins, smallest pieces, changes."""
    flat = flat_colours(picture.rgba, ground.mask)
    modes, _ = find_modes(flat.colours, flat.counts)
    thin, _ = thin_modes(*ridge_colours(picture.rgba, ground.mask), np.concatenate([modes, np.array([ground.rgb], float)]))
    colours = np.clip(np.round(np.concatenate([modes, thin])), 0, 255).astype(np.uint8)
    return assign_by_mixes(premultiplied(picture.rgba), ground.mask, surfaces_of(ground, colours), flat.alike, flat.compressed)
