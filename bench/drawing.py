"""A made-up harbour scene of any size, in flat colours with anti-aliased edges: what speed is measured on."""

from __future__ import annotations

import numpy as np
from PIL import Image, ImageDraw

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
