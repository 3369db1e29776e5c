"""Photographs that nobody made for Bisectum, their parts and enlargements, and what can be measured of a result by itself.

Those that come with scikit-image and scikit-learn; faces of skimage's lfw_subset (25 × 25 px, of "Labeled Faces in the
Wild", G. B. Huang et al., 2007). Every third by name is kept for the end: see tests/support/strangers.py.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.course import CourseSettings, Source
from bisectum.core.geom.bezier import points_at
from bisectum.core.job import MakeSettings, new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.raster.difference import ciede2000, cielab
from tests.support.strangers import RGB, shipped

WHOLE = ("astronaut", "camera", "chelsea", "coffee", "rocket", "clock_motion", "motorcycle_left", "china", "flower", "moon",
         "retina", "ihc")
FACES = (3, 17, 42, 77)
WIDTH_MM = 150.0
SEEN_MM = 0.5  # deviation of the blur of a look from a distance
NARROW_MM, LONG_HAIR_MM = 0.8, 1.2


@dataclass(frozen=True)
class Photo:
    name: str
    rgba: RGB

    @property
    def kept(self) -> bool:
        return zlib.crc32(self.name.encode()) % 3 == 0


def photos(large: bool = False) -> Iterator[Photo]:
    """large: with enlargements to 12 megapixels."""
    for number, name in enumerate(WHOLE):
        rgba = shipped(name)
        yield Photo(name, rgba)
        height, width = rgba.shape[:2]
        top, left = height * (number % 3) // 6, width * (number % 4) // 8
        yield Photo(f"{name}, part", np.ascontiguousarray(rgba[top : top + height // 2, left : left + width // 2]))
        if large and number % 4 == 0:
            times = (12e6 / (height * width)) ** 0.5
            yield Photo(f"{name}, 12 MP", np.asarray(cv2.resize(rgba, None, fx=times, fy=times, interpolation=cv2.INTER_CUBIC)))
    for number in FACES:
        yield Photo(f"face {number}", face(number))


def face(number: int) -> RGB:
    """A face of 25 × 25 px, opaque and grey."""
    import skimage

    grey = np.load(Path(skimage.__file__).parent / "data/lfw_subset.npy")[number]
    pixels = np.clip(np.rint(255 * grey), 0, 255).astype(np.uint8)
    return np.dstack([pixels, pixels, pixels, np.full_like(pixels, 255)])


def treated(rgba: RGB, colours: dict[str, object], background: str = "keep", width_mm: float = WIDTH_MM,
            build: str = "whole", cache: dict[str, object] | None = None) -> MakeResult:
    """A photograph made with some settings of the Colours step."""
    settings = CourseSettings.model_validate({
        "picture": {"width_mm": width_mm}, "background": {"mode": background}, "colours": {"kind": "photo", **colours}})
    digest = f"{zlib.crc32(rgba.tobytes()):064x}"
    document = new_document(digest, "", "photo", settings, MakeSettings.model_validate({"layers": {"build": build}}))
    return run_make({digest: Source(rgba, 0.2, digest)}, document, {} if cache is None else cache)


def polygons(layer: Layer) -> list[shapely.Polygon]:
    """The pieces of a layer as polygons, mm; curves by 9 points each."""
    def ring(curves: NDArray[np.float64]) -> NDArray[np.float64]:
        return points_at(curves, np.linspace(0, 1, 9)[:-1]).reshape(-1, 2)

    return [shapely.Polygon(ring(piece.outline.segments), [ring(window.segments) for window in piece.windows]).buffer(0)
            for piece in layer.pieces]


def narrow_places(shape: shapely.Geometry, width_mm: float = NARROW_MM) -> int:
    """Necks and hairs: parts a disc of that width does not fit into that join two others, stand alone, or stick out far. A
    pointed tip is none."""
    radius = 0.97 * width_mm / 2
    thick = shape.buffer(-radius).buffer(radius * 1.02)
    count = 0
    for part in shapely.get_parts(shape.difference(thick)):
        if part.area < 0.02:
            continue
        joined = shapely.get_parts(thick.intersection(part.buffer(0.02)))
        touching = [own for own in joined if own.area > 1e-4]
        far = max((shapely.Point(at).distance(thick) for at in part.exterior.coords), default=0.0) if touching else np.inf
        count += (len(touching) >= 2 and _parted(thick, part)) or far > LONG_HAIR_MM
    return count


def _parted(thick: shapely.Geometry, part: shapely.Polygon) -> bool:
    """Whether a thin part is all that joins its neighbours there."""
    near = thick.intersection(part.buffer(2 * NARROW_MM))
    return len([own for own in shapely.get_parts(near) if own.area > 0.02]) >= 2


def seen(rgb: NDArray[np.uint8], mm_per_px: float) -> NDArray[np.float64]:
    """CIELAB of a picture seen from a distance. rgb : (H, W, 3) uint8."""
    return cielab(np.asarray(cv2.GaussianBlur(rgb, (0, 0), max(0.3, SEEN_MM / mm_per_px)), np.uint8))


def difference(result: MakeResult, rgba: RGB) -> tuple[float, NDArray[np.float64], float]:
    """Mean ΔE00 of a result and its picture, kept whole and seen from a distance; the picture so seen, CIELAB; mm of a pixel."""
    course = next(iter(result.courses.values()))
    labels, palette = course.label_map.labels, course.label_map.palette
    made = np.array([(255, 255, 255), *(colour.rgb for colour in palette.colours)], np.uint8)[labels]
    mm = course.label_map.mm_per_px
    shape = labels.shape[1], labels.shape[0]
    how = cv2.INTER_AREA if rgba.shape[1] > shape[0] else cv2.INTER_CUBIC
    wanted = seen(np.asarray(cv2.resize(np.ascontiguousarray(rgba[..., :3]), shape, interpolation=how), np.uint8), mm)
    return float(ciede2000(wanted, cielab(made)).mean()), wanted, mm


def best_of(wanted: NDArray[np.float64], count: int) -> float:
    """Mean ΔE00 of the best that so many colours can do, each pixel by itself, whatever that takes to cut: k-means in CIELAB
    (scikit-learn)."""
    from sklearn.cluster import KMeans

    flat = wanted.reshape(-1, 3)
    sample = flat[:: max(1, len(flat) // 20_000)]
    means = KMeans(count, n_init=2, random_state=0).fit(sample)
    return float(ciede2000(sample, means.cluster_centers_[means.predict(sample)]).mean())


def small_pieces(artwork: Artwork, least_mm2: float = 1.0) -> int:
    return sum(piece.area < least_mm2 for layer in artwork.layers for piece in layer.pieces)
