"""The kinds of files that can be carried to a cutter: each is written, read back and compared before it is handed over.

A new kind is a writer, a check that reads by another way than it was written, and a line here.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bisectum.core.errors import InputError
from bisectum.core.formats.svg.verify import verify_svg
from bisectum.core.formats.svg.write import write_svg
from bisectum.core.model.artwork import Artwork


@dataclass(frozen=True, slots=True)
class Exporter:
    """write: artwork and title to the file's bytes. verify: raises ComputationError where they hold something else."""

    ending: str
    media_type: str
    write: Callable[[Artwork, str], bytes]
    verify: Callable[[bytes, Artwork], None]


EXPORTERS: dict[str, Exporter] = {
    "svg": Exporter(
        "svg", "image/svg+xml", lambda artwork, title: write_svg(artwork, title).encode(),
        lambda data, artwork: verify_svg(data.decode(), artwork),
    ),
}


def exporter(kind: str) -> Exporter:
    """Raises: InputError."""
    if kind not in EXPORTERS:
        raise InputError(f"There is no file of the kind “{kind[:20]}”; there is {', '.join(EXPORTERS)}.", code="export_unknown")
    return EXPORTERS[kind]


def export(kind: str, artwork: Artwork, title: str) -> bytes:
    """A file, compared with what was meant. Raises: InputError; ComputationError where it came out otherwise."""
    chosen = exporter(kind)
    data = chosen.write(artwork, title)
    chosen.verify(data, artwork)
    return data
