"""The stand-in scanner as the shelf sees it: what lies on its glass, a first look, and a scan as a picture file.

A folder lies on the glass beside the demo's originals: whatever pictures are in it can be scanned.
"""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from bisectum.core.errors import BisectumError, NotFoundError, SettingsError
from bisectum.core.text import one_line
from bisectum.core.units import MM_PER_INCH
from bisectum.services.decode import MOST_BYTES, WORKING_PX, decode
from bisectum.services.files import write_whole
from bisectum.stand_ins.scanner.glass import HEIGHT_MM, WIDTH_MM, Original, laid
from bisectum.stand_ins.scanner.scanner import Area, scan, size_of

DPIS = (75, 150, 300, 600, 1200)
LOOK_DPI = 50
MOST_OWN = 12
ORIGINALS = (("Printed mark", "printed-mark.png"), ("Tide note", "tide-note.jpg"), ("Crate plan", "lunch-crate.png"))
PAPER = np.array([255, 255, 255])  # under a picture that is see-through


@dataclass(frozen=True, slots=True)
class _Seen:
    """A file as it was when it was last read."""

    stamp: tuple[int, int]
    original: Original | None


class Scanner:
    def __init__(self, pictures: Path | None, glass: Path) -> None:
        """pictures: the demo's, where they are. glass: the folder of the person's own."""
        self._pictures, self._glass = pictures, glass
        self._seen: dict[Path, _Seen] = {}

    def originals(self) -> tuple[Original, ...]:
        """What lies on the glass."""
        return laid(self._found())

    def look(self) -> bytes:
        """A PNG of the whole glass at LOOK_DPI."""
        return _png(scan(self.originals(), (0.0, 0.0, WIDTH_MM, HEIGHT_MM), LOOK_DPI), LOOK_DPI)

    def scan(self, area: Area, dpi: int, grey: bool) -> tuple[str, bytes]:
        """A name and a PNG of an area of the glass, x, y, width, height in mm. Raises: SettingsError."""
        width, height = size_of(area, dpi)
        if width * height > WORKING_PX:
            most = int(MM_PER_INCH * (WORKING_PX / (area[2] * area[3])) ** 0.5)
            raise SettingsError(
                f"This scan would have {width * height / 1e6:.0f} million pixels; {WORKING_PX // 10**6} million are the most. "
                f"Take a smaller area, or at most {most} dpi.", code="scan_too_large", millions=round(width * height / 1e6),
                most=WORKING_PX // 10**6, dpi=most)
        originals = self.originals()
        return f"{_name_of(originals, area)}.png", _png(scan(originals, area, dpi, grey), dpi)

    def put(self, data: bytes, file_name: str) -> None:
        """Put a picture onto the glass. Raises: PictureError where it cannot be read, SettingsError where there is no room."""
        decode(data)
        if len(self._own_files()) >= MOST_OWN:
            raise SettingsError(f"There is room for {MOST_OWN} pictures of your own on the glass. Take one off first.",
                                code="glass_full", most=MOST_OWN)
        told = Path(one_line(file_name))
        stem = re.sub(r"[^\w -]", "", told.stem).strip()[:60] or "Picture"
        names = {path.stem for path in self._own_files()}
        name = next(own for own in (stem, *(f"{stem} {number}" for number in range(2, MOST_OWN + 2))) if own not in names)
        self._glass.mkdir(parents=True, exist_ok=True)
        write_whole(self._glass / f"{name}{told.suffix[:6].lower()}", data)
        if not any(one.own and one.name == name for one in self.originals()):
            self.take_off(name)
            raise SettingsError("There is no room left for this on the glass. Take something off first.", code="glass_full",
                                most=MOST_OWN)

    def take_off(self, name: str) -> None:
        """Take one of the person's own pictures off the glass. Raises: NotFoundError."""
        path = next((path for path in self._own_files() if path.stem == name), None)
        if path is None:
            raise NotFoundError("This picture does not lie on the glass.", code="original_missing")
        path.unlink(missing_ok=True)

    def _own_files(self) -> list[Path]:
        """In the order in which they were put there: what comes later never pushes another one off."""
        if not self._glass.is_dir():
            return []
        found = [path for path in self._glass.iterdir()
                 if path.is_file() and not path.name.startswith(".") and path.stat().st_size <= MOST_BYTES]
        return sorted(found, key=lambda path: (path.stat().st_mtime_ns, path.name))

    def _found(self) -> Iterator[Original]:
        """The person's own first; the demo's make room for them."""
        for path in self._own_files()[:MOST_OWN]:
            if one := self._read(path, path.stem, own=True):
                yield one
        for name, file in ORIGINALS:
            shipped = self._pictures / file if self._pictures is not None else None
            if shipped is not None and shipped.exists() and (one := self._read(shipped, name, own=False)):
                yield one

    def _read(self, path: Path, name: str, own: bool) -> Original | None:
        """A file of the folder that is no picture does not lie there."""
        state = path.stat()
        stamp = (state.st_mtime_ns, state.st_size)
        seen = self._seen.get(path)
        if seen is None or seen.stamp != stamp:
            seen = self._seen[path] = _Seen(stamp, _original(path, name, own))
        return seen.original


def _original(path: Path, name: str, own: bool) -> Original | None:
    try:
        source, _ = decode(path.read_bytes())
    except (BisectumError, OSError):
        return None
    alpha = source.rgba[..., 3:].astype(np.float32) / 255
    pixels = (source.rgba[..., :3] * alpha + PAPER * (1 - alpha) + 0.5).astype(np.uint8)
    return Original(name, pixels, source.natural_mm_per_px, own=own)


def _name_of(originals: tuple[Original, ...], area: Area) -> str:
    """What a scan is called: after the original that takes up most of it."""
    def shared(one: Original) -> float:
        across = min(one.x + one.width, area[0] + area[2]) - max(one.x, area[0])
        down = min(one.y + one.height, area[1] + area[3]) - max(one.y, area[1])
        return max(0.0, across) * max(0.0, down)

    largest = max(originals, key=shared, default=None)
    return largest.name if largest is not None and shared(largest) > 0 else "Scan"


def _png(pixels: NDArray[np.uint8], dpi: int) -> bytes:
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "PNG", dpi=(dpi, dpi), compress_level=1)
    return file.getvalue()
