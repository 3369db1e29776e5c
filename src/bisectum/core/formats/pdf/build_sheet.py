"""The build sheet: a page or more to print that says what is cut of what, and how it comes together."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from bisectum.core.geom.path import Path
from bisectum.core.model.artwork import Artwork

Paper = Literal["a4", "letter"]
PAPERS: dict[Paper, tuple[float, float]] = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
PT = 72 / 25.4
EDGE, LINE = 15.0, 5.2  # mm: of the paper that stays free; from line to line of text
PICTURE_MM, SMALL_MM, SHEET_MM = 78.0, 16.0, 42.0  # heights of the make, of a layer and of a sheet
INK, SOFT, HAIR = (0.12, 0.12, 0.14), (0.4, 0.4, 0.43), (0.75, 0.73, 0.7)
Rgb = tuple[int, int, int]


@dataclass(frozen=True, slots=True, eq=False)
class Part:
    """A row with a small picture: a layer or a sheet. lines: the first is what it is."""

    artwork: Artwork
    lines: tuple[str, ...]


@dataclass(frozen=True, slots=True, eq=False)
class BuildSheet:
    """title, about: what it is; artwork: the make, on its cloth; layers, sheets: in their order; sections: a heading with its
    lines each; notes: the heading over room to write."""

    title: str
    about: tuple[str, ...]
    artwork: Artwork
    cloth: Rgb
    layers_title: str
    layers: tuple[Part, ...]
    sheets_title: str
    sheets: tuple[Part, ...]
    sections: tuple[tuple[str, tuple[str, ...]], ...]
    notes: str


def write_build_sheet(sheet: BuildSheet, paper: Paper, fonts: Sequence[bytes]) -> bytes:
    """fonts: TrueType files of one face, each for some of the characters, the commonest first."""
    return _Writer(sheet, PAPERS[paper], fonts).whole()


class _Writer:
    """Puts things below each other, and begins a new page where one is full. Places are mm from the upper left corner."""

    def __init__(self, sheet: BuildSheet, size: tuple[float, float], fonts: Sequence[bytes]) -> None:
        from reportlab.pdfbase import pdfmetrics
        from reportlab.pdfbase.ttfonts import TTFont
        from reportlab.pdfgen.canvas import Canvas

        self.sheet, (self.width, self.height) = sheet, size
        self.faces: list[tuple[str, Any]] = []
        for number, data in enumerate(fonts):
            face = TTFont(f"Face{number}", io.BytesIO(data))
            pdfmetrics.registerFont(face)
            self.faces.append((face.fontName, face.face.charToGlyph))
        self.buffer = io.BytesIO()
        self.canvas = Canvas(self.buffer, pagesize=(self.width * PT, self.height * PT), invariant=1)
        self.canvas.setTitle(sheet.title)
        self.y = EDGE

    def whole(self) -> bytes:
        sheet = self.sheet
        self._text(sheet.title, 18)
        self.y += LINE * 1.4
        for line in sheet.about:
            self._text(line, 10, colour=SOFT)
            self.y += LINE
        self.y += 2
        room = self.width - 2 * EDGE
        self._picture(sheet.artwork, EDGE, self.y, room, PICTURE_MM, sheet.cloth)
        self.y += PICTURE_MM + 6
        self._heading(sheet.layers_title)
        for part in sheet.layers:
            self._row(part, SMALL_MM)
        for heading, lines in sheet.sections:
            self._heading(heading)
            for line in lines:
                self._paragraph(line)
        if sheet.sheets:
            self._heading(sheet.sheets_title)
            for part in sheet.sheets:
                self._row(part, SHEET_MM)
        self._heading(sheet.notes)
        self._room(3 * 8)
        while self.y + 8 < self.height - EDGE:
            self.y += 8
            self._rule(self.y)
        self.canvas.showPage()
        self.canvas.save()
        return self.buffer.getvalue()

    def _room(self, height: float) -> None:
        if self.y + height > self.height - EDGE:
            self.canvas.showPage()
            self.y = EDGE

    def _heading(self, text: str) -> None:
        self._room(LINE * 2 + SMALL_MM)
        self.y += 2
        self._text(text, 12)
        self.y += LINE * 1.2
        self._rule(self.y - 1.5)
        self.y += 1.5

    def _rule(self, y: float) -> None:
        self.canvas.setStrokeColorRGB(*HAIR)
        self.canvas.setLineWidth(0.4)
        self.canvas.line(EDGE * PT, (self.height - y) * PT, (self.width - EDGE) * PT, (self.height - y) * PT)

    def _row(self, part: Part, high: float) -> None:
        self._room(high + 3)
        wide = high * 1.5
        self._picture(part.artwork, EDGE, self.y, wide, high, None)
        top = self.y + max(0.0, (high - LINE * len(part.lines)) / 2)
        for number, line in enumerate(part.lines):
            self._text(line, 10 if number == 0 else 9, colour=INK if number == 0 else SOFT, x=EDGE + wide + 5,
                       y=top + number * LINE)
        self.y += high + 3

    def _paragraph(self, text: str) -> None:
        """Words, in as many lines as it takes."""
        line = ""
        for word in text.split():
            if line and self._wide(f"{line} {word}", 10) > self.width - 2 * EDGE:
                self._line(line)
                line = word
            else:
                line = f"{line} {word}".strip()
        self._line(line)

    def _line(self, text: str) -> None:
        self._room(LINE)
        self._text(text, 10)
        self.y += LINE

    def _text(
        self, text: str, size: float, colour: tuple[float, float, float] = INK, x: float = EDGE,
        y: float | None = None,
    ) -> None:
        """Text with its upper edge at y; each run of characters in a file that has them."""
        canvas = self.canvas
        base = (self.height - (self.y if y is None else y)) * PT - size
        canvas.setFillColorRGB(*colour)
        at = x * PT
        for run, face in self._runs(self._short(text, size, x)):
            own = canvas.beginText(at, base)
            own.setFont(face, size)
            own.textOut(run)
            canvas.drawText(own)
            at += canvas.stringWidth(run, face, size)

    def _short(self, text: str, size: float, x: float) -> str:
        """No wider than the paper."""
        most = self.width - EDGE - x
        if self._wide(text, size) <= most:
            return text
        while text and self._wide(text + "…", size) > most:
            text = text[:-1]
        return text.rstrip() + "…"

    def _wide(self, text: str, size: float) -> float:
        return sum(self.canvas.stringWidth(run, face, size) for run, face in self._runs(text)) / PT

    def _runs(self, text: str) -> list[tuple[str, str]]:
        found: list[tuple[str, str]] = []
        for character in text:
            face = next((name for name, known in self.faces if ord(character) in known), self.faces[0][0])
            if found and found[-1][1] == face:
                found[-1] = (found[-1][0] + character, face)
            else:
                found.append((character, face))
        return found

    def _picture(self, artwork: Artwork, x: float, y: float, wide: float, high: float, ground: Rgb | None) -> None:
        """An artwork within a box, on the colour of its cloth where that is given."""
        scale = min(wide / artwork.width, high / artwork.height) * (0.92 if ground else 1.0)
        left = x + (wide - artwork.width * scale) / 2 if ground else x
        top = y + (high - artwork.height * scale) / 2
        canvas = self.canvas
        canvas.saveState()
        canvas.setStrokeColorRGB(*HAIR)
        canvas.setLineWidth(0.4)
        if ground is not None:
            canvas.setFillColorRGB(*(part / 255 for part in ground))
            canvas.rect(x * PT, (self.height - y - high) * PT, wide * PT, high * PT, fill=1)
        canvas.transform(PT * scale, 0, 0, -PT * scale, left * PT, (self.height - top) * PT)
        if ground is None:
            canvas.setLineWidth(0.4 / (PT * scale))
            canvas.rect(0, 0, artwork.width, artwork.height)
        for layer in artwork.layers:
            canvas.setFillColorRGB(*(part / 255 for part in layer.rgb))
            canvas.setStrokeColorRGB(*INK)
            canvas.setLineWidth(0.15 / scale)
            for piece in layer.pieces:
                self._path(piece.rings, fill=True)
            for stroke in layer.strokes:
                self._path((stroke.path,), fill=False)
        canvas.restoreState()

    def _path(self, rings: Sequence[Path], fill: bool) -> None:
        pen = _CanvasPen(self.canvas.beginPath())
        for ring in rings:
            ring.draw(pen)
        self.canvas.drawPath(pen.path, stroke=1, fill=1 if fill else 0, fillMode=0)


class _CanvasPen:
    """Draws into a path of reportlab."""

    def __init__(self, path: Any) -> None:
        self.path = path

    def move_to(self, x: float, y: float) -> None:
        self.path.moveTo(x, y)

    def line_to(self, x: float, y: float) -> None:
        self.path.lineTo(x, y)

    def curve_to(self, x1: float, y1: float, x2: float, y2: float, x: float, y: float) -> None:
        self.path.curveTo(x1, y1, x2, y2, x, y)

    def close_path(self) -> None:
        self.path.close()

    def end_path(self) -> None:
        return None
