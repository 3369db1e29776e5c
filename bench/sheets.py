"""Sheets: whether layers lie in register, how close pieces are laid and how far apart they stay, what a split loses, and how
long it takes.

Run from the project's root: make sheets. Sets named "kept" were never looked at while anything was tuned.
"""

from __future__ import annotations

import sys
import time
from itertools import combinations
from pathlib import Path

import numpy as np
import shapely
import spyrrow
from rectpack import PackingMode, newPacker

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bisectum.core.model.artwork import Artwork
from bisectum.core.model.shapes_of import shape_of, union
from bisectum.core.model.sheet import Area
from bisectum.core.progress import SILENT
from bisectum.core.steps.sheets.carriers import CARRIERS
from bisectum.core.steps.sheets.marks import reach_of
from bisectum.core.steps.sheets.settings import SheetsSettings
from bisectum.core.steps.sheets.split import split
from bisectum.core.steps.sheets.step import Desk, lay_out
from bisectum.services.nester import nest
from tests.core.test_make import made, two
from tests.support.asserts import layer_polygons
from tests.support.mats import artwork, fitted, in_file, mixed, pieces_on, planned, shape

TUNED, KEPT = (1, 2, 3, 4), (101, 102)
SPACING = 3.0
WIDTH = CARRIERS["roll-457"].usable_width_mm
LONG_S = 60


def by_spyrrow(make: Artwork, seconds: int) -> float:
    """The length of a roll that spyrrow by itself needs, mm."""
    items = []
    for number, piece in enumerate(make.layers[0].pieces):
        outline = np.asarray(shapely.Polygon(shape_of([piece], ()).exterior).simplify(0.05).exterior.coords)[:-1]
        items.append(spyrrow.Item(str(number), [(float(y), float(-x)) for x, y in outline], 1, (0.0, 90.0, 180.0, 270.0)))
    config = spyrrow.StripPackingConfig(total_computation_time=seconds, seed=7, num_workers=2, min_items_separation=SPACING)
    return float(spyrrow.StripPackingInstance("roll", WIDTH, items).solve(config).width)


def by_boxes(make: Artwork) -> float:
    """The least length in which rectpack lays their boxes, by halving, mm."""
    boxes = []
    for piece in make.layers[0].pieces:
        left, top, right, bottom = shape_of([piece], ()).bounds
        boxes.append((int(np.ceil(10 * (right - left + SPACING))), int(np.ceil(10 * (bottom - top + SPACING)))))
    low, high = 0, 10 * 3000
    while high - low > 5:
        middle = (low + high) // 2
        packer = newPacker(mode=PackingMode.Offline, rotation=True)
        for number, box in enumerate(boxes):
            packer.add_rect(*box, rid=number)
        packer.add_bin(int(10 * (WIDTH + SPACING)), middle)
        packer.pack()
        low, high = (low, middle) if len(packer.rect_list()) == len(boxes) else (middle, high)
    return high / 10 - SPACING


def length_of(make: Artwork, seconds: int) -> tuple[float, float, float, int]:
    """The length of a roll, the least distance between pieces, how long it took, and how many pieces are there."""
    began = time.perf_counter()
    plan = planned(make, layout="ganged", together="pieces", carrier=CARRIERS["roll-457"], seconds=seconds, spacing_mm=SPACING)
    took = time.perf_counter() - began
    own = pieces_on(plan, 0)
    apart = min(float(shapely.distance(one, other)) for one, other in combinations(own, 2))
    edges = np.array([one.bounds for one in own])
    return float(edges[:, 3].max() - edges[:, 1].min()), apart, took, len(own)


def close() -> None:
    print(f"40 shapes and letters on an 18-inch roll, {SPACING:.0f} mm apart")
    print(f"{'set':10}{'3 s, mm':>9}{'÷ spyrrow 60 s':>16}{'÷ boxes':>9}{'least apart':>13}{'seconds':>9}{'pieces':>8}")
    for seed in (*TUNED, *KEPT):
        make = artwork(mixed(40, seed), size=(1100, 500))
        length, apart, took, count = length_of(make, 3)
        name = f"{'kept' if seed in KEPT else 'tuned'} {seed}"
        ratios = f"{length / by_spyrrow(make, LONG_S):16.3f}{length / by_boxes(make):9.3f}"
        print(f"{name:10}{length:9.1f}{ratios}{apart:13.4f}{took:9.2f}{count:5} of {len(make.layers[0].pieces)}", flush=True)


def register() -> None:
    """How far what lies at one place of the make lies from it on the sheets, read from their files."""
    square = shape("rectangle", 10, 10, (100, 75))
    worst = 0.0
    for mirror in ("none", "all"):
        for turned in (False, True):
            for marks in ("cross", "triangles"):
                plan = planned(artwork(square, square, square, square), mirror=mirror, turned=turned, marks=marks, copies=2)
                found = [np.concatenate([ring for rings in in_file(plan, number).values() for ring in rings])
                         for number in range(len(plan.sheets))]
                worst = max(worst, *(float(np.abs(found[0] - other).max()) for other in found[1:]))
    print(f"register of layers in place, read from the files: {worst:.6f} mm")


def splitting() -> None:
    print(f"{'split':22}{'lost mm²':>10}{'beyond the lap':>16}{'parts':>7}")
    for seed in (*TUNED[:2], *KEPT):
        make = fitted(mixed(12, seed, 50.0), shape("rectangle", 560, 330, (300, 100)))
        for way in ("straight", "calm"):
            asked = SheetsSettings.model_validate({"carrier": CARRIERS["A4"], "split": way, "split_lap_mm": 0})
            tiles = split(make, asked, Area(5, 5, 200, 287), reach_of(asked, seams=True), SILENT)
            lost = doubled = 0.0
            for number, layer in enumerate(make.layers):
                whole = shape_of(layer.pieces, (), 0.001)
                parts = [shapely.transform(shape_of(tile.artwork.layers[number].pieces, (), 0.001), lambda p, at=tile.at: p + at)
                         for tile in tiles]
                together = union(parts)
                lost += shapely.symmetric_difference(together, whole).area
                doubled += sum(part.area for part in parts) - together.area
            name = f"{'kept' if seed in KEPT else 'tuned'} {seed}, {way}"
            print(f"{name:22}{lost:10.4f}{doubled:16.4f}{len(tiles):7}")


def film() -> None:
    """Film that lies on film where it is to be left out."""
    result = made(two(layers={"build": "whole", "material": "heat-transfer vinyl", "knock_out": True}))
    shapes = [layer_polygons(layer) for layer in result.artwork.layers]
    print(f"film on film left by a knock-out: {sum(shapely.intersection(a, b).area for a, b in combinations(shapes, 2)):.6f} mm²")


def speed() -> None:
    small = [piece for k in range(500) for piece in shape("ellipse", 4, 4, (5 + 7 * (k % 25), 5 + 7 * (k // 25)))]
    make = artwork(*[tuple(small)] * 20, size=(180, 145))
    desk = Desk(SheetsSettings(), "card", nest, {})
    began = time.perf_counter()
    lay_out(make, desk)
    print(f"in place, 20 layers of 500 pieces: {time.perf_counter() - began:.3f} s")
    many = artwork(mixed(200, 5, 30.0), size=(600, 1100))
    began = time.perf_counter()
    asked = {"layout": "ganged", "together": "pieces", "carrier": CARRIERS["12x24"], "seconds": 1}
    plan = lay_out(many, Desk(SheetsSettings.model_validate(asked), "card", nest, {}))
    print(f"close together, 200 pieces, first layout: {time.perf_counter() - began:.2f} s, {len(plan.sheets)} sheets")


if __name__ == "__main__":
    register()
    film()
    speed()
    splitting()
    close()
