"""Outlines of two open fonts (Bricolage Grotesque and Atkinson Hyperlegible, SIL Open Font License, from npm) as shapes."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import shapely
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont
from shapely import affinity
from shapely.geometry import Polygon

from bisectum.core.geom.bezier import points_at

FILES = Path(__file__).resolve().parents[2] / "web/node_modules/@fontsource/bricolage-grotesque/files"
FONT = FILES / "bricolage-grotesque-latin-700-normal.woff"
ATKINSON = FILES.parents[1] / "atkinson-hyperlegible/files/atkinson-hyperlegible-latin-700-normal.woff"


class _Outline(BasePen):
    """Contours of a glyph as fine polygons, and the count of its own nodes."""

    def __init__(self) -> None:
        super().__init__(None)
        self.contours: list[list[tuple[float, float]]] = []
        self.nodes = 0

    def _moveTo(self, p: tuple[float, float]) -> None:
        self.contours.append([p])

    def _lineTo(self, p: tuple[float, float]) -> None:
        self.contours[-1].append(p)
        self.nodes += 1

    def _curveToOne(self, a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> None:
        start = np.array(self.contours[-1][-1])
        curve = points_at(np.array([[start, a, b, c]]), np.linspace(0, 1, 61))[0, 1:]
        self.contours[-1] += [tuple(p) for p in curve]
        self.nodes += 1


def glyph(character: str, cap_px: float, path: Path = FONT) -> tuple[Polygon | shapely.MultiPolygon, int]:
    """A character whose capitals are cap_px high, y down, and how many nodes its own outline has."""
    font = TTFont(path)
    pen = _Outline()
    glyphs = font.getGlyphSet()
    glyphs[font.getBestCmap()[ord(character)]].draw(pen)
    scale = cap_px / font["OS/2"].sCapHeight
    shape = shapely.Polygon()
    for contour in pen.contours:
        shape = shape.symmetric_difference(Polygon(contour).buffer(0))
    return affinity.scale(shape, scale, -scale, origin=(0, 0)), pen.nodes
