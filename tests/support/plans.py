"""Box plans with known lines: outlines with tabs, slots and holes, folds in dashes; and pen drawings of known strokes."""

from __future__ import annotations

import io
from dataclasses import dataclass, field

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image
from shapely.geometry import LineString, MultiLineString, Point
from shapely.ops import substring

from tests.support.drawings import coverage

Line = NDArray[np.float64]


@dataclass(frozen=True)
class Plan:
    """rgb : (H, W, 3) uint8. cuts: closed (N, 2) px, the outline first; straight, curved: folds, (N, 2) px. pen: width, px."""

    rgb: NDArray[np.uint8]
    cuts: list[Line]
    straight: list[Line] = field(default_factory=list)
    curved: list[Line] = field(default_factory=list)
    pen: float = 4.0


def plan(number: int, width: int = 1200, height: int = 900) -> Plan:
    """The plan of a number: the same each time."""
    rng = np.random.default_rng(900 + number)
    unit = width / 1200
    pen = float(rng.uniform(3.2, 5.5)) * unit
    a, b, c = rng.uniform(170, 230) * unit, rng.uniform(150, 210) * unit, rng.uniform(90, 120) * unit
    x0, y0 = 250 * unit + rng.uniform(-20, 20), 260 * unit + rng.uniform(-20, 20)
    xs = [x0, x0 + a, x0 + a + c, x0 + 2 * a + c]
    tab = rng.uniform(50, 70) * unit
    top, bottom = y0, y0 + b
    outline = [
        (xs[0], top), (xs[0], top - c), (xs[1], top - c), (xs[1], top), (xs[2], top), (xs[2] + 12 * unit, top - c),
        (xs[3] - 12 * unit, top - c), (xs[3], top), (xs[3] + tab, top + 20 * unit), (xs[3] + tab, bottom - 20 * unit),
        (xs[3], bottom), (xs[3], bottom + c), (xs[2], bottom + c), (xs[2], bottom), (xs[1], bottom), (xs[1], bottom + c),
        (xs[0], bottom + c), (xs[0], bottom), (xs[0] - tab, bottom - 15 * unit), (xs[0] - tab, top + 15 * unit), (xs[0], top),
    ]
    straight = [
        [(xs[0], top), (xs[0], bottom)], [(xs[1], top), (xs[1], bottom)], [(xs[2], top), (xs[2], bottom)],
        [(xs[3], top), (xs[3], bottom)], [(xs[0], top), (xs[1], top)], [(xs[2], bottom), (xs[3], bottom)],
        [(xs[0], bottom), (xs[1], bottom)], [(xs[2], top), (xs[3], top)],
    ]
    middle = np.array([(xs[2] + xs[3]) / 2, (top + bottom) / 2])
    curved: list[Line] = []
    angles = np.linspace(0.15, np.pi - 0.15, 90)
    radius = 0.3 * a
    curved.append(np.stack([middle[0] + radius * np.cos(angles), middle[1] + 0.3 * b - radius * np.sin(angles)], axis=1))
    t = np.linspace(0, 1, 90)
    curved.append(np.stack([xs[0] + 25 * unit + t * (a - 50 * unit),
                            (top + bottom) / 2 + 0.2 * b * np.sin(2 * np.pi * t * 0.9 + 0.4)], axis=1))
    slot = (xs[1] + 0.3 * c, top + 0.3 * b, xs[1] + 0.7 * c, top + 0.3 * b + 14 * unit)
    cuts = [np.array(outline), np.array([(slot[0], slot[1]), (slot[2], slot[1]), (slot[2], slot[3]), (slot[0], slot[3]),
                                         (slot[0], slot[1])])]
    hole = np.linspace(0, 2 * np.pi, 121)
    cuts.append(np.stack([(xs[1] + xs[2]) / 2 + 22 * unit * np.cos(hole), bottom - 0.25 * b + 22 * unit * np.sin(hole)], axis=1))
    turn = np.radians(rng.uniform(-4, 4)) if number % 3 else 0.0
    about = np.array([width / 2, height / 2])
    rot = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])

    def turned(line: object) -> Line:
        return (np.asarray(line, float) - about) @ rot.T + about

    all_cuts, all_straight, all_curved = [turned(o) for o in cuts], [turned(o) for o in straight], [turned(o) for o in curved]
    dash, gap = rng.uniform(14, 22) * unit, rng.uniform(9, 13) * unit
    ink = [LineString(own).buffer(pen / 2, cap_style="round", join_style="mitre") for own in all_cuts]
    for k, own in enumerate([*all_straight, *all_curved]):
        dotted = k == 7 and number % 2 == 0
        lengths = (0.01, 2.6 * pen) if dotted else (dash, gap)
        ink.append(dashed(own, *lengths, float(rng.uniform(0, 0.5))).buffer(
            pen / 2, cap_style="round" if dotted or number % 2 else "flat"))
    amount = coverage(shapely.union_all(ink), width, height)
    return Plan(scanned(amount, rng, number), all_cuts, all_straight, all_curved, pen)


def dashed(line: Line, dash: float, gap: float, start: float) -> MultiLineString:
    """Parts of a line. start: share of the first dash that is left out."""
    whole = LineString(line)
    at, parts = -start * dash, []
    while at < whole.length:
        low, high = max(0.0, at), min(whole.length, at + dash)
        if high - low > 1e-9:
            parts.append(substring(whole, low, high))
        at += dash + gap
    return MultiLineString([part for part in parts if isinstance(part, LineString)])


@dataclass(frozen=True)
class Drawing:
    """rgb : (H, W, 3) uint8; strokes: (N, 2) px, dense; pen: width, px."""

    rgb: NDArray[np.uint8]
    strokes: list[Line]
    pen: float


def pen_drawing(number: int, size: int = 700) -> Drawing:
    """Loops, waves and stems in a pen of one width, that cross and meet."""
    rng = np.random.default_rng(300 + number)
    pen = float(rng.uniform(3.0, 7.0))
    strokes: list[Line] = []
    t = np.linspace(0, 1, 240)
    for _ in range(int(rng.integers(3, 6))):
        x, y, r = *rng.uniform(150, size - 150, 2), rng.uniform(50, 120)
        wide, turn = rng.uniform(0.6, 1.0), rng.uniform(0, np.pi)
        u, v = r * np.cos(2 * np.pi * t), wide * r * np.sin(2 * np.pi * t)
        strokes.append(np.stack([x + u * np.cos(turn) - v * np.sin(turn), y + u * np.sin(turn) + v * np.cos(turn)], axis=1))
    for _ in range(int(rng.integers(3, 6))):
        one, two = rng.uniform(60, size - 60, (2, 2))
        along = two - one
        if np.hypot(*along) < 150:
            continue
        normal = np.array([-along[1], along[0]]) / np.hypot(*along)
        wave = rng.uniform(0, 40) * np.sin(np.pi * t * rng.integers(1, 4))
        strokes.append(one + t[:, None] * along + wave[:, None] * normal)
    ink = shapely.union_all([LineString(own).buffer(pen / 2) for own in strokes])
    return Drawing(scanned(coverage(ink, size, size), rng, number), strokes, pen)


def scanned(amount: NDArray[np.float64], rng: np.random.Generator, number: int) -> NDArray[np.uint8]:
    """Ink on paper as a scanner or a screen gives it: every third one clean, the others with noise, blur and JPEG."""
    ink = np.array([30, 30, 34]) if number % 2 else np.array([40, 60, 120])
    image = 250 - amount[..., None] * (250 - ink)
    if number % 3 == 0:
        return np.clip(np.rint(image), 0, 255).astype(np.uint8)
    image = cv2.GaussianBlur(image, (0, 0), 0.7) + rng.normal(0, 2.0, image.shape)
    buffer = io.BytesIO()
    Image.fromarray(np.clip(image, 0, 255).astype(np.uint8)).save(buffer, "JPEG", quality=85)
    return np.asarray(Image.open(io.BytesIO(buffer.getvalue())).convert("RGB"))


def far(points: Line, lines: list[Line]) -> NDArray[np.float64]:
    """Distance of each point from the nearest of some lines."""
    whole = shapely.union_all([LineString(own) for own in lines])
    return np.array([whole.distance(Point(p)) for p in points])
