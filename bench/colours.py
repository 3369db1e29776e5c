"""Whether the colours of a drawing are found, all of them and no others: on drawings generated with known palettes, and on
an open set of multi-colour icons (Flat Color Icons, MIT, from npm), clean, small and as JPEG.

Truth is the set of fills that cover at least 0.1 % of the picture. Run: make colours.
"""

from __future__ import annotations

import io
import json
import re
import statistics
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image, ImageDraw

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))
sys.path.insert(0, str(Path(__file__).parent))

from drawing import harbour, palette_and_labels  # noqa: E402

from bisectum.core.course import CourseSettings, Source, run_course  # noqa: E402
from bisectum.core.model.ground import Ground  # noqa: E402
from bisectum.core.model.label_map import LabelMap  # noqa: E402
from bisectum.core.model.picture import Picture  # noqa: E402
from bisectum.core.raster.colour import hex_of  # noqa: E402
from bisectum.core.raster.difference import ciede2000, cielab  # noqa: E402
from bisectum.core.raster.regions import regions_of  # noqa: E402
from bisectum.core.steps.background.settings import BackgroundSettings  # noqa: E402
from bisectum.core.steps.background.step import find_background  # noqa: E402
from bisectum.core.steps.colours.settings import ColoursSettings  # noqa: E402
from bisectum.core.steps.colours.step import separate_colours  # noqa: E402

ICONS = ROOT / "web/node_modules/@iconify-json/flat-color-icons/icons.json"
LEAST_SHARE = 0.001
FINE, BESIDE = 4, 2  # times as large; px about a fringe within which a colour is beside it
SAME = 10.0  # CIEDE2000 within which a palette colour is the true one
APART = 12.0  # CIEDE2000 between the colours of a generated drawing
ROUNDS = 7  # of which the median time is told
EVERY = 3  # icons that are measured, of those that fit


@dataclass(frozen=True)
class Sample:
    """rgb : (H, W, 3) uint8, clean; truth : (N, 3) its colours, the ground not among them; labels : (H, W), -1 on fringes,
    a mix that happens to be like another colour among them.

    about : (H, W, N + 2), which colours are in each pixel or within BESIDE of it, the ground first, then the true ones, and last
    whether any too small to count is; by a picture FINE times as large.
    """

    name: str
    rgb: NDArray[np.uint8]
    truth: NDArray[np.uint8]
    labels: NDArray[np.int64]
    about: NDArray[np.bool_]


def icons(size: int) -> Iterator[Sample]:
    """Icons on white, with 2 to 10 opaque fills that are not nearly white themselves."""
    chosen = 0
    for name, icon in json.loads(ICONS.read_text())["icons"].items():
        body = icon["body"]
        if any(word in body for word in ("radient", "opacity", "stroke", "currentColor")) or "logo" in name:
            continue
        fills = sorted({_whole(fill) for fill in re.findall(r'fill="(#[0-9a-fA-F]{3,6})"', body)})
        if not 2 <= len(fills) <= 10:
            continue
        chosen += 1
        if chosen % EVERY:
            continue
        svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 48 48"><path fill="#fff" d="M0 0h48v48H0z"/>{body}</svg>'
        image, fine = (Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=svg, width=across, height=across))))
                       for across in (size, FINE * size))
        if re.search(r'<(path|circle|rect|polygon|ellipse)(?![^>]*fill=)', body) and not body.startswith("<g fill"):
            fills.append("#000000")  # what has no fill of its own is black
        known = [tuple(bytes.fromhex(fill[1:])) for fill in fills]
        yield sample(name, np.asarray(image.convert("RGB")), np.asarray(fine.convert("RGB")), known)


def _whole(fill: str) -> str:
    return (fill if len(fill) == 7 else "#" + "".join(2 * digit for digit in fill[1:])).lower()


def generated(count: int, size: int = 480) -> Iterator[Sample]:
    """Discs and boxes over each other, 2 to 10 colours that are clearly apart, anti-aliased."""
    for seed in range(count):
        rng = np.random.default_rng(seed)
        wanted = 2 + seed % 9
        colours: list[tuple[int, ...]] = []
        while len(colours) < wanted:
            fresh = tuple(int(value) for value in rng.integers(0, 256, 3))
            known = cielab(np.array([*colours, (255, 255, 255)], np.uint8))
            if ciede2000(cielab(np.array(fresh, np.uint8)), known).min() > APART:
                colours.append(fresh)
        image = Image.new("RGB", (FINE * size, FINE * size), "white")
        draw = ImageDraw.Draw(image)
        for number in range(5 * wanted):
            x, y = rng.uniform(0.2, 0.8, 2) * FINE * size
            reach = size * FINE * rng.uniform(0.02, 0.16)
            box = [x - reach, y - reach, x + reach, y + reach]
            (draw.ellipse if number % 2 else draw.rectangle)(box, fill=colours[number % wanted])
        small = image.resize((size, size), Image.Resampling.BOX)
        yield sample(f"generated {seed}", np.asarray(small), np.asarray(image), colours)


def sample(name: str, rgb: NDArray[np.uint8], fine: NDArray[np.uint8], colours: list[tuple[int, ...]]) -> Sample:
    """fine : (FINE · H, FINE · W, 3), the same picture larger."""
    labels = np.full(rgb.shape[:2], -1)
    labels[_whole_px(rgb, fine, (255, 255, 255))] = 0
    truth, about, small = [], [_about(fine, (255, 255, 255))], np.zeros(rgb.shape[:2], bool)
    for colour in colours:
        if (rgb == np.array(colour, np.uint8)).all(axis=2).mean() >= LEAST_SHARE and np.abs(np.array(colour) - 255).max() > 12:
            truth.append(colour)
            about.append(_about(fine, colour))
            labels[_whole_px(rgb, fine, colour)] = len(truth)
        else:
            small |= _about(fine, colour)
    return Sample(name, rgb, np.array(truth, np.uint8).reshape(-1, 3), labels, np.stack([*about, small], axis=2))


def _whole_px(rgb: NDArray[np.uint8], fine: NDArray[np.uint8], colour: tuple[int, ...]) -> NDArray[np.bool_]:
    return (rgb == np.array(colour, np.uint8)).all(axis=2) & _parts(fine, colour).all(axis=(1, 3))


def _parts(fine: NDArray[np.uint8], colour: tuple[int, ...]) -> NDArray[np.bool_]:
    """(H, FINE, W, FINE), which parts of each pixel have the colour."""
    own = (fine == np.array(colour, np.uint8)).all(axis=2)
    return own.reshape(own.shape[0] // FINE, FINE, own.shape[1] // FINE, FINE)


def _about(fine: NDArray[np.uint8], colour: tuple[int, ...]) -> NDArray[np.bool_]:
    there = _parts(fine, colour).any(axis=(1, 3)).astype(np.uint8)
    return cv2.dilate(there, np.ones((2 * BESIDE + 1, 2 * BESIDE + 1), np.uint8)) > 0


def jpeg(quality: int) -> Callable[[NDArray[np.uint8]], NDArray[np.uint8]]:
    def spoil(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
        buffer = io.BytesIO()
        Image.fromarray(rgb).save(buffer, "JPEG", quality=quality)
        return np.asarray(Image.open(buffer).convert("RGB"))

    return spoil


def separated(rgb: NDArray[np.uint8]) -> tuple[Ground, LabelMap]:
    picture = Picture(np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)]), 0.2)
    ground = find_background(picture, BackgroundSettings(enclosed="all"))
    return ground, separate_colours(picture.without(ground.cleared), ground, ColoursSettings())


@dataclass
class Row:
    exact: bool
    found: int
    wanted: int
    errors: list[float]
    beyond: list[float]  # what of the errors is not the format's own: JPEG keeps even a flat colour to a level or two
    wrong: float
    halo: int  # pixels in fringes given to a colour that is neither in them nor beside them
    extra: int


def halo_of(found: NDArray[np.int64], one: Sample) -> int:
    """found : (H, W) the true label each pixel was given to, -2 where to none."""
    fitting = one.about[..., -1].copy()
    for label in range(len(one.truth) + 1):
        fitting |= (found == label) & one.about[..., label]
    return int(((one.labels < 0) & ~fitting).sum())


def measure(one: Sample, spoil: Callable[[NDArray[np.uint8]], NDArray[np.uint8]]) -> Row:
    _, label_map = separated(spoil(one.rgb))
    palette = np.array([colour.rgb for colour in label_map.palette.colours], np.uint8)
    apart = ciede2000(cielab(one.truth)[:, None], cielab(palette)[None])
    nearest = apart.argmin(axis=1)
    near = (apart.min(axis=1) <= SAME) & (apart.argmin(axis=0)[nearest] == np.arange(len(apart)))  # one stands for one
    meant = np.zeros(len(palette) + 1, np.int64) - 2
    meant[0] = 0
    for number in np.flatnonzero(near):
        meant[nearest[number] + 1] = number + 1
    sure = one.labels >= 0
    wrong = float((meant[label_map.labels][sure] != one.labels[sure]).mean()) if near.all() else float("nan")
    there, most = len(regions_of(label_map.labels).sizes), len(regions_of((one.labels + 1).astype(np.uint8)).sizes)
    halo = halo_of(meant[label_map.labels], one)
    exact = bool(near.all()) and len(palette) == len(one.truth)
    kept = np.array([spoil(np.full((32, 32, 3), colour, np.uint8))[16, 16] for colour in one.truth])
    beyond = ciede2000(cielab(kept), cielab(palette[nearest]))[near].tolist()
    errors = apart.min(axis=1)[near].tolist()
    return Row(exact, int(near.sum()), len(one.truth), errors, beyond, wrong, halo, max(0, there - most))


def main(details: bool) -> None:
    heads = ("exact count", 12), ("found", 8), ("ΔE mean", 9), ("greatest", 9), ("beyond", 8), ("wrong px", 10), ("halo px", 9)
    print(" " * 26 + "".join(f"{head:>{width}}" for head, width in (*heads, ("most", 7), ("regions +", 10))))
    sets = {"generated, 480 px": generated(60), "icons, 480 px": icons(480), "icons, 160 px": icons(160)}
    for title, every in sets.items():
        samples = [one for one in every if len(one.truth) >= 2]
        for name, spoil in (("clean", lambda rgb: rgb), ("JPEG 90", jpeg(90)), ("JPEG 75", jpeg(75)), ("JPEG 50", jpeg(50))):
            rows = [(one, measure(one, spoil)) for one in samples]
            errors = np.concatenate([row.errors for _, row in rows])
            found = sum(row.found for _, row in rows) / sum(row.wanted for _, row in rows)
            print(
                f"{title + ', ' + name:<26}{np.mean([row.exact for _, row in rows]):12.1%}"
                f"{found:8.1%}{errors.mean():9.2f}{errors.max():9.2f}{max(max(row.beyond, default=0) for _, row in rows):8.2f}"
                f"{np.nanmean([row.wrong for _, row in rows]):10.3%}"
                f"{np.mean([row.halo for _, row in rows]):9.1f}{max(row.halo for _, row in rows):7d}"
                f"{sum(row.extra for _, row in rows):10d}"
            )
            if details:
                print("   ", ", ".join(f"{one.name} {row.found}/{row.wanted}" for one, row in rows if not row.exact))
    times()


def times() -> None:
    """Palette and assignment, and the whole step with tidying, beside Pillow's quantize to the same count; then changes."""
    print("\nseconds; palette and assignment, and the whole step, as shares of Pillow's quantize to the same count")
    for size in ((1000, 1000), (4000, 3000)):
        own, whole, other, _ = beside_quantize(harbour(*size))
        print(f"{size[0]} × {size[1]}: {own:.3f} ({own / other:.2f}), {whole:.3f} ({whole / other:.2f}), quantize {other:.3f}")
    print("a change at 1 MP, to the new labels, and to the new lines and layers as well:", end="")
    source = Source(np.asarray(harbour(1000, 1000).convert("RGBA")), 0.2, "harbour")
    cache: dict[str, object] = {}
    palette = run_course(source, CourseSettings(), cache).label_map.palette
    one, other_colour = (hex_of(colour.rgb) for colour in palette.colours[:2])
    changes: dict[str, dict[str, object]] = {
        "count": {"count": len(palette.colours) - 1}, "pin": {"pins": [{"colour": "#123456"}]},
        "merge": {"palette_changes": [{"kind": "merge", "colour": one, "into": other_colour}]},
    }
    for name, change in changes.items():
        labels, stage = of_change(source, change, cache)
        print(f"  {name} {labels:.3f}, {stage:.3f}", end="")
    print()


def beside_quantize(image: Image.Image) -> list[float]:
    """Median seconds of palette and assignment, of the whole step, and of quantize to the same count; and that count."""
    picture = Picture(np.asarray(image.convert("RGBA")), 0.05)
    ground = find_background(picture, BackgroundSettings())
    count = len(separate_colours(picture, ground, ColoursSettings()).palette.colours)
    every = [
        (seconds(lambda: palette_and_labels(picture, ground)),
         seconds(lambda: separate_colours(picture, ground, ColoursSettings())), seconds(lambda: image.quantize(count + 1)))
        for _ in range(ROUNDS)
    ]
    return [*(statistics.median(column) for column in zip(*every, strict=True)), count]


def of_change(source: Source, change: dict[str, object], cache: dict[str, object]) -> tuple[float, float]:
    """Seconds to the new labels, and to the end of the course, where picture and background are known."""
    settings = CourseSettings().changed("colours", change)
    picture = Picture(source.rgba, source.natural_mm_per_px)
    ground = find_background(picture, settings.background)
    labels = seconds(lambda: separate_colours(picture, ground, settings.colours))
    return labels, seconds(lambda: run_course(source, settings, cache))


def seconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


if __name__ == "__main__":
    main("--details" in sys.argv)
