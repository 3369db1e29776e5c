"""A picture file to a plain SVG in one go, with a report: what the command line does."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator, MutableMapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from bisectum.core.course import CourseSettings
from bisectum.core.errors import SettingsError
from bisectum.core.formats.exporters import exporter
from bisectum.core.formats.selection import selected
from bisectum.core.job import LONGEST_NAME, MakeSettings, new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.model.stock import Stock
from bisectum.core.steps.check.settings import CheckSettings
from bisectum.core.steps.sheets.step import Desk, lay_out
from bisectum.services.decode import PictureInfo, decode
from bisectum.services.export import Wanted
from bisectum.services.export import written as file_of
from bisectum.services.nester import nest
from bisectum.services.palette import stock_row
from bisectum.services.report import findings_of_item, findings_of_make
from bisectum.services.sheets import all_written, rows_of


@dataclass(frozen=True, slots=True)
class Traced:
    """data: the file; beside: name and bytes of one for each sheet or layer, where they were asked for. trouble: why there are no
    files for the sheets, though they were asked for."""

    data: bytes
    report: dict[str, Any]
    beside: tuple[tuple[str, bytes], ...] = ()
    trouble: SettingsError | None = None


class _TimedCache(MutableMapping[str, Any]):
    """Keeps results and the moments they came in: the end of every step, and of every part of one that is kept."""

    def __init__(self) -> None:
        self.results: dict[str, Any] = {}
        self.moments: list[float] = []

    def __setitem__(self, key: str, value: Any) -> None:
        self.results[key] = value
        if "/" not in key:  # no partial result that a step keeps for itself
            self.moments.append(time.perf_counter())

    def __getitem__(self, key: str) -> Any:
        return self.results[key]

    def __delitem__(self, key: str) -> None:
        del self.results[key]

    def __iter__(self) -> Iterator[str]:
        return iter(self.results)

    def __len__(self) -> int:
        return len(self.results)


def trace(
    data: bytes, title: str, settings: CourseSettings, make: MakeSettings, stocks: Sequence[Stock] = (), on_sheets: bool = False,
    wanted: Wanted | None = None, is_mirrored: bool = False, stem: str = "",
) -> Traced:
    """on_sheets: lay it out, too; wanted: which file, and whether one for each layer goes beside it; a plain SVG where not given.
    is_mirrored: the file and those of layers, left for right; what sheets are is said in `make`.
    stem: what files beside it are called by; the title where not given.

    Raises: PictureError, SettingsError, InputError, ComputationError, BrokenStructure.
    """
    wanted = wanted or Wanted("svg")
    began = time.perf_counter()
    source, info = decode(data)
    decoded = time.perf_counter()
    cache = _TimedCache()
    name = (stem or title)[:LONGEST_NAME].strip() or "picture"
    document = new_document(source.digest, "", name, settings, make)
    result = run_make({source.digest: source}, document, cache)
    result.arrangement.check()
    result.artwork.check()
    artwork = result.artwork.mirrored() if is_mirrored else result.artwork
    chosen, drawing = exporter(wanted.kind), selected(artwork, wanted.selection)
    file = chosen.write(drawing, title, wanted.wishes)
    written = time.perf_counter()
    chosen.verify(file, drawing, wanted.wishes)
    checked = time.perf_counter()
    seconds = {"decode": decoded - began}
    for step, start, stop in zip(result.finished, [decoded, *cache.moments[:-1]], cache.moments, strict=True):
        seconds[step] = seconds.get(step, 0.0) + stop - start
    seconds |= {"write": written - cache.moments[-1], "read_back": checked - written}
    report = _report(result, info, seconds, stocks)
    beside = tuple(file_of(document, artwork, wanted, replace(wanted.selection, layers=(number,)))
                   for number in range(len(artwork.layers))) if wanted.per == "layer" else ()
    if not on_sheets:
        return Traced(file, report, beside)
    desk = Desk(make.sheets, make.layers.material, nest, {})
    plan = lay_out(result.artwork, desk)
    report["sheets"] = rows_of(plan)
    report["warnings"] += [finding.code for finding in plan.artwork.findings]
    try:
        return Traced(file, report, (*beside, *all_written(plan, wanted.kind, name, wanted.selection)))
    except SettingsError as trouble:  # it is larger than the mat, say: the file itself is none the worse for it
        return Traced(file, report, beside, trouble)


def _report(made: MakeResult, info: PictureInfo, seconds: dict[str, float], stocks: Sequence[Stock]) -> dict[str, Any]:
    artwork = made.artwork
    (item, result), = made.courses.items()
    planar, scale = result.planar_map, float(made.arrangement.frame(item).matrix[0, 0])
    return {
        "picture": {"format": info.format, "width_px": info.width, "height_px": info.height, "dpi": info.dpi},
        "size_mm": {"width": round(artwork.width, 3), "height": round(artwork.height, 3)},
        "mm_per_px": result.label_map.mm_per_px * scale,
        "background": {
            "kind": result.ground.kind, "share": round(result.ground.share, 6), "reach": round(100 * result.ground.reach, 2),
            "shadow": result.ground.has_shadow,
            "enclosed": len(result.ground.enclosed), "enclosed_taken": sum(spot.taken for spot in result.ground.enclosed),
        },
        "palette": [
            {"colour": colour.key, "share": round(colour.share, 6), "small": colour.small, "pinned": colour.pinned,
             **stock_row(colour, stocks)}
            for colour in result.label_map.palette.colours
        ],
        "layers": [
            {
                "name": layer.name, "colour": layer.key, "pieces": len(layer.pieces),
                "windows": sum(len(piece.windows) for piece in layer.pieces), "nodes": layer.node_count,
                "area_mm2": round(sum(piece.area for piece in layer.pieces), 3), "runs_under": list(layer.runs_under),
            }
            for layer in artwork.layers
        ],
        "build": artwork.build,
        "pieces": artwork.piece_count,
        "nodes": artwork.node_count,
        "cut_length_mm": round(artwork.cut_length, 1),
        "closest_mm": round(planar.deviation * scale, 4),
        "noise_absorbed": result.label_map.absorbed,
        "gone": dict(Counter(one.reason for one in result.pieces.gone)),
        "small_kept": len(result.pieces.kept),
        "bridges": len(result.pieces.bridges),
        "strokes": dict(Counter(stroke.role for layer in artwork.layers for stroke in layer.strokes)),
        "kind": result.label_map.told.kind, "kind_by": result.label_map.told.reason,
        "too_fine": artwork.too_fine,
        "warnings": [finding.code for finding in (*findings_of_item(item, result, info),
                                                  *findings_of_make(made, CheckSettings().evening_min))],
        "seconds": {name: round(value, 4) for name, value in seconds.items()},
    }
