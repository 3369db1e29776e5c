"""How near cut lines lie to the edges of drawings whose geometry is known, and with how many nodes.

Drawings are painted by exact coverage (shapely clips every edge pixel); letters are the outlines of an open font. All in
pixels, each figure with what it is to stay within in brackets; what does not is marked with an asterisk. Run: make accuracy.
"""

from __future__ import annotations

import io
import math
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image
from shapely import affinity
from shapely.geometry import MultiLineString, Polygon

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))
sys.path.insert(0, str(Path(__file__).parent))

from drawing import harbour  # noqa: E402

from bisectum.core.geom.bezier import points_at, signed_area  # noqa: E402
from bisectum.core.model.artwork import Layer  # noqa: E402
from tests.core.test_smooth import strokes  # noqa: E402
from tests.support.asserts import Traced, layer_polygons, trace  # noqa: E402
from tests.support.drawings import INK, circle, painted, parted, star, turned_square  # noqa: E402
from tests.support.letters import glyph  # noqa: E402
from tests.support.smooth import away_from, drawn, grained, letters, smooth_shapes  # noqa: E402

ALPHABET = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
CHORDS = np.linspace(0, 1, 161)
RED, GOLD = (200, 60, 40), (240, 200, 60)
Spoil = Callable[[NDArray[np.uint8]], NDArray[np.uint8]]


@dataclass(frozen=True)
class Drawing:
    """shape: its true outline; nodes: how many a careful person would set; curved: whether sides bend."""

    name: str
    shape: Polygon | shapely.MultiPolygon
    nodes: int
    size: tuple[int, int]


def letter(character: str, cap_px: float) -> Drawing:
    shape, nodes = glyph(character, cap_px)
    left, top, right, bottom = shape.bounds
    shape = affinity.translate(shape, 12.37 - left, 12.61 - top)
    size = (math.ceil(right - left) + 26, math.ceil(bottom - top) + 26)
    return Drawing(f"{character} {cap_px:.0f}", shape, nodes, size)


def ellipse(a: float, b: float, degrees: float) -> Drawing:
    shape = affinity.rotate(affinity.scale(circle(0, 0, 1, 1440), a, b), degrees, origin=(0, 0))
    return Drawing(f"ellipse {a:.0f} × {b:.0f}", affinity.translate(shape, 110.3, 109.6), 6, (220, 220))


def drawings() -> list[Drawing]:
    rounds = [Drawing(f"circle r {r}", circle(r + 12.3, r + 11.8, r), 4, (2 * r + 24, 2 * r + 24)) for r in (20, 60, 200)]
    squares = [Drawing(f"square {d}°", turned_square(70.3, 69.6, 80, d), 4, (140, 140)) for d in (7, 30, 45)]
    ring = circle(60.2, 59.7, 43).difference(circle(60.2, 59.7, 40))
    return [
        *rounds,
        ellipse(80, 35, 20),
        *squares,
        Drawing("star", star(100.2, 99.7, 80, 34), 10, (200, 200)),
        Drawing("ring 3 px", ring, 8, (120, 120)),
    ]


def jpeg(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    buffer = io.BytesIO()
    Image.fromarray(rgba[..., :3]).save(buffer, "JPEG", quality=75)
    return np.asarray(Image.open(buffer).convert("RGBA"))


def noisy(rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    result = rgba.copy()
    grain = np.random.default_rng(3).normal(0, 5, rgba[..., :3].shape)
    result[..., :3] = np.clip(np.round(rgba[..., :3] + grain), 0, 255)
    return result


def traced(rgba: NDArray[np.uint8]) -> Traced:
    return trace(rgba, picture={"measured": "picture"}, layers={"build": "flush"}, lines={"closeness_mm": 0.08},
                 pieces={"smallest_mm2": 6.0, "smallest_window_mm2": 6.0})


def measure(drawing: Drawing, spoil: Spoil) -> tuple[NDArray[np.float64], float, int, int]:
    """Distances of the ink's lines from the truth, area error, nodes, straight segments."""
    artwork = traced(spoil(painted([(drawing.shape, INK)], *drawing.size))).artwork
    # The ink is the layer nearest to it in colour; white enclosed by it may be another one.
    layer = min(artwork.layers, key=lambda layer: sum(abs(a - b) for a, b in zip(layer.rgb, INK, strict=True)))
    rings = list(layer.rings)
    points = np.concatenate([points_at(ring.segments, CHORDS).reshape(-1, 2) for ring in rings])
    away = shapely.distance(shapely.points(points), drawing.shape.boundary)
    area = sum(piece.area for piece in layer.pieces)
    straight = sum(int(ring.straight.sum()) for ring in rings)
    return away, area / drawing.shape.area - 1, layer.node_count, straight


def junctions() -> list[tuple[str, list[tuple[Polygon, tuple[int, int, int]]], tuple[float, float]]]:
    """Drawings of three colours that meet at a known place."""
    x, y = 80.37, 79.81
    arms = [math.radians(d) for d in (-90 + 11, 30 + 11, 150 + 11)]
    far = [(x + 300 * math.cos(a), y + 300 * math.sin(a)) for a in arms]
    frame = circle(x, y, 60)
    wedges = [Polygon([(x, y), far[i], far[(i + 1) % 3]]).intersection(frame) for i in range(3)]

    lower = affinity.rotate(shapely.box(x - 200, y, x + 200, y + 200), 9, origin=(x, y)).intersection(frame)
    side = affinity.rotate(shapely.box(x - 200, y - 200, x, y), 9, origin=(x, y)).intersection(frame)
    disc = circle(x - 40 * math.cos(0.4), y - 40 * math.sin(0.4), 40)
    outer = shapely.box(10, 10, 150, 150)
    split = affinity.rotate(shapely.box(x - 200, y, x + 200, y + 200), math.degrees(0.4), origin=(x, y)).intersection(outer)

    return [
        ("Y", list(zip(wedges, (INK, RED, GOLD), strict=True)), (x, y)),
        ("T, straight", [(frame, INK), (lower, RED), (side, GOLD)], (x, y)),
        ("T, curved", [(outer, INK), (split, RED), (disc, GOLD)], (x, y)),
    ]


def against(value: float, bar: float | None, width: int = 6, digits: int = 3) -> str:
    """A figure and its bar."""
    if bar is None:
        return f"{value:{width}.{digits}f}" + 8 * " "
    return f"{value:{width}.{digits}f}{'*' if value > bar else ' '}" + f"({bar:g})".ljust(7)


def bars_of(drawing: Drawing, spoilt: bool) -> tuple[float | None, float | None]:
    """The bars for the greatest and the mean distance."""
    edged = drawing.name.startswith(("square", "star"))
    if spoilt:
        return (None if edged else 0.10), (0.03 if edged else None)
    if edged:
        return 0.02, None
    return (0.03, None) if drawing.name.startswith("ring") else (0.06, 0.02)


def show_drawing(drawing: Drawing, spoil: Spoil, spoilt: bool) -> None:
    away, area, nodes, straight = measure(drawing, spoil)
    greatest, mean = bars_of(drawing, spoilt)
    print(
        f"{drawing.name:<18}{against(away.max(), greatest)}{np.quantile(away, 0.99):8.3f}        {against(away.mean(), mean)}"
        f"{100 * area:9.3f}{nodes:7d} of {drawing.nodes:<4d}{straight:5d}"
    )


CAPITALS = {40: (0.5, None, 0.03), 80: (0.3, 0.08, 0.02), 200: (0.3, 0.08, 0.02)}  # greatest, 99 %, mean


def show_capitals(cap: int, spoil: Spoil, spoilt: bool) -> None:
    rows = [(measure(d, spoil), d) for d in (letter(c, cap) for c in ALPHABET)]
    away = np.concatenate([row[0] for row, _ in rows])
    ratio = sum(row[2] for row, _ in rows) / sum(d.nodes for _, d in rows)
    worst = max(rows, key=lambda pair: pair[0][0].max())[1].name
    greatest, most, mean = (None, None, 0.03) if spoilt else CAPITALS[cap]
    print(
        f"{f'capitals {cap} px':<18}{against(away.max(), greatest)}{against(np.quantile(away, 0.99), most)}  "
        f"{against(away.mean(), mean)}{'':9}{against(ratio, 0.8, 7, 2)}  worst: {worst}"
    )


def show_junctions() -> None:
    for (name, shapes, (x, y)), bar in zip(junctions(), (0.03, 0.03, 0.10), strict=True):
        places = []
        for shift in np.linspace(0, 0.9, 7):
            moved = [(affinity.translate(shape, shift, 0.7 * shift), colour) for shape, colour in shapes]
            planar = traced((parted if name == "Y" else painted)(moved, 160, 160)).planar_map
            places.append(float(np.hypot(*(planar.junctions - [x + shift, y + 0.7 * shift]).T).min()))
        print(f"junction {name:<14} median {against(float(np.median(places)), bar)} greatest {max(places):.3f}")


def show_maps() -> None:
    """Crossings, faces and areas of a busy drawing and of noise; how far laps reach."""
    rng = np.random.default_rng(1)
    grain = np.full((160, 160, 4), 255, np.uint8)
    grain[..., :3] = rng.choice(np.array([INK, RED, GOLD]), (160, 160))
    for name, rgba in (("harbour", np.asarray(harbour(900, 700).convert("RGBA"))), ("noise", grain)):
        planar = traced(rgba).planar_map
        faults = [fault.kind for fault in planar.faults()]
        crossing = sum("crossing" in kind for kind in faults)
        around = sum(signed_area(np.concatenate([planar.walk(half)[0] for half in loop]))
                     for face, loop in planar.loops() if face >= 0)
        print(
            f"{name:<18} crossings {crossing} (0), other faults {len(faults) - crossing} (0), faces {len(planar.face_labels)}, "
            f"areas add up to the picture's but for {abs(around / (planar.width * planar.height) - 1):.1e} (1e-9)"
        )
    sea, sail = shapely.box(40, 200, 440, 380), affinity.rotate(shapely.box(120, 150, 330, 260), 7)
    for lap in (0.3, 1.0, 3.0):
        rgba = painted([(sea, INK), (sail, RED)], 480, 420)
        layers = [trace(rgba, 0.25, picture={"width_mm": 100}, lines={"closeness_mm": 0.02}, layers=build).artwork.layers
                  for build in ({"build": "flush"}, {"build": "lapped", "lap_mm": lap})]
        flush, lapped = (MultiLineString([points_at(ring.segments, CHORDS).reshape(-1, 2) for ring in them[0].rings])
                         for them in layers)
        upper = MultiLineString([points_at(ring.segments, CHORDS).reshape(-1, 2) for ring in layers[0][1].rings])
        points = shapely.points(shapely.get_coordinates(lapped))
        away = shapely.distance(points, flush)
        inner = (away > 0.5 * lap) & (shapely.distance(points, upper) > 0.5 * lap)
        print(f"lap {lap:<14} hidden edge off the set lap by at most {against(float(np.abs(away[inner] - lap).max()), 0.02)} mm")


def show_smooth(sigma: float) -> None:
    """The same make, 150 mm wide, from 200 px and from 1600 px; and how near lines drawn within .05 px come at 1600 px."""
    print(f"\n{f'grain σ {sigma:g}':<18}{'nodes 200':>10}{'1600':>7}{'ratio':>8}{'':7}{'÷ as few as can be':>19}{'':9}"
          f"{'lines':>6}{'greatest, 1600 px, drawn closely':>36}")
    for shape in (*smooth_shapes(), *letters()):
        made = [ink_of(grained(drawn(shape, size)[0], sigma), 150.0, 0.1) for size in (200, 1600)]
        rgba, outline = drawn(shape, 1600)
        near = ink_of(grained(rgba, sigma), None, 0.05)
        away = max(float(away_from(ring.segments, outline).max()) for ring in near.rings)
        lines = max(sum(int(ring.straight.sum()) for ring in layer.rings) for layer in made)
        few = 0.8 if shape.lines > 8 else 1.5
        nodes = [layer.node_count for layer in made]
        print(f"{shape.name:<18}{nodes[0]:10d}{nodes[1]:7d}  "
              f"{against(nodes[1] / nodes[0], 1.2, 6, 2)}{against(nodes[0] / shape.nodes, few, 6, 2)}"
              f"{lines:12d}{'*' if lines > shape.lines else ' '}{against(away, 0.12 if sigma else 0.06, 24)}")


def ink_of(rgba: NDArray[np.uint8], width_mm: float | None, closeness_mm: float) -> Layer:
    artwork = trace(rgba, picture={"measured": "picture", "width_mm": width_mm}, layers={"build": "flush"},
                    lines={"closeness_mm": closeness_mm}, pieces={"smallest_mm2": 6.0 if width_mm is None else 1.0}).artwork
    return min(artwork.layers, key=lambda layer: sum(abs(a - b) for a, b in zip(layer.rgb, INK, strict=True)))


def show_strokes() -> None:
    """Round-ended strokes of a few pixels in a picture of 160 px: area against what was drawn."""
    print()
    for width in (2.0, 3.0, 4.0, 5.0, 6.0, 8.0):
        off, nodes, count = [], 0, 0
        for seed in range(6):
            made = strokes(width, seed)
            layer = ink_of(painted([(shapely.union_all(made), INK)], 160, 160), None, 0.1)
            got = shapely.make_valid(layer_polygons(layer))
            off += [abs(got.intersection(stroke.buffer(2.0)).area / stroke.area - 1) for stroke in made]
            nodes, count = nodes + layer.node_count, count + len(made)
        share = float(np.mean(np.array(off) <= 0.05))
        print(f"strokes {width:g} px {'':6} area within 5 %: {share:5.0%} (100 %), mean off {np.mean(off):.3f}, "
              f"most {max(off):.3f}, {nodes / count:.1f} nodes each")


def main() -> None:
    for title, spoil in (("clean", lambda rgba: rgba), ("JPEG 75", jpeg), ("noise σ 5", noisy)):
        spoilt = title != "clean"
        print(f"\n{title:<18}{'greatest':<14}{'99 %':<16}{'mean':<14}{'area %':>9}{'nodes':>9}{'lines':>12}")
        for drawing in drawings():
            show_drawing(drawing, spoil, spoilt)
        for cap in CAPITALS:
            show_capitals(cap, spoil, spoilt)
    print()
    show_junctions()
    show_maps()
    show_strokes()
    for sigma in (0.0, 3.0):
        show_smooth(sigma)


if __name__ == "__main__":
    main()
