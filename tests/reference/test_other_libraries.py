"""Regions, windows and pictures of results against libraries that know nothing of Bisectum."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import rasterio.features
import resvg_py
import shapely
import shapely.geometry
from PIL import Image
from skimage.segmentation import flood

from bisectum.core.formats.svg.write import write_svg
from bisectum.core.geom.bezier import signed_area
from bisectum.core.raster.colour import LINEAR_OF_SRGB
from bisectum.core.raster.flood import distance_from_surface, flood_from_border
from bisectum.core.raster.surface import TERMS
from bisectum.services.decode import decode
from tests.support.asserts import Traced, assert_fits, assert_watertight, layer_polygons, map_of_labels, trace


@pytest.fixture(scope="module", params=["lighthouse.png", "berth-sign.png", "kettle.jpg"])
def result(request: pytest.FixtureRequest, pictures: Path) -> Traced:
    source, _ = decode((pictures / request.param).read_bytes())
    return trace(source.rgba, picture={"width_mm": 120.0, "measured": "picture"}, layers={"build": "flush"})


def test_regions_and_windows_are_rasterios(result: Traced) -> None:
    """rasterio.features.shapes (GDAL's polygoniser), sides connecting, saddles apart."""
    labels, planar = result.label_map.labels, result.planar_map
    truth = [(int(value), shapely.geometry.shape(shape)) for shape, value in rasterio.features.shapes(labels)]
    assert len(planar.face_labels) <= len(truth)  # areas may hang together by a corner, which rasterio cuts
    scale = planar.mm_per_px**2
    for label in np.unique(labels):
        expected = sum(shape.area for value, shape in truth if value == label) * scale
        found = 0.0
        for face, loop in planar.loops():
            if face >= 0 and planar.face_labels[face] == label:
                path = np.concatenate([planar.walk(half)[0] for half in loop])
                found += signed_area(path)
        assert found == pytest.approx(expected, rel=0.02, abs=60 * scale)


def test_the_demo_is_watertight_and_fits(result: Traced) -> None:
    assert_watertight(result.planar_map)
    assert_fits(result.artwork)


def test_rendered_it_is_the_label_map(result: Traced) -> None:
    """resvg draws the file at the label map's size; pixels that are not on an edge have the label's colour."""
    labels = result.label_map.labels
    height, width = labels.shape
    text = write_svg(result.artwork, "t")
    image = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=text, width=width, height=height, dpi=96)))).convert(
        "RGBA"
    )
    drawn = np.asarray(image).astype(int)
    height = min(height, drawn.shape[0])  # a page of 173.9 px is drawn on whole ones
    drawn, labels = drawn[:height], labels[:height]
    palette = np.array([(0, 0, 0), *(colour.rgb for colour in result.label_map.palette.colours)])
    expected = palette[labels]
    flat = np.ones(labels.shape, bool)
    for axis in (0, 1):
        for shift in (-2, -1, 1, 2):
            flat &= np.roll(labels, shift, axis) == labels
    wrong = np.where(labels == 0, drawn[..., 3] > 20, np.abs(drawn[..., :3] - expected).max(axis=-1) > 12)
    assert wrong[flat].mean() < 0.001


def test_areas_of_the_demo_are_those_it_was_drawn_with(pictures: Path) -> None:
    source, _ = decode((pictures / "lighthouse.png").read_bytes())
    artwork = trace(source.rgba, layers={"build": "flush"}).artwork
    area = {layer.key: layer_polygons(layer).area for layer in artwork.layers}
    assert area["#f2c14e"] == pytest.approx(2 * 20 * 28, rel=0.002)

    def edge(y: float) -> float:
        return 96 + 68 * (y - 300) / 420

    red = next(layer for layer in artwork.layers if layer.key == "#c8452f")
    bands = sorted(piece.area for piece in red.pieces)[-2:]
    assert bands == pytest.approx([(edge(a) + edge(b)) / 2 * (b - a) for a, b in ((380, 460), (545, 630))], rel=0.004)


def test_the_flood_is_scikit_images() -> None:
    """On equal terms: the same distances, four neighbours, started from one border pixel of a connected border."""
    rng = np.random.default_rng(4)
    rgba = np.full((60, 70, 4), 255, np.uint8)
    rgba[1:-1, 1:-1, :3] = rng.choice([250, 200], (58, 68, 1), p=[0.6, 0.4])
    white = np.zeros((TERMS, 3))
    white[0, 0] = 1.0
    distances = distance_from_surface(rgba, white, LINEAR_OF_SRGB)
    expected = flood((distances <= 15).astype(np.uint8), (0, 0), connectivity=1)
    assert (flood_from_border(distances, np.uint8(15)) == expected).all()


def test_labels_alone_give_rasterios_areas() -> None:
    rng = np.random.default_rng(9)
    labels = np.kron(rng.integers(0, 4, (12, 12)), np.ones((9, 9))).astype(np.uint8)
    planar = map_of_labels(labels)
    assert_watertight(planar)
    squares = sum(1 for _ in rasterio.features.shapes(labels))
    assert abs(len(planar.face_labels) - squares) <= 40
