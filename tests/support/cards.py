"""Ruled cards in handwriting with known ink: four open fonts, wobble, a turn, a bend, uneven light, a shadow, JPEG."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

FONTS = Path(__file__).resolve().parents[2] / "src/bisectum/fonts"
HANDS = ("caveat", "dancing-script", "patrick-hand", "pacifico")
OVER = 3
TEXT = """flour butter sugar milk eggs salt stir bake until golden serve with jam. in a warm oven, half an hour; minutes
    ring the bell at high tide! rig, jib and tiller. add 2 spoons, mix gently, fold in lightly,
    boil, simmer; slice thin. keep in tins, enjoy it fresh!"""
WORDS = tuple(TEXT.split())
INKS = ((28, 34, 66), (40, 38, 36), (30, 60, 130), (96, 40, 36))
RULES = ((150, 178, 206), (176, 176, 176), (168, 196, 170))
Array = NDArray[np.float64]


@dataclass(frozen=True)
class Card:
    """A card as it was photographed and what is on it. rgb : (H, W, 3) uint8; ink, rules : (H, W) bool, what covers half a
    pixel or more; words : (H, W) int32, the number of the word at each pixel of ink, 0 beside it; lines: how many."""

    rgb: NDArray[np.uint8]
    ink: NDArray[np.bool_]
    rules: NDArray[np.bool_]
    words: NDArray[np.int32]
    lines: int


def card(number: int, width: int = 900, height: int = 620, faintest: float = 1.0) -> Card:
    """The card of a number: the same each time. faintest: how dark the ink is where the pen was pressed least."""
    rng = np.random.default_rng(4100 + number)
    w, h = width * OVER, height * OVER
    font_px = int(rng.uniform(46, 62) * OVER * min(1.0, width / 900) ** 0.5)
    font = ImageFont.truetype(str(FONTS / HANDS[number % len(HANDS)] / "latin.ttf"), font_px)
    pitch = int(font_px * 1.35)
    ink, words = Image.new("L", (w, h), 0), Image.new("I", (w, h), 0)
    draw, draw_words = ImageDraw.Draw(ink), ImageDraw.Draw(words)
    draw_words.fontmode = "1"  # whole pixels: a number is no shade
    top, left = int(0.16 * h), int(0.13 * w)
    baselines = list(range(top, h - pitch // 2, pitch))
    count, written = 0, 0
    for line, base in enumerate(baselines):
        if line > 1 and rng.random() < 0.15:
            continue
        written += 1
        x = left + int(rng.uniform(0, 0.06) * w)
        while True:
            word = str(rng.choice(WORDS))
            long = font.getlength(word)
            if x + long > w * 0.95:
                break
            count += 1
            at = (x, base + int(rng.normal(0, 1.2) * OVER))
            draw.text(at, word, font=font, fill=255, anchor="ls")
            draw_words.text(at, word, font=font, fill=count, anchor="ls")
            x += int(long + font_px * rng.uniform(0.3, 0.42))
    rules = Image.new("L", (w, h), 0)
    pen = ImageDraw.Draw(rules)
    thick = int(round(rng.uniform(1.0, 2.2) * OVER))
    for base in baselines:
        y = base + int(0.08 * font_px)
        pen.rectangle([0, y, w, y + thick - 1], fill=255)
    margin = Image.new("L", (w, h), 0)
    if number % 3 != 2:
        ImageDraw.Draw(margin).rectangle([int(0.1 * w), 0, int(0.1 * w) + thick - 1, h], fill=255)
    warp = _warp(rng, w, h)
    layers = [np.asarray(one, np.float32) / 255 for one in (ink, rules, margin)]
    bent = [cv2.remap(one, *warp, cv2.INTER_LINEAR) for one in layers]
    ink_a, rule_a, margin_a = (cv2.resize(one, (width, height), interpolation=cv2.INTER_AREA).astype(float) for one in bent)
    named = cv2.remap(np.asarray(words, np.float32), *warp, cv2.INTER_NEAREST)[OVER // 2 :: OVER, OVER // 2 :: OVER]
    rgb = _photographed(rng, ink_a * _pressed(number, ink_a.shape, faintest), rule_a, margin_a, number)
    truth = ink_a >= 0.5
    return Card(rgb, truth, (np.maximum(rule_a, margin_a) >= 0.5), np.where(truth, named, 0).astype(np.int32), written)


def _warp(rng: np.random.Generator, w: int, h: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """A slight turn and bend of the paper, and a wobble of the hand."""
    y, x = np.mgrid[0:h, 0:w].astype(np.float32)
    angle = np.radians(rng.uniform(-4.5, 4.5))
    cx, cy = x - w / 2, y - h / 2
    bend = rng.uniform(-0.006, 0.006) * h * ((cx / w * 2) ** 2)
    u = cx * np.cos(angle) - cy * np.sin(angle) + w / 2
    v = cx * np.sin(angle) + cy * np.cos(angle) + h / 2 + bend
    small = (max(2, h // (18 * OVER)), max(2, w // (18 * OVER)))
    for map_ in (u, v):
        unrest = cv2.resize(rng.normal(0, 0.35 * OVER, small).astype(np.float32), (w, h), interpolation=cv2.INTER_CUBIC)
        map_ += unrest
    return u.astype(np.float32), v.astype(np.float32)


def _pressed(number: int, shape: tuple[int, ...], faintest: float) -> Array:
    """How dark the ink is: it changes every 40 px or so."""
    cells = np.random.default_rng(number).uniform(faintest, 1.0, (shape[0] // 40 + 2, shape[1] // 40 + 2))
    return np.clip(cv2.resize(cells, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC), faintest, 1.0)


def _photographed(rng: np.random.Generator, ink: Array, rules: Array, margin: Array, number: int) -> NDArray[np.uint8]:
    height, width = ink.shape
    paper = np.array([246, 241, 230]) - rng.uniform(0, 8, 3)
    image = np.ones((height, width, 3)) * paper
    for cover, colour in ((rules, RULES[number % 3]), (margin, (214, 120, 120)), (ink, INKS[(number // 2) % 4])):
        over = np.array(colour) if cover is ink else np.minimum(image, colour)
        image = image * (1 - cover[..., None]) + cover[..., None] * over
    y, x = np.mgrid[0:height, 0:width]
    light = 1 - rng.uniform(0, 0.3) * (x / width) - rng.uniform(0, 0.2) * (y / height)
    if number % 2:  # somebody's hand
        edge = width * rng.uniform(0.55, 0.85) + 0.3 * y + 30 * np.sin(y / 70)
        light *= 1 - 0.28 / (1 + np.exp((edge - x) / 14))
    image = image * light[..., None]
    image = cv2.GaussianBlur(image, (0, 0), 0.6) + rng.normal(0, 2.5, image.shape)
    buffer = io.BytesIO()
    Image.fromarray(np.clip(image, 0, 255).astype(np.uint8)).save(buffer, "JPEG", quality=int(rng.integers(72, 93)))
    return np.asarray(Image.open(io.BytesIO(buffer.getvalue())).convert("RGB"))
