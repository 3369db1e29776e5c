"""The lighthouse of Quillhaven in flat colours: five of them, two tiny lit panes, white between the railings."""

from __future__ import annotations

from canvas import Canvas, bezier
from PIL import Image

SEA, CREAM, RED, SLATE, LAMP = "#2f5d7c", "#f4ead6", "#c8452f", "#26323d", "#f2c14e"
WIDTH, HEIGHT = 600, 887
PANES = ((276, 214, 296, 242), (304, 214, 324, 242))


def tower_edge(y: float) -> tuple[float, float]:
    """Left and right edge of the tower at a height; it narrows upwards."""
    share = (y - 300.0) / (720.0 - 300.0)
    return 252.0 - 34.0 * share, 348.0 + 34.0 * share


def band(canvas: Canvas, top: float, bottom: float, colour: str) -> None:
    (a, b), (c, d) = tower_edge(top), tower_edge(bottom)
    canvas.polygon([(a, top), (b, top), (d, bottom), (c, bottom)], colour)


def lighthouse() -> Image.Image:
    canvas = Canvas(WIDTH, HEIGHT, "#ffffff")
    waves = (bezier((40, 760), (130, 700), (190, 790), (280, 750)) + bezier((280, 750), (370, 712), (450, 790), (560, 735)))
    canvas.polygon([*waves, (560, 850), (40, 850)], SEA)
    canvas.polygon([*bezier((120, 778), (170, 690), (430, 670), (490, 775)), (490, 790), (120, 790)], SLATE)
    band(canvas, 300, 730, CREAM)
    band(canvas, 380, 460, RED)
    band(canvas, 545, 630, RED)
    canvas.polygon([*bezier((276, 720), (276, 660), (324, 660), (324, 720)), (324, 732), (276, 732)], SLATE)
    canvas.box(228, 288, 372, 304, SLATE)
    canvas.box(228, 250, 372, 256, SLATE)
    for x in (228, 250, 345, 367):
        canvas.box(x, 250, x + 5, 300, SLATE)
    canvas.box(264, 202, 336, 300, SLATE)
    for pane in PANES:
        canvas.box(*pane, LAMP)
    canvas.polygon([*bezier((248, 204), (262, 132), (338, 132), (352, 204))], RED)
    canvas.disc(300, 142, 11, SLATE)
    canvas.box(297, 96, 303, 140, SLATE)
    return canvas.finished()
