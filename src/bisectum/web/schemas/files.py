"""What the API says about files that leave the house, and about sheets that were cut."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from bisectum.services.cut import DrawnCut
from bisectum.stand_ins.cutter.cutter import MoveKind
from bisectum.stand_ins.cutter.freed import AreaKind


class LeftOut(BaseModel):
    """A file that was taken along. unchanged: the job is still as it was."""

    name: str
    at: datetime
    unchanged: bool


class MoveOut(BaseModel):
    """Where the blade went: points are x, y, x, y ..., mm on the sheet; start, end: s."""

    kind: MoveKind
    points: list[float]
    start: float
    end: float


class FreedOut(BaseModel):
    """What comes free: path is SVG path data, mm on the sheet."""

    kind: AreaKind
    path: str
    area_mm2: float


class DifferenceOut(BaseModel):
    """at: mm on the sheet; by: mm of an edge that lies elsewhere, mm² of a piece that is not free or was not meant."""

    code: Literal["not_free", "not_meant", "off"]
    at: tuple[float, float]
    by: float


class CutOut(BaseModel):
    """A sheet that was cut. farthest: how far edges lie off what was meant at most, mm; print_mm: how far off the print it is
    cut at most, where the sheet has register marks."""

    width: float
    height: float
    colour: str
    moves: list[MoveOut]
    areas: list[FreedOut]
    seconds: float
    cut_mm: float
    travel_mm: float
    differences: list[DifferenceOut]
    farthest: float
    print_mm: float | None

    @classmethod
    def of(cls, done: DrawnCut) -> CutOut:
        return cls(
            width=done.width, height=done.height, colour=done.colour, seconds=done.seconds, cut_mm=done.cut_mm,
            travel_mm=done.travel_mm, farthest=done.farthest, print_mm=done.print_mm,
            moves=[MoveOut(kind=move.kind, points=list(move.points), start=move.start, end=move.end) for move in done.moves],
            areas=[FreedOut(kind=kind, path=path, area_mm2=area) for kind, path, area in done.areas],
            differences=[DifferenceOut.model_validate({"code": one.code, "at": one.at, "by": one.by})
                         for one in done.differences])
