"""Barnacle, the harbour dog: an invented animal, rendered so that it looks like a photograph taken close, ground out of focus."""

from __future__ import annotations

import numpy as np
from kettle import Array, blurred, lit, smooth_step
from numpy.typing import NDArray
from PIL import Image

WIDTH, HEIGHT = 900, 1000
SAND, BROWN, DARK = np.array([0.52, 0.37, 0.22]), np.array([0.23, 0.13, 0.075]), np.array([0.035, 0.028, 0.025])
PATCH = np.array([0.4, 0.25, 0.14])
PALE = np.array([0.74, 0.66, 0.54])
Part = tuple[Array, Array, Array]


def ball(y: Array, x: Array, at: tuple[float, float], size: tuple[float, float], turn: float = 0.0, soft: float = 2.0) -> Part:
    """An ellipsoid: coverage and its normal's x and y. turn: radians; soft: px over which its edge fades."""
    cos, sin = np.cos(turn), np.sin(turn)
    u, v = ((x - at[0]) * cos + (y - at[1]) * sin) / size[0], ((y - at[1]) * cos - (x - at[0]) * sin) / size[1]
    away = (np.hypot(u, v) - 1) * min(size)
    inside = smooth_step(-soft, soft, -away)
    u, v = np.clip(u, -1, 1), np.clip(v, -1, 1)
    return inside, u * cos - v * sin, u * sin + v * cos


def harbour(y: Array, x: Array) -> Array:
    """Water, a quay and masts, far out of focus. Returns (H, W, 3), linear 0..1."""
    sky, water, quay = np.array([0.42, 0.56, 0.68]), np.array([0.1, 0.27, 0.34]), np.array([0.07, 0.17, 0.21])
    image = np.where((y < 330)[..., None], sky, water) * np.ones((*y.shape, 1))
    image[(y > 760)] = quay
    for place, width, height in ((110, 26, 300), (250, 18, 250), (690, 22, 290), (800, 34, 320)):
        image[(np.abs(x - place) < width / 2) & (y > 330 - height) & (y < 420)] = [0.2, 0.3, 0.36]
        image[(np.abs(x - place) < 70) & (y > 330) & (y < 410)] = [0.5, 0.6, 0.66] if place % 20 else [0.09, 0.19, 0.36]
    return np.dstack([blurred(image[..., c], 22) for c in range(3)])


def fur(shape: tuple[int, int], rng: np.random.Generator) -> Array:
    """Strands that hang down, about 1 in the mean."""
    noise = rng.normal(0, 1, shape)
    strands = blurred(noise, 1)
    for _ in range(3):
        strands = (strands + np.roll(strands, 2, axis=0) + np.roll(strands, 4, axis=0)) / 3
    return 1 + 0.1 * strands / strands.std() + 0.06 * blurred(noise, 9) / blurred(noise, 9).std()


def dog() -> Image.Image:
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float64)
    rng = np.random.default_rng(11)
    image, hair = harbour(y, x), fur((HEIGHT, WIDTH), rng)
    furry: tuple[tuple[Part, NDArray], ...] = (
        (ball(y, x, (450, 960), (300, 330), 0, 6), SAND),
        (ball(y, x, (450, 940), (130, 220), 0, 30), PALE),
        (ball(y, x, (215, 350), (74, 185), 0.33, 5), BROWN),
        (ball(y, x, (685, 350), (74, 185), -0.33, 5), BROWN),
        (ball(y, x, (450, 390), (232, 255), 0, 6), SAND),
        (ball(y, x, (345, 320), (92, 118), 0.25, 34), PATCH),
        (ball(y, x, (555, 320), (92, 118), -0.25, 34), PATCH),
        (ball(y, x, (450, 300), (34, 130), 0, 18), PALE),
        (ball(y, x, (450, 520), (128, 120), 0, 18), PALE),
    )
    for (cover, nx, ny), colour in furry:
        image = image * (1 - cover[..., None]) + lit(colour, 0.6 * nx, 0.6 * ny, 0.0) * hair[..., None] * cover[..., None]
    mouth = np.exp(-((y - 592 - 0.0028 * (np.abs(x - 450) - 58) ** 2) / 5.0) ** 2) * (np.abs(x - 450) < 104)
    seam = np.exp(-((x - 450) / 4.0) ** 2) * (y > 500) * (y < 585)
    image *= (1 - 0.85 * np.clip(mouth + seam, 0, 1))[..., None]
    collar = smooth_step(-2, 2, 20 - np.abs(y - 668 + 0.0011 * (x - 450) ** 2)) * (np.abs(x - 450) < 214)
    red = lit(np.array([0.55, 0.05, 0.045]), np.clip((x - 450) / 260, -1, 1), np.clip((y - 668) / 30, -1, 1), 0.25)
    image = image * (1 - collar[..., None]) + red * collar[..., None]
    for part, colour, gloss in (
        (ball(y, x, (450, 470), (52, 38)), DARK, 0.75),
        (ball(y, x, (360, 362), (33, 30)), DARK, 0.2), (ball(y, x, (540, 362), (33, 30)), DARK, 0.2),
        (ball(y, x, (360, 362), (24, 23)), np.array([0.2, 0.09, 0.03]), 0.1),
        (ball(y, x, (540, 362), (24, 23)), np.array([0.2, 0.09, 0.03]), 0.1),
        (ball(y, x, (360, 362), (13, 13)), DARK * 0.4, 0.0), (ball(y, x, (540, 362), (13, 13)), DARK * 0.4, 0.0),
        (ball(y, x, (351, 351), (6, 6)), np.ones(3), 0.6), (ball(y, x, (531, 351), (6, 6)), np.ones(3), 0.6),
        (ball(y, x, (450, 718), (27, 27)), np.array([0.62, 0.5, 0.2]), 0.8),
    ):
        cover, nx, ny = part
        image = image * (1 - cover[..., None]) + lit(colour, nx, ny, gloss) * cover[..., None]
    for side in (-1, 1):
        spot = np.exp(-(((x - 450 - side * 18) / 9) ** 2 + ((y - 478) / 6) ** 2))
        image *= (1 - 0.8 * spot)[..., None]
    falloff = 1.1 - 0.45 * (((x - 330) / WIDTH) ** 2 + ((y - 300) / HEIGHT) ** 2)
    image = np.clip(image * falloff[..., None], 0, 1)
    coded = np.where(image <= 0.0031308, 12.92 * image, 1.055 * image ** (1 / 2.4) - 0.055) * 255
    return Image.fromarray(np.clip(coded + rng.normal(0, 2.2, coded.shape), 0, 255).astype(np.uint8), "RGB")
