"""What the API says about results."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from bisectum.core.formats.svg.write import path_data
from bisectum.core.model.artwork import Layer
from bisectum.core.raster.colour import hex_of
from bisectum.core.steps.layers.edge_view import Bar
from bisectum.services.bench import Shown


class LayerOut(BaseModel):
    """A layer as it is drawn: path is SVG path data in mm on the page, windows by the even-odd rule."""

    key: str
    name: str
    colour: str
    pieces: int
    windows: int
    nodes: int
    area_mm2: float
    path: str

    @classmethod
    def of(cls, layer: Layer) -> LayerOut:
        return cls(
            key=layer.key, name=layer.name, colour=hex_of(layer.rgb), pieces=len(layer.pieces),
            windows=sum(len(piece.windows) for piece in layer.pieces), nodes=layer.node_count,
            area_mm2=sum(piece.area for piece in layer.pieces), path=path_data(layer),
        )


class PictureFacts(BaseModel):
    """image: names the picture worked on where it is another one than came in, else empty."""

    format: str
    width_px: int
    height_px: int
    dpi: float | None
    mm_per_px: float
    image: str


class SpotOut(BaseModel):
    """Background shut in by the drawing. at, corners: a place in it and two corners of a box around it, shares of the width
    of the picture that came in."""

    at: tuple[float, float]
    corners: tuple[tuple[float, float], tuple[float, float]]
    area_px: int
    likelihood: float
    taken: bool


class BackgroundFacts(BaseModel):
    """kind: how it was told; found: the same before anything was done by hand. runner_up: the mode that is next best.
    outside: touches that lie beside the picture. has_shadow: shadow cast on it went with it."""

    kind: str
    found: str
    has_shadow: bool
    runner_up: str | None
    outside: int
    share: float
    reach: float
    colour: tuple[int, int, int]
    enclosed: list[SpotOut]


class PaletteEntry(BaseModel):
    """pieces: connected areas of it. shown: what it is painted with in the image of the colours; no two are the same."""

    key: str
    name: str
    share: float
    small: bool
    pinned: bool
    pieces: int
    shown: tuple[int, int, int]


class ColourFacts(BaseModel):
    method: str
    found: int
    absorbed: int
    palette: list[PaletteEntry]


class LineFacts(BaseModel):
    segments: int
    straight: int
    deviation_mm: float
    cut_length_mm: float
    repaired: int
    left_out: list[int]


class Facts(BaseModel):
    picture: PictureFacts
    background: BackgroundFacts
    colours: ColourFacts
    lines: LineFacts


class NoteOut(BaseModel):
    code: str
    values: dict[str, Any]


class ResultOut(BaseModel):
    """A result for the stage. key: names its images and its edge view. placement: six numbers of a matrix, row by row, from
    shares of the width of the picture that came in to mm on the page."""

    key: str
    preview: bool
    width_mm: float
    height_mm: float
    picture_x_mm: float
    picture_y_mm: float
    picture_width_mm: float
    picture_height_mm: float
    placement: tuple[float, float, float, float, float, float]
    build: str
    layers: list[LayerOut]
    facts: Facts
    notes: list[NoteOut]

    @classmethod
    def of(cls, shown: Shown) -> ResultOut:
        artwork = shown.outcome.artwork
        return cls(
            key=shown.key, preview=shown.preview, width_mm=artwork.width, height_mm=artwork.height,
            picture_x_mm=artwork.picture_x, picture_y_mm=artwork.picture_y,
            picture_width_mm=artwork.picture_width, picture_height_mm=artwork.picture_height,
            placement=shown.outcome.placement, build=artwork.build,
            layers=[LayerOut.of(layer) for layer in artwork.layers], facts=Facts.model_validate(shown.outcome.facts),
            notes=[NoteOut(code=code, values=values) for code, values in shown.outcome.notes],
        )


class Dropped(BaseModel):
    colour: str | None


class BarOut(BaseModel):
    """A stretch of a layer under the seam, mm along it, lying on `below` films."""

    layer: int
    start: float
    stop: float
    below: int

    @classmethod
    def of(cls, bar: Bar) -> BarOut:
        return cls(layer=bar.layer, start=bar.start, stop=bar.stop, below=bar.below)
