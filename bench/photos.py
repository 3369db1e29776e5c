"""What photographs become: how near in colour, how smooth, how few pieces. Pictures are never ours.

Two thirds of them may be looked at while the methods are tuned, the last third is reported apart. Run: make photos.
Only what stays of the places marked by hand: .venv/bin/python bench/photos.py marks [folder of more, see tests/support/marks.py].
"""

from __future__ import annotations

import contextlib
import itertools
import statistics
import sys
import time
import zlib
from pathlib import Path

import cv2
import numpy as np
import shapely
from scipy.stats import spearmanr

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from bisectum.core.course import PREVIEW_PX, CourseSettings, Source, run_course  # noqa: E402
from bisectum.core.errors import SettingsError  # noqa: E402
from bisectum.core.job import MakeSettings, new_document  # noqa: E402
from bisectum.core.make import MakeResult, run_make  # noqa: E402
from bisectum.core.tryouts.try_out import recipes_of, try_out  # noqa: E402
from tests.support.marks import Marked, edges_off, features_kept, hues_kept, looks_of, marked  # noqa: E402
from tests.support.photos import (  # noqa: E402
    Photo,
    best_of,
    difference,
    face,
    narrow_places,
    photos,
    polygons,
    small_pieces,
    treated,
)
from tests.support.strangers import shipped  # noqa: E402

COUNTS = (2, 3, 5, 8, 12)
# How a person put six treatments of six pictures, the best first, by eye and before any figure was made.
TREATMENTS: dict[str, dict[str, object]] = {
    "A": {"count": 5}, "B": {"count": 5, "drawn_top": False}, "C": {"treatment": "lightness", "count": 4, "drawn_top": False},
    "D": {"treatment": "dark"}, "E": {"treatment": "line_shade"}, "F": {"treatment": "lightness", "count": 2, "drawn_top": False},
}
BY_EYE = {"astronaut, close": "ADEBCF", "chelsea": "BACDEF", "camera": "ACBDEF", "coffee": "BACEDF", "rocket": "ABCFED",
          "face 42": "ABCEFD"}
FRAME = 1e-6  # mm
MARKED_MM = 200.0
CUTTABLE_MM2, CUTTABLE_MM = 2.0, 0.8
SIZES_MM = (80.0, 120.0, 300.0)


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


def by_eye() -> None:
    """The likeness figure against the eye's order: Spearman's rank correlation of each picture, and their mean."""
    values = []
    for name, order in BY_EYE.items():
        rgba = face(42) if name == "face 42" else shipped(name.split(",")[0])
        rgba = np.ascontiguousarray(rgba[:300, 60:360]) if "close" in name else rgba
        source = Source(rgba, 0.2, f"{zlib.crc32(rgba.tobytes()):064x}")
        course = CourseSettings.model_validate({"picture": {"width_mm": 150}, "background": {"mode": "keep"},
                                                "colours": {"kind": "photo"}})
        cache: dict[str, object] = {}
        found = [try_out(source, course.changed("colours", fields), cache).likeness for fields in TREATMENTS.values()]
        values.append(float(spearmanr(found, [-order.index(letter) for letter in TREATMENTS]).statistic))
        print(f"{name:24}" + "  ".join(f"{letter} {value:.0f}" for letter, value in zip(TREATMENTS, found, strict=True))
              + f"   {values[-1]:.2f}", flush=True)
    print(f"likeness against the eye: {statistics.mean(values):.2f} (0.7)\n")


def nine() -> None:
    """Nine try-outs of a photograph of 12 megapixels on a bench that has it open: the first, all; a threshold, on release."""
    rgba = np.asarray(cv2.resize(shipped("astronaut"), (3464, 3464), interpolation=cv2.INTER_CUBIC))
    source, cache = Source(rgba, 0.03, "1" * 64), {}
    course = CourseSettings.model_validate({"picture": {"width_mm": 150}})
    run_course(source, course, cache, most_px=PREVIEW_PX)
    began = time.perf_counter()
    recipes = recipes_of(source, course, cache, like_this=False)[:9]
    moments = []
    for recipe in recipes:
        with contextlib.suppress(SettingsError):
            try_out(source, recipe.treatment.on(course), cache)
        moments.append(time.perf_counter() - began)
    print(f"nine try-outs at 12 MP: the first {moments[0]:.2f} s (0.8), all {moments[-1]:.2f} s (3)")
    small = Source(np.ascontiguousarray(cv2.resize(rgba, (1000, 1000), interpolation=cv2.INTER_AREA)), 0.1, "2" * 64)
    for name, most_px in (("dragged", PREVIEW_PX), ("let go", None)):
        seconds = []
        for threshold in (30.0, 30.6, 31.2, 31.8):
            colours = {"kind": "photo", "treatment": "lightness", "drawn_top": False, "thresholds": (threshold, 55.0, 75.0)}
            own = course.changed("colours", colours).changed("background", {"mode": "keep"})
            began = time.perf_counter()
            run_make({small.digest: small}, new_document(small.digest, "", "x", own, MakeSettings()), cache, most_px=most_px)
            seconds.append(time.perf_counter() - began)
        print(f"a threshold {name} at 1 MP: {1000 * statistics.median(seconds[1:]):.0f} ms ({120 if most_px else 600})")
    print()


def uncuttable(photo: Marked, width_mm: float, cache: dict[str, object] | None = None) -> int:
    """Areas that are seen and are too small or too narrow to be cut and weeded: the pieces where layers lie edge to edge. What
    lies in a face may be smaller."""
    made = treated(photo.rgba, {"count": 5}, width_mm=width_mm, build="flush", cache=cache)
    shapes = [shape for layer in made.artwork.layers for shape in polygons(layer)]
    course = next(iter(made.courses.values()))
    faces = [shapely.box(*(course.picture.places.to_shares(face.box) * width_mm).ravel()) for face in course.label_map.faces]
    small = [shape for shape in shapes if shape.area < CUTTABLE_MM2 or shape.buffer(-CUTTABLE_MM / 2).is_empty]
    return sum(not any(face.intersects(shape) for face in faces) for shape in small)


def row_of_marks(photo: Marked) -> dict[str, float]:
    """What is left of what was marked, at five colours and 200 mm."""
    cache: dict[str, object] = {}
    treated(photo.rgba, {"count": 2}, width_mm=MARKED_MM, cache=cache)  # so that the time holds no loading
    began = time.process_time()
    result = treated(photo.rgba, {"count": 5}, width_mm=MARKED_MM, cache={})
    seconds = time.process_time() - began
    made, wanted, mm = looks_of(result, photo.rgba)
    off = edges_off(next(iter(result.courses.values())).planar_map, wanted, mm)
    features, hues = features_kept(made, wanted, mm, photo.features), hues_kept(made, wanted, photo.hues)
    seven = looks_of(treated(photo.rgba, {"count": 7}, width_mm=MARKED_MM, cache=cache), photo.rgba)[0]
    error, lab, _ = difference(result, photo.rgba)
    lost = [feature[0] for feature in photo.features if feature[0] not in features]
    print("  lost:", ", ".join(lost + [f"hue of {hue[0]}" for hue in photo.hues if hue[0] not in hues]) or "nothing")
    return {
        "pieces": result.artwork.piece_count, "nodes": result.artwork.node_count,
        "off 50": float(np.median(off)), "off 90": float(np.quantile(off, 0.9)),
        "features": len(features), "of": len(photo.features), "hues 5": len(hues),
        "hues 7": len(hues_kept(seven, wanted, photo.hues)), " of": len(photo.hues), "ratio": error / best_of(lab, 5),
        "small": uncuttable(photo, MARKED_MM, cache),
        "small at": max(uncuttable(photo, size) for size in SIZES_MM), "s": seconds,
    }


def marks(folder: Path | None) -> None:
    """The table of marked places, a third of it kept apart: medians of sizes, sums of marks."""
    rows = []
    for photo in marked(folder):
        rows.append((photo.kept, row_of_marks(photo)))
        values = "  ".join(f"{name} {value:.4g}" for name, value in rows[-1][1].items())
        print(f"{photo.name:14}{'*' if photo.kept else ' '}{values}", flush=True)
    for title, unseen in (("tuned to", False), ("kept", True)):
        own = [values for kept, values in rows if kept == unseen]
        if own:
            total = {name: sum(values[name] for values in own) for name in own[0]}
            means = "  ".join(f"{name} {statistics.mean(values[name] for values in own):.4g}" for name in
                              ("pieces", "nodes", "off 50", "off 90", "ratio", "small", "small at", "s"))
            print(f"{title}: {len(own)}  {means}  features {total['features'] / total['of']:.2f}"
                  f"  hues {total['hues 5'] / total[' of']:.2f}, {total['hues 7'] / total[' of']:.2f} at 7")


def main() -> None:
    if sys.argv[1:2] == ["marks"]:
        return marks(Path(sys.argv[2]) if len(sys.argv) > 2 else None)
    if len(sys.argv) == 1:
        marks(None)
        by_eye()
        nine()
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
