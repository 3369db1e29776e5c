"""Pictures whose subject is known: shapes laid over plain, shaded, noisy and photographed grounds.

The photographs come with scikit-image; no picture of a person is used. Everything is drawn from fixed seeds.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter
from shapely import affinity

GroundClass = Literal["plain", "shaded", "noisy", "photo"]
KINDS: tuple[GroundClass, ...] = ("plain", "shaded", "noisy", "photo")
PHOTOS = ("coffee", "chelsea", "motorcycle_left", "grass", "gravel", "brick")
SOFT = ("coffee", "chelsea", "motorcycle_left")  # with much going on; blurred as if out of focus
OVER = 4


@dataclass(frozen=True)
class Composite:
    """rgb : (H, W, 3) uint8; coverage : (H, W) float, the subject's; holes: how often ground is seen through the subject;
    filling : (H, W, 3) float, the subject's colours without any ground in them."""

    name: str
    kind: GroundClass
    rgb: NDArray[np.uint8]
    coverage: NDArray[np.float64]
    holes: int
    filling: NDArray[np.float64]

    @property
    def mask(self) -> NDArray[np.bool_]:
        return self.coverage >= 0.5


def _photo(name: str, size: int) -> NDArray[np.float64]:
    from skimage import data

    loaders = {"motorcycle_left": lambda: data.stereo_motorcycle()[0]}
    pixels = loaders.get(name, getattr(data, name, None))()
    image = Image.fromarray(pixels).convert("RGB")
    side = min(image.size)
    return np.asarray(image.crop((0, 0, side, side)).resize((size, size)), float)


def _shape(rng: np.random.Generator, size: int, number: int) -> tuple[shapely.Geometry, int]:
    """A subject somewhere near the middle: a soft blob, a jug with a handle, a star, a leaf, a bird of parts."""
    x, y = size * (0.5 + rng.uniform(-0.08, 0.08, 2))
    reach = size * rng.uniform(0.2, 0.32)
    kind = number % 5
    if kind == 0:
        angle = np.linspace(0, 2 * math.pi, 200)[:-1]
        waves = sum(rng.normal(0, 0.09) * np.cos(k * angle + rng.uniform(0, 6)) for k in (2, 3, 4, 5))
        away = reach * (1 + waves)
        return shapely.Polygon(np.stack([x + away * np.cos(angle), y + away * np.sin(angle)], 1)), 0
    if kind == 1:
        body = affinity.scale(shapely.Point(x, y).buffer(reach), 0.8, 1.0)
        middle = shapely.Point(x + 0.85 * reach, y)
        ring = middle.buffer(0.5 * reach).difference(middle.buffer(0.3 * reach))
        return shapely.union_all([body, ring]), 1
    if kind == 2:
        angle = np.arange(10) * math.pi / 5 + rng.uniform(0, 1)
        away = np.where(np.arange(10) % 2 == 0, reach, 0.55 * reach)
        rays = shapely.Polygon(np.stack([x + away * np.cos(angle), y + away * np.sin(angle)], 1))
        return rays.buffer(0.04 * reach), 0
    if kind == 3:
        sides = [shapely.Point(x, y + side * reach).buffer(1.1 * reach) for side in (-0.6, 0.6)]
        leaf = sides[0].intersection(sides[1])
        return affinity.rotate(leaf, rng.uniform(0, 180), origin=(x, y)), 0
    body = affinity.rotate(affinity.scale(shapely.Point(x, y).buffer(reach), 1.0, 0.6), rng.uniform(-30, 30))
    head = shapely.Point(x + 0.8 * reach, y - 0.5 * reach).buffer(0.35 * reach)
    legs = shapely.union_all([shapely.box(x + (d - 0.05) * reach, y, x + (d + 0.05) * reach, y + reach) for d in (-0.2, 0.25)])
    return shapely.union_all([body, head, legs]), 0


def _painted_mask(shape: shapely.Geometry, size: int) -> NDArray[np.float64]:
    image = Image.new("L", (size * OVER, size * OVER))
    draw = ImageDraw.Draw(image)
    parts = shape.geoms if hasattr(shape, "geoms") else [shape]
    for part in parts:
        draw.polygon([(OVER * px, OVER * py) for px, py in part.exterior.coords], fill=255)
        for hole in part.interiors:
            draw.polygon([(OVER * px, OVER * py) for px, py in hole.coords], fill=0)
    return np.asarray(image.resize((size, size), Image.Resampling.BOX), float) / 255


def _ground(rng: np.random.Generator, kind: GroundClass, size: int, number: int) -> NDArray[np.float64]:
    v, u = np.indices((size, size)) / size
    base = np.array([255.0, 255.0, 255.0]) if number % 3 == 0 else rng.uniform(120, 245, 3)
    ground = np.broadcast_to(base, (size, size, 3)).copy()
    if kind == "shaded":
        ground *= (1 - 0.25 * np.hypot(u - rng.uniform(0.2, 0.8), v - rng.uniform(0.2, 0.8)))[..., None]
    elif kind == "noisy":
        ground *= (1 - 0.1 * u)[..., None]
        ground += rng.normal(0, 6, ground.shape)
    elif kind == "photo":
        name = PHOTOS[number % len(PHOTOS)]
        ground = _photo(name, size)
        if name in SOFT:
            blurred = Image.fromarray(ground.astype(np.uint8)).filter(ImageFilter.GaussianBlur(size / 120))
            ground = np.asarray(blurred, float)
    return ground


def _filling(
    rng: np.random.Generator, size: int, number: int, ground: NDArray[np.float64], mask: NDArray[np.bool_]
) -> NDArray[np.float64]:
    """Colours of the subject, clearly other than the ground's mean: shaded, or with a photograph's texture."""
    beside = ground[~mask].mean(axis=0)
    for _ in range(100):
        colour = rng.uniform(20, 235, 3)
        if np.abs(colour - beside).max() > 90:
            break
    v, u = np.indices((size, size)) / size
    filling = colour * (1.15 - 0.4 * u)[..., None] * (1.1 - 0.2 * v)[..., None]
    if number % 2:
        texture = _photo(PHOTOS[(number // 2 + 3) % len(PHOTOS)], size).mean(axis=2, keepdims=True)
        filling *= 0.85 + 0.3 * (texture - texture.mean()) / 255
    return filling


def composite(kind: GroundClass, number: int, size: int = 700) -> Composite:
    rng = np.random.default_rng(1000 * KINDS.index(kind) + number)
    shape, holes = _shape(rng, size, number)
    coverage = _painted_mask(shape, size)
    ground = _ground(rng, kind, size, number)
    filling = _filling(rng, size, number, ground, coverage > 0.5)
    rgb = ground * (1 - coverage[..., None]) + filling * coverage[..., None]
    if kind == "photo":
        rgb = rgb + rng.normal(0, 2.5, rgb.shape)
    pixels = np.clip(np.rint(rgb), 0, 255).astype(np.uint8)
    return Composite(f"{kind} {number}", kind, pixels, coverage, holes, filling)


def composites(size: int = 700, each: int = 12) -> list[Composite]:
    return [composite(kind, number, size) for kind in KINDS for number in range(each)]


def overlap(one: NDArray[np.bool_], other: NDArray[np.bool_]) -> float:
    """Intersection over union."""
    return float((one & other).sum() / max(1, (one | other).sum()))


def outline_f(one: NDArray[np.bool_], other: NDArray[np.bool_], within: float = 2.0) -> float:
    """F of the outlines: how much of each lies within so many px of the other."""
    import scipy.ndimage as ndimage

    edges = [mask & ~ndimage.binary_erosion(mask) for mask in (one, other)]
    if not edges[0].any() or not edges[1].any():
        return 0.0
    away = [ndimage.distance_transform_edt(~edge) for edge in edges]
    hits = float((away[1][edges[0]] <= within).mean()), float((away[0][edges[1]] <= within).mean())
    return 2 * hits[0] * hits[1] / max(1e-9, sum(hits))
