"""The cut check of a job, in the computing process."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from bisectum.core.check import CutCheck, check_make
from bisectum.core.errors import InputError
from bisectum.core.formats.ready.read import lines_in
from bisectum.core.model.finding import Finding
from bisectum.core.model.sheet import Area
from bisectum.core.model.stock import StockKind
from bisectum.core.model.work import work_of
from bisectum.core.progress import Progress
from bisectum.core.steps.check.of_file import check_lines
from bisectum.core.steps.check.settings import CheckSettings
from bisectum.core.steps.sheets.carriers import carrier_named
from bisectum.services.compute import information, sound_make
from bisectum.services.marks import SentDocument
from bisectum.services.report import findings_of_item
from bisectum.services.sheets import desk_of

TOLD = ("few_pixels",)  # what the check says again of what was said of a picture


def checked(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, layouts: Path, progress: Progress
) -> CutCheck:
    """Raises: as compute.run; BrokenStructure where the make is broken."""
    document = sent.open()
    result = sound_make(paths, fonts, document, progress)
    told = [finding for item in document.pictures if item.id in result.courses and not item.hidden
            for finding in findings_of_item(item.id, result.courses[item.id], information(paths[item.source]))
            if finding.code in TOLD]
    return check_make(document, result, desk_of(document, result, layouts), told, progress)


def check_file(data: bytes, kind: StockKind, mat: str | None = None) -> dict[str, Any]:
    """What is to be looked at of a vector file. mat: what it is cut on. Raises: InputError; SettingsError where there is no such
    mat."""
    carrier = carrier_named(mat) if mat is not None else None
    room = Area(0.0, 0.0, carrier.usable_width_mm, carrier.usable_height_mm) if carrier is not None else None
    lines = lines_in(data)
    if not lines.paths:
        raise InputError("There are no lines in this file that could be checked.", code="lines_empty")
    settings = CheckSettings()
    checked = check_lines(lines, kind, settings, room)
    work = work_of(checked.artwork)
    return {
        "size_mm": {"width": round(checked.artwork.width, 3), "height": round(checked.artwork.height, 3)},
        "sized": lines.sized, "has_page": lines.page is not None, "material": kind,
        "limits": settings.of(kind).model_dump(exclude={"kind"}),
        "findings": [_row(flaw.finding) for flaw in checked.flaws],
        "work": {"pieces": work.pieces, "windows": work.windows, "nodes": work.nodes, "cut_mm": round(work.cut_mm, 1),
                 "cut_s": round(work.cut_s, 1), "weed_s": round(work.weed_s, 1)},
    }


def _row(finding: Finding) -> dict[str, Any]:
    return {"code": finding.code, "severity": finding.severity, "value": finding.value, "limit": finding.limit,
            "at_mm": [round(place, 3) for place in finding.at] if finding.at else None, **finding.details}


def sentences_of(report: dict[str, Any]) -> str:
    """A report for people: a line for each finding, the gravest first, then the work."""
    rows = []
    for row in report["findings"]:
        told = f": {row['value']:g}" if row["value"] is not None else ""
        told += f", the limit is {row['limit']:g}" if row["limit"] is not None else ""
        where = f" at {row['at_mm'][0]:.1f}, {row['at_mm'][1]:.1f} mm" if row["at_mm"] else ""
        rows.append(f"{row['severity']}  {row['code'].replace('_', ' ')} in “{row.get('layer', 'all')}”{told}{where}")
    work, size = report["work"], report["size_mm"]
    rows += [] if report["findings"] else ["Nothing to look at."]
    unit = "" if report["sized"] else " (the file does not say its unit)"
    what = "The page is" if report["has_page"] else "The lines are"
    rows.append(f"{what} {size['width']:g} × {size['height']:g} mm{unit}; {work['pieces']} pieces, {work['windows']} windows, "
                f"{work['cut_mm'] / 1000:.2f} m to cut in about {work['cut_s'] / 60:.1f} min, "
                f"{work['weed_s'] / 60:.1f} min to weed.")
    return "\n".join(rows)
