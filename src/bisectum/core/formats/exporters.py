"""The kinds of files that can be carried to a cutter: each is written, read back and compared before it is handed over.

A new kind is a writer, a check that reads by another way than it was written, and a line here.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bisectum.core.errors import InputError
from bisectum.core.formats.hpgl.verify import verify_hpgl
from bisectum.core.formats.hpgl.write import write_hpgl
from bisectum.core.formats.lines import Form
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


# ezdxf takes half a second to load: only who wants a DXF waits for it.

def _write_dxf(artwork: Artwork, form: Form) -> bytes:
    from bisectum.core.formats.dxf.write import write_dxf

    return write_dxf(artwork, form)


def _verify_dxf(data: bytes, artwork: Artwork, form: Form) -> None:
    from bisectum.core.formats.dxf.verify import verify_dxf

    verify_dxf(data, artwork, form)


EXPORTERS: dict[str, Exporter] = {
    "svg": Exporter(
        "svg", "image/svg+xml", lambda artwork, title: write_svg(artwork, title).encode(),
        lambda data, artwork: verify_svg(data.decode(), artwork),
    ),
    "dxf": Exporter(
        "dxf", "image/vnd.dxf", lambda artwork, _: _write_dxf(artwork, "polylines"),
        lambda data, artwork: _verify_dxf(data, artwork, "polylines"),
    ),
    "dxfcurves": Exporter(
        "dxf", "image/vnd.dxf", lambda artwork, _: _write_dxf(artwork, "curves"),
        lambda data, artwork: _verify_dxf(data, artwork, "curves"),
    ),
    "hpgl": Exporter(
        "plt", "application/vnd.hp-hpgl", lambda artwork, _: write_hpgl(artwork).encode(),
        lambda data, artwork: verify_hpgl(data.decode(), artwork),
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
