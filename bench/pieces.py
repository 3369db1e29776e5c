"""Pieces: what rules leave, widths, bridges, and whether changes by hand still hold after other settings; and time.

Run: make pieces. Drawings are icons of an open set, photographs those of scikit-image and scikit-learn. A third of them is kept
apart and told by itself: it is not to be looked at while anything is tuned.
"""

from __future__ import annotations

import statistics
import sys
import time
import zlib
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

import cv2
import numpy as np
import shapely
from scipy.sparse.csgraph import minimum_spanning_tree

from bisectum.core.course import CourseResult, CourseSettings, Source, run_course
from bisectum.core.geom.bezier import flatten
from bisectum.core.model.offset import outlines
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.thin_places import thin_places
from bisectum.core.steps.pieces.bridges import bridged
from bisectum.core.steps.pieces.by_width import joined, thickened
from bisectum.core.steps.pieces.settings import PieceChange, PiecesSettings
from bisectum.core.steps.pieces.step import Size, by_rules, put_right
from bisectum.services.pieces import piece_list
from tests.support.outlines import map_of, polygon
from tests.support.pieces import cards_with_islands, letters_and_leaves, polygons_of, slots_and_notches, stencils
from tests.support.strangers import SKIMAGE, SKLEARN, icon_bodies, icon_picture, shipped

DRAWINGS, PHOTOS, CHANGES = 60, 20, 200
AREA_MM2, WIDTH_MM, REACH = 2.0, 0.8, 2.0
NO_PHOTO = ("chessboard_GRAY", "chessboard_RGB", "horse", "logo", "phantom", "microaneurysms", "clock_motion")
Run = Callable[..., CourseResult]


def is_kept(name: str) -> bool:
    return zlib.crc32(name.encode()) % 3 == 0


def pictures() -> list[tuple[str, str, Run]]:
    found: list[tuple[str, str, Run]] = []
    for name, svg in icon_bodies(DRAWINGS)[:DRAWINGS]:
        found.append((f"icon {name}", "drawing", runner(icon_picture(svg), f"icon {name}", 60.0)))
    for name in [own for own in (*SKIMAGE, *SKLEARN) if own not in NO_PHOTO][:PHOTOS]:
        found.append((name, "photograph", runner(shipped(name), name, 150.0)))
    return found


def runner(rgba: Any, name: str, width_mm: float) -> Run:
    source, cache = Source(np.ascontiguousarray(rgba), 0.2, name), {}  # type: ignore[var-annotated]

    def run(**steps: dict[str, Any]) -> CourseResult:
        picture = {"width_mm": width_mm} | steps.pop("picture", {})
        return run_course(source, CourseSettings.model_validate({"picture": picture, **steps}), cache)

    return run


def main() -> None:
    which = set(sys.argv[1:]) or {"rules", "tips", "thicken", "bridges", "changes", "speed"}
    both = pictures() if which & {"rules", "changes", "speed"} else []
    for name, work in (("rules", rules), ("changes", changes), ("speed", speed)):
        if name in which:
            work(both)
    if "tips" in which:
        tips()
    if "thicken" in which:
        thicken()
    if "bridges" in which:
        bridges()


def rules(both: list[tuple[str, str, Run]]) -> None:
    print(f"| rules: {AREA_MM2} mm², {WIDTH_MM} mm | pictures | pieces and windows under | narrow places left | same bits |")
    print("|---|---|---|---|---|")
    told: dict[tuple[str, bool], list[tuple[int, int, int, int]]] = {}
    for name, kind, run in both:
        try:
            result = run(pieces={"smallest_mm2": AREA_MM2, "smallest_window_mm2": AREA_MM2, "thinnest_mm": WIDTH_MM})
        except Exception as error:
            print(name, type(error).__name__, error)
            continue
        row = after_rules(result)
        if row[0] or row[1] or row[2] < row[3]:
            print(f"  {name}: {row}", file=sys.stderr)
        told.setdefault((kind, is_kept(name)), []).append(row)
    for (kind, kept), rows in sorted(told.items()):
        small, narrow, same, whole = (sum(row[k] for row in rows) for k in range(4))
        print(f"| {kind}s, {'kept' if kept else 'tuned to'} | {len(rows)} | {small} | {narrow} | {same} of {whole} |")


def after_rules(result: CourseResult) -> tuple[int, int, int, int]:
    """Pieces and windows under the area; narrow places under the width; of the lines that no rule concerned, how many are bit
    for bit the same, and how many there are."""
    pieces, before = result.pieces, result.planar_map
    rows = [row for row in piece_list(result).rows if not row.reason and not row.kept]
    small = sum(row.area_mm2 < AREA_MM2 - 1e-6 for row in rows)
    width = WIDTH_MM / pieces.scale
    thin = thin_places(pieces.planar, np.append(pieces.planar.face_labels > 0, False), width)
    narrow = sum(one.kind != "tip" for one in thin)
    there = {own.tobytes() for own in pieces.planar.segments} | {own[::-1].tobytes() for own in pieces.planar.segments}
    gone = [shapely.box(*_box(one.segments)).buffer(REACH * width) for one in pieces.gone]
    tree = shapely.STRtree(gone) if gone else None
    labels = np.append(before.face_labels, 0)[before.sides]
    cut = np.repeat(labels[:, 0] != labels[:, 1], np.diff(before.first))
    free = [own for own in before.segments[cut] if tree is None or not len(tree.query(shapely.box(*_box(own[None]))))]
    return small, narrow, sum(own.tobytes() in there for own in free), len(free)


def _box(segments: Any) -> tuple[float, float, float, float]:
    low, high = segments.min(axis=(0, 1)), segments.max(axis=(0, 1))
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def tips() -> None:
    print("| shapes wide everywhere but at tips and corners | tips and corners | called thin |")
    print("|---|---|---|")
    for name, maps in letters_and_leaves().items():
        kinds: Counter[str] = Counter()
        for planar, width in maps:
            found = thin_places(planar, np.append(planar.face_labels > 0, False), width)
            kinds.update(one.kind for one in found)
        print(f"| {name} ({len(maps)}) | {sum(kinds.values())} | {sum(kinds.values()) - kinds['tip']} |")
    both = [(planar, joined(planar, gap).planar, slot) for planar, gap, slot in slots_and_notches()]
    closed = sum(len(polygons_of(after)) == 1 for _, after, slot in both if slot)
    notches = sum(after is not before for before, after, slot in both if not slot)
    print(f"\njoined: {closed} of {sum(slot for *_, slot in both)} gaps closed, {notches} notches filled")


def thicken() -> None:
    print("| thickened to | places | narrow ones left | bulge more than .04 mm beyond half the width, mm² |")
    print("|---|---|---|---|")
    for width in (0.8, 1.2):
        left, bulge, places = 0, 0.0, 0
        for planar in stencils():
            done = thickened(planar, width)
            places += len(done.places)
            found = thin_places(done.planar, np.append(done.planar.face_labels > 0, False), width)
            left += sum(one.kind != "tip" for one in found)
            before, after = (shapely.union_all(polygons_of(own)) for own in (planar, done.planar))
            new = after.difference(before.buffer(1e-3))
            bulge += new.difference(before.buffer(width / 2 + 0.04)).area
        print(f"| {width} mm | {places} | {left} | {bulge:.4f} |")


def bridges() -> None:
    print("| bridging | cards | islands left | bar length ÷ least spanning tree, worst | level or upright |")
    print("|---|---|---|---|---|")
    ratios, left, level, bars = [], 0, 0, 0
    cards = cards_with_islands()
    for planar, width in cards:
        shapes = polygons_of(planar)
        done = bridged(planar, width)
        left += len(polygons_of(done.planar)) - 1
        lengths = np.hypot(*(done.ends[:, 1] - done.ends[:, 0]).T)
        away = np.array([[a.distance(b) for b in shapes] for a in shapes])
        ratios.append(float(lengths.sum() / minimum_spanning_tree(away).sum()))
        level += int((np.abs(done.ends[:, 1] - done.ends[:, 0]).min(axis=1) < 1e-9).sum())
        bars += len(lengths)
    print(f"| | {len(cards)} | {left} | {max(ratios):.3f} | {level} of {bars} |")


VARIANTS: list[tuple[str, dict[str, dict[str, Any]]]] = [
    ("other colours", {"colours": {"shades": 1, "count": -1}}), ("closeness", {"lines": {"closeness_mm": 0.25}}),
    ("size", {"picture": {"width_mm": 90.0}}), ("crop", {"picture": {"crop": None}}),
]


def changes(both: list[tuple[str, str, Run]]) -> None:
    """Whether a dropped piece is dropped again; a piece that is there still is one that overlaps it by 60 % (of their union)."""
    print("| changes by hand after | of | still there | of these hold | the others listed | another taken |")
    print("|---|---|---|---|---|---|")
    rng = np.random.default_rng(3)
    told: dict[tuple[str, str, bool], list[int]] = {}
    chosen = [one for one in both if one[1] == "drawing"][:40] + [one for one in both if one[1] == "photograph"][:10]
    for name, kind, run in chosen:
        first = run()
        faces = np.flatnonzero(first.pieces.planar.face_labels > 0)
        if len(faces) < 3:
            continue
        rows = piece_list(first).rows
        for face in rng.choice(faces, min(4, len(faces) - 1), replace=False).tolist():
            own, row = mask(first, _outline(first.pieces.planar, face)), rows[face]
            change = PieceChange(kind="drop", x=row.at[0], y=row.at[1], area=row.area, colour=row.colour)
            for what, steps in VARIANTS:
                other = variant(first, steps)
                plain, result = run(**other), run(**other, pieces={"changes": [change.model_dump()]})
                there = any(overlap(own, mask(plain, _outline(plain.pieces.planar, face))) > 0.6
                            for face in range(len(plain.pieces.planar.face_labels)))
                gone = [one for one in result.pieces.gone if one.change == 0]
                holds = bool(gone) and overlap(own, mask(result, gone[0].segments)) > 0.4
                counts = told.setdefault((kind, what, is_kept(name)), [0, 0, 0, 0, 0])
                for k, yes in enumerate((True, there, there and holds, bool(result.pieces.missed), bool(gone) and not holds)):
                    counts[k] += yes
    for (kind, what, kept), row_ in sorted(told.items()):
        print(f"| {kind}s, {what}, {'kept' if kept else 'tuned to'} | {' | '.join(map(str, row_))} |")


def _outline(planar: PlanarMap, face: int) -> Any:
    inside = np.zeros(len(planar.face_labels) + 1, bool)
    inside[face] = True
    return outlines(planar, inside)[0]


def mask(result: CourseResult, segments: Any) -> Any:
    """A shape on 300 pixels across the picture that came in."""
    places = result.picture.places.scaled(result.planar_map.width / result.picture.width)
    canvas = np.zeros((600, 300), np.uint8)
    starts = np.flatnonzero(np.append(True, (segments[1:, 0] != segments[:-1, 3]).any(axis=1)))
    rings = [np.round(places.to_shares(flatten(own, 0.02)) * 300).astype(np.int32) for own in np.split(segments, starts[1:])]
    cv2.fillPoly(canvas, rings, 1)
    return canvas > 0


def overlap(one: Any, other: Any) -> float:
    return float((one & other).sum() / max(1, (one | other).sum()))


def variant(first: CourseResult, steps: dict[str, dict[str, Any]]) -> dict[str, dict[str, Any]]:
    found = {name: dict(own) for name, own in steps.items()}
    if "count" in found.get("colours", {}):
        found["colours"]["count"] = max(1, len(first.label_map.palette.colours) - 1)
    if "crop" in found.get("picture", {}):
        height, width = first.picture.rgba.shape[:2]
        found["picture"]["crop"] = {"x": 0.02, "y": 0.02 * height / width, "width": 0.96, "height": 0.96 * height / width}
    return found


def speed(both: list[tuple[str, str, Run]]) -> None:
    print("| a rule's slider | pieces | segments | ms, median of 9 |")
    print("|---|---|---|---|")
    for name, planar in (("drawing of 300 pieces", many_pieces(300)), ("photograph-like, 2,000", many_pieces(2000))):
        places, size = Placement.plain(planar.width), Size(150.0, "picture")
        times = []
        for turn in range(9):
            settings = PiecesSettings(smallest_mm2=1.0 + 0.3 * turn)
            began = time.perf_counter()
            put_right(by_rules(planar, settings, places, size, hasty=True), settings, places, None)
            times.append(time.perf_counter() - began)
        print(f"| {name} | {len(planar.face_labels)} | {len(planar.segments)} | {1000 * statistics.median(times):.0f} |")
    times = []
    for turn in range(9):
        settings = PiecesSettings(thinnest_mm=0.4 + 0.1 * turn)
        began = time.perf_counter()
        by_rules(planar, settings, places, size, hasty=True)
        times.append(time.perf_counter() - began)
    print(f"| thinnest part, the same | | | {1000 * statistics.median(times):.0f} |")


def many_pieces(count: int) -> PlanarMap:
    rng = np.random.default_rng(1)
    side = int(np.ceil(np.sqrt(count)))
    rings = []
    for k in range(count):
        angles = np.sort(rng.uniform(0, 2 * np.pi, 9))
        reach = rng.uniform(0.4, 2.2)
        middle = 2.5 + 5 * np.array([k % side, k // side])
        rings.append(polygon(middle + reach * np.stack([np.cos(angles), np.sin(angles)], axis=1)))
    planar = map_of(*rings)
    return replace(planar, width=5.0 * side, height=5.0 * side)


if __name__ == "__main__":
    main()
