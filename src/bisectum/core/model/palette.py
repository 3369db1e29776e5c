"""The colours a picture is separated into."""

from __future__ import annotations

from dataclasses import dataclass

from bisectum.core.errors import BrokenStructure
from bisectum.core.raster.colour import hex_of
from bisectum.core.raster.colour_names import distinct_names, plain_name

MOST_COLOURS = 64


@dataclass(frozen=True, slots=True)
class Colour:
    """A palette entry. share: its part of the picture without the background, 0..1. small: kept though it is small. role: 1,
    or higher for a second layer of the same colour. given_name: by the person, empty if none. pinned: exact on request.
    tonal: one of the colours that a photograph is put into, so that it lies among them by its lightness. of_page: the ink of
    a page."""

    rgb: tuple[int, int, int]
    share: float
    small: bool = False
    role: int = 1
    given_name: str = ""
    pinned: bool = False
    tonal: bool = False
    of_page: bool = False

    @property
    def key(self) -> str:
        """What a layer of this colour is called in settings; stays the same however often the picture is traced."""
        return hex_of(self.rgb) if self.role == 1 else f"{hex_of(self.rgb)}-{self.role}"

    @property
    def name(self) -> str:
        return self.given_name or plain_name(self.rgb)


@dataclass(frozen=True, slots=True)
class Palette:
    """colours: label i + 1 of a label map is colours[i]; label 0 is the background."""

    colours: tuple[Colour, ...]
    method: str = "flat"
    found: int = 0
    """How many colours were distinct before a wanted number was met."""

    def names(self) -> tuple[str, ...]:
        """First names for the colours, none twice: "Blue", "Blue, darker"."""
        return distinct_names([(colour.name, colour.rgb) for colour in self.colours])

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong."""
        keys = [colour.key for colour in self.colours]
        if len(set(keys)) != len(keys):
            raise BrokenStructure("Two entries of a palette have the same colour.")
        if len(keys) > MOST_COLOURS:
            raise BrokenStructure(f"A palette has at most {MOST_COLOURS} colours, this one {len(keys)}.")
