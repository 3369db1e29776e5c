"""What the API says about sheets."""

from __future__ import annotations

from dataclasses import asdict

from pydantic import BaseModel

from bisectum.core.model.stock import StockKind
from bisectum.core.raster.colour import hex_of
from bisectum.services.compute import Matrix
from bisectum.services.sheets import DrawnPart, DrawnPlan
from bisectum.web.schemas.results import FindingOut, StrokeOut


class PartOut(BaseModel):
    """What stays together, once for all its copies. path, lines: SVG path data in mm on the page, of its pieces and its
    strokes; at: a place in it, shares of the page's width."""

    layer: int
    at: tuple[float, float]
    path: str
    lines: list[StrokeOut]


def _part(part: DrawnPart) -> PartOut:
    lines = [StrokeOut(role=role, path=path) for role, path in part.lines]
    return PartOut(layer=part.layer, at=part.at, path=part.path, lines=lines)


class LaidOut(BaseModel):
    """A copy of a part on a sheet. matrix: six numbers, row by row, from mm on the page to mm on the carrier."""

    part: int
    copy_number: int
    matrix: Matrix
    turn: float
    by_hand: bool


class SheetOut(BaseModel):
    """A sheet as it lies before it is mirrored. usable: left, top, width and height, mm. tile: the part of a make that was
    split, -1 for a whole one; number: among the sheets of its stock. clashes: numbers of places that overlap others or leave
    the usable area."""

    carrier: str
    width: float
    height: float
    usable: tuple[float, float, float, float]
    stock: str
    stock_id: str
    kind: StockKind
    colour: str
    layers: list[int]
    places: list[LaidOut]
    mirrored: bool
    marks: str
    waste: str
    tile: int
    number: int
    clashes: list[int]


class UsedOut(BaseModel):
    """What a stock takes. length_mm: of a roll; waste: share of what is taken that is no piece."""

    stock: str
    stock_id: str
    kind: StockKind
    colour: str
    sheets: int
    area_mm2: float
    taken_mm2: float
    length_mm: float
    waste: float


class SheetLayer(BaseModel):
    """A layer on sheets. told: how places by hand tell it."""

    name: str
    colour: str
    told: str


class SheetsOut(BaseModel):
    """All sheets of a make. left_over: how many parts no sheet could take; cloth: what it is for, empty where nothing was
    said."""

    layers: list[SheetLayer]
    page_width: float
    parts: list[PartOut]
    sheets: list[SheetOut]
    used: list[UsedOut]
    findings: list[FindingOut]
    left_over: int
    cloth: str

    @classmethod
    def of(cls, plan: DrawnPlan) -> SheetsOut:
        sheets = []
        for sheet in plan.sheets:
            fields = asdict(sheet)
            fields["places"] = [{"copy_number": place.pop("copy"), **place} for place in fields["places"]]
            sheets.append(SheetOut.model_validate(fields))
        used = [UsedOut(stock=one.stock, stock_id=one.stock_id, kind=one.kind, colour=hex_of(one.rgb), sheets=one.sheets,
                        area_mm2=one.area_mm2, taken_mm2=one.taken_mm2, length_mm=one.length_mm, waste=one.waste)
                for one in plan.used]
        return cls(layers=[SheetLayer(name=name, colour=colour, told=told) for name, colour, told in plan.layers],
                   page_width=plan.page_width, parts=[_part(part) for part in plan.parts], sheets=sheets,
                   used=used, findings=[FindingOut.of(finding) for finding in plan.findings], left_over=plan.left_over,
                   cloth=plan.cloth)
