"""Overlay and offset: areas, nodes and distances against fine polygons in shapely, and time beside it.

Run: make overlay. A third of the pairs is kept apart and told by itself: it is not to be looked at while anything is tuned.
"""

from __future__ import annotations

import resource
import statistics
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

import numpy as np
import pathops
import shapely

from bisectum.core.geom.overlay.network import EPS_MM
from bisectum.core.geom.overlay.overlay import Overlay, overlay
from bisectum.core.items.lettering import lettering_rings
from bisectum.core.items.settings import Lettering
from bisectum.core.model.offset import offset, rings_of
from bisectum.core.model.relabel import relabel
from bisectum.services.fonts import SHIPPED, shipped_files
from tests.support.outlines import (
    FIELDS,
    Ring,
    blob,
    clockwise,
    is_straight,
    laid,
    map_of,
    nasty_pair,
    pathops_of,
    points_on,
    polygon_of,
    random_pair,
)

PAIRS, NASTY, WORDS = 2000, 500, 200
RULES: list[tuple[Callable, Callable]] = [
    (shapely.union, lambda a, b: a | b), (shapely.intersection, lambda a, b: a & b), (shapely.difference, lambda a, b: a & ~b)]
CHORDS = 2e-5


def main() -> None:
    print("| pairs | areas off, median, worst | beyond chords and a strip of 1.5 eps | faults | not with the first eps | nodes |")
    print("|---|---|---|---|---|---|")
    for name, pairs in (("random", random_pairs()), ("hard to tell apart", nasty_pairs())):
        both = list(pairs)
        for kept in (False, True):
            print(row(f"{name}, {'kept' if kept else 'tuned to'}", [pair for seed, pair in both if (seed % 3 == 0) == kept]))
    second_opinion()
    script()
    speed()
    offsets()


def random_pairs() -> Iterator[tuple[int, tuple[Ring, Ring]]]:
    for seed in range(PAIRS):
        yield seed, random_pair(np.random.default_rng(seed))


def nasty_pairs() -> Iterator[tuple[int, tuple[Ring, Ring]]]:
    for seed in range(NASTY):
        one, other, _ = nasty_pair(np.random.default_rng(seed))
        yield seed, (one, other)


def area(over: Overlay, rule: Callable) -> float:
    return float(over.areas()[1:][rule(over.labels[1:, 0] != 0, over.labels[1:, 1] != 0)].sum())


def row(name: str, pairs: list[tuple[Ring, Ring]]) -> str:
    off, beyond, faults, retried, nodes = [], 0, 0, 0, []
    for one, other in pairs:
        over = laid(one, other)
        over.check()
        retried += over.eps != EPS_MM
        union = relabel(over, (over.labels != 0).any(axis=1), **FIELDS)
        faults += bool(list(union.faults()))
        a, b = polygon_of(one, CHORDS), polygon_of(other, CHORDS)
        if not (a.is_valid and b.is_valid):
            continue
        worst = max(abs(area(over, rule) - by_geos(a, b).area) for by_geos, rule in RULES)
        whole, length = max(a.area, b.area), a.length + b.length
        off.append(worst / whole)
        beyond += worst > 1e-6 * whole + CHORDS * length + 1.5 * EPS_MM * length / 2
        crossings = len(crossed(over))
        nodes.append(len(union.segments) / max(1, len(one) + len(other) + crossings))
    return (f"| {name} ({len(pairs)}) | {np.median(off):.1e}, {max(off):.1e} | {beyond} | {faults} | {retried} "
            f"| {np.median(nodes):.2f} of all that came in |")


def crossed(over: Overlay) -> np.ndarray:
    """Vertices at which more than two edges meet."""
    return np.flatnonzero(np.diff(over.around) > 2)


def second_opinion() -> None:
    """skia-pathops on the same pairs."""
    wrong = failed = 0
    for _, (one, other) in nasty_pairs():
        a, b = (shapely.make_valid(polygon_of(ring, CHORDS)) for ring in (one, other))
        paths = [pathops_of(one), pathops_of(other)]
        try:
            wrong += abs(pathops.op(*paths, pathops.PathOp.UNION).area - shapely.union(a, b).area) > 1e-3 * max(a.area, b.area)
        except pathops.PathOpsError:
            failed += 1
    print(f"\nskia-pathops, unions of {NASTY} that are hard to tell apart: {failed} exceptions, {wrong} off by over 1e-3.")


def script() -> None:
    """Self-overlapping letters of scripts, welded; areas beside those of skia-pathops, which fills by winding numbers too."""
    rng = np.random.default_rng(5)
    fonts = [font.id for font in SHIPPED if font.style in ("script", "handwritten")]
    off, segments, seconds = [], 0, 0.0
    letters = list("abcdefghijklmnopqrstuvwxyzABDEFGHJKLMNPQRSTUVW")
    for number in range(WORDS):
        font = fonts[number % len(fonts)]
        text = "".join(rng.choice(letters, 8))
        (rings, _), _ = lettering_rings(Lettering(text=text, font=font, capital_mm=20), {font: shipped_files(font)})
        began = time.perf_counter()
        over = overlay([rings_of(rings, is_straight(rings))])
        seconds += time.perf_counter() - began
        segments += len(rings)
        path = pathops.Path(fillType=pathops.FillType.WINDING)
        for ring in np.split(rings, np.flatnonzero((rings[1:, 0] != rings[:-1, 3]).any(axis=1)) + 1):
            path.moveTo(*ring[0, 0])
            for segment in ring:
                path.cubicTo(*segment[1], *segment[2], *segment[3])
            path.close()
        path.simplify()
        off.append(abs(float(over.areas()[1:][over.labels[1:, 0] != 0].sum()) / path.area - 1))
    far = sum(one > 1e-3 for one in off)
    print(f"{WORDS} words in script, {segments} segments, {seconds:.1f} s: areas off skia-pathops's by {np.median(off):.0e}, "
          f"{far} by more than 1e-3.")


def speed() -> None:
    print("\n| segments | overlay | GEOS, union of their chords (0.005 mm) | ratio | peak memory |\n|---|---|---|---|---|")
    for count in (1_000, 10_000, 50_000):
        rng = np.random.default_rng(1)
        spread = np.sqrt(count / 8) * 9
        blobs = [clockwise(blob(rng, 8, 4)) + rng.uniform(0, spread, 2) for _ in range(count // 8)]
        half = len(blobs) // 2
        inputs = [rings_of(np.concatenate(part), np.zeros(8 * len(part), bool)) for part in (blobs[:half], blobs[half:])]
        ours = []
        for _ in range(3):
            began = time.perf_counter()
            overlay(inputs)
            ours.append(time.perf_counter() - began)
        polygons = [shapely.make_valid(polygon_of(ring, 0.005)) for ring in blobs]
        began = time.perf_counter()
        shapely.union(shapely.union_all(polygons[:half]), shapely.union_all(polygons[half:]))
        theirs = time.perf_counter() - began
        own = statistics.median(ours)
        memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(f"| {count:,} | {own:.3f} s | {theirs:.3f} s | {own / theirs:.2f} | {memory:.0f} MB |")


def offsets() -> None:
    print("\n| offset of wobbly blobs | off by, p50, worst | nodes, times the outline's | ms |\n|---|---|---|---|")
    for distance in (0.05, 0.3, 2.0, 8.0, 50.0, -0.5, -2.0, -4.0):
        off, nodes, ms = [], [], []
        for seed in range(40):
            planar = map_of(clockwise(blob(np.random.default_rng(seed))))
            began = time.perf_counter()
            result = offset(planar, np.append(planar.face_labels > 0, False), distance, **FIELDS)
            ms.append(1e3 * (time.perf_counter() - began))
            if not result.chain_count:
                continue
            rings = [planar.chain(number) for number in range(planar.chain_count)]  # a blob that crosses itself may have windows
            source = shapely.union_all([shapely.LinearRing(polygon_of(ring, 1e-5).exterior) for ring in rings])
            away = np.abs(shapely.distance(shapely.points(points_on(result)), source) - abs(distance))
            off.append(float(away.max()))
            nodes.append(len(result.segments) / len(planar.segments))
        print(f"| {distance:+} mm | {np.median(off):.4f}, {max(off):.4f} | {np.median(nodes):.2f} | {np.median(ms):.0f} |")


if __name__ == "__main__":
    main()
