"""Harder pictures whose subject is known: walls with cast shadows, and sharp subjects before photographs out of focus.

Subjects have dark outlines, several colours or a texture; some touch the border, some come in twos. Every third number is kept
for the end. The photographs come with scikit-image and scikit-learn.
"""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image, ImageFilter
from shapely import affinity

from tests.support.composites import Composite, _painted_mask, _photo, _shape

BACKDROPS = ("coffee", "chelsea", "motorcycle_left", "china", "flower", "rocket", "gravel", "retina")
BLURS = (0.0, 1.5, 3.0, 6.0)  # deviation, px of a picture of 700 px


def is_kept(number: int) -> bool:
    """Whether a scene is not to be tuned to."""
    return number % 3 == 2


def _backdrop(name: str, size: int) -> NDArray[np.float64]:
    if name not in ("china", "flower"):
        return _photo(name, size)
    import sklearn

    image = Image.open(Path(sklearn.__file__).parent / f"datasets/images/{name}.jpg").convert("RGB")
    side = min(image.size)
    return np.asarray(image.crop((0, 0, side, side)).resize((size, size)), float)


def _blurred(values: NDArray[np.float64], sigma: float) -> NDArray[np.float64]:
    import cv2

    return values if sigma <= 0 else cv2.GaussianBlur(values, (0, 0), sigma)


def _coat(rng: np.random.Generator, shape: shapely.Geometry, size: int, number: int, away_from: NDArray) -> NDArray[np.float64]:
    """What the subject looks like all over the picture: a base, patches of other colours, a texture, a dark outline."""
    colours: list[NDArray[np.float64]] = []
    while len(colours) < 3:
        colour = rng.uniform(20, 240, 3)
        if np.abs(colour - away_from).max() > 80:
            colours.append(colour)
    v, u = np.indices((size, size)) / size
    coat = colours[0] * (1.12 - 0.3 * u)[..., None] * (1.08 - 0.16 * v)[..., None]
    x, y = shape.centroid.coords[0]
    reach = 0.35 * math.sqrt(shape.area)
    for colour in colours[1:]:
        patch = affinity.scale(shapely.Point(x + rng.uniform(-1, 1) * reach, y + rng.uniform(-1, 1) * reach).buffer(0.6 * reach),
                               1.0, rng.uniform(0.4, 1.0))
        share = _painted_mask(patch, size)[..., None]
        coat = coat * (1 - share) + colour * share
    if number % 2:
        texture = _photo(("grass", "brick", "gravel")[number % 3], size).mean(axis=2, keepdims=True)
        coat *= 0.8 + 0.4 * (texture - texture.mean()) / 128
    if number % 4 < 2:
        line = _painted_mask(shape.difference(shape.buffer(-0.008 * size)), size)[..., None]
        coat = coat * (1 - line) + np.array([28.0, 24.0, 30.0]) * line
    return np.clip(coat, 0, 255)


def _subject(rng: np.random.Generator, size: int, number: int) -> tuple[shapely.Geometry, int]:
    shape, holes = _shape(rng, size, number)
    if number % 7 == 3:  # at the lower border, as a vase on a table
        shape = affinity.translate(shape, 0, size - shape.bounds[3] + 0.02 * size)
    if number % 7 == 5:
        other = affinity.scale(shape, 0.5, 0.5)
        shape = shapely.union_all([affinity.translate(affinity.scale(shape, 0.7, 0.7), -0.16 * size, 0),
                                   affinity.translate(other, 0.24 * size, 0.1 * size)])
    return shape.intersection(shapely.box(0, 0, size, size)), holes


def wall(number: int, size: int = 700) -> Composite:
    """A subject before a plain or softly lit wall on which it casts a soft shadow; every fourth casts none and is grey."""
    rng = np.random.default_rng(70_000 + number)
    shape, holes = _subject(rng, size, number)
    coverage = _painted_mask(shape, size)
    base = rng.uniform(150, 245) * np.clip(rng.normal(1, 0.09, 3), 0.75, 1.06)
    v, u = np.indices((size, size)) / size
    ground = np.broadcast_to(np.minimum(base, 250), (size, size, 3)) * (
        1 - (0.18 if number % 2 else 0.0) * np.hypot(u - rng.uniform(), v - rng.uniform()))[..., None]
    coat = _coat(rng, shape, size, number, base)
    if number % 4 == 3:
        grey = base.mean() * (0.72 if number % 8 == 3 else 0.55)
        coat = coat * 0.15 + 0.85 * np.array([grey, grey, grey * 1.03])
    else:
        shift = rng.uniform(-0.1, 0.1) * size, rng.uniform(0.01, 0.1) * size
        cast = affinity.translate(affinity.skew(shape, rng.uniform(-12, 12), 0), *shift)
        cast = cast.intersection(shapely.box(0, 0, size, size))
        soft = _blurred(_painted_mask(cast, size), rng.uniform(5, 24) * size / 700)
        contact = _blurred(_painted_mask(affinity.translate(shape, 0, 0.01 * size), size), 4.0 * size / 700)
        ground = ground * ((1 - rng.uniform(0.25, 0.55) * soft) * (1 - 0.15 * contact))[..., None] ** (1 / 2.2)
    rgb = ground * (1 - coverage[..., None]) + coat * coverage[..., None]
    rgb = rgb + rng.normal(0, (0.0, 1.5, 3.0)[number % 3], rgb.shape)
    return Composite(f"wall {number}", "shaded", np.clip(np.rint(rgb), 0, 255).astype(np.uint8), coverage, holes, coat)


def before_photo(number: int, blur: float, size: int = 700) -> Composite:
    """A sharp subject before a photograph that is out of focus by so much."""
    rng = np.random.default_rng(90_000 + number)
    shape, holes = _subject(rng, size, number)
    coverage = _painted_mask(shape, size)
    ground = _blurred(_backdrop(BACKDROPS[number % len(BACKDROPS)], size), blur * size / 700)
    coat = _coat(rng, shape, size, number, ground[coverage < 0.5].mean(axis=0))
    rgb = ground * (1 - coverage[..., None]) + coat * coverage[..., None] + rng.normal(0, 2.0, ground.shape)
    pixels = np.clip(np.rint(rgb), 0, 255).astype(np.uint8)
    softened = Image.fromarray(pixels).filter(ImageFilter.GaussianBlur(0.5))
    name = f"before {BACKDROPS[number % len(BACKDROPS)]} {number}, blur {blur:g}"
    return Composite(name, "photo", np.asarray(softened), coverage, holes, coat)
