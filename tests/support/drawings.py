"""Drawings whose geometry is known, painted by exact coverage."""

from __future__ import annotations

import math

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

TILE = 24  # px
INK, PAPER = (30, 60, 120), (255, 255, 255)


def coverage(shape: Polygon, width: int, height: int) -> NDArray[np.float64]:
    """The part of each pixel a polygon covers, exactly: pixels along the outline are clipped. Returns (H, W)."""
    shapely.prepare(shape)
    near = np.zeros((height, width), np.uint8)
    x, y = np.floor(shapely.get_coordinates(shapely.segmentize(shape.boundary, 0.5))).astype(int).T
    there = (x >= -1) & (y >= -1) & (x <= width) & (y <= height)
    near[np.clip(y[there], 0, height - 1), np.clip(x[there], 0, width - 1)] = 1
    near = cv2.dilate(near, np.ones((3, 3), np.uint8))
    count, parts = cv2.connectedComponents(1 - near, connectivity=4)
    _, first = np.unique(parts, return_index=True)
    rows, columns = np.unravel_index(first, parts.shape)
    inside = np.zeros(count, bool)
    inside[parts[rows, columns]] = shapely.contains_xy(shape, columns + 0.5, rows + 0.5)
    inside[0] &= not near.any()  # 0 is what lies along the outline, if anything does
    result = inside[parts].astype(float)
    rows, columns = np.nonzero(near)
    if not len(rows):
        return result
    tile = rows // TILE * (width // TILE + 1) + columns // TILE
    order = np.argsort(tile, kind="stable")
    for own in np.split(order, np.flatnonzero(np.diff(tile[order])) + 1):  # of a tile's part there is less to clip
        y, x = rows[own], columns[own]
        part = shapely.intersection(shape, shapely.box(x.min(), y.min(), x.max() + 1, y.max() + 1))
        result[y, x] = shapely.area(shapely.intersection(part, shapely.box(x, y, x + 1, y + 1)))
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
