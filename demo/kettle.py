"""An enamel kettle on a checked cloth, rendered so that it looks like a photograph: light, shadow, texture, noise."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image

WIDTH, HEIGHT = 960, 720
Array = NDArray[np.float64]


def smooth_step(low: float, high: float, x: Array) -> Array:
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def blurred(image: Array, reach: int) -> Array:
    """Three box means along both axes, near enough a Gaussian."""
    for _ in range(3):
        for axis in (0, 1):
            padded = np.pad(image, [(reach + 1, reach) if a == axis else (0, 0) for a in (0, 1)], mode="edge")
            sums = np.cumsum(padded, axis=axis)
            high, low = np.take(sums, range(2 * reach + 1, sums.shape[axis]), axis), np.take(
                sums, range(sums.shape[axis] - 2 * reach - 1), axis)
            image = (high - low) / (2 * reach + 1)
    return image


def cloth(y: Array, x: Array) -> Array:
    """A checked cloth seen from above at a slant, with threads and folds. Returns (H, W, 3), linear 0..1."""
    depth = 1.0 / (0.35 + 0.9 * (y / HEIGHT))
    u, v = (x - WIDTH / 2) * depth + 25 * np.sin(y / 90.0), y * depth * 1.3 + 14 * np.sin(x / 120.0)
    first, second = smooth_step(-0.1, 0.1, np.sin(u / 34.0)), smooth_step(-0.1, 0.1, np.sin(v / 34.0))
    cream, blue = np.array([0.72, 0.66, 0.55]), np.array([0.16, 0.26, 0.42])
    mix = (first + second)[..., None] / 2
    colour = cream * (1 - mix) + blue * mix
    thread = 1 + 0.05 * np.sin(u * 2.1) * np.sin(v * 2.3)
    folds = 1 + 0.16 * np.sin(x / 170.0 + 0.6 * np.sin(y / 110.0))
    return colour * (thread * folds)[..., None]


def body(y: Array, x: Array) -> tuple[Array, Array, Array]:
    """The belly of the kettle: coverage 0..1 and its normal's x and y."""
    half = 205 * np.sqrt(np.clip(1 - ((y - 440) / 190) ** 2, 0, 1)) * (1 + 0.12 * smooth_step(300, 560, y))
    inside = smooth_step(-1.2, 1.2, half - np.abs(x - 470)) * (y > 268) * smooth_step(-1.5, 1.5, 604 - y)
    return inside, np.clip((x - 470) / np.maximum(half, 1), -1, 1), np.clip((y - 430) / 230, -1, 1)


def tube(y: Array, x: Array, path: Array, radius: Array) -> tuple[Array, Array, Array]:
    """A bent tube along path : (N, 2) of x, y with radius : (N,): coverage and normal's x and y."""
    best = np.full(x.shape, 1e9)
    normal_x, normal_y = np.zeros_like(x), np.zeros_like(x)
    for (px, py), r in zip(path, radius, strict=True):
        away = np.hypot(x - px, y - py) - r
        nearer = away < best
        best = np.where(nearer, away, best)
        normal_x, normal_y = np.where(nearer, (x - px) / r, normal_x), np.where(nearer, (y - py) / r, normal_y)
    return smooth_step(-1.2, 1.2, -best), np.clip(normal_x, -1, 1), np.clip(normal_y, -1, 1)


def lit(colour: Array, normal_x: Array, normal_y: Array, gloss: float) -> Array:
    """Shade a round surface under a window from the upper left. Returns (H, W, 3)."""
    normal_z = np.sqrt(np.clip(1 - normal_x**2 - normal_y**2, 0.02, 1))
    light = np.clip(-0.55 * normal_x - 0.5 * normal_y + 0.67 * normal_z, 0, 1)
    shine = np.clip(-0.42 * normal_x - 0.42 * normal_y + 0.8 * normal_z, 0, 1) ** 40
    back = 0.12 * np.clip(normal_x, 0, 1) ** 3
    return colour * (0.16 + 0.8 * light + back)[..., None] + gloss * shine[..., None]


def kettle() -> Image.Image:
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float64)
    image = cloth(y, x)
    t = np.linspace(0, 1, 160)[:, None]
    spout = (1 - t) ** 2 * [620, 500] + 2 * t * (1 - t) * [735, 470] + t**2 * [770, 300]
    handle = np.stack([470 + 190 * np.cos(np.pi * (1 - t[:, 0])), 300 - 190 * np.sin(np.pi * t[:, 0])], axis=1)
    belly, spout_part = body(y, x), tube(y, x, spout, 44 - 24 * t[:, 0])
    handle_part, knob = tube(y, x, handle, np.full(160, 13.0)), tube(y, x, np.array([[470.0, 222.0]]), np.array([22.0]))
    lid_half = 120 * np.sqrt(np.clip(1 - ((y - 276) / 36) ** 2, 0, 1))
    lid = smooth_step(-1.2, 1.2, lid_half - np.abs(x - 470)) * (y > 241) * (y < 284)
    solid = np.clip(belly[0] + spout_part[0] + lid, 0, 1)
    shadow = blurred(np.roll(np.roll(solid * (y > 380), 60, axis=1), 28, axis=0), 22)
    image *= (1 - 0.62 * np.clip(shadow, 0, 1))[..., None]
    red, dark = np.array([0.62, 0.055, 0.05]), np.array([0.03, 0.035, 0.045])
    parts = ((handle_part, dark, 0.35), (spout_part, red, 0.9), (belly, red, 0.9),
             ((lid, np.clip((x - 470) / 150, -1, 1), np.clip((y - 300) / 80, -1, 1)), red, 0.6), (knob, dark, 0.7))
    for (cover, normal_x, normal_y), colour, gloss in parts:
        image = image * (1 - cover[..., None]) + lit(colour, normal_x, normal_y, gloss) * cover[..., None]
    rim = smooth_step(-1.2, 1.2, 3.5 - np.abs(y - 283)) * (np.abs(x - 470) < 122)
    image = image * (1 - rim[..., None]) + np.array([0.85, 0.84, 0.8]) * 0.7 * rim[..., None]
    falloff = 1.12 - 0.5 * (((x - 330) / WIDTH) ** 2 + ((y - 260) / HEIGHT) ** 2)
    image = np.clip(image * falloff[..., None], 0, 1)
    coded = np.where(image <= 0.0031308, 12.92 * image, 1.055 * image ** (1 / 2.4) - 0.055) * 255
    grain = np.random.default_rng(7).normal(0, 2.4, coded.shape)
    return Image.fromarray(np.clip(coded + grain, 0, 255).astype(np.uint8), "RGB")
