"""Vector files as ready lines, by what they hold and not by what they are called."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import InputError
from bisectum.core.model.ready_lines import ReadyLines

MOST_SEGMENTS = 20_000  # that are laid over each other in seconds
FARTHEST_MM = 100_000.0


def is_vector(data: bytes) -> bool:
    """Whether this looks like SVG or DXF."""
    return _is_svg(data) or is_dxf(data)


def lines_in(data: bytes) -> ReadyLines:
    """Raises: InputError where the file cannot be read, or a place in it is no number or out of this world."""
    try:
        return _lines_in(data)
    except (InputError, MemoryError):
        raise
    except Exception as error:  # whatever the libraries that read it stumble on
        raise InputError(f"This file is damaged and cannot be read ({type(error).__name__}). Save it anew, as plain SVG or as "
                         "ASCII DXF.", code="lines_damaged") from error


def _lines_in(data: bytes) -> ReadyLines:
    if _is_svg(data):
        from bisectum.core.formats.ready.svg import lines_of_svg

        lines = lines_of_svg(data)
    elif is_dxf(data):
        from bisectum.core.formats.ready.dxf import lines_of_dxf

        lines = lines_of_dxf(data)
    else:
        raise InputError("This is neither SVG nor DXF.", code="lines_unknown")
    for places in (*(path.segments for path in lines.paths), *([np.array(lines.page)] if lines.page else [])):
        refuse_far(places)
    return lines


def refuse_far(places: NDArray[np.float64]) -> None:
    """Raises: InputError where one is no number, or farther away than anything that is cut."""
    if not (np.abs(places) <= FARTHEST_MM).all():
        raise InputError("A place in this file is no number, or lies more than 100 m away. Save it anew, at its real size.",
                         code="lines_far_away")


def read_lines(data: bytes) -> ReadyLines:
    """Raises: InputError where the file cannot be read, holds no lines, or too many."""
    lines = lines_in(data)
    if not lines.paths:
        raise InputError("There are no lines in this file: text must be turned into paths before it is saved, and pictures in "
                         "it are not taken.", code="lines_empty")
    if lines.segment_count > MOST_SEGMENTS:
        raise InputError(f"This file has {lines.segment_count} segments; {MOST_SEGMENTS} are the most. Save it with fewer nodes, "
                         "or in parts.", code="lines_too_many", count=lines.segment_count, most=MOST_SEGMENTS)
    return lines


def _is_svg(data: bytes) -> bool:
    head = data[:4000].lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    return head.startswith((b"<?xml", b"<svg", b"<!--", b"<!doctype svg")) and b"<svg" in data[:200_000].lower()


def is_dxf(data: bytes) -> bool:
    """Whether this looks like DXF."""
    if data.startswith(b"AutoCAD Binary DXF"):
        return True
    lines = data[:400].decode("latin-1").splitlines()
    return len(lines) > 1 and [line.strip() for line in lines[:2]] in (["0", "SECTION"], ["999", lines[1].strip()])
