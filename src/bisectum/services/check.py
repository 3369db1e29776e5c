"""The cut check of a job, in the computing process."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from bisectum.core.check import CutCheck, check_make
from bisectum.core.errors import InputError
from bisectum.core.formats.ready.read import lines_in
from bisectum.core.model.finding import Finding
from bisectum.core.model.stock import StockKind
from bisectum.core.model.work import work_of
from bisectum.core.progress import Progress
from bisectum.core.steps.check.of_file import artwork_of, flaws_of_lines
from bisectum.core.steps.check.settings import CheckSettings
from bisectum.core.steps.check.step import check_artwork
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


def check_file(data: bytes, kind: StockKind) -> dict[str, Any]:
    """What is to be looked at of a vector file. Raises: InputError."""
    lines = lines_in(data)
    if not lines.paths:
        raise InputError("There are no lines in this file that could be checked.", code="lines_empty")
    artwork, settings = artwork_of(lines), CheckSettings()
    found = [*flaws_of_lines(artwork), *check_artwork(artwork, lambda _: kind, settings)]
    work = work_of(artwork)
    return {
        "size_mm": {"width": round(artwork.width, 3), "height": round(artwork.height, 3)}, "sized": lines.sized,
        "material": kind, "limits": settings.of(kind).model_dump(exclude={"kind"}),
        "findings": [_row(flaw.finding) for flaw in found],
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
    unit = "" if report["sized"] else " (the file does not say its unit: mm was taken)"
    rows.append(f"{size['width']:g} × {size['height']:g} mm{unit}; {work['pieces']} pieces, {work['windows']} windows, "
                f"{work['cut_mm'] / 1000:.2f} m to cut in about {work['cut_s'] / 60:.1f} min, "
                f"{work['weed_s'] / 60:.1f} min to weed.")
    return "\n".join(rows)
