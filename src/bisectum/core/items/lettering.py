"""Words as rings: shaped by HarfBuzz with the font's own rules, laid along a line, an arc or a circle.

Kerning, ligatures, marks and the direction of writing are the font's and HarfBuzz's. A font may come in several files, one
for each range of characters; a run of characters is shaped with the first file that has them all.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.items.ready import Rings
from bisectum.core.items.settings import Lettering

MOST_SEGMENTS = 40_000  # of one lettering: a thousand letters of an ornate script
LOOKED_AT = 300  # characters of a font, of which one at least has an outline
Fonts = Mapping[str, Sequence[bytes]]
"""The files of each font, by the font's name or digest."""


@dataclass(frozen=True, slots=True)
class _Glyph:
    """A glyph as it is placed on its line. x: where it begins, units of the line; advance: how far the line goes on."""

    file: int
    number: int
    x: float
    y: float
    advance: float


class Face:
    """A font's file, opened."""

    def __init__(self, data: bytes) -> None:
        import uharfbuzz as hb

        self.face = hb.Face(data)
        self.font = hb.Font(self.face)
        self.upem = float(self.face.upem)
        self._characters = set(self.face.unicodes)
        if not self.face.glyph_count or not self._characters:
            raise SettingsError("This file is no font that can be used; choose a TrueType or OpenType font (.ttf, .otf).",
                                code="no_font")
        self._drawn: dict[int, Rings] = {}
        known = (self.font.get_nominal_glyph(character) for character in sorted(self._characters)[:LOOKED_AT])
        if not any(len(self.outline(glyph)[0]) for glyph in known if glyph is not None):
            raise SettingsError("This font file is damaged; get it anew, or choose another font.", code="font_damaged")

    def has(self, character: str) -> bool:
        return ord(character) in self._characters or unicodedata.category(character) in ("Cf", "Mn")

    @property
    def capital(self) -> float:
        """The height of the capitals, in the font's units: that of an H, else of what is there."""
        for character in "HIx":
            if ord(character) in self._characters:
                segments = self.outline(self.font.get_nominal_glyph(ord(character)))[0]
                if len(segments):
                    return float(np.ptp(segments[:, [0, 3], 1]))
        return 0.7 * self.upem

    def outline(self, glyph: int) -> Rings:
        """A glyph's rings in the font's units, y down."""
        if glyph not in self._drawn:
            pen = _Outline()
            self.font.draw_glyph_with_pen(glyph, pen)
            self._drawn[glyph] = pen.rings()
        return self._drawn[glyph]


class _Outline:
    """Takes down what HarfBuzz draws, as cubics."""

    def __init__(self) -> None:
        self.segments: list[list[tuple[float, float]]] = []
        self.straight: list[bool] = []
        self.at = self.start = (0.0, 0.0)

    def moveTo(self, p: tuple[float, float]) -> None:
        self.at = self.start = p

    def lineTo(self, p: tuple[float, float]) -> None:
        if p != self.at:
            (x0, y0), (x1, y1) = self.at, p
            self.segments.append([self.at, (x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3),
                                  (x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3), p])
            self.straight.append(True)
            self.at = p

    def qCurveTo(self, c: tuple[float, float], p: tuple[float, float]) -> None:
        (x0, y0), (x1, y1), (x2, y2) = self.at, c, p
        self.curveTo((x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3), (x2 + (x1 - x2) * 2 / 3, y2 + (y1 - y2) * 2 / 3), p)

    def curveTo(self, a: tuple[float, float], b: tuple[float, float], p: tuple[float, float]) -> None:
        if not (a == self.at == b == p):
            self.segments.append([self.at, a, b, p])
            self.straight.append(False)
            self.at = p

    def closePath(self) -> None:
        self.lineTo(self.start)

    def endPath(self) -> None:
        self.lineTo(self.start)

    def rings(self) -> Rings:
        if not self.segments:
            return np.empty((0, 4, 2)), np.empty(0, bool)
        return np.array(self.segments, float) * [1.0, -1.0] + 0.0, np.array(self.straight)


@lru_cache(maxsize=64)
def opened(data: bytes) -> Face:
    """A font's file, kept open. Raises: SettingsError for one that cannot be used."""
    try:
        return Face(data)
    except SettingsError:
        raise
    except Exception as error:  # whatever HarfBuzz says of a damaged file
        raise SettingsError("This font file is damaged; get it anew, or choose another font.", code="font_damaged") from error


def look_at_font(data: bytes) -> None:
    """Raises: SettingsError for a font that cannot be used."""
    opened(data)


def missing_characters(text: str, files: Sequence[bytes]) -> str:
    """The characters of a text that no file of the font has, each once, in order."""
    faces = [opened(data) for data in files]
    wanted = dict.fromkeys(c for c in text if not c.isspace())
    return "".join(c for c in wanted if not any(face.has(c) for face in faces))


def lettering_rings(lettering: Lettering, fonts: Fonts) -> tuple[Rings, str]:
    """The rings of words, and the characters that the font lacks, which are left out.

    Raises: SettingsError where the font is missing, or has none of the characters.
    """
    files = fonts.get(lettering.font)
    if not files:
        raise SettingsError("The font of this lettering is no longer there; choose another one.", code="font_missing")
    faces = [opened(data) for data in files]
    missing = missing_characters(lettering.text, files)
    scale = lettering.capital_mm / faces[0].capital * faces[0].upem  # mm an em
    lines = [_line("".join(c for c in text if c not in missing), faces, lettering.spacing_mm / scale)
             for text in lettering.text.split("\n")]
    if not any(lines):
        raise SettingsError(f"The font has none of these characters: {missing}. Choose another font.",
                            code="characters_missing", characters=missing)
    extents = faces[0].font.get_font_extents("ltr")
    height = (extents.ascender - extents.descender + extents.line_gap) / faces[0].upem * lettering.line_height * scale
    parts: list[Rings] = []
    widths = [sum(glyph.advance for glyph in line) for line in lines]
    for number, (line, width) in enumerate(zip(lines, widths, strict=True)):
        share = {"left": 0.0, "middle": 0.5, "right": 1.0}[lettering.align]
        start = (max(widths) - width) * share - max(widths) / 2
        for glyph in line:
            segments, straight = faces[glyph.file].outline(glyph.number)
            if len(segments):
                em = faces[glyph.file].upem
                own = segments / em + [glyph.x, -glyph.y]
                parts.append((_laid(own * scale, glyph, start * scale, number * height, scale, lettering), straight))
            if sum(len(part) for part, _ in parts) > MOST_SEGMENTS:
                finest = _finest(lettering.text, faces)
                raise SettingsError(f"The outlines of this lettering have more than {MOST_SEGMENTS} segments, most of them in "
                                    f"“{finest}”. Choose a plainer font, or write less.", code="lettering_too_fine",
                                    most=MOST_SEGMENTS, characters=finest)
    if not parts:
        raise SettingsError("There is nothing to cut in these characters; write others.", code="nothing_to_letter")
    return (np.concatenate([part[0] for part in parts]), np.concatenate([part[1] for part in parts])), missing


def _finest(text: str, faces: list[Face]) -> str:
    """The characters with the most segments: at most five, and none with less than half of the first one's."""
    def segments(character: str) -> int:
        face = next((face for face in faces if face.has(character)), None)
        return len(face.outline(face.font.get_nominal_glyph(ord(character)))[0]) if face is not None else 0

    ranked = sorted(dict.fromkeys(text), key=segments, reverse=True)[:5]
    return "".join(one for one in ranked if 2 * segments(one) >= segments(ranked[0]))


def _line(text: str, faces: list[Face], spacing: float) -> list[_Glyph]:
    """The glyphs of one line, x in ems from its beginning."""
    import uharfbuzz as hb

    runs = _runs(text, faces)
    if _writes_backwards(text):
        runs = runs[::-1]
    result: list[_Glyph] = []
    at = 0.0
    for file, run in runs:
        buffer = hb.Buffer()
        buffer.add_str(run)
        buffer.guess_segment_properties()
        hb.shape(faces[file].font, buffer)
        em = faces[file].upem
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            advance = position.x_advance / em + (spacing if position.x_advance else 0.0)
            result.append(_Glyph(file, info.codepoint, at + position.x_offset / em, position.y_offset / em, advance))
            at += advance
    return result


def _writes_backwards(text: str) -> bool:
    """Whether the first letter that has a direction is written from right to left (rule P2 of Unicode's UAX #9)."""
    for character in text:
        direction = unicodedata.bidirectional(character)
        if direction in ("L", "R", "AL"):
            return direction != "L"
    return False


def _runs(text: str, faces: list[Face]) -> list[tuple[int, str]]:
    """Stretches of characters that one file has, and that are written in one direction."""
    runs: list[tuple[int, bool, str]] = []
    for character in text:
        file = next((number for number, face in enumerate(faces) if face.has(character)), 0)
        direction = unicodedata.bidirectional(character)
        backwards = direction in ("R", "AL")
        neutral = direction not in ("L", "R", "AL", "EN", "AN")
        if runs and ((neutral and faces[runs[-1][0]].has(character)) or (runs[-1][0] == file and runs[-1][1] == backwards)):
            runs[-1] = (runs[-1][0], runs[-1][1], runs[-1][2] + character)
        else:
            runs.append((file, backwards if not neutral else (runs[-1][1] if runs else False), character))
    return [(file, text) for file, _, text in runs]


def _laid(
    segments: NDArray[np.float64], glyph: _Glyph, start: float, down: float, scale: float,
    lettering: Lettering,
) -> NDArray[np.float64]:
    """A glyph's segments, mm along the line, brought to where they belong. Along a bend each glyph is turned as a whole."""
    if lettering.along == "straight":
        return segments + np.array([start, down])
    middle = (glyph.x + glyph.advance / 2) * scale
    radius = lettering.radius_mm - down if not lettering.inward else lettering.radius_mm + down
    if radius < 0.5:
        raise SettingsError("So many lines have no room in so small a circle; make it larger.", code="circle_too_small")
    angle = (start + middle) / radius
    turn = -angle if lettering.inward else angle  # clockwise as seen
    foot = radius * np.array([np.sin(angle), np.cos(angle) if lettering.inward else -np.cos(angle)])
    c, s = np.cos(turn), np.sin(turn)
    return (segments - [middle, 0]) @ np.array([[c, s], [-s, c]]) + foot
