"""Files: how far lines lie off what was meant in each kind, read by other libraries, and how long writing and comparing takes.

Run from the project's root: make files.
"""

from __future__ import annotations

import io
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pikepdf
import shapely
from svgelements import SVG
from svgelements import Path as SvgPath

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bisectum.core.formats.exporters import EXPORTERS, export
from bisectum.core.formats.lines import lines_of
from bisectum.core.model.artwork import Artwork, Piece
from tests.core.test_files import from_hpgl, from_r12, from_r2000
from tests.core.test_files import make as small
from tests.support.mats import artwork, mixed


def many(layers: int, segments: int) -> Artwork:
    """Letters and shapes in so many layers, so many segments in all."""
    each = segments // layers
    pieces: list[Piece] = []
    while sum(len(ring.segments) for piece in pieces for ring in piece.rings) < each:
        right = max((float(piece.outline.segments[..., 0].max()) for piece in pieces), default=0.0)
        shift = np.array([[1.0, 0.0, right + 5], [0.0, 1.0, 0.0]])
        pieces += [piece.placed(shift) for piece in mixed(10, 7 + len(pieces))]
    corner = np.concatenate([piece.outline.segments for piece in pieces]).max(axis=(0, 1)) + 5
    layer = artwork(tuple(pieces)).layers[0]
    own = tuple(replace(layer, key=f"#0000{number:02x}", name=f"Layer {number + 1}") for number in range(layers))
    return replace(artwork(tuple(pieces)), layers=own, width=float(corner[0]), height=float(corner[1]))


def farthest_in_svg(data: bytes, make: Artwork) -> float:
    """By svgelements, mm."""
    scale = 25.4 / 96
    wanted = shapely.union_all([shapely.LineString(line.points(0.0005)) for line in lines_of(make)])
    shapely.prepare(wanted)
    most = 0.0
    for element in SVG.parse(io.BytesIO(data), reify=True, ppi=96).elements():
        if isinstance(element, SvgPath):
            for segment in element:
                if segment.start is not None and segment.end is not None:
                    points = np.array([[segment.point(t).x, segment.point(t).y] for t in np.linspace(0, 1, 9)]) * scale
                    most = max(most, float(shapely.distance(shapely.points(points), wanted).max()))
    return most


def size_of_pdf(data: bytes) -> tuple[float, float]:
    """By pikepdf, mm."""
    with pikepdf.open(io.BytesIO(data)) as document:
        box = [float(side) for side in document.pages[0].mediabox]
    return box[2] / 72 * 25.4, box[3] / 72 * 25.4


def main() -> None:
    make = small()
    print(f"svg, by svgelements: farthest {farthest_in_svg(export('svg', make, 'Sheet'), make):.4f} mm")
    width, height = size_of_pdf(export("pdf", make, "Sheet"))
    print(f"pdf, by pikepdf: {abs(width - make.width):.5f} and {abs(height - make.height):.5f} mm off its size")
    for kind, read in (("dxf", from_r12), ("dxfcurves", from_r2000), ("hpgl", from_hpgl)):
        wanted = shapely.union_all([shapely.LineString(line.points(0.0005)) for line in lines_of(make)])
        places = np.concatenate([points for _, points, _ in read(export(kind, make, "Sheet"))]) * [1, -1] + [0, make.height]
        print(f"{kind}, by a reader of its own: farthest {float(shapely.distance(shapely.points(places), wanted).max()):.4f} mm")
    large = many(20, 10_000)
    print(f"20 layers, {large.node_count} segments:")
    for kind in EXPORTERS:
        began = time.perf_counter()
        data = export(kind, large, "Sheet")
        print(f"  {kind}: {time.perf_counter() - began:.2f} s, {len(data) / 1e6:.2f} MB")


if __name__ == "__main__":
    main()
