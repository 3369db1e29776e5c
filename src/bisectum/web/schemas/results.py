"""What the API says about results."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, Literal

from pydantic import BaseModel

from bisectum.core.formats.svg.write import stroke_data
from bisectum.core.model.artwork import Layer
from bisectum.core.model.finding import Finding, Severity
from bisectum.core.model.ground import CutoutName
from bisectum.core.model.ink_choice import Taste
from bisectum.core.model.kind import Kind, Reason
from bisectum.core.model.piece_map import Reason as Gone
from bisectum.core.model.piece_map import Suggested
from bisectum.core.model.stock import StockKind
from bisectum.core.model.stroke import Role
from bisectum.core.raster.colour import hex_of
from bisectum.core.steps.layers.edge_view import Bar
from bisectum.core.steps.layers.settings import Build
from bisectum.core.steps.layers.thickness import Thickest
from bisectum.services.compute import ItemOutcome, Matrix
from bisectum.services.pieces import PieceList
from bisectum.services.results import Shown


class HoldOut(BaseModel):
    """A colour of an item that a layer is made of, with a place in it: what a record of the layer holds on to."""

    item: str
    colour: str
    x: float
    y: float


class StrokeOut(BaseModel):
    """A stroke of a layer: path is SVG path data in mm on the page."""

    role: Role
    path: str


class LayerOut(BaseModel):
    """A layer as it is drawn: path is SVG path data in mm on the page, windows by the even-odd rule. id: empty as long as
    nothing was said about it; "backing" or "reverse" for what is no colour. stock: the id of what it is cut from, and its
    kind, where that was said. runs_under: names of the layers above that it runs on under."""

    id: str
    key: str
    name: str
    colour: str
    pieces: int
    windows: int
    nodes: int
    area_mm2: float
    holds: list[HoldOut]
    path: str
    strokes: list[StrokeOut]
    stock: str
    kind: StockKind | None
    runs_under: list[str]

    @classmethod
    def of(cls, layer: Layer, path: str) -> LayerOut:
        return cls(
            id=layer.id, key=layer.key, name=layer.name, colour=hex_of(layer.rgb), pieces=len(layer.pieces),
            windows=sum(len(piece.windows) for piece in layer.pieces), nodes=layer.node_count,
            area_mm2=sum(piece.area for piece in layer.pieces), path=path,
            runs_under=list(layer.runs_under), stock=layer.stock.id if layer.stock else "",
            kind=layer.stock.kind if layer.stock else None,
            strokes=[StrokeOut(role=stroke.role, path=stroke_data(stroke)) for stroke in layer.strokes],
            holds=[HoldOut(item=hold.item, colour=hold.colour, x=hold.x, y=hold.y) for hold in layer.holds],
        )


class PictureFacts(BaseModel):
    format: str
    width_px: int
    height_px: int
    dpi: float | None
    mm_per_px: float


class SpotOut(BaseModel):
    """Background shut in by the drawing. at, corners: a place in it and two corners of a box around it, shares of the width
    of the picture that came in."""

    at: tuple[float, float]
    corners: tuple[tuple[float, float], tuple[float, float]]
    area_px: int
    likelihood: float
    taken: bool


class CutoutOut(BaseModel):
    """A way to cut the subject out. image: the name of a small picture of what it leaves."""

    name: CutoutName
    image: str


class BackgroundFacts(BaseModel):
    """kind: how it was told; found: the same before anything was done by hand. runner_up: the mode that is next best.
    outside: touches that lie beside the picture. has_shadow: shadow cast on it went with it.
    one_colour: all that is drawn has one, so what it shuts in goes by itself. cutouts: those that may be chosen; cutout: the
    one that was made."""

    kind: str
    found: str
    has_shadow: bool
    one_colour: bool
    runner_up: str | None
    outside: int
    share: float
    reach: float
    colour: tuple[int, int, int]
    enclosed: list[SpotOut]
    cutouts: list[CutoutOut]
    cutout: CutoutName | None


class PaletteEntry(BaseModel):
    """pieces: connected areas of it. shown: what it is painted with in the image of the colours; no two are the same."""

    key: str
    name: str
    share: float
    small: bool
    pinned: bool
    pieces: int
    shown: tuple[int, int, int]


class ToneFacts(BaseModel):
    """The scale of a photograph's tones. histogram: shares in even steps of lightness; thresholds: L*, rising; colours: of the
    tones, darkest first; bare: whether each is left to the cloth."""

    histogram: list[float]
    thresholds: list[float]
    colours: list[str]
    bare: list[bool]


class SpeckOut(BaseModel):
    """A dark spot that is no writing. at: its middle, radius: about it, shares of the width of the picture that came in."""

    at: tuple[float, float]
    radius: float
    kept: bool


class PageFacts(BaseModel):
    """A page of ink. rules: how many were taken away; pen_mm: the width of its pen at the finished size."""

    rules: int
    pen_mm: float
    specks: list[SpeckOut]


class FaceOut(BaseModel):
    """A face in a photograph. box: its corners; at: a place in it; shares of the width of the picture that came in. dismissed:
    somebody said that it is none."""

    box: tuple[tuple[float, float], tuple[float, float]]
    at: tuple[float, float]
    dismissed: bool


class InkChoiceOut(BaseModel):
    """Inks a photograph could get. taste: what would count more; colours: #rrggbb, the darkest first."""

    taste: Taste
    colours: list[str]


class ColourFacts(BaseModel):
    """kind, reason: what kind of picture it is and by what that was told; page: of a page of ink; faces, choices: of a
    photograph."""

    kind: Kind
    reason: Reason
    page: PageFacts | None
    method: str
    found: int
    absorbed: int
    palette: list[PaletteEntry]
    tones: ToneFacts | None
    faces: list[FaceOut]
    choices: list[InkChoiceOut]


class StrokeFacts(BaseModel):
    """A stroke of a picture, be it left out. read: what it was taken for; outline: it is a part of the outline of a piece. at: a
    place on it, points: along it, shares of the width of the picture that came in."""

    role: Role
    read: Role
    outline: bool
    length_mm: float
    width_mm: float
    at: tuple[float, float]
    points: list[tuple[float, float]]


class LineFacts(BaseModel):
    segments: int
    straight: int
    deviation_mm: float
    repaired: int
    left_out: list[int]
    strokes: list[StrokeFacts]


class SuggestionOut(BaseModel):
    """What might be done. places: one in each piece that it concerns, shares of the width of the picture that came in."""

    kind: Suggested
    places: list[tuple[float, float]]


class PieceFacts(BaseModel):
    """here, gone: how many; kept: small ones that tell; least: area of the smallest piece and window, mm². marks: where rules
    on widths did something, in a preview where they may; bridges: ends of those that a rule made; shares. missed: numbers of
    changes by hand that found nothing."""

    here: int
    gone: int
    kept: int
    least: tuple[float, float]
    marks: list[tuple[float, float]]
    bridges: list[tuple[tuple[float, float], tuple[float, float]]]
    missed: list[int]
    suggestions: list[SuggestionOut]


class Facts(BaseModel):
    picture: PictureFacts
    background: BackgroundFacts
    colours: ColourFacts
    lines: LineFacts
    pieces: PieceFacts


class FindingOut(BaseModel):
    """A remark. item: empty for the make as a whole; at: mm on the page."""

    code: str
    severity: Severity
    item: str
    at: tuple[float, float] | None
    value: float | None
    limit: float | None
    repair: str | None
    details: dict[str, Any]

    @classmethod
    def of(cls, finding: Finding) -> FindingOut:
        return cls(code=finding.code, severity=finding.severity, item=finding.item, at=finding.at, value=finding.value,
                   limit=finding.limit, repair=finding.repair, details=finding.details)


class ItemImages(BaseModel):
    """Names of an item's rasters. picture: of the picture worked on where it is another one than came in, else empty."""

    picture: str
    background: str
    colours: str


class ItemResult(BaseModel):
    """An item in a result. placement: six numbers of a matrix, row by row, from shares of the width of the picture that came in
    to mm on the page; of an item that is no picture from its own mm. raster: from shares of the width of a picture's rasters to
    mm on the page; tall: their height against their width. box: left, top, right and bottom on the page, mm; size: width and
    height before it is turned. images, facts: of a picture. outline: of another item, SVG path data in its own mm. missing:
    the characters that its font lacks; open_lines: how many of its ready lines do not close; sized: whether its file says what
    its numbers are."""

    id: str
    placement: Matrix
    raster: Matrix
    tall: float
    box: tuple[float, float, float, float]
    size: tuple[float, float]
    images: ItemImages | None
    facts: Facts | None
    outline: str
    colour: str
    missing: str
    open_lines: int
    sized: bool

    @classmethod
    def of(cls, item: ItemOutcome) -> ItemResult:
        return cls(id=item.id, placement=item.placement, raster=item.raster, tall=item.tall, box=item.box, size=item.size,
                   images=ItemImages(**{"picture": ""} | item.images) if item.images else None,
                   facts=Facts.model_validate(item.facts) if item.facts else None, outline=item.outline, colour=item.colour,
                   missing=item.missing, open_lines=item.open_lines, sized=item.sized)


class ThickestOut(BaseModel):
    """Where most films lie over each other: how many, whether that is hard to press or to bend, and where, mm on the page."""

    films: int
    many: bool
    at: tuple[float, float]
    area_mm2: float

    @classmethod
    def of(cls, thickest: Thickest) -> ThickestOut:
        return cls(films=thickest.films, many=thickest.is_many, at=thickest.at, area_mm2=thickest.area)


class ResultOut(BaseModel):
    """A result for the stage. key: names it and its edge view. origin: the page's upper left corner on the table, mm.
    thickest: of a full result. cloth: what it is for, empty where nothing was said."""

    key: str
    preview: bool
    width_mm: float
    height_mm: float
    origin: tuple[float, float]
    cut_length_mm: float
    build: Build
    layers: list[LayerOut]
    items: list[ItemResult]
    findings: list[FindingOut]
    thickest: ThickestOut | None
    cloth: str

    @classmethod
    def of(cls, shown: Shown) -> ResultOut:
        artwork, thickest = shown.outcome.artwork, shown.outcome.thickest
        return cls(
            key=shown.key, preview=shown.preview, width_mm=artwork.width, height_mm=artwork.height,
            origin=shown.outcome.origin,
            cut_length_mm=artwork.cut_length, build=artwork.build,
            layers=[LayerOut.of(layer, path) for layer, path in zip(artwork.layers, shown.paths, strict=True)],
            items=[ItemResult.of(item) for item in shown.outcome.items],
            findings=[FindingOut.of(finding) for finding in shown.outcome.findings], cloth=artwork.cloth,
            thickest=ThickestOut.of(thickest) if thickest else None,
        )


class PieceOut(BaseModel):
    """A piece, or a window where it has no colour. area: shares squared; at: shares of the width of the picture that came in;
    box, path: mm of the picture's map. word, line: of writing, -1 for none. reason: why it is gone, empty while it is there."""

    colour: str
    area_mm2: float
    area: float
    at: tuple[float, float]
    box: tuple[float, float, float, float]
    path: str
    widest_mm: float
    least_mm: float
    reason: Gone | Literal[""]
    change: int
    kept: bool
    stands_out: bool
    word: int
    line: int


class PiecesOut(BaseModel):
    """width: of the picture's map, mm; scale: mm of the finished size to one of it."""

    width: float
    scale: float
    rows: list[PieceOut]

    @classmethod
    def of(cls, pieces: PieceList) -> PiecesOut:
        return cls(width=pieces.width, scale=pieces.scale, rows=[PieceOut.model_validate(asdict(row)) for row in pieces.rows])


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
