"""PNG of what is made up: see-through where nothing is cut, at a resolution that the file tells (pHYs, PNG 3rd edition,
11.3.4.3)."""

from __future__ import annotations

import struct
import zlib

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import flatten
from bisectum.core.model.artwork import Artwork
from bisectum.core.units import MM_PER_INCH

DPI = 300
FINER = 4  # times as many rows and columns are painted as there are
MOST_PX = 60_000_000
LINE_MM = 0.1
BAND_PX = 512  # rows at once
SIGNATURE_AND_HEADER = 8 + 25  # bytes before further chunks may come


def dpi_of(artwork: Artwork, wanted: int = DPI) -> int:
    """As many dots to the inch as are wanted, or as MOST_PX allows of a large make."""
    most = (MOST_PX / (artwork.width * artwork.height)) ** 0.5 * MM_PER_INCH
    return max(1, min(wanted, int(most)))


def size_px(artwork: Artwork, dpi: int) -> tuple[int, int]:
    """Width and height."""
    px_per_mm = dpi / MM_PER_INCH
    return max(1, round(artwork.width * px_per_mm)), max(1, round(artwork.height * px_per_mm))


def write_png(artwork: Artwork, wanted: int = DPI) -> bytes:
    """The artwork as PNG. wanted: dots to the inch, fewer of a very large make."""
    dpi = dpi_of(artwork, wanted)
    width, height = size_px(artwork, dpi)
    scale = dpi / MM_PER_INCH * FINER
    drawn = [_drawn(artwork, number, scale) for number in range(len(artwork.layers))]
    pixels = np.concatenate([_band(artwork, drawn, top, min(BAND_PX, height - top), width, scale)
                             for top in range(0, height, BAND_PX)])
    return packed_png(pixels, dpi)


def packed_png(pixels: NDArray[np.uint8], dpi: float) -> bytes:
    """pixels : (H, W, 4) uint8, red first, straight alpha."""
    plain = cv2.imencode(".png", cv2.cvtColor(pixels, cv2.COLOR_RGBA2BGRA))[1].tobytes()
    per_metre = round(dpi / MM_PER_INCH * 1000)
    body = b"pHYs" + struct.pack(">IIB", per_metre, per_metre, 1)
    chunk = struct.pack(">I", 9) + body + struct.pack(">I", zlib.crc32(body))
    return plain[:SIGNATURE_AND_HEADER] + chunk + plain[SIGNATURE_AND_HEADER:]


def _drawn(artwork: Artwork, number: int, scale: float) -> tuple[list[list[NDArray[np.float64]]], list[NDArray[np.float64]]]:
    """Outlines of the pieces of a layer, and its strokes, in fine px."""
    layer = artwork.layers[number]
    pieces = [[flatten(ring.segments, 0.2 / scale) * scale for ring in piece.rings] for piece in layer.pieces]
    lines = [np.concatenate([flatten(stroke.segments, 0.2 / scale), stroke.segments[-1:, 3]]) * scale for stroke in layer.strokes]
    return pieces, lines


def _band(
    artwork: Artwork, drawn: list[tuple[list[list[NDArray[np.float64]]], list[NDArray[np.float64]]]], top: int, rows: int,
    width: int, scale: float,
) -> NDArray[np.uint8]:
    """Some rows: of each pixel the mean of its fine ones, weighted by how much they cover."""
    fine = np.zeros((rows * FINER, width * FINER, 4), np.uint8)
    shift = np.array([0.0, top * FINER])
    for layer, (pieces, lines) in zip(artwork.layers, drawn, strict=True):
        paint = (*layer.rgb, 255)
        for rings in pieces:
            cv2.fillPoly(fine, [_fixed(ring - shift) for ring in rings], paint, cv2.LINE_8, 6)
        for line in lines:
            cv2.polylines(fine, [_fixed(line - shift)], False, paint, max(1, round(LINE_MM * scale)), cv2.LINE_8, 6)
    mean = cv2.resize(fine, (width, rows), interpolation=cv2.INTER_AREA)  # colours in it are weighted by what they cover
    partly = (mean[..., 3] > 0) & (mean[..., 3] < 255)
    mean[partly, :3] = np.minimum(255, mean[partly, :3].astype(np.uint32) * 255 // mean[partly, 3:])
    return np.asarray(mean, np.uint8)


def _fixed(points: NDArray[np.float64]) -> NDArray[np.int32]:
    """In 64ths of a pixel; pixels are named by their middles."""
    return np.round((points - 0.5) * 64).astype(np.int32)
