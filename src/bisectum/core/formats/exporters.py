"""The kinds of files that can be carried to a cutter: each is written, read back and compared before it is handed over.

A new kind is a writer, a check that reads by another way than it was written, and a line here.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from bisectum.core.errors import InputError
from bisectum.core.formats.hpgl.verify import verify_hpgl
from bisectum.core.formats.hpgl.write import write_hpgl
from bisectum.core.formats.lines import CUT_SPOT, Form
from bisectum.core.formats.png.verify import verify_png
from bisectum.core.formats.png.write import DPI, write_png
from bisectum.core.formats.svg.verify import verify_svg
from bisectum.core.formats.svg.write import write_svg
from bisectum.core.model.artwork import Artwork


@dataclass(frozen=True, slots=True)
class Wishes:
    """dpi: of pictures; spot: what the spot colour of cut lines is called."""

    dpi: int = DPI
    spot: str = CUT_SPOT


@dataclass(frozen=True, slots=True)
class Exporter:
    """write: artwork and title to the file's bytes. verify: raises ComputationError where they hold something else. mark: in the
    names of its files, where another kind has the same ending."""

    ending: str
    media_type: str
    write: Callable[[Artwork, str, Wishes], bytes]
    verify: Callable[[bytes, Artwork, Wishes], None]
    mark: str = ""

    def named(self, stem: str) -> str:
        """What a file is called."""
        return f"{stem}{self.mark}.{self.ending}"


# ezdxf takes half a second to load: only who wants a DXF waits for it.

def _write_dxf(artwork: Artwork, form: Form) -> bytes:
    from bisectum.core.formats.dxf.write import write_dxf

    return write_dxf(artwork, form)


def _verify_dxf(data: bytes, artwork: Artwork, form: Form) -> None:
    from bisectum.core.formats.dxf.verify import verify_dxf

    verify_dxf(data, artwork, form)



def _write_pdf(artwork: Artwork, title: str, wishes: Wishes) -> bytes:
    from bisectum.core.formats.pdf.write import write_pdf

    return write_pdf(artwork, title, wishes.spot)


def _verify_pdf(data: bytes, artwork: Artwork) -> None:
    from bisectum.core.formats.pdf.verify import verify_pdf

    verify_pdf(data, artwork)


EXPORTERS: dict[str, Exporter] = {
    "svg": Exporter(
        "svg", "image/svg+xml", lambda artwork, title, _: write_svg(artwork, title).encode(),
        lambda data, artwork, _: verify_svg(data.decode(), artwork),
    ),
    "dxf": Exporter(
        "dxf", "image/vnd.dxf", lambda artwork, *_: _write_dxf(artwork, "polylines"),
        lambda data, artwork, _: _verify_dxf(data, artwork, "polylines"),
    ),
    "dxfcurves": Exporter(
        "dxf", "image/vnd.dxf", lambda artwork, *_: _write_dxf(artwork, "curves"),
        lambda data, artwork, _: _verify_dxf(data, artwork, "curves"), "-curves",
    ),
    "hpgl": Exporter(
        "plt", "application/vnd.hp-hpgl", lambda artwork, *_: write_hpgl(artwork).encode(),
        lambda data, artwork, _: verify_hpgl(data.decode(), artwork),
    ),
    "pdf": Exporter("pdf", "application/pdf", _write_pdf, lambda data, artwork, _: _verify_pdf(data, artwork)),
    "png": Exporter("png", "image/png", lambda artwork, _, wishes: write_png(artwork, wishes.dpi),
                    lambda data, artwork, wishes: verify_png(data, artwork, wishes.dpi)),
}


def exporter(kind: str) -> Exporter:
    """Raises: InputError."""
    if kind not in EXPORTERS:
        raise InputError(f"There is no file of the kind “{kind[:20]}”; there is {', '.join(EXPORTERS)}.", code="export_unknown")
    return EXPORTERS[kind]


PLAIN = Wishes()


def export(kind: str, artwork: Artwork, title: str, wishes: Wishes = PLAIN) -> bytes:
    """A file, compared with what was meant. Raises: InputError; ComputationError where it came out otherwise."""
    chosen = exporter(kind)
    data = chosen.write(artwork, title, wishes)
    chosen.verify(data, artwork, wishes)
    return data
