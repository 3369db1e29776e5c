"""The fonts there are: shipped ones, each in files for ranges of characters, and the person's own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Literal

from bisectum.core.errors import NotFoundError, SettingsError
from bisectum.core.items.lettering import look_at_font
from bisectum.core.job import LONGEST_NAME, JobDocument, LetteringItem
from bisectum.store.blobs import Blobs
from bisectum.store.fonts import OwnFont, OwnFonts
from bisectum.worker.door import through_the_door

MOST_BYTES = 20_000_000
FOLDER = Path(__file__).resolve().parents[1] / "fonts"
RANGES = ("latin", "latin-ext", "cyrillic", "greek", "hebrew", "arabic")
Style = Literal["plain", "slab", "round", "script", "stencil", "display", "handwritten", "own"]


@dataclass(frozen=True, slots=True)
class ShippedFont:
    """A font that comes with Bisectum. id: its folder's name."""

    id: str
    name: str
    style: Style


SHIPPED = (
    ShippedFont("nunito", "Nunito", "round"), ShippedFont("varela-round", "Varela Round", "round"),
    ShippedFont("noto-sans", "Noto Sans", "plain"), ShippedFont("rubik", "Rubik", "plain"),
    ShippedFont("bebas-neue", "Bebas Neue", "plain"), ShippedFont("zilla-slab", "Zilla Slab", "slab"),
    ShippedFont("alfa-slab-one", "Alfa Slab One", "slab"), ShippedFont("pacifico", "Pacifico", "script"),
    ShippedFont("lobster", "Lobster", "script"), ShippedFont("dancing-script", "Dancing Script", "script"),
    ShippedFont("stardos-stencil", "Stardos Stencil", "stencil"), ShippedFont("righteous", "Righteous", "display"),
    ShippedFont("abril-fatface", "Abril Fatface", "display"), ShippedFont("amiri", "Amiri", "display"),
    ShippedFont("caveat", "Caveat", "handwritten"), ShippedFont("patrick-hand", "Patrick Hand", "handwritten"),
)


def is_shipped(font: str) -> bool:
    return any(one.id == font for one in SHIPPED)


@cache
def shipped_files(font: str) -> tuple[bytes, ...]:
    """The files of a shipped font, the commonest characters first; none for one that is not there."""
    if not is_shipped(font):
        return ()
    return tuple((FOLDER / font / f"{name}.ttf").read_bytes() for name in RANGES if (FOLDER / font / f"{name}.ttf").exists())


@cache
def _own_file(path: Path) -> bytes:
    return path.read_bytes()


def files_of(document: JobDocument, own: Mapping[str, Path]) -> dict[str, Sequence[bytes]]:
    """The files of all fonts that a job uses. own: where those of the person's own lie, by digest."""
    names = {item.made.font for item in document.items if isinstance(item, LetteringItem)}
    return {name: (_own_file(own[name]),) if name in own else shipped_files(name) for name in names}


class FontCase:
    """The fonts a person can choose from."""

    def __init__(self, own: OwnFonts, blobs: Blobs) -> None:
        self._own, self._blobs = own, blobs

    def all(self) -> list[ShippedFont]:
        """The person's own first, then those that are shipped."""
        return [*(ShippedFont(font.sha256, font.name, "own") for font in self._own.all()), *SHIPPED]

    def bring_in(self, data: bytes, file_name: str) -> ShippedFont:
        """A font of the person's own. Raises: SettingsError for a file that is none; then nothing has been kept."""
        if len(data) > MOST_BYTES:
            raise SettingsError("This font file is larger than 20 MB; use one for fewer scripts.", code="font_too_large")
        through_the_door(look_at_font, data)
        name = file_name.rsplit("/", 1)[-1].rsplit(".", 1)[0].replace("_", " ").strip()[:LONGEST_NAME] or "My font"
        with self._blobs.held(data) as (digest,):
            self._own.add(OwnFont(digest, name))
        return ShippedFont(digest, name, "own")

    def data(self, font: str) -> bytes:
        """The bytes of a font's first file, to show it on the screen. Raises: NotFoundError."""
        files = shipped_files(font)
        if files:
            return files[0]
        if any(own.sha256 == font for own in self._own.all()):
            return self._blobs.path(font).read_bytes()
        raise NotFoundError("This font is not there.", code="font_missing")
