"""What photographs become: how near in colour, how smooth, how few pieces. Pictures are never ours.

Two thirds of them may be looked at while the methods are tuned, the last third is reported apart. Run: make photos.
"""

from __future__ import annotations

import itertools
import statistics
import sys
import time
from pathlib import Path

import numpy as np
import shapely

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bisectum.core.make import MakeResult  # noqa: E402
from tests.support.photos import Photo, best_of, difference, narrow_places, photos, polygons, small_pieces, treated  # noqa: E402

COUNTS = (2, 3, 5, 8, 12)
FRAME = 1e-6  # mm


def straight_inside(result: MakeResult) -> int:
    """Straight segments that do not run along the picture's frame."""
    planar = next(iter(result.courses.values())).planar_map
    ends = planar.segments[planar.straight][:, [0, 3]]
    edges = np.array([0.0, 0.0, planar.width, planar.height])
    along = [np.abs(ends[..., axis % 2] - edges[axis]).max(axis=1, initial=0.0) < FRAME for axis in range(4)]
    return int((~np.any(along, axis=0)).sum()) if len(ends) else 0


def row(photo: Photo) -> dict[str, float]:
    ratios = []
    cache: dict[str, object] = {}
    for count in COUNTS:
        made, wanted, _ = difference(treated(photo.rgba, {"count": count, "drawn_top": False}, cache=cache), photo.rgba)
        ratios.append(made / best_of(wanted, count))
    began = time.perf_counter()
    tones = treated(photo.rgba, {"treatment": "lightness", "count": 5, "drawn_top": False}, cache=cache)
    seconds = time.perf_counter() - began
    tones.artwork.check()
    layers = [shapely.union_all(polygons(layer)) for layer in tones.artwork.layers]
    nested = all(upper.difference(lower.buffer(0.01)).area < 0.05 for lower, upper in itertools.pairwise(layers))
    dark = treated(photo.rgba, {"treatment": "dark"}, cache=cache).artwork
    top = treated(photo.rgba, {}, cache=cache).artwork
    return {
        "ratio": statistics.mean(ratios), "worst": max(ratios), "nodes": tones.artwork.node_count,
        "pieces": tones.artwork.piece_count,
        "straight": straight_inside(tones), "small": small_pieces(tones.artwork), "nested": nested,
        "narrow": sum(narrow_places(shape) for shape in layers),
        "dark pieces": dark.piece_count, "dark m": dark.cut_length / 1000, "dark nodes": dark.node_count,
        "dark narrow": sum(narrow_places(shapely.union_all(polygons(layer))) for layer in dark.layers),
        "top pieces": top.piece_count, "top nodes": top.node_count, "s": seconds,
    }


def main() -> None:
    rows: dict[str, dict[str, float]] = {}
    kept: dict[str, bool] = {}
    for photo in photos():
        if len(sys.argv) > 1 and not any(name in photo.name for name in sys.argv[1:]):
            continue
        rows[photo.name], kept[photo.name] = row(photo), photo.kept
        values = "  ".join(f"{value:9.2f}" if isinstance(value, float) else f"{value:9}" for value in rows[photo.name].values())
        if len(rows) == 1:
            print(f"{'':24}" + "  ".join(f"{name[-9:]:>9}" for name in rows[photo.name]))
        print(f"{photo.name:22}{'*' if photo.kept else ' '} {values}", flush=True)
    for title, unseen in (("tuned to", False), ("kept", True)):
        own = [values for name, values in rows.items() if kept[name] == unseen]
        if own:
            print(f"\n{title}: {len(own)}")
            for name in own[0]:
                column = [float(values[name]) for values in own]
                print(f"  {name:14} median {statistics.median(column):9.2f}  mean {statistics.mean(column):9.2f}"
                      f"  least {min(column):9.2f}  most {max(column):9.2f}")


if __name__ == "__main__":
    main()
