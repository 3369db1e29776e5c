"""The plan of a lunch crate: outline and slots in ink, folds in dashes, one of them curved."""

from __future__ import annotations

import math

import numpy as np
from canvas import OVER, Canvas, Point
from PIL import Image

WIDTH, HEIGHT = 1300, 1000
INK = "#24303c"
PEN = 5.0


def lunch_crate() -> Image.Image:
    canvas = Canvas(WIDTH, HEIGHT, "#fdfcf8")
    left, right, top, bottom, wall, tab = 330.0, 970.0, 330.0, 690.0, 180.0, 60.0
    outline = [
        (left, top), (left, top - wall), (right, top - wall), (right, top), (right + wall, top), (right + wall, bottom),
        (right, bottom), (right, bottom + wall), (left, bottom + wall), (left, bottom), (left - wall, bottom), (left - wall, top),
    ]
    corners = [
        [(left - wall, top), (left - wall + 16, top - tab), (left - 16, top - tab), (left, top)],
        [(right, top), (right + 16, top - tab), (right + wall - 16, top - tab), (right + wall, top)],
        [(left - wall, bottom), (left - wall + 16, bottom + tab), (left - 16, bottom + tab), (left, bottom)],
        [(right, bottom), (right + 16, bottom + tab), (right + wall - 16, bottom + tab), (right + wall, bottom)],
    ]
    ring = [*corners[0], *outline[1:4], *corners[1][1:], *reversed(corners[3]), outline[7], outline[8], *reversed(corners[2])]
    _line(canvas, [*ring, ring[0]])
    for y in (top - wall / 2, bottom + wall / 2):  # to carry it by
        _line(canvas, [(590, y - 16), (710, y - 16), (710, y + 16), (590, y + 16), (590, y - 16)])
    folds = [[(left, top), (right, top)], [(left, bottom), (right, bottom)], [(left, top), (left, bottom)],
             [(right, top), (right, bottom)]]
    folds += [[corner[0], corner[-1]] for corner in corners]
    arc = [(650 + 190 * math.cos(a), 640 - 150 * math.sin(a)) for a in np.linspace(0.25, math.pi - 0.25, 120)]
    for fold in [*folds, arc]:
        _dashes(canvas, fold, 22, 13)
    return canvas.finished()


def _line(canvas: Canvas, points: list[Point]) -> None:
    canvas.draw.line([(x * OVER, y * OVER) for x, y in points], fill=INK, width=round(PEN * OVER), joint="curve")
    for x, y in points:
        canvas.disc(x, y, PEN / 2, INK)


def _dashes(canvas: Canvas, points: list[Point], dash: float, gap: float) -> None:
    line = np.array(points, float)
    steps = np.hypot(*np.diff(line, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    at = gap
    while at + dash < along[-1]:
        marks = np.linspace(at, at + dash, 8)
        part = [(float(np.interp(m, along, line[:, 0])), float(np.interp(m, along, line[:, 1]))) for m in marks]
        canvas.draw.line([(x * OVER, y * OVER) for x, y in part], fill=INK, width=round((PEN - 1.4) * OVER))
        at += dash + gap
