"""What must hold for every planar map and every artwork."""

from __future__ import annotations

import hashlib
import itertools
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from bisectum.core.cache import Cache
from bisectum.core.course import CourseResult, CourseSettings, Source
from bisectum.core.geom.bezier import flatten, points_at, signed_area
from bisectum.core.job import JobDocument, MakeSettings, PictureItem
from bisectum.core.make import MakeResult, run_make
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.palette import Colour, Palette
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.steps.lines.settings import LinesSettings
from bisectum.core.steps.lines.step import draw_lines

COLOURS = [(40 * i % 256, 90 * i % 256, 200 - 30 * i % 200) for i in range(1, 256)]


@dataclass(frozen=True)
class Traced:
    """A make of one picture, with what its course made of it."""

    make: MakeResult

    @property
    def course(self) -> CourseResult:
        return self.make.courses["picture-1"]

    @property
    def artwork(self) -> Artwork:
        return self.make.artwork

    @property
    def frame(self) -> tuple[float, float, float, float]:
        """Left, top, width and height of the picture on the page, mm."""
        matrix = self.make.arrangement.frame("picture-1").matrix
        planar = self.course.planar_map
        return float(matrix[0, 2]), float(matrix[1, 2]), planar.width * float(matrix[0, 0]), planar.height * float(matrix[0, 0])

    def __getattr__(self, name: str) -> Any:
        return getattr(self.make.courses["picture-1"], name)


def document_of(steps: dict[str, Any], digest: str = "d" * 64) -> JobDocument:
    """A job of one picture, with settings of single steps."""
    minted = steps.pop("minted", 1)
    make = {name: steps[name] for name in ("arrange", "layers") if name in steps}
    course = CourseSettings.model_validate({name: own for name, own in steps.items() if name not in make})
    item = PictureItem(id="picture-1", name="drawing", source=digest, file_name="", course=course)
    return JobDocument(name="drawing", items=(item,), make=MakeSettings.model_validate(make), minted=minted)


def trace(rgba: NDArray[np.uint8], mm_per_px: float = 1.0, most_px: int | None = None, **steps: Any) -> Traced:
    """Run a make of one picture on pixels, with settings of single steps."""
    return trace_into({}, rgba, mm_per_px, most_px, **steps)


def trace_into(
    cache: Cache, rgba: NDArray[np.uint8], mm_per_px: float = 1.0, most_px: int | None = None, name: str = "drawing", **steps: Any
) -> Traced:
    """The same, with results of earlier runs. name: of the picture, which results are kept by."""
    digest = hashlib.sha256(name.encode()).hexdigest()
    return Traced(run_make({digest: Source(rgba, mm_per_px, digest)}, document_of(steps, digest), cache, most_px=most_px))


def map_of_labels(labels: NDArray[np.uint8], closeness_mm: float = 0.1) -> PlanarMap:
    """Lines of labels alone, without a picture to refine them by."""
    count = int(labels.max())
    label_map = LabelMap(labels, Palette(tuple(Colour(COLOURS[i], 0.1) for i in range(count))), 1.0)
    nothing = np.zeros((1, 1, 4), np.uint8)
    return draw_lines(label_map, nothing, np.zeros((count + 1, 6, 4)), LinesSettings(closeness_mm=closeness_mm))


def assert_watertight(planar: PlanarMap) -> None:
    """No faults, the faces fill the picture exactly, Euler's formula holds."""
    assert list(planar.faults()) == []
    areas = np.zeros(len(planar.face_labels))
    for face, loop in planar.loops():
        if face >= 0:
            areas[face] += signed_area(np.concatenate([planar.walk(half)[0] for half in loop]))
    assert (areas > 0).all()
    np.testing.assert_allclose(areas.sum(), planar.width * planar.height, rtol=1e-9)
    closed = int((planar.ends[:, 0] < 0).sum())
    # A closed chain counts as one vertex with one edge; every other chain ends at junctions.
    vertices, edges = len(planar.junctions) + closed, planar.chain_count
    components = _components(planar)
    assert vertices - edges + (len(planar.face_labels) + 1) == 1 + components


def _components(planar: PlanarMap) -> int:
    parents = list(range(len(planar.junctions)))

    def top(item: int) -> int:
        while parents[item] != item:
            item = parents[item]
        return item

    for start, end in planar.ends:
        if start >= 0:
            parents[top(start)] = top(end)
    return len({top(i) for i in range(len(parents))}) + int((planar.ends[:, 0] < 0).sum())


def layer_polygons(layer: Layer, tolerance: float = 0.005) -> shapely.MultiPolygon:
    """A layer's pieces as polygons, flattened."""
    return shapely.MultiPolygon([
        Polygon(flatten(piece.outline.segments, tolerance), [flatten(w.segments, tolerance) for w in piece.windows])
        for piece in layer.pieces
    ])


def assert_fits(artwork: Artwork) -> None:
    """Whole: every layer covers all above it. Flush: layers share borders and nothing else."""
    artwork.check()
    shapes = [shapely.make_valid(layer_polygons(layer)) for layer in artwork.layers]
    for lower, upper in itertools.pairwise(shapes):
        slack = 0.01 * upper.length
        if artwork.build == "whole":
            assert upper.difference(lower).area <= slack
        else:
            assert upper.intersection(lower).area <= slack


def distances(segments: NDArray[np.float64], outline: shapely.Geometry) -> NDArray[np.float64]:
    """Distance of a dense run of points of a path from a true outline."""
    points = points_at(segments, np.linspace(0, 1, 161)).reshape(-1, 2)
    return shapely.distance(shapely.points(points), outline)
