"""A tide note: two ruled cards in somebody's hand, one with the tides of the open day, one with a recipe; scanned."""

from __future__ import annotations

import cv2
import numpy as np
from canvas import OVER
from collect_fonts import TARGET
from kettle import Array
from PIL import Image, ImageDraw, ImageFont

WIDTH, HEIGHT = 1240, 880
LINES = {
    "tides": ("Tide times, open day", "high 6.42, a bit windy", "low 12.55: mind the mud!", "high 19.10 with lanterns",
              "Tea & buns till five."),
    "buns": ("Harbour buns", "2 cups flour, 1 egg,", "butter the size of a cork,", "stir, fold in raisins,",
             "bake until it smells right."),
}


def tide_note(which: str) -> Image.Image:
    """One of the two cards. which: tides or buns."""
    rng = np.random.default_rng(len(which))
    width, height = WIDTH * OVER // 4, HEIGHT * OVER // 4
    over = OVER // 4
    ink, rules, margin = (Image.new("L", (width, height), 0) for _ in range(3))
    font = ImageFont.truetype(str(TARGET / "caveat/latin.ttf"), 96 * over)
    pitch = 132 * over
    for number, text in enumerate(LINES[which]):
        base = 190 * over + number * pitch
        ImageDraw.Draw(ink).text((190 * over + int(rng.integers(0, 26)) * over, base), text, font=font, fill=255, anchor="ls")
    for number in range(6):
        y = 206 * over + number * pitch
        ImageDraw.Draw(rules).rectangle([0, y, width, y + 3 * over], fill=255)
    ImageDraw.Draw(margin).rectangle([138 * over, 0, 141 * over, height], fill=255)
    maps = _wobbled(rng, width, height)
    ink_share, rule_share, margin_share = (
        cv2.resize(cv2.remap(np.asarray(one, np.float32) / 255, *maps, cv2.INTER_LINEAR), (WIDTH, HEIGHT),
                   interpolation=cv2.INTER_AREA)[..., None] for one in (ink, rules, margin))
    image = np.ones((HEIGHT, WIDTH, 3)) * [246, 240, 226]
    image = image * (1 - 0.55 * rule_share) + 0.55 * rule_share * [120, 165, 205]
    image = image * (1 - 0.6 * margin_share) + 0.6 * margin_share * [214, 92, 92]
    image = image * (1 - ink_share) + ink_share * [30, 42, 88]
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    image *= (1 - 0.12 * (x / WIDTH) ** 2 - 0.05 * y / HEIGHT)[..., None]
    for at in ((1130, 90), (96, 700)):  # crumbs of the kitchen table
        cv2.circle(image, at, 7, (96, 74, 50), -1, cv2.LINE_AA)
    image = cv2.GaussianBlur(image, (0, 0), 0.7) + rng.normal(0, 2.0, image.shape)
    return Image.fromarray(np.clip(image, 0, 255).astype(np.uint8))


def _wobbled(rng: np.random.Generator, width: int, height: int) -> tuple[Array, Array]:
    """A slight turn on the glass, and an unsteady hand."""
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    turn = np.radians(rng.uniform(1.2, 2.2))
    u = (x - width / 2) * np.cos(turn) - (y - height / 2) * np.sin(turn) + width / 2
    v = (x - width / 2) * np.sin(turn) + (y - height / 2) * np.cos(turn) + height / 2
    for one in (u, v):
        unrest = rng.normal(0, 1.6, (max(2, height // 60), max(2, width // 60))).astype(np.float32)
        one += cv2.resize(unrest, (width, height), interpolation=cv2.INTER_CUBIC)
    return u.astype(np.float32), v.astype(np.float32)
