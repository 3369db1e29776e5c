"""The harbour's mark as it is printed on its letters: an anchor in a ring, 10 mm wide, at 1200 dots per inch."""

from __future__ import annotations

from canvas import Canvas, bezier
from PIL import Image

SIDE = 472  # px, 10 mm
BLUE, PAPER = "#22476b", "#fdfcf8"


def printed_mark() -> Image.Image:
    canvas = Canvas(SIDE, SIDE, PAPER)
    middle = SIDE / 2
    canvas.disc(middle, middle, 214, BLUE)
    canvas.disc(middle, middle, 184, PAPER)
    canvas.disc(middle, 110, 34, BLUE)
    canvas.disc(middle, 110, 16, PAPER)
    canvas.box(middle - 13, 136, middle + 13, 352, BLUE)
    canvas.box(middle - 70, 170, middle + 70, 196, BLUE, radius=12)
    outer = bezier((middle - 112, 262), (middle - 100, 400), (middle + 100, 400), (middle + 112, 262))
    inner = bezier((middle + 82, 262), (middle + 70, 356), (middle - 70, 356), (middle - 82, 262))
    canvas.polygon([*outer, *inner], BLUE)
    for side in (-1, 1):
        canvas.polygon([(middle + side * 97, 222), (middle + side * 138, 288), (middle + side * 60, 284)], BLUE)
    return canvas.finished()
