"""Sheets that the stand-in cutter has cut: of a job for the screen, and of any file for the command line."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from bisectum.core.errors import NotFoundError
from bisectum.core.geom.bezier import flatten
from bisectum.core.geom.path import Path as Course
from bisectum.core.model.shapes_of import polygon_of
from bisectum.core.model.sheet import SheetPlan
from bisectum.core.model.stock import StockKind
from bisectum.core.progress import Part, Progress
from bisectum.services.marks import SentDocument
from bisectum.services.sheets import planned, written
from bisectum.stand_ins.cutter.compare import Difference, differences
from bisectum.stand_ins.cutter.cutter import CutSheet, MoveKind, cut
from bisectum.stand_ins.cutter.freed import AreaKind
from bisectum.stand_ins.cutter.machine import MACHINES
from bisectum.stand_ins.cutter.marks import lies_at
from bisectum.stand_ins.printer.printer import Printed, printed

MEANT_MM = 0.001


@dataclass(frozen=True, slots=True)
class DrawnMove:
    """points: x, y, x, y ..., mm on the sheet."""

    kind: MoveKind
    points: tuple[float, ...]
    start: float
    end: float


@dataclass(frozen=True, slots=True)
class DrawnCut:
    """A sheet that was cut, for the screen. areas: kind, SVG path data and mm² of what comes free; colour: of the stock.
    farthest: how far edges lie off what was meant, mm. print_mm: how far off the print it is cut at most, along the edge of the
    artwork, where it has register marks."""

    width: float
    height: float
    colour: str
    moves: tuple[DrawnMove, ...]
    areas: tuple[tuple[AreaKind, str, float], ...]
    seconds: float
    cut_mm: float
    travel_mm: float
    differences: tuple[Difference, ...]
    farthest: float
    print_mm: float | None


def cut_sheet(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, layouts: Path, number: int, progress: Progress
) -> DrawnCut:
    """One sheet of a job: its file is written, and cut. Raises: as sheets.sheet_file."""
    plan = planned(paths, fonts, sent, layouts, Part(progress, 0.0, 0.5))
    if not 0 <= number < len(plan.sheets):
        raise NotFoundError("There is no such sheet any more; look at the sheets anew.", code="sheet_missing")
    _, data = written(plan, number, "svg", "sheet")
    sheet, drawing = plan.sheets[number], plan.drawn(number)
    done = cut(data, MACHINES[sheet.kind], drawing.height, Part(progress, 0.5, 1.0))
    meant = [polygon_of(piece, MEANT_MM) for layer in drawing.layers for piece in layer.pieces]
    found, farthest = differences(done.freed, meant)
    moves = tuple(DrawnMove(move.kind, tuple(np.round(move.points, 2).ravel().tolist()), round(move.start, 3),
                            round(move.end, 3)) for move in done.moves)
    areas = tuple((one.kind, _data_of(one.shape), round(one.shape.area, 3)) for one in done.freed)
    r, g, b = sheet.rgb
    return DrawnCut(drawing.width, drawing.height, f"#{r:02x}{g:02x}{b:02x}", moves, areas, done.seconds, done.cut_mm,
                    done.travel_mm, tuple(found), farthest, _off_the_print(plan, number, meant))


def _off_the_print(plan: SheetPlan, number: int, meant: list[shapely.Geometry]) -> float | None:
    """How far off the print a sheet with register marks is cut at most, mm; None for one without."""
    sheet = plan.sheets[number]
    marks = [_points(path.placed(sheet.flip)) for path in sheet.marks]
    if not marks or not meant:
        return None
    paper = printed(marks, sheet.width, sheet.height)
    return off_the_print(paper, marks, shapely.get_coordinates([piece.convex_hull for piece in meant]))


def off_the_print(paper: Printed, marks: list[NDArray[np.float64]], places: NDArray[np.float64]) -> float:
    """How far off the print places : (N, 2) of a sheet are cut at most, mm. Raises: InputError where marks are not found."""
    found = lies_at(paper, marks)
    away = places @ (found - paper.matrix)[:, :2].T + (found - paper.matrix)[:, 2]
    return float(np.hypot(*away.T).max())


def _points(path: Course) -> NDArray[np.float64]:
    points = flatten(path.segments, 0.01)
    return np.concatenate([points, path.segments[-1:, 3]])


def _data_of(shape: shapely.Polygon) -> str:
    parts = []
    for ring in (shape.exterior, *shape.interiors):
        places = np.round(shapely.get_coordinates(shapely.simplify(ring, 0.01)), 2).tolist()
        parts.append("M" + "L".join(f"{x:g},{y:g}" for x, y in places[:-1]) + "Z")
    return "".join(parts)


def cut_file(data: bytes, kind: StockKind, progress: Progress) -> tuple[CutSheet, dict[str, Any]]:
    """Any file, cut, and a report of it. Raises: InputError."""
    done = cut(data, MACHINES[kind], None, progress)
    areas = [{"kind": one.kind, "area_mm2": round(one.shape.area, 3), "windows": len(one.shape.interiors)} for one in done.freed]
    return done, {
        "material": kind, "seconds": round(done.seconds, 1), "cut_mm": round(done.cut_mm, 1),
        "travel_mm": round(done.travel_mm, 1), "pieces": len(done.pieces), "waste": len(done.freed) - len(done.pieces),
        "areas": areas,
    }
