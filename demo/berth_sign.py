"""A berth sign of the harbour, as a screenshot of a drawing on a pale grid."""

from __future__ import annotations

from canvas import OVER, Canvas
from PIL import Image, ImageFont

NAVY, CHALK, SIGNAL = "#1d3f66", "#ffffff", "#e8a33d"
WIDTH, HEIGHT = 720, 520


def berth_sign() -> Image.Image:
    canvas = Canvas(WIDTH, HEIGHT, "#ffffff")
    for x in range(10, WIDTH, 24):
        canvas.box(x, 0, x + 1, HEIGHT, "#e6ebf0")
    for y in range(14, HEIGHT, 24):
        canvas.box(0, y, WIDTH, y + 1, "#e6ebf0")
    canvas.box(70, 60, 650, 460, NAVY, 36)
    canvas.box(86, 76, 634, 444, CHALK, 24)
    canvas.box(94, 84, 626, 436, NAVY, 18)
    canvas.box(94, 352, 626, 372, SIGNAL)
    large, small = ImageFont.load_default(106 * OVER), ImageFont.load_default(44 * OVER)
    canvas.draw.text((262 * OVER, 206 * OVER), "BERTH", font=small, fill=CHALK, anchor="ls")
    canvas.draw.text((450 * OVER, 262 * OVER), "7", font=ImageFont.load_default(190 * OVER), fill=SIGNAL, anchor="ls")
    canvas.draw.text((124 * OVER, 334 * OVER), "OPEN", font=large, fill=CHALK, anchor="ls")
    canvas.draw.text((360 * OVER, 419 * OVER), "Quillhaven harbour day", font=ImageFont.load_default(30 * OVER), fill=CHALK,
                     anchor="ms")
    canvas.polygon([(180, 122), (236, 172), (206, 172), (206, 214), (154, 214), (154, 172), (124, 172)], SIGNAL)
    return canvas.finished()
