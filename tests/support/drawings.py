"""Drawings whose geometry is known, painted by exact coverage."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

INK, PAPER = (30, 60, 120), (255, 255, 255)


def coverage(shape: Polygon, width: int, height: int) -> NDArray[np.float64]:
    """The part of each pixel a polygon covers, exactly: clipped pixel columns and rows. Returns (H, W)."""
    shapely.prepare(shape)
    x0, y0, x1, y1 = shape.bounds
    result = np.zeros((height, width))
    columns = np.arange(max(0, math.floor(x0)), min(width, math.ceil(x1)))
    rows = np.arange(max(0, math.floor(y0)), min(height, math.ceil(y1)))
    if not len(columns) or not len(rows):
        return result
    yy, xx = np.meshgrid(rows, columns, indexing="ij")
    cells = shapely.box(xx, yy, xx + 1, yy + 1)
    full, touched = shapely.contains(shape, cells), shapely.intersects(shape, cells)
    part = full.astype(float)
    edge = touched & ~full
    part[edge] = shapely.area(shapely.intersection(shape, cells[edge]))
    result[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1] = part
    return result


def painted(
    shapes: list[tuple[Polygon, tuple[int, int, int]]], width: int, height: int, paper: tuple[int, int, int] = PAPER
) -> NDArray[np.uint8]:
    """Shapes over each other on paper, by coverage. Returns (H, W, 4) uint8, opaque."""
    image = np.empty((height, width, 3))
    image[:] = paper
    for shape, colour in shapes:
        share = coverage(shape, width, height)[..., None]
        image = image * (1 - share) + np.array(colour, float) * share
    rgba = np.full((height, width, 4), 255, np.uint8)
    rgba[..., :3] = np.round(image)
    return rgba


def parted(
    shapes: list[tuple[Polygon, tuple[int, int, int]]], width: int, height: int, paper: tuple[int, int, int] = PAPER
) -> NDArray[np.uint8]:
    """Shapes beside each other, every pixel the mean of what lies in it. Returns (H, W, 4) uint8, opaque."""
    shares = [coverage(shape, width, height)[..., None] for shape, _ in shapes]
    image = np.array(paper, float) * (1 - sum(shares))
    for share, (_, colour) in zip(shares, shapes, strict=True):
        image = image + share * np.array(colour, float)
    rgba = np.full((height, width, 4), 255, np.uint8)
    rgba[..., :3] = np.round(image)
    return rgba


def circle(x: float, y: float, radius: float, chords: int = 720) -> Polygon:
    """A circle as a polygon of the same area, so fine that it differs by less than 10⁻⁴ px."""
    angle = np.arange(chords) * 2 * math.pi / chords
    radius *= math.sqrt(2 * math.pi / chords / math.sin(2 * math.pi / chords))
    return Polygon(np.stack([x + radius * np.cos(angle), y + radius * np.sin(angle)], axis=1))


def turned_square(x: float, y: float, side: float, degrees: float) -> Polygon:
    angle = math.radians(degrees) + np.arange(4) * math.pi / 2 + math.pi / 4
    reach = side / math.sqrt(2)
    return Polygon(np.stack([x + reach * np.cos(angle), y + reach * np.sin(angle)], axis=1))


def star(x: float, y: float, outer: float, inner: float, points: int = 5) -> Polygon:
    angle = -math.pi / 2 + np.arange(2 * points) * math.pi / points
    reach = np.where(np.arange(2 * points) % 2 == 0, outer, inner)
    return Polygon(np.stack([x + reach * np.cos(angle), y + reach * np.sin(angle)], axis=1))
