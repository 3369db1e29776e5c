"""Places marked by hand in photographs that come with scikit-image and scikit-learn: what a person looks for in a result.

All coordinates are percent of the picture's width. They were marked by one person on the pictures alone, before any result was
seen. More photographs can lie in a folder with a file marks.json of the same shape.
"""

from __future__ import annotations

import json
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from bisectum.core.geom.bezier import points_at
from bisectum.core.make import MakeResult
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.raster.din99o import din99o, lab_image
from tests.support.strangers import RGB, shipped

Feature = tuple[str, float, float, float]  # name, x, y, radius
Hue = tuple[str, float, float, float, float]  # name, x, y, and x, y of what it stands out from
Pixels = NDArray[np.float32]

FEATURES: dict[str, list[Feature]] = {
    "astronaut": [("left eye", 40.5, 22.8, 1.8), ("right eye", 46.3, 22.8, 1.8), ("nose", 43.3, 25.3, 1.8),
                  ("mouth", 43.5, 28.3, 2.2), ("patch", 33, 75, 6), ("badge", 59, 70, 4), ("window in the helmet", 70, 86, 3)],
    "chelsea": [("left eye", 37.5, 26, 7), ("right eye", 71, 30.5, 5.5), ("left pupil", 38, 24, 3),
                ("right pupil", 72, 30.5, 2.5), ("nose", 57.5, 54, 5)],
    "coffee": [("handle", 37, 44, 5), ("spoon", 61, 46, 6), ("opening", 48, 20, 14)],
    "flower": [("heart", 48, 34, 7), ("petals", 33, 30, 5), ("second flower", 57, 62, 6)],
    "china": [("knob", 32, 6, 3), ("roof", 32, 15, 10), ("windows", 27, 37, 5), ("island", 71, 36, 4)],
    "rocket": [("rocket", 50, 40, 8), ("tip", 50, 22, 3), ("mast", 30, 48, 5), ("lamp", 30, 61, 3), ("second lamp", 57, 61, 3)],
}
HUES: dict[str, list[Hue]] = {
    "astronaut": [("skin", 40.8, 26, 62, 20), ("hair", 43, 8, 28, 10), ("suit", 20, 58, 26, 35), ("flag's red", 13, 35, 26, 35),
                  ("flag's blue", 6, 12, 26, 10), ("patch", 28.5, 72, 22, 68), ("badge", 57, 69, 52, 78),
                  ("tank", 80, 14, 62, 15)],
    "chelsea": [("left eye", 34, 26, 25, 32), ("right eye", 68, 31, 60, 38), ("nose", 57.5, 53, 50, 42),
                ("cushion", 95, 45, 20, 45)],
    "coffee": [("coffee", 45, 24, 40, 8), ("saucer", 22, 40, 5, 40), ("spoon", 61, 47, 50, 55), ("cup", 50, 5, 85, 20)],
    "flower": [("petals", 38, 45, 20, 30), ("heart", 48, 34, 36, 36), ("bud", 93, 65, 85, 55)],
    "china": [("roof", 38, 15, 60, 10), ("wall", 35, 36, 60, 45), ("trees", 70, 55, 70, 40)],
    "rocket": [("rocket", 50, 50, 60, 45), ("lamp", 57, 61, 60, 50)],
}
BLUR_MM = 0.3  # features are looked at as from a distance
ALIKE, CONTRAST = 0.7, 0.4  # how like in form, and how much of the contrast is left, where a feature or hue is kept
PROBE = 1.0  # percent of the width: radius of what is looked at for a hue
EDGE_MM, SHARP, ABOVE = 0.25, 3.0, 1.5  # blur, least step in DIN99o and in that of its surroundings, of a sharp edge
LOOK_MM, STEP_MM = 0.6, 0.1  # how far and how finely an edge is looked for beside a line


@dataclass(frozen=True)
class Marked:
    name: str
    rgba: RGB
    features: list[Feature]
    hues: list[Hue]

    @property
    def kept(self) -> bool:
        """Every third is kept apart while methods are tuned."""
        return zlib.crc32(self.name.encode()) % 3 == 0


def marked(folder: Path | None = None) -> Iterator[Marked]:
    """folder: of more photographs and their marks.json, {name: {"features": [...], "hues": [...]}}."""
    for name in FEATURES:
        yield Marked(name, shipped(name), FEATURES[name], HUES[name])
    if folder:
        for name, own in json.loads((folder / "marks.json").read_text()).items():
            yield Marked(name, np.asarray(Image.open(folder / f"{name}.png").convert("RGBA")), own["features"], own["hues"])


def looks_of(result: MakeResult, rgba: RGB) -> tuple[Pixels, Pixels, float]:
    """A result as it is coloured and its photograph, DIN99o of one shape (H, W, 3), and mm of a pixel."""
    label_map = next(iter(result.courses.values())).label_map
    made = np.array([(255, 255, 255), *(colour.rgb for colour in label_map.palette.colours)], np.uint8)[label_map.labels]
    shape = made.shape[1], made.shape[0]
    how = cv2.INTER_AREA if rgba.shape[1] > shape[0] else cv2.INTER_CUBIC
    photo = np.asarray(cv2.resize(np.ascontiguousarray(rgba[..., :3]), shape, interpolation=how), np.uint8)
    return din99o(lab_image(made)), din99o(lab_image(photo)), label_map.mm_per_px


def features_kept(made: Pixels, photo: Pixels, mm: float, features: list[Feature]) -> list[str]:
    """Names of features whose light and dark, and colours, are still where they were."""
    one, other = (cv2.GaussianBlur(pixels, (0, 0), BLUR_MM / mm) for pixels in (photo, made))
    percent = made.shape[1] / 100
    kept = []
    for name, x, y, radius in features:
        left, right, top, bottom = (int(max(0, percent * at)) for at in
                                    (x - 1.25 * radius, x + 1.25 * radius, y - 1.25 * radius, y + 1.25 * radius))
        wanted, found = (own[top:bottom, left:right].reshape(-1, 3) for own in (one, other))
        if _is_like(wanted - wanted.mean(axis=0), found - found.mean(axis=0)):
            kept.append(name)
    return kept


def hues_kept(made: Pixels, photo: Pixels, hues: list[Hue]) -> list[str]:
    """Names of places whose hue still differs from what lies beside it as in the photograph."""
    def step(pixels: Pixels, hue: Hue) -> Pixels:
        return np.asarray(_probe(pixels, *hue[1:3]) - _probe(pixels, *hue[3:5]))[1:]

    return [hue[0] for hue in hues if _is_like(step(photo, hue), step(made, hue))]


def _probe(pixels: Pixels, x: float, y: float) -> Pixels:
    percent = pixels.shape[1] / 100
    rows, columns = np.ogrid[: pixels.shape[0], : pixels.shape[1]]
    near = (columns - x * percent) ** 2 + (rows - y * percent) ** 2 <= max(1.5, PROBE * percent) ** 2
    return np.asarray(pixels[near].mean(axis=0))


def _is_like(wanted: Pixels, found: Pixels) -> bool:
    product, own = float((wanted * found).sum()), float((wanted**2).sum())
    return product >= ALIKE * np.sqrt(own * float((found**2).sum())) and product >= CONTRAST * max(own, 1e-6)


def edges_off(planar: PlanarMap, photo: Pixels, mm: float) -> NDArray[np.float64]:
    """How far drawn lines lie beside the sharp edge they are drawn along, mm; one value for each place along them."""
    blurred = cv2.GaussianBlur(photo, (0, 0), EDGE_MM / mm)
    slopes = [cv2.Sobel(blurred, cv2.CV_32F, *way, ksize=3, scale=0.125) for way in ((1, 0), (0, 1))]
    step = np.sqrt(sum((slope**2).sum(axis=2) for slope in slopes)) * np.float32(EDGE_MM / mm)
    around = np.sqrt(cv2.GaussianBlur(step**2, (0, 0), 4.0 / mm))
    points, along = _places(planar)
    normal = np.stack([-along[:, 1], along[:, 0]], axis=1)
    inside = (points > 2 * LOOK_MM).all(axis=1) & (points < np.array([planar.width, planar.height]) - 2 * LOOK_MM).all(axis=1)
    points, normal = points[inside], normal[inside]
    offsets = np.arange(-LOOK_MM, LOOK_MM + STEP_MM / 2, STEP_MM)
    here = _at(step, points, mm)
    sharp = (here > SHARP) & (here > ABOVE * _at(around, points, mm))
    beside = np.stack([_at(step, points[sharp] + offset * normal[sharp], mm) for offset in offsets], axis=1)
    peak = beside[:, 1:-1].argmax(axis=1) + 1
    rows = np.arange(len(peak))
    before, top, after = beside[rows, peak - 1], beside[rows, peak], beside[rows, peak + 1]
    bend = before - 2 * top + after
    between = np.where(np.abs(bend) > 1e-6, 0.5 * (before - after) / np.where(bend == 0, 1, bend), 0)
    return np.asarray(np.abs(offsets[peak] + STEP_MM * np.clip(between, -1, 1)))


def _places(planar: PlanarMap) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Points along all lines, about every .4 mm, and the direction there: two (N, 2)."""
    points = points_at(planar.segments, np.linspace(0, 1, 33)).reshape(-1, 33, 2)
    ways = np.diff(points, axis=1)
    lengths = np.linalg.norm(ways, axis=2)
    times = np.maximum(1, np.ceil(32 * 0.4 / np.maximum(lengths.sum(axis=1), 1e-9))).astype(int)
    chosen = (np.arange(32)[None] % times[:, None] == 0) & (lengths > 1e-9)
    return points[:, :-1][chosen], (ways / np.maximum(lengths, 1e-9)[..., None])[chosen]


def _at(values: Pixels, points: NDArray[np.float64], mm: float) -> Pixels:
    at = (points / mm - 0.5).astype(np.float32)
    return np.asarray(cv2.remap(values, at[None, :, 0], at[None, :, 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[0])
