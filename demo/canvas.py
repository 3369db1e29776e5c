"""Drawing by coverage: shapes are painted eight times too large and averaged down."""

from __future__ import annotations

from collections.abc import Sequence

from PIL import Image, ImageDraw

OVER = 8
Point = tuple[float, float]


class Canvas:
    """A picture of width × height pixels on a ground of one colour; coordinates in pixels of the finished picture."""

    def __init__(self, width: int, height: int, ground: str) -> None:
        self.size = (width, height)
        self.image = Image.new("RGB", (width * OVER, height * OVER), ground)
        self.draw = ImageDraw.Draw(self.image)

    def polygon(self, points: Sequence[Point], colour: str) -> None:
        self.draw.polygon([(x * OVER, y * OVER) for x, y in points], fill=colour)

    def box(self, left: float, top: float, right: float, bottom: float, colour: str, radius: float = 0.0) -> None:
        corners = (left * OVER, top * OVER, right * OVER - 1, bottom * OVER - 1)
        self.draw.rounded_rectangle(corners, radius * OVER, fill=colour)

    def disc(self, x: float, y: float, radius: float, colour: str) -> None:
        self.draw.ellipse([(x - radius) * OVER, (y - radius) * OVER, (x + radius) * OVER, (y + radius) * OVER], fill=colour)

    def finished(self) -> Image.Image:
        return self.image.resize(self.size, Image.Resampling.BOX)


def bezier(start: Point, one: Point, two: Point, end: Point, steps: int = 60) -> list[Point]:
    """Points along a cubic curve, both ends included."""
    result = []
    for step in range(steps + 1):
        t = step / steps
        a, b, c, d = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3
        result.append((a * start[0] + b * one[0] + c * two[0] + d * end[0],
                       a * start[1] + b * one[1] + c * two[1] + d * end[1]))
    return result
