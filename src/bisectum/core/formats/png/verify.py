"""Read a PNG back, and hold its pixels against what was meant."""

from __future__ import annotations

import io

import numpy as np

from bisectum.core.formats.lines import differs
from bisectum.core.formats.png.write import DPI, LINE_MM, dpi_of, size_px
from bisectum.core.model.artwork import Artwork
from bisectum.core.units import MM_PER_INCH

AROUND_PX = 1.5  # of what lies beside an edge


def verify_png(data: bytes, artwork: Artwork, wanted: int = DPI) -> None:
    """Raises: ComputationError naming what differs."""
    import cv2

    pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    dpi = dpi_of(artwork, wanted)
    width, height = size_px(artwork, dpi)
    if pixels is None or pixels.shape != (height, width, 4):
        raise differs("size", "nothing" if pixels is None else f"{pixels.shape[1]} × {pixels.shape[0]} pixels")
    at = io.BytesIO(data).getvalue().find(b"pHYs")
    told = int.from_bytes(data[at + 4 : at + 8], "big") if at > 0 else 0
    if told != round(dpi / MM_PER_INCH * 1000):
        raise differs("resolution", f"{told} pixels a metre")
    mm = MM_PER_INCH / dpi
    seen = float(pixels[..., 3].sum()) / 255 * mm**2
    edges = sum(ring.length for layer in artwork.layers for ring in layer.rings)
    lines = sum(stroke.path.length for layer in artwork.layers for stroke in layer.strokes)
    largest = max((sum(piece.area for piece in layer.pieces) for layer in artwork.layers), default=0.0)
    total = sum(piece.area for layer in artwork.layers for piece in layer.pieces)
    slack = AROUND_PX * mm * (edges + lines) + LINE_MM * lines + mm**2
    if not largest - slack <= seen <= total + slack:
        raise differs("area that is painted", f"{seen:.1f} mm²")
