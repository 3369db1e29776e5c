"""Pictures of screens, drawn as a program draws them: bars, frames, boxes, buttons and small words, to the pixel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

THEMES = (("#f4f4f4", "#ffffff", "#2f5d8a", "#222222"), ("#202326", "#2c3035", "#d98b3a", "#e6e6e6"),
          ("#eef2f6", "#ffffff", "#7a3b69", "#33373d"))
WORDS = ("Tides", "Berths", "Tickets", "Crew", "Boats", "Notes", "Lanterns", "Weather", "Open day", "Harbour", "Tea tent")


def screen(number: int, width: int = 640, height: int = 420) -> NDArray[np.uint8]:
    """(H, W, 4) uint8, opaque; the screen of a number is the same each time."""
    rng = np.random.default_rng(700 + number)
    back, panel, accent, ink = THEMES[number % len(THEMES)]
    image = Image.new("RGBA", (width, height), back)
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(15)
    draw.rectangle([0, 0, width, 34], fill=accent)
    draw.text((12, 8), str(rng.choice(WORDS)), font=font, fill="#ffffff")
    side = int(rng.integers(110, 170))
    draw.rectangle([0, 35, side, height], fill=panel, outline=ink)
    for row in range(int(rng.integers(5, 9))):
        draw.text((14, 50 + 30 * row), str(rng.choice(WORDS)), font=font, fill=ink)
    columns, rows = int(rng.integers(2, 4)), int(rng.integers(2, 4))
    wide, high = (width - side - 20) // columns, (height - 60) // rows
    for column in range(columns):
        for row in range(rows):
            left, top = side + 14 + column * wide, 48 + row * high
            draw.rectangle([left, top, left + wide - 12, top + high - 12], fill=panel, outline=ink)
            draw.rectangle([left + 8, top + 8, left + wide - 20, top + 28], fill=accent)
            draw.text((left + 12, top + 36), str(rng.choice(WORDS)), font=font, fill=ink)
    return np.asarray(image)
